import { atOnce, counting, type Pieces } from '../maths';
import {
  counted,
  eventAsTaken,
  findPart,
  keepEvent,
  keepNotesPieces,
  notesAt,
  returnToTake,
  stagesOff,
  type Note,
  type Part,
  type PartEvent,
  type Song,
  type TakeParts,
  type Track,
} from '../song';
import type { TrackPerformance } from '../performance';
import type { Ticks } from '../time';
import { correctedTrack, factsOf, treatEvents } from '../treatment';
import { applyEdit, type Edit, type SimpleEdit } from './edit';
import { isProblem } from './kind';
import { eventsEdit } from './change-part';
import { changeNotes } from './kinds/notes';

/** After so many rounds of finding what hangs together, all of the part is kept. */
const ROUNDS = 8;

/**
 * The edit that makes corrected notes the part's own, and what sounds the same. The whole part keeps its
 * settings with the stages off. Notes kept alone leave the treatment; others that would move because of it
 * (a chord's other notes) are kept with them. Other versions of the treatment were made for the notes as they were: they
 * go, so that none of them sounds otherwise than before without a word.
 * @param ids the notes to keep; null for the whole part
 * @returns null where there is nothing to keep
 */
export function keepEdit(song: Song, partId: string, ids: readonly number[] | null): Edit | null {
  return atOnce(keepPieces(song, partId, ids));
}

/** {@link keepEdit} of very many notes, in pieces. */
export function* keepPieces(song: Song, partId: string, ids: readonly number[] | null): Pieces<Edit | null> {
  const found = findPart(song, partId);
  if (!found?.part.on) return null;
  const edits = ids === null ? yield* keepWhole(song, found) : keepAlone(song, found, new Set(ids));
  if (edits.length === 0) return null;
  if (found.part.versions) edits.push({ kind: 'part-versions', name: 'Keep', part: partId, versions: null });
  const kept = edits.reduce((sum, e) => sum + (e.kind === 'notes' ? e.add.length : 0), 0);
  const more = ids === null || kept <= ids.length ? '' : ` and ${kept - ids.length} linked to them`;
  const name = ids === null ? `Keep ${found.part.name}` : `Keep ${counted(Math.min(kept, ids.length), 'note')}${more}`;
  return { kind: 'several', name, edits };
}

/** The edit that brings notes back to their take; with the whole part (`ids` null) its other events too. */
export function returnEdit(song: Song, partId: string, ids: readonly number[] | null, which: TakeParts): Edit | null {
  const found = findPart(song, partId);
  if (!found) return null;
  const { part } = found;
  const wanted = ids && new Set(ids);
  const back = returnToTake(
    part.notes.filter((n) => !wanted || wanted.has(n.id)),
    which,
  );
  const name = `Return ${counted(back.length, 'note')} to the take`;
  const events = wanted || !which.starts ? null : changeEvents(name, part, (e) => e.take !== undefined, eventAsTaken);
  const edits = [...(back.length > 0 ? [changeNotes(name, part, back)] : []), ...(events ? [events] : [])];
  return edits.length > 0 ? { kind: 'several', name, edits } : null;
}

interface Found {
  readonly track: Track;
  readonly part: Part;
}

function* keepWhole(song: Song, { track, part }: Found): Pieces<SimpleEdit[]> {
  const name = 'Keep';
  const off = stagesOff(part.treatment);
  const sets = part.sets.map((s) => ({ ...s, treatment: stagesOff(s.treatment) }));
  const edits: SimpleEdit[] = [changeNotes(name, part, yield* keptNotes(song, part, null))];
  const ticks = eventTicks(track, part, song);
  const events = changeEvents(
    name,
    part,
    (e, i) => ticks[i] !== e.tick,
    (e, i) => keepEvent(e, ticks[i], false),
  );
  if (events) edits.push(events);
  edits.push({ kind: 'treatment', name, part: part.id, treatment: off });
  if (sets.length > 0) edits.push({ kind: 'sets', name, part: part.id, sets });
  return edits;
}

function keepAlone(song: Song, { track, part }: Found, wanted: Set<number>): SimpleEdit[] {
  const name = 'Keep';
  const before = correctedTrack(track, song);
  const places = placesById(before);
  const ticks = eventTicks(track, part, song);
  const fixed = new Set<number>();
  for (let round = 0; ; round++) {
    if (round === ROUNDS) for (const n of part.notes) wanted.add(n.id);
    const edits: SimpleEdit[] = [changeNotes(name, part, atOnce(keptNotes(song, part, wanted)))];
    const events = changeEvents(
      name,
      part,
      (_, i) => fixed.has(i),
      (e, i) => keepEvent(e, ticks[i], true),
    );
    if (events) edits.push(events);
    const done = applyEdit(song, { kind: 'several', name, edits });
    const after = isProblem(done) ? undefined : findPart(done.song, part.id);
    if (!after) return [];
    const now = correctedTrack(after.track, song);
    const size = wanted.size + fixed.size;
    const nowPlaces = placesById(now);
    for (const { id } of part.notes) {
      if (places.get(id) === nowPlaces.get(id)) continue;
      // A kept note that is still cut otherwise is cut by another of its key, which is kept with it.
      if (wanted.has(id)) for (const other of touching(before, id)) wanted.add(other);
      wanted.add(id);
    }
    // Events keep their order in time, so those that are kept may stand elsewhere among them now.
    const treated = eventTicks(after.track, after.part, song);
    const nowTicks = new Map(after.part.events.map((event, i) => [event, treated[i]]));
    part.events.forEach((e, i) => {
      const tick = nowTicks.get(e);
      if (tick !== undefined && tick !== ticks[i]) fixed.add(i);
    });
    if (wanted.size + fixed.size === size) return edits;
  }
}

/** Where every note of a track sounds, as one comparable text a note. */
function placesById(track: TrackPerformance): Map<number, string> {
  return new Map(track.notes.map((n) => [n.note.id, `${n.start} ${n.end} ${n.velocity}`]));
}

/** Ids of the notes of the same key that sound into a note or next to it. */
function touching({ notes }: TrackPerformance, id: number): number[] {
  const own = notes.find((n) => n.note.id === id);
  if (!own) return [];
  const { pitch, channel } = own.note;
  return notes
    .filter((n) => n.note.pitch === pitch && n.note.channel === channel && n.start <= own.end && n.end >= own.start)
    .map((n) => n.note.id);
}

function* keptNotes(song: Song, part: Part, ids: ReadonlySet<number> | null): Pieces<Note[]> {
  const facts = factsOf(part, song);
  const indices = ids ? notesAt(part.notes, [...ids]) : counting(part.notes.length);
  yield;
  return yield* keepNotesPieces(part, indices, ids !== null, facts);
}

/** Where a part's events happen after its treatment, in their order. */
function eventTicks(track: Track, part: Part, song: Song): ArrayLike<Ticks> {
  return treatEvents(track.parts, song)[track.parts.indexOf(part)];
}

/** The edit that changes some events of a part, and puts them where they belong in time; null where there are none. */
function changeEvents(
  name: string,
  part: Part,
  wanted: (event: PartEvent, index: number) => boolean,
  change: (event: PartEvent, index: number) => PartEvent,
): SimpleEdit | null {
  const all = part.events.map((e, i) => (wanted(e, i) ? change(e, i) : e));
  return eventsEdit(
    name,
    part,
    all.sort((a, b) => a.tick - b.tick || (a.order ?? 0) - (b.order ?? 0)),
  );
}
