import type { Lines, SongTime } from '../grid';
import { followLines } from '../follow';
import type { FollowedLines, Follower, FollowSettings, Limit, Quantize } from '../song';
import { groupChords, type Chords } from './chords';
import type { NoteColumns } from './columns';

/** What quantize does with a chord, and why. */
export const VERDICT = { move: 0, wrongDirection: 1, closeEnough: 2, tooFar: 3 } as const;

/** Every chord with its place and its line: what strength, direction, tolerance and reach do not change. */
export interface Located extends Chords {
  /** Starts after the lag was taken away, a note each, in ticks. */
  readonly starts: Float64Array;
  /** Line of each chord, in ticks. */
  readonly line: Float64Array;
  /** Where the player's time was at each chord, in ms, where lines follow it; else null. */
  readonly drift: Float64Array | null;
  /** Whether the lines are those that were asked for; else the nearest stand in until they are known. */
  readonly final: boolean;
}

/** Every chord with the decision about it too; independent of strength. */
export interface Assignment extends Located {
  readonly verdict: Uint8Array;
}

/** The settings that decide about chords; strength and spread are not among them. */
export type AssignSettings = Pick<Quantize, 'lines' | 'direction' | 'tolerance' | 'reach' | 'chordMs' | 'grid'>;

/**
 * Finds chords and their lines.
 * @param follower finds the lines that follow the player elsewhere; without one they are found here and now
 */
export function locate(
  columns: NoteColumns,
  starts: Float64Array,
  lines: Lines,
  time: SongTime,
  settings: Pick<Quantize, 'lines' | 'chordMs'> & FollowSettings,
  follower?: Follower,
): Located {
  const chords = groupChords(columns, starts, lines, time, settings.chordMs);
  const { place } = chords;
  const line = new Float64Array(chords.count);
  lines.nearestOf(place, line);
  const nearest = { ...chords, starts, line, drift: null, final: settings.lines === 'nearest' };
  if (nearest.final) return nearest;
  const followed = follow(place, lines, time, settings, follower);
  return followed ? { ...nearest, ...followed, final: true } : nearest;
}

/** The lines that follow the player, which take a tenth of a second for two thousand chords; null where they are awaited. */
export function follow(
  place: Float64Array,
  lines: Lines,
  time: SongTime,
  settings: FollowSettings,
  follower?: Follower,
): FollowedLines | null {
  return follower
    ? follower(place, settings)
    : followLines(place, lines, time, settings.grid, undefined, settings.lagTaken);
}

/** Decides about each chord whether it is moved. */
export function decide(located: Located, lines: Lines, time: SongTime, settings: AssignSettings): Assignment {
  const { count, place, line } = located;
  const verdict = new Uint8Array(count);
  if (needsVerdict(settings)) {
    const tolerance = settings.tolerance.value > 0 ? limitIn(settings.tolerance, lines, time) : null;
    const reach = settings.reach ? limitIn(settings.reach, lines, time) : null;
    for (let c = 0; c < count; c++) verdict[c] = judge(place[c], line[c], settings.direction, tolerance, reach);
  }
  return { ...located, verdict };
}

function needsVerdict(settings: AssignSettings): boolean {
  return settings.direction !== 'both' || settings.tolerance.value > 0 || settings.reach !== null;
}

/** A limit in ticks for a note at `place` whose line is `line`. */
type LimitTicks = (place: number, line: number) => number;

function judge(
  place: number,
  line: number,
  direction: Quantize['direction'],
  tolerance: LimitTicks | null,
  reach: LimitTicks | null,
): number {
  const d = place - line;
  if ((direction === 'early' && d > 0) || (direction === 'late' && d < 0)) return VERDICT.wrongDirection;
  const size = Math.abs(d);
  if (tolerance !== null && size <= tolerance(place, line) + 1e-9) return VERDICT.closeEnough;
  if (reach !== null && size > reach(place, line) + 1e-9) return VERDICT.tooFar;
  return VERDICT.move;
}

/**
 * A limit as ticks. Percent are of half the local gap: the distance from the line to the next one on the
 * note's own side.
 */
export function limitIn(limit: Limit, lines: Lines, time: SongTime): LimitTicks {
  const { value, unit } = limit;
  if (unit === 'percent') return (place, line) => (value / 100) * 0.5 * sideGap(place, line, lines);
  if (unit === 'ticks' || time.tempo.constant) {
    const ticks = unit === 'ticks' ? value : time.tempo.shift(0, value);
    return () => ticks;
  }
  return (place, line) => Math.abs(time.tempo.shift(line, place < line ? -value : value) - line);
}

/** Distance from a line to the next one on the side where `place` lies. */
export function sideGap(place: number, line: number, lines: Lines): number {
  if (place < line) {
    lines.locate(line - 1e-6);
    // There is no line before the first: the gap after it stands in.
    if (lines.before === -Infinity) return lines.gapAt(line);
    return line - lines.before;
  }
  lines.locate(line);
  return lines.after - line;
}
