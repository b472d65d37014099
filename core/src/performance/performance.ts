import { eachOf, gathered, inPieces, type Each } from '../maths';
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

/** A track as it sounds, without a list of its notes: code that needs each note only once goes through them. */
export interface SoundingTrack {
  /** The number of its notes, or more: some may be silent. */
  readonly most: number;
  readonly each: Each<SoundingNote>;
  readonly events: readonly SoundingEvent[];
}

/** The whole song as it sounds: one entry a track. */
export type Performance = readonly TrackPerformance[];

/** The song as played: every note and event at the place of its take, whatever was kept since. */
export function asPlayed(song: Song): Performance {
  return song.tracks.map((track) => playedTrack(track, song));
}

/** One track as played; the same object as long as the track does not change. */
export const playedTrack = perTime((track: Track, song: SongTimes) => listed(playedSounding(track, song)));

/** {@link playedTrack} some notes at a time. */
export const playedSounding = perTime((track: Track, song: SongTimes) =>
  sounding(track, song, (part, _, ordered) => ({
    most: part.notes.length,
    each: (act) =>
      inPieces(part.notes.length, (from, to) => {
        const some: SoundingNote[] = [];
        for (let i = from; i < to; i++) {
          const note = noteAsTaken(part.notes[i]);
          const { start, length, velocity } = note;
          some.push({ note, start, end: start + length, velocity, ordered });
        }
        act(some);
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
  ofPart: (part: Part, index: number, ordered: boolean) => SoundingTrack,
): SoundingTrack {
  const parts = track.parts.flatMap((part, i) => (part.muted ? [] : [ofPart(part, i, isOrdered(part, track))]));
  const events = parts.flatMap((p) => p.events);
  for (const event of track.setup) events.push({ event, tick: event.tick, ordered: track.origin !== undefined });
  const asked = soundOf(track, tempoOf(song));
  return {
    most: parts.reduce((sum, p) => sum + p.most, 0),
    *each(act) {
      for (const { each } of parts) yield* each(asked ? (some) => act(asked.notes(some)) : act);
    },
    events: asked ? asked.events(events) : events,
  };
}

/** All that sounds of a track, in lists. */
export function listed({ each, events }: SoundingTrack): TrackPerformance {
  return { notes: gathered(each), events };
}

/** The other way round: goes through the notes of a list. */
export function unlisted({ notes, events }: TrackPerformance): SoundingTrack {
  return { most: notes.length, each: eachOf(notes), events };
}

/** Whether the order of a part's notes and events tells where they stand in the track's file: it came with the track. */
export function isOrdered(part: Part, { origin }: Pick<Track, 'origin'>): boolean {
  return origin !== undefined && part.origin?.source === origin.source;
}

/** What a track asks of all that sounds in it: another channel, transposed, later. What goes out of the keys is silent. */
interface Asked {
  notes(plain: readonly SoundingNote[]): readonly SoundingNote[];
  events(plain: readonly SoundingEvent[]): readonly SoundingEvent[];
}

/** What a track asks of its sound; null for nothing. */
function soundOf({ channel, transpose, delay }: TrackSound, tempo: TempoMap): Asked | null {
  if (channel === null && transpose === 0 && delay.value === 0) return null;
  const late = (tick: Ticks): Ticks => Math.max(0, Math.round(addAmount(tick, delay, tempo)));
  const changed = <T extends { readonly channel: number }>(of: T): T =>
    channel === null || of.channel === channel ? of : { ...of, channel };
  const transposed = <T extends { readonly pitch: number }>(of: T): T =>
    transpose === 0 ? of : { ...of, pitch: of.pitch + transpose };
  const inRange = (pitch: number) => pitch >= 0 && pitch <= 127;
  return {
    notes: (plain) =>
      plain
        .map(({ note, start, end, ...rest }): SoundingNote => {
          const from = late(start);
          return { ...rest, note: transposed(changed(note)), start: from, end: Math.max(from, late(end)) };
        })
        .filter((n) => inRange(n.note.pitch)),
    events: (plain) =>
      plain
        .map(({ event, tick, ordered }): SoundingEvent => {
          const moved = 'channel' in event ? changed(event) : event;
          return { event: 'pitch' in moved ? transposed(moved) : moved, tick: late(tick), ordered };
        })
        .filter(({ event }) => !('pitch' in event) || inRange(event.pitch)),
  };
}
