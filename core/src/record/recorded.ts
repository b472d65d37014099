import type { Edit } from '../edit';
import {
  newPart,
  newTrack,
  type Note,
  type Part,
  type PartEvent,
  type Song,
  type TakeRound,
  type Track,
  type Treatment,
} from '../song';
import type { Ticks } from '../time';
import type { PlayedNote, Round } from './collect';

/** Where a recording goes. */
export interface Recording {
  /** One that is not in the song yet is added to it. */
  readonly track: Track;
  /** A part that it goes into; null for a part of its own. */
  readonly into: Part | null;
  /** What was there between these ticks goes; null: it is added to. */
  readonly replace: { readonly from: Ticks; readonly to: Ticks } | null;
  /** The treatment that a part of its own begins with. */
  readonly treatment: Treatment | null;
  /** Of the step, as people read it. */
  readonly name: string;
  /** Bar lines around what was played: a new part is whole bars. */
  readonly from: Ticks;
  readonly to: Ticks;
}

/**
 * The edit that puts what was played into a song: one step, whatever was recorded. Several rounds become takes of a
 * new part, of which the last is chosen. Null where nothing was played.
 */
export function recordedEdit(song: Song, rounds: readonly Round[], to: Recording): Edit | null {
  const played = rounds.filter((r) => r.notes.length + r.events.length > 0);
  if (played.length === 0) return null;
  let nextId = song.nextId;
  const withIds = (notes: readonly PlayedNote[]): Note[] => notes.map((n) => ({ ...n, id: nextId++ }));
  const isNew = !song.tracks.some((t) => t.id === to.track.id);
  if (isNew) nextId++;
  const whole = { kind: 'parts', name: to.name, track: to.track.id } as const;
  if (to.into) {
    // Rounds over a part that is there are played into it together.
    const notes = played.flatMap((r) => withIds(r.notes));
    const events = played.flatMap((r) => r.events);
    const merged = mergedPart(to.into, notes, events, to.replace);
    return { ...whole, remove: [to.into.id], add: [merged] };
  }
  // Where no key was struck there is nothing to choose: a pedal that was held over makes no take.
  const struck = played.filter((r) => r.notes.length > 0);
  if (struck.length === 0) return null;
  const takes = struck.map((r, k) => ({
    id: `take${nextId++}`,
    name: `Take ${k + 1}`,
    notes: withIds(r.notes),
    events: r.events,
  }));
  const chosen = takes[takes.length - 1];
  const first = chosen.notes.reduce((least, n) => Math.min(least, n.start), to.from);
  const part = newPart(`p${nextId++}`, to.track.name, Math.min(to.from, Math.max(0, first)), to.to, {
    notes: chosen.notes,
    events: chosen.events,
    ...(to.treatment ? { treatment: to.treatment } : {}),
    ...(takes.length > 1 ? { takes: takesOf(takes, chosen) } : {}),
  });
  if (!isNew) return { ...whole, remove: [], add: [part] };
  return {
    kind: 'tracks',
    name: to.name,
    remove: [],
    add: [{ at: song.tracks.length, track: { ...to.track, parts: [part] } }],
  };
}

/** A track for what is recorded, which sounds like another; it comes into the song with its first part. */
export function trackLike(song: Song, name: string, like: Track | null): Track {
  if (!like) return newTrack(`t${song.nextId}`, name);
  const { voice, channel } = like;
  const event = like.setup.find((e) => e.type === 'program');
  const program = like.program ?? (event?.type === 'program' ? event.program : null);
  return newTrack(`t${song.nextId}`, name, { voice, channel, program });
}

function takesOf(rounds: readonly TakeRound[], chosen: TakeRound): Part['takes'] {
  return { chosen: { id: chosen.id, name: chosen.name }, others: rounds.filter((r) => r !== chosen) };
}

function mergedPart(
  part: Part,
  notes: readonly Note[],
  events: readonly PartEvent[],
  replace: Recording['replace'],
): Part {
  const goes = (tick: Ticks) => replace !== null && tick >= replace.from && tick < replace.to;
  const kept = part.notes.filter((n) => !goes(n.start));
  const keptEvents = part.events.filter((e) => !goes(e.tick));
  return {
    ...part,
    end: Math.max(part.end, ...notes.map((n) => n.start + 1)),
    notes: [...kept, ...notes].sort((a, b) => a.start - b.start || a.pitch - b.pitch || a.id - b.id),
    events: [...keptEvents, ...events].sort((a, b) => a.tick - b.tick),
  };
}
