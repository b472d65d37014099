import type { Channel } from 'tone/build/esm/component/channel/Channel.js';
import { Gain } from 'tone/build/esm/core/context/Gain.js';
import { Filter } from 'tone/build/esm/component/filter/Filter.js';
import { FMSynth } from 'tone/build/esm/instrument/FMSynth.js';
import { MembraneSynth } from 'tone/build/esm/instrument/MembraneSynth.js';
import { NoiseSynth } from 'tone/build/esm/instrument/NoiseSynth.js';
import { PolySynth } from 'tone/build/esm/instrument/PolySynth.js';
import { Synth } from 'tone/build/esm/instrument/Synth.js';
import type { VoiceKind } from '@early-sparrow/core/sound';

/** What one track sounds with. Times in seconds of the audio clock, loudness from 0 to 1. */
export interface Voice {
  play(pitch: number, time: number, seconds: number, loudness: number): void;
  dispose(): void;
}

/** Equal temperament, A4 = 440 Hz (ISO 16). */
function frequency(pitch: number): number {
  return 440 * 2 ** ((pitch - 69) / 12);
}

/** Builds a voice that plays into a mixer channel. */
export function makeVoice(kind: VoiceKind, out: Channel): Voice {
  return kind === 'drums' ? new DrumVoice(out) : new TonalVoice(tonalSynth(kind), out);
}

function tonalSynth(kind: Exclude<VoiceKind, 'drums'>): PolySynth {
  switch (kind) {
    case 'keys':
      return poly(
        new PolySynth(FMSynth, {
          harmonicity: 1,
          modulationIndex: 1.6,
          envelope: { attack: 0.004, decay: 1.4, sustain: 0.15, release: 0.25 },
          modulationEnvelope: { attack: 0.002, decay: 0.35, sustain: 0.1, release: 0.2 },
        }),
        -14,
      );
    case 'mallets':
      return poly(
        new PolySynth(FMSynth, {
          harmonicity: 4,
          modulationIndex: 2.2,
          envelope: { attack: 0.002, decay: 0.32, sustain: 0, release: 0.25 },
          modulationEnvelope: { attack: 0.001, decay: 0.06, sustain: 0, release: 0.05 },
        }),
        -10,
      );
    case 'bass':
      return poly(
        new PolySynth(Synth, {
          oscillator: { type: 'triangle' },
          envelope: { attack: 0.006, decay: 0.6, sustain: 0.35, release: 0.08 },
        }),
        -6,
      );
    case 'plucked':
      return poly(
        new PolySynth(Synth, {
          oscillator: { type: 'sawtooth' },
          envelope: { attack: 0.003, decay: 0.45, sustain: 0.05, release: 0.15 },
        }),
        -18,
      );
    case 'strings':
      return poly(
        new PolySynth(Synth, {
          oscillator: { type: 'sawtooth' },
          envelope: { attack: 0.06, decay: 0.3, sustain: 0.7, release: 0.25 },
        }),
        -22,
      );
    case 'reed':
      return poly(
        new PolySynth(Synth, {
          oscillator: { type: 'square8' },
          envelope: { attack: 0.018, decay: 0.15, sustain: 0.75, release: 0.07 },
        }),
        -18,
      );
  }
}

function poly<T extends PolySynth>(synth: T, volume: number): PolySynth {
  synth.maxPolyphony = 64;
  synth.volume.value = volume;
  return synth as unknown as PolySynth;
}

class TonalVoice implements Voice {
  private readonly tone = new Filter(5200, 'lowpass');

  constructor(
    private readonly synth: PolySynth,
    out: Channel,
  ) {
    synth.chain(this.tone, out);
  }

  play(pitch: number, time: number, seconds: number, loudness: number): void {
    this.synth.triggerAttackRelease(frequency(pitch), seconds, time, loudness);
  }

  dispose(): void {
    this.synth.dispose();
    this.tone.dispose();
  }
}

/** A small kit by the General MIDI percussion map: skins, a snare, and metal of three lengths. */
class DrumVoice implements Voice {
  private readonly body = new Gain(0.9);
  private readonly skin = new MembraneSynth({ pitchDecay: 0.03, octaves: 5, volume: -4 }).connect(this.body);
  private readonly tom = new MembraneSynth({ pitchDecay: 0.06, octaves: 2.5, volume: -8 }).connect(this.body);
  private readonly brush = new Filter(1800, 'highpass').connect(this.body);
  private readonly metal = new Filter(7000, 'highpass').connect(this.body);
  private readonly snare = noise('white', 0.14, -10).connect(this.brush);
  private readonly closed = noise('white', 0.045, -14).connect(this.metal);
  private readonly open = noise('white', 0.32, -16).connect(this.metal);
  private readonly cymbal = noise('pink', 0.9, -14).connect(this.metal);
  private readonly block = new MembraneSynth({ pitchDecay: 0.004, octaves: 1.5, volume: -10 }).connect(this.body);
  private readonly last = new Map<object, number>();

  constructor(out: Channel) {
    this.body.connect(out);
  }

  play(pitch: number, time: number, _seconds: number, loudness: number): void {
    if (pitch <= 36) this.strike(this.skin, time, (t) => this.skin.triggerAttackRelease(48, 0.2, t, loudness));
    else if (TOMS.has(pitch)) {
      const hz = frequency(36 + (pitch - 41));
      this.strike(this.tom, time, (t) => this.tom.triggerAttackRelease(hz, 0.25, t, loudness));
    } else {
      const synth = this.noiseFor(pitch);
      if (synth instanceof NoiseSynth) this.strike(synth, time, (t) => synth.triggerAttackRelease(0.05, t, loudness));
      else this.strike(synth, time, (t) => synth.triggerAttackRelease(frequency(pitch), 0.08, t, loudness));
    }
  }

  dispose(): void {
    const all = [this.skin, this.tom, this.snare, this.closed, this.open, this.cymbal, this.block];
    for (const node of [...all, this.brush, this.metal, this.body]) node.dispose();
  }

  private noiseFor(pitch: number): NoiseSynth | MembraneSynth {
    if ([38, 39, 40, 37].includes(pitch)) return this.snare;
    if ([42, 44, 69, 70, 54].includes(pitch)) return this.closed;
    if (pitch === 46) return this.open;
    return [49, 51, 52, 53, 55, 57, 59].includes(pitch) ? this.cymbal : this.block;
  }

  /** One drum cannot be struck twice at one moment, nor before its last stroke. */
  private strike(drum: object, time: number, play: (time: number) => void): void {
    const at = Math.max(time, (this.last.get(drum) ?? 0) + 0.002);
    this.last.set(drum, at);
    play(at);
  }
}

const TOMS = new Set([41, 43, 45, 47, 48, 50]);

function noise(type: 'white' | 'pink', decay: number, volume: number): NoiseSynth {
  return new NoiseSynth({ noise: { type }, envelope: { attack: 0.001, decay, sustain: 0 }, volume });
}
