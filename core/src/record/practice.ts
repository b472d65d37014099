import { hash3, normalQuantile } from '../maths';
import type { ScoreNotes } from '../sound';
import type { Ms } from '../time';
import type { MidiBytes } from './message';

/** How the practice player plays. */
export interface Practice {
  /** How late on the whole; early is negative. */
  readonly late: Ms;
  /** Standard deviation of single notes. */
  readonly jitter: Ms;
  /** Standard deviation of a slow wandering. */
  readonly drift: Ms;
  /** Shares of the notes, 0 to 1. */
  readonly wrong: number;
  readonly missed: number;
  /** Velocities are spread by so much on either side. */
  readonly velocity: number;
  readonly seed: number;
}

/** A message of the practice player. */
export interface PracticeMessage {
  readonly ms: Ms;
  /** Where its note begins as it is written. */
  readonly meant: Ms;
  readonly bytes: MidiBytes;
}

/** After so many ms most of a wandering is gone. */
const LASTS: Ms = 8000;
/** No note comes nearer to the next of its key than this. */
const APART: Ms = 5;

/** What a player plays who has some notes before them: the same for the same seed, in order of time. */
export function practise(notes: ScoreNotes, how: Practice): PracticeMessage[] {
  const chance = (i: number, what: number) => (hash3(how.seed, i, what) + 0.5) / 2 ** 32;
  const normal = (i: number, what: number) => normalQuantile(chance(i, what));
  const played: Played[] = [];
  let drift = how.drift * normal(0, 7);
  let last = 0;
  for (let i = 0; i < notes.start.length; i++) {
    const rho = Math.exp(-Math.max(0, notes.start[i] - last) / LASTS);
    last = notes.start[i];
    drift = rho * drift + Math.sqrt(1 - rho * rho) * how.drift * normal(i, 2);
    if (chance(i, 3) < how.missed) continue;
    const off = how.late + drift + how.jitter * normal(i, 1);
    const slip = chance(i, 4) < how.wrong ? (chance(i, 5) < 0.5 ? -1 : 1) : 0;
    const spread = Math.round((2 * chance(i, 6) - 1) * how.velocity);
    played.push({
      meant: notes.start[i],
      start: notes.start[i] + off,
      end: notes.end[i] + off,
      pitch: Math.min(127, Math.max(0, notes.pitch[i] + slip)),
      velocity: Math.min(127, Math.max(1, notes.velocity[i] + spread)),
    });
  }
  return messagesOf(played);
}

/** Taps on some beats, as somebody taps along with a click. */
export function tapAlong(beats: ArrayLike<Ms>, how: Practice): PracticeMessage[] {
  const at = Float64Array.from(beats);
  const count = at.length;
  const same = (value: number) => new Uint8Array(count).fill(value);
  const notes = { id: at, start: at, end: at.map((t) => t + 80), pitch: same(60), velocity: same(90), slot: same(0) };
  return practise(notes, { ...how, wrong: 0, missed: 0 });
}

interface Played {
  readonly meant: Ms;
  readonly start: Ms;
  end: Ms;
  readonly pitch: number;
  readonly velocity: number;
}

function messagesOf(played: Played[]): PracticeMessage[] {
  played.sort((a, b) => a.start - b.start);
  // A key is up before it is struck again.
  const next = new Map<number, Ms>();
  for (let i = played.length - 1; i >= 0; i--) {
    const n = played[i];
    n.end = Math.max(n.start + 1, Math.min(n.end, (next.get(n.pitch) ?? Infinity) - APART));
    next.set(n.pitch, n.start);
  }
  return played
    .flatMap(({ meant, start, end, pitch, velocity }): PracticeMessage[] => [
      { ms: start, meant, bytes: [0x90, pitch, velocity] },
      { ms: end, meant, bytes: [0x80, pitch, 64] },
    ])
    .sort((a, b) => a.ms - b.ms);
}
