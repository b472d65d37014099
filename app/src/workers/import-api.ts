import type { ImportedSong, SmfErrorCode } from '@early-sparrow/core/smf';

export type ImportAnswer =
  ({ readonly ok: true } & ImportedSong) | { readonly ok: false; readonly code: SmfErrorCode; readonly detail: string };

/** What the import worker can be asked. */
export interface ImportApi {
  read(bytes: Uint8Array, name: string): ImportAnswer;
}
