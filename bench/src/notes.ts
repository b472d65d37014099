import { parseGrid, type SongTime } from '@early-sparrow/core/grid';
import { hash3 } from '@early-sparrow/core/maths';
import { MeterMap, TempoMap } from '@early-sparrow/core/time';
import { DEFAULT_TREATMENT, type Treatment } from '@early-sparrow/core/song';
import { emptyColumns, type NoteColumns } from '@early-sparrow/core/treatment';

export const TIME: SongTime = { tempo: new TempoMap(960, []), meter: new MeterMap(960, []) };

/** A long take: sixteenths with jitter, chords here and there, over four octaves. */
export function makeNotes(count: number): NoteColumns {
  const notes = emptyColumns(count);
  let line = 0;
  for (let i = 0; i < count; i++) {
    const inChord = hash3(1, i, 1) % 5 === 0 && i > 0;
    if (!inChord) line += 240;
    notes.id[i] = i;
    notes.start[i] = line + Math.round((hash3(1, i, 2) / 2 ** 32 - 0.5) * 60 + 40);
    notes.end[i] = notes.start[i] + 100 + (hash3(1, i, 3) % 100);
    notes.pitch[i] = 40 + (hash3(1, i, 4) % 48);
    notes.velocity[i] = 40 + (hash3(1, i, 5) % 80);
  }
  return sorted(notes);
}

function sorted(notes: NoteColumns): NoteColumns {
  const order = Array.from({ length: notes.count }, (_, i) => i).sort(
    (a, b) => notes.start[a] - notes.start[b] || notes.pitch[a] - notes.pitch[b],
  );
  const copy = emptyColumns(notes.count);
  order.forEach((from, to) => {
    copy.id[to] = notes.id[from];
    copy.start[to] = notes.start[from];
    copy.end[to] = notes.end[from];
    copy.pitch[to] = notes.pitch[from];
    copy.velocity[to] = notes.velocity[from];
    copy.voice[to] = notes.pitch[from];
  });
  return copy;
}

const t = DEFAULT_TREATMENT;

/** Quantize with its limits and lengths to lines, without humanize. */
export const WITHOUT_HUMANIZE: Treatment = {
  ...t,
  quantize: { ...t.quantize, on: true, strength: 0.8, grid: parseGrid('1/16'), tolerance: { value: 4, unit: 'ms' } },
};

/** Every stage on. */
export const ALL_STAGES: Treatment = {
  ...WITHOUT_HUMANIZE,
  lag: { on: true, amount: { value: 20, unit: 'ms' } },
  lengths: { ...t.lengths, on: true, mode: 'line', strength: 0.5 },
  push: { on: true, amount: { value: 4, unit: 'ticks' } },
  velocity: { ...t.velocity, on: true, scale: 0.8 },
  humanize: { ...t.humanize, on: true, start: 5, length: 5, velocity: 5 },
};

/** What a naive program would do: one object a note, new objects at each stage. */
export interface NoteObject {
  id: number;
  start: number;
  end: number;
  pitch: number;
  velocity: number;
}

export function toObjects(notes: NoteColumns): NoteObject[] {
  return Array.from({ length: notes.count }, (_, i) => ({
    id: notes.id[i],
    start: notes.start[i],
    end: notes.end[i],
    pitch: notes.pitch[i],
    velocity: notes.velocity[i],
  }));
}
