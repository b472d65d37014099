import { byPlace } from './look';
import { fromVersion1 } from './version-1';
import { SONG_VERSION, SongSchema, type Part, type Song } from './song';

/** A stored song that cannot be read. */
export class SongFormatError extends Error {
  readonly code = 'song-format';
  constructor(
    /** Where in the song the first fault lies, such as `tracks.0.parts.0.notes.3.start`. */
    readonly path: string,
    reason: string,
  ) {
    super(`Not a readable song${path ? ` (at ${path})` : ''}: ${reason}`);
  }
}

/**
 * Checks a value that comes from storage or a file; songs of version 1 are brought to this one.
 * @throws SongFormatError naming the first fault
 */
export function readSong(value: unknown): Song {
  const version = (value as { version?: unknown } | null)?.version;
  if (typeof version === 'number' && version > SONG_VERSION) {
    throw new SongFormatError('version', `version ${version} is newer than this program`);
  }
  const result = SongSchema.safeParse(version === 1 ? migrated(value) : value);
  if (!result.success) {
    const [issue] = result.error.issues;
    throw new SongFormatError(issue.path.join('.'), issue.message);
  }
  const fault = songFault(result.data);
  if (fault) throw new SongFormatError(fault.path, fault.reason);
  return result.data;
}

function migrated(value: unknown): unknown {
  try {
    return fromVersion1(value);
  } catch {
    throw new SongFormatError('', 'a song of version 1 lacks something');
  }
}

interface Fault {
  readonly path: string;
  readonly reason: string;
}

/** What is wrong in how a song's things stand to each other; null where nothing is. */
export function songFault(song: Song): Fault | null {
  const ids = new Set<string>();
  const noteIds = new IdSet(song.nextId);
  for (const [t, track] of song.tracks.entries()) {
    const path = `tracks.${t}`;
    if (ids.has(track.id)) return { path: `${path}.id`, reason: `the id ${track.id} is there twice` };
    ids.add(track.id);
    let end = 0;
    for (const [p, part] of track.parts.entries()) {
      const at = `${path}.parts.${p}`;
      if (ids.has(part.id)) return { path: `${at}.id`, reason: `the id ${part.id} is there twice` };
      ids.add(part.id);
      if (part.start < end) return { path: `${at}.start`, reason: 'parts of a track overlap' };
      if (part.end <= part.start) return { path: `${at}.end`, reason: 'a part ends before it starts' };
      end = part.end;
      const fault = notesFault(part, noteIds);
      if (fault) return { path: `${at}.${fault.path}`, reason: fault.reason };
      const late = part.events.findIndex((e, i) => i > 0 && e.tick < part.events[i - 1].tick);
      for (const round of part.takes?.others ?? []) {
        const wrong = notesFault({ ...part, notes: round.notes }, noteIds);
        if (wrong) return { path: `${at}.takes.${round.id}.${wrong.path}`, reason: wrong.reason };
      }
      if (late > 0) return { path: `${at}.events.${late}`, reason: 'events are not in order of time' };
    }
  }
  return noteIds.beyond ? { path: 'nextId', reason: 'the next id is in use' } : null;
}

/** Ids that were seen: those below the next free one are marked in a row, which is what takes least time and room. */
class IdSet {
  private readonly marks: Uint8Array;
  /** Whether one was seen that should be free. */
  beyond = false;

  constructor(private readonly nextId: number) {
    this.marks = new Uint8Array(Math.min(nextId, MOST_IDS));
  }

  /** Adds an id; false where it was there. */
  add(id: number): boolean {
    if (id >= this.nextId) this.beyond = true;
    if (this.marks[id] === 1) return false;
    this.marks[id] = 1;
    return true;
  }
}
/** No song has given away more ids than this. */
const MOST_IDS = 50_000_000;

function notesFault({ notes }: Part, seen: IdSet): Fault | null {
  for (let i = 0; i < notes.length; i++) {
    const { id } = notes[i];
    if (i > 0 && byPlace(notes[i - 1], notes[i]) > 0) {
      return { path: `notes.${i}`, reason: 'notes are not in order of time' };
    }
    if (!seen.add(id)) return { path: `notes.${i}.id`, reason: `the note ${id} is there twice` };
  }
  return null;
}
