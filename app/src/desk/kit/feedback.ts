import { Injectable, signal } from '@angular/core';
import type { Box } from './pointer';

/** What a gesture shows on its way. */
@Injectable()
export class Feedback {
  /** A rectangle over the picture. */
  readonly box = signal<Box | null>(null);
  /** What the drag does so far, in words. */
  readonly hint = signal<string | null>(null);
}
