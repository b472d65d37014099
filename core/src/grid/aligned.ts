import type { TempoMap, Ticks } from '../time';
import { BESIDE, Lines } from './lines';

/** A line is taken to a place that is no further from it than this share of the gap there. */
const NEAR = 0.4;

/**
 * The lines of a grid, each moved to the place next to it where there is one near: another player's chords, say. There
 * are as many lines as before, in the same order; where nothing is near they are the grid's own.
 */
export class AlignedLines extends Lines {
  private readonly moved = new Map<Ticks, Ticks>();

  /** @param places in ticks, ascending */
  constructor(
    private readonly base: Lines,
    places: ArrayLike<Ticks>,
    tempo: TempoMap,
  ) {
    super(base.pieces, { value: 0, unit: 'ticks' }, tempo);
    for (let i = 0; i < places.length; i++) {
      const place = places[i];
      const line = base.nearest(place);
      // Before the first line the gap is the one behind it.
      const gap = base.before === -Infinity ? base.gapAt(place) : base.after - base.before;
      const known = this.moved.get(line);
      const nearer = known === undefined || Math.abs(place - line) < Math.abs(known - line);
      if (Math.abs(place - line) <= NEAR * gap && nearer && place >= 0) this.moved.set(line, place);
    }
  }

  override locate(t: Ticks): void {
    const { base } = this;
    base.locate(t);
    let { before, after } = base;
    // A moved line stays within its own gaps: the lines around a place are at most one further.
    if (this.placeOf(before) > t) {
      after = before;
      base.locate(before - BESIDE * (base.after - before));
      before = base.before;
    } else if (this.placeOf(after) <= t) {
      before = after;
      base.locate(after);
      after = base.after;
    }
    this.before = this.placeOf(before);
    this.after = this.placeOf(after);
  }

  private placeOf(line: Ticks): Ticks {
    return this.moved.get(line) ?? line;
  }
}
