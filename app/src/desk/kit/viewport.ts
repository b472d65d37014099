import { computed, Injectable, signal } from '@angular/core';
import type { Frame } from './frame';

// Heights and widths of the picture's fixed parts, in px.

/** The ruler: the loop's strip at its top, then tempo, meter, markers and keys, then bars and beats with the swing's handles. */
export const LOOP_HEIGHT = 14;
export const MARKS_HEIGHT = 17;
export const BARS_TOP = LOOP_HEIGHT + MARKS_HEIGHT;
export const RULER_HEIGHT = BARS_TOP + 28;
export const KEYS_WIDTH = 64;

/** Beside what is shown, in px. */
const ROOM = 12;
const MIN_SCALE = 0.002;
const MAX_SCALE = 2;

/** A lane by its height in px. */
export interface LaneSize {
  readonly id: string;
  height(): number;
}

/** What the roll shows: which stretch of time, which pitches, how large. Times in ticks, the rest in px. */
@Injectable()
export class Viewport {
  readonly width = signal(0);
  readonly height = signal(0);
  /** The lanes under the roll, from the top down. */
  readonly lanes = signal<readonly LaneSize[]>([]);
  /** Tick at the left edge of the notes. */
  readonly left = signal(0);
  /** Pixels a tick. */
  readonly scale = signal(0.1);
  /** Last tick of the song. */
  readonly end = signal(1);
  /** How far behind it can be scrolled and drawn, in ticks. */
  readonly room = signal(0);
  readonly rowHeight = signal(16);
  /** The row at the top edge, counted from the lowest; fractional while scrolling. */
  readonly topRow = signal(84);
  /** Pitches that have a row, ascending: all of them, or for drums those that are played. */
  readonly pitches = signal<readonly number[]>(ALL_PITCHES);
  private readonly rows = computed(() => new Map(this.pitches().map((pitch, row) => [pitch, row])));

  readonly notesWidth = computed(() => Math.max(1, this.width() - KEYS_WIDTH));
  private readonly lanesHeight = computed(() => this.lanes().reduce((sum, lane) => sum + lane.height(), 0));
  readonly rollHeight = computed(() => Math.max(1, this.height() - RULER_HEIGHT - this.lanesHeight()));
  readonly rollBottom = computed(() => RULER_HEIGHT + this.rollHeight());
  readonly right = computed(() => this.left() + this.notesWidth() / this.scale());

  /** Where a lane lies; without height where it is not there. */
  frameOf(id: string): Frame {
    let top = this.rollBottom();
    for (const lane of this.lanes()) {
      if (lane.id === id) return { top, height: lane.height() };
      top += lane.height();
    }
    return { top, height: 0 };
  }

  /** Id of the lane at a height; null for the roll and what is above it. */
  laneAt(y: number): string | null {
    let bottom = this.rollBottom();
    if (y < bottom) return null;
    for (const lane of this.lanes()) {
      bottom += lane.height();
      if (y < bottom) return lane.id;
    }
    return this.lanes().at(-1)?.id ?? null;
  }

  x(tick: number): number {
    return KEYS_WIDTH + (tick - this.left()) * this.scale();
  }

  /** {@link x} for many ticks in a row: what it depends on is read once. */
  across(): (tick: number) => number {
    const [left, scale] = [this.left(), this.scale()];
    return (tick) => KEYS_WIDTH + (tick - left) * scale;
  }

  tick(x: number): number {
    return this.left() + (x - KEYS_WIDTH) / this.scale();
  }

  /** Top of a pitch's row. */
  y(pitch: number): number {
    return this.rowY(this.rows().get(pitch) ?? -10);
  }

  /** The pitch of the row under `y`; −1 for none. */
  pitch(y: number): number {
    return this.pitches()[Math.ceil(this.row(y))] ?? -1;
  }

  /** The row whose top is at `y`, counted as {@link topRow} is. */
  row(y: number): number {
    return this.topRow() - (y - RULER_HEIGHT) / this.rowHeight();
  }

  rowY(row: number): number {
    return RULER_HEIGHT + (this.topRow() - row) * this.rowHeight();
  }

  /** Zooms so that the place under `x` stays where it is. */
  zoom(x: number, factor: number): void {
    const at = this.tick(x);
    const least = Math.max(MIN_SCALE, (this.notesWidth() / (this.end() + this.room())) * 0.9);
    const scale = Math.min(MAX_SCALE, Math.max(least, this.scale() * factor));
    this.scale.set(scale);
    this.scrollTo(at - (x - KEYS_WIDTH) / scale);
  }

  scroll(dx: number, dy: number): void {
    this.scrollTo(this.left() + dx / this.scale());
    const most = this.pitches().length + 2;
    this.topRow.set(Math.min(most, Math.max(Math.min(8, most), this.topRow() - dy / this.rowHeight())));
  }

  scrollTo(left: number): void {
    const most = this.end() + this.room() - (this.notesWidth() / this.scale()) * 0.5;
    this.left.set(Math.max(-12 / this.scale(), Math.min(most, left)));
  }

  /** The picture has another size. */
  resize(width: number, height: number): void {
    this.keepMiddle(() => {
      this.width.set(width);
      this.height.set(height);
    });
  }

  /** Makes the roll taller or lower: what was in its middle stays there, so that no strip and no lane covers the notes. */
  keepMiddle(change: () => void): void {
    const before = this.height() > 0 ? this.rollHeight() : null;
    change();
    if (before !== null) this.topRow.update((top) => top - (before - this.rollHeight()) / 2 / this.rowHeight());
  }

  /** Brings a pitch's row into view; one that has none gets one. */
  reveal(pitch: number): void {
    if (!this.pitches().includes(pitch)) this.pitches.update((all) => [...all, pitch].sort((a, b) => a - b));
    const row = this.pitches().indexOf(pitch);
    const rows = this.rollHeight() / this.rowHeight();
    if (row > this.topRow() - 1) this.topRow.set(row + 2);
    else if (row < this.topRow() - rows + 2) this.topRow.set(row + rows - 2);
  }

  /** Shows a stretch of time. */
  fitTime(from: number, to: number): void {
    this.scale.set(Math.min(MAX_SCALE, this.notesWidth() / Math.max(1, to - from)));
    this.scrollTo(from - 12 / this.scale());
  }

  /** Shows a stretch of time whole, with a little room on both sides. */
  fitWhole(from: number, to: number): void {
    this.scale.set(Math.min(MAX_SCALE, Math.max(1, this.notesWidth() - 2 * ROOM) / Math.max(1, to - from)));
    this.left.set(from - ROOM / this.scale());
  }

  /** Gives rows to the pitches and fits those between two of them into the height; rows are `tallest` px at most. */
  fitPitches(pitches: readonly number[], lowest: number, highest: number, tallest: number): void {
    this.pitches.set(pitches);
    const top = pitches.indexOf(highest);
    const rows = top - pitches.indexOf(lowest) + 4;
    this.rowHeight.set(Math.min(tallest, Math.max(9, this.rollHeight() / rows)));
    const spare = this.rollHeight() / this.rowHeight() - rows;
    this.topRow.set(top + 2 + Math.max(0, spare / 2));
  }
}

export const ALL_PITCHES: readonly number[] = Array.from({ length: 128 }, (_, pitch) => pitch);
