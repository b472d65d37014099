import { stepTicks, type Grid, type Lines, type SongTime } from '../grid';
import { openAxis } from './axis';
import { typicalStepMs } from './follow';
import { LAG_SD, MOST_LAG } from './model';
import { offsetsFrom } from './offsets';
import { smoothPath } from './path';
import { bestEvidence } from './residuals';
import { decodeReturning } from './returning';
import { cycleTicks } from './walk';

/**
 * The lines that one would choose who knows how uneven a player is, how the drift spreads and comes back, and the lag, but
 * not the lines: how well following can be done. For measuring only.
 * @param truth the true lines, from which those values are fitted
 */
export function oracleLines(
  place: Float64Array,
  truth: Float64Array,
  lines: Lines,
  time: SongTime,
  grid: Grid,
): Float64Array {
  const unit = stepTicks({ value: grid.value, shape: 'straight' }, time.meter.ppq);
  const stepMs = typicalStepMs(place, unit, time);
  const offsets = offsetsFrom(place, truth, unit, stepMs);
  const { model } = bestEvidence(offsets);
  const { lag, drift } = smoothPath(offsets, model);
  const { wander, sigma } = model;
  if (wander.kind === 'steady') return place.map((t) => lines.nearest(Math.max(0, t - lag * unit)));
  const spread = Math.sqrt(drift.reduce((sum, d) => sum + (d - lag) ** 2, 0) / drift.length) || LAG_SD / stepMs;
  // A walk of which the end is known is one that comes back as slowly as its spread allows.
  const known =
    wander.kind === 'returning' ? wander : { spread, pull: Math.max(1e-4, wander.tau ** 2 / (2 * spread ** 2)) };
  const returning = { sigma: Math.max(0.02, sigma), spread: known.spread, pull: known.pull, lag, nats: 0 };
  const axis = openAxis(MOST_LAG / stepMs);
  return decodeReturning(returning, axis, place, lines, unit, cycleTicks(grid, time), () => undefined);
}
