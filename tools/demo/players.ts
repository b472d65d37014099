import { hash3, normalQuantile } from '@early-sparrow/core/maths';

/** A note as the composer meant it. Times in quarter notes from the song's start. */
export interface Meant {
  readonly at: number;
  readonly length: number;
  readonly pitch: number;
  readonly velocity: number;
}

/** How a player plays what is meant. */
export interface Player {
  readonly name: string;
  readonly channel: number;
  readonly program: number;
  /** Constant delay in ms; negative for a player who rushes. */
  readonly lagMs: number;
  /** Standard deviation of single notes' timing in ms, cut at two and a half of it. */
  readonly jitterMs: number;
  /** Share of a pair of sixteenths that its first takes; 0.5 is straight. */
  readonly swing: number;
  /** How long a chord takes from its lowest note to its highest, in ms. */
  readonly rollMs: number;
  /** Random share by which lengths differ. */
  readonly ragged: number;
  /** Places in the list of notes that are far off, with their extra offsets in ms. */
  readonly wild: Readonly<Record<number, number>>;
  readonly pedal: boolean;
}

/** A note as it was played, beside the truth. Milliseconds and quarter notes from the song's start. */
export interface Played extends Meant {
  /** Where the composer's rhythm puts it, swing included, in quarter notes. */
  readonly truth: number;
  readonly startMs: number;
  readonly lengthMs: number;
}

/** Plays a part. The same seed gives the same performance. */
export function play(notes: readonly Meant[], player: Player, seed: number, bpm: number): Played[] {
  const quarterMs = 60_000 / bpm;
  let chordAt = NaN;
  let inChord = 0;
  return notes.map((note, i) => {
    inChord = note.at === chordAt ? inChord + 1 : 0;
    chordAt = note.at;
    const truth = swung(note.at, player.swing);
    // The notes of a chord share most of their player's jitter and roll upwards.
    const chordKey = Math.round(note.at * 96);
    const shared = bell(seed, chordKey, 1) * player.jitterMs * (player.rollMs > 0 ? 0.95 : 1);
    const own = player.rollMs > 0 ? bell(seed, i, 2) * player.jitterMs * 0.3 : 0;
    const roll = inChord * (player.rollMs / 3) - player.rollMs / 2;
    const offset = player.lagMs + shared + own + (player.rollMs > 0 ? roll : 0) + (player.wild[i] ?? 0);
    const lengthMs = note.length * quarterMs * (1 + player.ragged * bell(seed, i, 3) * 0.5);
    return {
      ...note,
      velocity: Math.round(Math.min(127, Math.max(1, note.velocity + bell(seed, i, 4) * 5))),
      truth,
      startMs: Math.max(0, truth * quarterMs + offset),
      lengthMs: Math.max(30, lengthMs),
    };
  });
}

function swung(at: number, swing: number): number {
  const pair = Math.floor(at * 2 + 1e-9) / 2;
  const within = at - pair;
  return Math.abs(within - 0.25) < 1e-9 ? pair + swing * 0.5 : at;
}

/** A standard normal number cut at ±2.5. */
function bell(seed: number, key: number, property: number): number {
  const u = (hash3(seed, key, property) + 0.5) / 2 ** 32;
  return Math.max(-2.5, Math.min(2.5, normalQuantile(u)));
}
