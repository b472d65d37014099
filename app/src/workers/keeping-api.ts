import type { SongFileProblem, SoundFile } from '@early-sparrow/core/keeping';

/** A song with its history, packed so that it goes to another thread quickly. */
export type PackedHistory = unknown;

export type SongFileAnswer =
  | {
      readonly ok: true;
      readonly history: PackedHistory;
      readonly sounds: readonly SoundFile[];
      readonly notices: readonly string[];
    }
  | { readonly ok: false; readonly code: SongFileProblem | 'unreadable'; readonly detail: string };

/** What the worker for song files does. */
export interface KeepingApi {
  read(file: Blob): Promise<SongFileAnswer>;
  write(history: PackedHistory, sounds: readonly SoundFile[], withHistory: boolean): Promise<Uint8Array>;
}
