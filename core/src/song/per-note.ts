import type { Ticks } from '../time';
import { THIRD_DIMENSION, type PartEvent } from './event';
import type { Note } from './note';
import type { Track } from './song';

/** Channels on which each note has bend, pressure and controller 74 of its own, and those that are meant for all notes. */
export interface PerNote {
  readonly members: ReadonlySet<number>;
  readonly masters: ReadonlySet<number>;
}

/** What was played in a part, or in a take. */
export interface Played {
  readonly notes: readonly Pick<Note, 'start' | 'length' | 'channel' | 'exception'>[];
  readonly events: readonly PartEvent[];
}

/**
 * Channels of a part that was played note by note: those of the zones that it sets up (MIDI Polyphonic Expression 1.0,
 * MIDI Association RP-053: registered parameter 6 on channel 1 or 16, with the number of member channels), or where it
 * sets up none, those on which notes sound at one time with others, never two on one channel.
 * @param setup what its track sends before its first note
 * @returns null for a part that was not
 */
export function perNoteOf(part: Played, setup: Track['setup'] = NO_SETUP): PerNote | null {
  return perNote(part, setup);
}

/**
 * Remembers what was found out about the notes and events of a part: a drag of its treatment makes another part of the
 * same ones in every frame.
 */
export function remembered<T>(
  find: (part: Played, setup: Track['setup']) => T,
): (part: Played, setup: Track['setup']) => T {
  const known = new WeakMap<Played['events'], { notes: Played['notes']; setup: Track['setup']; value: T }>();
  return (part, setup) => {
    const before = known.get(part.events);
    if (before?.setup === setup && lieAlike(before.notes, part.notes)) return before.value;
    const value = find(part, setup);
    known.set(part.events, { notes: part.notes, setup, value });
    return value;
  };
}

/** Whether notes lie where others do, whatever else became of them: one that is pinned elsewhere was played where it was. */
function lieAlike(a: Played['notes'], b: Played['notes']): boolean {
  if (a === b) return true;
  if (a.length !== b.length) return false;
  for (let i = 0; i < a.length; i++) {
    const [n, m] = [a[i], b[i]];
    if (n === m) continue;
    if (n.start !== m.start || n.length !== m.length || n.channel !== m.channel) return false;
    if ((n.exception?.kind === 'dropped') !== (m.exception?.kind === 'dropped')) return false;
  }
  return true;
}

export const NO_SETUP: Track['setup'] = [];

const perNote = remembered((part, setup) => zonesOf(part.notes, [setup, part.events]) ?? seenIn(part));

/** Registered parameter: its two controllers, and that of its value. */
const RPN = { coarse: 101, fine: 100, value: 6 } as const;
const MPE_ZONE = 6;
const MOST_MEMBERS = 15;
const [LOWER, UPPER] = [0, 15];

/** What is wrong with the messages that set up zones; the take is read all the same, nothing of it is lost. */
export type ZoneFault =
  /** More member channels than a zone can have: it gets 15. */
  | { readonly kind: 'too-many'; readonly members: number }
  /** Two zones want the same channels: the newer one gets them. */
  | { readonly kind: 'overlap'; readonly lower: number; readonly upper: number }
  /** Other zones in the middle of the take: the last ones count for all of it. */
  | { readonly kind: 'midway'; readonly tick: Ticks };

/** @param setup what the part's track sends before its first note */
export function zoneFaults(part: Played, setup: Track['setup'] = NO_SETUP): readonly ZoneFault[] {
  const { notes, events } = part;
  const begin = beginOf(notes);
  let known = faults.get(events);
  if (known?.setup !== setup || known.begin !== begin) {
    faults.set(events, (known = { setup, begin, found: readZones(begin, [setup, events]).faults }));
  }
  return known.found;
}

const faults = new WeakMap<
  Played['events'],
  { readonly setup: Track['setup']; readonly begin: Ticks; readonly found: readonly ZoneFault[] }
>();

/** Where the first note begins: all that zones ask of notes. Ticks; Infinity for none. */
function beginOf(notes: Played['notes']): Ticks {
  return notes.length > 0 ? notes[0].start : Infinity;
}

/** Member channels of the lower zone and of the upper one, and what is wrong with the messages that say so. @param begin of the first note */
function readZones(
  begin: Ticks,
  lists: readonly Track['setup'][],
): { lower: number; upper: number; faults: readonly ZoneFault[] } {
  const parameter = new Map<number, { coarse: number; fine: number }>();
  const faults: ZoneFault[] = [];
  let [lower, upper] = [0, 0];
  for (const events of lists) {
    for (const event of events) {
      if (event.type !== 'controller' || (event.channel !== LOWER && event.channel !== UPPER)) continue;
      const { channel, controller, value, tick } = event;
      const at = parameter.get(channel) ?? { coarse: 127, fine: 127 };
      if (controller === RPN.coarse) parameter.set(channel, { ...at, coarse: value });
      else if (controller === RPN.fine) parameter.set(channel, { ...at, fine: value });
      else if (controller === RPN.value && at.coarse === 0 && at.fine === MPE_ZONE) {
        // Behind the take its zones are taken down again: that is no change in its middle.
        if (value === 0 && tick > begin) continue;
        if (value > MOST_MEMBERS) faults.push({ kind: 'too-many', members: value });
        const members = Math.min(MOST_MEMBERS, value);
        const before = { lower, upper };
        if (channel === LOWER) [lower, upper] = [members, Math.min(upper, Math.max(0, 14 - members))];
        else [lower, upper] = [Math.min(lower, Math.max(0, 14 - members)), members];
        const other = channel === LOWER ? before.upper - upper : before.lower - lower;
        if (other > 0) faults.push({ kind: 'overlap', lower, upper });
        const changes = before.lower !== lower || before.upper !== upper;
        if (tick > begin && changes) faults.push({ kind: 'midway', tick });
      }
    }
  }
  return { lower, upper, faults };
}

function zonesOf(notes: Played['notes'], lists: readonly Track['setup'][]): PerNote | null {
  const { lower, upper } = readZones(beginOf(notes), lists);
  if (lower + upper === 0) return null;
  const members = new Set<number>();
  for (let c = 1; c <= lower; c++) members.add(LOWER + c);
  for (let c = 1; c <= upper; c++) members.add(UPPER - c);
  if (!notes.some((n) => members.has(n.channel))) return null;
  return { members, masters: new Set([...(lower > 0 ? [LOWER] : []), ...(upper > 0 ? [UPPER] : [])]) };
}

function seenIn({ notes, events }: Played): PerNote | null {
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

/** Channels that take turns: of so many notes each goes to the one that was free longest. */
const IN_TURN = 0.8;
const FEWEST_CHANNELS = 3;

/**
 * The channels of a file's only track that one controller played, each note on one of its own: they are one instrument.
 * Without zone messages only where the channels take turns; several instruments in one track are often seen alike.
 * @param notes in order of their starts
 * @returns none where each channel is an instrument
 */
export function channelsOfOne(played: Played): ReadonlySet<number> {
  const found = perNoteOf(played);
  if (!found) return new Set();
  if (found.masters.size > 0) return new Set([...found.members, ...found.masters]);
  const turn = found.members.size;
  const { notes } = played;
  if (turn < FEWEST_CHANNELS || notes.length < 2 * turn) return new Set();
  let same = 0;
  for (let i = turn; i < notes.length; i++) if (notes[i].channel === notes[i - turn].channel) same++;
  return same >= IN_TURN * (notes.length - turn) ? found.members : new Set();
}
