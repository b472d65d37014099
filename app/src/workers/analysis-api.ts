import type { BeatFit, FitWishes, Onset } from '@early-sparrow/core/beats';
import type { Analysis, Asynchronies, Onsets } from '@early-sparrow/core/insight';
import type { FollowedLines, FollowSettings, SongTimes } from '@early-sparrow/core/song';
import type { NoteColumns } from '@early-sparrow/core/treatment';

/** What the analysis worker can be asked. */
export interface AnalysisApi {
  /** @param told how far it is, from 0 to 1 */
  analyse(notes: NoteColumns, time: SongTimes, told: (share: number) => void): Analysis;
  /**
   * The lines that follow a player, and where the player's time was.
   * @param place chords' places in ticks, ascending
   */
  follow(place: Float64Array, time: SongTimes, settings: FollowSettings, told: (share: number) => void): FollowedLines;
  /** How players lie to each other, each against each other one. */
  together(onsets: readonly Onsets[]): Asynchronies;
  /** The beats of free playing, and the tempo map that goes with them; null where too little is played. */
  fit(onsets: readonly Onset[], time: SongTimes, wishes: FitWishes, told: (share: number) => void): BeatFit | null;
}
