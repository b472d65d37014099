import { THIRD_DIMENSION, type Part, type PartEvent, type Track } from '../song';
import type { Ticks } from '../time';

/** Channels on which each note has bend, pressure and controller 74 of its own, and those that are meant for all notes. */
export interface PerNote {
  readonly members: ReadonlySet<number>;
  readonly masters: ReadonlySet<number>;
}

/**
 * Channels of a part that was played note by note: those of the zones that it sets up (MIDI Polyphonic Expression 1.0,
 * MIDI Association RP-053: registered parameter 6 on channel 1 or 16, with the number of member channels), or where it
 * sets up none, those on which notes sound at one time with others, never two on one channel.
 * @param setup what its track sends before its first note
 * @returns null for a part that was not
 */
export function perNoteOf(part: Part, setup: Track['setup'] = []): PerNote | null {
  const known = found.get(part);
  if (known?.setup === setup) return known.value;
  const value = zonesOf(part.notes, [setup, part.events]) ?? seenIn(part);
  found.set(part, { setup, value });
  return value;
}

/** A drag asks about the same part in every frame. */
const found = new WeakMap<Part, { readonly setup: Track['setup']; readonly value: PerNote | null }>();

/** Registered parameter: its two controllers, and that of its value. */
const RPN = { coarse: 101, fine: 100, value: 6 } as const;
const MPE_ZONE = 6;
const [LOWER, UPPER] = [0, 15];

function zonesOf(notes: Part['notes'], lists: readonly Track['setup'][]): PerNote | null {
  const parameter = new Map<number, { coarse: number; fine: number }>();
  let [lower, upper] = [0, 0];
  for (const events of lists) {
    for (const event of events) {
      if (event.type !== 'controller' || (event.channel !== LOWER && event.channel !== UPPER)) continue;
      const { channel, controller, value } = event;
      const at = parameter.get(channel) ?? { coarse: 127, fine: 127 };
      if (controller === RPN.coarse) parameter.set(channel, { ...at, coarse: value });
      else if (controller === RPN.fine) parameter.set(channel, { ...at, fine: value });
      else if (controller === RPN.value && at.coarse === 0 && at.fine === MPE_ZONE) {
        // Of zones that would overlap the newer one keeps its members.
        const members = Math.min(15, value);
        if (channel === LOWER) [lower, upper] = [members, Math.min(upper, Math.max(0, 14 - members))];
        else [lower, upper] = [Math.min(lower, Math.max(0, 14 - members)), members];
      }
    }
  }
  if (lower + upper === 0) return null;
  const members = new Set<number>();
  for (let c = 1; c <= lower; c++) members.add(LOWER + c);
  for (let c = 1; c <= upper; c++) members.add(UPPER - c);
  if (!notes.some((n) => members.has(n.channel))) return null;
  return { members, masters: new Set([...(lower > 0 ? [LOWER] : []), ...(upper > 0 ? [UPPER] : [])]) };
}

function seenIn({ notes, events }: Part): PerNote | null {
  if (!events.some(ridesOnMember)) return null;
  const ends = new Map<number, Ticks>();
  let latest = { channel: -1, end: -1 };
  let overlaps = false;
  for (const { channel, start, length } of notes) {
    const end = start + length;
    if ((ends.get(channel) ?? -1) > start) return null;
    ends.set(channel, end);
    if (latest.end > start && latest.channel !== channel) overlaps = true;
    if (end > latest.end) latest = { channel, end };
  }
  return overlaps ? { members: new Set(ends.keys()), masters: new Set() } : null;
}

/** Whether an event on a member channel belongs to the note there. */
export function ridesOnMember(event: PartEvent): boolean {
  return event.type === 'controller' ? event.controller === THIRD_DIMENSION : true;
}

/** The notes of one channel in their order, each with the first tick at which something is meant for it. */
interface Members {
  /** Indices in the part. */
  readonly note: number[];
  readonly from: Ticks[];
  readonly begin: Ticks[];
}

/**
 * Between two notes of a channel what lies nearer to the second is meant for that: its bend and pressure are set before it
 * begins, and what the first one left is said as it is let go.
 */
function membersOf({ notes }: Part, channel: number): Members {
  const members: Members = { note: [], from: [], begin: [] };
  let before = -Infinity;
  notes.forEach((n, i) => {
    if (n.channel !== channel || n.exception?.kind === 'dropped') return;
    members.note.push(i);
    members.from.push(n.start);
    members.begin.push(Math.min(n.start, (n.start + before) / 2));
    before = Math.max(before, n.start + n.length);
  });
  return members;
}

/** Where what rides with the notes of one channel goes, asked in the order of time. */
export class Riding {
  private readonly members: Members;
  private at = 0;

  /** @param starts where each note of the part goes */
  constructor(
    part: Part,
    channel: number,
    private readonly starts: ArrayLike<Ticks>,
  ) {
    this.members = membersOf(part, channel);
  }

  /** Index of the note that something is meant for; −1 where the channel has none. */
  noteAt(tick: Ticks): number {
    const { note, begin } = this.members;
    while (this.at + 1 < begin.length && begin[this.at + 1] <= tick) this.at++;
    return note.length > 0 ? note[this.at] : -1;
  }

  /** Where an event goes; what rings on behind a note ends where the next one begins. */
  move(tick: Ticks): Ticks {
    const own = this.noteAt(tick);
    if (own < 0) return tick;
    const { note, from, begin } = this.members;
    const [k, next] = [this.at, this.at + 1];
    const to = this.starts[own];
    const moved = Math.max(0, tick + to - from[k]);
    if (next >= note.length) return moved;
    const after = this.starts[note[next]];
    const limit = Math.max(0, begin[next] + after - from[next]);
    return Math.min(moved, Math.max(limit, Math.min(to, after)));
  }
}

/**
 * The note of a part that each of its events is meant for, by indices; −1 for none.
 * @param setup what its track sends before its first note
 * @returns null for a part that was not played note by note
 */
export function notesOfEvents(part: Part, setup: Track['setup']): Int32Array | null {
  const perNote = perNoteOf(part, setup);
  if (!perNote) return null;
  const riding: (Riding | undefined)[] = [];
  return Int32Array.from(part.events, (event) => {
    const { channel, tick } = event;
    if (!perNote.members.has(channel) || !ridesOnMember(event)) return -1;
    return (riding[channel] ??= new Riding(part, channel, [])).noteAt(tick);
  });
}
