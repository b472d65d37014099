import type { Doubt } from '@early-sparrow/core/batch';
import { earlyOrLate, shortMs } from '../common/format';
import type { TrackResult } from '../workers/batch-api';

const DOUBTS: Record<Doubt, string> = {
  'no-bars': 'not played to its tempo',
  drifting: 'drifting',
  'not-sure': 'not sure',
  merges: 'merges',
};
/** The gravest first. */
const ORDER: readonly Doubt[] = ['no-bars', 'drifting', 'not-sure', 'merges'];

/** What is doubtful about a file, each once with its tracks, the gravest first. */
export function doubtWords(tracks: readonly TrackResult[]): string {
  return ORDER.flatMap((doubt) => {
    const with_ = tracks.filter((t) => t.doubts.includes(doubt));
    if (with_.length === 0) return [];
    const names = with_.length === tracks.length ? 'all tracks' : with_.map((t) => t.name).join(', ');
    return [`${DOUBTS[doubt]}: ${names}`];
  }).join(' · ');
}

/** How doubtful a file is: 0 not at all. */
export function doubtRank(tracks: readonly TrackResult[]): number {
  const grave = ORDER.findIndex((doubt) => tracks.some((t) => t.doubts.includes(doubt)));
  return grave < 0 ? 0 : ORDER.length - grave;
}

/** Lines and lags of a file's tracks: what most have once, then the others. */
export function foundWords(tracks: readonly TrackResult[]): string {
  const grids = [...new Set(tracks.map((t) => t.grid))];
  const lags = tracks.flatMap((t) => (t.lagMs === null ? [] : [t.lagMs]));
  const [low, high] = [Math.min(...lags), Math.max(...lags)].map(earlyOrLate);
  const lag = lags.length === 0 ? '' : low === high ? `; ${low}` : `; ${low} to ${high}`;
  return `${grids.slice(0, 3).join(', ')}${grids.length > 3 ? ' …' : ''}${lag}`;
}

/** How many notes move, and how far. */
export function movedWords(tracks: readonly TrackResult[]): string {
  const notes = tracks.reduce((sum, t) => sum + t.notes, 0);
  const moved = tracks.reduce((sum, t) => sum + t.moved, 0);
  if (moved === 0) return `none of ${notes}`;
  const largest = Math.max(...tracks.map((t) => t.largestMs));
  const typical = tracks.reduce((sum, t) => sum + t.typicalMs * t.moved, 0) / moved;
  return `${moved} of ${notes}, ${shortMs(typical)}\u00a0ms, most ${shortMs(largest)}\u00a0ms`;
}
