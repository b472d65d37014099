import { gammaln } from 'simple-statistics';
import type { MeterMap } from '../time';

/** A rhythm comes again after so many bars, at the most likely. */
const CYCLES = [1, 2, 4] as const;
/** So often at least it must be heard before it tells anything. */
const HEARD = 4;
/** What is not known before: each place of the cycle counts as played half a time (Krichevsky & Trofimov 1981). */
const PRIOR = 0.5;

/** Which lines of the bar a take uses: rhythms come again, so that lines that were used are likely to be meant. */
export class Rhythm {
  /** Lengths of the bars that there are. */
  private readonly lengths: readonly number[];

  /**
   * @param meter of the song
   * @param linesIn how many lines a bar of some length has
   */
  constructor(
    private readonly meter: MeterMap,
    private readonly linesIn: (barTicks: number) => number,
  ) {
    this.lengths = [...new Set(meter.pieces.map((p) => p.barTicks))];
  }

  /** Length of the shortest description of which lines are used, in nats; the cycle that gives it is chosen. */
  nats(line: Float64Array): number {
    return this.counted(line).nats;
  }

  /**
   * What it costs a chord to be on a line, in nats, by the use that some lines make of the bar.
   * @returns a function of a line in ticks
   */
  costs(line: Float64Array): (line: number) => number {
    const { cycle, bars } = this.counted(line);
    return (at) => {
      const [key, place] = this.placeOf(Math.max(0, at), cycle);
      const bar = bars.get(key);
      if (!bar) return 0;
      const count = at < 0 ? 0 : (bar.counts.get(place) ?? 0);
      return Math.log(bar.chords + PRIOR * bar.lines) - Math.log(count + PRIOR);
    };
  }

  /**
   * What the rhythm would gain at most if one stretch of a take was all moved by some ticks, in nats: little where it did
   * not slip there. (The largest sum of neighbours, after Kadane; Bentley 1984, Communications of the ACM 27:9.)
   */
  gain(line: Float64Array, by: number, costs: (line: number) => number): number {
    let most = 0;
    let sum = 0;
    for (const l of line) {
      sum = Math.max(0, sum + costs(l) - costs(l + by));
      most = Math.max(most, sum);
    }
    return most;
  }

  private counted(line: Float64Array): Counted {
    const heard = this.barsOf(line);
    let best: Counted | null = null;
    for (const cycle of CYCLES) {
      if (best && heard < HEARD * cycle) break;
      const counted = this.count(line, cycle);
      if (!best || counted.nats < best.nats) best = counted;
    }
    return best!;
  }

  private count(line: Float64Array, cycle: number): Counted {
    const bars = new Map<number, Bar>();
    for (const l of line) {
      const [key, place, barTicks] = this.placeOf(l, cycle);
      let bar = bars.get(key);
      if (!bar) bars.set(key, (bar = { lines: this.linesIn(barTicks), counts: new Map(), chords: 0 }));
      bar.counts.set(place, (bar.counts.get(place) ?? 0) + 1);
      bar.chords++;
    }
    let nats = 0;
    for (const { lines, counts, chords } of bars.values()) {
      nats += gammaln(chords + PRIOR * lines) - gammaln(PRIOR * lines);
      for (const count of counts.values()) nats -= gammaln(count + PRIOR) - gammaln(PRIOR);
    }
    return { cycle, bars, nats };
  }

  /** Which bar of the cycle a line is in, bars of different lengths apart, and where in it. */
  private placeOf(line: number, cycle: number): readonly [bar: number, place: number, barTicks: number] {
    const start = this.meter.barStartAt(line + 0.5);
    const { tick, barTicks } = this.meter.pieceAt(start);
    const bar = Math.round((start - tick) / barTicks) % cycle;
    return [this.lengths.indexOf(barTicks) * MOST_BARS + bar, Math.round(line - start), barTicks];
  }

  private barsOf(line: Float64Array): number {
    if (line.length === 0) return 0;
    const { barTicks } = this.meter.pieceAt(line[0]);
    return (line[line.length - 1] - line[0]) / barTicks;
  }
}

/** A cycle has no more bars. */
const MOST_BARS = 4;

/** How the lines of one bar of the cycle are used. */
interface Bar {
  readonly lines: number;
  readonly counts: Map<number, number>;
  chords: number;
}

interface Counted {
  /** In bars. */
  readonly cycle: number;
  readonly bars: ReadonlyMap<number, Bar>;
  readonly nats: number;
}
