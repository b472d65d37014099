import { applyEdit, isProblem, readEdit, type Applied, type Edit } from '@early-sparrow/core/edit';
import {
  byPlace,
  DEFAULT_TREATMENT,
  newPart,
  newSong,
  newTrack,
  type Note,
  type Part,
  type Song,
  type Treatment,
} from '@early-sparrow/core/song';

/** A note with the usual values; times in ticks at 960 PPQ. */
export function note(id: number, start: number, more: Partial<Note> = {}): Note {
  return { id, start, length: 200, pitch: 60, velocity: 80, channel: 0, release: 64, ...more };
}

export type Stages = { readonly [S in keyof Treatment]?: Partial<Treatment[S]> };

/** The default treatment with some stages changed. */
export function treatment(stages: Stages): Treatment {
  return Object.fromEntries(
    Object.entries(DEFAULT_TREATMENT).map(([name, values]) => [
      name,
      { ...values, ...stages[name as keyof Treatment] },
    ]),
  ) as unknown as Treatment;
}

/** A song of one track with one part; 120 BPM and 4/4 unless said otherwise. */
export function song(notes: readonly Note[], stages: Stages = {}, more: Partial<Song> = {}): Song {
  const sorted = [...notes].sort(byPlace);
  const end = sorted.reduce((last, n) => Math.max(last, n.start + n.length), 3840);
  const part = newPart('p', 'Part', 0, end, { treatment: treatment(stages), notes: sorted, origin: { source: 0 } });
  const track = newTrack('t', 'Track', { parts: [part], origin: { source: 0, name: 'Track', end: 0 } });
  const origin = { format: 1, chunks: [] } as const;
  const nextId = sorted.reduce((next, n) => Math.max(next, n.id + 1), 0);
  return { ...newSong('Test'), tracks: [track], nextId, origin, ...more };
}

/** The same song with other events in its first part. */
export function withEvents(s: Song, events: Part['events']): Song {
  return { ...s, tracks: [{ ...s.tracks[0], parts: [{ ...part(s), events }] }, ...s.tracks.slice(1)] };
}

export function part(s: Song): Part {
  return s.tracks[0].parts[0];
}

/** The same song under another treatment. */
export function treated(s: Song, stages: Stages): Song {
  return { ...s, tracks: [{ ...s.tracks[0], parts: [{ ...part(s), treatment: treatment(stages) }] }] };
}

/** A song after an edit that must fit. */
export function applied(s: Song, edit: Edit): Applied {
  const read = readEdit(edit);
  const done = isProblem(read) ? read : applyEdit(s, read);
  if (isProblem(done)) throw new Error(done.problem);
  return done;
}
