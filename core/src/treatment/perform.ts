import { atOnce, inPieces, whole, type Pieces } from '../maths';
import {
  asPlayed,
  isOrdered,
  sounding,
  type Performance,
  type SoundingNote,
  type TrackPerformance,
} from '../performance';
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

/** One track as it sounds corrected; the same object as long as the track does not change. */
export const correctedTrack = perTime(performCorrected, {
  also: (track: Track, song: SongContext) => referencesOf(track.parts, song),
});

function performCorrected(track: Track, song: SongContext): TrackPerformance {
  const treated = treatTrack(track, song);
  const ticks = treatEvents(track.parts, song);
  return sounding(track, song, (part, p, ordered) => ({
    notes: atOnce(soundingNotes(treated[p], ordered)),
    events: part.events.map((event, i) => ({ event, tick: ticks[p][i], ordered })),
  }));
}

/** Notes that sound, and whether they were told to be in the order of their file. */
const known = new WeakMap<TreatedPart, { readonly notes: readonly SoundingNote[]; readonly ordered: boolean }>();

/** {@link correctedTrack} of very many notes, in pieces. */
export function* correctedPieces(track: Track, song: SongContext): Pieces<TrackPerformance> {
  for (const treated of treatTrack(track, song)) {
    yield;
    yield* soundingNotes(treated, isOrdered(treated.part, track));
  }
  return correctedTrack(track, song);
}

function* soundingNotes(treated: TreatedPart, ordered: boolean): Pieces<readonly SoundingNote[]> {
  const before = known.get(treated);
  if (before?.ordered === ordered) return before.notes;
  const { part, start, end, velocity, settled } = treated;
  const silences = settled.dropped !== null || hasSilent(part);
  const notes: SoundingNote[] = [];
  yield* inPieces(start.length, (from, to) => {
    for (let i = from; i < to; i++) {
      if (silences && isSilent(part, treated, i)) continue;
      notes.push({ note: part.notes[i], start: whole(start[i]), end: whole(end[i]), velocity: velocity[i], ordered });
    }
  });
  known.set(treated, { notes, ordered });
  return notes;
}
