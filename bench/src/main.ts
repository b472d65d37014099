import { measure } from 'mitata';
import { gridLines, parseGrid } from '@early-sparrow/core/grid';
import { suggestGrids } from '@early-sparrow/core/insight';
import { hash3 } from '@early-sparrow/core/maths';
import type { Treatment } from '@early-sparrow/core/song';
import { followLines, settle, Treater, type NoteColumns } from '@early-sparrow/core/treatment';
import { ALL_STAGES, makeNotes, TIME, toObjects, WITHOUT_HUMANIZE, type NoteObject } from './notes';

// Prints ratios to a baseline of the same run; the times themselves depend on the machine.

async function time(run: () => unknown): Promise<number> {
  const { p50 } = await measure(run, { min_cpu_time: 4e8 });
  return p50 / 1e6;
}

const RULES = { drops: () => false, silent: null };

function whole(treater: Treater, notes: NoteColumns, treatment: Treatment): number {
  const staged = treater.stages(treatment);
  settle(notes, staged, staged.velocity, RULES);
  return staged.start[0];
}

const row = (name: string, ms: number, base: number, most: number | null) => {
  const limit = most === null ? '' : `  (at most ${most})`;
  console.log(`${name.padEnd(52)} ${ms.toFixed(2).padStart(9)} ms  ${(ms / base).toFixed(2).padStart(7)} ×${limit}`);
};

const wholeTimes: number[] = [];
for (const count of [1e4, 1e5, 1e6]) {
  const notes = makeNotes(count);
  const out = new Float64Array(count);
  const baseline = await time(() => {
    for (let i = 0; i < count; i++) out[i] = Math.round(notes.start[i] / 240) * 240;
    return out[0];
  });
  console.log(`\n${count.toLocaleString('en')} notes`);
  row('baseline: round each start', baseline, baseline, null);
  const plain = await time(() => whole(new Treater(notes, TIME), notes, WITHOUT_HUMANIZE));
  wholeTimes.push(plain);
  row('whole treatment without humanize', plain, baseline, 15);
  row('all stages', await time(() => whole(new Treater(notes, TIME), notes, ALL_STAGES)), baseline, 40);
  const warm = new Treater(notes, TIME);
  let k = 0;
  const strength = () => ({
    ...WITHOUT_HUMANIZE,
    quantize: { ...WITHOUT_HUMANIZE.quantize, strength: (k++ % 90) / 100 },
  });
  row('strength changes', await time(() => whole(warm, notes, strength())), baseline, 10);
  const loose = new Treater(notes, TIME);
  const amount = () => ({
    ...WITHOUT_HUMANIZE,
    humanize: { ...ALL_STAGES.humanize, length: 0, velocity: 0, start: 1 + (k++ % 9) },
  });
  row('humanize amount changes', await time(() => whole(loose, notes, amount())), baseline, 10);
  if (count === 1e5) {
    const objects = toObjects(notes);
    row('the same quantize on an array of objects', await time(() => objectsTreatment(objects)), baseline, null);
  }
  if (count === 1e6) memory(notes);
}
console.log(`10⁶ notes take ${(wholeTimes[2] / wholeTimes[1]).toFixed(1)} times as long as 10⁵  (at most 11)`);

const numbers = new Float64Array(1e7).fill(1.000001);
const loop = await time(() => {
  let sum = 0;
  for (let i = 0, n = numbers.length; i < n; i++) sum = sum * 0.5 + numbers[i];
  return sum;
});
console.log('');
row('baseline: 10⁷ multiply–adds', loop, loop, null);
const wandering = Float64Array.from(
  { length: 1000 },
  (_, i) => i * 240 + 60 * Math.sin(i / 60) + (hash3(2, i, 1) / 2 ** 32 - 0.5) * 80 + 960,
);
const grid = parseGrid('1/16');
row(
  'follow with its fit, 1,000 chords',
  await time(() => followLines(wandering, gridLines(grid, TIME), TIME, grid)),
  loop,
  2,
);
const many = Float64Array.from({ length: 25_000 }, (_, i) => i * 240 + (hash3(3, i, 1) / 2 ** 32 - 0.5) * 60 + 960);
row('suggestion with lag search, 25,000 chords', await time(() => suggestGrids(many, TIME)), loop, 40);

function objectsTreatment(notes: readonly NoteObject[]): number {
  const moved = notes.map((n) => {
    const line = Math.round(n.start / 240) * 240;
    const start = line + (n.start - line) * 0.2;
    return { ...n, start, end: n.end + start - n.start };
  });
  return moved.map((n) => ({ ...n, start: Math.round(n.start), end: Math.round(n.end) }))[0].start;
}

function memory(notes: NoteColumns): void {
  const collect = (globalThis as { gc?: () => void }).gc;
  collect?.();
  const used = () => process.memoryUsage().arrayBuffers + process.memoryUsage().heapUsed;
  const before = used();
  const treater = new Treater(notes, TIME);
  const staged = treater.stages(ALL_STAGES);
  settle(notes, staged, staged.velocity, RULES);
  const bytes = (used() - before) / notes.count;
  console.log(`${'memory in flight'.padEnd(52)} ${bytes.toFixed(0).padStart(9)} bytes a note  (at most 200)`);
  if (staged.start.length === 0) throw new Error('Nothing was treated.');
}
