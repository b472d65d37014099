import { timeOf, type Part, type Quantize, type SongContext, type Track } from '../song';
import type { Ms, Ticks } from '../time';
import { chordMedian } from './chords';

/** Notes of another track that start within this of the first of them are one chord. */
const CHORD_MS: Ms = 30;

/** The track that a treatment's lines go by; null where there is none, or it is the part's own. */
export function referenceTrack(use: Quantize['with'], owner: Track | null, song: SongContext): Track | null {
  const track = use ? song.tracks?.find((t) => t.id === use.track) : undefined;
  return track && track !== owner ? track : null;
}

/** The track of a song that a part is in. */
export function ownerOf(part: Part, song: SongContext): Track | null {
  return song.tracks?.find((t) => t.parts.includes(part)) ?? null;
}

/** Whether a track's corrected notes depend on another's, through any number of tracks. */
export function dependsOn(track: Track, other: Track, song: SongContext): boolean {
  const seen = new Set<Track>();
  const waiting = [track];
  for (let next = waiting.pop(); next; next = waiting.pop()) {
    if (seen.has(next)) continue;
    seen.add(next);
    for (const use of usesOf(next)) {
      const reference = use.as === 'corrected' ? referenceTrack(use, next, song) : null;
      if (reference === other) return true;
      if (reference) waiting.push(reference);
    }
  }
  return false;
}

/** What the treatments of a track's parts go by. */
export function usesOf({ parts }: Pick<Track, 'parts'>): NonNullable<Quantize['with']>[] {
  return parts.flatMap((p) =>
    [p.treatment, ...p.sets.map((s) => s.treatment)].flatMap(({ quantize }) => (quantize.with ? [quantize.with] : [])),
  );
}

/** The places of chords: medians of notes that start together, in ticks, ascending. */
export function chordPlaces(starts: readonly Ticks[], song: SongContext): Float64Array {
  const { tempo } = timeOf(song);
  const sorted = Float64Array.from(starts).sort();
  const places: number[] = [];
  for (let from = 0, to = 0; from < sorted.length; from = to) {
    const end = tempo.shift(sorted[from], CHORD_MS);
    while (to < sorted.length && sorted[to] <= end) to++;
    places.push(chordMedian(sorted, from, to));
  }
  return Float64Array.from(places);
}
