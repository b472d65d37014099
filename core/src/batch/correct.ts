import { analysePart, leavesBeat, readTogether, type Analysis } from '../insight';
import { applyEdit, isProblem } from '../edit';
import { applyRecipe, type Recipe } from '../recipe';
import { applyRule, contradiction, type Rule } from '../rules';
import { formatGrid } from '../grid';
import { readSmf, writeSmf } from '../smf';
import { counted, noteCount, type Part, type Song, type Treatment } from '../song';
import { noteReports, perform, reportPart, type NoteReport, type TreatmentReport } from '../treatment';

/** Something in a request that a file cannot be corrected by; the message says what. */
export class CorrectionError extends Error {
  readonly code = 'correction';
}

/** Why somebody should look at a corrected track. */
export type Doubt =
  /** It was not played to the file's tempo, or to none. */
  | 'no-bars'
  /** The player wanders against the bars. */
  | 'drifting'
  /** What was found of its lines or its lag is not sure. */
  | 'not-sure'
  /** Different chords share a line. */
  | 'merges';

/** What was done with one file. */
export interface Correction {
  readonly bytes: Uint8Array;
  readonly notices: readonly string[];
  readonly tracks: readonly TrackCorrection[];
}

export interface TrackCorrection {
  readonly index: number;
  readonly name: string;
  readonly grid: string;
  readonly lag: Treatment['lag']['amount'] | null;
  readonly report: TreatmentReport;
  /** The gravest first. What only an analysis tells is in it where grid or lag were to be found. */
  readonly doubts: readonly Doubt[];
  readonly notes: readonly NoteReport[];
}

/** A file's song with its treatments on it. */
export interface TreatedFile {
  readonly song: Song;
  readonly notices: readonly string[];
  readonly tracks: readonly TrackCorrection[];
}

/** How files are corrected. */
export interface Correcting {
  readonly recipe: Recipe;
  /** What is done to the notes before, in this order. */
  readonly rules?: readonly Rule[] | undefined;
  /** Indices of the tracks to correct; null for all. */
  readonly only: readonly number[] | null;
  /** Whether every note is to be reported. */
  readonly full: boolean;
}

/** Corrects a file's tracks by a recipe. @throws SmfError, CorrectionError */
export function correctFile(name: string, bytes: Uint8Array, how: Correcting): Correction {
  const { song, notices, tracks } = treatFile(name, bytes, how);
  return { bytes: writeSmf(song, perform(song, 'corrected')), notices, tracks };
}

/**
 * Reads a file and puts a recipe's treatment on its tracks; it is not burnt in.
 * @throws SmfError for a file that cannot be read, CorrectionError for a track that it does not have
 */
export function treatFile(name: string, bytes: Uint8Array, { recipe, rules, only, full }: Correcting): TreatedFile {
  const read = readSmf(bytes, name);
  const notices = read.notices.map((n) => n.text);
  const song = ruled(read.song, rules ?? [], only, notices);
  const wanted = song.tracks.map((t, i) => noteCount(t) > 0 && (only === null || only.includes(i)));
  for (const index of only ?? []) {
    if (!wanted[index]) throw new CorrectionError(`${name} has no track ${index} with notes.`);
  }
  const { treatments, analyses } = treatmentsFor(forFile(recipe, song, name), song, wanted);
  const treated: Song = {
    ...song,
    tracks: song.tracks.map((track, i) => {
      const treatment = treatments.get(i);
      return treatment ? { ...track, parts: track.parts.map((part) => ({ ...part, treatment })) } : track;
    }),
  };
  const tracks = treated.tracks.flatMap((track, index): TrackCorrection[] => {
    if (!wanted[index]) return [];
    const [part] = track.parts;
    const { lag, quantize } = part.treatment;
    const report = reportPart(part, treated);
    return [
      {
        index,
        name: track.name,
        grid: quantize.groove?.groove.name ?? formatGrid(quantize.grid),
        lag: lag.on ? lag.amount : null,
        report,
        doubts: doubtsOf(recipe, report, analyses.get(index), part, song),
        notes: full ? noteReports(part, treated) : [],
      },
    ];
  });
  return { song: treated, notices, tracks };
}

/** A song after some rules, each on what the one before has made. @param told gets a line for each */
function ruled(song: Song, rules: readonly Rule[], only: readonly number[] | null, told: string[]): Song {
  let current = song;
  for (const rule of rules) {
    const parts = current.tracks.flatMap((t, i) => (only === null || only.includes(i) ? t.parts.map((p) => p.id) : []));
    const scope = { parts, side: 'played', only: null, loop: null, selected: new Set<number>() } as const;
    const done = applyRule(current, rule, scope);
    if (isProblem(done)) throw new CorrectionError(`--rule ${rule.name}: ${done.problem}`);
    const applied = done.edit && applyEdit(current, done.edit);
    if (applied && isProblem(applied)) throw new CorrectionError(`--rule ${rule.name}: ${applied.problem}`);
    const more = contradiction(rule) ?? (!done.edit ? 'Nothing changes.' : done.empties ? 'No note is left.' : '');
    told.push(`Rule “${rule.name}”: ${counted(done.ids.length, 'note')}. ${more}`.trim());
    if (applied) current = applied.song;
  }
  return current;
}

/** A recipe that names the track to line up with by its id in this song. */
function forFile(recipe: Recipe, song: Song, file: string): Recipe {
  const { quantize } = recipe.treatment;
  if (!quantize.with) return recipe;
  const track = referenceId(quantize.with.track, song, file);
  return {
    ...recipe,
    treatment: { ...recipe.treatment, quantize: { ...quantize, with: { ...quantize.with, track } } },
  };
}

/**
 * The id of the track that `--with` names, by the number that analyse gives it or by its name.
 * @throws CorrectionError where the file has no such track with notes
 */
function referenceId(named: string, song: Song, file: string): string {
  const byNumber = /^\d+$/.test(named) ? song.tracks[Number(named)] : undefined;
  const track = byNumber ?? song.tracks.find((t) => t.name.toLowerCase() === named.toLowerCase());
  if (track && noteCount(track) > 0) return track.id;
  throw new CorrectionError(`${file} has no track “${named}” with notes to line up with; analyse lists its tracks.`);
}

/** What is doubtful about a corrected track. @param analysis where one was made */
function doubtsOf(
  { auto }: Recipe,
  { merges }: TreatmentReport,
  analysis: Analysis | undefined,
  part: Part,
  song: Song,
): readonly Doubt[] {
  const doubts: Doubt[] = [];
  if (analysis?.lag?.drifting) doubts.push(leavesBeat(analysis.lag, part, song) ? 'no-bars' : 'drifting');
  if (analysis && ((auto.grid && !analysis.sure) || (auto.lag && analysis.lag && !analysis.lag.sure))) {
    doubts.push('not-sure');
  }
  if (merges > 0) doubts.push('merges');
  return doubts;
}

/** A treatment for each wanted track, by its index; lags that are to be found are found together. */
function treatmentsFor(
  recipe: Recipe,
  song: Song,
  wanted: readonly boolean[],
): { treatments: Map<number, Treatment>; analyses: Map<number, Analysis> } {
  const parts = song.tracks.flatMap((track, index) => (wanted[index] ? [{ index, part: track.parts[0] }] : []));
  const { grid, lag } = recipe.auto;
  const found = parts.map(({ part }) => (grid || lag ? analysePart(part, song) : undefined));
  const read = lag ? readTogether(found.map((a) => a ?? null)) : found;
  const treatments = new Map<number, Treatment>();
  const analyses = new Map<number, Analysis>();
  parts.forEach(({ index, part }, i) => {
    treatments.set(index, applyRecipe(recipe, part, song, read[i] ?? undefined));
    const analysis = read[i];
    if (analysis) analyses.set(index, analysis);
  });
  return { treatments, analyses };
}

/** What moved, a line a track. */
export function summary(file: string, { tracks }: Correction): string {
  const lines = tracks.map(({ index, name, grid, lag, report: r }) => {
    const lagText = lag ? `, lag ${lag.value} ${lag.unit} removed` : '';
    const merges = r.merges > 0 ? ` ${counted(r.merges, 'chord')} ${r.merges === 1 ? 'merges' : 'merge'}.` : '';
    const doubles = r.doubles > 0 ? ` ${counted(r.doubles, 'double')}.` : '';
    return `  ${index} ${name} (${grid}${lagText}): ${r.moved} of ${r.notes} notes move, typically ${r.typicalMoveMs.toFixed(1)} ms, at most ${r.largestMoveMs.toFixed(1)} ms.${merges}${doubles}`;
  });
  return [file, ...lines].join('\n');
}
