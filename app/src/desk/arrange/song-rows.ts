import { computed, DestroyRef, inject, Injectable, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import * as z from 'zod';
import type { Part, Track } from '@early-sparrow/core/song';
import { kept } from '../../common/kept';
import { deskFeature } from '../../state/desk.feature';
import { Viewport } from '../kit/viewport';

/** Height of the bars' numbers over the rows, in px. */
export const RULER = 18;
/** The overview as it is at first, and the least and most that it can be dragged to, in px. */
const USUAL = 88;
const LEAST = 48;
/** What of the window other things keep: head, transport, a strip at the foot, and some of the roll. */
const OTHERS = 470;
/** In a narrow window the head, the tracks and the transport are rows of their own. */
const NARROW = 700;
const OTHERS_NARROW = 580;
/** A row of the overview, and of the song view, in px. */
const LOW = 14;
const TALLEST = 72;
/** From this height on a row can be worked in: it is the song view then. */
const ARRANGES = 24;
/** A part's edge is under the pointer if it is this close, in px. */
const EDGE = 7;

/** A part under the pointer, and what of it. */
export interface SeenPart {
  readonly part: Part;
  readonly track: Track;
  readonly at: 'body' | 'start' | 'end';
}

/** Where tracks and parts are in the overview, which at some height is the song view. */
@Injectable()
export class SongRows {
  private readonly view = inject(Viewport);
  private readonly store = inject(Store);
  /** Without what is being tried. */
  readonly tracks = this.store.selectSignal(deskFeature.selectTracks);
  private readonly wanted = kept('overview.height', z.number(), USUAL);
  private readonly room = signal(innerHeight);
  readonly width = signal(0);
  readonly height = signal(0);
  private readonly scrolled = signal(0);
  /** How tall it is asked to be, in px; null as long as nobody dragged it. */
  readonly tall = computed(() => {
    const wanted = this.wanted();
    return wanted === USUAL ? null : Math.max(LEAST, Math.min(this.most(), wanted));
  });
  /** How tall it is, with its border. */
  readonly shown = computed(() => this.tall() ?? this.height() + 1);
  /** Height of a row. */
  readonly row = computed(() => {
    const fair = (this.height() - RULER - 4) / Math.max(1, this.tracks().length);
    if (this.height() < USUAL + 20) return Math.min(LOW, fair);
    return Math.max(ARRANGES, Math.min(TALLEST, fair));
  });
  /** Whether parts can be worked on. */
  readonly arranges = computed(() => this.row() >= ARRANGES);
  /** How far the rows are scrolled, in px. */
  readonly top = computed(() => Math.max(0, Math.min(this.scrolled(), this.hidden())));
  private readonly hidden = computed(() => Math.max(0, this.tracks().length * this.row() + RULER + 4 - this.height()));

  constructor() {
    const resized = () => this.room.set(innerHeight);
    addEventListener('resize', resized);
    inject(DestroyRef).onDestroy(() => removeEventListener('resize', resized));
  }

  most(): number {
    return Math.max(USUAL, this.room() - (innerWidth <= NARROW ? OTHERS_NARROW : OTHERS));
  }

  /** Makes it taller or lower. */
  setHeight(px: number): void {
    this.wanted.set(Math.round(Math.max(LEAST, Math.min(this.most(), px))));
  }

  /** As tall as there is room for, or as it was at first. */
  toggle(): void {
    this.wanted.set(this.tall() === this.most() ? USUAL : this.most());
  }

  /** Scrolls the rows. False where all are in view. */
  scroll(px: number): boolean {
    if (this.hidden() === 0) return false;
    this.scrolled.set(Math.max(0, Math.min(this.hidden(), this.top() + px)));
    return true;
  }

  /** The last tick that is shown: in the song view there is room behind the last part. */
  readonly end = computed(() => this.view.end() + (this.arranges() ? this.view.room() / 4 : 0));

  x(tick: number): number {
    return (tick / this.end()) * this.width();
  }

  tick(x: number): number {
    return (x / Math.max(1, this.width())) * this.end();
  }

  /** Where a track's row begins. */
  y(index: number): number {
    return RULER + index * this.row() - this.top();
  }

  /** Index of the row at a height, whether or not a track is there. */
  rowAt(y: number): number {
    return Math.floor((y - RULER + this.top()) / this.row());
  }

  /** Indices of the first row in view, and of the first behind it. */
  rowsInView(): readonly [number, number] {
    const first = Math.max(0, this.rowAt(RULER));
    return [first, Math.min(this.tracks().length, this.rowAt(this.height()) + 1)];
  }

  /** The part at a place; null for none. */
  partAt(x: number, y: number): SeenPart | null {
    const track = y < RULER ? undefined : this.tracks().at(this.rowAt(y));
    if (!track || this.rowAt(y) < 0) return null;
    const tick = this.tick(x);
    const part = track.parts.find((p) => spanOf(p).from <= tick && tick < spanOf(p).to);
    if (!part) return null;
    const [left, right] = [x - this.x(part.start), this.x(part.end) - x];
    const edge = Math.min(EDGE, (left + right) / 4);
    return { part, track, at: right <= edge ? 'end' : left <= edge ? 'start' : 'body' };
  }
}

/** Where a part is, with a first note that lies before its beginning. Ticks. */
export function spanOf(part: Part): { from: number; to: number } {
  const [first] = part.notes;
  return { from: Math.min(part.start, first?.start ?? part.start), to: part.end };
}
