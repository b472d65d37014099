import * as z from 'zod';
import type { Pieces } from '../maths';
import { areNotesPieces, songFault, type Song } from '../song';
import { base, isProblem, problem, type Changed, type EditKind, type EditProblem } from './kind';
import { events } from './kinds/events';
import { markers } from './kinds/markers';
import { meter } from './kinds/meter';
import { mix } from './kinds/mix';
import { notes } from './kinds/notes';
import { partAudio } from './kinds/part-audio';
import { partCompile } from './kinds/part-compile';
import { partCopy } from './kinds/part-copy';
import { partCut } from './kinds/part-cut';
import { partJoin } from './kinds/part-join';
import { partLook } from './kinds/part-look';
import { partMove } from './kinds/part-move';
import { partOn } from './kinds/part-on';
import { partOneTake } from './kinds/part-one-take';
import { partSpan } from './kinds/part-span';
import { partTake } from './kinds/part-take';
import { partUncut } from './kinds/part-uncut';
import { partUnjoin } from './kinds/part-unjoin';
import { partVersion } from './kinds/part-version';
import { partVersions } from './kinds/part-versions';
import { parts } from './kinds/parts';
import { sets } from './kinds/sets';
import { setup } from './kinds/setup';
import { songName } from './kinds/song-name';
import { songTime } from './kinds/song-time';
import { tempo } from './kinds/tempo';
import { trackColour } from './kinds/track-colour';
import { trackEnd } from './kinds/track-end';
import { trackName } from './kinds/track-name';
import { trackOrder } from './kinds/track-order';
import { trackSound } from './kinds/track-sound';
import { tracks } from './kinds/tracks';
import { treatment } from './kinds/treatment';

/** Every kind of edit there is, by its name. Nothing else tells kinds apart. */
const KINDS = {
  treatment,
  'part-on': partOn,
  sets,
  notes,
  events,
  parts,
  'part-move': partMove,
  'part-span': partSpan,
  'part-cut': partCut,
  'part-uncut': partUncut,
  'part-join': partJoin,
  'part-unjoin': partUnjoin,
  'part-copy': partCopy,
  'part-take': partTake,
  'part-one-take': partOneTake,
  'part-compile': partCompile,
  'part-version': partVersion,
  'part-versions': partVersions,
  'part-look': partLook,
  'part-audio': partAudio,
  tracks,
  'track-order': trackOrder,
  'track-name': trackName,
  'track-end': trackEnd,
  'track-colour': trackColour,
  'track-sound': trackSound,
  mix,
  setup,
  tempo,
  meter,
  markers,
  'song-name': songName,
  'song-time': songTime,
} as const;

export type EditKindName = keyof typeof KINDS;
export const EDIT_KINDS = Object.keys(KINDS) as readonly EditKindName[];

/** One change of a song. */
export type SimpleEdit = Readonly<{ [K in EditKindName]: z.infer<(typeof KINDS)[K]['schema']> }[EditKindName]>;

/** Several changes that are one step for undo; each is checked as one of its own kind. */
const SeveralHead = z.object({ ...base, kind: z.literal('several') });
type Several = Readonly<z.infer<typeof SeveralHead> & { edits: readonly SimpleEdit[] }>;

/**
 * An edit as a value: the only way to change a song. `name` is what people read ("Quantize Marimba"). Edits are
 * stored in the journal as they are.
 */
export type Edit = SimpleEdit | Several;

/** A song after an edit, and the edit that takes it back to the byte. */
export type Applied = Changed<Edit>;

/** The kind of an edit, by the registry; undefined for a name that it does not have. */
function kindOf(name: string): EditKind<SimpleEdit, SimpleEdit> | undefined {
  return (KINDS as unknown as Partial<Record<string, EditKind<SimpleEdit, SimpleEdit>>>)[name];
}

/** Checks a value that is to be an edit; says what is wrong with it. The schema of its own kind is asked, no other. */
export function readEdit(value: unknown): Edit | EditProblem {
  const name = (value as { kind?: unknown } | null)?.kind;
  const several = name === 'several' && Array.isArray((value as { edits?: unknown }).edits);
  const schema = several ? SeveralHead : typeof name === 'string' ? kindOf(name)?.schema : undefined;
  const result = schema?.safeParse(value);
  if (!result) return problem('This version of the program does not know this edit.');
  if (!result.success) {
    const [issue] = result.error.issues;
    return problem(
      `This change cannot be made: ${issue.message}${issue.path.length > 0 ? ` (${issue.path.join('.')})` : ''}.`,
    );
  }
  if (several) {
    for (const one of (value as { edits: unknown[] }).edits) {
      const read = readEdit(one);
      if (isProblem(read)) return read;
      if (read.kind === 'several') return problem('A step cannot hold other steps.');
    }
  }
  return value as Edit;
}

/** A step of so many notes and more takes the page several frames to make and to write. */
export const LONG_STEP = 20_000;

/** How many notes an edit puts in or changes: how long it takes to make and to write. */
export function notesIn(edit: Edit): number {
  if (edit.kind === 'several') return edit.edits.reduce((sum, one) => sum + notesIn(one), 0);
  return edit.kind === 'notes' ? edit.add.length : 0;
}

/** {@link readEdit} of an edit of very many notes, in pieces. */
export function* readEditPieces(edit: Edit): Pieces<Edit | EditProblem> {
  for (const one of editsIn(edit)) {
    // What is no list is refused below, with a sentence.
    if (one.kind === 'notes' && Array.isArray(one.add)) yield* areNotesPieces(one.add);
  }
  return readEdit(edit);
}

/** Applies an edit that was checked by {@link readEdit} to a song; one that does not fit changes nothing. */
export function applyEdit(song: Song, edit: Edit): Applied | EditProblem {
  const done = edit.kind === 'several' ? applySeveral(song, edit) : applySimple(song, edit);
  return isProblem(done) ? done : { ...done, inverse: marked(done.inverse, edit) };
}

/** An inverse is named after what it takes back, and says how and when that was done. */
function marked<E extends Edit>(inverse: E, { name, how, at }: Edit): E {
  const { joins: _joins, how: _how, at: _at, ...rest } = inverse;
  return { ...rest, name, ...(how === undefined ? {} : { how }), ...(at === undefined ? {} : { at }) } as E;
}

function applySeveral(song: Song, edit: Several): Applied | EditProblem {
  const inverses: SimpleEdit[] = [];
  let current = song;
  for (const one of edit.edits) {
    const done = applySimple(current, one);
    if (isProblem(done)) return done;
    current = done.song;
    inverses.unshift(done.inverse);
  }
  const { nextId: _nextId, ...rest } = edit;
  return { song: current, inverse: { ...rest, edits: inverses } };
}

function applySimple(song: Song, edit: SimpleEdit): Changed<SimpleEdit> | EditProblem {
  const done = kindOf(edit.kind)?.apply(song, edit);
  if (!done) return problem('This version of the program does not know this edit.');
  if (isProblem(done)) return done;
  // Ids that an edit used are free again once it is taken back, so that the song is what it was.
  const { nextId: _nextId, ...inverse } = done.inverse;
  const after = edit.nextId === undefined ? done.song : { ...done.song, nextId: edit.nextId };
  if (edit.nextId !== undefined && edit.nextId < song.nextId && songFault(after)) {
    return problem('The edit would use ids twice.');
  }
  return {
    song: after,
    inverse: (after.nextId === song.nextId ? inverse : { ...inverse, nextId: song.nextId }) as SimpleEdit,
  };
}

/** Whether the inverse of the step before takes back the next edit as well: what it begins with does. */
export function covers(inverse: Edit, next: Edit): boolean {
  const wanted = editsIn(next);
  const back = editsIn(inverse).slice(0, wanted.length).reverse();
  return back.length === wanted.length && back.every((e, i) => coversSimple(e, wanted[i]));
}

/** What an edit is made of, in order. */
export function editsIn(edit: Edit): readonly SimpleEdit[] {
  return edit.kind === 'several' ? edit.edits : [edit];
}

/** Whether two edits are about the same notes, and about some at all. */
export function haveSameNotes(a: Edit, b: Edit): boolean {
  const [one, other] = [noteIdsIn(a), noteIdsIn(b)];
  return one.size > 0 && one.size === other.size && [...one].every((id) => other.has(id));
}

function noteIdsIn(edit: Edit): Set<number> {
  const ids = new Set<number>();
  for (const one of editsIn(edit)) {
    if (one.kind !== 'notes') continue;
    for (const id of one.remove) ids.add(id);
    for (const { id } of one.add) ids.add(id);
  }
  return ids;
}

function coversSimple(inverse: SimpleEdit, next: SimpleEdit): boolean {
  return inverse.kind === next.kind && (kindOf(next.kind)?.covers?.(inverse, next) ?? false);
}
