import '../common/no-eval';
import { expose, transfer } from 'comlink';
import { BankSampler } from '@early-sparrow/core/bank';
import { renderSpan, writeWav } from '@early-sparrow/core/sound';
import type { WavApi } from './wav-api';

/** Between two versions, in seconds. */
const REST = 1;
/** Progress is told in steps of this. */
const STEP = 0.01;

const api: WavApi = {
  async render(renderings, sounds, bits, told) {
    const [{ rate }] = renderings;
    let last = 0;
    const parts = renderings.map((rendering, k) => {
      const sampler = new BankSampler(rate);
      for (const { program, drums, bytes } of sounds) sampler.add(program, drums, bytes.slice(0));
      return renderSpan(rendering, sampler, (share) => {
        const all = (k + share) / renderings.length;
        if (all - last < STEP) return;
        last = all;
        void told(all);
      });
    });
    const length = parts.reduce((n, [left]) => n + left.length, 0) + (parts.length - 1) * REST * rate;
    const [left, right] = [new Float32Array(length), new Float32Array(length)];
    let at = 0;
    for (const [l, r] of parts) {
      left.set(l, at);
      right.set(r, at);
      at += l.length + REST * rate;
    }
    const bytes = writeWav(left, right, rate, bits);
    return transfer(bytes, [bytes.buffer]);
  },
};

expose(api);
