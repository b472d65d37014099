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

/** One channel of a track, and what plays it. */
interface Seat {
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
  private readonly seats = new Map<string, Seat[]>();
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
    for (const [id, seats] of this.seats)
      this.seats.set(
        id,
        seats.map((l) => this.seat(l.slot)),
      );
    this.mixAll();
  }

  /** Some sounds came to the sampler: what was played by small voices for want of them is its from now on. */
  soundsChanged(): void {
    for (const seats of this.seats.values()) {
      for (const seat of seats) if (!seat.sampled && this.isSampled(seat)) this.open(seat);
    }
    this.mixAll();
  }

  /** Takes a sound file into use; null lets it go. */
  setFile(id: string, file: SoundFile | null): void {
    this.tapes.setFile(id, file);
  }

  setTrack(id: string, score: ScoreTrack | null): void {
    this.tapes.setTrack(id, score?.strips ?? []);
    const old = this.seats.get(id) ?? [];
    if (!score) {
      for (const seat of old) this.close(seat);
      this.seats.delete(id);
      return;
    }
    const same = (a: Slot, b: Slot) => a.channel === b.channel && a.kind === b.kind && a.program === b.program;
    // What sounds on goes on, on its own channel.
    const seats = score.slots.map((slot, i) => (old.at(i) && same(old[i].slot, slot) ? old[i] : this.seat(slot)));
    for (const seat of old) if (!seats.includes(seat)) this.close(seat);
    this.seats.set(id, seats);
    this.mixTrack(id);
  }

  setMix(tracks: readonly MixTrack[]): void {
    for (const track of tracks) this.mixes.set(track.id, track);
    this.mixAll();
  }

  noteOn(track: string, slot: number, pitch: number, velocity: number): void {
    const seat = this.seats.get(track)?.[slot];
    if (!seat) return;
    const loud = seat.soft ? Math.max(1, Math.round(velocity * SOFTER)) : velocity;
    if (seat.caught.delete(pitch)) this.letGo(seat, pitch);
    seat.keys.add(pitch);
    if (seat.sampled) this.sampler!.message(seat.channel, 0x90, pitch, loud);
    else seat.voices.push({ voice: smallVoice(seat.slot.kind, pitch, loud, this.rate), damped: false });
  }

  noteOff(track: string, slot: number, pitch: number): void {
    const seat = this.seats.get(track)?.[slot];
    if (!seat) return;
    seat.keys.delete(pitch);
    if (!seat.caught.has(pitch)) this.letGo(seat, pitch);
  }

  private letGo(seat: Seat, pitch: number): void {
    if (seat.sampled) this.sampler!.message(seat.channel, 0x80, pitch, 64);
    // The last one that was struck and not yet let go.
    const held = seat.voices.findLast(({ voice, damped }) => voice.pitch === pitch && !damped);
    if (!held) return;
    held.damped = true;
    if (!seat.damper) held.voice.release();
  }

  message(track: string, slot: number, status: number, first: number, second: number): void {
    const seat = this.seats.get(track)?.[slot];
    if (!seat) return;
    if (status === 0xc0) {
      seat.program = first;
      seat.sampled = this.isSampled(seat);
    }
    if (status === 0xb0 && first === SOSTENUTO) {
      this.sostenuto(seat, second >= 64);
      return;
    }
    if (seat.sampled) this.sampler!.message(seat.channel, status, first, second);
    if (status === 0xb0) control(seat, first, second);
    else if (status === 0xe0) seat.bend = 2 ** ((BEND_RANGE * ((first | (second << 7)) - 8192)) / 8192 / 12);
  }

  /** It holds the keys that are down when it goes down, and no others. */
  private sostenuto(seat: Seat, down: boolean): void {
    if (down) {
      if (seat.caught.size === 0) for (const pitch of seat.keys) seat.caught.add(pitch);
      return;
    }
    const caught = [...seat.caught];
    seat.caught.clear();
    for (const pitch of caught) if (!seat.keys.has(pitch)) this.letGo(seat, pitch);
  }

  tick(kind: TickKind): void {
    this.tickVoice.strike(kind);
  }

  silence(): void {
    this.tickVoice.silence();
    this.sampler?.silence();
    for (const seats of this.seats.values()) {
      for (const seat of seats) {
        seat.keys.clear();
        seat.caught.clear();
        for (const { voice } of seat.voices) voice.cut();
        // A pedal that was down holds nothing that is played next.
        if (seat.damper && seat.sampled) this.sampler!.message(seat.channel, 0xb0, DAMPER, 0);
        seat.damper = false;
      }
    }
  }

  reset(track: string): void {
    for (const seat of this.seats.get(track) ?? []) this.open(seat);
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
    for (const [id, seats] of this.seats) {
      for (const seat of seats) if (seat.voices.length > 0) this.renderSmall(id, seat, left, right, from, count);
    }
    this.tapes.render(left, right, from, count, ms, msPerFrame, (track) => this.mixes.get(track));
    this.tickVoice.render(left, right, from, count, this.tickGain);
    this.limit(left, right, from, count);
  }

  private renderSmall(
    id: string,
    seat: Seat,
    left: Float32Array,
    right: Float32Array,
    from: number,
    count: number,
  ): void {
    const { mono } = this;
    mono.fill(0, 0, count);
    const level = seat.volume ** 2 * seat.expression ** 2;
    seat.voices = seat.voices.filter(({ voice }) => voice.render(mono, 0, count, level, seat.bend));
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

  private seat(slot: Slot): Seat {
    const channel = this.free.pop() ?? this.channels++;
    const seat: Seat = {
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
    this.open(seat);
    return seat;
  }

  private close(seat: Seat): void {
    for (const { voice } of seat.voices) voice.cut();
    if (seat.sampled) this.sampler!.message(seat.channel, 0xb0, ALL_SOUND_OFF, 0);
    this.free.push(seat.channel);
  }

  private open(seat: Seat): void {
    seat.program = seat.slot.program;
    seat.sampled = this.isSampled(seat);
    control(seat, RESET, 0);
    seat.volume = DEFAULT_VOLUME;
    if (seat.sampled) this.sampler!.reset(seat.channel, seat.program, seat.slot.kind === 'drums');
  }

  private isSampled({ slot, program }: Seat): boolean {
    return slot.kind !== 'plain' && this.sampler !== null && this.sampler.has(program, slot.kind === 'drums');
  }

  private mixAll(): void {
    for (const id of this.seats.keys()) this.mixTrack(id);
  }

  private mixTrack(id: string): void {
    const mix = this.mixes.get(id);
    if (!mix) return;
    for (const seat of this.seats.get(id) ?? []) if (seat.sampled) this.sampler!.mix(seat.channel, mix.gain, mix.pan);
  }
}

/** As loud as controller 7 is where a file does not set it (General MIDI System Level 1: 100). */
const DEFAULT_VOLUME = 1;
const FULL = 100;

function control(seat: Seat, controller: number, value: number): void {
  if (controller === VOLUME) seat.volume = value / FULL;
  else if (controller === EXPRESSION) seat.expression = value / 127;
  else if (controller === DAMPER) {
    // Half of the pedal's way is down (MIDI 1.0: 0 to 63 off, 64 to 127 on).
    seat.damper = value >= 64;
    if (!seat.damper) for (const { voice, damped } of seat.voices) if (damped) voice.release();
  } else if (controller === SOFT) seat.soft = value >= 64;
  else if (controller === RESET) {
    seat.soft = false;
    seat.caught.clear();
    seat.expression = 1;
    seat.bend = 1;
    control(seat, DAMPER, 0);
  }
}
