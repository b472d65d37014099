import { createHash } from 'node:crypto';
import { barsOf, findHits, readWav, soundFileEdit, WavError, type Recording } from '@early-sparrow/core/audio';
import { applyEdit, isProblem } from '@early-sparrow/core/edit';
import { asPlayed } from '@early-sparrow/core/performance';
import { writeSmf } from '@early-sparrow/core/smf';
import { newSong } from '@early-sparrow/core/song';
import { readWhole, UsageError } from './units';

/** The flags of `hits`. */
export const HITS_FLAGS = ['bars'] as const;
export type HitsFlags = Partial<Record<(typeof HITS_FLAGS)[number], string>>;

export interface Hits {
  readonly bytes: Uint8Array;
  readonly notices: readonly string[];
  readonly text: string;
}

const FAULTS: Readonly<Record<WavError['code'], string>> = {
  'not-wav': 'is not a WAV file. Convert it to one first.',
  'cut-off': 'is cut off. Export it again.',
  rate: 'states a sample rate that no recording has. Convert it again.',
  kind: 'has sound in a format that cannot be read. Convert it to 16 or 24 bit PCM.',
};

/**
 * Finds the hits of a WAV file and writes them as a MIDI file of whole bars, to be analysed or lined up with.
 * @throws UsageError for a file that cannot be read, or in which nothing is struck
 */
export function hitsFile(name: string, bytes: Uint8Array, flags: HitsFlags): Hits {
  const { samples, rate } = read(name, bytes);
  const length = (samples.length * 1000) / rate;
  const hits = findHits(samples, rate);
  const empty = newSong('Hits');
  const bars = flags.bars === undefined ? barsOf(length, empty) : readWhole(flags.bars, 1, 512, 'bars');
  if (hits.length === 0) throw new UsageError(`No hits were found in ${name}.`);
  const heard = { name: 'Hits', file: createHash('sha256').update(bytes).digest('hex'), ms: length, hits };
  const done = applyEdit(empty, soundFileEdit(empty, heard, { bar: 1, bars, fitting: 'set' }));
  if (isProblem(done)) throw new UsageError(`${name}: ${done.problem}`);
  const bpm = (bars * 4 * 60_000) / length;
  return {
    bytes: writeSmf(done.song, asPlayed(done.song)),
    notices: [],
    text: `${hits.length} hits, ${bars} bars at ${bpm.toFixed(2)} BPM.`,
  };
}

function read(name: string, bytes: Uint8Array): Recording {
  try {
    return readWav(bytes);
  } catch (error) {
    if (error instanceof WavError) throw new UsageError(`${name} ${FAULTS[error.code]}`);
    throw error;
  }
}
