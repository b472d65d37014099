import {
  byPlace,
  DEFAULT_TREATMENT,
  meterOf,
  SONG_VERSION,
  type Note,
  type Song,
  type SongMeter,
  type SongTempo,
  type Track,
  type TrackEvent,
} from '../song';
import { layOut } from './chunks';
import { decodeTrack, type DecodedTrack } from './decode';
import { readDivision } from './division';
import { partStart } from './part-start';
import type { SmfNotice } from './problem';
import { readText } from './text';
import { secureTrack } from './track-bytes';

const TRACK_NAME = 0x03;
const SET_TEMPO = 0x51;

/** A song with what was mended or read in another way on its way in. */
export interface ImportedSong {
  readonly song: Song;
  readonly notices: readonly SmfNotice[];
}

/**
 * Reads a standard MIDI file of format 0, 1 or, as well as possible, 2.
 * Every event is kept. Positions are multiplied so that a quarter note has at least 960 ticks.
 * @param bytes the file, 64 MB at most
 * @param name the song's name, such as the file's name without its ending
 * @throws SmfError where the file holds no readable header or track
 */
export function readSmf(bytes: Uint8Array, name: string): ImportedSong {
  const layout = layOut(bytes);
  const notices: SmfNotice[] = [...layout.notices];
  const safe = layout.tracks.map((chunk, i) => secureTrack(bytes, chunk, i));
  for (const track of safe) notices.push(...track.notices);
  const longest = safe.reduce((max, t) => Math.max(max, t.longestDelta), 0);
  const division = readDivision(layout.division, longest);
  if (division.notice) notices.push(division.notice);
  if (layout.format > 1) notices.push(formatNotice(layout.format));

  const decoded = safe.map(decodeTrack);
  decoded.forEach((track, i) => {
    if (track.unended > 0) notices.push(unendedNotice(track.unended, i));
    if (track.events.some((e) => e.type === 'meta' && e.meta === SET_TEMPO)) notices.push(badTempoNotice(i));
  });
  const { tempo, meter, extra } = conductor(decoded, notices);
  const factor = division.factor;
  const format = layout.format === 0 && decoded.length === 1 ? 0 : 1;
  const base = {
    version: SONG_VERSION,
    name: name.slice(0, 200) || 'Untitled',
    ppq: division.ppq * factor,
    ppqFactor: factor,
    format,
    tempo: division.usPerQuarter
      ? [{ tick: 0, order: -1, usPerQuarter: division.usPerQuarter }]
      : tempo.map((t) => ({ ...t, tick: t.tick * factor })),
    meter: meter.map((m) => ({ ...m, tick: m.tick * factor })),
    chunks: layout.others,
  } as const;

  let nextId = 0;
  const numbered = (note: Omit<Note, 'id'>): Note => ({
    ...note,
    id: nextId++,
    start: note.start * factor,
    length: note.length * factor,
  });
  const scaled = (event: TrackEvent): TrackEvent => ({ ...event, tick: event.tick * factor });
  const meters = meterOf(base);
  const tracks = decoded.flatMap((source, i) => {
    const all = { ...source, events: [...source.events, ...(extra.get(i) ?? [])].sort((a, b) => a.order - b.order) };
    return (format === 0 ? splitChannels(all) : [all]).map((t, k): Track => {
      const notes = t.notes.map(numbered).sort(byPlace);
      const events = t.events.map(scaled);
      const title = trackTitle(t, format === 0 && k > 0 ? t.notes[0]?.channel : undefined, i);
      return {
        id: `t${i}${format === 0 ? `c${k}` : ''}`,
        name: title,
        source: i,
        parts:
          notes.length === 0
            ? []
            : [
                {
                  id: `p${i}${format === 0 ? `c${k}` : ''}`,
                  name: title,
                  start: partStart(notes[0].start, meters),
                  on: true,
                  treatment: DEFAULT_TREATMENT,
                  sets: [],
                  notes,
                },
              ],
        events,
        end: t.end * factor,
        mute: false,
        solo: false,
        level: 0.8,
      };
    });
  });
  return { song: { ...base, tracks, nextId }, notices };
}

/** Tempo and meter of the whole song: the first track's, as the standard asks; else those found elsewhere. */
function conductor(
  tracks: readonly DecodedTrack[],
  notices: SmfNotice[],
): { tempo: readonly SongTempo[]; meter: readonly SongMeter[]; extra: Map<number, TrackEvent[]> } {
  const extra = new Map<number, TrackEvent[]>();
  const first = tracks[0];
  const tempoFrom = first.tempo.length > 0 ? 0 : tracks.findIndex((t) => t.tempo.length > 0);
  const meterFrom = first.meter.length > 0 ? 0 : tracks.findIndex((t) => t.meter.length > 0);
  tracks.forEach((track, i) => {
    const kept: TrackEvent[] = [];
    if (i !== tempoFrom) kept.push(...track.tempo.map(tempoAsMeta));
    if (i !== meterFrom) kept.push(...track.meter.map(meterAsMeta));
    if (kept.length > 0) extra.set(i, kept);
    const leads = i > 0 && (i === tempoFrom || i === meterFrom);
    if (kept.length > 0 || leads) {
      notices.push({
        code: 'late-tempo',
        track: i,
        offset: null,
        text: leads
          ? `Tempo or meter is written in track ${i + 1} instead of the first; it holds for the whole song.`
          : `Track ${i + 1} has tempo or meter changes of its own; they are kept but the first track's hold.`,
      });
    }
  });
  return {
    tempo: tracks[tempoFrom]?.tempo ?? [],
    meter: tracks[meterFrom]?.meter ?? [],
    extra,
  };
}

function tempoAsMeta(t: SongTempo): TrackEvent {
  const us = t.usPerQuarter;
  return { tick: t.tick, order: t.order, type: 'meta', meta: SET_TEMPO, data: Uint8Array.of(us >> 16, us >> 8, us) };
}

function meterAsMeta(m: SongMeter): TrackEvent {
  const data = Uint8Array.of(m.numerator, Math.log2(m.denominator), m.clocks, m.thirtySeconds);
  return { tick: m.tick, order: m.order, type: 'meta', meta: 0x58, data };
}

/** A format 0 track as one track a channel; what belongs to no channel with notes stays with the first. */
function splitChannels(track: DecodedTrack): DecodedTrack[] {
  const channels = [...new Set(track.notes.map((n) => n.channel))].sort((a, b) => a - b);
  if (channels.length < 2) return [track];
  return channels.map((channel, i) => ({
    ...track,
    notes: track.notes.filter((n) => n.channel === channel),
    events: track.events.filter((e) =>
      'channel' in e && channels.includes(e.channel) ? e.channel === channel : i === 0,
    ),
  }));
}

function trackTitle(track: DecodedTrack, channel: number | undefined, index: number): string {
  if (channel !== undefined) return `Channel ${channel + 1}`;
  for (const event of track.events) {
    if (event.type !== 'meta' || event.meta !== TRACK_NAME) continue;
    const text = readText(event.data).replace(/\0/g, '').trim();
    if (text) return text.slice(0, 200);
  }
  return `Track ${index + 1}`;
}

function formatNotice(format: number): SmfNotice {
  const text =
    format === 2
      ? 'The file holds separate pieces (format 2). They were opened as tracks that start together, under the tempo of the first.'
      : `The file says it is of format ${format}, which does not exist; it was opened as format 1.`;
  return { code: format === 2 ? 'format-2' : 'unknown-format', track: null, offset: 9, text };
}

function unendedNotice(count: number, track: number): SmfNotice {
  const notes = count === 1 ? 'One note has' : `${count} notes have`;
  return {
    code: 'unended-notes',
    track,
    offset: null,
    text: `${notes} no end in track ${track + 1} and last to the end of the track.`,
  };
}

function badTempoNotice(track: number): SmfNotice {
  return {
    code: 'bad-tempo',
    track,
    offset: null,
    text: `A tempo in track ${track + 1} cannot be read; it is kept in the file but does not count.`,
  };
}
