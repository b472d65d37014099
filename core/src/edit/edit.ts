import { z } from 'zod';
import { renameTrack } from '../smf';
import {
  byPlace,
  NoteSchema,
  OwnSetSchema,
  TrackEventSchema,
  TreatmentSchema,
  withPart,
  type Note,
  type Part,
  type Song,
  type Track,
} from '../song';

const named = { name: z.string().min(1) };

const SimpleEditSchema = z.discriminatedUnion('kind', [
  z.object({ ...named, kind: z.literal('treatment'), part: z.string(), treatment: TreatmentSchema }),
  z.object({ ...named, kind: z.literal('part-on'), part: z.string(), on: z.boolean() }),
  z.object({ ...named, kind: z.literal('sets'), part: z.string(), sets: z.array(OwnSetSchema).readonly() }),
  /** Takes notes out of a part by id and puts notes in, which may be the same ones changed. */
  z.object({
    ...named,
    kind: z.literal('notes'),
    part: z.string(),
    remove: z.array(z.int()).readonly(),
    add: z.array(NoteSchema).readonly(),
  }),
  /** Replaces some events of a track, by their index in it. */
  z.object({
    ...named,
    kind: z.literal('events'),
    track: z.string(),
    at: z.array(z.int().min(0)).readonly(),
    to: z.array(TrackEventSchema).readonly(),
  }),
  z.object({ ...named, kind: z.literal('song-name'), to: z.string().min(1).max(200) }),
  z.object({ ...named, kind: z.literal('track-name'), track: z.string(), to: z.string().min(1).max(200) }),
  z.object({
    ...named,
    kind: z.literal('mix'),
    track: z.string(),
    mute: z.boolean(),
    solo: z.boolean(),
    level: z.number().min(0).max(1),
  }),
]);

/** Several edits that are one step for undo. */
const SeveralSchema = z.object({
  ...named,
  kind: z.literal('several'),
  edits: z.array(SimpleEditSchema).readonly(),
});

/**
 * An edit as a value: the only way to change a song. `name` is what people read
 * ("Quantize Marimba"). Edits are stored in the journal as they are.
 */
export const EditSchema = z.union([SimpleEditSchema, SeveralSchema]);
export type SimpleEdit = Readonly<z.infer<typeof SimpleEditSchema>>;
export type Edit = SimpleEdit | Readonly<z.infer<typeof SeveralSchema>>;

/** An edit that names a part, track or note that the song does not have. */
export class EditError extends Error {
  readonly code = 'edit';
}

/** The song after an edit, and the edit that takes it back. */
export interface Applied<E extends Edit = Edit> {
  readonly song: Song;
  readonly inverse: E;
}

/**
 * Applies an edit to a song.
 * @throws EditError where the edit does not fit the song; the song is not changed then
 */
export function apply(song: Song, edit: Edit): Applied {
  if (edit.kind !== 'several') return applySimple(song, edit);
  const inverses: SimpleEdit[] = [];
  let current = song;
  for (const one of edit.edits) {
    const done = applySimple(current, one);
    current = done.song;
    inverses.unshift(done.inverse);
  }
  return { song: current, inverse: { ...edit, edits: inverses } };
}

function applySimple(song: Song, edit: SimpleEdit): Applied<SimpleEdit> {
  switch (edit.kind) {
    case 'treatment':
      return onPart(song, edit.part, (part) => ({
        part: { ...part, treatment: edit.treatment },
        inverse: { ...edit, treatment: part.treatment },
      }));
    case 'part-on':
      return onPart(song, edit.part, (part) => ({
        part: { ...part, on: edit.on },
        inverse: { ...edit, on: part.on },
      }));
    case 'sets':
      return onPart(song, edit.part, (part) => ({
        part: { ...part, sets: edit.sets },
        inverse: { ...edit, sets: part.sets },
      }));
    case 'notes':
      return applyNotes(song, edit);
    case 'events':
      return onTrack(song, edit.track, (track) => {
        if (edit.at.length !== edit.to.length || edit.at.some((i) => i >= track.events.length)) {
          throw new EditError('The edit replaces events that the track does not have.');
        }
        const events = [...track.events];
        edit.at.forEach((i, k) => (events[i] = edit.to[k]));
        return { track: { ...track, events }, inverse: { ...edit, to: edit.at.map((i) => track.events[i]) } };
      });
    case 'song-name':
      return { song: { ...song, name: edit.to }, inverse: { ...edit, to: song.name } };
    case 'track-name':
      return onTrack(song, edit.track, (track) => ({
        track: renameTrack(track, edit.to),
        inverse: { ...edit, to: track.name },
      }));
    case 'mix':
      return onTrack(song, edit.track, (track) => ({
        track: { ...track, mute: edit.mute, solo: edit.solo, level: edit.level },
        inverse: { ...edit, mute: track.mute, solo: track.solo, level: track.level },
      }));
  }
}

function applyNotes(song: Song, edit: Extract<SimpleEdit, { kind: 'notes' }>): Applied<SimpleEdit> {
  const remove = new Set(edit.remove);
  const done = onPart(song, edit.part, (part) => {
    const removed = part.notes.filter((n) => remove.has(n.id));
    if (removed.length !== remove.size) throw new EditError('The edit takes out notes that the part does not have.');
    const kept = part.notes.filter((n) => !remove.has(n.id));
    const notes = merged(kept, [...edit.add].sort(byPlace));
    const inverse = { ...edit, remove: edit.add.map((n) => n.id), add: removed };
    return { part: { ...part, notes }, inverse };
  });
  const highest = edit.add.reduce((max, n) => Math.max(max, n.id + 1), song.nextId);
  return { ...done, song: { ...done.song, nextId: highest } };
}

/** Two sorted lists as one: sorting all of a long part for each step of a drag would be slow. */
function merged(a: readonly Note[], b: readonly Note[]): Note[] {
  const all: Note[] = [];
  let j = 0;
  for (const note of a) {
    while (j < b.length && byPlace(b[j], note) < 0) all.push(b[j++]);
    all.push(note);
  }
  while (j < b.length) all.push(b[j++]);
  return all;
}

function onPart(
  song: Song,
  id: string,
  change: (part: Part) => { part: Part; inverse: SimpleEdit },
): Applied<SimpleEdit> {
  const found = song.tracks.flatMap((t) => t.parts).find((p) => p.id === id);
  if (!found) throw new EditError(`The song has no part ${id}.`);
  const { part, inverse } = change(found);
  return { song: withPart(song, id, () => part), inverse };
}

function onTrack(
  song: Song,
  id: string,
  change: (track: Track) => { track: Track; inverse: SimpleEdit },
): Applied<SimpleEdit> {
  const found = song.tracks.find((t) => t.id === id);
  if (!found) throw new EditError(`The song has no track ${id}.`);
  const { track, inverse } = change(found);
  return { song: { ...song, tracks: song.tracks.map((t) => (t.id === id ? track : t)) }, inverse };
}

/** An edit that replaces some notes of a part by changed ones with the same ids. */
export function changeNotes(name: string, part: Part, changed: readonly Note[]): SimpleEdit {
  return { kind: 'notes', name, part: part.id, remove: changed.map((n) => n.id), add: changed };
}
