/** What can be wrong with a standard MIDI file so that nothing of it can be opened. */
export type SmfErrorCode = 'empty' | 'too-large' | 'not-midi' | 'bad-header' | 'no-tracks' | 'unreasonable';

/** A file that cannot be opened; `code` and `offset` say why and where. */
export class SmfError extends Error {
  constructor(
    readonly code: SmfErrorCode,
    /** Byte in the file. */
    readonly offset: number,
    detail: string,
  ) {
    super(detail);
    this.name = 'SmfError';
  }
}

/** Something in a file that was mended or read in another way; nothing is left out without one. */
export type SmfNoticeCode =
  | 'truncated'
  | 'bad-event'
  | 'no-end-of-track'
  | 'after-end-of-track'
  | 'track-count'
  | 'trailing-bytes'
  | 'format-2'
  | 'smpte'
  | 'unknown-format'
  | 'unended-notes'
  | 'late-tempo'
  | 'bad-tempo'
  | 'bad-meter'
  | 'coarse-ticks';

export interface SmfNotice {
  readonly code: SmfNoticeCode;
  /** Index of the track in the file, from 0; null for the whole file. */
  readonly track: number | null;
  /** Byte in the file; null where no one byte is meant. */
  readonly offset: number | null;
  /** One plain sentence. */
  readonly text: string;
}
