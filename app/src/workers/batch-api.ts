import type { Doubt } from '@early-sparrow/core/batch';
import type { Recipe } from '@early-sparrow/core/recipe';

/** What became of one track of a file. */
export interface TrackResult {
  readonly name: string;
  /** The lines, as `1/16 ~62%`. */
  readonly grid: string;
  /** The lag that was removed, in ms; null for none. Early is negative. */
  readonly lagMs: number | null;
  readonly notes: number;
  readonly moved: number;
  readonly typicalMs: number;
  readonly largestMs: number;
  readonly merges: number;
  readonly doubts: readonly Doubt[];
}

export type FileAnswer =
  | {
      readonly ok: true;
      /** The corrected standard MIDI file. */
      readonly bytes: Uint8Array;
      readonly notices: readonly string[];
      readonly tracks: readonly TrackResult[];
    }
  | { readonly ok: false; readonly reason: string };

/** What a worker for many files does, one file after the other. */
export interface BatchApi {
  correct(file: Blob, name: string, recipe: Recipe): Promise<FileAnswer>;
  /** The file's song with its treatments on it, packed. */
  song(file: Blob, name: string, recipe: Recipe): Promise<unknown>;
}
