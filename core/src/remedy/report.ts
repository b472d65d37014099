import { stepOf, type Edit, type SimpleEdit } from '../edit';
import { findTrack, followedBy, withTrack, type Follower, type Song } from '../song';
import { reportPart } from '../treatment';
import { isApplied, remedied, type Remedy } from './remedy';

/** What a remedy would change. */
export interface RemedyReport {
  readonly notes: number;
  readonly moved: number;
  /** Median and largest move in ms; the median is that of the part with the most notes that move. */
  readonly typicalMs: number;
  readonly largestMs: number;
  readonly merges: number;
  readonly doubles: number;
}

/** Follows nobody: what is only proposed must not set a worker to work, again with every answer that comes. */
const NOBODY: Follower = () => null;

/**
 * What a track's remedy would change, or has changed where it is applied; null where nothing is proposed. Of a proposal that
 * follows a player it is told by the nearest lines.
 * @param strength share of the way to the lines, 0 to 1
 */
export function remedyReport(song: Song, remedy: Remedy, strength: number): RemedyReport | null {
  const { setting } = remedy;
  const own = findTrack(song, remedy.track);
  if (!setting || !own) return null;
  const changed = isApplied(own, remedy, strength)
    ? song
    : followedBy(
        withTrack(song, remedy.track, (track) => ({
          ...track,
          parts: track.parts.map((p) => ({ ...p, treatment: remedied(p.treatment, setting, strength) })),
        })),
        NOBODY,
      );
  const reports = (findTrack(changed, remedy.track)?.parts ?? []).map((p) => reportPart(p, changed));
  const most = reports.reduce<(typeof reports)[number] | null>((a, b) => (a && a.moved >= b.moved ? a : b), null);
  const sum = (of: (r: (typeof reports)[number]) => number) => reports.reduce((all, r) => all + of(r), 0);
  return {
    notes: sum((r) => r.notes),
    moved: sum((r) => r.moved),
    typicalMs: most?.typicalMoveMs ?? 0,
    largestMs: reports.reduce((l, r) => Math.max(l, r.largestMoveMs), 0),
    merges: sum((r) => r.merges),
    doubles: sum((r) => r.doubles),
  };
}

/** The step that does what is proposed for some tracks; null where that is nothing. */
export function remedyEdit(song: Song, remedies: readonly Remedy[], strength: number, name: string): Edit | null {
  const edits = remedies.flatMap(({ track, setting }): SimpleEdit[] => {
    if (!setting) return [];
    return (findTrack(song, track)?.parts ?? []).map((p) => ({
      kind: 'treatment',
      name,
      part: p.id,
      treatment: remedied(p.treatment, setting, strength),
    }));
  });
  return stepOf(name, edits);
}
