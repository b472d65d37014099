import { Building, eventsEdit, isProblem, type Edit, type EditProblem } from '../edit';
import { counted, findTrack, meterOf, newPart, type Note, type Part, type Song, type Track } from '../song';
import type { Ticks } from '../time';
import { problem } from './problem';
import { copied, riddenBy, type Ridden } from './ride';
import type { Taken } from './taken';

/** A note that is to be added. Ticks. */
export interface NewNote {
  readonly start: Ticks;
  readonly length: Ticks;
  readonly pitch: number;
  readonly velocity: number;
  readonly channel: number;
  readonly release?: number | null;
  readonly muted?: true;
  /** Bend, pressure and controller 74 that are its own. */
  readonly ridden?: readonly Ridden[];
  /** The line that it was early for: it goes into the part that holds that. */
  readonly line?: Ticks;
}

/** A step that adds notes, and where they are then. */
export interface Added {
  readonly edit: Edit;
  readonly ids: readonly number[];
  /** The part of the first of them. */
  readonly part: string;
}

/** So many notes are added at most at one go. */
export const MOST_NOTES = 100_000;

/**
 * Adds notes to a track, each to the part that it falls into, or that its line falls into. Between parts the one before
 * grows to the end of its bar, before the first part that one grows, and a track without parts gets its first.
 */
export function addNotes(
  song: Song,
  trackId: string,
  notes: readonly NewNote[],
  name = `Draw ${counted(notes.length, 'note')}`,
): Added | EditProblem | null {
  if (notes.length === 0) return null;
  if (notes.length > MOST_NOTES) {
    return problem(`That is ${notes.length.toLocaleString('en')} notes; at most 100,000 can be added at once.`);
  }
  const track = findTrack(song, trackId);
  if (!track) return problem('The track is gone.');
  const building = new Building(song);
  const homes = new Homes(building, track);
  const inside = new Map<Home, Note[]>();
  const ids: number[] = [];
  let first: Home | null = null;
  for (const note of notes) {
    const home = homes.of(Math.max(0, Math.round(note.line ?? note.start)));
    first ??= home;
    const id = building.id();
    ids.push(id);
    const list = inside.get(home);
    if (list) list.push(noteOf(note, id));
    else inside.set(home, [noteOf(note, id)]);
  }
  homes.settle(name);
  for (const [{ id }, list] of inside) building.add({ kind: 'notes', name, part: id, remove: [], add: list });
  addRidden(building, notes, ids, name);
  const edit = building.done(name);
  if (edit === null || first === null) return null;
  return isProblem(edit) ? edit : { edit, ids, part: first.id };
}

/** Adds what belongs to copied notes to the parts that they have come into. */
function addRidden(building: Building, notes: readonly NewNote[], ids: readonly number[], name: string): void {
  const own = new Map(notes.flatMap((n, i) => (n.ridden ? [[ids[i], n] as const] : [])));
  if (own.size === 0) return;
  for (const part of building.song.tracks.flatMap((t) => t.parts)) {
    const fresh = part.notes.flatMap((n) => own.get(n.id)?.ridden?.map((r) => copied(r, n.start)) ?? []);
    if (fresh.length === 0) continue;
    const edit = eventsEdit(
      name,
      part,
      [...part.events, ...fresh].sort((a, b) => a.tick - b.tick),
    );
    if (edit) building.add(edit);
  }
}

function noteOf({ start, length, pitch, velocity, channel, release = null, muted }: NewNote, id: number): Note {
  return {
    id,
    start: Math.max(0, Math.round(start)),
    length: Math.max(1, Math.round(length)),
    pitch: Math.min(127, Math.max(0, Math.round(pitch))),
    velocity: Math.min(127, Math.max(1, Math.round(velocity))),
    channel,
    release,
    ...(muted ? { muted } : {}),
  };
}

/** A part with the span that it has to have. */
interface Home {
  readonly id: string;
  start: Ticks;
  end: Ticks;
  /** The part as it is; null for one that comes about. */
  readonly part: Part | null;
}

/** The parts of a track that notes come into, which grow or come about where they have to. */
class Homes {
  private readonly all: Home[];

  constructor(
    private readonly building: Building,
    private readonly track: Track,
  ) {
    this.all = track.parts.map((part) => ({ id: part.id, start: part.start, end: part.end, part }));
  }

  of(tick: Ticks): Home {
    const inside = this.all.find((p) => p.start <= tick && tick < p.end);
    if (inside) return inside;
    const bar = meterOf(this.building.song).wholeBar(tick);
    const before = this.all.filter((p) => p.end <= tick).at(-1);
    const after = this.all.find((p) => p.start > tick);
    const end = Math.min(bar.end, after?.start ?? Infinity);
    if (before) {
      before.end = end;
      return before;
    }
    if (after) {
      after.start = bar.start;
      return after;
    }
    const home: Home = { id: `p${this.building.id()}`, start: bar.start, end, part: null };
    this.all.push(home);
    return home;
  }

  /** Adds what gives the parts their spans. */
  settle(name: string): void {
    for (const { id, start, end, part } of this.all) {
      if (!part) {
        const fresh = newPart(id, this.track.name, start, end);
        this.building.add({ kind: 'parts', name, track: this.track.id, remove: [], add: [fresh] });
      } else if (start < part.start || end > part.end) {
        this.building.add({ kind: 'part-span', name, part: id, start, end });
      }
    }
  }
}

/**
 * Notes as they lie, moved in time: what a copy adds.
 * @param track theirs, from which bend and pressure that belong to single notes come along
 */
export function copiesOf(
  track: Pick<Track, 'setup'>,
  taken: readonly Taken[],
  by: Ticks,
  pitchOf: (pitch: number) => number = (p) => p,
): NewNote[] {
  const ridden = new Map([...new Set(taken.map((t) => t.part))].map((part) => [part, riddenBy(track, part)]));
  return taken.map(({ part, note, start, length, velocity }) => {
    const own = ridden.get(part)?.get(note.id);
    return {
      start: start + by,
      length,
      pitch: pitchOf(note.pitch),
      velocity,
      channel: note.channel,
      release: note.release,
      ...(note.muted ? { muted: true as const } : {}),
      ...(own ? { ridden: own } : {}),
    };
  });
}
