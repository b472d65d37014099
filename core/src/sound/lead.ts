import { tempoOf, type Part, type Song, type Track } from '../song';
import { addAmount, type Ms, type Ticks } from '../time';
import { earlyAfter, treatPart } from '../treatment';

/** Less than any two notes are apart, and more than times are rounded by. */
const HAIR: Ms = 1e-3;

type Side = 'played' | 'corrected';

/**
 * How much earlier than a line playing has to begin so that what was played early for it is heard, on whichever track
 * that sounds there; 0 where nothing is early.
 * @param isHeard whether a track is
 */
export function leadTo(at: Ticks, song: Song, side: Side, isHeard: (track: Track) => boolean): Ms {
  const tempo = tempoOf(song);
  let first = at;
  for (const track of song.tracks) {
    const part = track.parts.find((p) => p.start <= at && at < p.end);
    const after = part && !part.muted && isHeard(track) ? earlyAfter(part, at, song, side) : null;
    if (!part || after === null) continue;
    const places = placesOf(part, song, side);
    for (let i = 0; i < part.notes.length; i++) {
      const place = places(i);
      if (place <= after || part.notes[i].muted) continue;
      const sounds = track.delay.value === 0 ? place : addAmount(place, track.delay, tempo);
      if (sounds < first) first = sounds;
    }
  }
  return first < at ? Math.min(tempo.toMs(at), tempo.between(first, at) + HAIR) : 0;
}

function placesOf(part: Part, song: Song, side: Side): (i: number) => Ticks {
  if (side === 'played') return (i) => (part.notes[i].take ?? part.notes[i]).start;
  const { start } = treatPart(part, song);
  return (i) => start[i];
}
