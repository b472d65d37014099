import { gridLines, stepTicks, type Grid, type Lines, type SongTime } from '../grid';
import type { Lengths } from '../song';
import { addAmount } from '../time';
import type { Assignment } from './assign';
import type { NoteColumns } from './columns';
import type { Times } from './quantize';

/** The lines that ends go to: the lengths' own grid or the starts', straight unless swing is to be followed. */
export function endLines(settings: Lengths, startGrid: Grid, startLines: Lines, time: SongTime): Lines {
  if (settings.followSwing && !settings.grid) return startLines;
  const own = settings.grid ?? startGrid;
  return gridLines(settings.followSwing ? own : { ...own, swing: 0.5 }, time);
}

/** Moves ends to lines, to whole steps or to a fixed length; legato is {@link connect}. */
export function treatLengths(
  columns: NoteColumns,
  times: Times,
  settings: Lengths,
  startGrid: Grid,
  lines: Lines,
  ppq: number,
): void {
  if (settings.mode === 'none' || settings.mode === 'legato') return;
  const { start, end } = times;
  const step = stepTicks(settings.grid ?? startGrid, ppq);
  const fixed = settings.fixed * ppq;
  const rule = endRule(settings, ppq);
  const { mode } = settings;
  if (mode === 'line') {
    const wanted = new Float64Array(columns.count);
    lines.nearestOf(end, wanted);
    for (let i = 0; i < columns.count; i++) {
      // An end that would fall on or before its start goes to the first line after it.
      if (wanted[i] <= start[i]) {
        lines.locate(start[i]);
        wanted[i] = lines.after;
      }
      moveEnd(i, wanted[i], columns, times, rule);
    }
    return;
  }
  for (let i = 0; i < columns.count; i++) {
    const steps = Math.max(1, Math.round((end[i] - start[i]) / step));
    moveEnd(i, start[i] + (mode === 'fixed' ? fixed : steps * step), columns, times, rule);
  }
}

/** Legato: each chord's ends meet the start of the next one, less a gap. The last chord keeps its ends. */
export function connect(
  columns: NoteColumns,
  chords: Assignment,
  times: Times,
  settings: Lengths,
  time: SongTime,
): void {
  const { first, count } = chords;
  const { start } = times;
  const rule = endRule(settings, time.meter.ppq);
  const next = nextStarts(chords, start);
  for (let c = 0; c + 1 < count; c++) {
    if (Number.isNaN(next[c])) continue;
    const wanted = addAmount(next[c], { ...settings.gap, value: -settings.gap.value }, time.tempo);
    for (let i = first[c]; i < first[c + 1]; i++) {
      if (next[c] > start[i]) moveEnd(i, Math.max(wanted, start[i] + 1), columns, times, rule);
    }
  }
}

/**
 * For each chord the next start after its own; NaN after the last. Chords that merged start together, and
 * all of them reach the next one.
 */
function nextStarts({ first, count }: Assignment, start: Float64Array): Float64Array {
  const next = new Float64Array(count).fill(NaN);
  let following = NaN;
  for (let c = count - 1; c >= 0; c--) {
    let earliest = Infinity;
    let latest = -Infinity;
    for (let i = first[c]; i < first[c + 1]; i++) {
      earliest = Math.min(earliest, start[i]);
      latest = Math.max(latest, start[i]);
    }
    next[c] = following > latest ? following : c + 1 < count && next[c + 1] > latest ? next[c + 1] : NaN;
    following = earliest;
  }
  return next;
}

/** Moves one end by the strength, within what shortening and lengthening allow. */
function moveEnd(i: number, wanted: number, columns: NoteColumns, times: Times, rule: EndRule): void {
  const { start, end } = times;
  const now = end[i];
  const to = now + rule.strength * (wanted - now);
  // The shortest length limits shortening only: what was played shorter stays so.
  const shortest = start[i] + Math.min(rule.least, columns.end[i] - columns.start[i]);
  const earliest = rule.shorten ? Math.min(now, shortest) : now;
  end[i] = Math.max(earliest, rule.lengthen ? to : Math.min(now, to));
}

/** What the settings say about moving an end; read once, asked for every note. */
interface EndRule {
  readonly strength: number;
  readonly shorten: boolean;
  readonly lengthen: boolean;
  /** Ticks. */
  readonly least: number;
}

function endRule({ strength, shorten, lengthen, min }: Lengths, ppq: number): EndRule {
  return { strength, shorten, lengthen, least: min * ppq };
}
