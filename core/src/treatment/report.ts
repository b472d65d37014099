import { atOnce, inBlocks, inPieces, quantiles, type Pieces } from '../maths';
import { timeOf, type Part, type Song } from '../song';
import { VERDICT } from './assign';
import { isMerged } from './chord-facts';
import { factsOf } from './facts';
import { MARK } from './marks';
import { bitsOf, treatPart, type TreatedGroup, type TreatedPart } from './treat';

/** Why a note was left where it was, or what moved it. */
export type NoteFate =
  'moved' | 'on-line' | 'off' | 'close-enough' | 'too-far' | 'wrong-direction' | 'as-played' | 'pinned' | 'dropped';

/** One note before and after, against its line. */
export interface NoteReport {
  readonly id: number;
  readonly pitch: number;
  /** Ticks. */
  readonly played: number;
  readonly corrected: number;
  /** The line it belongs to, in ticks; null for a note outside every treatment. */
  readonly line: number | null;
  /** Distance from the line as played and as corrected, in ms; early is negative. */
  readonly offsetMs: number | null;
  readonly leftMs: number | null;
  readonly fate: NoteFate;
}

/** What a part's whole treatment does. */
export interface TreatmentReport {
  readonly notes: number;
  /** Notes whose start is not where it was played. */
  readonly moved: number;
  readonly left: Readonly<Record<Exclude<NoteFate, 'moved'>, number>>;
  /** Size of the moves of moved notes, in ms; 0 where none moved. */
  readonly typicalMoveMs: number;
  readonly largestMoveMs: number;
  /** Notes whose length or velocity changed. */
  readonly resized: number;
  readonly reweighted: number;
  /** Chords that come to share a line with the chord before them. */
  readonly merges: number;
  /** Notes that come to start together with a louder one of their key. */
  readonly doubles: number;
  /** Notes that would have started before the song and wait at its start, nearer together than they were. */
  readonly held: number;
  readonly dropped: number;
  /** Notes cut because their key starts again. */
  readonly cut: number;
  /** Notes that changed places with a neighbour. */
  readonly reordered: number;
}

const FATES = [
  'on-line',
  'off',
  'close-enough',
  'too-far',
  'wrong-direction',
  'as-played',
  'pinned',
  'dropped',
  'moved',
] as const satisfies readonly NoteFate[];
/** A million notes have a byte each that way, and not a word. */
const FATE = Object.fromEntries(FATES.map((fate, i) => [fate, i])) as Readonly<Record<NoteFate, number>>;

const reports = new WeakMap<TreatedPart, TreatmentReport>();

/** Counts what a part's treatment does; the same result gives the same report. */
export function reportPart(part: Part, song: Song): TreatmentReport {
  return atOnce(reportPieces(part, song));
}

/** {@link reportPart} of a part with very many notes, in pieces. */
export function* reportPieces(part: Part, song: Song): Pieces<TreatmentReport> {
  const treated = treatPart(part, song);
  let report = reports.get(treated);
  if (!report) reports.set(treated, (report = yield* count(part, song, treated)));
  return report;
}

function* count(part: Part, song: Song, treated: TreatedPart): Pieces<TreatmentReport> {
  const { columns, start, end, velocity, settled } = treated;
  const { tempo } = timeOf(song);
  const moves = new Float64Array(columns.count);
  let moved = 0;
  let largest = 0;
  let resized = 0;
  let reweighted = 0;
  let reordered = 0;
  yield* inPieces(columns.count, (from, to) => {
    for (let i = from; i < to; i++) {
      // A note that does not sound does not move either.
      if (settled.dropped?.[i] === 1) continue;
      const move = start[i] - columns.start[i];
      if (move !== 0) {
        const ms = Math.abs(tempo.between(columns.start[i], start[i]));
        if (ms > largest) largest = ms;
        moves[moved++] = ms;
      }
      if (end[i] - start[i] !== columns.end[i] - columns.start[i]) resized++;
      if (velocity[i] !== columns.velocity[i]) reweighted++;
      if (i > 0 && columns.start[i - 1] < columns.start[i] && start[i - 1] > start[i]) reordered++;
    }
  });
  const fates = fatesOf(part, treated);
  yield;
  const met = new Int32Array(FATES.length);
  inBlocks(fates.length, (from, to) => {
    for (let i = from; i < to; i++) met[fates[i]]++;
  });
  const { moved: _moved, ...left } = Object.fromEntries(FATES.map((fate, i) => [fate, met[i]])) as Record<
    NoteFate,
    number
  >;
  const typicalMoveMs = moved > 0 ? quantiles(moves.subarray(0, moved), [0.5])[0] : 0;
  yield;
  return {
    notes: columns.count,
    moved,
    left,
    typicalMoveMs,
    largestMoveMs: largest,
    resized,
    reweighted,
    merges: treated.groups.reduce((sum, g) => sum + mergeCount(g), 0),
    doubles: settled.doubles.length,
    held: settled.held.length,
    dropped: settled.dropped?.reduce((sum, d) => sum + d, 0) ?? 0,
    cut: settled.cut.length,
    reordered,
  };
}

/** Chords of a group that would land on the line of the chord before them. */
export function mergeCount(group: Pick<TreatedGroup, 'treatment' | 'chords'>): number {
  return group.treatment.quantize.on ? mergedChords(group).length : 0;
}

/** The chords, by index, that share their line with the chord before them; each is pulled to it. */
export function mergedChords(group: Pick<TreatedGroup, 'chords'>): number[] {
  const merged: number[] = [];
  const find = (from: number, to: number) => {
    for (let c = from; c < to; c++) if (isMerged(group, c)) merged.push(c);
  };
  inBlocks(group.chords.count, find, 1);
  return merged;
}

/** What happened to each note of a part, in its order, by its number in {@link FATES}. */
function fatesOf(part: Part, treated: TreatedPart): Uint8Array {
  const { columns, start } = treated;
  const fates = new Uint8Array(columns.count);
  const bits = bitsOf(part);
  inBlocks(fates.length, (from, to) => {
    for (let i = from; i < to; i++) {
      fates[i] =
        bits[i] & MARK.pin
          ? FATE.pinned
          : bits[i] & MARK.dropped
            ? FATE.dropped
            : bits[i] & MARK.exception && part.notes[i].exception?.kind === 'as-played'
              ? FATE['as-played']
              : start[i] === columns.start[i]
                ? FATE.off
                : FATE.moved;
    }
  });
  if (!part.on) return fates;
  for (const group of treated.groups) {
    if (!group.treatment.quantize.on || !group.treatment.quantize.starts) continue;
    forEachMember(group, (note, chord) => {
      if (fates[note] !== FATE.off) return;
      const verdict = group.chords.verdict[chord];
      if (verdict === VERDICT.closeEnough) fates[note] = FATE['close-enough'];
      else if (verdict === VERDICT.tooFar) fates[note] = FATE['too-far'];
      else if (verdict === VERDICT.wrongDirection) fates[note] = FATE['wrong-direction'];
      else if (columns.start[note] === Math.round(group.chords.line[chord])) fates[note] = FATE['on-line'];
    });
  }
  return fates;
}

/** Calls back with every note of a group (its index in the part) and its chord. */
function forEachMember(group: TreatedGroup, visit: (note: number, chord: number) => void): void {
  const { chords, members } = group;
  for (let c = 0; c < chords.count; c++) {
    for (let i = chords.first[c]; i < chords.first[c + 1]; i++) visit(members ? members[i] : i, c);
  }
}

/** Every note of a part before and after. */
export function noteReports(part: Part, song: Song): NoteReport[] {
  const { treated, chord, chords, played, now, line, before, after } = factsOf(part, song);
  const fates = fatesOf(part, treated);
  return part.notes.map((note, i) => {
    const isTreated = chords.treated[chord[i]] === 1;
    return {
      id: note.id,
      pitch: note.pitch,
      played: played[i],
      corrected: now[i],
      line: isTreated ? line[i] : null,
      offsetMs: isTreated ? before[i] : null,
      leftMs: isTreated ? after[i] : null,
      fate: FATES[fates[i]],
    };
  });
}
