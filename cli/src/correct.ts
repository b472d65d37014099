import { analysePart, readTogether } from '@early-sparrow/core/insight';
import { applyEdit, isProblem } from '@early-sparrow/core/edit';
import { applyRecipe, type Recipe } from '@early-sparrow/core/recipe';
import { applyRule, contradiction, type Rule } from '@early-sparrow/core/rules';
import { formatGrid } from '@early-sparrow/core/grid';
import { readSmf, writeSmf } from '@early-sparrow/core/smf';
import { counted, noteCount, type Song, type Treatment } from '@early-sparrow/core/song';
import { noteReports, perform, reportPart, type NoteReport, type TreatmentReport } from '@early-sparrow/core/treatment';
import { UsageError } from './units';

/** What `correct` does with one file. */
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
  readonly notes: readonly NoteReport[];
}

/**
 * Corrects a file's tracks by a recipe.
 * @param only indices of the tracks to correct; null for all
 * @param full whether every note is to be reported
 * @param rules what is done to the notes before, in this order
 * @throws SmfError for a file that cannot be read, UsageError for a track that it does not have
 */
export function correctFile(
  name: string,
  bytes: Uint8Array,
  recipe: Recipe,
  only: readonly number[] | null,
  full: boolean,
  rules: readonly Rule[] = [],
): Correction {
  const read = readSmf(bytes, name);
  const notices = read.notices.map((n) => n.text);
  const song = ruled(read.song, rules, only, notices);
  const wanted = song.tracks.map((t, i) => noteCount(t) > 0 && (only === null || only.includes(i)));
  for (const index of only ?? []) {
    if (!wanted[index]) throw new UsageError(`${name} has no track ${index} with notes.`);
  }
  const treatments = treatmentsFor(forFile(recipe, song, name), song, wanted);
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
    return [
      {
        index,
        name: track.name,
        grid: quantize.groove?.groove.name ?? formatGrid(quantize.grid),
        lag: lag.on ? lag.amount : null,
        report: reportPart(part, treated),
        notes: full ? noteReports(part, treated) : [],
      },
    ];
  });
  return { bytes: writeSmf(treated, perform(treated, 'corrected')), notices, tracks };
}

/** A song after some rules, each on what the one before has made. @param told gets a line for each */
function ruled(song: Song, rules: readonly Rule[], only: readonly number[] | null, told: string[]): Song {
  let current = song;
  for (const rule of rules) {
    const parts = current.tracks.flatMap((t, i) => (only === null || only.includes(i) ? t.parts.map((p) => p.id) : []));
    const scope = { parts, side: 'played', only: null, loop: null, selected: new Set<number>() } as const;
    const done = applyRule(current, rule, scope);
    if (isProblem(done)) throw new UsageError(`--rule ${rule.name}: ${done.problem}`);
    const applied = done.edit && applyEdit(current, done.edit);
    if (applied && isProblem(applied)) throw new UsageError(`--rule ${rule.name}: ${applied.problem}`);
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
 * @throws UsageError where the file has no such track with notes
 */
function referenceId(named: string, song: Song, file: string): string {
  const byNumber = /^\d+$/.test(named) ? song.tracks[Number(named)] : undefined;
  const track = byNumber ?? song.tracks.find((t) => t.name.toLowerCase() === named.toLowerCase());
  if (track && noteCount(track) > 0) return track.id;
  throw new UsageError(`${file} has no track “${named}” with notes to line up with; analyse lists its tracks.`);
}

/** A treatment for each wanted track; lags that are to be found are found together. */
function treatmentsFor(recipe: Recipe, song: Song, wanted: readonly boolean[]): Map<number, Treatment> {
  const parts = song.tracks.flatMap((track, index) => (wanted[index] ? [{ index, part: track.parts[0] }] : []));
  const { grid, lag } = recipe.auto;
  const found = parts.map(({ part }) => (grid || lag ? analysePart(part, song) : undefined));
  const read = lag ? readTogether(found.map((a) => a ?? null)) : found;
  return new Map(parts.map(({ index, part }, i) => [index, applyRecipe(recipe, part, song, read[i] ?? undefined)]));
}

/** What moved, a line a track. */
export function summary(file: string, { tracks }: Correction): string {
  const lines = tracks.map(({ index, name, grid, lag, report: r }) => {
    const lagText = lag ? `, lag ${lag.value} ${lag.unit} removed` : '';
    const merges = r.merges > 0 ? ` ${r.merges} chords merge.` : '';
    const doubles = r.doubles > 0 ? ` ${r.doubles} doubles.` : '';
    return `  ${index} ${name} (${grid}${lagText}): ${r.moved} of ${r.notes} notes move, typically ${r.typicalMoveMs.toFixed(1)} ms, at most ${r.largestMoveMs.toFixed(1)} ms.${merges}${doubles}`;
  });
  return [file, ...lines].join('\n');
}
