import { correctedOffsets, leansThroughout } from '@early-sparrow/core/insight';
import { noteCount, songEnd, type Song } from '@early-sparrow/core/song';
import type { TrackGlance } from './database';

/** Stretches of a song, and tracks, that are told at a glance. */
const STRETCHES = 56;
const MOST_TRACKS = 12;

/** A song's tracks at a glance: where they play, early or late. */
export function glanceOf(song: Song): TrackGlance[] {
  const end = Math.max(1, songEnd(song));
  return song.tracks
    .filter((t) => noteCount(t) > 0)
    .slice(0, MOST_TRACKS)
    .map((track) => {
      const counts = new Array<number>(STRETCHES).fill(0);
      for (const part of track.parts) {
        for (const note of part.notes) counts[Math.min(STRETCHES - 1, Math.floor((note.start / end) * STRETCHES))]++;
      }
      const most = Math.max(...counts);
      const offsets = correctedOffsets(track.parts.find((p) => p.notes.length > 0) ?? track.parts[0], song);
      return {
        name: track.name,
        density: counts.map((n) => Math.ceil((9 * n) / most)).join(''),
        leanMs: leansThroughout(offsets) ? Math.round(offsets.median * 10) / 10 : 0,
      };
    });
}
