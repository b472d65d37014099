import { heldAt, letGo, sameControl, setAgain } from './held';
import type { Note } from './note';
import type { PartEvent } from './event';
import type { Part, TakeRound } from './song';
import { byPlace } from './look';

/** What is played in a part or in one of its takes: notes in order of place, events in order of time. */
export type Content = Pick<TakeRound, 'notes' | 'events'>;

/** A stretch of time in ticks: from its first one up to, and without, its last. */
export interface Stretch {
  readonly from: number;
  readonly to: number;
}

/** Everything that is played in a part: what it holds, then its takes that are not chosen. */
export function contentsOf(part: Part): readonly Content[] {
  return [part, ...(part.takes?.others ?? [])];
}

/**
 * A part with everything that is played in it changed in the same way, the takes that are not chosen too. Versions of
 * its treatment hold no places in time; a sound file's anchors are for the caller.
 */
export function withContents(part: Part, change: (content: Content) => Content): Part {
  const { takes } = part;
  const { notes, events } = change(part);
  const others = takes?.others.map((round) => ({ ...round, ...change(round) }));
  return { ...part, notes, events, ...(takes && others ? { takes: { ...takes, others } } : {}) };
}

/**
 * Content before and from a tick on. Notes belong to the side on which they begin, and ring on over it; a pedal or bend
 * that is held there is let go on the left and set again on the right, unless something is said of it at that tick.
 */
export function cutContent({ notes, events }: Content, at: number): readonly [Content, Content] {
  const before = events.filter((e) => e.tick < at);
  const after = events.filter((e) => e.tick >= at);
  const held = heldAt(before);
  const again = held.filter((h) => !after.some((e) => e.tick === at && sameControl(e, h)));
  return [
    { notes: notes.filter((n) => n.start < at), events: [...before, ...held.map((e) => letGo(e, at))] },
    { notes: notes.filter((n) => n.start >= at), events: [...again.map((e) => setAgain(e, at)), ...after] },
  ];
}

/** Two contents one after the other; what was let go at the border only to be set there again stays held. */
export function joinContent(left: Content, right: Content, at: number): Content {
  const [before, after] = withoutSeam(left.events, right.events, at);
  return { notes: inPlace([...left.notes, ...right.notes]), events: [...before, ...after] };
}

/** Content in which a stretch is taken from another; what was there is given back. */
export function exchanged(a: Content, b: Content, { from, to }: Stretch): readonly [Content, Content] {
  const [a0, a1, a2] = inThree(a, from, to);
  const [b0, b1, b2] = inThree(b, from, to);
  const whole = (l: Content, m: Content, r: Content) => joinContent(joinContent(l, m, from), r, to);
  return [whole(a0, b1, a2), whole(b0, a1, b2)];
}

/** Content without what begins in a stretch: a pedal that was held there is up for as long. */
export function cleared(content: Content, { from, to }: Stretch): Content {
  const [before, , after] = inThree(content, from, to);
  return joinContent(joinContent(before, NOTHING, from), after, to);
}

/** Content with more played over it: what it held and what is added go on side by side. */
export function overdubbed(content: Content, notes: readonly Note[], events: readonly PartEvent[]): Content {
  return {
    notes: inPlace([...content.notes, ...notes]),
    events: [...content.events, ...events].sort((a, b) => a.tick - b.tick),
  };
}

const NOTHING: Content = { notes: [], events: [] };

function inThree(content: Content, from: number, to: number): readonly [Content, Content, Content] {
  const [before, rest] = cutContent(content, from);
  const [inside, after] = cutContent(rest, to);
  return [before, inside, after];
}

function inPlace(notes: readonly Note[]): Note[] {
  return [...notes].sort(byPlace);
}

type Events = readonly PartEvent[];

/** Events on both sides of a border without what a cut there put in: what is let go and set again at one tick was held. */
export function withoutSeam(left: Events, right: Events, at: number): readonly [Events, Events] {
  const put = (e: PartEvent) => e.tick === at && e.order === undefined && e.take === undefined;
  const closings = left.filter((e) => put(e) && 'value' in e && e.value === 0);
  if (closings.length === 0) return [left, right];
  // What is told on the right at that tick needs no letting go before it.
  const gone = closings.filter((c) => right.some((e) => e.tick === at && sameControl(e, c)));
  const held = heldAt(left.filter((e) => !closings.includes(e)));
  const same = (e: PartEvent) =>
    put(e) && gone.some((c) => sameControl(c, e)) && held.some((h) => sameControl(h, e) && valueOf(h) === valueOf(e));
  return [left.filter((e) => !gone.includes(e)), right.filter((e) => !same(e))];
}

function valueOf(event: PartEvent): number | null {
  return 'value' in event ? event.value : null;
}
