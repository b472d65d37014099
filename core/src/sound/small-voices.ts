import type { VoiceKind } from '../song';

const { PI, cos, exp, hypot, min, sin } = Math;

/** A note of a small voice on its way: it adds to the buffers and says when it has faded out. */
export interface SmallVoice {
  readonly pitch: number;
  /** Lets the key go. */
  release(): void;
  /** Fades within a few ms. */
  cut(): void;
  /** @param bend factor of the frequency; @returns false once it is over */
  render(out: Float32Array, from: number, count: number, gain: number, bend: number): boolean;
}

/** Attack, decay and release in seconds, sustain as a share of the peak, peak at full loudness. */
interface Shape {
  readonly attack: number;
  readonly decay: number;
  readonly sustain: number;
  readonly release: number;
  readonly gain: number;
}

/** Overtones with their loudness; `bright` of them fade within so many seconds. */
interface Timbre extends Shape {
  readonly partials: readonly (readonly [ratio: number, gain: number])[];
  readonly bright: number;
}

const TIMBRES: Readonly<Record<Exclude<VoiceKind, 'drums'>, Timbre>> = {
  keys: timbre([1, 0.5, 0.25, 0.1], { attack: 0.002, decay: 1.3, sustain: 0.12, release: 0.12, gain: 0.2 }, 0.4),
  mallets: {
    partials: [
      [1, 1],
      [3.93, 0.35],
      [9.2, 0.1],
    ],
    ...{ attack: 0.001, decay: 0.4, sustain: 0, release: 0.25, gain: 0.3, bright: 0.05 },
  },
  plucked: timbre(
    [1, 0.6, 0.4, 0.25, 0.15],
    { attack: 0.001, decay: 0.5, sustain: 0.05, release: 0.1, gain: 0.2 },
    0.2,
  ),
  bass: timbre([1, 0.45, 0.2, 0.08], { attack: 0.003, decay: 0.7, sustain: 0.3, release: 0.07, gain: 0.36 }, 0.3),
  strings: timbre([1, 0.5, 0.33, 0.2, 0.1], { attack: 0.04, decay: 0.3, sustain: 0.7, release: 0.2, gain: 0.13 }, 9),
  reed: timbre([1, 0.08, 0.5, 0.05, 0.25], { attack: 0.012, decay: 0.15, sustain: 0.8, release: 0.06, gain: 0.16 }, 9),
  plain: timbre([1, 0, 0.2], { attack: 0.0005, decay: 0.08, sustain: 0, release: 0.02, gain: 0.4 }, 0.03),
};

function timbre(gains: readonly number[], shape: Shape, bright: number): Timbre {
  return { partials: gains.flatMap((g, k) => (g > 0 ? [[k + 1, g] as const] : [])), ...shape, bright };
}

/** Equal temperament, A4 = 440 Hz (ISO 16). */
export function frequency(pitch: number): number {
  return 440 * 2 ** ((pitch - 69) / 12);
}

/** Starts a note of the built-in voices, which sound until better ones are there, and where none can be. */
export function smallVoice(kind: VoiceKind, pitch: number, velocity: number, rate: number): SmallVoice {
  const loudness = (velocity / 127) ** 1.5;
  return kind === 'drums' ? new Hit(pitch, loudness, rate) : new Tone(TIMBRES[kind], pitch, loudness, rate);
}

/** What is quieter than this is over. */
const SILENT = 1e-4;
/** Fade of a note that is cut, in seconds. */
const CUT = 0.004;

class Tone implements SmallVoice {
  /** Sine and cosine of each partial, turned by a step each frame: a third of the time that a sine takes. */
  private readonly sines: Float64Array;
  private readonly cosines: Float64Array;
  private readonly steps: Float64Array;
  private readonly turns: Float64Array;
  private bent = 0;
  private readonly gains: Float64Array;
  private readonly fade: number;
  private readonly decay: number;
  private readonly attack: number;
  private level = 0;
  private bright = 1;
  private time = 0;
  private releasing = 1;

  constructor(
    private readonly timbre: Timbre,
    readonly pitch: number,
    loudness: number,
    private readonly rate: number,
  ) {
    const hz = frequency(pitch);
    const heard = timbre.partials.filter(([ratio]) => hz * ratio < rate * 0.4);
    this.sines = new Float64Array(heard.length);
    this.cosines = new Float64Array(heard.length).fill(1);
    this.turns = new Float64Array(heard.length * 2);
    this.steps = Float64Array.from(heard, ([ratio]) => (2 * PI * hz * ratio) / rate);
    this.gains = Float64Array.from(heard, ([, gain]) => gain * timbre.gain * loudness);
    this.attack = timbre.attack * rate;
    this.decay = exp(-3 / (timbre.decay * rate));
    this.fade = exp(-1 / (timbre.bright * rate));
  }

  release(): void {
    this.releasing = exp(-4 / (this.timbre.release * this.rate));
  }

  cut(): void {
    this.releasing = exp(-4 / (CUT * this.rate));
  }

  render(out: Float32Array, from: number, count: number, gain: number, bend: number): boolean {
    const { sines, cosines, turns, gains, timbre, releasing } = this;
    const partials = sines.length;
    if (bend !== this.bent) this.turnBy(bend);
    for (let i = from; i < from + count; i++) {
      if (this.time < this.attack) this.level = min(1, (this.time + 1) / this.attack);
      else this.level = timbre.sustain + (this.level - timbre.sustain) * this.decay;
      this.time++;
      this.bright *= this.fade;
      this.peak *= releasing;
      let sum = 0;
      for (let p = 0; p < partials; p++) {
        const [s, c] = [sines[p], cosines[p]];
        sum += s * gains[p] * (p === 0 ? 1 : this.bright);
        sines[p] = s * turns[2 * p] + c * turns[2 * p + 1];
        cosines[p] = c * turns[2 * p] - s * turns[2 * p + 1];
      }
      out[i] += sum * this.level * this.peak * gain;
    }
    this.normalize();
    return this.time < this.attack || (this.level * this.peak > SILENT && partials > 0);
  }

  private turnBy(bend: number): void {
    this.bent = bend;
    this.steps.forEach((step, p) => {
      this.turns[2 * p] = cos(step * bend);
      this.turns[2 * p + 1] = sin(step * bend);
    });
  }

  /** Rounding would let partials grow or fade in time. */
  private normalize(): void {
    const { sines, cosines } = this;
    for (let p = 0; p < sines.length; p++) {
      const length = hypot(sines[p], cosines[p]);
      sines[p] /= length;
      cosines[p] /= length;
    }
  }

  /** Falls once the key is let go. */
  private peak = 1;
}

/** A drum: a sine that falls in pitch, filtered noise, or both; Hz, seconds and loudness. */
interface Drum {
  readonly from: number;
  readonly to: number;
  readonly fall: number;
  readonly tone: number;
  readonly noise: number;
  /** Of the noise what lies above this. */
  readonly above: number;
  readonly decay: number;
}

const DRUM: Readonly<Record<'bass' | 'snare' | 'closed' | 'open' | 'cymbal', Drum>> = {
  bass: { from: 160, to: 48, fall: 0.03, tone: 0.8, noise: 0, above: 0, decay: 0.1 },
  snare: { from: 260, to: 180, fall: 0.02, tone: 0.15, noise: 0.34, above: 1500, decay: 0.06 },
  closed: { from: 0, to: 0, fall: 1, tone: 0, noise: 0.3, above: 7000, decay: 0.02 },
  open: { from: 0, to: 0, fall: 1, tone: 0, noise: 0.24, above: 6500, decay: 0.13 },
  cymbal: { from: 0, to: 0, fall: 1, tone: 0, noise: 0.18, above: 5000, decay: 0.35 },
};
const SNARES = new Set([37, 38, 39, 40]);
const CLOSED = new Set([42, 44, 54, 69, 70]);
const CYMBALS = new Set([49, 51, 52, 53, 55, 57, 59]);
const TOMS = new Set([41, 43, 45, 47, 48, 50]);

/** A small kit by the General MIDI percussion map. */
function drumOf(pitch: number): Drum {
  if (pitch <= 36) return DRUM.bass;
  if (SNARES.has(pitch)) return DRUM.snare;
  if (CLOSED.has(pitch)) return DRUM.closed;
  if (pitch === 46) return DRUM.open;
  if (CYMBALS.has(pitch)) return DRUM.cymbal;
  const hz = frequency(TOMS.has(pitch) ? pitch - 5 : pitch);
  const decay = TOMS.has(pitch) ? 0.12 : 0.03;
  return { from: hz * 1.6, to: hz, fall: 0.03, tone: 0.4, noise: 0, above: 0, decay };
}

class Hit implements SmallVoice {
  private readonly drum: Drum;
  private phase = 0;
  private time = 0;
  private level: number;
  private fade: number;
  private state = 0x2545f491;
  private last = 0;
  private high = 0;

  constructor(
    readonly pitch: number,
    loudness: number,
    private readonly rate: number,
  ) {
    this.drum = drumOf(pitch);
    this.level = loudness;
    this.fade = exp(-1 / (this.drum.decay * rate));
  }

  /** A drum rings on. */
  release(): void {
    // Nothing holds it.
  }

  cut(): void {
    this.fade = exp(-4 / (CUT * this.rate));
  }

  render(out: Float32Array, from: number, count: number, gain: number, bend: number): boolean {
    const { drum, rate } = this;
    const pass = exp((-2 * PI * drum.above) / rate);
    for (let i = from; i < from + count; i++) {
      const hz = drum.to + (drum.from - drum.to) * exp(-this.time / (drum.fall * rate));
      this.time++;
      this.phase += (2 * PI * hz * bend) / rate;
      // A linear congruential generator (Numerical Recipes) is random enough for a hiss.
      this.state = (Math.imul(this.state, 1664525) + 1013904223) >>> 0;
      const noise = this.state / 0x80000000 - 1;
      this.high = pass * (this.high + noise - this.last);
      this.last = noise;
      out[i] += (sin(this.phase) * drum.tone + this.high * drum.noise) * this.level * gain;
      this.level *= this.fade;
    }
    return this.level > SILENT;
  }
}
