import { Channel } from 'tone/build/esm/component/channel/Channel.js';
import { Meter } from 'tone/build/esm/component/analysis/Meter.js';
import { Context } from 'tone/build/esm/core/context/Context.js';
import { setContext, start } from 'tone/build/esm/core/Global.js';
import { Limiter } from 'tone/build/esm/component/dynamics/Limiter.js';
import { Synth } from 'tone/build/esm/instrument/Synth.js';
import type { Output, Sounding, VoiceKind } from '@early-sparrow/core/sound';
import { makeVoice, type Voice } from './voices';

/**
 * The engine hands a note straight to the audio thread, with its exact time, only if it lies within
 * this many seconds; later ones wait for a coarse timer. It must be longer than the scheduler looks ahead.
 */
const LOOK_AHEAD = 0.3;
/** Fade at a stop, in seconds: short enough to feel immediate, long enough not to crack. */
const FADE = 0.012;

/** A track's place in the mix. */
export interface MixerTrack {
  readonly kind: VoiceKind;
  /** 0 to 1. */
  readonly level: number;
}

interface Strip {
  readonly kind: VoiceKind;
  level: number;
  readonly channel: Channel;
  readonly voice: Voice;
}

/** The built-in voices: synthesizers of the browser's own audio engine. */
export class ToneOutput implements Output {
  private readonly context: Context;
  private readonly limiter: Limiter;
  private readonly meter: Meter;
  private readonly clickVoice: Synth;
  private readonly strips = new Map<number, Strip>();

  constructor() {
    // The engine's own clock would need a worker made of text, which our content security policy forbids.
    this.context = new Context({ clockSource: 'timeout', latencyHint: 'interactive', lookAhead: LOOK_AHEAD });
    setContext(this.context);
    this.meter = new Meter();
    this.limiter = new Limiter(-3).toDestination();
    this.limiter.connect(this.meter);
    this.clickVoice = new Synth({
      oscillator: { type: 'sine' },
      envelope: { attack: 0.001, decay: 0.04, sustain: 0, release: 0.01 },
      volume: -10,
    }).connect(this.limiter);
  }

  /** Wakes the audio engine; browsers want a key or a click before. */
  wake(): Promise<void> {
    return start();
  }

  /** Sets the mix; voices are made when a track first needs them. */
  mix(tracks: readonly MixerTrack[]): void {
    tracks.forEach((track, i) => {
      let strip = this.strips.get(i);
      if (strip && strip.kind !== track.kind) {
        release(strip);
        strip = undefined;
      }
      if (!strip) {
        const channel = new Channel().connect(this.limiter);
        strip = { kind: track.kind, level: NaN, channel, voice: makeVoice(track.kind, channel) };
        this.strips.set(i, strip);
      }
      if (strip.level === track.level) return;
      strip.level = track.level;
      strip.channel.volume.value = track.level <= 0 ? -Infinity : 20 * Math.log10(track.level / 0.8);
    });
  }

  now(): number {
    return this.context.currentTime;
  }

  note(track: number, note: Sounding, time: number, seconds: number): void {
    this.strips.get(track)?.voice.play(note.pitch, time, seconds, (note.velocity / 127) ** 1.5);
  }

  click(time: number, accent: boolean): void {
    this.clickVoice.triggerAttackRelease(accent ? 1760 : 1174.66, 0.03, time, accent ? 0.9 : 0.6);
  }

  /** Fades all out and throws the voices away with whatever was still to come from them: nothing can hang. */
  silence(): void {
    for (const strip of this.strips.values()) {
      strip.channel.volume.rampTo(-Infinity, FADE, this.now());
      setTimeout(() => release(strip), 100);
    }
    this.strips.clear();
  }

  /** Loudness now, in dB below full scale. */
  level(): number {
    const value = this.meter.getValue();
    return Array.isArray(value) ? Math.max(...value) : value;
  }
}

function release(strip: Strip): void {
  strip.voice.dispose();
  strip.channel.dispose();
}
