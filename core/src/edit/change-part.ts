import { inBlocks } from '../maths';
import { FIRST_NOTE_EARLY, findPart, type Content, type Note, type Part, type PartEvent, type Song } from '../song';
import type { Building } from './building';
import type { SimpleEdit } from './edit';
import { spanProblem } from './fit';

/**
 * Adds to a step what gives a part other notes and events. Only what differs is in it, so that what undo keeps is in
 * proportion to the change; the part grows where a note that comes in begins outside of it. Without room it is refused.
 */
export function changePart(building: Building, partId: string, to: Content, name: string): Building {
  const found = findPart(building.song, partId);
  if (!found) return building.refuse(`The song has no part ${partId} any more.`);
  const { part, track } = found;
  const was = new Set(part.notes);
  const is = new Set(to.notes);
  const add = to.notes.filter((n) => !was.has(n));
  const remove = part.notes.filter((n) => !is.has(n)).map((n) => n.id);
  const wide = spanWith(part, add);
  if (wide) {
    building.add({ kind: 'part-span', name, part: part.id, ...wide });
    const wrong = hasRoom(building.song, part.id, wide) ? null : spanProblem(track, { ...part, ...wide });
    if (wrong) return building.refuse(wrong);
  }
  if (add.length + remove.length > 0) building.add({ kind: 'notes', name, part: part.id, remove, add });
  const events = eventsEdit(name, part, to.events);
  if (events) building.add(events);
  return building;
}

/** Whether a part that grew takes in what it was to; a first note that is a hair early may lie before it. */
function hasRoom(song: Song, partId: string, { start, end }: Pick<Part, 'start' | 'end'>): boolean {
  const part = findPart(song, partId)?.part;
  return part !== undefined && end <= part.end && start >= part.start - FIRST_NOTE_EARLY * song.ppq;
}

/** What a part has to take in for notes that come into it; null where it has room for them. */
export function spanWith(part: Part, added: readonly Note[]): { start: number; end: number; grows: true } | null {
  const outside: Note[] = [];
  const { start: first, end: behind } = part;
  // A loop: all notes of a long part are asked about at every step of a drag.
  inBlocks(added.length, (from, to) => {
    for (let i = from; i < to; i++) if (added[i].start < first || added[i].start >= behind) outside.push(added[i]);
  });
  if (outside.length === 0) return null;
  const known = new Map(part.notes.map((n) => [n.id, n.start]));
  // A note that was outside before, such as a first one a hair early, may stay so.
  const fresh = outside.filter((n) => known.get(n.id) !== n.start);
  if (fresh.length === 0) return null;
  const start = fresh.reduce((least, n) => Math.min(least, n.start), part.start);
  const end = fresh.reduce((most, n) => Math.max(most, n.start + 1), part.end);
  return { start, end, grows: true };
}

/** The edit that gives a part other events, told by which go and which come; null where they are the same. */
export function eventsEdit(name: string, part: Part, to: readonly PartEvent[]): SimpleEdit | null {
  const is = new Set(to);
  const was = new Set(part.events);
  const stay = part.events.filter((e) => is.has(e));
  let next = 0;
  // Events that stay keep their order among each other, or all of them are named.
  const inOrder = to.every((e) => !was.has(e) || stay[next++] === e);
  const remove = part.events.flatMap((e, i) => (inOrder && is.has(e) ? [] : [i]));
  const add = to.flatMap((event, at) => (inOrder && was.has(event) ? [] : [{ at, event }]));
  return remove.length + add.length === 0 ? null : { kind: 'events', name, part: part.id, remove, add };
}
