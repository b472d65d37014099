import { gridLines, stepTicks, type Grid, type SongTime } from '../grid';
import { blockBootstrap, median, type Interval } from '../maths';

/** How far a player's off-beats come late. */
export interface Swing {
  /** Share of the pair that its first step takes. */
  readonly share: number;
  readonly interval: Interval;
  /** One entry a pair that has both its notes: where it is, in ticks, and its own share. */
  readonly pairs: readonly { readonly tick: number; readonly share: number }[];
}

/** Fewer off-beats or on-beats than this say nothing. */
const FEWEST = 4;

interface Step {
  readonly tick: number;
  readonly pair: number;
  /** Offset from the straight line, in steps. */
  readonly offset: number;
  readonly off: boolean;
}

/**
 * Measures swing: 0.5 + (median off-beat offset − median on-beat offset) / 2 steps, each from its straight
 * line, so that a lag does not read as swing. Null where there are too few notes.
 * @param g the swung grid that was suggested: it says which chords are off-beats
 * @param lag in ms
 */
export function measureSwing(place: Float64Array, g: Grid, lag: number, time: SongTime): Swing | null {
  const steps = sortSteps(place, g, lag, time);
  const shareOf = (list: readonly Step[]): number => {
    const on = list.filter((s) => !s.off).map((s) => s.offset);
    const off = list.filter((s) => s.off).map((s) => s.offset);
    return on.length < FEWEST || off.length < FEWEST ? NaN : 0.5 + (median(off) - median(on)) / 2;
  };
  const share = shareOf(steps);
  if (Number.isNaN(share)) return null;
  const interval = blockBootstrap(steps.length, (picked) => shareOf(Array.from(picked, (i) => steps[i])));
  const pairs: { tick: number; share: number }[] = [];
  steps.forEach((step, i) => {
    const before = steps[i - 1];
    if (step.off && before && !before.off && before.pair === step.pair) {
      pairs.push({ tick: before.tick, share: 0.5 + (step.offset - before.offset) / 2 });
    }
  });
  return { share, interval, pairs };
}

function sortSteps(place: Float64Array, g: Grid, lag: number, time: SongTime): Step[] {
  const { tempo, meter } = time;
  const length = stepTicks(g, meter.ppq);
  const swung = gridLines(g, time);
  const delay = (g.swing - 0.5) * 2 * length;
  return Array.from(place, (tick): Step => {
    const t = tempo.shift(tick, -lag);
    const line = swung.nearest(t);
    const bar = g.restart === 'bar' ? meter.barStartAt(line + 0.5) : 0;
    const index = Math.round((line - bar) / length - (g.swing - 0.5));
    // An off-beat's swung line is not on a straight one.
    const off = Math.abs(line - bar - index * length - delay) < 1 && Math.abs(index % 2) === 1;
    const straight = off ? line - delay : line;
    return { tick, pair: bar + Math.floor(index / 2) * 2 * length, offset: (t - straight) / length, off };
  });
}
