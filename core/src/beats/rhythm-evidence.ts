import { logRising, logSumExp } from '../maths';
import type { Placed } from './placed';

/** A rhythm comes again after so many beats, not at all first, and how likely that is beforehand. */
const CYCLES: readonly (readonly [beats: number, share: number])[] = [
  [0, 0.2],
  [2, 0.12],
  [3, 0.1],
  [4, 0.3],
  [6, 0.08],
  [8, 0.2],
];
/** What is not known before counts as half a time each way (Krichevsky & Trofimov 1981). */
const PRIOR = 0.5;

/**
 * How likely it is beforehand that just these places are played, in nats: how often each is used is learned on the
 * way, and rhythms come again. A take begins with its first note and ends with its last. At a wrong beat (triplets for
 * sixteenths) they come again at other places.
 */
export function rhythmNats({ played, width }: Placed): number {
  return logSumExp(CYCLES.map(([cycle, share]) => Math.log(share) + learned(played, width, cycle * width)));
}

/**
 * How likely what is played is by the adaptive code, in nats, given what was played so many places back; 0 for no matter
 * what.
 */
function learned(played: Uint8Array, width: number, back: number): number {
  // For each place, and for what was there before (not known, nothing, something): how often not, how often.
  const counts = new Int32Array(width * 3 * 2);
  const [first, last] = [played.indexOf(1), played.lastIndexOf(1)];
  for (let i = Math.max(0, first); i <= last; i++) {
    const before = back === 0 || i < first + back ? 0 : 1 + played[i - back];
    counts[((i % width) * 3 + before) * 2 + played[i]]++;
  }
  let nats = 0;
  // In which order they came does not matter.
  for (let c = 0; c < counts.length; c += 2) {
    const [not, often] = [counts[c], counts[c + 1]];
    nats += logRising(PRIOR, not) + logRising(PRIOR, often) - logRising(2 * PRIOR, not + often);
  }
  return nats;
}
