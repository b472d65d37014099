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
  const lines = gridLines(g, time);
  const steps = Array.from(place, (tick): Step => {
    const at = time.tempo.shift(tick, -lag);
    return stepOn(tick, at, lines.nearest(at), g, time);
  });
  const shareOf = (list: readonly Step[]): number => {
    const on = list.filter((s) => !s.off).map((s) => s.offset);
    const off = list.filter((s) => s.off).map((s) => s.offset);
    return on.length < FEWEST || off.length < FEWEST ? NaN : 0.5 + (median(off) - median(on)) / 2;
  };
  const share = shareOf(steps);
  if (Number.isNaN(share)) return null;
  const interval = blockBootstrap(steps.length, (picked) => shareOf(Array.from(picked, (i) => steps[i])));
  return { share, interval, pairs: pairsOf(steps) };
}

/** On-beats further than this from an off-beat tell nothing of the time around it; in steps. */
const NEAR = 4;

/**
 * Measures the swing of a player whose time wanders: compares each off-beat with the on-beats before and after it, as they
 * were played. (Removing the drift first would also remove some of the unevenness, and the interval would be too narrow.)
 * @param line of each chord, in ticks
 */
export function measureSwingBeside(place: Float64Array, line: Float64Array, g: Grid, time: SongTime): Swing | null {
  const steps = Array.from(place, (tick, i) => stepOn(tick, tick, line[i], g, time));
  const length = stepTicks(g, time.meter.ppq);
  const besides: number[] = [];
  let before: Step | null = null;
  steps.forEach((step, i) => {
    if (!step.off) {
      before = step;
      return;
    }
    const after = steps.slice(i + 1, i + 1 + NEAR).find((s) => !s.off);
    if (!before || !after || after.tick <= before.tick) return;
    if (step.tick - before.tick > NEAR * length || after.tick - step.tick > NEAR * length) return;
    const share = (step.tick - before.tick) / (after.tick - before.tick);
    besides.push(step.offset - before.offset - (after.offset - before.offset) * share);
  });
  if (besides.length < FEWEST) return null;
  const shareOf = (indices: ArrayLike<number>) => 0.5 + median(Array.from(indices, (i) => besides[i])) / 2;
  const interval = blockBootstrap(besides.length, shareOf);
  return { share: 0.5 + median(besides) / 2, interval, pairs: pairsOf(steps) };
}

function pairsOf(steps: readonly Step[]): Swing['pairs'] {
  const pairs: { tick: number; share: number }[] = [];
  steps.forEach((step, i) => {
    const before = steps[i - 1];
    if (step.off && before && !before.off && before.pair === step.pair) {
      pairs.push({ tick: before.tick, share: 0.5 + (step.offset - before.offset) / 2 });
    }
  });
  return pairs;
}

/** @param at where the chord lies once the lag is gone, in ticks; @param line that it takes */
function stepOn(tick: number, at: number, line: number, g: Grid, { meter }: SongTime): Step {
  const length = stepTicks(g, meter.ppq);
  const delay = (g.swing - 0.5) * 2 * length;
  const bar = g.restart === 'bar' ? meter.barStartAt(line + 0.5) : 0;
  const index = Math.round((line - bar) / length - (g.swing - 0.5));
  // An off-beat's swung line is not on a straight one.
  const off = Math.abs(line - bar - index * length - delay) < 1 && Math.abs(index % 2) === 1;
  const straight = off ? line - delay : line;
  return { tick, pair: bar + Math.floor(index / 2) * 2 * length, offset: (at - straight) / length, off };
}
