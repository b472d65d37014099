import type { SongTime } from '../grid';
import type { MeterPiece } from '../time';

/** Bars of one length and about one tempo, with the chords that fall into them by their place in the bar. */
export interface BarHistogram {
  readonly piece: MeterPiece;
  readonly barTicks: number;
  readonly barMs: number;
  /** Means of the bins that hold chords, ascending, in ms from the bar line. */
  readonly at: Float64Array;
  readonly weight: Float64Array;
  readonly chords: number;
}

/** Tempi within this share of each other are one. */
const TEMPO_STEP = 0.03;
/** Width of a bin in ms. */
const BIN_MS = 1;

/** Sorts chords (places in ticks) by the kind of bar that they fall into, and counts their places in it. */
export function barHistograms(place: Float64Array, time: SongTime): BarHistogram[] {
  const { tempo, meter } = time;
  const groups = new Map<string, { piece: MeterPiece; bars: number; ms: number[] }>();
  for (const tick of place) {
    const piece = meter.pieceAt(tick);
    const bar = meter.barStartAt(Math.max(0, tick));
    const msPerTick = 60_000 / (tempo.bpmAt(tick) * meter.ppq);
    const level = tempo.constant ? 0 : Math.round(Math.log(msPerTick) / TEMPO_STEP);
    const key = `${piece.barTicks}.${level}`;
    let group = groups.get(key);
    if (!group) groups.set(key, (group = { piece, bars: piece.barTicks * msPerTick, ms: [] }));
    // The group's own tempo stretches the bar, so that equal places in the bar meet in one bin.
    group.ms.push(((tick - bar) / piece.barTicks) * group.bars);
  }
  return [...groups.values()].map(({ piece, bars, ms }) => {
    const bins = new Map<number, { count: number; sum: number }>();
    for (const t of ms) {
      const key = Math.round(t / BIN_MS);
      const bin = bins.get(key) ?? { count: 0, sum: 0 };
      bins.set(key, bin);
      bin.count++;
      bin.sum += t;
    }
    const sorted = [...bins].sort((a, b) => a[0] - b[0]);
    return {
      piece,
      barTicks: piece.barTicks,
      barMs: bars,
      // Where they lie, not where the bin does: of a programmed part half a ms is the whole difference between two lags.
      at: Float64Array.from(sorted, ([, { count, sum }]) => sum / count),
      weight: Float64Array.from(sorted, ([, { count }]) => count),
      chords: ms.length,
    };
  });
}
