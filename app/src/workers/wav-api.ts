import type { Rendering, Sound, WavBits } from '@early-sparrow/core/sound';
import type { ProxyMarked } from 'comlink';
import type { Told } from './worker-link';

/** A sound out of the bank. */
export interface BankSample extends Sound {
  readonly bytes: ArrayBuffer;
}

/** Renders sound into files. */
export interface WavApi {
  /** The renderings one after the other, with a rest between, as one WAV file. */
  render(
    renderings: readonly Rendering[],
    sounds: readonly BankSample[],
    bits: WavBits,
    told: Told & ProxyMarked,
  ): Promise<Uint8Array>;
}
