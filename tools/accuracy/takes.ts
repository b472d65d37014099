import { practise, type Practice } from '@early-sparrow/core/record';
import {
  newPart,
  newSong,
  newTrack,
  tempoOf,
  type Note,
  type Part,
  type PartEvent,
  type Song,
} from '@early-sparrow/core/song';
import { quickNormal, stream } from './perform';

/** How one take was played in one bar, as it is known. */
export interface BarTruth {
  /** Mean distance from what was meant in ms, without the take's own lag. */
  readonly missMs: number;
  /** Wrong and missing notes. */
  readonly faults: number;
}

/** A part whose takes were played by the practice player, with what is known about each bar of each. */
export interface KnownTakes {
  readonly song: Song;
  readonly part: Part;
  /** A row a take, in their order. */
  readonly truth: readonly (readonly BarTruth[])[];
}

const BAR_MS = 2000;
const TICKS_A_BAR = 3840;
const SCALE = [48, 50, 53, 55, 57, 60, 62, 65, 67, 69];

/**
 * Rounds of one loop at 120 BPM: the same sixteenths each time, played with a lag of the take's own. Single bars are late
 * or early, uneven, wander, or have wrong and missing notes. A pedal goes down and up in every bar.
 * @param takes how many rounds
 */
export function knownTakes(seed: number, takes: number, bars = 8): KnownTakes {
  const random = stream(seed, 21);
  const meant = Array.from({ length: bars }, () => barOf(random));
  const song = newSong('Takes');
  const tempo = tempoOf(song);
  let id = 1;
  const truth: BarTruth[][] = [];
  const rounds = Array.from({ length: takes }, (_, k) => {
    const lag = 5 + 4 * quickNormal(seed, k, 22);
    const notes: Note[] = [];
    const events: PartEvent[] = [];
    truth.push(
      meant.map((bar, b) => {
        const how = barPlay(random, lag, seed * 1000 + k * 50 + b);
        const [at, played] = [b * BAR_MS, playBar(bar, how)];
        for (const n of played) {
          const start = Math.max(0, Math.round(tempo.toTick(at + n.on)));
          const length = Math.max(1, Math.round(tempo.toTick(at + n.off)) - start);
          notes.push({ id: id++, start, length, pitch: n.pitch, velocity: n.velocity, channel: 0, release: 64 });
        }
        const down = b * TICKS_A_BAR + 20;
        events.push(
          { type: 'controller', channel: 0, tick: down, controller: 64, value: 127 },
          { type: 'controller', channel: 0, tick: down + TICKS_A_BAR - 200, controller: 64, value: 0 },
        );
        const miss = played.reduce((sum, n) => sum + Math.abs(n.on - n.meant - lag), 0) / Math.max(1, played.length);
        const wrong = played.filter((n) => !bar.some((m) => m.start === n.meant && m.pitch === n.pitch)).length;
        return { missMs: miss, faults: wrong + bar.length - played.length };
      }),
    );
    notes.sort((a, b) => a.start - b.start || a.pitch - b.pitch);
    return { id: `take${900 + k}`, name: `Take ${k + 1}`, notes, events };
  });
  const chosen = rounds[takes - 1];
  const part = newPart('p901', 'Loop', 0, bars * TICKS_A_BAR, {
    notes: chosen.notes,
    events: chosen.events,
    takes: { chosen: { id: chosen.id, name: chosen.name }, others: rounds.slice(0, -1) },
  });
  return { song: { ...song, nextId: 2000 + id, tracks: [newTrack('t900', 'Keys', { parts: [part] })] }, part, truth };
}

interface Meant {
  readonly start: number;
  readonly pitch: number;
}

function barOf(random: () => number): Meant[] {
  const bar: Meant[] = [];
  for (let i = 0; i < 16; i++) {
    if (random() > (i % 4 === 0 ? 0.9 : 0.5)) continue;
    bar.push({ start: i * 125, pitch: SCALE[Math.floor(random() * SCALE.length)] });
  }
  return bar.length > 1
    ? bar
    : [
        { start: 0, pitch: 60 },
        { start: 1000, pitch: 62 },
      ];
}

/** Four bars in ten are played well; the others late or early, unevenly, wandering, or with wrong or missing notes. */
function barPlay(random: () => number, lag: number, seed: number): Practice {
  const plain: Practice = { late: lag, jitter: 4 + 4 * random(), drift: 0, wrong: 0, missed: 0, velocity: 8, seed };
  const what = random();
  if (what < 0.4) return plain;
  if (what < 0.55) return { ...plain, late: lag + (random() < 0.5 ? -1 : 1) * (12 + 25 * random()) };
  if (what < 0.7) return { ...plain, jitter: 12 + 14 * random() };
  if (what < 0.8) return { ...plain, drift: 25 };
  return what < 0.9 ? { ...plain, wrong: 0.15 } : { ...plain, missed: 0.15 };
}

interface Played extends Meant {
  readonly meant: number;
  readonly on: number;
  readonly off: number;
  readonly velocity: number;
}

function playBar(bar: readonly Meant[], how: Practice): Played[] {
  const count = bar.length;
  const messages = practise(
    {
      id: Float64Array.from(bar, (_, i) => i),
      start: Float64Array.from(bar, (n) => n.start),
      end: Float64Array.from(bar, (n) => n.start + 90),
      pitch: Uint8Array.from(bar, (n) => n.pitch),
      velocity: new Uint8Array(count).fill(84),
      slot: new Uint8Array(count),
    },
    how,
  );
  const open = new Map<number, { on: number; meant: number; velocity: number }>();
  const played: Played[] = [];
  for (const { ms, meant, bytes } of messages) {
    if (bytes[0] === 0x90) open.set(bytes[1], { on: ms, meant, velocity: bytes[2] });
    else {
      const note = open.get(bytes[1]);
      if (note) played.push({ ...note, start: note.meant, off: ms, pitch: bytes[1] });
      open.delete(bytes[1]);
    }
  }
  return played;
}
