import type { Ms } from '../time';
import type { Players } from './conductor';
import type { MixTrack, ScoreTrack, Slot, TickKind } from './score';
import { smallVoice, type SmallVoice } from './small-voices';
import type { SoundFile } from './strips';
import { Tapes } from './tapes';
import { TickVoice } from './tick-voice';

/** A synthesizer that plays the sounds of a bank, on as many channels as are wanted. */
export interface Sampler {
  /** Whether it has the sounds of a program, or of a kit. */
  has(program: number, drums: boolean): boolean;
  /** Makes a channel ready; its controllers are as at the beginning. */
  reset(channel: number, program: number, drums: boolean): void;
  message(channel: number, status: number, first: number, second: number): void;
  mix(channel: number, gain: number, pan: number): void;
  silence(): void;
  render(left: Float32Array, right: Float32Array, from: number, count: number): void;
}

/** One channel of a track. */
interface Lane {
  readonly slot: Slot;
  /** Of the sampler. */
  readonly channel: number;
  /** Program as it is now. */
  program: number;
  sampled: boolean;
  volume: number;
  expression: number;
  /** Factor of the frequency. */
  bend: number;
  damper: boolean;
  soft: boolean;
  /** Keys that are down, and those that the sostenuto pedal caught. */
  readonly keys: Set<number>;
  readonly caught: Set<number>;
  voices: Held[];
}

interface Held {
  readonly voice: SmallVoice;
  /** The key is up, and the damper still holds it. */
  damped: boolean;
}

const VOLUME = 7;
const EXPRESSION = 11;
const DAMPER = 64;
const SOSTENUTO = 66;
const SOFT = 67;
/** What the soft pedal leaves of a velocity. */
const SOFTER = 0.7;
const ALL_SOUND_OFF = 120;
const RESET = 121;
/** Of the pitch wheel, in semitones (General MIDI System Level 1). */
const BEND_RANGE = 2;
/** Above it peaks are rounded off: −1 dB. */
const CEILING = 0.89;
const RELEASE_SECONDS = 0.08;

/**
 * All voices of a song: small ones of its own, and a sampler's where that has the sounds. It does what a conductor says
 * and adds everything up. Peaks that go too high turn everything down for a moment, at once and without delay.
 */
export class Band implements Players {
  private readonly lanes = new Map<string, Lane[]>();
  private readonly mixes = new Map<string, MixTrack>();
  private readonly tickVoice: TickVoice;
  private readonly tapes: Tapes;
  private free: number[] = [];
  private channels = 0;
  private mono = new Float32Array(128);
  private turnedDown = 1;
  /** Loudness of the click, as a factor. */
  tickGain = 1;

  constructor(
    private readonly rate: number,
    private sampler: Sampler | null = null,
  ) {
    this.tickVoice = new TickVoice(rate);
    this.tapes = new Tapes(rate);
  }

  /** Takes the sounds of a bank into use, or goes back to the small voices. */
  setSampler(sampler: Sampler | null): void {
    this.silence();
    this.sampler = sampler;
    this.free = [];
    this.channels = 0;
    for (const [id, lanes] of this.lanes)
      this.lanes.set(
        id,
        lanes.map((l) => this.lane(l.slot)),
      );
    this.mixAll();
  }

  /** Some sounds came to the sampler: what was played by small voices for want of them is its from now on. */
  soundsChanged(): void {
    for (const lanes of this.lanes.values()) {
      for (const lane of lanes) if (!lane.sampled && this.isSampled(lane)) this.open(lane);
    }
    this.mixAll();
  }

  /** Takes a sound file into use; null lets it go. */
  setFile(id: string, file: SoundFile | null): void {
    this.tapes.setFile(id, file);
  }

  setTrack(id: string, score: ScoreTrack | null): void {
    this.tapes.setTrack(id, score?.strips ?? []);
    const old = this.lanes.get(id) ?? [];
    if (!score) {
      for (const lane of old) this.close(lane);
      this.lanes.delete(id);
      return;
    }
    const same = (a: Slot, b: Slot) => a.channel === b.channel && a.kind === b.kind && a.program === b.program;
    // What sounds on goes on, on its own channel.
    const lanes = score.slots.map((slot, i) => (old.at(i) && same(old[i].slot, slot) ? old[i] : this.lane(slot)));
    for (const lane of old) if (!lanes.includes(lane)) this.close(lane);
    this.lanes.set(id, lanes);
    this.mixTrack(id);
  }

  setMix(tracks: readonly MixTrack[]): void {
    for (const track of tracks) this.mixes.set(track.id, track);
    this.mixAll();
  }

  noteOn(track: string, slot: number, pitch: number, velocity: number): void {
    const lane = this.lanes.get(track)?.[slot];
    if (!lane) return;
    const loud = lane.soft ? Math.max(1, Math.round(velocity * SOFTER)) : velocity;
    if (lane.caught.delete(pitch)) this.letGo(lane, pitch);
    lane.keys.add(pitch);
    if (lane.sampled) this.sampler!.message(lane.channel, 0x90, pitch, loud);
    else lane.voices.push({ voice: smallVoice(lane.slot.kind, pitch, loud, this.rate), damped: false });
  }

  noteOff(track: string, slot: number, pitch: number): void {
    const lane = this.lanes.get(track)?.[slot];
    if (!lane) return;
    lane.keys.delete(pitch);
    if (!lane.caught.has(pitch)) this.letGo(lane, pitch);
  }

  private letGo(lane: Lane, pitch: number): void {
    if (lane.sampled) this.sampler!.message(lane.channel, 0x80, pitch, 64);
    // The last one that was struck and not yet let go.
    const held = lane.voices.findLast(({ voice, damped }) => voice.pitch === pitch && !damped);
    if (!held) return;
    held.damped = true;
    if (!lane.damper) held.voice.release();
  }

  message(track: string, slot: number, status: number, first: number, second: number): void {
    const lane = this.lanes.get(track)?.[slot];
    if (!lane) return;
    if (status === 0xc0) {
      lane.program = first;
      lane.sampled = this.isSampled(lane);
    }
    if (status === 0xb0 && first === SOSTENUTO) {
      this.sostenuto(lane, second >= 64);
      return;
    }
    if (lane.sampled) this.sampler!.message(lane.channel, status, first, second);
    if (status === 0xb0) control(lane, first, second);
    else if (status === 0xe0) lane.bend = 2 ** ((BEND_RANGE * ((first | (second << 7)) - 8192)) / 8192 / 12);
  }

  /** It holds the keys that are down when it goes down, and no others. */
  private sostenuto(lane: Lane, down: boolean): void {
    if (down) {
      if (lane.caught.size === 0) for (const pitch of lane.keys) lane.caught.add(pitch);
      return;
    }
    const caught = [...lane.caught];
    lane.caught.clear();
    for (const pitch of caught) if (!lane.keys.has(pitch)) this.letGo(lane, pitch);
  }

  tick(kind: TickKind): void {
    this.tickVoice.strike(kind);
  }

  silence(): void {
    this.tickVoice.silence();
    this.sampler?.silence();
    for (const lanes of this.lanes.values()) {
      for (const lane of lanes) {
        lane.keys.clear();
        lane.caught.clear();
        for (const { voice } of lane.voices) voice.cut();
        // A pedal that was down holds nothing that is played next.
        if (lane.damper && lane.sampled) this.sampler!.message(lane.channel, 0xb0, DAMPER, 0);
        lane.damper = false;
      }
    }
  }

  reset(track: string): void {
    for (const lane of this.lanes.get(track) ?? []) this.open(lane);
    this.mixTrack(track);
  }

  render(
    left: Float32Array,
    right: Float32Array,
    from: number,
    count: number,
    ms: Ms | null = null,
    msPerFrame = 0,
  ): void {
    left.fill(0, from, from + count);
    right.fill(0, from, from + count);
    this.sampler?.render(left, right, from, count);
    if (this.mono.length < count) this.mono = new Float32Array(count);
    for (const [id, lanes] of this.lanes) {
      for (const lane of lanes) if (lane.voices.length > 0) this.renderSmall(id, lane, left, right, from, count);
    }
    this.tapes.render(left, right, from, count, ms, msPerFrame, (track) => this.mixes.get(track));
    this.tickVoice.render(left, right, from, count, this.tickGain);
    this.limit(left, right, from, count);
  }

  private renderSmall(
    id: string,
    lane: Lane,
    left: Float32Array,
    right: Float32Array,
    from: number,
    count: number,
  ): void {
    const { mono } = this;
    mono.fill(0, 0, count);
    const level = lane.volume ** 2 * lane.expression ** 2;
    lane.voices = lane.voices.filter(({ voice }) => voice.render(mono, 0, count, level, lane.bend));
    const { gain, pan } = this.mixes.get(id) ?? { gain: 1, pan: 0 };
    // Equal power, and as loud as it was made in the middle.
    const angle = ((pan + 1) * Math.PI) / 4;
    const [l, r] = [gain * Math.cos(angle) * Math.SQRT2, gain * Math.sin(angle) * Math.SQRT2];
    for (let i = 0; i < count; i++) {
      left[from + i] += mono[i] * l;
      right[from + i] += mono[i] * r;
    }
  }

  private limit(left: Float32Array, right: Float32Array, from: number, count: number): void {
    const back = 1 - Math.exp(-1 / (RELEASE_SECONDS * this.rate));
    let down = this.turnedDown;
    for (let i = from; i < from + count; i++) {
      const peak = Math.max(Math.abs(left[i]), Math.abs(right[i]));
      down += (1 - down) * back;
      if (peak * down > CEILING) down = CEILING / peak;
      left[i] *= down;
      right[i] *= down;
    }
    this.turnedDown = down;
  }

  private lane(slot: Slot): Lane {
    const channel = this.free.pop() ?? this.channels++;
    const lane: Lane = {
      slot,
      channel,
      program: slot.program,
      sampled: false,
      volume: 1,
      expression: 1,
      bend: 1,
      damper: false,
      soft: false,
      keys: new Set(),
      caught: new Set(),
      voices: [],
    };
    this.open(lane);
    return lane;
  }

  private close(lane: Lane): void {
    for (const { voice } of lane.voices) voice.cut();
    if (lane.sampled) this.sampler!.message(lane.channel, 0xb0, ALL_SOUND_OFF, 0);
    this.free.push(lane.channel);
  }

  private open(lane: Lane): void {
    lane.program = lane.slot.program;
    lane.sampled = this.isSampled(lane);
    control(lane, RESET, 0);
    lane.volume = DEFAULT_VOLUME;
    if (lane.sampled) this.sampler!.reset(lane.channel, lane.program, lane.slot.kind === 'drums');
  }

  private isSampled({ slot, program }: Lane): boolean {
    return slot.kind !== 'plain' && this.sampler !== null && this.sampler.has(program, slot.kind === 'drums');
  }

  private mixAll(): void {
    for (const id of this.lanes.keys()) this.mixTrack(id);
  }

  private mixTrack(id: string): void {
    const mix = this.mixes.get(id);
    if (!mix) return;
    for (const lane of this.lanes.get(id) ?? []) if (lane.sampled) this.sampler!.mix(lane.channel, mix.gain, mix.pan);
  }
}

/** As loud as controller 7 is where a file does not set it (General MIDI System Level 1: 100). */
const DEFAULT_VOLUME = 1;
const FULL = 100;

function control(lane: Lane, controller: number, value: number): void {
  if (controller === VOLUME) lane.volume = value / FULL;
  else if (controller === EXPRESSION) lane.expression = value / 127;
  else if (controller === DAMPER) {
    // Half of the pedal's way is down (MIDI 1.0: 0 to 63 off, 64 to 127 on).
    lane.damper = value >= 64;
    if (!lane.damper) for (const { voice, damped } of lane.voices) if (damped) voice.release();
  } else if (controller === SOFT) lane.soft = value >= 64;
  else if (controller === RESET) {
    lane.soft = false;
    lane.caught.clear();
    lane.expression = 1;
    lane.bend = 1;
    control(lane, DAMPER, 0);
  }
}
