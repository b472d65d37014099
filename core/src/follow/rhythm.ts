import { logRising } from '../maths';
import type { MeterMap } from '../time';

/** A rhythm comes again after so many bars, at the most likely. */
const CYCLES = [1, 2, 4] as const;
/** So often at least it must be heard before it tells anything. */
const HEARD = 4;
/** What is not known before: each place of the cycle counts as played half a time (Krichevsky & Trofimov 1981). */
const PRIOR = 0.5;

/** Where lines are in the bars of a song. */
export interface Places {
  /** Number of the line's bar since its meter began, bars of each length apart. */
  readonly bar: Int32Array;
  /** In ticks from the bar's beginning. */
  readonly at: Int32Array;
}

/** Which lines of the bar a take uses: rhythms come again, so that lines that were used are likely to be meant. */
export class Rhythm {
  /** Lengths of the bars that there are, in ticks, and how many lines each has. */
  private readonly lengths: readonly number[];
  private readonly lines: readonly number[];
  /** Ticks of the longest bar, and one. */
  private readonly span: number;

  /**
   * @param meter of the song
   * @param linesIn how many lines a bar of some length has
   */
  constructor(
    private readonly meter: MeterMap,
    linesIn: (barTicks: number) => number,
  ) {
    this.lengths = [...new Set(meter.pieces.map((p) => p.barTicks))];
    this.lines = this.lengths.map(linesIn);
    this.span = Math.ceil(Math.max(...this.lengths)) + 1;
  }

  /** Length of the shortest description of which lines are used, in nats; the cycle that gives it is chosen. */
  nats(line: Float64Array): number {
    return this.natsOf(this.places(line));
  }

  natsOf(places: Places): number {
    return this.counted(places).nats;
  }

  /**
   * What it costs a chord to be on a line, in nats, by the use that some lines make of the bar.
   * @returns a function of a line in ticks
   */
  costs(line: Float64Array): (line: number) => number {
    const cost = this.costsOf(this.places(line));
    return (at) => {
      const [bar, place] = this.placeOf(Math.max(0, at));
      return cost(bar, at < 0 ? NOWHERE : place);
    };
  }

  /** The same for lines whose places are known. @returns a function of a line's bar and place */
  costsOf(places: Places): (bar: number, at: number) => number {
    const { cycle, counts, chords } = this.counted(places);
    const each = new Map([...counts].map(([cell, count]) => [cell, -Math.log(count + PRIOR)]));
    const all = new Map([...chords].map(([key, count]) => [key, Math.log(count + this.before(key))]));
    const never = -Math.log(PRIOR);
    return (bar, at) => {
      const key = keyOf(bar, cycle);
      const total = all.get(key);
      return total === undefined ? 0 : total + (each.get(key * this.span + at) ?? never);
    };
  }

  places(line: Float64Array): Places {
    const bar = new Int32Array(line.length);
    const at = new Int32Array(line.length);
    line.forEach((l, i) => ([bar[i], at[i]] = this.placeOf(l)));
    return { bar, at };
  }

  /**
   * What the rhythm would gain at most if one stretch of a take was all on other lines, in nats: little where it did not
   * slip there. (The largest sum of neighbours, after Kadane; Bentley 1984, Communications of the ACM 27:9.)
   */
  gain(line: Float64Array, other: (line: number) => number, costs: (line: number) => number): number {
    let most = 0;
    let sum = 0;
    for (const l of line) {
      sum = Math.max(0, sum + costs(l) - costs(other(l)));
      most = Math.max(most, sum);
    }
    return most;
  }

  private counted(places: Places): Used {
    const heard = places.bar.reduce((n, bar, i) => n + (i === 0 || bar !== places.bar[i - 1] ? 1 : 0), 0);
    let best: Used | null = null;
    for (const cycle of CYCLES) {
      if (best && heard < HEARD * cycle) break;
      const used = this.count(places, cycle);
      if (!best || used.nats < best.nats) best = used;
    }
    return best!;
  }

  private count({ bar, at }: Places, cycle: number): Used {
    const counts = new Map<number, number>();
    const chords = new Map<number, number>();
    for (let i = 0; i < bar.length; i++) {
      const key = keyOf(bar[i], cycle);
      const cell = key * this.span + at[i];
      counts.set(cell, (counts.get(cell) ?? 0) + 1);
      chords.set(key, (chords.get(key) ?? 0) + 1);
    }
    let nats = 0;
    for (const [key, count] of chords) nats += logRising(this.before(key), count);
    for (const count of counts.values()) nats -= logRising(PRIOR, count);
    return { cycle, counts, chords, nats };
  }

  /** What all places of a bar count together before anything is heard. */
  private before(key: number): number {
    return PRIOR * this.lines[Math.floor(key / MOST_BARS)];
  }

  private placeOf(line: number): readonly [bar: number, at: number] {
    const start = this.meter.barStartAt(line + 0.5);
    const { tick, barTicks } = this.meter.pieceAt(start);
    return [
      (Math.round((start - tick) / barTicks) % FAR_BARS) + this.lengths.indexOf(barTicks) * FAR_BARS,
      Math.round(line - start),
    ];
  }
}

/** Before the song there are no lines. */
const NOWHERE = -1;
/** A cycle has no more bars. */
const MOST_BARS = 4;
/** Bars of one length, counted anew behind so many; a multiple of every cycle. */
const FAR_BARS = 2 ** 22;

/** Which bar of a cycle a bar is, those of each length apart. */
function keyOf(bar: number, cycle: number): number {
  return Math.floor(bar / FAR_BARS) * MOST_BARS + (bar % cycle);
}

/** How often the places of a cycle of bars are used. */
interface Used {
  /** In bars. */
  readonly cycle: number;
  /** By bar of the cycle and place. */
  readonly counts: ReadonlyMap<number, number>;
  /** By bar of the cycle. */
  readonly chords: ReadonlyMap<number, number>;
  readonly nats: number;
}
