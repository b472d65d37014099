import { gridLines, stepTicks, type Grid, type SongTime } from '../grid';
import { blockBootstrap, median, medianOfPicked, type Interval } from '../maths';

/** How far a player's off-beats come late. */
export interface Swing {
  /** Share of the pair that its first step takes. */
  readonly share: number;
  readonly interval: Interval;
  readonly pairs: SwungPairs;
}

/** The pairs that have both their notes, in order. */
export interface SwungPairs {
  /** Where each is, in ticks. */
  readonly tick: Float64Array;
  /** Its own share. */
  readonly share: Float64Array;
}

/** Fewer off-beats or on-beats than this say nothing. */
const FEWEST = 4;

/** Chords on a swung grid. */
interface Steps {
  readonly tick: ArrayLike<number>;
  readonly pair: Float64Array;
  /** Offset from the straight line, in steps. */
  readonly offset: Float64Array;
  /** 1 for an off-beat. */
  readonly off: Uint8Array;
}

/**
 * Measures swing: 0.5 + (median off-beat offset − median on-beat offset) / 2 steps, each from its straight
 * line, so that a lag does not read as swing. Null where there are too few notes.
 * @param g the swung grid that was suggested: it says which chords are off-beats
 * @param lag in ms
 */
export function measureSwing(place: Float64Array, g: Grid, lag: number, time: SongTime): Swing | null {
  const steps = stepsWithout(place, g, lag, time);
  const share = shareOf(steps);
  if (share === null) return null;
  const middles = [0, 1].map((off) =>
    medianOfPicked(
      steps.offset.map((o, i) => (steps.off[i] === off ? o : NaN)),
      FEWEST,
    ),
  );
  const interval = blockBootstrap(place.length, (picked) => 0.5 + (middles[1](picked) - middles[0](picked)) / 2);
  return { share, interval, pairs: pairsOf(steps) };
}

/** The share alone of {@link measureSwing}: most of its time goes into the interval. */
export function swingShare(place: Float64Array, g: Grid, lag: number, time: SongTime): number | null {
  return shareOf(stepsWithout(place, g, lag, time));
}

/** On-beats further than this from an off-beat tell nothing of the time around it; in steps. */
const NEAR = 4;

/**
 * Measures the swing of a player whose time wanders: compares each off-beat with the on-beats before and after it, as they
 * were played. (Removing the drift first would also remove some of the unevenness, and the interval would be too narrow.)
 * @param line of each chord, in ticks
 */
export function measureSwingBeside(place: Float64Array, line: Float64Array, g: Grid, time: SongTime): Swing | null {
  const steps = stepsOn(place, place, line, g, time);
  const { tick, offset, off } = steps;
  const far = NEAR * stepTicks(g, time.meter.ppq);
  const besides: number[] = [];
  let before = -1;
  for (let i = 0; i < place.length; i++) {
    if (off[i] === 0) {
      before = i;
      continue;
    }
    const after = off.subarray(i + 1, i + 1 + NEAR).indexOf(0) + i + 1;
    if (before < 0 || after === i || tick[after] <= tick[before]) continue;
    if (tick[i] - tick[before] > far || tick[after] - tick[i] > far) continue;
    const share = (tick[i] - tick[before]) / (tick[after] - tick[before]);
    besides.push(offset[i] - offset[before] - (offset[after] - offset[before]) * share);
  }
  if (besides.length < FEWEST) return null;
  const middle = medianOfPicked(besides);
  const interval = blockBootstrap(besides.length, (picked) => 0.5 + middle(picked) / 2);
  return { share: 0.5 + median(besides) / 2, interval, pairs: pairsOf(steps) };
}

function shareOf({ offset, off }: Steps): number | null {
  const [onBeats, offBeats] = [0, 1].map((kind) => offset.filter((_, i) => off[i] === kind));
  if (onBeats.length < FEWEST || offBeats.length < FEWEST) return null;
  return 0.5 + (median(offBeats) - median(onBeats)) / 2;
}

function pairsOf({ tick, pair, offset, off }: Steps): SwungPairs {
  const second = Array.from(off.keys()).filter(
    (i) => i > 0 && off[i] === 1 && off[i - 1] === 0 && pair[i] === pair[i - 1],
  );
  return {
    tick: Float64Array.from(second, (i) => tick[i - 1]),
    share: Float64Array.from(second, (i) => 0.5 + (offset[i] - offset[i - 1]) / 2),
  };
}

/** Chords on the lines that they take once a lag in ms is gone. */
function stepsWithout(place: Float64Array, g: Grid, lag: number, time: SongTime): Steps {
  const lines = gridLines(g, time);
  const at = place.map((tick) => time.tempo.shift(tick, -lag));
  const line = at.map((tick) => lines.nearest(tick));
  return stepsOn(place, at, line, g, time);
}

/** @param at where the chords lie once the lag is gone, in ticks; @param line that each takes */
function stepsOn(tick: Float64Array, at: Float64Array, line: Float64Array, g: Grid, { meter }: SongTime): Steps {
  const length = stepTicks(g, meter.ppq);
  const delay = (g.swing - 0.5) * 2 * length;
  const pair = new Float64Array(tick.length);
  const offset = new Float64Array(tick.length);
  const off = new Uint8Array(tick.length);
  for (let i = 0; i < tick.length; i++) {
    const bar = g.restart === 'bar' ? meter.barStartAt(line[i] + 0.5) : 0;
    const index = Math.round((line[i] - bar) / length - (g.swing - 0.5));
    // An off-beat's swung line is not on a straight one.
    const late = Math.abs(line[i] - bar - index * length - delay) < 1 && Math.abs(index % 2) === 1;
    off[i] = late ? 1 : 0;
    offset[i] = (at[i] - (late ? line[i] - delay : line[i])) / length;
    pair[i] = bar + Math.floor(index / 2) * 2 * length;
  }
  return { tick, pair, offset, off };
}
