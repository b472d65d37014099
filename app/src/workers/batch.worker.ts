import '../common/no-eval';
import { expose, transfer } from 'comlink';
import { correctFile, treatFile, type TrackCorrection } from '@early-sparrow/core/batch';
import type { Recipe } from '@early-sparrow/core/recipe';
import { MAX_BYTES, SmfError } from '@early-sparrow/core/smf';
import { pack } from '@early-sparrow/core/song';
import { ADVICE } from '../common/smf-advice';
import type { BatchApi, FileAnswer, TrackResult } from './batch-api';

/** What is over the limit is refused without being read. */
const read = async (file: Blob) => new Uint8Array(await file.slice(0, MAX_BYTES + 1).arrayBuffer());
const howTo = (recipe: Recipe) => ({ recipe, only: null, full: false });

const api: BatchApi = {
  async correct(file: Blob, name: string, recipe: Recipe): Promise<FileAnswer> {
    let data: Uint8Array;
    try {
      data = await read(file);
    } catch {
      return { ok: false, reason: 'It could not be read: it may have been moved. Choose it again.' };
    }
    try {
      const { bytes, notices, tracks } = correctFile(name, data, howTo(recipe));
      return transfer({ ok: true, bytes, notices, tracks: tracks.map(resultOf) }, [bytes.buffer]);
    } catch (error) {
      if (error instanceof SmfError) return { ok: false, reason: `${error.message} ${ADVICE[error.code]}` };
      return { ok: false, reason: `The program failed (${(error as Error).message}). Please tell us about this file.` };
    }
  },
  async song(file: Blob, name: string, recipe: Recipe): Promise<unknown> {
    return pack(treatFile(name, await read(file), howTo(recipe)).song);
  },
};

function resultOf({ name, grid, lag, report, doubts }: TrackCorrection): TrackResult {
  const { notes, moved, typicalMoveMs, largestMoveMs, merges } = report;
  const lagMs = lag?.unit === 'ms' ? lag.value : null;
  return { name, grid, lagMs, notes, moved, typicalMs: typicalMoveMs, largestMs: largestMoveMs, merges, doubts };
}

expose(api);
