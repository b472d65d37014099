import {
  eventAsTaken,
  noteAsTaken,
  perTime,
  tempoOf,
  type Note,
  type Part,
  type Song,
  type SongTimes,
  type Track,
  type TrackEvent,
  type TrackSound,
} from '../song';
import { addAmount, type TempoMap, type Ticks } from '../time';

/** A note as it sounds: where it starts and ends in whole ticks, and how loud. */
export interface SoundingNote {
  readonly note: Note;
  readonly start: Ticks;
  readonly end: Ticks;
  readonly velocity: number;
  /** Whether its order tells where it stands among the events of its track. */
  readonly ordered: boolean;
}

/** An event that is not a note, and where it happens; elsewhere than by its own tick where a treatment moved it. */
export interface SoundingEvent {
  readonly event: TrackEvent;
  readonly tick: Ticks;
  readonly ordered: boolean;
}

/** A track's notes and other events as they sound. */
export interface TrackPerformance {
  readonly notes: readonly SoundingNote[];
  readonly events: readonly SoundingEvent[];
}

/** The whole song as it sounds: one entry a track. */
export type Performance = readonly TrackPerformance[];

/** The song as played: every note and event at the place of its take, whatever was kept since. */
export function asPlayed(song: Song): Performance {
  return song.tracks.map((track) => playedTrack(track, song));
}

/** One track as played; the same object as long as the track does not change. */
export const playedTrack = perTime((track: Track, song: SongTimes): TrackPerformance =>
  sounding(track, song, (part, _, ordered) => ({
    notes: part.notes.map((own) => {
      const note = noteAsTaken(own);
      return { note, start: note.start, end: note.start + note.length, velocity: note.velocity, ordered };
    }),
    events: part.events.map((own) => {
      const event = eventAsTaken(own);
      return { event, tick: event.tick, ordered };
    }),
  })),
);

/**
 * A track from what sounds of its parts: muted ones are silent, and its channel, transposition and delay count.
 * @param ofPart is told whether the order of a part's notes and events tells where they stand in the track's file
 */
export function sounding(
  track: Track,
  song: SongTimes,
  ofPart: (part: Part, index: number, ordered: boolean) => TrackPerformance,
): TrackPerformance {
  const parts = track.parts.map((part, i) => (part.muted ? SILENCE : ofPart(part, i, isOrdered(part, track))));
  const notes = parts.length === 1 ? parts[0].notes : parts.flatMap((p) => p.notes);
  const events = parts.flatMap((p) => p.events);
  for (const event of track.setup) events.push({ event, tick: event.tick, ordered: track.origin !== undefined });
  return withSound({ notes, events }, track, tempoOf(song));
}

/** Whether the order of a part's notes and events tells where they stand in the track's file: it came with the track. */
export function isOrdered(part: Part, { origin }: Pick<Track, 'origin'>): boolean {
  return origin !== undefined && part.origin?.source === origin.source;
}

const SILENCE: TrackPerformance = { notes: [], events: [] };

/** The same on another channel, transposed and delayed, as a track asks. What goes out of the keys is silent. */
function withSound(plain: TrackPerformance, track: TrackSound, tempo: TempoMap): TrackPerformance {
  const { channel, transpose, delay } = track;
  if (channel === null && transpose === 0 && delay.value === 0) return plain;
  const late = (tick: Ticks): Ticks => Math.max(0, Math.round(addAmount(tick, delay, tempo)));
  const changed = <T extends { readonly channel: number }>(of: T): T =>
    channel === null || of.channel === channel ? of : { ...of, channel };
  const transposed = <T extends { readonly pitch: number }>(of: T): T =>
    transpose === 0 ? of : { ...of, pitch: of.pitch + transpose };
  const notes = plain.notes.map(({ note, start, end, ...rest }): SoundingNote => {
    const from = late(start);
    return { ...rest, note: transposed(changed(note)), start: from, end: Math.max(from, late(end)) };
  });
  const events = plain.events.map(({ event, tick, ordered }): SoundingEvent => {
    const moved = 'channel' in event ? changed(event) : event;
    return { event: 'pitch' in moved ? transposed(moved) : moved, tick: late(tick), ordered };
  });
  const inRange = (pitch: number) => pitch >= 0 && pitch <= 127;
  return {
    notes: notes.filter((n) => inRange(n.note.pitch)),
    events: events.filter(({ event }) => !('pitch' in event) || inRange(event.pitch)),
  };
}
