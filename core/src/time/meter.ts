import { pieceAt } from './tempo';
import type { Ticks } from './units';

/** One time signature from `tick` on. `denominator` is the note value: 4 for quarters, 8 for eighths. */
export interface MeterChange {
  readonly tick: Ticks;
  readonly numerator: number;
  readonly denominator: number;
}

/** A stretch of bars of one length. The last bar may be cut short by the next stretch. */
export interface MeterPiece {
  readonly tick: Ticks;
  /** Where the next stretch starts; Infinity for the last. */
  readonly end: Ticks;
  /** Number of the first bar, counted from 1. */
  readonly bar: number;
  readonly barTicks: Ticks;
  readonly beatTicks: Ticks;
  readonly numerator: number;
  readonly denominator: number;
}

/** A place as a player counts it: bar and beat from 1, ticks into the beat. */
export interface BarBeat {
  readonly bar: number;
  readonly beat: number;
  readonly tick: Ticks;
}

/** Bars and beats through any number of time signatures, each of which starts a new bar. */
export class MeterMap {
  readonly pieces: readonly MeterPiece[];
  private readonly starts: Float64Array;
  private readonly firstBars: Float64Array;

  constructor(
    readonly ppq: number,
    changes: readonly MeterChange[],
  ) {
    this.pieces = buildPieces(ppq, changes);
    this.starts = Float64Array.from(this.pieces, (p) => p.tick);
    this.firstBars = Float64Array.from(this.pieces, (p) => p.bar);
  }

  /** The stretch of bars that holds a tick. Ticks before 0 count as 0. */
  pieceAt(tick: Ticks): MeterPiece {
    return this.pieces[pieceAt(this.starts, tick)];
  }

  /** Start of the bar that holds a tick. */
  barStartAt(tick: Ticks): Ticks {
    const piece = this.pieceAt(tick);
    return piece.tick + Math.floor((tick - piece.tick) / piece.barTicks) * piece.barTicks;
  }

  /** Start of the first bar after a tick. */
  nextBarStart(tick: Ticks): Ticks {
    const piece = this.pieceAt(tick);
    return Math.min(this.barStartAt(tick) + piece.barTicks, piece.end);
  }

  /**
   * The whole ticks of the bar that holds a whole tick: from the first at or after its line to the first of the next.
   * Bars of short notes may be parts of a tick long, in 1/64 at 1000 ticks a quarter for one.
   */
  wholeBar(tick: Ticks): { readonly start: Ticks; readonly end: Ticks } {
    return { start: Math.ceil(this.barStartAt(tick)), end: Math.ceil(this.nextBarStart(tick)) };
  }

  /** The whole tick of the nearest beat, or of the nearest bar line; exactly halfway it is the later one. */
  nearest(tick: Ticks, what: 'beat' | 'bar'): Ticks {
    const at = Math.max(0, tick);
    const bar = this.barStartAt(at);
    const next = this.nextBarStart(at);
    const { beatTicks } = this.pieceAt(at);
    const beat = what === 'bar' ? next - bar : beatTicks;
    return Math.ceil(Math.min(next, bar + Math.round((at - bar) / beat) * beat));
  }

  /**
   * Bar lines from the bar at `from` up to `to`, at least `apart` ticks from one another: of short bars every second,
   * fourth and so on, counted from where their meter begins. So what is in view bounds the work, whatever the bars are.
   */
  *bars(from: Ticks, to: Ticks, apart: Ticks = 0): Generator<Ticks> {
    let next = this.barStartAt(Math.max(0, from));
    while (next < to) {
      yield next;
      const { tick, end, barTicks } = this.pieceAt(next);
      const every = barTicks * 2 ** Math.max(0, Math.ceil(Math.log2(Math.max(1, apart / barTicks))));
      const after = tick + (Math.floor((next - tick) / every + 1e-9) + 1) * every;
      // A meter that is over before the next of its lines: on to the first line of another that is far enough.
      next = after < end ? after : this.firstLineFrom(Math.max(end, next + apart));
    }
  }

  private firstLineFrom(tick: Ticks): Ticks {
    const at = this.barStartAt(tick);
    return at >= tick ? at : this.nextBarStart(tick);
  }

  /** Start of a bar by its number, counted from 1. */
  tickOfBar(bar: number): Ticks {
    const index = pieceAt(this.firstBars, bar);
    const piece = this.pieces[index];
    return Math.min(piece.tick + (bar - piece.bar) * piece.barTicks, piece.end);
  }

  /** Bar, beat and ticks of a place, which is rounded to whole ticks first: no beat has a tick of the next one. */
  toBarBeat(tick: Ticks): BarBeat {
    const at = Math.round(tick);
    const piece = this.pieceAt(at);
    const bars = Math.floor((at - piece.tick) / piece.barTicks);
    const inBar = at - piece.tick - bars * piece.barTicks;
    const beats = Math.floor(inBar / piece.beatTicks);
    return { bar: piece.bar + bars, beat: beats + 1, tick: Math.floor(inBar - beats * piece.beatTicks + 1e-6) };
  }
}

function buildPieces(ppq: number, changes: readonly MeterChange[]): MeterPiece[] {
  const wanted: MeterChange[] = [{ tick: 0, numerator: 4, denominator: 4 }];
  for (const change of [...changes].sort((a, b) => a.tick - b.tick)) {
    const last = wanted[wanted.length - 1];
    if (change.tick <= last.tick) wanted[wanted.length - 1] = { ...change, tick: last.tick };
    else wanted.push(change);
  }
  let bar = 1;
  return wanted.map((change, i) => {
    const beatTicks = (4 * ppq) / change.denominator;
    const barTicks = beatTicks * change.numerator;
    const end = i + 1 < wanted.length ? wanted[i + 1].tick : Infinity;
    const piece = { ...change, end, bar, barTicks, beatTicks };
    if (end !== Infinity) bar += Math.ceil((end - change.tick) / barTicks);
    return piece;
  });
}
