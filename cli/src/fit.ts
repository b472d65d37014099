import { beatsText, fitBeats, type BeatFit, type FitWishes } from '@early-sparrow/core/beats';
import { applyEdit, isProblem, tempoFitEdit } from '@early-sparrow/core/edit';
import { asPlayed } from '@early-sparrow/core/performance';
import { readSmf, writeSmf } from '@early-sparrow/core/smf';
import { noteCount } from '@early-sparrow/core/song';
import { readShare, readWhole, UsageError } from './units';

/** The flags of `fit`. */
export const FIT_FLAGS = ['track', 'changes', 'tempo', 'meter', 'reading', 'steady'] as const;
export type FitFlags = Partial<Record<(typeof FIT_FLAGS)[number], string>> & { readonly downbeat?: readonly string[] };

export interface Fitting {
  readonly bytes: Uint8Array;
  readonly notices: readonly string[];
  /** What was found, a line. */
  readonly text: string;
}

/**
 * Fits a tempo map to a file that was played without a click; its notes sound where they did.
 * @throws SmfError for a file that cannot be read, UsageError for flags that are off or a file with too few notes
 */
export function fitFile(name: string, bytes: Uint8Array, flags: FitFlags): Fitting {
  const { song, notices } = readSmf(bytes, name);
  const track = flags.track === undefined ? null : song.tracks[readWhole(flags.track, 0, 65535, 'track')];
  if (track === undefined || (track && noteCount(track) === 0)) {
    throw new UsageError(`${name} has no track ${flags.track} with notes; analyse lists its tracks.`);
  }
  const wishes = wishesOf(flags);
  const fit = fitBeats(song, track?.parts ?? null, wishes);
  if (!fit) throw new UsageError(`${name} has too few notes to find beats in.`);
  const steadiness = flags.steady === undefined ? 0 : readShare(flags.steady, 'steady');
  const done = applyEdit(song, tempoFitEdit('Fit the tempo', fit, steadiness));
  if (isProblem(done)) throw new UsageError(`${name}: ${done.problem}`);
  // As the file has them: steadied, where that was asked for.
  const { tempo } = done.song;
  const bpms = tempo.map((t) => 60e6 / t.usPerQuarter);
  const range = `${Math.min(...bpms).toFixed(1)} to ${Math.max(...bpms).toFixed(1)} BPM`;
  const text = `${fit.beats.length} beats at about ${fit.bpm.toFixed(1)} BPM, ${fit.perBar} a bar; ${tempo.length} tempi, ${range}.${others(fit)}`;
  return { bytes: writeSmf(done.song, asPlayed(done.song)), notices: notices.map((n) => n.text), text };
}

/** What the beats could be too, by the number that --reading takes. */
function others({ readings, reading }: BeatFit): string {
  const told = readings.flatMap((r, i) => (i === reading ? [] : [`${beatsText(r)} (--reading ${i + 1})`]));
  return told.length > 0 ? ` Could also be ${told.join(', ')}.` : '';
}

function wishesOf({ changes, tempo, meter, downbeat, reading }: FitFlags): FitWishes {
  return {
    ...(changes === undefined ? {} : { changes: readShare(changes, 'changes') }),
    ...(tempo === undefined ? {} : tempoRange(tempo)),
    ...(meter === undefined ? {} : { perBar: readWhole(meter, 1, 16, 'meter') }),
    ...(reading === undefined ? {} : { reading: readWhole(reading, 1, 4, 'reading') - 1 }),
    ...downbeats(downbeat ?? []),
  };
}

/** The first is the one that the first whole bar begins with; with each further one a bar begins anew. */
function downbeats(texts: readonly string[]): Pick<FitWishes, 'downbeat' | 'anew'> {
  const [downbeat, ...anew] = texts.map((text) => readWhole(text, 1, 100_000, 'downbeat') - 1);
  const wrong = anew.find((at, i) => at <= (i === 0 ? downbeat : anew[i - 1]));
  if (wrong !== undefined) throw new UsageError(`--downbeat ${wrong + 1}: name the beats in their order.`);
  return texts.length === 0 ? {} : { downbeat, anew };
}

/** `90` (about that tempo) or `60-80`. */
function tempoRange(text: string): { low: number; high: number } {
  const match = /^(\d+(?:\.\d+)?)(?:-(\d+(?:\.\d+)?))?$/.exec(text);
  const low = Number(match?.[1]) * (match?.[2] ? 1 : 0.72);
  const high = match?.[2] ? Number(match[2]) : Number(match?.[1]) * 1.4;
  if (!match || low < 20 || high > 400 || low >= high) {
    throw new UsageError(`--tempo ${text}: write a tempo from 28 to 285 BPM, such as 90, or a range, such as 60-80.`);
  }
  return { low, high };
}
