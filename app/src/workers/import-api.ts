import type { ImportedSong, SmfErrorCode } from '@early-sparrow/core/smf';

export type ImportAnswer =
  | {
      readonly ok: true;
      /** Packed, which a million notes take a hundredth of the time in. */
      readonly song: unknown;
      readonly notices: ImportedSong['notices'];
    }
  | { readonly ok: false; readonly code: SmfErrorCode; readonly detail: string };

/** What the import worker can be asked. */
export interface ImportApi {
  read(bytes: Uint8Array, name: string): ImportAnswer;
}
