import FFT from 'fft.js';
import type { Ms } from '../time';

/** Where something is struck in a recording. */
export interface Hit {
  readonly ms: Ms;
  /** How strong it is against the strongest, over 0 to 1. */
  readonly strength: number;
}

/** Spectra are taken of so many ms, so far apart. */
const FRAME: Ms = 23;
const HOP: Ms = 3;
/** Loudness is compressed, so that soft hits count beside loud ones. */
const COMPRESSION = 1000;
/** A hit stands out in so many ms on either side, over their middle by a share of the largest. */
const AROUND: Ms = 90;
const APART: Ms = 30;
const OVER = 0.06;
/** The place of a hit is looked for so far on either side, in windows of so many ms. */
const NEAR: Ms = 14;
const WINDOW: Ms = 1;
const GOOD_PART = 0.35;
/** Below this share of the loudest nothing is struck. */
const SILENT = 0.003;
/** Nor below this, −60 dB of full scale: dither and the hiss of a converter lie there. */
const NOISE = 0.001;

/**
 * Hits in a recording: where the spectrum gains most (spectral flux of compressed magnitudes; Dixon 2006, Onset Detection
 * Revisited, DAFx-06), each then put where the loudness begins to rise, to about a ms.
 * @param samples of one channel, from −1 to 1
 * @param rate samples a second
 */
export function findHits(samples: Float32Array, rate: number, told: (share: number) => void = () => undefined): Hit[] {
  const flux = fluxOf(samples, rate, told);
  const peaks = peaksOf(flux);
  // The slope: of what rings on from before, low tones above all, little is left in it.
  const slope = samples.map((s, i) => s - (i > 0 ? samples[i - 1] : 0));
  const loudest = slope.reduce((most, s) => Math.max(most, Math.abs(s)), 0);
  const hits = peaks
    .map((k) => rising(slope, rate, k * HOP))
    .filter(({ rise }) => rise > Math.max(NOISE, SILENT * loudest))
    .sort((a, b) => a.ms - b.ms);
  const apart = hits.filter((h, i) => i === 0 || h.ms - hits[i - 1].ms >= APART / 2);
  const most = apart.reduce((m, h) => Math.max(m, h.rise), 0);
  return apart.map(({ ms, rise }) => ({ ms, strength: rise / most }));
}

/** How much the spectrum gains at each hop. */
function fluxOf(samples: Float32Array, rate: number, told: (share: number) => void): Float64Array {
  const size = 2 ** Math.round(Math.log2((FRAME / 1000) * rate));
  const hop = (HOP / 1000) * rate;
  const fft = new FFT(size);
  const out = fft.createComplexArray();
  const shape = Float64Array.from({ length: size }, (_, i) => 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / size));
  const frame = new Float64Array(size);
  const bins = size / 2;
  let last = new Float64Array(bins);
  let now = new Float64Array(bins);
  const count = Math.ceil(samples.length / hop);
  const flux = new Float64Array(count);
  for (let k = 0; k < count; k++) {
    // The frame's middle is at the hop.
    const from = Math.round(k * hop) - bins;
    for (let i = 0; i < size; i++) frame[i] = (samples[from + i] ?? 0) * shape[i];
    fft.realTransform(out, frame);
    let gain = 0;
    for (let b = 0; b < bins; b++) {
      now[b] = Math.log1p((COMPRESSION * Math.hypot(out[2 * b], out[2 * b + 1])) / size);
      if (now[b] > last[b]) gain += now[b] - last[b];
    }
    flux[k] = gain;
    [last, now] = [now, last];
    if ((k & 255) === 0) told(k / count);
  }
  return flux;
}

function peaksOf(flux: Float64Array): number[] {
  const around = Math.round(AROUND / HOP);
  const apart = Math.round(APART / HOP);
  const most = flux.reduce((m, f) => Math.max(m, f), 0);
  const peaks: number[] = [];
  for (let k = 0; k < flux.length; k++) {
    const near = flux.subarray(Math.max(0, k - apart), k + apart + 1);
    if (flux[k] <= 0 || near.some((f) => f > flux[k])) continue;
    const wide = flux.slice(Math.max(0, k - around), k + around + 1).sort();
    if (flux[k] < wide[wide.length >> 1] + OVER * most) continue;
    if (peaks.length > 0 && k - peaks[peaks.length - 1] < apart) continue;
    peaks.push(k);
  }
  return peaks;
}

/**
 * Where near a time the loudness begins to rise, and by how much it does: windows beside each other are compared. A low drum
 * swells in waves; the first of them that is a good part of the largest counts.
 */
function rising(samples: Float32Array, rate: number, ms: Ms): { ms: Ms; rise: number } {
  const width = Math.max(1, Math.round((WINDOW / 1000) * rate));
  const from = Math.max(0, Math.round(((ms - NEAR) / 1000) * rate));
  const to = Math.min(samples.length, Math.round(((ms + NEAR) / 1000) * rate));
  const peak = (at: number) => {
    let most = 0;
    for (let i = Math.max(0, at); i < Math.min(samples.length, at + width); i++)
      most = Math.max(most, Math.abs(samples[i]));
    return most;
  };
  const step = Math.max(1, width >> 2);
  const rises: number[] = [];
  for (let at = from; at < to; at += step) {
    rises.push(peak(at) - Math.max(peak(at - width), peak(at - 2 * width), peak(at - 4 * width)));
  }
  const rise = Math.max(0, ...rises);
  const first = rises.findIndex((r) => r >= GOOD_PART * rise);
  return { ms: ((from + Math.max(0, first) * step) * 1000) / rate, rise };
}
