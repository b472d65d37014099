import { counted, takeOf, type Note, type Part, type Song, type Track } from '../song';
import type { SimpleEdit } from '../edit';
import type { Ticks } from '../time';
import { problem } from './problem';
import { partEdits, pinsNotes, reshaped, type Shaped } from './reshape';
import { inOrderOfPlace, type Taken, type LinesOf } from './taken';

/** So many pieces are made at most at one go. */
const MOST_PIECES = 100_000;

/**
 * Cuts notes. The first piece is the note itself, each further one a new note of its pitch, velocity and channel that
 * lies where it was cut off.
 * @param places where each note is cut, in ticks; those outside of it do nothing
 */
export function cutNotes(
  song: Song,
  track: Track,
  taken: readonly Taken[],
  places: (taken: Taken) => readonly Ticks[],
): Shaped {
  let id = song.nextId;
  let count = 0;
  const parts = new Map<Part, { changed: Note[]; add: Note[] }>();
  for (const one of taken) {
    const end = one.start + one.length;
    const at = places(one)
      .map(Math.round)
      .filter((t, i, all) => t > one.start && t < end && t !== all[i - 1]);
    if (at.length === 0) continue;
    const first = reshaped(one, { length: at[0] - one.start });
    if (!first) continue;
    count++;
    if (id - song.nextId + at.length > MOST_PIECES) {
      return problem('That makes more than 100,000 pieces. Select fewer notes, or choose a wider grid.');
    }
    const pieces = parts.get(one.part) ?? { changed: [], add: [] };
    parts.set(one.part, pieces);
    pieces.changed.push(first);
    at.forEach((start, k) => pieces.add.push(pieceOf(one, id++, start, (at[k + 1] ?? end) - start)));
  }
  if (count === 0) return null;
  const name = `Cut ${counted(count, 'note')}`;
  const edits = [...parts].flatMap(([part, pieces]) => partEdits(name, track, part, pieces));
  return { kind: 'several', name, edits };
}

/** Cuts notes at every line that runs through them. */
export function cutAtLines(song: Song, track: Track, taken: readonly Taken[], linesOf: LinesOf): Shaped {
  return cutNotes(song, track, taken, ({ part, start, length }) => linesOf(part).between(start + 1, start + length));
}

/** A piece that was cut off: under a treatment it is pinned, so that it stays where it was cut. */
function pieceOf({ part, note, velocity }: Taken, id: number, start: Ticks, length: Ticks): Note {
  const { pitch, channel, release, muted } = note;
  const { velocity: played } = takeOf(note);
  const whole = Math.max(1, Math.round(length));
  return {
    id,
    start,
    length: whole,
    pitch,
    velocity: played,
    channel,
    release,
    ...(muted ? { muted } : {}),
    ...(pinsNotes(part) ? { exception: { kind: 'pinned', start, length: whole, velocity } } : {}),
  };
}

/** Joins the notes of each pitch into one, from the first start to the last end. */
export function joinNotes(track: Track, taken: readonly Taken[]): Shaped {
  const groups = new Map<string, Taken[]>();
  for (const one of inOrderOfPlace(taken)) {
    const key = `${one.part.id} ${one.note.pitch} ${one.note.channel}`;
    const group = groups.get(key);
    if (group) group.push(one);
    else groups.set(key, [one]);
  }
  const joined = [...groups.values()].filter((g) => g.length > 1);
  if (joined.length === 0) return problem('Select two or more notes of one pitch to join them.');
  const count = joined.reduce((sum, g) => sum + g.length, 0);
  const name = `Join ${counted(count, 'note')}`;
  const parts = new Map<Part, { changed: Note[]; remove: number[] }>();
  for (const [first, ...rest] of joined) {
    const end = rest.reduce((last, t) => Math.max(last, t.start + t.length), first.start + first.length);
    const change = parts.get(first.part) ?? { changed: [], remove: [] };
    parts.set(first.part, change);
    const whole = reshaped(first, { length: end - first.start });
    if (whole) change.changed.push(whole);
    change.remove.push(...rest.map((t) => t.note.id));
  }
  const edits: SimpleEdit[] = [...parts].flatMap(([part, change]) => partEdits(name, track, part, change));
  return { kind: 'several', name, edits };
}

/** Takes notes away. @param what one of them, such as `note` or `hit` */
export function erase(track: Track, taken: readonly Taken[], what = 'note'): Shaped {
  if (taken.length === 0) return null;
  const name = `Erase ${counted(taken.length, what)}`;
  const parts = new Map<Part, number[]>();
  for (const { part, note } of taken) {
    const list = parts.get(part);
    if (list) list.push(note.id);
    else parts.set(part, [note.id]);
  }
  const edits = [...parts].flatMap(([part, remove]) => partEdits(name, track, part, { remove }));
  return { kind: 'several', name, edits };
}
