import { gridLines, parseGrid } from '@early-sparrow/core/grid';
import { changeNotes, doEdit, isProblem, startHistory } from '@early-sparrow/core/edit';
import { findBeats } from '@early-sparrow/core/beats';
import { analysePlaces, suggestGrids } from '@early-sparrow/core/insight';
import { hash3 } from '@early-sparrow/core/maths';
import { newPart, newSong, newTrack, type Note, type Song, type Treatment } from '@early-sparrow/core/song';
import { followLines } from '@early-sparrow/core/follow';
import { factsOf, settle, Treater, type NoteColumns } from '@early-sparrow/core/treatment';
import { ALL_STAGES, makeNotes, TIME, toObjects, WITHOUT_HUMANIZE, type NoteObject } from './notes';
import { freeTake } from '../../tools/accuracy/free';
import { bankVoices, SECONDS, smallVoices, soundFiles } from './sound';
import { inTurns, type Fastest } from './turns';

// Prints ratios to a baseline of the same run, taken in turns with it; the times themselves depend on the machine.

const RULES = { drops: () => false, silent: null };

function whole(treater: Treater, notes: NoteColumns, treatment: Treatment): number {
  const staged = treater.stages(treatment);
  settle(notes, staged, staged.velocity, RULES);
  return staged.start[0];
}

function row(name: string, baseline: () => unknown, candidate: () => unknown, most: number | null): Fastest {
  const fastest = inTurns(baseline, candidate);
  const limit = most === null ? '' : `  (at most ${most})`;
  const ratio = fastest.candidate / fastest.baseline;
  const told = ratio.toFixed(2).padStart(7);
  console.log(`${name.padEnd(52)} ${fastest.candidate.toFixed(2).padStart(9)} ms  ${told} ×${limit}`);
  return fastest;
}

const wholeRatios: number[] = [];
for (const count of [1e4, 1e5, 1e6]) {
  const notes = makeNotes(count);
  const out = new Float64Array(count);
  const baseline = () => {
    for (let i = 0; i < count; i++) out[i] = Math.round(notes.start[i] / 240) * 240;
    return out[0];
  };
  console.log(`\n${count.toLocaleString('en')} notes`);
  row('baseline: round each start', baseline, baseline, null);
  const plain = () => whole(new Treater(notes, TIME), notes, WITHOUT_HUMANIZE);
  const { baseline: bare, candidate } = row('whole treatment without humanize', baseline, plain, 10);
  wholeRatios.push(candidate / bare);
  row('all stages', baseline, () => whole(new Treater(notes, TIME), notes, ALL_STAGES), count === 1e4 ? 30 : 25);
  const warm = new Treater(notes, TIME);
  let k = 0;
  const strength = () => ({
    ...WITHOUT_HUMANIZE,
    quantize: { ...WITHOUT_HUMANIZE.quantize, strength: (k++ % 90) / 100 },
  });
  row('strength changes', baseline, () => whole(warm, notes, strength()), 10);
  const loose = new Treater(notes, TIME);
  const amount = () => ({
    ...WITHOUT_HUMANIZE,
    humanize: { ...ALL_STAGES.humanize, length: 0, velocity: 0, start: 1 + (k++ % 9) },
  });
  row('humanize amount changes', baseline, () => whole(loose, notes, amount()), 10);
  if (count === 1e5) {
    const objects = toObjects(notes);
    row('the same quantize on an array of objects', baseline, () => objectsTreatment(objects), null);
  }
  if (count === 1e6) memory(notes);
}
const growth = (wholeRatios[2] / wholeRatios[1]).toFixed(1);
console.log(`10⁶ notes take ${growth} times as long as 10⁵, each in its baseline  (at most 1.1)`);

const numbers = new Float64Array(1e7).fill(1.000001);
const loop = () => {
  let sum = 0;
  for (let i = 0, n = numbers.length; i < n; i++) sum = sum * 0.5 + numbers[i];
  return sum;
};
console.log('');
row('baseline: 10⁷ multiply–adds', loop, loop, null);
const wandering = Float64Array.from(
  { length: 1000 },
  (_, i) => i * 240 + 60 * Math.sin(i / 60) + (hash3(2, i, 1) / 2 ** 32 - 0.5) * 80 + 960,
);
const grid = parseGrid('1/16');
row(
  'follow with all its models, 1,000 chords',
  loop,
  () => followLines(wandering, gridLines(grid, TIME), TIME, grid),
  4,
);
const many = Float64Array.from({ length: 25_000 }, (_, i) => i * 240 + (hash3(3, i, 1) / 2 ** 32 - 0.5) * 60 + 960);
row('suggestion with lag search, 25,000 chords', loop, () => suggestGrids(many, TIME), 40);
const drifting = many.map((t, i) => t + 90 * Math.sin(i / 60)).sort();
row('analysis of a player who drifts, 25,000 chords', loop, () => analysePlaces(drifting, TIME), 60);
const swung = many.map((t, i) => t + (i % 2) * 58);
row('analysis of a player who swings, 25,000 chords', loop, () => analysePlaces(swung, TIME), 30);
const free = freeTake(1).onsets;
row('beats of free playing, two minutes', loop, () => findBeats(free), null);

// Sound is rendered by the code that plays it.
console.log(`\n${SECONDS} seconds of sound, 48 kHz`);
const shares = [
  ['16 parts, small voices', smallVoices()],
  ['16 parts, the bank', await bankVoices()],
  ['4 sound files at other speeds', soundFiles()],
] as const;
for (const [name, render] of shares) {
  const ms = row(name, loop, render, null).candidate;
  console.log(`${''.padEnd(52)} ${(ms / (SECONDS * 1000)).toFixed(3).padStart(9)} of real time`);
}

// A song of 50,000 notes, as the desk has it.
const song = longSong(50_000);
const history = startHistory(song);
const [part] = song.tracks[0].parts;
let moves = 0;
console.log('\na song of 50,000 notes');
row('an edit of one note', loop, () => moveOne(moves++), null);
row('facts: its treatment and what is known of each note', loop, () => factsAnew(moves++), null);

function longSong(count: number): Song {
  const columns = makeNotes(count);
  const notes = Array.from({ length: count }, (_, i): Note => {
    const [start, end] = [columns.start[i], columns.end[i]];
    const rest = { pitch: columns.pitch[i], velocity: columns.velocity[i], channel: 0, release: 64 };
    return { id: i, start, length: end - start, ...rest };
  });
  const lone = newPart('p', 'Part', 0, columns.end[count - 1] + 3840, { notes, treatment: WITHOUT_HUMANIZE });
  return { ...newSong('Long'), tracks: [newTrack('t', 'Track', { parts: [lone] })], nextId: count };
}

function moveOne(by: number): number {
  const note = part.notes[25_000 + (by % 100)];
  const done = doEdit(history, changeNotes('Move one note', part, [{ ...note, start: note.start + 1 + (by % 7) }]));
  if (isProblem(done)) throw new Error(done.problem);
  return done.song.nextId;
}

function factsAnew(n: number): number {
  const { quantize } = part.treatment;
  const treatment = { ...part.treatment, quantize: { ...quantize, strength: (n % 90) / 100 } };
  const changed = { ...part, treatment };
  const other = { ...song, tracks: [{ ...song.tracks[0], parts: [changed] }] };
  return factsOf(changed, other).count;
}

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
