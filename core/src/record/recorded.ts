import { Building, changePart, type Edit, type EditProblem } from '../edit';
import {
  cleared,
  contentsOf,
  newPart,
  newTrack,
  overdubbed,
  type Content,
  type Note,
  type Part,
  type Song,
  type Stretch,
  type TakeRound,
  type Track,
  type Treatment,
} from '../song';
import type { Ticks } from '../time';
import type { PlayedNote, Round } from './collect';

/** Where a recording goes. */
export interface Recording {
  /** One that is not in the song yet is added to it. */
  readonly track: Track;
  /** A part that it goes into; null for a part of its own. */
  readonly into: Part | null;
  /** What was there in these stretches goes; none: it is added to. */
  readonly replace: readonly Stretch[];
  /** The treatment that a part of its own begins with. */
  readonly treatment: Treatment | null;
  /** Of the step, as people read it. */
  readonly name: string;
  /** Bar lines around what was played: a new part is whole bars. */
  readonly from: Ticks;
  readonly to: Ticks;
}

/** A step that brings a recording into a song, and where it is then. */
export interface Recorded {
  readonly edit: Edit;
  readonly track: string;
  readonly part: string;
  readonly notes: readonly number[];
}

/**
 * The step that puts what was played into a song: one, whatever was recorded. Several rounds become takes of a new part,
 * of which the last is chosen. Null where nothing was played; a problem where it finds no room.
 */
export function recordedEdit(song: Song, rounds: readonly Round[], to: Recording): Recorded | EditProblem | null {
  const played = rounds.filter((r) => r.notes.length + r.events.length > 0);
  if (played.length === 0) return null;
  const building = new Building(song);
  return to.into ? into(building, to.into, played, to) : anew(building, song, played, to);
}

const withIds = (building: Building, notes: readonly PlayedNote[]): Note[] =>
  notes.map((n) => ({ ...n, id: building.id() }));

/** Rounds over a part that is there are played into it together. */
function into(building: Building, part: Part, rounds: readonly Round[], to: Recording): Recorded | EditProblem | null {
  const notes = rounds.flatMap((r) => withIds(building, r.notes));
  const events = rounds.flatMap((r) => r.events);
  const content = to.replace.reduce<Content>(cleared, part);
  changePart(building, part.id, overdubbed(content, notes, events), to.name);
  return recorded(building, to, part.id, notes);
}

function anew(building: Building, song: Song, rounds: readonly Round[], to: Recording): Recorded | EditProblem | null {
  // Where no key was struck there is nothing to choose: a pedal that was held over makes no take.
  const struck = rounds.filter((r) => r.notes.length > 0);
  if (struck.length === 0) return null;
  const isNew = !song.tracks.some((t) => t.id === to.track.id);
  const track = isNew ? { ...to.track, id: `t${building.id()}` } : to.track;
  const takes = struck.map((r, k) => ({
    id: `take${building.id()}`,
    name: `Take ${k + 1}`,
    notes: withIds(building, r.notes),
    events: r.events,
  }));
  const chosen = takes[takes.length - 1];
  const { notes, events } = chosen;
  const base = newPart(`p${building.id()}`, track.name, to.from, to.to, {
    notes,
    events,
    ...(to.treatment ? { treatment: to.treatment } : {}),
    ...(takes.length > 1 ? { takes: takesOf(takes, chosen) } : {}),
  });
  const part = { ...base, start: Math.min(to.from, firstStart(base)) };
  if (isNew) {
    const at = song.tracks.length;
    building.add({ kind: 'tracks', name: to.name, remove: [], add: [{ at, track: { ...track, parts: [part] } }] });
  } else building.add({ kind: 'parts', name: to.name, track: track.id, remove: [], add: [part] });
  return recorded(building, { ...to, track }, part.id, notes);
}

function recorded(
  building: Building,
  { name, track }: Pick<Recording, 'name' | 'track'>,
  part: string,
  notes: readonly Note[],
): Recorded | EditProblem | null {
  const edit = building.done(name);
  if (!edit || 'problem' in edit) return edit;
  return { edit, track: track.id, part, notes: notes.map((n) => n.id) };
}

/** Where the first note of any of a part's takes begins. */
function firstStart(part: Part): Ticks {
  return contentsOf(part).reduce((least, { notes }) => Math.min(least, notes.at(0)?.start ?? least), Infinity);
}

/** A track for what is recorded, which sounds like another; it comes into the song with its first part. */
export function trackLike(song: Song, name: string, like: Track | null): Track {
  if (!like) return newTrack(`t${song.nextId}`, name);
  const { voice, channel } = like;
  const event = like.setup.find((e) => e.type === 'program');
  const program = like.program ?? (event?.type === 'program' ? event.program : null);
  return newTrack(`t${song.nextId}`, name, { voice, channel, program });
}

function takesOf(rounds: readonly TakeRound[], chosen: TakeRound): Part['takes'] {
  return { chosen: { id: chosen.id, name: chosen.name }, others: rounds.filter((r) => r !== chosen) };
}
