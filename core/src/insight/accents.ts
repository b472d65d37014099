import { barPattern, gridLines, type Grid, type SongTime } from '../grid';
import type { Ms } from '../time';
import { lineAt, lineStrengths } from './strength';

/** Chords with the lines that one reading puts them on. */
export interface OnLines {
  readonly grid: Grid;
  /** ms that its lag is more than that which {@link line} goes by. */
  readonly later: Ms;
  /** Lines of the chords, or their places without the lag, in ticks. */
  readonly line: Float64Array;
}

/**
 * How much better what stands out (low, loud, full) is told by how strong its place in the bar is than by chance, in
 * bits: a straight line that rises with the strength, against none (Gaussian; its slope is paid for as in Schwarz 1978,
 * Annals of Statistics 6:2). Before anything is heard accents are as likely as none: so a few weak ones count a little, and
 * where strong places stand out less it is next to nothing.
 * @param salience of each chord, in standard deviations
 */
export function accentBits({ grid, later, line }: OnLines, salience: Float64Array, time: SongTime): number {
  const n = line.length;
  if (n < LEAST) return 0;
  const strength = strengthsOn(grid, line, later, time);
  const [x, y] = [mean(strength), mean(salience)];
  let [xx, xy, yy] = [0, 0, 0];
  for (let i = 0; i < n; i++) {
    const [a, b] = [strength[i] - x, salience[i] - y];
    xx += a * a;
    xy += a * b;
    yy += b * b;
  }
  if (xx === 0 || yy === 0) return 0;
  // No more than nine tenths of what is heard goes by the place, however neat a few chords are.
  const told = xy > 0 ? Math.min(MOST_TOLD, (xy * xy) / (xx * yy)) : 0;
  const counted = Math.min(n, MOST_COUNTED);
  const gain = (-counted / 2) * Math.log2(1 - told) - Math.log2(counted) / 2;
  return gain > CERTAIN ? gain : Math.log2(1 + 2 ** gain);
}

const LEAST = 3;
const MOST_TOLD = 0.9;
/**
 * Patterns repeat, so more chords tell no more: in 27,000 a correlation of a twentieth, which nobody hears, was certain.
 */
const MOST_COUNTED = 1000;
/** From so many bits on that there are no accents at all is out of the question. */
const CERTAIN = 50;

/** How strong the line of each chord is in its bar, by doublings. */
function strengthsOn(grid: Grid, line: Float64Array, later: Ms, time: SongTime): Float64Array {
  const { meter, tempo } = time;
  const lines = gridLines(grid, time);
  const known = new Map<number, { lines: Float64Array; strength: Float64Array }>();
  return line.map((l) => {
    const at = lines.nearest(Math.max(0, tempo.shift(l, -later)));
    const start = meter.barStartAt(at + 0.5);
    const piece = meter.pieceAt(at);
    let bar = known.get(piece.tick);
    if (!bar) {
      bar = {
        lines: barPattern(grid, piece.barTicks, meter.ppq).lines,
        strength: lineStrengths(grid, piece, meter.ppq),
      };
      known.set(piece.tick, bar);
    }
    return Math.log2(bar.strength[lineAt(bar.lines, at - start)]);
  });
}

function mean(values: Float64Array): number {
  return values.reduce((a, b) => a + b, 0) / values.length;
}
