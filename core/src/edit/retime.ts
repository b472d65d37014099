import type { Note, Part, Song } from '../song';
import { byPlace, retimeAudio, withContents } from '../song';
import type { TempoMap, Ticks } from '../time';

/**
 * Everything in a song, at the ticks of another tempo map that sound when its own ticks do now: nothing is further off
 * than half a tick.
 */
export function retime(song: Song, from: TempoMap, to: TempoMap): Pick<Song, 'tracks' | 'markers'> {
  const at = (tick: Ticks): Ticks => Math.max(0, Math.round(to.toTick(from.toMs(tick))));
  return {
    markers: song.markers.map((m) => ({ ...m, tick: at(m.tick) })),
    tracks: song.tracks.map((track) => ({
      ...track,
      parts: apart(
        track.parts.map((part) => ({
          ...retimePart(part, at),
          ...(part.audio ? { audio: retimeAudio(part.audio, from, to) } : {}),
        })),
      ),
      setup: track.setup.map((e) => ({ ...e, tick: at(e.tick) })),
      ...(track.origin ? { origin: { ...track.origin, end: at(track.origin.end) } } : {}),
    })),
  };
}

/** Parts in order of time, none over the next: very short ones may have come to one tick. */
export function apart(parts: readonly Part[]): Part[] {
  let free = 0;
  return parts.map((part) => {
    const start = Math.max(part.start, free);
    free = Math.max(part.end, start + 1);
    return start === part.start && free === part.end ? part : { ...part, start, end: free };
  });
}

type At = (tick: Ticks) => Ticks;

/** A part at the places that `at` gives for its ticks, with everything in it but a sound file. */
export function retimePart(part: Part, at: At): Part {
  const start = at(part.start);
  const moved = withContents(part, ({ notes, events }) => ({
    notes: notes.map((n) => retimeNote(n, at)).sort(byPlace),
    events: events.map((e) => ({
      ...e,
      tick: at(e.tick),
      ...(e.take ? { take: { ...e.take, tick: at(e.take.tick) } } : {}),
    })),
  }));
  return { ...moved, start, end: Math.max(start + 1, at(part.end)) };
}

function retimeNote(note: Note, at: At): Note {
  const { take, exception } = note;
  return {
    ...note,
    ...span(note, at),
    ...(take ? { take: { ...take, ...span(take, at) } } : {}),
    ...(exception?.kind === 'pinned' ? { exception: { ...exception, ...span(exception, at) } } : {}),
  };
}

function span({ start, length }: { start: Ticks; length: Ticks }, at: At): { start: Ticks; length: Ticks } {
  const from = at(start);
  const end = at(start + length);
  return { start: from, length: length > 0 ? Math.max(1, end - from) : 0 };
}
