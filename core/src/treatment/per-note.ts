import { tempoOf, type Part, type PartEvent, type SongContext, type Track } from '../song';
import type { Ticks } from '../time';
import type { TreatedPart } from './treat';

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
  return zonesOf(part.notes, [...setup, ...part.events]) ?? seenIn(part);
}

/** Registered parameter: its two controllers, and that of its value. */
const RPN = { coarse: 101, fine: 100, value: 6 } as const;
const MPE_ZONE = 6;
const [LOWER, UPPER] = [0, 15];

function zonesOf(notes: Part['notes'], events: Track['setup']): PerNote | null {
  const parameter = new Map<number, { coarse: number; fine: number }>();
  let [lower, upper] = [0, 0];
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

/** Controller 74 is a note's third dimension beside its bend and its pressure. */
const THIRD = 74;

/** Whether an event on a member channel belongs to the note there. */
export function ridesOnMember(event: PartEvent): boolean {
  return event.type === 'controller' ? event.controller === THIRD : true;
}

/** What is sent so shortly before a note is meant for it, in ms: its bend and pressure are set before it begins. */
const BEFORE_MS = 20;

/** Where what rides with the notes of one channel goes, asked in the order of time. */
export class Riding {
  private readonly from: Ticks[] = [];
  private readonly end: Ticks[] = [];
  private readonly to: Ticks[] = [];
  /** The first tick that is meant for each note. */
  private readonly begin: Ticks[] = [];
  private at = 0;

  constructor({ part, columns, start }: TreatedPart, channel: number, song: SongContext) {
    const tempo = tempoOf(song);
    for (let i = 0; i < columns.count; i++) {
      if (columns.channel[i] !== channel || part.notes[i].exception?.kind === 'dropped') continue;
      const before = this.end.at(-1) ?? -Infinity;
      const own = columns.start[i];
      this.begin.push(Math.max(tempo.shift(own, -BEFORE_MS), Math.min(own, (own + before) / 2)));
      this.from.push(own);
      this.end.push(columns.end[i]);
      this.to.push(start[i]);
    }
  }

  /** Where an event goes; what rings on behind a note ends where the next one begins. */
  move(tick: Ticks): Ticks {
    const { from, to, begin } = this;
    if (from.length === 0) return tick;
    while (this.at + 1 < from.length && begin[this.at + 1] <= tick) this.at++;
    const k = this.at;
    const moved = Math.max(0, tick + to[k] - from[k]);
    if (k + 1 >= from.length) return moved;
    const next = Math.max(0, begin[k + 1] + to[k + 1] - from[k + 1]);
    return Math.min(moved, Math.max(next, Math.min(to[k], to[k + 1])));
  }
}
