import {
  byPlace,
  channelsOfOne,
  DEFAULT_TREATMENT,
  isPartEvent,
  isPedal,
  THIRD_DIMENSION,
  meterOf,
  partEnd,
  partStart,
  PLAIN_MIX,
  PLAIN_SOUND,
  readText,
  SONG_VERSION,
  type Marker,
  type Part,
  type PartEvent,
  type Song,
  type Track,
} from '../song';
import type { MeterMap } from '../time';
import { layOut } from './chunks';
import { timeTrack } from './time-track';
import { readDivision } from './division';
import { checkReasonable } from './limits';
import type { SmfNotice } from './problem';
import { trackTitle } from './title';
import { readTrack, type RawEvent, type RawNote, type ReadTrack } from './track-reader';

const MARKER = 0x06;

/** A song with what was mended or read in another way on its way in. */
export interface ImportedSong {
  readonly song: Song;
  readonly notices: readonly SmfNotice[];
}

/**
 * Reads a standard MIDI file of format 0, 1 or, as well as possible, 2.
 * Every event is kept. Positions are multiplied so that a quarter note has at least 960 ticks.
 * @param bytes the file, 16 MB at most
 * @param name the song's name, such as the file's name without its ending
 * @throws SmfError where the file holds no readable header or track, or what no song is
 */
export function readSmf(bytes: Uint8Array, name: string): ImportedSong {
  const layout = layOut(bytes);
  const sources = layout.tracks.map((chunk, i) => readTrack(bytes, chunk, i));
  const longest = sources.reduce((max, t) => Math.max(max, t.longestDelta), 0);
  const division = readDivision(layout.division, longest);
  const notices: SmfNotice[] = [...layout.notices];
  for (const track of sources) for (const notice of track.notices) notices.push(notice);
  if (division.notice) notices.push(division.notice);
  if (layout.format > 1) notices.push(formatNotice(layout.format));
  const { tempo, meter } = timeTrack(sources, division, notices);
  const { factor } = division;
  const scaled = <T extends { readonly tick: number }>(at: T): T => ({ ...at, tick: at.tick * factor });
  const base = {
    version: SONG_VERSION,
    name: name.slice(0, 200) || 'Untitled',
    ppq: division.ppq * factor,
    tempo: tempo.map(scaled),
    meter: meter.map(scaled),
  } as const;
  for (const source of sources) scale(source, factor);
  const markers = takeMarkers(sources[0]);
  checkReasonable({ ...base, markers }, sources, factor);
  const format = layout.format === 0 && sources.length === 1 ? 0 : 1;
  const builder = new TrackBuilder(meterOf(base), factor);
  const tracks = sources.flatMap((source, i) =>
    (format === 0 ? splitChannels(source) : [source]).map((t, k) => builder.track(t, i, format === 0 && k > 0)),
  );
  const song = {
    ...base,
    markers,
    tracks: tracks.map((t) => builder.numbered(t)),
    nextId: builder.nextId,
    origin: { format, chunks: layout.others },
  } as const;
  return { song, notices };
}

/** Brings what was just read to the song's ticks, in place: a copy of a million notes would be felt. */
function scale({ notes, events }: ReadTrack, factor: number): void {
  if (factor === 1) return;
  for (const note of notes) {
    note.start *= factor;
    note.length *= factor;
  }
  for (const event of events) event.tick *= factor;
}

/** Makes tracks of what was read, and counts ids: notes first, so that their numbers say nothing of tracks. */
class TrackBuilder {
  nextId = 0;

  constructor(
    private readonly meter: MeterMap,
    private readonly factor: number,
  ) {}

  track(source: ReadTrack, index: number, other: boolean): Track {
    const { notes, events } = source;
    for (const note of notes) note.id = this.nextId++;
    notes.sort(byPlace);
    const name = trackTitle(events, other ? notes[0]?.channel : undefined, index);
    const { mine, setup } = share(events, notes);
    return {
      id: '',
      name,
      colour: null,
      ...PLAIN_SOUND,
      ...PLAIN_MIX,
      parts: notes.length === 0 ? [] : [this.part(name, notes, mine, index)],
      setup,
      origin: { source: index, name, end: source.end * this.factor },
    };
  }

  /** Gives a track and its part their ids. */
  numbered(track: Track): Track {
    const id = `t${this.nextId++}`;
    return { ...track, id, parts: track.parts.map((part) => ({ ...part, id: `p${this.nextId++}` })) };
  }

  private part(name: string, notes: readonly RawNote[], events: readonly PartEvent[], source: number): Part {
    const start = partStart(notes[0].start, this.meter);
    return {
      id: '',
      name,
      colour: null,
      start,
      end: partEnd(start, notes, events, this.meter),
      on: true,
      muted: false,
      treatment: DEFAULT_TREATMENT,
      sets: [],
      notes,
      events,
      origin: { source },
    };
  }
}

/**
 * Shares a track's events between its part and its setup. What only prepares the channel before the first note
 * (banks, volume, effects) stays with the track; a pedal that is pressed before the first note belongs to it, and so
 * does controller 74, which is set just before a note that is played with it.
 */
function share(events: readonly RawEvent[], notes: readonly RawNote[]): { mine: PartEvent[]; setup: RawEvent[] } {
  const mine: PartEvent[] = [];
  const setup: RawEvent[] = [];
  const first = notes[0]?.start ?? Infinity;
  for (const event of events) {
    const prepares =
      event.type === 'controller' && !isPedal(event) && event.controller !== THIRD_DIMENSION && event.tick <= first;
    if (notes.length > 0 && isPartEvent(event) && !prepares) mine.push(event);
    else setup.push(event);
  }
  return { mine, setup };
}

/** Takes the markers out of the first track: they are the song's. */
function takeMarkers(first: ReadTrack): Marker[] {
  const markers: Marker[] = [];
  const others = first.events.filter((event) => {
    if (event.type !== 'meta' || event.meta !== MARKER) return true;
    const { tick, data, order } = event;
    markers.push({ tick, name: readText(data).slice(0, 1000), origin: { order: order ?? 0, data } });
    return false;
  });
  first.events.splice(0, first.events.length);
  for (const event of others) first.events.push(event);
  return markers;
}

/**
 * A format 0 track as one track a channel, or for all channels of an instrument that has one for each note; what belongs
 * to no channel with notes stays with the first.
 */
function splitChannels(track: ReadTrack): ReadTrack[] {
  const notes = [...track.notes].sort((a, b) => a.start - b.start);
  const programs = new Set(track.events.flatMap((e) => (e.type === 'program' ? [e.channel] : [])));
  const one =
    programs.size > 1 ? new Set<number>() : channelsOfOne({ notes, events: track.events.filter(isPartEvent) });
  const first = [...one].sort((a, b) => a - b).at(0);
  /** The channel whose track a channel goes to. */
  const home = (channel: number): number => (one.has(channel) ? (first ?? channel) : channel);
  const homes = [...new Set(track.notes.map((n) => home(n.channel)))].sort((a, b) => a - b);
  if (homes.length < 2) return [track];
  return homes.map((own, i) => ({
    ...track,
    notes: track.notes.filter((n) => home(n.channel) === own),
    events: track.events.filter((e) =>
      'channel' in e && homes.includes(home(e.channel)) ? home(e.channel) === own : i === 0,
    ),
  }));
}

function formatNotice(format: number): SmfNotice {
  const text =
    format === 2
      ? 'The file holds separate pieces (format 2). They were opened as tracks that start together, under the tempo of the first.'
      : `The file says it is of format ${format}, which does not exist; it was opened as format 1.`;
  return { code: format === 2 ? 'format-2' : 'unknown-format', track: null, offset: 9, text };
}
