import type { Ms } from '../time';
import type { Places } from './feel';
import type { Onset } from './onsets';
import type { Placed } from './placed';

/** How unevenly somebody may play around the beat. */
const JITTERS: readonly Ms[] = [8, 14, 22, 32];
/** Standard deviation of the logarithm of a tempo, gathered over {@link OVER}. */
const USUAL_WALK = 0.03;
const WALKS = [0.012, 0.06];
const OVER: Ms = 600;
/** The first beat and the first tempo are known so well beforehand: in ms, and as a share of the period. */
const FIRST_BEAT: Ms = 30;
const FIRST_PERIOD = 0.2;

/**
 * How likely the onsets' times are if they lie at their places of beats whose tempo walks, in nats; the unevenness and
 * the walk that explain them best are taken. Finer beats gain nothing by being more. (Kalman filter over beat and
 * period: Cemgil et al. 2001, Journal of New Music Research 28:4, in form.)
 * @param beats where the filter starts: the first two, in ms
 */
export function timingNats(beats: Float64Array, onsets: readonly Onset[], placed: Placed, places: Places): number {
  const at = (jitter: Ms, walk: number) => filtered(beats, onsets, placed, places, jitter, walk);
  // The unevenness first: it matters more, and hardly depends on the walk.
  let best = { nats: -Infinity, jitter: JITTERS[0] };
  for (const jitter of JITTERS) {
    const nats = at(jitter, USUAL_WALK);
    if (nats > best.nats) best = { nats, jitter };
  }
  return Math.max(best.nats, ...WALKS.map((walk) => at(best.jitter, walk)));
}

function filtered(
  beats: Float64Array,
  onsets: readonly Onset[],
  { at, width }: Placed,
  places: Places,
  jitter: Ms,
  walk: number,
): number {
  let [beat, period] = [beats[0], beats[1] - beats[0]];
  // Their covariances: beat and beat, beat and period, period and period.
  let [bb, bp, pp] = [FIRST_BEAT ** 2, 0, (FIRST_PERIOD * period) ** 2];
  let now = 0;
  let squares = 0;
  // Products of a few variances at a time save most of the logarithms.
  let [logs, product] = [0, 1];
  for (let i = 0; i < onsets.length; i++) {
    if (at[i] < 0) continue;
    for (const to = Math.floor(at[i] / width); now < to; now++) {
      beat += period;
      bb += 2 * bp + pp;
      bp += pp;
      pp += (period * walk) ** 2 * (period / OVER);
    }
    const place = places[at[i] % width][0];
    const miss = onsets[i].ms - beat - place * period;
    const [hb, hp] = [bb + place * bp, bp + place * pp];
    const variance = hb + place * hp + jitter * jitter;
    squares += (miss * miss) / variance;
    product *= 2 * Math.PI * variance;
    if (product > 1e100) {
      logs += Math.log(product);
      product = 1;
    }
    beat += (hb / variance) * miss;
    period += (hp / variance) * miss;
    bb -= (hb * hb) / variance;
    bp -= (hb * hp) / variance;
    pp -= (hp * hp) / variance;
  }
  return -0.5 * (squares + logs + Math.log(product));
}
