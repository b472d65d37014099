import { atOnce, counting, inBlocks, inPieces, marked, orderOf, type Pieces } from '../maths';
import { unlisted, type SoundingEvent, type SoundingTrack, type TrackPerformance } from '../performance';
import type { Track, VoiceKind } from '../song';
import type { TempoMap } from '../time';
import type { ScoreEvents, ScoreTrack, Slot } from './score';
import { stripsOf } from './strips';
import { FAMILY_PROGRAMS, familyOf, PERCUSSION_CHANNEL } from './voice';

/** Bank selects would ask for sounds that a General MIDI bank does not have. */
const BANK_SELECTS = new Set([0, 32]);

/** What sounds of a track, as columns for the audio thread. @param performed the track as played or corrected */
export function scoreOf(track: Track, performed: TrackPerformance, tempo: TempoMap): ScoreTrack {
  return atOnce(scorePieces(track, unlisted(performed), tempo));
}

/** {@link scoreOf} of very many notes, in pieces. */
export function* scorePieces(track: Track, performed: SoundingTrack, tempo: TempoMap): Pieces<ScoreTrack> {
  const { channel, ...heard } = withoutSilent(track, yield* inPlace(performed));
  const { events } = performed;
  const channels = channelsOf(track, channel, events);
  const slotOf = new Map(channels.map((channel, slot) => [channel, slot]));
  const slot = new Uint8Array(channel.length);
  yield* inPieces(channel.length, (from, to) => {
    const { start, end } = heard;
    for (let i = from; i < to; i++) {
      start[i] = tempo.toMs(start[i]);
      end[i] = tempo.toMs(end[i]);
      slot[i] = slotOf.get(channel[i]) ?? 0;
    }
  });
  const slots = channels.map((channel) => slotFor(track, events, channel));
  return {
    id: track.id,
    slots,
    notes: { ...heard, slot },
    events: eventsOf(track, events, tempo, slotOf),
    strips: stripsOf(track, tempo),
  };
}

/** Notes as they sound, by columns. Ticks. */
interface Columns {
  readonly id: Float64Array;
  readonly start: Float64Array;
  readonly end: Float64Array;
  readonly pitch: Uint8Array;
  readonly velocity: Uint8Array;
  readonly channel: Uint8Array;
}

function columnsFor(count: number): Columns {
  return {
    id: new Float64Array(count),
    start: new Float64Array(count),
    end: new Float64Array(count),
    pitch: new Uint8Array(count),
    velocity: new Uint8Array(count),
    channel: new Uint8Array(count),
  };
}

/** Some of columns' notes, by their indices. */
function some(of: Columns, which: Int32Array): Columns {
  const to = columnsFor(which.length);
  inBlocks(which.length, (first, last) => {
    for (let k = first; k < last; k++) {
      const i = which[k];
      to.id[k] = of.id[i];
      to.start[k] = of.start[i];
      to.end[k] = of.end[i];
      to.pitch[k] = of.pitch[i];
      to.velocity[k] = of.velocity[i];
      to.channel[k] = of.channel[i];
    }
  });
  return to;
}

/** A track's notes that are not muted, in order of their starts; each ends no later than where its key is struck again. */
function* inPlace({ most, each }: SoundingTrack): Pieces<Columns> {
  let columns = columnsFor(most);
  let count = 0;
  let astray = false;
  yield* each((notes) => {
    const { id, start, end, pitch, velocity, channel } = columns;
    let at = count;
    for (const one of notes) {
      const { note } = one;
      if (note.muted) continue;
      id[at] = note.id;
      start[at] = one.start;
      end[at] = one.end;
      pitch[at] = note.pitch;
      velocity[at] = one.velocity;
      channel[at] = note.channel;
      if (at > 0 && one.start < start[at - 1]) astray = true;
      at++;
    }
    count = at;
  });
  if (astray) columns = some(columns, orderOf(columns.start.subarray(0, count)));
  else if (count < most) columns = some(columns, counting(count));
  yield;
  cutAtKeys(columns);
  yield;
  return columns;
}

/** Without the hits of sound files that are heard themselves: they still end what their key had sounding. */
function withoutSilent(track: Track, columns: Columns): Columns {
  const silent = silentNotes(track);
  if (silent.size === 0) return columns;
  return some(columns, marked(Uint8Array.from(columns.id, (id) => (silent.has(id) ? 0 : 1))));
}

/** The hits of sound files that are heard themselves. */
function silentNotes({ parts }: Track): ReadonlySet<number> {
  return new Set(parts.flatMap((p) => (p.audio?.heard === 'file' ? p.notes.map((n) => n.id) : [])));
}

const KEYS = 128;

/** Ends each of some notes in order no later than where its key is struck again. */
function cutAtKeys({ start, end, pitch, channel }: Columns): void {
  const next = new Float64Array(16 * KEYS).fill(Infinity);
  // Of notes that start together each ends where the key is struck after them.
  const later = next.slice();
  for (let i = start.length - 1; i >= 0; i--) {
    const key = channel[i] * KEYS + pitch[i];
    if (start[i] < next[key]) {
      later[key] = next[key];
      next[key] = start[i];
    }
    if (later[key] < end[i]) end[i] = later[key];
  }
}

/** The MIDI channels that a track uses, ascending. One in which nothing is yet has a voice to be played in with. */
function channelsOf(track: Track, ofNotes: Uint8Array, events: readonly SoundingEvent[]): readonly number[] {
  const used = new Set(events.flatMap(channelOf));
  inBlocks(ofNotes.length, (from, to) => {
    for (let i = from; i < to; i++) used.add(ofNotes[i]);
  });
  return used.size > 0 ? [...used].sort((a, b) => a - b) : [track.channel ?? 0];
}

function channelOf({ event }: SoundingEvent): number[] {
  return 'channel' in event ? [event.channel] : [];
}

/** What a channel of a track sounds with: the voice that was chosen; else drums on channel 10, else by its program. */
function slotFor(track: Track, events: readonly SoundingEvent[], channel: number): Slot {
  const setup = events.find(({ event }) => event.type === 'program' && event.channel === channel)?.event;
  const program = track.program ?? (setup?.type === 'program' ? setup.program : 0);
  const chosen = track.voice;
  if (chosen === null && channel === PERCUSSION_CHANNEL) return { channel, kind: 'drums', program };
  if (chosen === null) return { channel, kind: familyOf(program), program };
  return { channel, kind: chosen, program: programFor(chosen, program) };
}

/** The program that was set where it is of the chosen family; else the family's first choice. */
function programFor(kind: VoiceKind, program: number): number {
  return kind === 'plain' || familyOf(program) === kind ? program : FAMILY_PROGRAMS[kind];
}

function eventsOf(
  track: Track,
  events: readonly SoundingEvent[],
  tempo: TempoMap,
  slotOf: ReadonlyMap<number, number>,
): ScoreEvents {
  const byProgram = track.voice === null && track.program === null;
  const found = events.flatMap(({ event, tick }, order) => {
    const message = messageOf(event, byProgram);
    return message && 'channel' in event ? [{ tick, order, slot: slotOf.get(event.channel) ?? 0, message }] : [];
  });
  found.sort((a, b) => a.tick - b.tick || a.order - b.order);
  const column = (of: (f: (typeof found)[number]) => number) => Uint8Array.from(found, of);
  return {
    at: Float64Array.from(found, (f) => tempo.toMs(f.tick)),
    slot: column((f) => f.slot),
    status: column((f) => f.message[0]),
    first: column((f) => f.message[1]),
    second: column((f) => f.message[2]),
  };
}

/** Status without its channel and two data bytes; null for what does not change the sound. */
function messageOf(event: SoundingEvent['event'], programs: boolean): readonly [number, number, number] | null {
  switch (event.type) {
    case 'controller':
      return BANK_SELECTS.has(event.controller) ? null : [0xb0, event.controller, event.value];
    case 'bend':
      return [0xe0, (event.value + 8192) & 0x7f, (event.value + 8192) >> 7];
    case 'pressure':
      return [0xd0, event.value, 0];
    case 'key-pressure':
      return [0xa0, event.pitch, event.value];
    case 'program':
      return programs ? [0xc0, event.program, 0] : null;
    default:
      return null;
  }
}
