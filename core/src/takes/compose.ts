import { byPlace, changedNote, cutContent, joinContent, type Content, type Note, type PartEvent } from '../song';
import type { Ticks } from '../time';
import { voiceOf } from '../treatment';

/** Some notes of a take, with all of its pedals, bends and controllers. */
export interface Piece {
  readonly notes: readonly Note[];
  readonly events: readonly PartEvent[];
}

/**
 * Pieces one after the other. Notes are told to their piece by their line, so that an early downbeat comes with its bar;
 * pedals and bends change sides between the last note of one piece and the first of the next, let go and set again as at
 * any cut. Where a note would still sound when one of its pitch begins in the next piece it ends there.
 * @param bars where each piece but the first is meant to begin
 * @param early how far before that its first note may come: half a gap between lines
 */
export function composed(pieces: readonly Piece[], bars: readonly Ticks[], early: readonly Ticks[]): Content {
  const borders = bars.map((bar, i) => borderOf(pieces.slice(0, i + 1), pieces.slice(i + 1), bar, early[i]));
  const events = pieces.map(({ events }, i) => stretchOf(events, borders.at(i - 1) ?? 0, borders.at(i) ?? Infinity, i));
  const all = events.reduce((left, right, i) =>
    i === 0 ? right : joinContent({ notes: [], events: left }, { notes: [], events: right }, borders[i - 1]).events,
  );
  return { notes: apart(pieces), events: all };
}

/** Events of one piece: what is held at its ends is set at the beginning and let go at the end. */
function stretchOf(events: readonly PartEvent[], from: Ticks, to: Ticks, i: number): readonly PartEvent[] {
  const [before] = to === Infinity ? [{ notes: [], events }] : cutContent({ notes: [], events }, to);
  return i === 0 ? before.events : cutContent(before, from)[1].events;
}

/** Between the last note before a border and the first after it. */
function borderOf(left: readonly Piece[], right: readonly Piece[], bar: Ticks, early: Ticks): Ticks {
  const last = left.reduce((most, { notes }) => notes.reduce((m, n) => Math.max(m, n.start), most), -Infinity);
  const first = right.reduce((least, { notes }) => notes.reduce((m, n) => Math.min(m, n.start), least), Infinity);
  const usual = Math.max(0, Math.round(bar - early));
  if (last < usual && usual <= first) return usual;
  return last < first
    ? Math.max(0, Math.ceil((Math.max(last, usual - early) + Math.min(first, bar + early)) / 2))
    : bar;
}

/** All notes in order of place; one that would run into the next piece's note of its pitch ends there. */
function apart(pieces: readonly Piece[]): Note[] {
  const first = new Map<number, Ticks>();
  const out: Note[] = [];
  for (let i = pieces.length - 1; i >= 0; i--) {
    const { notes } = pieces[i];
    for (const n of notes) {
      const next = first.get(voiceOf(n.channel, n.pitch)) ?? Infinity;
      const over = n.start < next && n.start + n.length > next;
      out.push(over ? changedNote(n, { length: next - n.start }) : n);
    }
    for (const n of notes) {
      const voice = voiceOf(n.channel, n.pitch);
      first.set(voice, Math.min(n.start, first.get(voice) ?? Infinity));
    }
  }
  return out.sort(byPlace);
}
