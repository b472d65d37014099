import type { Analysis } from '@early-sparrow/core/insight';
import type { Quantize, SongTimes } from '@early-sparrow/core/song';
import type { FollowedLines, NoteColumns } from '@early-sparrow/core/treatment';

/** What the analysis worker can be asked. */
export interface AnalysisApi {
  /** @param told how far it is, from 0 to 1 */
  analyse(notes: NoteColumns, time: SongTimes, told: (share: number) => void): Analysis;
  /**
   * The lines that follow a player, and where the player's time was.
   * @param place chords' places in ticks, ascending
   */
  follow(
    place: Float64Array,
    time: SongTimes,
    settings: Pick<Quantize, 'grid' | 'groove'>,
    told: (share: number) => void,
  ): FollowedLines;
}
