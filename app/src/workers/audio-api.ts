import type { Hit } from '@early-sparrow/core/audio';
import type { ProxyMarked } from 'comlink';
import type { Told } from './worker-link';

/** Listens to recordings. */
export interface AudioApi {
  /** @param samples of one channel @param rate samples a second */
  hits(samples: Float32Array, rate: number, told: Told & ProxyMarked): Promise<readonly Hit[]>;
}
