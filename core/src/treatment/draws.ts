import {
  hashBase,
  hashKey,
  normalCdf,
  normalLevels,
  normalQuantile,
  readTable,
  tabulate,
  type NormalTable,
} from '../maths';
import type { Humanize, Lean } from '../song';
import type { Assignment } from './assign';
import type { NoteColumns } from './columns';
import { wanderAt, makeWander } from './wander';

/** Which random number of a note or chord is drawn. */
const PROPERTY = { start: 1, chordStart: 2, length: 3, velocity: 4 } as const;

/** The bell is a normal distribution cut at its largest move, which is this many standard deviations. */
export const BELL_CUT = 2.5;

/** Random numbers a note, as shares of the largest change; null where none are wanted. */
export interface Draws {
  /** −1 to 1. */
  readonly start: Float32Array | null;
  /** −1 to 1. */
  readonly length: Float32Array | null;
  /** −1 to 1; in range mode 0 up to 1. */
  readonly velocity: Float32Array | null;
}

/** The settings that choose random numbers; the amounts are not among them. */
export function drawsKey(h: Humanize): string {
  const wanted = [h.start > 0, h.length > 0, h.velocity > 0 || h.velocityMode === 'range'];
  return JSON.stringify([h.seed, h.shape, h.startLean, h.lengthLean, h.velocityMode, h.together, wanted]);
}

/**
 * Draws every note's random numbers. Each comes from a hash of the seed, the note's id and what
 * it is for, so a note's draw does not change when notes outside its chord come or go.
 *
 * A chord's notes share part of their move by a Gaussian copula: z = √c·z_chord + √(1−c)·z_own
 * is again standard normal, so that shape and bounds hold exactly for every c.
 */
export function drawAll(columns: NoteColumns, chords: Assignment, h: Humanize, ticksPerStep: number): Draws {
  const useRange = h.velocityMode === 'range';
  return {
    start: h.start > 0 ? drawStarts(columns, chords, h, ticksPerStep) : null,
    length: h.length > 0 ? drawOwn(columns, h, PROPERTY.length, h.lengthLean) : null,
    velocity: useRange
      ? drawLevels(columns, h.seed)
      : h.velocity > 0
        ? drawOwn(columns, h, PROPERTY.velocity, 'both')
        : null,
  };
}

function drawStarts(columns: NoteColumns, chords: Assignment, h: Humanize, ticksPerStep: number): Float32Array {
  const out = new Float32Array(columns.count);
  const table = shapeTable(h.shape === 'even' ? 'even' : 'bell', h.startLean);
  const { id } = columns;
  const { first, count } = chords;
  if (h.shape === 'drift') {
    const drift = makeWander(h.seed, ticksPerStep);
    for (let c = 0; c < count; c++) {
      out.fill(readTable(table, wanderAt(drift, chords.line[c])), first[c], first[c + 1]);
    }
    return out;
  }
  const levels = normalLevels();
  const alone = shapeLevels(h.shape === 'even' ? 'even' : 'bell', h.startLean);
  const ownBase = hashBase(h.seed, PROPERTY.start);
  const chordBase = hashBase(h.seed, PROPERTY.chordStart);
  const shared = Math.sqrt(h.together);
  const own = Math.sqrt(1 - h.together);
  for (let i = 0; i < out.length; i++) out[i] = alone[hashKey(ownBase, id[i]) >>> 16];
  for (let c = 0; c < count; c++) {
    const from = first[c];
    const to = first[c + 1];
    if (to - from === 1) continue;
    let lowest = id[from];
    for (let i = from + 1; i < to; i++) if (id[i] < lowest) lowest = id[i];
    const chordZ = shared * levels[hashKey(chordBase, lowest) >>> 16];
    for (let i = from; i < to; i++) {
      out[i] = readTable(table, chordZ + own * levels[hashKey(ownBase, id[i]) >>> 16]);
    }
  }
  return out;
}

function drawOwn(columns: NoteColumns, h: Humanize, property: number, lean: Lean): Float32Array {
  const out = new Float32Array(columns.count);
  const shape = shapeLevels(h.shape === 'even' ? 'even' : 'bell', lean);
  const base = hashBase(h.seed, property);
  const { id } = columns;
  for (let i = 0; i < out.length; i++) out[i] = shape[hashKey(base, id[i]) >>> 16];
  return out;
}

function drawLevels(columns: NoteColumns, seed: number): Float32Array {
  const base = hashBase(seed, PROPERTY.velocity);
  return Float32Array.from(columns.id, (id) => (hashKey(base, id) >>> 8) / 0x1000000);
}

const tables = new Map<string, NormalTable>();

/** From a standard normal number to a share of the largest move, by Φ and the shape's quantile. */
function shapeTable(shape: 'even' | 'bell', lean: Lean): NormalTable {
  const key = shape + lean;
  let table = tables.get(key);
  if (!table) tables.set(key, (table = tabulate((z) => shapeQuantile(normalCdf(z), shape, lean))));
  return table;
}

const levelTables = new Map<string, Float32Array>();

/** A shape's quantiles at the middles of 65 536 equal slices of probability: index with 16 random bits. */
function shapeLevels(shape: 'even' | 'bell', lean: Lean): Float32Array {
  const key = shape + lean;
  let levels = levelTables.get(key);
  if (!levels) {
    const table = shapeTable(shape, lean);
    levelTables.set(key, (levels = normalLevels().map((z) => readTable(table, z))));
  }
  return levels;
}

/** Quantile at probability `u` of a shape on −1 to 1, or one half of it where it leans. */
export function shapeQuantile(u: number, shape: 'even' | 'bell', lean: Lean): number {
  const p = Math.min(1, Math.max(0, u));
  if (lean !== 'both') {
    const size = shape === 'even' ? p : bell(0.5 + p / 2);
    return lean === 'late' ? size : -size;
  }
  return shape === 'even' ? 2 * p - 1 : bell(p);
}

/** Quantile of the cut normal distribution, as a share of its cut. */
function bell(p: number): number {
  const below = normalCdf(-BELL_CUT);
  return Math.max(-1, Math.min(1, normalQuantile(below + p * (1 - 2 * below)) / BELL_CUT));
}
