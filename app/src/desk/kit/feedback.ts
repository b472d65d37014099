import { Injectable, signal } from '@angular/core';
import type { Box } from './pointer';

/** What a gesture shows on its way. */
@Injectable()
export class Feedback {
  /** A rectangle over the picture. */
  readonly box = signal<Box | null>(null);
  /** Height of the pointer in the roll, where it is in it: the key there is named at the left. */
  readonly row = signal<number | null>(null);
  /** Some notes that something would be done to, by id: they are marked in the picture. */
  readonly marked = signal<ReadonlySet<number>>(NONE);
  /** What the drag does so far, in words. */
  readonly hint = signal<string | null>(null);
}

const NONE: ReadonlySet<number> = new Set();
