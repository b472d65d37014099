import { songEnd, tempoOf } from './look';
import type { Part, Song } from './song';

/** A song can last so long; a file of a longer one would not be opened again. */
export const MOST_HOURS = 24;

/**
 * How long a song lasts, in hours: to its last note, or to where its last part ends.
 * @param endOf as for {@link songEnd}
 */
export function hoursOf(song: Song, endOf?: (part: Part) => number): number {
  const end = song.tracks.reduce((last, t) => Math.max(last, t.parts.at(-1)?.end ?? 0), songEnd(song, endOf));
  return tempoOf(song).toMs(end) / 3_600_000;
}
