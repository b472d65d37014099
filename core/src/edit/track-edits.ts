import {
  contentsOf,
  findTrack,
  longerTitle,
  withContents,
  type Content,
  type Note,
  type OwnSet,
  type Part,
  type PartEvent,
  type Song,
  type Track,
} from '../song';
import { asPlayed } from './as-played';
import { Building } from './building';
import type { Edit } from './edit';
import { problem, type EditProblem } from './kind';

const GONE = 'The song has no such track any more.';

/** The edit that takes tracks out of the song, with all that is in them; null for none. */
export function removeTracks(song: Song, ids: readonly string[]): Edit | null {
  const tracks = song.tracks.filter((t) => ids.includes(t.id));
  if (tracks.length === 0) return null;
  const what = tracks.length === 1 ? tracks[0].name : `${tracks.length} tracks`;
  return { kind: 'tracks', name: `Delete ${what}`, remove: tracks.map((t) => t.id), add: [] };
}

/** The edit that puts a track a place further up or down among those that are listed; null at the ends. */
export function moveTrack(song: Song, listed: readonly string[], id: string, by: -1 | 1): Edit | null {
  const at = listed.indexOf(id);
  const neighbour = listed[at + by] as string | undefined;
  if (at < 0 || neighbour === undefined) return null;
  const order = listed.map((other) => (other === id ? neighbour : other === neighbour ? id : other));
  const edit = orderTracks(song, order, id);
  return edit && { ...edit, name: `${edit.name} ${by < 0 ? 'up' : 'down'}` };
}

/**
 * The edit that puts listed tracks into another order; those that are not listed keep their places.
 * @param listed all ids of the list, in its new order @param moved the one that was moved, for the step's name
 */
export function orderTracks(song: Song, listed: readonly string[], moved: string): Edit | null {
  const track = findTrack(song, moved);
  const places = new Set(listed);
  let next = 0;
  const ids = song.tracks.map((t) => (places.has(t.id) ? listed[next++] : t.id));
  if (!track || ids.every((id, i) => id === song.tracks[i].id)) return null;
  return { kind: 'track-order', name: `Move ${track.name}`, ids };
}

/** The edit that puts a copy of a track behind it, with its parts, takes and treatments. */
export function duplicateTrack(song: Song, id: string): Edit | EditProblem {
  const track = findTrack(song, id);
  if (!track) return problem(GONE);
  const building = new Building(song);
  const { origin: _origin, ...rest } = track;
  const copy: Track = {
    ...rest,
    id: `t${building.id()}`,
    name: longerTitle(track.name, ' copy'),
    parts: track.parts.map((part) => freshPart(building, part)),
  };
  const at = song.tracks.indexOf(track) + 1;
  return { kind: 'tracks', name: `Duplicate ${track.name}`, remove: [], add: [{ at, track: copy }] };
}

/** A part with ids of its own for itself, its takes and all notes. */
export function freshPart(building: Building, part: Part): Part {
  const { origin: _origin, ...rest } = part;
  const copy = withContents({ ...rest, id: `p${building.id()}` }, ({ notes, events }) => ({
    notes: notes.map((note) => ({ ...note, id: building.id() })),
    events,
  }));
  return { ...copy, ...newRounds(building, copy) };
}

function newRounds(building: Building, { takes }: Part): Pick<Part, 'takes'> {
  if (!takes) return {};
  return {
    takes: {
      chosen: { ...takes.chosen, id: `r${building.id()}` },
      others: takes.others.map((round) => ({ ...round, id: `r${building.id()}` })),
    },
  };
}

/** How a track is taken apart: by the channel of its notes, or by their key. */
export interface Splitting {
  readonly by: 'channel' | 'key';
  /** What a new track is called, after the old one's name. */
  readonly nameOf: (value: number) => string;
}

/**
 * The edit that takes a track apart into several, each with the parts and treatments of the old one. Pedals, bends and
 * controllers go with their channel; where keys are split they stay with the first.
 */
export function splitTrack(song: Song, id: string, { by, nameOf }: Splitting): Edit | EditProblem {
  const track = findTrack(song, id);
  if (!track) return problem(GONE);
  if (track.parts.some((p) => p.audio)) {
    return problem(
      `“${track.name}” plays a sound file, which cannot be split. Delete its hits, or mute them, instead.`,
    );
  }
  const valueOf = (note: Note) => (by === 'channel' ? note.channel : note.pitch);
  const values = [...new Set(track.parts.flatMap((p) => contentsOf(p).flatMap((c) => c.notes.map(valueOf))))];
  values.sort((a, b) => a - b);
  if (values.length < 2) {
    return problem(`All notes of “${track.name}” are on one ${by}, so there is nothing to split.`);
  }
  const building = new Building(song);
  const at = song.tracks.indexOf(track);
  const add = values.map((value, k) => {
    // What no note is on goes with the first: nothing is lost.
    const takesEvent = ({ channel }: Pick<PartEvent, 'channel'>) =>
      by === 'key' ? k === 0 : channel === value || (k === 0 && !values.includes(channel));
    const parts = track.parts.flatMap((part): Part[] => {
      const own = withContents(part, ({ notes, events }) => ({
        notes: notes.filter((n) => valueOf(n) === value),
        events: events.filter(takesEvent),
      }));
      if (contentsOf(own).every(isEmpty)) return [];
      const { origin: _origin, ...rest } = own;
      return [{ ...rest, id: `p${building.id()}`, ...newRounds(building, own) }];
    });
    const setup = track.setup.filter((e) => ('channel' in e && by === 'channel' ? takesEvent(e) : k === 0));
    const { origin: _origin, ...rest } = track;
    const name = `${track.name} ${nameOf(value)}`.slice(0, 200);
    return { at: at + k, track: { ...rest, id: `t${building.id()}`, name, parts, setup } };
  });
  return { kind: 'tracks', name: `Split ${track.name} by ${by}`, remove: [id], add };
}

function isEmpty({ notes, events }: Content): boolean {
  return notes.length + events.length === 0;
}

/**
 * The edit that puts tracks together into the first of them. Parts that overlap become one: the first one's treatment
 * holds, and notes of others that had another keep theirs as own settings.
 */
export function mergeTracks(song: Song, ids: readonly string[]): Edit | EditProblem {
  const tracks = song.tracks.filter((t) => ids.includes(t.id));
  const [first, ...others] = tracks;
  if (others.length === 0) return problem('Choose two or more tracks to merge: Shift-click them in the list.');
  const parts = tracks.flatMap((t) => t.parts).sort((a, b) => a.start - b.start);
  const held = parts.find((p) => p.audio ?? p.takes ?? p.versions);
  if (held && overlaps(parts)) {
    const why = held.audio ? 'plays a sound file' : held.takes ? 'holds takes' : 'has versions of its treatment';
    return problem(`“${held.name}” ${why}, so it cannot become one part with others. Keep one of them alone first.`);
  }
  const building = new Building(song);
  const merged: Part[] = [];
  for (const part of parts) {
    const last = merged.at(-1);
    if (last && part.start < last.end) {
      if (last.muted !== part.muted)
        return problem('One of two parts that overlap is muted. Unmute it, or mute both, first.');
      merged[merged.length - 1] = together(building, last, part);
    } else merged.push(part);
  }
  const track: Track = {
    ...first,
    parts: merged,
    setup: tracks.flatMap((t) => t.setup).sort((a, b) => a.tick - b.tick),
  };
  const name = `Merge ${tracks.length} tracks into ${first.name}`;
  const rest = song.tracks.filter((t) => !others.includes(t));
  return {
    kind: 'tracks',
    name,
    remove: tracks.map((t) => t.id),
    add: [{ at: rest.indexOf(first), track }],
  };
}

function overlaps(parts: readonly Part[]): boolean {
  let end = -Infinity;
  for (const part of parts) {
    if (part.start < end) return true;
    end = Math.max(end, part.end);
  }
  return false;
}

/** Two parts that overlap as one. */
function together(building: Building, left: Part, right: Part): Part {
  const on = left.on || right.on;
  const sets = [...left.sets];
  const notes = adopted(building, right, left, sets);
  const played = (part: Part, list: readonly Note[]) => (on && !part.on ? asPlayed(list) : list);
  const all = [...played(left, left.notes), ...played(right, notes)];
  return {
    ...left,
    start: Math.min(left.start, right.start),
    end: Math.max(left.end, right.end),
    on,
    sets,
    notes: all.sort((a, b) => a.start - b.start || a.pitch - b.pitch),
    events: [...left.events, ...right.events].sort((a, b) => a.tick - b.tick),
  };
}

/** The notes of a part with the settings that they had in it, which come to `sets`. */
function adopted(building: Building, part: Part, into: Part, sets: OwnSet[]): Note[] {
  const names = new Map<string, string>();
  for (const own of part.sets) {
    const id = `own${building.id()}`;
    names.set(own.id, id);
    sets.push({ ...own, id });
  }
  const alike = !part.on || JSON.stringify(part.treatment) === JSON.stringify(into.treatment);
  const theirs = alike ? null : `own${building.id()}`;
  if (theirs) sets.push({ id: theirs, name: part.name || 'own settings', treatment: part.treatment });
  return part.notes.map((note): Note => {
    const { exception } = note;
    if (!exception) return theirs ? { ...note, exception: { kind: 'own', set: theirs } } : note;
    return exception.kind === 'own'
      ? { ...note, exception: { kind: 'own', set: names.get(exception.set) ?? '' } }
      : note;
  });
}
