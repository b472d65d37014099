import { byLines, midway, type Lines } from '../grid';
import { heldAt, letGo, perNoteOf, setAgain, type Note, type PartEvent } from '../song';
import type { Ms, TempoMap, Ticks } from '../time';
import { isNoteOff, isNoteOn, type MidiBytes, type PlayedMessage } from './message';

/** A note that has no id yet. */
export type PlayedNote = Omit<Note, 'id'>;

/** What was played in one round. */
export interface Round {
  readonly notes: readonly PlayedNote[];
  readonly events: readonly PartEvent[];
}

/** How messages become notes. */
export interface Collecting {
  readonly tempo: TempoMap;
  /** How late the device is heard to be: all that is played is that much earlier. */
  readonly latency: Ms;
  /** Where what is held over the end of a round ends: the end of the loop. */
  readonly end: Ms;
  /** Where recording stopped: what is held then ends there. */
  readonly stopped: Ms;
  /** Where a round begins, if there is a loop. */
  readonly begin: Ms | null;
  /** Channel that the notes get, unless each has its own; null: as they came. */
  readonly channel: number | null;
  /** Only what is played in here is kept; null for everything. */
  readonly punch: { readonly from: Ms; readonly to: Ms } | null;
  /** The lines that are played to: they tell whether a note near a border was meant for what is after it. */
  readonly lines: Lines;
}

/** A note struck so little before the loop's end can be the next round's first one, played early. */
const EARLY: Ms = 80;
/** Release velocity where a device sends none. */
const PLAIN_RELEASE = 64;

interface Struck {
  readonly at: Ms;
  readonly round: number;
  readonly bytes: MidiBytes;
}

/**
 * Notes and events of each round; a round in which nothing was played is empty. Times become whole ticks, once. What a
 * controller sent note by note, each on a channel of its own, keeps these channels.
 */
export function collect(messages: readonly PlayedMessage[], how: Collecting): Round[] {
  if (how.channel === null) return gather(messages, how);
  const asCame = gather(messages, { ...how, channel: null });
  return asCame.some((round) => perNoteOf(round)) ? asCame : gather(messages, how);
}

function gather(messages: readonly PlayedMessage[], how: Collecting): Round[] {
  const count = messages.reduce((n, m) => Math.max(n, m.round + 1), 0);
  const rounds = Array.from({ length: count + 1 }, () => ({ notes: [] as PlayedNote[], events: [] as PartEvent[] }));
  const last = messages.at(-1)?.round ?? 0;
  const open = new Map<number, Struck>();
  const close = (key: number, struck: Struck, at: Ms, round: number, release: number | null) => {
    open.delete(key);
    // What is meant for a round that nobody played in stays where it was struck.
    const goesOn = round > struck.round || struck.round < last;
    place(rounds, struck, round === struck.round ? at : how.end, goesOn, release, how);
  };
  for (const message of messages) {
    const at = message.ms - how.latency;
    const { bytes, round } = message;
    const key = ((bytes[0] & 0x0f) << 7) | bytes[1];
    const held = open.get(key);
    if (isNoteOn(bytes)) {
      if (held) close(key, held, at, round, null);
      open.set(key, { at, round, bytes });
    } else if (isNoteOff(bytes)) {
      if (held) close(key, held, at, round, (bytes[0] & 0xf0) === 0x80 ? bytes[2] : PLAIN_RELEASE);
    } else {
      const event = eventOf(bytes, tickAt(at, how), how.channel);
      if (event && inPunch(at, how)) rounds[round].events.push(event);
    }
  }
  const stop = Math.min(how.stopped, how.end);
  for (const [key, struck] of [...open]) close(key, struck, stop, last, null);
  endHeld(rounds, last, Math.min(stop, how.punch?.to ?? stop), how);
  for (const { notes, events } of rounds) {
    notes.sort((a, b) => a.start - b.start || a.pitch - b.pitch);
    events.sort((a, b) => a.tick - b.tick);
  }
  if (rounds[count].notes.length === 0) rounds.pop();
  return rounds;
}

/**
 * Pedals and bends that are held where a round ends are let go there, and are held where the next one begins.
 * @param last round in which anything was played @param stop where that one ended
 */
function endHeld(rounds: readonly { events: PartEvent[] }[], last: number, stop: Ms, how: Collecting): void {
  const begin = tickAt(how.begin ?? 0, how);
  let held: PartEvent[] = [];
  for (let k = 0; k <= last; k++) {
    const { events } = rounds[k];
    events.unshift(...held.map((e) => setAgain(e, begin)));
    held = heldAt(events);
    const end = tickAt(k < last ? how.end : stop, how);
    events.push(...held.map((e) => letGo(e, Math.max(e.tick, end))));
  }
}

function place(
  rounds: readonly { notes: PlayedNote[] }[],
  { at, round, bytes }: Struck,
  end: Ms,
  goesOn: boolean,
  release: number | null,
  how: Collecting,
): void {
  const early = goesOn && how.begin !== null && how.end - at <= EARLY && meansEnd(at, how);
  const start = early ? how.begin! - (how.end - at) : at;
  const to = early ? how.begin! + 1 : Math.max(end, at);
  if (!inPunch(early ? how.begin! : at, how)) return;
  const from = tickAt(start, how);
  rounds[early ? round + 1 : round].notes.push({
    start: from,
    length: Math.max(1, tickAt(to, how) - from),
    pitch: bytes[1],
    velocity: bytes[2],
    channel: how.channel ?? bytes[0] & 0x0f,
    release: release ?? PLAIN_RELEASE,
  });
}

/** Whether a note near the loop's end is nearer to that than to its own line before it. */
function meansEnd(ms: Ms, { lines, tempo, end }: Collecting): boolean {
  const border = tempo.toTick(end);
  return tempo.toTick(ms) >= midway(border, lines);
}

/** Whether something was played in the punch range, or was meant to be: an early downbeat is the range's own. */
export function inPunch(ms: Ms, { punch, lines, tempo }: Pick<Collecting, 'punch' | 'lines' | 'tempo'>): boolean {
  if (punch === null) return true;
  const tick = Math.max(0, tempo.toTick(ms));
  const { from, to } = byLines({ from: tempo.toTick(punch.from), to: tempo.toTick(punch.to) }, lines);
  return tick >= from && tick < to;
}

function tickAt(ms: Ms, { tempo }: Collecting): Ticks {
  return Math.max(0, Math.round(tempo.toTick(Math.max(0, ms))));
}

function eventOf([status, first, second]: MidiBytes, tick: Ticks, channel: number | null): PartEvent | null {
  const at = { tick, channel: channel ?? status & 0x0f };
  switch (status & 0xf0) {
    case 0xa0:
      return { ...at, type: 'key-pressure', pitch: first, value: second };
    case 0xb0:
      // From 120 on they are commands to the device, not playing.
      return first < 120 ? { ...at, type: 'controller', controller: first, value: second } : null;
    case 0xd0:
      return { ...at, type: 'pressure', value: first };
    case 0xe0:
      return { ...at, type: 'bend', value: (first | (second << 7)) - 8192 };
    default:
      return null;
  }
}
