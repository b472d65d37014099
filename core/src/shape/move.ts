import { atOnce, type Pieces } from '../maths';
import { counted, type Track } from '../song';
import type { Ticks } from '../time';
import { reshapePieces, type Shaped } from './reshape';
import { spanOf, type Taken } from './taken';

/** How far notes are moved by hand. */
export interface Move {
  readonly ticks: Ticks;
  /** Rows of the roll, up is positive. */
  readonly rows: number;
  /** Pitches of the rows, ascending. */
  readonly pitches: readonly number[];
}

/** The move that is left of one: at the song's start, and at the last row, a group stops as one. */
export function roomFor(taken: readonly Taken[], { ticks, rows, pitches }: Move): Move {
  const least = ticks < 0 ? (spanOf(taken)?.from ?? 0) : 0;
  return { ticks: Math.round(Math.max(ticks, -least)), rows: roomInRows(taken, rows, pitches), pitches };
}

/** Moves notes in time and pitch. */
export function move(track: Track, taken: readonly Taken[], wanted: Move): Shaped {
  return atOnce(movePieces(track, taken, wanted));
}

/** {@link move} of very many notes, in pieces. */
export function* movePieces(track: Track, taken: readonly Taken[], wanted: Move): Pieces<Shaped> {
  const { ticks, rows, pitches } = roomFor(taken, wanted);
  if (ticks === 0 && rows === 0) return null;
  const name = `${ticks === 0 ? 'Change the pitch of' : 'Move'} ${counted(taken.length, 'note')}`;
  return yield* reshapePieces(name, track, taken, ({ start, note }) => {
    const pitch = rows === 0 ? note.pitch : otherPitch(note.pitch, rows, pitches);
    return ticks === 0 ? { pitch } : { start: start + ticks, pitch };
  });
}

/** As many of some rows as every note of a group has room for. */
function roomInRows(taken: readonly Taken[], rows: number, pitches: readonly number[]): number {
  if (rows === 0) return 0;
  let left = rows;
  for (const pitch of new Set(taken.map((t) => t.note.pitch))) {
    const row = pitches.indexOf(pitch);
    const [at, most] = row < 0 ? [pitch, 127] : [row, pitches.length - 1];
    left = Math.min(most - at, Math.max(-at, left));
  }
  return left;
}

/** The pitch so many rows higher; where rows are drums, the next one that is played. */
export function otherPitch(pitch: number, rows: number, pitches: readonly number[]): number {
  const row = pitches.indexOf(pitch);
  if (row < 0) return Math.min(127, Math.max(0, pitch + rows));
  return pitches[Math.min(pitches.length - 1, Math.max(0, row + rows))];
}
