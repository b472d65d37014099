import { DEFAULT_TREATMENT, type Note, type Part, type Song, type Treatment } from '@early-sparrow/core/song';

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
  const sorted = [...notes].sort((a, b) => a.start - b.start || a.pitch - b.pitch || a.id - b.id);
  const part: Part = {
    id: 'p',
    name: 'Part',
    start: 0,
    on: true,
    treatment: treatment(stages),
    sets: [],
    notes: sorted,
  };
  return {
    version: 1,
    name: 'Test',
    ppq: 960,
    ppqFactor: 1,
    format: 1,
    tempo: [],
    meter: [],
    tracks: [
      { id: 't', name: 'Track', source: 0, parts: [part], events: [], end: 0, mute: false, solo: false, level: 0.8 },
    ],
    chunks: [],
    nextId: sorted.length,
    ...more,
  };
}

export function part(s: Song): Part {
  return s.tracks[0].parts[0];
}

/** The same song under another treatment. */
export function treated(s: Song, stages: Stages): Song {
  return { ...s, tracks: [{ ...s.tracks[0], parts: [{ ...part(s), treatment: treatment(stages) }] }] };
}
