import { Building, changePart, type Edit, type EditProblem } from '../edit';
import {
  changedNote,
  findPart,
  roundsOf,
  takeOf,
  type Content,
  type Note,
  type Part,
  type Song,
  type TakeRound,
} from '../song';
import { sectionAt, type Section, type TakeTable } from './compare';
import { composed, type Piece } from './compose';
import type { Compared } from './take-notes';

/** Name of the take that is put together out of the others. */
export const BEST = 'Best of the takes';

/** The takes of a part that were played, in their order: those to compare. */
export function playedTakes(part: Part): Compared[] {
  return roundsOf(part)
    .filter((r) => !r.compiled)
    .map(({ id, name, notes, events }) => ({ id, name, content: { notes, events } }));
}

/** The part's take that is put together out of the others; null where there is none yet. */
export function compiledTake(part: Part): TakeRound | null {
  return roundsOf(part).find((r) => r.compiled) ?? null;
}

/**
 * From which take each section of a content is, by its notes: index of the take, or null where it was changed by hand or
 * nothing is there. Of takes that are the same there the one before goes on.
 */
export function origins(table: TakeTable, content: Content): (number | null)[] {
  const own = bySection(content.notes, placesIn(table, content), table.sections.length);
  const takes = table.takes.map((take, k) => bySection(take.content.notes, table.sectionOf[k], table.sections.length));
  let before: number | null = null;
  return table.sections.map((_, s) => {
    const same = takes.flatMap((of, k) => (table.cells[k][s] && of[s] === own[s] ? [k] : []));
    before = before !== null && same.includes(before) ? before : (same.at(0) ?? null);
    return before;
  });
}

/** What a section holds, as one text: to tell whether two hold the same. A length may have been cut at a join. */
function bySection(notes: readonly Note[], section: ArrayLike<number>, count: number): string[] {
  const lists = Array.from({ length: count }, (): string[] => []);
  notes.forEach((n, i) => lists[section[i]].push(soundOf(n)));
  return lists.map((list) => list.sort().join(' '));
}

function soundOf(note: Note): string {
  const { start, velocity } = takeOf(note);
  return `${start}.${note.pitch}.${note.channel}.${velocity}`;
}

/** The section of each note: that of the take's note which it is, or by its place where no take has it. */
function placesIn({ takes, sectionOf, sections }: TakeTable, { notes }: Content): Int32Array {
  const known = new Map<string, number>();
  takes.forEach(({ content }, k) => content.notes.forEach((n, i) => known.set(soundOf(n), sectionOf[k][i])));
  return Int32Array.from(
    notes,
    (n) => known.get(soundOf(n)) ?? sectionAt(sections, n.start + early(sections, n.start)),
  );
}

/** Half a gap between lines around a tick: a note that comes so much before its bar is meant for it. */
function early(sections: readonly Section[], tick: number): number {
  return sections[sectionAt(sections, tick)].gap / 2;
}

/**
 * The step that puts takes together, section by section, as a take of its own that is chosen: the takes that were played
 * stay as they are. One that was put together before is put together anew.
 * @param choices index of a take for each section; null leaves it empty
 */
export function bestTakesEdit(
  song: Song,
  partId: string,
  table: TakeTable,
  choices: readonly (number | null)[],
  name: string,
): Edit | EditProblem | null {
  const pieces: { readonly notes: Note[]; readonly events: Content['events'] }[] = [];
  const starts: number[] = [];
  choices.forEach((k, s) => {
    const content = k === null ? { notes: [], events: [] } : table.takes[k].content;
    const notes = content.notes.filter((_, i) => k !== null && table.sectionOf[k][i] === s);
    if (s > 0 && choices[s - 1] === k) pieces[pieces.length - 1].notes.push(...notes);
    else {
      pieces.push({ notes, events: content.events });
      starts.push(s);
    }
  });
  return compile(song, partId, joined(table, pieces, starts.slice(1)), name);
}

/** The step that takes one section from another take; everything else of the one that is put together stays, by hand too. */
export function swapEdit(
  song: Song,
  partId: string,
  table: TakeTable,
  section: number,
  take: number,
  name: string,
): Edit | EditProblem | null {
  const part = findPart(song, partId)?.part;
  if (!part) return { problem: 'The song has no such part any more.' };
  const base: Content = compiledTake(part) ?? part;
  const places = placesIn(table, base);
  const some = (fits: (s: number) => boolean): Piece => ({
    events: base.events,
    notes: base.notes.filter((_, i) => fits(places[i])),
  });
  const { content } = table.takes[take];
  const own = { events: content.events, notes: content.notes.filter((_, i) => table.sectionOf[take][i] === section) };
  const pieces = [some((s) => s < section), own, some((s) => s > section)];
  // The first and the last section have nothing on one side.
  const last = table.sections.length - 1;
  const from = section === 0 ? 1 : 0;
  const to = section === last ? 2 : 3;
  const starts = [section, section + 1].slice(from, from + to - from - 1);
  return compile(song, partId, joined(table, pieces.slice(from, to), starts), name);
}

function joined({ sections }: TakeTable, pieces: readonly Piece[], starts: readonly number[]): Content {
  return composed(
    pieces,
    starts.map((s) => sections[s].from),
    starts.map((s) => sections[s].gap / 2),
  );
}

function compile(song: Song, partId: string, content: Content, name: string): Edit | EditProblem | null {
  const part = findPart(song, partId)?.part;
  if (!part?.takes)
    return { problem: 'This part has no takes to put together. Record it over a loop, round by round.' };
  const building = new Building(song);
  const before = compiledTake(part);
  const kept = new Set(before?.notes.map((n) => n.id));
  // What stays keeps its ids; what comes from a take gets its own.
  const notes = content.notes.map((n) =>
    kept.has(n.id) ? n : changedNote(n, { id: building.id(), order: undefined }),
  );
  const wanted = { notes, events: content.events };
  if (!before) {
    building.add({
      kind: 'part-compile',
      name,
      part: partId,
      take: { id: `take${building.id()}`, name: BEST, ...wanted, compiled: true },
      back: null,
    });
  } else {
    if (part.takes.chosen.id !== before.id) building.add({ kind: 'part-take', name, part: partId, take: before.id });
    changePart(building, partId, wanted, name);
  }
  return building.done(name);
}
