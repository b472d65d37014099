import { asPlayed } from '@early-sparrow/core/performance';
import { writeSmf } from '@early-sparrow/core/smf';
import {
  byPlace,
  isPartEvent,
  newPart,
  newSong,
  newTrack,
  writeText,
  type Note,
  type Song,
  type Track,
  type TrackEvent,
} from '@early-sparrow/core/song';
import { BARS, BPM, SEED, TRACKS, type DemoTrack } from './night-ferry';
import { play, type Played } from './players';

/** The file's own ticks a quarter note. */
const PPQ = 480;

/** What the players meant, track by track, in the order of the file's note-ons. */
export interface DemoTruth {
  readonly ppq: number;
  readonly bpm: number;
  readonly tracks: readonly {
    readonly name: string;
    readonly grid: string;
    readonly lagMs: number;
    readonly swing: number;
    readonly firstBar: number;
    /** True place of each note in ticks. */
    readonly lines: readonly number[];
    /** Notes, by place in the list, that were played far off. */
    readonly wild: readonly number[];
  }[];
}

/** The demo song as a standard MIDI file, and the truth about it. */
export function demoSong(): { midi: Uint8Array; truth: DemoTruth } {
  let nextId = 0;
  const truths: DemoTruth['tracks'][number][] = [];
  const tracks = TRACKS.map((demo, i): Track => {
    const played = play(demo.notes, demo.player, SEED + i, BPM).map((note, at) => ({ note, at }));
    const sorted = played
      .map(({ note, at }) => ({ note: toNote(note, demo, nextId++), truth: note.truth, at }))
      .sort((a, b) => byPlace(a.note, b.note));
    truths.push({
      name: demo.player.name,
      grid: demo.grid,
      lagMs: demo.player.lagMs,
      swing: demo.player.swing,
      firstBar: demo.firstBar,
      lines: sorted.map((s) => Math.round(s.truth * PPQ * 1000) / 1000),
      wild: sorted.flatMap((s, k) => (s.at in demo.player.wild ? [k] : [])),
    });
    return fileTrack(
      i + 1,
      demo.player.name,
      sorted.map((s) => s.note),
      setUp(demo),
    );
  });
  const conductor = fileTrack(0, 'The Night Ferry', [], []);
  const song: Song = {
    ...newSong('Night Ferry', PPQ),
    tempo: [{ tick: 0, order: 1, usPerQuarter: Math.round(60e6 / BPM) }],
    meter: [{ tick: 0, order: 2, numerator: 4, denominator: 4, clocks: 24, thirtySeconds: 8 }],
    tracks: [conductor, ...tracks],
    nextId,
    origin: { format: 1, chunks: [] },
  };
  return { midi: writeSmf(song, asPlayed(song)), truth: { ppq: PPQ, bpm: BPM, tracks: truths } };
}

function toNote(played: Played, demo: DemoTrack, id: number): Note {
  const ticksPerMs = (PPQ * BPM) / 60_000;
  return {
    id,
    start: Math.round(played.startMs * ticksPerMs),
    length: Math.max(1, Math.round(played.lengthMs * ticksPerMs)),
    pitch: played.pitch,
    velocity: played.velocity,
    channel: demo.player.channel,
    release: 64,
  };
}

/** Program, and for the pianist a pedal that goes down just after each bar's first chord and up before the next. */
function setUp(demo: DemoTrack): TrackEvent[] {
  const { channel, program, pedal } = demo.player;
  const events: TrackEvent[] = [{ tick: 0, order: 1, type: 'program', channel, program }];
  if (!pedal) return events;
  for (let bar = 0; bar < BARS; bar++) {
    const start = bar * 4 * PPQ;
    events.push({ tick: start + 70, order: 2, type: 'controller', channel, controller: 64, value: 127 });
    events.push({ tick: start + 4 * PPQ - 60, order: 2, type: 'controller', channel, controller: 64, value: 0 });
  }
  return events;
}

function fileTrack(source: number, name: string, notes: Note[], events: TrackEvent[]): Track {
  const title: TrackEvent = { tick: 0, order: 0, type: 'meta', meta: 3, data: writeText(name) };
  const end = BARS * 4 * PPQ;
  const mine = events.filter(isPartEvent);
  const part = newPart(`p${source}`, name, 0, end, { notes, events: mine, origin: { source } });
  const setup = [title, ...events.filter((e) => !isPartEvent(e))];
  const origin = { source, name, end };
  return newTrack(`t${source}`, name, { parts: notes.length > 0 ? [part] : [], setup, origin });
}
