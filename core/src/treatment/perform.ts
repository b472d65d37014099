import { asPlayed, sounding, type Performance, type SoundingNote, type TrackPerformance } from '../smf';
import { perTime, type Song, type SongContext, type Track } from '../song';
import { treatEvents } from './events';
import { isSilent, referencesOf, treatTrack } from './treat';

/** The song as it sounds with every treatment that is on; dropped doubles are silent. */
export function corrected(song: Song): Performance {
  return song.tracks.map((track) => correctedTrack(track, song));
}

/** The song as it sounds before or after its treatments. */
export function perform(song: Song, which: 'played' | 'corrected'): Performance {
  return which === 'played' ? asPlayed(song) : corrected(song);
}

/** One track as it sounds corrected; the same object as long as the track does not change. */
export const correctedTrack = perTime(performCorrected, {
  also: (track: Track, song: SongContext) => referencesOf(track.parts, song),
});

function performCorrected(track: Track, song: SongContext): TrackPerformance {
  const treated = treatTrack(track, song);
  const ticks = treatEvents(track.parts, song);
  return sounding(track, song, (part, p, ordered) => {
    const { start, end, velocity } = treated[p];
    const notes: SoundingNote[] = [];
    part.notes.forEach((note, i) => {
      if (isSilent(part, treated[p], i)) return;
      notes.push({ note, start: start[i], end: end[i], velocity: velocity[i], ordered });
    });
    return { notes, events: part.events.map((event, i) => ({ event, tick: ticks[p][i], ordered })) };
  });
}
