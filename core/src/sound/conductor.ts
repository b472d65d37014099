import { firstAt } from '../maths';
import type { Ms } from '../time';
import { ControlState } from './controls';
import { NO_TICKS, TICKS, type MsSpan, type ScoreEvents, type ScoreTrack, type Ticking, type TickKind } from './score';

/** What a conductor leads. Everything happens at the frame that is rendered next. */
export interface Players {
  noteOn(track: string, slot: number, pitch: number, velocity: number): void;
  /** The key is let go, or with `ring` the damper too. */
  noteOff(track: string, slot: number, pitch: number): void;
  message(track: string, slot: number, status: number, first: number, second: number): void;
  tick(kind: TickKind): void;
  /** Ends everything that sounds. */
  silence(): void;
  /** Controllers, bends and programs of a track are as at its beginning. */
  reset(track: string): void;
  /**
   * Sounds for some frames from an offset of the buffers on.
   * @param ms time of the song at the first of them; null while nothing of it sounds
   * @param msPerFrame time of the song for each frame
   */
  render(left: Float32Array, right: Float32Array, from: number, count: number, ms: Ms | null, msPerFrame: number): void;
}

/** Where a stretch of playing begins: a frame of the device, and the song's time there. */
export interface Leg {
  readonly frame: number;
  readonly ms: Ms;
  /** Song time for each second of the device, in ms. */
  readonly msPerSecond: number;
  /** Of the loop since playing began, from 0. */
  readonly round: number;
}

/**
 * When a note was struck: on its frame; at once, since a change moved it back over the playhead, and so between where it
 * was and where it would be; or after its frame though it was known in time, which is a fault.
 */
export type When = 'due' | 'moved' | 'late';

/** What a conductor tells of its playing. */
export interface Listener {
  leg(leg: Leg): void;
  /** A note was struck. */
  struck?(track: string, id: number, frame: number, when: When): void;
  ended(): void;
}

interface Sounding {
  readonly track: string;
  readonly slot: number;
  readonly pitch: number;
  readonly id: number;
  end: Ms;
}

interface Place {
  readonly score: ScoreTrack;
  /** Song time at which the score became known while it played. */
  readonly since: Ms;
  note: number;
  event: number;
  /** What its channels were told so far. */
  readonly told: ControlState;
  /** What was chased last: a loop chases the same each round. */
  chased?: { readonly ms: Ms; readonly events: readonly number[] };
}

/** A note that a change moved back over the playhead still sounds if it is this late at most. */
const CATCH_UP: Ms = 60;
/** For so long a note is remembered, so that a change does not strike it twice. */
const REMEMBER: Ms = 1000;
/** Loops shorter than this are none. */
export const SHORTEST_LOOP: Ms = 20;
/** Rounding of sums of times, in frames. */
const EPSILON = 1e-6;

/**
 * Leads players through a score to the frame: it renders up to each event, lets it happen, and renders on. The whole
 * score is at hand, so that nothing the rest of the program does can make a note late; a track's score can be exchanged
 * while it plays, and what already sounds goes on or ends as the new one says.
 */
export class Conductor {
  private readonly places = new Map<string, Place>();
  private readonly audible = new Map<string, boolean>();
  private sounding: Sounding[] = [];
  private readonly struckAt = new Map<string, Ms>();
  private ticks: Ticking = NO_TICKS;
  private ticksOn = true;
  private leadIn: Ticking = NO_TICKS;
  private tickAt = 0;
  private leadAt = 0;
  private leg: Leg | null = null;
  /** Nothing before it is struck: where playing began, once what leads in is over. */
  private begins: Ms = 0;
  private loop: MsSpan | null = null;
  private end: Ms | null = null;
  private rate = 1;
  private round = 0;
  /** Frames rendered since the device began. */
  private frame: number;

  constructor(
    private readonly players: Players,
    private readonly frameRate: number,
    private readonly listener: Listener,
    frame = 0,
  ) {
    this.frame = frame;
  }

  get playing(): boolean {
    return this.leg !== null;
  }

  /** Song time at the frame that comes next. */
  get position(): Ms {
    return this.leg ? this.msAt(this.leg, this.frame) : 0;
  }

  /** Takes in or exchanges a track's score; null takes the track away. */
  setTrack(id: string, score: ScoreTrack | null): void {
    if (!score) {
      this.release((s) => s.track === id);
      this.places.delete(id);
      return;
    }
    const now = this.leg ? this.position : -Infinity;
    const told = this.places.get(id)?.told ?? new ControlState();
    const place = { score, since: now, note: 0, event: 0, told };
    this.places.set(id, place);
    if (!this.leg) return;
    const ends = new Map<number, Ms>();
    const sounding = this.sounding.filter((s) => s.track === id);
    if (sounding.length > 0) {
      const ids = new Set(sounding.map((s) => s.id));
      const { notes } = score;
      for (let i = 0; i < notes.id.length; i++) if (ids.has(notes.id[i])) ends.set(notes.id[i], notes.end[i]);
    }
    for (const s of sounding) s.end = ends.get(s.id) ?? -Infinity;
    place.event = firstAt(score.events.at, now);
    // A pedal-up, or a bend, that the change moved behind the playhead is caught up with.
    for (const message of told.to(ControlState.of(score, place.event), score)) this.message(id, place, ...message);
    // What a change moved back over the playhead is caught up with, unless it was struck before.
    place.note = firstAt(score.notes.start, Math.max(this.begins, now - CATCH_UP));
  }

  /** Whether a track is heard; what sounds of it ends when it is not. */
  setAudible(track: string, audible: boolean): void {
    if (this.audible.get(track) === audible) return;
    this.audible.set(track, audible);
    if (!audible) this.release((s) => s.track === track);
  }

  setTicks(ticks: Ticking, on: boolean): void {
    this.ticks = ticks;
    this.ticksOn = on;
    if (this.leg) this.tickAt = firstAt(ticks.at, this.position);
  }

  /** A loop that was set behind the playhead is gone to at once. */
  setLoop(loop: MsSpan | null): void {
    this.loop = loop && loop.to - loop.from >= SHORTEST_LOOP ? loop : null;
    if (this.leg && this.loop && this.position >= this.loop.to) this.jump(this.loop.from);
  }

  /** Where playing ends by itself; null: never. */
  setEnd(end: Ms | null): void {
    this.end = end;
  }

  /** @param rate 1 as it is, 0.5 half as fast */
  setRate(rate: number): void {
    if (rate === this.rate) return;
    this.rate = rate;
    if (this.leg) this.newLeg(this.position);
  }

  /**
   * Begins to play; inside a loop that is on, or at its start.
   * @param pause seconds until the first frame of it
   * @param lead ticks before the beginning, at times below 0 from it
   */
  start(from: Ms, pause = 0, lead: Ticking = NO_TICKS): void {
    if (this.leg) this.stop();
    const { loop } = this;
    const begin = loop && (from < loop.from || from >= loop.to) ? loop.from : from;
    this.leadIn = lead;
    this.leadAt = 0;
    this.round = 0;
    const before = lead.at.length > 0 ? -lead.at[0] : 0;
    this.jump(begin, begin - before - pause * 1000 * this.rate);
  }

  stop(): void {
    this.leg = null;
    this.sounding = [];
    this.players.silence();
  }

  /** Lets all keys and pedals go and plays no further; what rings is left to ring. */
  finish(): void {
    this.release(() => true);
    for (const [id, place] of this.places)
      for (const message of place.told.pedalsUp(place.score)) this.message(id, place, ...message);
    this.leg = null;
  }

  /**
   * Says which frame of the device comes next, where some were not asked for: the song stood still meanwhile.
   */
  at(frame: number): void {
    const gap = frame - this.frame;
    if (gap === 0) return;
    this.frame = frame;
    if (!this.leg) return;
    this.leg = { ...this.leg, frame: this.leg.frame + gap };
    this.listener.leg(this.leg);
  }

  render(left: Float32Array, right: Float32Array): void {
    const count = left.length;
    let done = 0;
    while (done < count) {
      this.happen();
      const next = this.leg ? Math.max(1, this.nextFrame() - this.frame) : Infinity;
      const n = Math.min(count - done, next);
      const leg = this.leg;
      const ms = leg && this.msAt(leg, this.frame);
      const perFrame = leg ? leg.msPerSecond / this.frameRate : 0;
      // What leads in is not of the song yet.
      const sounds = ms !== null && ms >= this.begins - perFrame / 2;
      this.players.render(left, right, done, n, sounds ? ms : null, perFrame);
      done += n;
      this.frame += n;
    }
  }

  /** @param at where the leg begins: before `ms` where something leads in */
  private jump(ms: Ms, at = ms): void {
    this.begins = ms;
    this.players.silence();
    this.sounding = [];
    this.struckAt.clear();
    this.newLeg(at);
    this.tickAt = firstAt(this.ticks.at, ms);
    for (const [id, place] of this.places) {
      place.note = firstAt(place.score.notes.start, ms);
      this.chase(id, place, ms);
    }
  }

  private newLeg(ms: Ms): void {
    this.leg = { frame: this.frame, ms, msPerSecond: 1000 * this.rate, round: this.round };
    this.listener.leg(this.leg);
  }

  /** Brings controllers, bends and programs to where they are at a time. */
  private chase(id: string, place: Place, ms: Ms): void {
    const { at, slot, status, first, second } = place.score.events;
    this.players.reset(id);
    place.told.clear();
    place.event = firstAt(at, ms);
    if (place.chased?.ms !== ms) place.chased = { ms, events: lastOfEach(place.score.events, place.event) };
    for (const i of place.chased.events) this.message(id, place, slot[i], status[i], first[i], second[i]);
  }

  private message(
    id: string,
    { told, score }: Place,
    slot: number,
    status: number,
    first: number,
    second: number,
  ): void {
    told.hear(score.slots[slot].channel, status, first, second);
    this.players.message(id, slot, status, first, second);
  }

  private msAt(leg: Leg, frame: number): Ms {
    return leg.ms + ((frame - leg.frame) * leg.msPerSecond) / this.frameRate;
  }

  /** The frame nearest to a song time. */
  private frameAt(leg: Leg, ms: Ms): number {
    return Math.floor(leg.frame + ((ms - leg.ms) * this.frameRate) / leg.msPerSecond + 0.5 + EPSILON);
  }

  /** Everything that is due at this frame: what ends, the loop, events, what starts, ticks. */
  private happen(): void {
    for (let leg = this.leg; leg; leg = this.leg) {
      const due = (ms: Ms) => this.frameAt(leg, ms) <= this.frame;
      this.release((s) => due(s.end));
      if (this.loop && due(this.loop.to)) {
        this.round++;
        this.jump(this.loop.from);
        continue;
      }
      if (this.end !== null && !this.loop && due(this.end)) {
        this.stop();
        this.listener.ended();
        return;
      }
      for (const [id, place] of this.places) this.play(id, place, due);
      this.tickDue(due);
      return;
    }
  }

  private play(id: string, place: Place, due: (ms: Ms) => boolean): void {
    const { events, notes } = place.score;
    for (; place.event < events.at.length && due(events.at[place.event]); place.event++) {
      const i = place.event;
      this.message(id, place, events.slot[i], events.status[i], events.first[i], events.second[i]);
    }
    for (; place.note < notes.start.length && due(notes.start[place.note]); place.note++) {
      if (this.audible.get(id) === false) continue;
      this.strike(id, place, place.note);
    }
  }

  private strike(track: string, { score: { notes }, since }: Place, i: number): void {
    const id = notes.id[i];
    const key = `${track}.${id}`;
    const now = this.position;
    const before = this.struckAt.get(key);
    if (before !== undefined && now - before < REMEMBER) return;
    this.struckAt.set(key, now);
    if (this.struckAt.size > 4096) this.forget(now);
    const [slot, pitch] = [notes.slot[i], notes.pitch[i]];
    // The same key again: the note before it ends.
    this.release((s) => s.track === track && s.slot === slot && s.pitch === pitch);
    this.players.noteOn(track, slot, pitch, notes.velocity[i]);
    // A frame at least, so that it is heard.
    const end = Math.max(notes.end[i], now + 1);
    this.sounding.push({ track, slot, pitch, id, end });
    const overdue = this.leg !== null && this.frameAt(this.leg, notes.start[i]) < this.frame;
    this.listener.struck?.(track, id, this.frame, !overdue ? 'due' : notes.start[i] < since ? 'moved' : 'late');
  }

  private forget(now: Ms): void {
    for (const [key, at] of this.struckAt) if (now - at >= REMEMBER) this.struckAt.delete(key);
  }

  private tickDue(due: (ms: Ms) => boolean): void {
    const { leadIn, ticks } = this;
    for (; this.leadAt < leadIn.at.length && due(this.begins + leadIn.at[this.leadAt]); this.leadAt++)
      this.players.tick(TICKS[leadIn.kind[this.leadAt]]);
    for (; this.tickAt < ticks.at.length && due(ticks.at[this.tickAt]); this.tickAt++)
      if (this.ticksOn) this.players.tick(TICKS[ticks.kind[this.tickAt]]);
  }

  private release(which: (s: Sounding) => boolean): void {
    if (!this.sounding.some(which)) return;
    this.sounding = this.sounding.filter((s) => {
      if (!which(s)) return true;
      this.players.noteOff(s.track, s.slot, s.pitch);
      return false;
    });
  }

  /** The frame at which something happens next. */
  private nextFrame(): number {
    const { leg, leadIn, ticks } = this;
    if (!leg) return Infinity;
    let next = this.loop ? this.loop.to : (this.end ?? Infinity);
    if (this.position < this.begins) next = Math.min(next, this.begins);
    for (const s of this.sounding) if (s.end < next) next = s.end;
    for (const { score, note, event } of this.places.values()) {
      const { notes, events } = score;
      if (note < notes.start.length && notes.start[note] < next) next = notes.start[note];
      if (event < events.at.length && events.at[event] < next) next = events.at[event];
    }
    if (this.leadAt < leadIn.at.length) next = Math.min(next, this.begins + leadIn.at[this.leadAt]);
    if (this.tickAt < ticks.at.length) next = Math.min(next, ticks.at[this.tickAt]);
    return next === Infinity ? Infinity : this.frameAt(leg, next);
  }
}

/** Of each controller and the like the last event before one, in their order: a parameter's number comes before its value. */
function lastOfEach({ slot, status, first }: ScoreEvents, before: number): number[] {
  const last = new Map<number, number>();
  for (let i = 0; i < before; i++) {
    const numbered = status[i] === 0xb0 || status[i] === 0xa0;
    const key = (slot[i] << 16) | (status[i] << 8) | (numbered ? first[i] : 0);
    last.delete(key);
    last.set(key, i);
  }
  return [...last.values()];
}
