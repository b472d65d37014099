import type { Ms, Seconds } from '../time';
import { firstFrom, type Sounding } from './timeline';

/** What a scheduler plays on. Times in seconds of the device's own clock. */
export interface Output {
  /** The device's clock now. */
  now(): Seconds;
  /** Sounds a note; it ends by itself. */
  note(track: number, note: Sounding, time: Seconds, seconds: Seconds): void;
  click(time: Seconds, accent: boolean): void;
  /** Ends everything that sounds and forgets what was to come. */
  silence(): void;
}

/** What is to be played; asked for anew at every turn, so that changes are heard at once. */
export interface Source {
  /** Audible tracks with their notes in order; `track` is handed on to the output. */
  tracks(): readonly { readonly track: number; readonly notes: readonly Sounding[] }[];
  /** Beats of the click from `from` up to `to`, in ms. */
  beats(from: number, to: number): readonly { readonly ms: number; readonly accent: boolean }[];
  /** Loop in ms; null for none. */
  loop(): { readonly from: number; readonly to: number } | null;
  /** Where the song ends, in ms. */
  end(): Ms;
}

/** How far ahead notes are handed to the output, in seconds: as little as is safe, so that a switch is heard at once. */
const AHEAD = 0.12;
/** Pause between pressing play and the first note, in seconds: the first note is never cut off. */
const LEAD = 0.06;
/** A note that a change moved back over the horizon still sounds if it is this late at most, in ms. */
const CATCH_UP = 60;
/** For this long, in ms, a note is remembered, so that a change does not strike it twice. */
const REMEMBER = 1000;

interface Leg {
  /** Device time and song time at which this stretch begins. */
  readonly at: number;
  readonly ms: number;
}

/**
 * Hands notes to an output a little ahead of time. It keeps no copy of the song: each turn
 * reads the source again, so that a slider or the compare switch is heard within a tenth of a second.
 */
export class Scheduler {
  private legs: Leg[] = [];
  /** Song time up to which notes were handed over, on the newest leg. */
  private horizon = 0;
  private readonly struck = new Map<string, number>();

  constructor(
    private readonly source: Source,
    private readonly output: Output,
  ) {}

  get playing(): boolean {
    return this.legs.length > 0;
  }

  /** Begins at a song time in ms; inside a loop that is on, or at its start. */
  start(ms: number): void {
    const loop = this.source.loop();
    const from = loop && (ms < loop.from || ms >= loop.to) ? loop.from : ms;
    this.struck.clear();
    // What has to be worked out for the first time is worked out before the clock is read: the first notes are in time.
    this.source.tracks();
    this.legs = [{ at: this.output.now() + LEAD, ms: from }];
    this.horizon = from;
    this.turn();
  }

  stop(): void {
    this.legs = [];
    this.output.silence();
  }

  /** Song time in ms that is heard now. */
  position(): number {
    const now = this.output.now();
    const leg = this.legs.findLast((l) => l.at <= now) ?? this.legs[0];
    return leg ? Math.max(leg.ms, leg.ms + (now - leg.at) * 1000) : 0;
  }

  /** Hands over what is due; to be called about every 25 ms. Stops at the song's end. */
  turn(): void {
    const now = this.output.now();
    while (this.legs.length > 1 && this.legs[1].at <= now) this.legs.shift();
    for (let guard = 0; guard < 64 && this.playing; guard++) {
      const leg = this.legs[this.legs.length - 1];
      const wanted = leg.ms + (now + AHEAD - leg.at) * 1000;
      if (wanted <= this.horizon) return;
      const loop = this.source.loop();
      if (loop && loop.to > loop.from && this.position() >= loop.to && leg.ms + (now - leg.at) * 1000 >= loop.to) {
        // The loop was set behind what is heard: go to it at once.
        this.output.silence();
        this.start(loop.from);
        return;
      }
      const inside = loop !== null && loop.to > loop.from;
      const wraps = inside && wanted >= loop.to;
      const to = wraps ? Math.max(loop.to, this.horizon) : wanted;
      this.hand(leg, this.horizon, to, inside ? loop.to : Infinity);
      this.horizon = to;
      if (!wraps) break;
      this.legs.push({ at: leg.at + (loop.to - leg.ms) / 1000, ms: loop.from });
      this.horizon = loop.from;
      this.struck.clear();
    }
    if (!this.source.loop() && this.position() >= this.source.end()) this.stop();
  }

  private hand(leg: Leg, from: number, to: number, cut: number): void {
    for (const { track, notes } of this.source.tracks()) {
      const begin = Math.max(leg.ms, from - CATCH_UP);
      for (let i = firstFrom(notes, begin); i < notes.length && notes[i].start < to; i++) {
        const note = notes[i];
        const key = `${track}.${note.id}`;
        if (this.struck.has(key)) continue;
        this.struck.set(key, note.start);
        const time = leg.at + (note.start - leg.ms) / 1000;
        const seconds = (Math.min(note.end, cut) - note.start) / 1000;
        this.output.note(track, note, Math.max(time, this.output.now()), Math.max(0.02, seconds));
      }
    }
    for (const beat of this.source.beats(from, to)) {
      this.output.click(leg.at + (beat.ms - leg.ms) / 1000, beat.accent);
    }
    for (const [key, start] of this.struck) if (start < from - REMEMBER) this.struck.delete(key);
  }
}
