import type { VoiceKind } from '@early-sparrow/core/song';

/** One note on its way to the ear. Times in seconds of the audio clock, loudness from 0 to 1. */
export interface Strike {
  readonly pitch: number;
  readonly time: number;
  readonly seconds: number;
  readonly loudness: number;
}

/** What sounds for one note: its sources, which end by themselves, and the node that they leave by. */
export interface Sounded {
  readonly sources: readonly AudioScheduledSourceNode[];
  readonly out: AudioNode;
}

/** Attack, decay and release in seconds, sustain as a share of the peak. */
interface Envelope {
  readonly attack: number;
  readonly decay: number;
  readonly sustain: number;
  readonly release: number;
  /** Peak at full loudness. */
  readonly gain: number;
}

interface Tone extends Envelope {
  readonly wave: OscillatorType;
  /** Lowpass in Hz. */
  readonly cutoff: number;
}

interface Fm extends Envelope {
  /** Frequency of the modulator as a multiple of the carrier's, and how far it bends it. */
  readonly ratio: number;
  readonly index: number;
  /** In seconds, until the bending has gone. */
  readonly brightness: number;
}

const TONES: Readonly<Record<'plucked' | 'bass' | 'strings' | 'reed', Tone>> = {
  bass: { wave: 'triangle', attack: 0.005, decay: 0.6, sustain: 0.35, release: 0.08, gain: 0.5, cutoff: 2600 },
  plucked: { wave: 'sawtooth', attack: 0.003, decay: 0.45, sustain: 0.05, release: 0.15, gain: 0.16, cutoff: 3200 },
  strings: { wave: 'sawtooth', attack: 0.05, decay: 0.3, sustain: 0.7, release: 0.25, gain: 0.09, cutoff: 2800 },
  reed: { wave: 'square', attack: 0.014, decay: 0.15, sustain: 0.75, release: 0.07, gain: 0.11, cutoff: 2400 },
};
const FMS: Readonly<Record<'keys' | 'mallets', Fm>> = {
  keys: {
    ratio: 1,
    index: 1.4,
    brightness: 0.35,
    attack: 0.003,
    decay: 1.4,
    sustain: 0.15,
    release: 0.25,
    gain: 0.2,
  },
  mallets: {
    ratio: 4,
    index: 1.8,
    brightness: 0.06,
    attack: 0.002,
    decay: 0.32,
    sustain: 0,
    release: 0.25,
    gain: 0.3,
  },
};

/** Equal temperament, A4 = 440 Hz (ISO 16). */
function frequency(pitch: number): number {
  return 440 * 2 ** ((pitch - 69) / 12);
}

/** Makes the sound of one note; its nodes are its own, so that nothing has to be built before it is played. */
export function sound(context: BaseAudioContext, kind: VoiceKind, strike: Strike): Sounded {
  if (kind === 'drums') return drum(context, strike);
  return kind === 'keys' || kind === 'mallets' ? fm(context, FMS[kind], strike) : tone(context, TONES[kind], strike);
}

/** Draws an envelope on a gain and gives the time at which it has faded out. */
function shape(gain: AudioParam, e: Envelope, { time, seconds, loudness }: Strike): number {
  const peak = e.gain * loudness;
  const end = Math.max(time + seconds, time + e.attack);
  gain.setValueAtTime(0, time);
  gain.linearRampToValueAtTime(peak, time + e.attack);
  gain.setTargetAtTime(peak * e.sustain, time + e.attack, e.decay / 3);
  gain.setTargetAtTime(0, end, e.release / 4);
  return end + e.release * 1.5;
}

function tone(context: BaseAudioContext, t: Tone, strike: Strike): Sounded {
  const source = new OscillatorNode(context, { type: t.wave, frequency: frequency(strike.pitch) });
  const filter = new BiquadFilterNode(context, { type: 'lowpass', frequency: t.cutoff });
  const out = new GainNode(context, { gain: 0 });
  source.connect(filter).connect(out);
  source.start(strike.time);
  source.stop(shape(out.gain, t, strike));
  return { sources: [source], out };
}

function fm(context: BaseAudioContext, f: Fm, strike: Strike): Sounded {
  const hz = frequency(strike.pitch);
  const carrier = new OscillatorNode(context, { frequency: hz });
  const modulator = new OscillatorNode(context, { frequency: hz * f.ratio });
  const bend = new GainNode(context, { gain: 0 });
  const out = new GainNode(context, { gain: 0 });
  bend.gain.setValueAtTime(hz * f.ratio * f.index * (0.4 + 0.6 * strike.loudness), strike.time);
  bend.gain.setTargetAtTime(hz * f.ratio * f.index * 0.08, strike.time, f.brightness);
  modulator.connect(bend).connect(carrier.frequency);
  carrier.connect(out);
  const end = shape(out.gain, f, strike);
  for (const source of [carrier, modulator]) {
    source.start(strike.time);
    source.stop(end);
  }
  return { sources: [carrier, modulator], out };
}

/** A drum of skin: a sine that falls in pitch; Hz and seconds. */
interface Skin {
  readonly from: number;
  readonly to: number;
  readonly fall: number;
  readonly decay: number;
  readonly gain: number;
}
/** Metal, wire or wood: filtered noise. */
interface Rattle {
  readonly filter: BiquadFilterType;
  readonly hz: number;
  readonly decay: number;
  readonly gain: number;
}

const TOMS = new Set([41, 43, 45, 47, 48, 50]);
const SNARES = new Set([37, 38, 39, 40]);
const CLOSED = new Set([42, 44, 54, 69, 70]);
const CYMBALS = new Set([49, 51, 52, 53, 55, 57, 59]);

/** A small kit by the General MIDI percussion map: skins, a snare, and metal of three lengths. */
function drum(context: BaseAudioContext, strike: Strike): Sounded {
  const { pitch } = strike;
  if (pitch <= 36) return skin(context, { from: 160, to: 48, fall: 0.03, decay: 0.22, gain: 0.8 }, strike);
  if (TOMS.has(pitch)) {
    const hz = frequency(36 + pitch - 41);
    return skin(context, { from: hz * 1.8, to: hz, fall: 0.05, decay: 0.28, gain: 0.5 }, strike);
  }
  if (SNARES.has(pitch)) return rattle(context, { filter: 'highpass', hz: 1500, decay: 0.13, gain: 0.34 }, strike);
  if (CLOSED.has(pitch)) return rattle(context, { filter: 'highpass', hz: 7000, decay: 0.045, gain: 0.3 }, strike);
  if (pitch === 46) return rattle(context, { filter: 'highpass', hz: 6500, decay: 0.3, gain: 0.24 }, strike);
  if (CYMBALS.has(pitch)) return rattle(context, { filter: 'highpass', hz: 5000, decay: 0.8, gain: 0.18 }, strike);
  return skin(
    context,
    { from: frequency(pitch) * 1.1, to: frequency(pitch), fall: 0.004, decay: 0.07, gain: 0.3 },
    strike,
  );
}

function skin(context: BaseAudioContext, s: Skin, { time, loudness }: Strike): Sounded {
  const source = new OscillatorNode(context, { frequency: s.from });
  const out = new GainNode(context, { gain: 0 });
  source.frequency.setValueAtTime(s.from, time);
  source.frequency.exponentialRampToValueAtTime(s.to, time + s.fall);
  fall(out.gain, s.gain * loudness, time, s.decay);
  source.connect(out);
  source.start(time);
  source.stop(time + s.decay * 3);
  return { sources: [source], out };
}

function rattle(context: BaseAudioContext, r: Rattle, { time, loudness }: Strike): Sounded {
  const source = new AudioBufferSourceNode(context, { buffer: noise(context), loop: true });
  const filter = new BiquadFilterNode(context, { type: r.filter, frequency: r.hz });
  const out = new GainNode(context, { gain: 0 });
  fall(out.gain, r.gain * loudness, time, r.decay);
  source.connect(filter).connect(out);
  source.start(time);
  source.stop(time + r.decay * 3);
  return { sources: [source], out };
}

function fall(gain: AudioParam, peak: number, time: number, decay: number): void {
  gain.setValueAtTime(0, time);
  gain.linearRampToValueAtTime(peak, time + 0.001);
  gain.setTargetAtTime(0, time + 0.001, decay / 2.5);
}

const noises = new WeakMap<BaseAudioContext, AudioBuffer>();

/** Half a second of white noise, made once; the same every time. */
function noise(context: BaseAudioContext): AudioBuffer {
  let buffer = noises.get(context);
  if (!buffer) {
    buffer = new AudioBuffer({ length: context.sampleRate / 2, sampleRate: context.sampleRate });
    const samples = buffer.getChannelData(0);
    let state = 0x2545f491;
    for (let i = 0; i < samples.length; i++) {
      // A linear congruential generator (Numerical Recipes) is random enough for a hiss.
      state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
      samples[i] = state / 0x80000000 - 1;
    }
    noises.set(context, buffer);
  }
  return buffer;
}
