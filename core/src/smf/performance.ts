import { noteAsTaken, type Note, type Song, type Track, type TrackEvent, eventAsTaken } from '../song';

/** A note as it sounds: where it starts and ends in whole ticks, and how loud. */
export interface SoundingNote {
  readonly note: Note;
  readonly start: number;
  readonly end: number;
  readonly velocity: number;
}

/** A track's notes and other events as they sound. */
export interface TrackPerformance {
  readonly notes: readonly SoundingNote[];
  readonly events: readonly TrackEvent[];
  /** Events that moved, so that they give up their old place among others at one tick. */
  readonly moved: ReadonlySet<TrackEvent>;
}

/** The whole song as it sounds: one entry a track. */
export type Performance = readonly TrackPerformance[];

const NONE: ReadonlySet<TrackEvent> = new Set();

const played = new WeakMap<Track, TrackPerformance>();

/** The song as played: every note and event at the place of its take, whatever was kept since. */
export function asPlayed(song: Song): Performance {
  return song.tracks.map((track) => {
    let known = played.get(track);
    if (!known) played.set(track, (known = playedTrack(track)));
    return known;
  });
}

function playedTrack(track: Track): TrackPerformance {
  return {
    notes: track.parts.flatMap((part) =>
      part.notes.map((own) => {
        const note = noteAsTaken(own);
        return { note, start: note.start, end: note.start + note.length, velocity: note.velocity };
      }),
    ),
    events: track.events.some((e) => e.take) ? track.events.map(eventAsTaken) : track.events,
    moved: NONE,
  };
}
