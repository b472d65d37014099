import type { Meant, Player } from './players';

/** The Night Ferry sessions: music for a radio play about a ferry crew. Invented; 112 BPM, 4/4, 32 bars. */
export const BPM = 112;
export const BARS = 32;
/** With it each player is, in the middle, as late as is meant, to a tick: what the guide says can be seen. */
export const SEED = 1931;

export interface DemoTrack {
  readonly player: Player;
  readonly notes: readonly Meant[];
  /** The grid that holds every true place. */
  readonly grid: string;
  /** Bar in which the part is meant to begin. */
  readonly firstBar: number;
}

const STEADY = { swing: 0.5, rollMs: 0, ragged: 0.1, wild: {}, pedal: false } as const;

/** Chord roots of a four-bar round: D minor, B flat, G minor, A. */
const ROOTS = [50, 46, 43, 45];
const THIRDS = [3, 4, 3, 4];

export const TRACKS: readonly DemoTrack[] = [
  {
    player: { ...STEADY, name: 'Marimba', channel: 0, program: 12, lagMs: -11, jitterMs: 6 },
    notes: marimba(),
    grid: '1/16',
    firstBar: 1,
  },
  {
    player: { ...STEADY, name: 'Upright bass', channel: 1, program: 32, lagMs: 18, jitterMs: 8, ragged: 0.8 },
    notes: bass(),
    grid: '1/8',
    firstBar: 3,
  },
  {
    player: { ...STEADY, name: 'Brush kit', channel: 9, program: 40, lagMs: 0, jitterMs: 4, swing: 0.62 },
    notes: brushes(),
    grid: '1/16 ~62%',
    firstBar: 5,
  },
  {
    player: {
      ...STEADY,
      name: 'Electric piano',
      channel: 2,
      program: 4,
      lagMs: 24,
      jitterMs: 5,
      rollMs: 16,
      pedal: true,
    },
    notes: piano(),
    grid: '1/8',
    firstBar: 1,
  },
  {
    player: {
      ...STEADY,
      name: 'Clarinet',
      channel: 3,
      program: 71,
      lagMs: 0,
      jitterMs: 5,
      wild: { 0: -26, 57: 64, 164: -62 },
    },
    notes: clarinet(),
    grid: '1/16+1/8T',
    firstBar: 7,
  },
];

function marimba(): Meant[] {
  const figure = [0, 7, 12, 7, 15, 12, 7, 12, 0, 7, 12, 15, 19, 15, 12, 7];
  const silent = new Set([3, 11, 14]);
  const notes: Meant[] = [];
  for (let bar = 0; bar < BARS; bar++) {
    if (bar === 16 || bar === 17) continue;
    const root = ROOTS[bar % 4] + 12;
    for (let k = 0; k < 16; k++) {
      if (silent.has(k) && bar % 2 === 0) continue;
      const third = figure[k] === 15 ? 12 + THIRDS[bar % 4] : figure[k];
      notes.push({ at: bar * 4 + k / 4, length: 0.2, pitch: root + third, velocity: k % 4 === 0 ? 92 : 74 });
    }
  }
  return notes;
}

function bass(): Meant[] {
  const walk = [0, 0, 7, 5, 12, 10, 7, 2];
  const notes: Meant[] = [];
  for (let bar = 2; bar < BARS - 1; bar++) {
    for (let k = 0; k < 8; k++) {
      if (k === 1 && bar % 2 === 0) continue;
      const pitch = ROOTS[bar % 4] - 12 + walk[k];
      notes.push({ at: bar * 4 + k / 2, length: 0.42, pitch, velocity: k % 4 === 0 ? 96 : 82 });
    }
  }
  return notes;
}

function brushes(): Meant[] {
  const notes: Meant[] = [];
  for (let bar = 4; bar < BARS; bar++) {
    for (let k = 0; k < 16; k++) {
      const at = bar * 4 + k / 4;
      if (k === 0 || k === 7 || (k === 10 && bar % 2 === 1)) notes.push({ at, length: 0.2, pitch: 36, velocity: 88 });
      if (k === 4 || k === 12) notes.push({ at, length: 0.2, pitch: 38, velocity: 94 });
      if (k === 15 && bar % 4 === 3) notes.push({ at, length: 0.15, pitch: 38, velocity: 52 });
      notes.push({ at, length: 0.1, pitch: 42, velocity: k % 2 === 0 ? 78 : 58 });
    }
  }
  return notes;
}

function piano(): Meant[] {
  const hits = [0, 1.5, 2.5, 3];
  const notes: Meant[] = [];
  for (let bar = 0; bar < BARS; bar++) {
    const root = ROOTS[bar % 4] + 12;
    const third = THIRDS[bar % 4];
    for (const hit of hits) {
      if (hit === 3 && bar % 2 === 0) continue;
      const length = hit === 0 ? 1.3 : 0.45;
      for (const step of [0, third, 7, 10]) {
        notes.push({ at: bar * 4 + hit, length, pitch: root + step, velocity: hit === 0 ? 78 : 68 });
      }
    }
  }
  return notes;
}

function clarinet(): Meant[] {
  const scale = [0, 2, 3, 5, 7, 8, 10, 12, 14, 15, 17];
  const notes: Meant[] = [];
  // A beat is four sixteenths, three triplets, two eighths or a quarter.
  const beats = ['s', 't', 'e', 't', 's', 's', 't', 'q', 't', 'e', 's', 't', 's', 't', 't', 'e'];
  let degree = 4;
  for (let beat = 6 * 4; beat < (BARS - 1) * 4; beat++) {
    const kind = beats[beat % beats.length];
    const parts = { s: 4, t: 3, e: 2, q: 1 }[kind] ?? 1;
    for (let k = 0; k < parts; k++) {
      degree = Math.max(0, Math.min(scale.length - 1, degree + [1, 1, -1, -2, 2, -1, 1, -1][(beat * 3 + k) % 8]));
      notes.push({
        at: beat + k / parts,
        length: 0.9 / parts,
        pitch: 62 + scale[degree],
        velocity: k === 0 ? 88 : 76,
      });
    }
  }
  return notes;
}
