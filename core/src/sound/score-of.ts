import type { TrackPerformance } from '../smf';
import type { Track, VoiceKind } from '../song';
import type { TempoMap } from '../time';
import type { ScoreEvents, ScoreNotes, ScoreTrack, Slot } from './score';
import { stripsOf } from './strips';
import { FAMILY_PROGRAMS, familyOf, PERCUSSION_CHANNEL } from './voice';

/** Bank selects would ask for sounds that a General MIDI bank does not have. */
const BANK_SELECTS = new Set([0, 32]);

/** What sounds of a track, as columns for the audio thread. @param performed the track as played or corrected */
export function scoreOf(track: Track, performed: TrackPerformance, tempo: TempoMap): ScoreTrack {
  const silent = silentNotes(track);
  const notes = notesOf(performed).filter((n) => !silent.has(n.id));
  const used = new Set([...notes.map((n) => n.channel), ...performed.events.flatMap(channelOf)]);
  // A track in which nothing is yet has a voice to be played in with.
  const channels = used.size > 0 ? [...used].sort((a, b) => a - b) : [track.channel ?? 0];
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
  notes.forEach((n, i) => {
    columns.id[i] = n.id;
    columns.start[i] = tempo.toMs(n.start);
    columns.end[i] = tempo.toMs(n.end);
    columns.pitch[i] = n.pitch;
    columns.velocity[i] = n.velocity;
    columns.slot[i] = slotOf.get(n.channel) ?? 0;
  });
  const slots = channels.map((channel) => slotFor(track, performed, channel));
  const events = eventsOf(track, performed, tempo, slotOf);
  return { id: track.id, slots, notes: columns, events, strips: stripsOf(track, tempo) };
}

/** The hits of sound files that are heard themselves. */
function silentNotes({ parts }: Track): ReadonlySet<number> {
  return new Set(parts.flatMap((p) => (p.audio?.heard === 'file' ? p.notes.map((n) => n.id) : [])));
}

/** Audible notes in order of their starts; one ends where its key is struck again. */
function notesOf(performed: TrackPerformance) {
  const notes = performed.notes
    .filter(({ note }) => !note.muted)
    .map(({ note: { id, pitch, channel }, start, end, velocity }) => ({ id, start, end, pitch, velocity, channel }))
    .sort((a, b) => a.start - b.start);
  const next = new Map<number, number>();
  for (let i = notes.length - 1; i >= 0; i--) {
    const key = notes[i].channel * 128 + notes[i].pitch;
    const again = next.get(key);
    if (again !== undefined && again > notes[i].start) notes[i].end = Math.min(notes[i].end, again);
    next.set(key, notes[i].start);
  }
  return notes;
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
