import { computed, inject, Injectable, signal } from '@angular/core';
import * as z from 'zod';
import { kept } from '../../common/kept';
import { RULER_HEIGHT, Viewport } from './viewport';

/** A lane that can be folded and dragged taller. */
export interface FoldingLane {
  readonly id: string;
  /** In px, where nobody has dragged it; by the height of the whole picture. */
  readonly usual: (picture: number) => number;
}

/** Lanes take at most this share of the picture, and leave the roll some rows; each that is there keeps some height, in px. */
const SHARE = 0.62;
const ROLL = 110;
const LEAST = 40;

const BookSchema = z.object({
  open: z.array(z.string()).max(50),
  heights: z.record(z.string(), z.number().min(0).max(2000)),
});

/** Which lanes are open under the roll, and how tall they are: this browser remembers both. */
@Injectable()
export class LaneBook {
  private readonly view = inject(Viewport);
  private readonly values = kept('early-sparrow.lanes', BookSchema, { open: ['offset'], heights: {} });
  private readonly known = signal<readonly FoldingLane[]>([]);
  /** The heights of the lanes that are open, in px. */
  private readonly heights = computed(() => {
    const picture = this.view.height();
    const { open, heights } = this.values();
    const wanted = this.known()
      .filter((lane) => open.includes(lane.id))
      .map(({ id, usual }) => ({ id, height: Math.max(LEAST, heights[id] ?? usual(picture)) }));
    // The roll keeps some room, however low the window is: then only the first lanes are there.
    const room = Math.max(LEAST, Math.min(picture * SHARE, picture - RULER_HEIGHT - ROLL));
    const shown = wanted.slice(0, Math.max(1, Math.floor(room / LEAST)));
    const spare = shown.reduce((all, lane) => all + lane.height - LEAST, 0);
    const share = Math.min(1, (room - shown.length * LEAST) / Math.max(1, spare));
    return new Map(shown.map(({ id, height }) => [id, Math.floor(LEAST + (height - LEAST) * Math.max(0, share))]));
  });

  /** A lane that this book is about from now on. */
  add(lane: FoldingLane): void {
    this.known.update((all) => [...all.filter((l) => l.id !== lane.id), lane]);
  }

  has(id: string): boolean {
    return this.known().some((l) => l.id === id);
  }

  isOpen(id: string): boolean {
    return this.values().open.includes(id);
  }

  /** In px; 0 for a lane that is folded. */
  heightOf(id: string): number {
    return this.heights().get(id) ?? 0;
  }

  toggle(id: string): void {
    const open = this.isOpen(id);
    this.view.keepMiddle(() =>
      this.values.update((v) => ({ ...v, open: open ? v.open.filter((o) => o !== id) : [...v.open, id] })),
    );
  }

  /** @param height in px */
  resize(id: string, height: number): void {
    this.values.update((v) => ({ ...v, heights: { ...v.heights, [id]: Math.max(LEAST, Math.round(height)) } }));
  }
}
