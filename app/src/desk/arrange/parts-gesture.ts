import { inject, Injectable, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { meterOf, type Part, type Song } from '@early-sparrow/core/song';
import { deskFeature } from '../../state/desk.feature';
import { pictureOf } from '../hand/picture';
import { boxBetween, type At, type Box, type Gesture } from '../kit/pointer';
import { ChosenParts } from '../hand/chosen-parts';
import { PartActs } from './part-acts';
import { RULER, SongRows, type SeenPart } from './song-rows';

/** A pointer that moves less than this presses, in px. */
const MEANT = 4;
/** Lines closer together than this are not snapped to, in px. */
const CLOSEST = 8;

/** Where something would be, with what it would be in words. */
export interface Ghost {
  readonly box: Box;
  readonly words: string;
}

/** What a drag does. */
type Dragging = Pick<Gesture, 'scrolls' | 'move' | 'drop'>;

/** Whether the pointer has gone so far that it drags: a hand that presses is never quite still. */
export function isDrag(from: At, at: At): boolean {
  return Math.hypot(at.offsetX - from.offsetX, at.offsetY - from.offsetY) >= MEANT;
}

/** What the pointer does with parts in the song view: it moves, copies and resizes them, and selects them by a frame. */
@Injectable()
export class PartsGesture {
  private readonly rows = inject(SongRows);
  private readonly chosen = inject(ChosenParts);
  private readonly acts = inject(PartActs);
  private readonly store = inject(Store);
  private readonly song = this.store.selectSignal(deskFeature.selectSong);
  readonly ghosts = signal<readonly Ghost[]>([]);
  readonly frame = signal<Box | null>(null);

  cursor(at: At): string {
    if (!this.rows.arranges() || at.offsetY < RULER) return 'default';
    const seen = this.rows.partAt(at.offsetX, at.offsetY);
    return !seen ? 'default' : seen.at !== 'body' ? 'ew-resize' : at.altKey ? 'copy' : 'grab';
  }

  /** What a press begins; null where it is none of its matter. @param press what a press that does not move does */
  begin(from: At, press: () => void): Gesture | null {
    if (!this.rows.arranges() || from.offsetY < RULER) return null;
    const seen = this.rows.partAt(from.offsetX, from.offsetY);
    if (!seen) return this.framing(from, press);
    if (from.shiftKey || from.ctrlKey || from.metaKey) {
      return this.meant(from, () => this.chosen.toggle(seen.track.id, seen.part.id), null);
    }
    if (!this.chosen.ids().includes(seen.part.id)) this.chosen.select(seen.track.id, seen.part.id);
    const click = () => {
      this.chosen.select(seen.track.id, seen.part.id);
      press();
    };
    return this.meant(from, click, seen.at === 'body' ? this.moving(seen, from) : this.resizing(seen, from));
  }

  /** An empty place pressed twice gets a part of a bar. */
  draw({ offsetX, offsetY }: At): void {
    const song = this.song();
    const track = this.rows.tracks().at(this.rows.rowAt(offsetY));
    if (!song || !track || !this.rows.arranges() || offsetY < RULER || this.rows.partAt(offsetX, offsetY)) return;
    const tick = Math.floor(this.rows.tick(offsetX));
    const bar = meterOf(song).wholeBar(tick);
    const next = track.parts.find((p) => p.start > tick);
    const before = track.parts.filter((p) => p.end <= tick).at(-1);
    const start = Math.max(bar.start, before?.end ?? 0);
    this.acts.draw(track.id, start, Math.min(bar.end, next?.start ?? Infinity));
  }

  private moving({ part }: SeenPart, from: At): Dragging {
    const row = this.rows.rowAt(from.offsetY);
    const to = (at: At) => {
      const start = this.snapped(part, part.start + this.rows.tick(at.offsetX) - this.rows.tick(from.offsetX), at);
      return this.acts.stop(start - part.start, this.rows.rowAt(at.offsetY) - row);
    };
    return {
      scrolls: 'both',
      move: (at) => {
        const { by, rows } = to(at);
        const verb = at.altKey ? 'copy to' : 'to';
        this.ghosts.set(
          this.chosenParts().map((one) => ({
            box: this.boxOf(one.row + rows, one.part.start + by, one.part.end + by),
            words: one.part.id === part.id ? `${verb} ${this.placeOf(part.start + by)}` : '',
          })),
        );
      },
      drop: (at) => {
        const { by, rows } = to(at);
        if (by === 0 && rows === 0) return;
        if (at.altKey) this.acts.copy(by, rows);
        else this.acts.move(by, rows);
      },
    };
  }

  private resizing({ part, at: edge }: SeenPart, from: At): Dragging {
    const row = this.rows.rowAt(from.offsetY);
    const to = (at: At) => {
      const was = edge === 'end' ? part.end : part.start;
      const tick = this.snapped(part, was + this.rows.tick(at.offsetX) - this.rows.tick(from.offsetX), at);
      return edge === 'end'
        ? { start: part.start, end: Math.max(part.start + 1, tick) }
        : { start: Math.min(part.end - 1, Math.max(0, tick)), end: part.end };
    };
    return {
      move: (at) => {
        const span = to(at);
        const words = `${edge === 'end' ? 'ends' : 'begins'} at ${this.placeOf(edge === 'end' ? span.end : span.start)}`;
        this.ghosts.set([{ box: this.boxOf(row, span.start, span.end), words }]);
      },
      drop: (at) => this.acts.resize(part.id, to(at)),
    };
  }

  private framing(from: At, press: () => void): Gesture {
    const scrolled = this.rows.top();
    // It began on a row, which may have been scrolled since.
    const begin = () => ({ ...from, offsetY: from.offsetY + scrolled - this.rows.top() });
    const area = (at: At) => boxBetween(begin(), at);
    return this.meant(from, press, {
      scrolls: 'both',
      move: (at) => this.frame.set(area(at)),
      drop: (at) => {
        const { x, y, w, h } = area(at);
        const [first, last] = [this.rows.rowAt(y), this.rows.rowAt(y + h)];
        const found = this.rows
          .tracks()
          .flatMap((track, i) =>
            i < first || i > last
              ? []
              : track.parts.filter((p) => this.rows.x(p.start) <= x + w && this.rows.x(p.end) >= x).map((p) => p.id),
          );
        if (found.length > 0) this.chosen.set(at.shiftKey ? [...new Set([...this.chosen.ids(), ...found])] : found);
      },
    });
  }

  /** A gesture that is a press until the pointer has gone some way. */
  private meant(from: At, press: () => void, drag: Dragging | null): Gesture {
    let dragged = false;
    const over = () => {
      this.ghosts.set([]);
      this.frame.set(null);
    };
    return {
      kind: 'parts',
      scrolls: drag?.scrolls,
      move: (at) => {
        dragged ||= isDrag(from, at);
        if (dragged) drag?.move(at);
      },
      drop: (at) => {
        over();
        if (dragged) drag?.drop(at);
        else press();
      },
      cancel: over,
    };
  }

  private chosenParts(): { readonly part: Part; readonly row: number }[] {
    const ids = new Set(this.chosen.ids());
    return this.rows
      .tracks()
      .flatMap((track, row) => track.parts.filter((p) => ids.has(p.id)).map((part) => ({ part, row })));
  }

  private boxOf(row: number, start: number, end: number): Box {
    const x = this.rows.x(start);
    return { x, y: this.rows.y(row), w: Math.max(2, this.rows.x(end) - x), h: this.rows.row() - 2 };
  }

  private placeOf(tick: number): string {
    const song = this.song();
    if (!song) return '';
    const { bar, beat } = meterOf(song).toBarBeat(Math.max(0, tick));
    return `bar ${bar} beat ${beat}`;
  }

  /** A tick on the finest lines that lie far enough apart: the part's own, beats, or bars. With Ctrl or ⌘ as it is. */
  private snapped(part: Part, tick: number, { ctrlKey, metaKey }: At): number {
    const song = this.song();
    const wanted = Math.max(0, tick);
    if (!song || ctrlKey || metaKey) return Math.round(wanted);
    const px = this.rows.x(1);
    const { lines } = pictureOf(part, song);
    if (lines.gapAt(wanted) * px >= CLOSEST) return Math.round(lines.nearest(wanted));
    return this.onBeat(song, wanted, px);
  }

  private onBeat(song: Song, tick: number, px: number): number {
    const meter = meterOf(song);
    const beats = meter.pieceAt(tick).beatTicks * px >= CLOSEST;
    return meter.nearest(tick, beats ? 'beat' : 'bar');
  }
}
