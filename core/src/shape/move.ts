import { atOnce, whole, type Each, type Pieces } from '../maths';
import { counted, type Song, type Track } from '../song';
import type { Ticks } from '../time';
import { reshaping, type Shaped } from './reshape';
import { spanOfIds, takingUp, type Side, type Taken } from './taken';

/** How far notes are moved by hand. */
export interface Move {
  readonly ticks: Ticks;
  /** Rows of the roll, up is positive. */
  readonly rows: number;
  /** Pitches of the rows, ascending. */
  readonly pitches: readonly number[];
}

/** The move that is left of one for some notes of a track: at the song's start, and at the last row, a group stops as one. */
export function roomFor(song: Song, track: Track, ids: readonly number[], side: Side, wanted: Move): Move {
  const { ticks, rows, pitches } = wanted;
  // How far it is to there is asked only where it matters.
  const span = ticks < 0 || rows !== 0 ? spanOfIds(song, track, ids, side) : null;
  const least = ticks < 0 ? whole(span?.from ?? 0) : 0;
  return { ticks: Math.round(Math.max(ticks, -least)), rows: roomInRows(span?.pitches ?? [], rows, pitches), pitches };
}

/** Moves some notes of a track in time and pitch. @param side on which they are moved from where they are seen */
export function move(song: Song, track: Track, ids: readonly number[], side: Side, wanted: Move): Shaped {
  return atOnce(movePieces(song, track, ids, side, wanted));
}

/** {@link move} of very many notes, in pieces. */
export function* movePieces(
  song: Song,
  track: Track,
  ids: readonly number[],
  side: Side,
  wanted: Move,
): Pieces<Shaped> {
  const { ticks, rows, pitches } = roomFor(song, track, ids, side, wanted);
  if (ticks === 0 && rows === 0) return null;
  const named = (count: number) => `${ticks === 0 ? 'Change the pitch of' : 'Move'} ${counted(count, 'note')}`;
  const all: Each<Taken> = (act) => takingUp(song, track, ids, side, act);
  return yield* reshaping(named, track, all, ({ start, note }) => {
    const pitch = rows === 0 ? note.pitch : otherPitch(note.pitch, rows, pitches);
    return ticks === 0 ? { pitch } : { start: start + ticks, pitch };
  });
}

/** As many of some rows as every note of a group has room for. */
function roomInRows(of: readonly number[], rows: number, pitches: readonly number[]): number {
  if (rows === 0) return 0;
  let left = rows;
  for (const pitch of of) {
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
