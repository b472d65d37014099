import type { Hit, Peaks } from '@early-sparrow/core/audio';
import type { ProxyMarked } from 'comlink';
import type { Told } from './worker-link';

/** Listens to sound files. Samples of each channel, from −1 to 1; rates in samples a second. */
export interface AudioApi {
  hits(sides: readonly Float32Array[], rate: number, told: Told & ProxyMarked): Promise<readonly Hit[]>;
  peaks(sides: readonly Float32Array[], rate: number): Promise<Peaks>;
}
