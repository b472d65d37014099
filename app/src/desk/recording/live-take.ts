import { signal } from '@angular/core';
import { isNoteOff, isNoteOn, type MidiBytes } from '@early-sparrow/core/record';

/** A note, or a pedal that is down, while it is played; ticks. Null while it is still held. */
export interface LiveNote {
  readonly pitch: number;
  readonly start: number;
  readonly end: number | null;
}
export type LivePedal = Omit<LiveNote, 'pitch'> & { readonly controller: number };
/** A place of the pitch wheel, from −1 to 1. */
export interface LiveBend {
  readonly at: number;
  readonly value: number;
}

/** What is shown of a recording while it is made: its place against the lines is told once it is in the song. */
export interface LivePlaying {
  readonly notes: readonly LiveNote[];
  readonly pedals: readonly LivePedal[];
  readonly bends: readonly LiveBend[];
}

const NOTHING: LivePlaying = { notes: [], pedals: [], bends: [] };
/** Damper, sostenuto and soft pedal (MIDI 1.0, table of controllers); half of the way is down. */
const PEDALS = new Set([64, 66, 67]);
const DOWN = 64;

/** Collects what is played in for the picture. */
export class LiveTake {
  readonly playing = signal(NOTHING);

  clear(): void {
    this.playing.set(NOTHING);
  }

  hear(bytes: MidiBytes, tick: number): void {
    const [status, first, second] = bytes;
    const kind = status & 0xf0;
    if (isNoteOn(bytes)) {
      // A key that is struck again while it is held ends there, as in the song.
      const before = ended(this.now.notes, (n) => n.pitch === first, tick);
      this.change({ notes: [...before, { pitch: first, start: tick, end: null }] });
    } else if (isNoteOff(bytes)) this.change({ notes: ended(this.now.notes, (n) => n.pitch === first, tick) });
    else if (kind === 0xb0 && PEDALS.has(first)) this.pedal(first, second >= DOWN, tick);
    else if (kind === 0xe0) {
      const value = ((first | (second << 7)) - 8192) / 8192;
      this.change({ bends: [...this.now.bends, { at: tick, value }] });
    }
  }

  private pedal(controller: number, down: boolean, tick: number): void {
    const { pedals } = this.now;
    const isHeld = (p: LivePedal) => p.controller === controller && p.end === null;
    if (!down) this.change({ pedals: ended(pedals, isHeld, tick) });
    else if (!pedals.some(isHeld)) this.change({ pedals: [...pedals, { controller, start: tick, end: null }] });
  }

  private get now(): LivePlaying {
    return this.playing();
  }

  private change(change: Partial<LivePlaying>): void {
    this.playing.update((all) => ({ ...all, ...change }));
  }
}

/** The one of some that is still held ends. */
function ended<T extends { readonly end: number | null }>(
  all: readonly T[],
  which: (one: T) => boolean,
  tick: number,
): readonly T[] {
  const k = all.findIndex((one) => which(one) && one.end === null);
  return k < 0 ? all : all.map((one, i) => (i === k ? { ...one, end: tick } : one));
}
