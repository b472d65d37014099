import '../common/no-eval';
import { expose } from 'comlink';
import { findHits, peaksOf } from '@early-sparrow/core/audio';
import type { AudioApi } from './audio-api';

const api: AudioApi = {
  hits: (sides, rate, told) => Promise.resolve(findHits(together(sides), rate, (share) => void told(share))),
  peaks: (sides, rate) => Promise.resolve(peaksOf(sides, rate)),
};

/** All channels as one. */
function together(sides: readonly Float32Array[]): Float32Array {
  return sides.length === 1 ? sides[0] : sides[0].map((s, i) => (s + sides[1][i]) / 2);
}

expose(api);
