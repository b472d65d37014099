import { amountInTicks, type MeterMap, type TempoMap, type Ticks, type TimeAmount } from '../time';
import type { Grid } from './grid';
import { barPattern, songPattern, type Pattern } from './pattern';

/** A stretch of the song in which the lines repeat with one pattern, counted from `start`. */
export interface LinePiece {
  readonly start: Ticks;
  /** Lines at or past it belong to the next stretch. */
  readonly end: Ticks;
  readonly pattern: Pattern;
}

/** What the lines of a song are measured against. */
export interface SongTime {
  readonly tempo: TempoMap;
  readonly meter: MeterMap;
}

/** A place this share of a gap before a line lies just before it. */
export const BESIDE = 1e-3;

/**
 * The lines of a grid through a song. Nothing lists them all: {@link locate} finds the
 * two lines around a place, {@link between} lists those of a span.
 * There is no line before the song's start.
 */
export class Lines {
  /** After {@link locate}: the last line at or before the place, −Infinity where there is none. */
  before: Ticks = -Infinity;
  /** After {@link locate}: the first line after the place. */
  after: Ticks = 0;
  private piece: LinePiece;
  private next = 0;
  /** Whether the lines are just those of the pieces. */
  private readonly isPlain: boolean;

  /**
   * @param pieces stretches in order, the first from 0, the last to Infinity
   * @param shift added to every line
   */
  constructor(
    readonly pieces: readonly LinePiece[],
    private readonly shift: TimeAmount,
    private readonly tempo: TempoMap,
  ) {
    this.piece = pieces[0];
    this.next = pieces.length > 1 ? 1 : 0;
    this.isPlain = shift.value === 0 && this.locate === Lines.prototype.locate;
  }

  /** Finds the lines around tick `t` and leaves them in `before` and `after`. */
  locate(t: Ticks): void {
    if (t < 0) {
      this.locate(0);
      if (this.before >= 0) this.after = this.before;
      this.before = -Infinity;
      return;
    }
    if (this.shift.value === 0) this.locatePlain(t);
    else this.locateShifted(t);
    if (this.before < 0) this.before = this.atSongStart();
  }

  /** The nearest line; exactly halfway is the later one. Leaves `before` and `after` set. */
  nearest(t: Ticks): Ticks {
    this.locate(t);
    return t - this.before < this.after - t ? this.before : this.after;
  }

  /** The {@link nearest} line of each place. @param out of the same length */
  nearestOf(places: Float64Array, out: Float64Array): void {
    for (let i = 0; i < places.length; i++) {
      i = this.nearestEven(places, out, i);
      if (i < places.length) out[i] = this.nearest(places[i]);
    }
  }

  /**
   * The same from the `from`th on for as long as the places lie between lines that are one step apart: most do, and
   * nothing need be looked up for these.
   * @returns the first place that was left out
   */
  private nearestEven(places: Float64Array, out: Float64Array, from: number): number {
    const { start, end, pattern } = this.piece;
    const { even: step, linesPerTick } = pattern;
    if (!this.isPlain || step === 0) return from;
    const lowest = start + step;
    const highest = end - step;
    // Which of two lines is nearer cannot be foreseen, and a processor that guesses wrong loses more time than rounding
    // takes. Close to the middle between two lines rounding may err: such places are left out.
    const sure = (0.5 - 1e-6) * step;
    let i = from;
    for (; i < places.length; i++) {
      const t = places[i];
      const line = start + Math.floor((t - start) * linesPerTick + 0.5) * step;
      if (line < lowest || line >= highest || Math.abs(t - line) > sure) break;
      out[i] = line;
    }
    return i;
  }

  /** Distance between the two lines around `t`: the local gap. Before the first line: the first gap. */
  gapAt(t: Ticks): Ticks {
    this.locate(t);
    if (this.before === -Infinity) this.locate(this.after);
    return this.after - this.before;
  }

  /** All lines from `from` up to but without `to`. */
  between(from: Ticks, to: Ticks): Ticks[] {
    const found: number[] = [];
    this.locate(from);
    let line = this.before === from ? this.before : this.after;
    while (line < to) {
      found.push(line);
      this.locate(line);
      line = this.after;
    }
    return found;
  }

  /** What becomes of a line before the song's start: it waits at the start, unless the next is nearer to it. */
  private atSongStart(): number {
    return this.before !== -Infinity && this.after > 0 && this.after + this.before > 0 ? 0 : -Infinity;
  }

  private locateShifted(t: number): void {
    this.locatePlain(this.plainOf(t));
    // Going to ms and back rounds, so that the first answer may be a line off. Steps are taken among the unshifted
    // lines, by a share of their gap: beside a shifted one, an extreme tempo leaves no room for a small amount.
    while (this.shifted(this.after) <= t) {
      const { after } = this;
      this.locatePlain(after);
      if (this.after <= after) break;
    }
    while (this.shifted(this.before) > t) {
      const { before } = this;
      this.locatePlain(before - BESIDE * (this.after - before));
      if (this.before >= before) break;
    }
    this.before = this.shifted(this.before);
    this.after = this.shifted(this.after);
  }

  private locatePlain(t: number): void {
    let piece = this.piece;
    if (t < piece.start || t >= piece.end) piece = this.findPiece(t);
    if (piece.pattern.even > 0) {
      this.locateEven(t, piece);
      return;
    }
    const { period, lines, index, cyclesPerTick, slotsPerTick } = piece.pattern;
    let base = piece.start + Math.floor((t - piece.start) * cyclesPerTick) * period;
    // Rounding may land a cycle off at its very border.
    if (t - base >= period) base += period;
    else if (t < base) base -= period;
    let slot = Math.floor((t - base) * slotsPerTick);
    if (slot >= index.length) slot = index.length - 1;
    const count = lines.length;
    let i = index[slot];
    while (i + 1 < count && base + lines[i + 1] <= t) i++;
    while (i >= 0 && base + lines[i] > t) i--;
    this.before = i >= 0 ? base + lines[i] : this.lastBefore(piece, base);
    const after = i + 1 < count ? base + lines[i + 1] : base + period + lines[0];
    this.after = after < piece.end ? after : piece.end + this.pieces[this.next].pattern.lines[0];
  }

  /** The same where all lines are one step apart: what most grids are. */
  private locateEven(t: number, { start, end, pattern }: LinePiece): void {
    const step = pattern.even;
    const before = evenBefore(t, start, step, pattern.linesPerTick);
    const after = before + step;
    this.before = before;
    this.after = after < end ? after : end + this.pieces[this.next].pattern.lines[0];
  }

  /** The last line before a cycle that starts at `base` and has none at its start. */
  private lastBefore(piece: LinePiece, base: number): number {
    const { period, lines } = piece.pattern;
    if (base - period >= piece.start) return base - period + lines[lines.length - 1];
    const previous = this.pieces[this.pieces.indexOf(piece) - 1];
    if (!previous) return base - period + lines[lines.length - 1];
    const cycle = Math.ceil((piece.start - previous.start) / previous.pattern.period) - 1;
    const start = previous.start + cycle * previous.pattern.period;
    const inside = previous.pattern.lines.filter((line) => start + line < piece.start);
    return inside.length > 0 ? start + inside[inside.length - 1] : this.lastBefore(previous, start);
  }

  private findPiece(t: number): LinePiece {
    let low = 0;
    let high = this.pieces.length - 1;
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (this.pieces[middle].start <= t) low = middle;
      else high = middle - 1;
    }
    this.piece = this.pieces[low];
    this.next = Math.min(low + 1, this.pieces.length - 1);
    return this.piece;
  }

  private shiftAt(t: number): number {
    return amountInTicks(this.shift, t, this.tempo);
  }

  private shifted(line: number): number {
    return line === -Infinity ? line : line + this.shiftAt(line);
  }

  /** The unshifted line of a shifted one. */
  private plainOf(line: number): number {
    return this.shift.unit === 'ticks' ? line - this.shift.value : this.tempo.shift(line, -this.shift.value);
  }
}

/** Of lines that are one step apart from `start` on: the last at or before `t`. */
function evenBefore(t: Ticks, start: Ticks, step: Ticks, linesPerTick: number): Ticks {
  const before = start + Math.floor((t - start) * linesPerTick) * step;
  // Rounding may land a line off.
  if (t - before >= step) return before + step;
  return t < before ? before - step : before;
}

/** The lines of a grid through a song. */
export function gridLines(g: Grid, time: SongTime): Lines {
  const { meter, tempo } = time;
  if (g.restart === 'song') {
    const whole = { start: 0, end: Infinity, pattern: songPattern(g, meter.ppq) };
    return new Lines([whole], g.shift, tempo);
  }
  const pieces = meter.pieces.map(({ tick, end, barTicks }) => {
    return { start: tick, end, pattern: barPattern(g, barTicks, meter.ppq) };
  });
  return new Lines(pieces, g.shift, tempo);
}
