import type { Lines } from '../grid';
import { LEAST_GAP } from './model';
import type { Places, Rhythm } from './rhythm';

/** A take's lines as they were found, and what they were found from. */
export interface Laid {
  /** Chords' places and lines in ticks. */
  readonly place: Float64Array;
  readonly line: Float64Array;
  readonly lines: Lines;
  /** Ticks a step. */
  readonly unit: number;
  /** How far chords scatter around the player's time, in steps. */
  readonly sigma: number;
}

/** Lines by which stretches of a take may lie beside. */
const TURNS = [-2, -1, 0, 1, 2];
const HERE = TURNS.indexOf(0);
/** From any of them to any other. */
const MOVES = TURNS.length ** 2;
/** A chord may always be far off by itself: no move of a line between neighbours is less likely, in nats. */
const MOST_JUMP = 8;
/** Chords scatter by this at least, and the player's time wanders by so much from one step to the next, in steps. */
const LEAST_SIGMA = 0.05;
const WANDERS = 0.05;
/** The rhythm is guessed from so many stretches of so many chords, besides the whole take, … */
const STRETCHES = 8;
const STRETCH = 16;
/** … and learned anew from what it moved, so often at most. */
const ROUNDS = 4;
/** What other lines have to gain by rhythm and smoothness, in nats. */
const WORTH = 4;

/** What it costs to be at a place of a bar, in nats. */
type Costs = (bar: number, at: number) => number;

/**
 * Other lines for a take, under which its rhythm comes again more clearly; null where there are none. Where a player
 * wanders by more than half a step, stretches of the take may lie a line or two beside the rest, along a drift that is
 * nearly as smooth, and the rhythm is blurred. From several guesses of the rhythm the stretches are found that have to
 * move, from these the rhythm anew, and so on. Most of the take stays where it is.
 */
export function realigned(laid: Laid, rhythm: Rhythm): Float64Array | null {
  const { line, lines, unit } = laid;
  const beside = TURNS.map((by) => (by === 0 ? line : line.map((l) => lineBeside(l, by, lines, unit))));
  const places = beside.map((moved) => rhythm.places(moved));
  const jumps = jumpsOf(laid, beside);
  const natsOf = (turns: Int8Array): number =>
    turns.reduce(
      (nats, turn, i) => (i === 0 ? nats : nats + jumps[i * MOVES + turns[i - 1] * TURNS.length + turn]),
      rhythm.natsOf(along(turns, places)),
    );
  let best: Int8Array | null = null;
  let least = natsOf(new Int8Array(line.length).fill(HERE)) - WORTH;
  for (const guess of guesses(places[HERE], rhythm)) {
    const turns = settled(guess, places, jumps, rhythm);
    const nats = natsOf(turns);
    if (nats < least) [best, least] = [turns, nats];
  }
  if (!best) return null;
  // Which turn of the whole is meant a rhythm does not tell.
  const most = commonest(best);
  const other = line.map((l, i) => (best[i] === most ? l : lineBeside(l, best[i] - most, lines, unit)));
  for (let i = 1; i < other.length; i++) other[i] = Math.max(other[i], other[i - 1]);
  return other;
}

/** The turns that chords take by a rhythm, which is learned anew from what they took. */
function settled(guess: Costs, places: readonly Places[], jumps: Float32Array, rhythm: Rhythm): Int8Array {
  let turns = cheapest(guess, places, jumps);
  for (let round = 1; round < ROUNDS; round++) {
    const before = turns;
    turns = cheapest(rhythm.costsOf(along(before, places)), places, jumps);
    if (turns.every((turn, i) => turn === before[i])) break;
  }
  return turns;
}

/** Rhythms that the whole of a take and some stretches of it tell of. */
function guesses({ bar, at }: Places, rhythm: Rhythm): Costs[] {
  const length = Math.min(at.length, STRETCH);
  const stretches = Array.from({ length: STRETCHES }, (_, s) => {
    const from = Math.round(((at.length - length) * s) / (STRETCHES - 1));
    return rhythm.costsOf({ bar: bar.subarray(from, from + length), at: at.subarray(from, from + length) });
  });
  return [rhythm.costsOf({ bar, at }), ...stretches];
}

/** Each chord's place at its turn. */
function along(turns: Int8Array, places: readonly Places[]): Places {
  const bar = new Int32Array(turns.length);
  const at = new Int32Array(turns.length);
  for (let i = 0; i < turns.length; i++) {
    const there = places[turns[i]];
    bar[i] = there.bar[i];
    at[i] = there.at[i];
  }
  return { bar, at };
}

/** The line so many lines after one, or before it; the first of all where there are not so many. */
export function lineBeside(line: number, by: number, lines: Lines, unit: number): number {
  let at = line;
  for (let n = Math.abs(by); n > 0; n--) {
    lines.locate(at + Math.sign(by) * HAIR * unit);
    at = Math.max(0, by < 0 ? lines.before : lines.after);
  }
  return at;
}

/** A line is no further from itself, in steps. */
const HAIR = 1e-3;

/** What it costs each chord to be beside where the one before is beside as well or not, in nats: from each to each. */
function jumpsOf({ place, unit, sigma }: Laid, beside: readonly Float64Array[]): Float32Array {
  const scatter = 2 * Math.max(LEAST_SIGMA, sigma) ** 2;
  const jumps = new Float32Array(place.length * MOVES);
  for (let i = 1; i < place.length; i++) {
    const gap = place[i] - place[i - 1];
    const variance = scatter + WANDERS ** 2 * Math.max(LEAST_GAP, gap / unit);
    for (let j = 0; j < TURNS.length; j++) {
      for (let k = 0; k < TURNS.length; k++) {
        const jump = (gap - beside[k][i] + beside[j][i - 1]) / unit;
        const most = MOST_JUMP * Math.max(1, Math.abs(k - j));
        jumps[i * MOVES + j * TURNS.length + k] = Math.min(most, jump ** 2 / (2 * variance));
      }
    }
  }
  return jumps;
}

/** The cheapest path through the turns (Viterbi). */
function cheapest(costs: Costs, places: readonly Places[], jumps: Float32Array): Int8Array {
  const count = places[HERE].at.length;
  const kinds = places.length;
  const from = new Int8Array(count * kinds);
  let cost = new Float64Array(kinds);
  let next = new Float64Array(kinds);
  for (let i = 0; i < count; i++) {
    for (let k = 0; k < kinds; k++) {
      let best = i === 0 ? 0 : Infinity;
      for (let j = 0; i > 0 && j < kinds; j++) {
        const path = cost[j] + jumps[i * MOVES + j * TURNS.length + k];
        if (path >= best) continue;
        best = path;
        from[i * kinds + k] = j;
      }
      next[k] = best + costs(places[k].bar[i], places[k].at[i]);
    }
    [cost, next] = [next, cost];
  }
  const turns = new Int8Array(count);
  let turn = cost.indexOf(Math.min(...cost));
  for (let i = count - 1; i >= 0; i--) {
    turns[i] = turn;
    turn = from[i * kinds + turn];
  }
  return turns;
}

function commonest(turns: Int8Array): number {
  const counts = TURNS.map(() => 0);
  for (const turn of turns) counts[turn]++;
  return counts.indexOf(Math.max(...counts));
}
