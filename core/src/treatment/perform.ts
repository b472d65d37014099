import type { SongTime } from '../grid';
import type { Song, Track } from '../song';
import { asPlayed, type Performance, type SoundingNote, type TrackPerformance } from '../smf';
import { treatEvents } from './events';
import { isSilent, sameTime, timeOf, treatPart } from './treat';

/** The song as it sounds with every treatment that is on; dropped doubles are silent. */
export function corrected(song: Song): Performance {
  return song.tracks.map((track) => correctedTrack(track, song));
}

/** The song as it sounds before or after its treatments. */
export function perform(song: Song, which: 'played' | 'corrected'): Performance {
  return which === 'played' ? asPlayed(song) : corrected(song);
}

const performances = new WeakMap<Track, { time: SongTime; value: TrackPerformance }>();

/** One track as it sounds corrected; the same object as long as the track does not change. */
export function correctedTrack(track: Track, song: Song): TrackPerformance {
  const time = timeOf(song);
  const known = performances.get(track);
  if (known && sameTime(known.time, time)) return known.value;
  const value = computeTrack(track, song, time);
  performances.set(track, { time, value });
  return value;
}

function computeTrack(track: Track, song: Song, time: SongTime): TrackPerformance {
  const parts = track.parts.map((part) => ({ part, treated: treatPart(part, song) }));
  const notes = parts.flatMap(({ part, treated }) =>
    part.notes.flatMap((note, i): SoundingNote[] =>
      isSilent(part, treated, i)
        ? []
        : [{ note, start: treated.start[i], end: treated.end[i], velocity: treated.velocity[i] }],
    ),
  );
  return { notes, ...treatEvents(track.events, parts, time) };
}
