import type { VoiceKind } from '@early-sparrow/core/song';
import type { Output, Sounding } from '@early-sparrow/core/sound';
import { sound, type Sounded } from './voices';

/** Fade at a stop, in seconds: short enough to feel immediate, long enough not to crack. */
const FADE = 0.012;
/** The level at which a track's voices are as loud as they were made, 0 to 1. */
const UNITY = 0.8;

/** A track's place in the mix. */
export interface MixerTrack {
  readonly kind: VoiceKind;
  /** 0 to 1. */
  readonly level: number;
  /** −1 left, 1 right. */
  readonly pan: number;
}

/** Where a track's notes come together, and what still sounds there. */
interface Strip {
  readonly bus: GainNode;
  readonly panner: StereoPannerNode;
  readonly sounding: Set<AudioScheduledSourceNode>;
}

const CLICK = -1;

/**
 * The built-in voices on the browser's own audio engine. A note's nodes are made when it is handed over and go
 * when it has ended, so that eighty tracks start as quickly as one and playing leaves nothing behind.
 */
export class AudioOutput implements Output {
  private readonly context = new AudioContext({ latencyHint: 'interactive' });
  private readonly limiter: DynamicsCompressorNode;
  private readonly meter: AnalyserNode;
  private readonly samples: Float32Array<ArrayBuffer>;
  private readonly strips = new Map<number, Strip>();
  private tracks: readonly MixerTrack[] = [];

  constructor() {
    this.limiter = new DynamicsCompressorNode(this.context, {
      threshold: -3,
      knee: 0,
      ratio: 20,
      attack: 0.003,
      release: 0.05,
    });
    this.meter = new AnalyserNode(this.context, { fftSize: 1024 });
    this.samples = new Float32Array(this.meter.fftSize);
    this.limiter.connect(this.context.destination);
    this.limiter.connect(this.meter);
  }

  /** Wakes the audio engine; browsers want a key or a click before. */
  async wake(): Promise<void> {
    if (this.context.state !== 'running') await this.context.resume();
  }

  /** Sets the mix; what a track sounds with is made when it first plays a note. */
  mix(tracks: readonly MixerTrack[]): void {
    this.tracks = tracks;
    for (const [i, strip] of this.strips) {
      if (i === CLICK) continue;
      const gain = gainOf(tracks[i]?.level ?? 0);
      if (strip.bus.gain.value !== gain) strip.bus.gain.setTargetAtTime(gain, this.now(), 0.01);
      const pan = tracks[i]?.pan ?? 0;
      if (strip.panner.pan.value !== pan) strip.panner.pan.setTargetAtTime(pan, this.now(), 0.01);
    }
  }

  now(): number {
    return this.context.currentTime;
  }

  note(track: number, note: Sounding, time: number, seconds: number): void {
    const kind = this.tracks[track]?.kind ?? 'keys';
    const loudness = (note.velocity / 127) ** 1.5;
    this.put(track, sound(this.context, kind, { pitch: note.pitch, time, seconds, loudness }));
  }

  click(time: number, accent: boolean): void {
    const source = new OscillatorNode(this.context, { frequency: accent ? 1760 : 1174.66 });
    const out = new GainNode(this.context, { gain: 0 });
    out.gain.setValueAtTime(0, time);
    out.gain.linearRampToValueAtTime(accent ? 0.35 : 0.22, time + 0.001);
    out.gain.setTargetAtTime(0, time + 0.002, 0.012);
    source.connect(out);
    source.start(time);
    source.stop(time + 0.08);
    this.put(CLICK, { sources: [source], out });
  }

  /** Fades all out, the click too, and throws away what was still to come: nothing can hang. */
  silence(): void {
    const end = this.now() + FADE;
    for (const { bus, panner, sounding } of this.strips.values()) {
      bus.gain.cancelScheduledValues(0);
      bus.gain.setTargetAtTime(0, this.now(), FADE / 4);
      for (const source of sounding) source.stop(end);
      setTimeout(() => {
        bus.disconnect();
        panner.disconnect();
      }, 100);
    }
    this.strips.clear();
  }

  /** Loudness now, in dB below full scale. */
  level(): number {
    this.meter.getFloatTimeDomainData(this.samples);
    const power = this.samples.reduce((sum, s) => sum + s * s, 0) / this.samples.length;
    return 10 * Math.log10(power);
  }

  private put(track: number, { sources, out }: Sounded): void {
    const { bus, sounding } = this.strip(track);
    out.connect(bus);
    let left = sources.length;
    for (const source of sources) {
      sounding.add(source);
      source.onended = () => {
        sounding.delete(source);
        if (--left === 0) out.disconnect();
      };
    }
  }

  private strip(track: number): Strip {
    let strip = this.strips.get(track);
    if (!strip) {
      const gain = track === CLICK ? 1 : gainOf(this.tracks[track]?.level ?? UNITY);
      const bus = new GainNode(this.context, { gain });
      const panner = new StereoPannerNode(this.context, { pan: this.tracks[track]?.pan ?? 0 });
      bus.connect(panner).connect(this.limiter);
      strip = { bus, panner, sounding: new Set() };
      this.strips.set(track, strip);
    }
    return strip;
  }
}

function gainOf(level: number): number {
  return level / UNITY;
}
