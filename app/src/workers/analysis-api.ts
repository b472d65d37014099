import type { Analysis } from '@early-sparrow/core/insight';
import type { Part, SongTimes } from '@early-sparrow/core/song';

/** What the analysis worker can be asked. */
export interface AnalysisApi {
  /** @param progress told how far it is, from 0 to 1 */
  analyse(part: Part, time: SongTimes, progress: (share: number) => void): Analysis;
}
