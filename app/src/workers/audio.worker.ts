import { expose } from 'comlink';
import { findHits } from '@early-sparrow/core/audio';
import type { AudioApi } from './audio-api';

const api: AudioApi = {
  hits: (samples, rate, told) => Promise.resolve(findHits(samples, rate, (share) => void told(share))),
};

expose(api);
