import { meterOf } from './look';
import { isPartEvent, type PartEvent, type TrackEvent } from './event';
import type { Note } from './note';
import { partEnd } from './span';
import { readText } from './text';
import { PLAIN_MIX, PLAIN_SOUND, SONG_VERSION, type Marker, type Song, type SongMeter } from './song';

/** A song of version 1 as it was stored: unchecked, so read with care and checked afterwards as one of version 2. */
export interface Song1 {
  readonly name: string;
  readonly ppq: number;
  readonly format: 0 | 1;
  readonly tempo: Song['tempo'];
  readonly meter: readonly SongMeter[];
  readonly tracks: readonly Track1[];
  readonly chunks: NonNullable<Song['origin']>['chunks'];
  readonly nextId: number;
}
interface Track1 {
  readonly id: string;
  readonly name: string;
  readonly source: number;
  readonly parts: readonly { readonly notes: readonly Note[]; readonly start: number }[];
  readonly events: readonly TrackEvent[];
  readonly end: number;
  readonly mute: boolean;
  readonly solo: boolean;
  readonly level: number;
}

const MARKER = 0x06;

/** Whether an event of a track of version 1 became one of its first part's; all others are in its setup now. */
function goesToPart(event: TrackEvent, track: { readonly parts: readonly unknown[] }): event is PartEvent {
  return track.parts.length > 0 && isPartEvent(event);
}

/** Whether an event of a track of version 1 became a marker of the song. */
function goesToMarkers(event: TrackEvent, track: { readonly source: number }): boolean {
  return track.source === 0 && event.type === 'meta' && event.meta === MARKER;
}

/**
 * Brings a song of version 1 to version 2: it sounds the same and is written as the same file. Version 1 had one part
 * a track and kept all events at the track. @throws anything, where it is no such song
 */
export function fromVersion1(value: unknown): unknown {
  const old = value as Song1;
  const { name, ppq, format, tempo, chunks, nextId } = old;
  // Denominators beyond 64 were let in once; nothing could be seen or written by them.
  const meter = old.meter.filter((m) => m.denominator <= 64);
  const meters = meterOf({ ppq, meter });
  const tracks = old.tracks.map((track) => {
    const { id, source, events, end, mute, solo, level } = track;
    const mine = events.filter((e) => goesToPart(e, track)).sort((a, b) => a.tick - b.tick);
    const setup = events.filter((e) => !goesToPart(e, track) && !goesToMarkers(e, track));
    // Version 1 wrote a new name into the track's event at once: the file says what the track is called.
    const origin = { source, name: track.name, end };
    return {
      id,
      name: track.name,
      colour: null,
      ...PLAIN_SOUND,
      ...PLAIN_MIX,
      mute,
      solo,
      level,
      parts: track.parts.map((part, i) => ({
        ...part,
        colour: null,
        start: part.start,
        end: partEnd(part.start, part.notes, i === 0 ? mine : [], meters),
        muted: false,
        events: i === 0 ? mine : [],
        origin: { source },
      })),
      setup,
      origin,
    };
  });
  const markers = old.tracks.flatMap((track) =>
    track.events.filter((e) => goesToMarkers(e, track)).map((e) => markerOf(e)),
  );
  return {
    version: SONG_VERSION,
    name,
    ppq,
    tempo,
    meter,
    markers,
    tracks,
    nextId,
    origin: { format, chunks },
  };
}

function markerOf(event: TrackEvent): Marker {
  const data = event.type === 'meta' ? event.data : new Uint8Array();
  return { tick: event.tick, name: readText(data), origin: { order: event.order ?? 0, data } };
}
