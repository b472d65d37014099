/** Why a song file cannot be read. */
export type SongFileProblem = 'not-song' | 'newer' | 'cut-off' | 'damaged' | 'too-large';

/** A song file that cannot be read; the message says what is wrong with it. */
export class SongFileError extends Error {
  constructor(
    readonly code: SongFileProblem,
    message: string,
  ) {
    super(message);
  }
}
