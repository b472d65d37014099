import { inPieces, whole, type Pieces } from '../maths';
import { asPlayed, listed, sounding, type Performance, type SoundingNote, type TrackPerformance } from '../performance';
import { perTime, type Song, type SongContext, type Track } from '../song';
import { treatEvents } from './events';
import { hasSilent, isSilent, referencesOf, treatTrack, type TreatedPart } from './treat';

/** The song as it sounds with every treatment that is on; dropped doubles are silent. */
export function corrected(song: Song): Performance {
  return song.tracks.map((track) => correctedTrack(track, song));
}

/** The song as it sounds before or after its treatments. */
export function perform(song: Song, which: 'played' | 'corrected'): Performance {
  return which === 'played' ? asPlayed(song) : corrected(song);
}

/** What a track's sound depends on beside the track. */
const also = { also: (track: Track, song: SongContext) => referencesOf(track.parts, song) };

/** One track as it sounds corrected; the same object as long as the track does not change. */
export const correctedTrack = perTime(
  (track: Track, song: SongContext): TrackPerformance => listed(correctedSounding(track, song)),
  also,
);

/** {@link correctedTrack} some notes at a time. */
export const correctedSounding = perTime((track: Track, song: SongContext) => {
  const treated = treatTrack(track, song);
  const ticks = treatEvents(track.parts, song);
  return sounding(track, song, (part, p, ordered) => ({
    most: part.notes.length,
    each: (act) => eachNote(treated[p], ordered, act),
    events: part.events.map((event, i) => ({ event, tick: ticks[p][i], ordered })),
  }));
}, also);

function eachNote(treated: TreatedPart, ordered: boolean, act: (some: readonly SoundingNote[]) => void): Pieces<void> {
  const { part, start, end, velocity, settled } = treated;
  const silences = settled.dropped !== null || hasSilent(part);
  return inPieces(start.length, (from, to) => {
    const some: SoundingNote[] = [];
    for (let i = from; i < to; i++) {
      if (silences && isSilent(part, treated, i)) continue;
      some.push({ note: part.notes[i], start: whole(start[i]), end: whole(end[i]), velocity: velocity[i], ordered });
    }
    act(some);
  });
}
