import { atOnce, inBlocks, inPieces, orderOf, type Pieces } from '../maths';
import type { SoundingNote, TrackPerformance } from '../performance';
import type { Track, VoiceKind } from '../song';
import type { TempoMap } from '../time';
import type { ScoreEvents, ScoreNotes, ScoreTrack, Slot } from './score';
import { stripsOf } from './strips';
import { FAMILY_PROGRAMS, familyOf, PERCUSSION_CHANNEL } from './voice';

/** Bank selects would ask for sounds that a General MIDI bank does not have. */
const BANK_SELECTS = new Set([0, 32]);

/** What sounds of a track, as columns for the audio thread. @param performed the track as played or corrected */
export function scoreOf(track: Track, performed: TrackPerformance, tempo: TempoMap): ScoreTrack {
  return atOnce(scorePieces(track, performed, tempo));
}

/** {@link scoreOf} of very many notes, in pieces. */
export function* scorePieces(track: Track, performed: TrackPerformance, tempo: TempoMap): Pieces<ScoreTrack> {
  const inOrder = audible(performed.notes);
  yield;
  const ends = endsOf(inOrder);
  yield;
  const silent = silentNotes(track);
  const heard = silent.size === 0 ? null : inOrder.map(({ note }) => !silent.has(note.id));
  const notes = heard ? inOrder.filter((_, i) => heard[i]) : inOrder;
  const end = heard ? ends.filter((_, i) => heard[i]) : ends;
  const channels = channelsOf(track, notes, performed);
  const slotOf = new Map(channels.map((channel, slot) => [channel, slot]));
  const count = notes.length;
  const columns: ScoreNotes = {
    id: new Float64Array(count),
    start: new Float64Array(count),
    end: new Float64Array(count),
    pitch: new Uint8Array(count),
    velocity: new Uint8Array(count),
    slot: new Uint8Array(count),
  };
  yield* inPieces(count, (from, to) => {
    for (let i = from; i < to; i++) {
      const { note, start, velocity } = notes[i];
      columns.id[i] = note.id;
      columns.start[i] = tempo.toMs(start);
      columns.end[i] = tempo.toMs(end[i]);
      columns.pitch[i] = note.pitch;
      columns.velocity[i] = velocity;
      columns.slot[i] = slotOf.get(note.channel) ?? 0;
    }
  });
  const slots = channels.map((channel) => slotFor(track, performed, channel));
  const events = eventsOf(track, performed, tempo, slotOf);
  return { id: track.id, slots, notes: columns, events, strips: stripsOf(track, tempo) };
}

/** The hits of sound files that are heard themselves. */
function silentNotes({ parts }: Track): ReadonlySet<number> {
  return new Set(parts.flatMap((p) => (p.audio?.heard === 'file' ? p.notes.map((n) => n.id) : [])));
}

/** Notes that are not muted, in order of their starts. */
function audible(notes: readonly SoundingNote[]): readonly SoundingNote[] {
  const some = { muted: false, astray: false };
  inBlocks(notes.length, (from, to) => {
    for (let i = from; i < to; i++) {
      if (notes[i].note.muted) some.muted = true;
      if (i > 0 && notes[i].start < notes[i - 1].start) some.astray = true;
    }
  });
  const heard = some.muted ? notes.filter(({ note }) => !note.muted) : notes;
  return some.astray ? Array.from(orderOf(heard.map((n) => n.start)), (k) => heard[k]) : heard;
}

const KEYS = 128;

/** Where each of some notes in order ends: no later than where its key is struck again. */
function endsOf(notes: readonly SoundingNote[]): Float64Array {
  const ends = new Float64Array(notes.length);
  const next = new Float64Array(16 * KEYS).fill(Infinity);
  for (let i = notes.length - 1; i >= 0; i--) {
    const { note, start, end } = notes[i];
    const key = note.channel * KEYS + note.pitch;
    ends[i] = next[key] > start ? Math.min(end, next[key]) : end;
    next[key] = start;
  }
  return ends;
}

/** The MIDI channels that a track uses, ascending. One in which nothing is yet has a voice to be played in with. */
function channelsOf(track: Track, notes: readonly SoundingNote[], performed: TrackPerformance): readonly number[] {
  const used = new Set(performed.events.flatMap(channelOf));
  inBlocks(notes.length, (from, to) => {
    for (let i = from; i < to; i++) used.add(notes[i].note.channel);
  });
  return used.size > 0 ? [...used].sort((a, b) => a - b) : [track.channel ?? 0];
}

function channelOf({ event }: TrackPerformance['events'][number]): number[] {
  return 'channel' in event ? [event.channel] : [];
}

/** What a channel of a track sounds with: the voice that was chosen; else drums on channel 10, else by its program. */
function slotFor(track: Track, performed: TrackPerformance, channel: number): Slot {
  const setup = performed.events.find(({ event }) => event.type === 'program' && event.channel === channel)?.event;
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
  performed: TrackPerformance,
  tempo: TempoMap,
  slotOf: ReadonlyMap<number, number>,
): ScoreEvents {
  const byProgram = track.voice === null && track.program === null;
  const found = performed.events.flatMap(({ event, tick }, order) => {
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
function messageOf(
  event: TrackPerformance['events'][number]['event'],
  programs: boolean,
): readonly [number, number, number] | null {
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
