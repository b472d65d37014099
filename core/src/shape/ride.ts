import { eventsEdit, type SimpleEdit } from '../edit';
import type { Part, PartEvent, Track } from '../song';
import type { Ticks } from '../time';
import { ridesOf } from '../treatment';
import type { PartChange } from './part-change';

/** Something that belongs to a note, in ticks from its start. */
export interface Ridden {
  readonly at: Ticks;
  readonly event: PartEvent;
}

/**
 * The edit by which bend, pressure and controller 74 of single notes go where their notes go, and with those that are
 * erased; null where nothing of that is there.
 */
export function rideAlong(name: string, track: Track, part: Part, change: PartChange): SimpleEdit | null {
  if (part.events.length === 0) return null;
  const owners = ridesOf(part, track.setup)?.owner;
  if (!owners) return null;
  const { changed = [], add = [], remove = [] } = change;
  const stay = new Set([...changed, ...add].map((n) => n.id));
  const gone = new Set(remove.filter((id) => !stay.has(id)));
  const starts = new Map(changed.map((n) => [n.id, n.start]));
  let touched = false;
  const events = part.events.flatMap((event, i): PartEvent[] => {
    const note = owners[i] < 0 ? undefined : part.notes[owners[i]];
    if (!note) return [event];
    if (gone.has(note.id)) {
      touched = true;
      return [];
    }
    const by = (starts.get(note.id) ?? note.start) - note.start;
    if (by === 0) return [event];
    touched = true;
    return [moved(event, Math.max(0, event.tick + by))];
  });
  if (!touched) return null;
  return eventsEdit(
    name,
    part,
    events.sort((a, b) => a.tick - b.tick),
  );
}

/** What belongs to each of some notes of a part, by the note's id; empty for a part that was not played note by note. */
export function riddenBy(track: Pick<Track, 'setup'>, part: Part): ReadonlyMap<number, readonly Ridden[]> {
  const ridden = new Map<number, Ridden[]>();
  ridesOf(part, track.setup)?.owner.forEach((owner, i) => {
    if (owner < 0) return;
    const [{ id, start }, event] = [part.notes[owner], part.events[i]];
    const list = ridden.get(id);
    if (list) list.push({ at: event.tick - start, event });
    else ridden.set(id, [{ at: event.tick - start, event }]);
  });
  return ridden;
}

/** An event somewhere else: it remembers where it was recorded. */
function moved(event: PartEvent, tick: Ticks): PartEvent {
  const { order, ...rest } = event;
  const take = event.take ?? { tick: event.tick, ...(order === undefined ? {} : { order }) };
  return { ...rest, tick, take } as PartEvent;
}

/** An event that came about by copying: it stands nowhere in a file and was never recorded there. */
export function copied({ at, event }: Ridden, start: Ticks): PartEvent {
  const { order: _order, take: _take, fixed: _fixed, ...rest } = event;
  return { ...rest, tick: Math.max(0, Math.round(start + at)) } as PartEvent;
}
