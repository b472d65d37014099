import { leansThroughout, offsetsPieces } from '@early-sparrow/core/insight';
import { inBlocks, type Pieces } from '@early-sparrow/core/maths';
import { noteCount, songEnd, type Song, type Track } from '@early-sparrow/core/song';
import { factsPieces, lastEndOf, partColumns } from '@early-sparrow/core/treatment';
import type { TrackGlance } from './database';

/** Stretches of a song, and tracks, that are told at a glance. */
const STRETCHES = 56;
const MOST_TRACKS = 12;

/** A song's tracks at a glance: where they play, early or late. In pieces. */
export function* glancePieces(song: Song): Pieces<TrackGlance[]> {
  const end = Math.max(1, songEnd(song, lastEndOf));
  const glance: TrackGlance[] = [];
  for (const track of song.tracks.filter((t) => noteCount(t) > 0).slice(0, MOST_TRACKS)) {
    const density = densityOf(track, end);
    const part = track.parts.find((p) => p.notes.length > 0) ?? track.parts[0];
    yield* factsPieces(part, song);
    const { now } = yield* offsetsPieces(part, song);
    const leanMs = leansThroughout(now) ? Math.round(now.median * 10) / 10 : 0;
    glance.push({ name: track.name, density, leanMs });
  }
  return glance;
}

/** How many notes each stretch of the song has, in a digit each. */
function densityOf({ parts }: Track, end: number): string {
  const counts = new Array<number>(STRETCHES).fill(0);
  for (const part of parts) {
    const { start } = partColumns(part);
    inBlocks(start.length, (from, to) => {
      for (let i = from; i < to; i++) counts[Math.min(STRETCHES - 1, Math.floor((start[i] / end) * STRETCHES))]++;
    });
  }
  const most = Math.max(...counts);
  return counts.map((n) => Math.ceil((9 * n) / most)).join('');
}
