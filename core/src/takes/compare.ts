import type { Lines } from '../grid';
import { timeOf, type Part, type Song } from '../song';
import type { Ms, Ticks } from '../time';
import { partLines } from '../treatment';
import { agree, type Agreement } from './agree';
import { measureTakes, type Compared, type TakeNotes } from './take-notes';

/** What one take plays in one section, in numbers. */
export interface TakeCell {
  /** Notes that count, right and wrong. */
  readonly notes: number;
  /** Mean distance from the lines in ms, after the take's own lag; null without a note that tells it. */
  readonly missMs: Ms | null;
  /** Standard error of that mean. */
  readonly doubtMs: Ms;
  readonly missed: number;
  readonly wrong: number;
  /** Notes that hardly any other take has. */
  readonly extra: number;
  /** Mean distance of velocities from what is usual at their places over all takes; null where nobody else plays them. */
  readonly uneven: number | null;
}

/** A bar, or some of them. */
export interface Section {
  readonly from: Ticks;
  readonly to: Ticks;
  /** Numbers of its first and last bar, counted from 1. */
  readonly bar: number;
  readonly lastBar: number;
  /** The gap between lines at its beginning. */
  readonly gap: Ticks;
}

/** The takes of a part, section by section. */
export interface TakeTable {
  readonly sections: readonly Section[];
  readonly takes: readonly TakeNotes[];
  /** A row a take; null where it was not played: it begins later or was stopped earlier. */
  readonly cells: readonly (readonly (TakeCell | null)[])[];
  /** The section of each note, take by take. */
  readonly sectionOf: readonly Int32Array[];
}

/**
 * Compares the takes of a part, so many bars at a time. Null where nothing is played.
 * @param part with the lines that its treatment has, whether or not it is on
 * @param bars in a section, 1 or more
 */
export function compareTakes(part: Part, compared: readonly Compared[], song: Song, bars = 1): TakeTable | null {
  const takes = measureTakes(part, compared, song);
  const lines = partLines(part, song);
  const sections = sectionsOf(takes, song, bars, lines);
  if (sections.length === 0) return null;
  const { tempo } = timeOf(song);
  const at = (tick: Ticks) => sectionAt(sections, tick);
  const spans = takes.map(({ line }) => [at(least(line)), at(most(line))] as const);
  const covers = (k: number, line: Ticks) =>
    takes[k].line.length > 0 && spans[k][0] <= at(line) && at(line) <= spans[k][1];
  const places = { between: (a: Ticks, b: Ticks) => tempo.between(a, b), gapAt: (t: Ticks) => lines.gapAt(t) };
  const agreement = agree(takes, places, covers);
  const sectionOf = agreement.line.map((line) => Int32Array.from(line, at));
  const cells = takes.map((_, k) =>
    sections.map((section, s) => (covers(k, section.from) ? cellOf(agreement, sectionOf[k], k, s, at) : null)),
  );
  return { sections, takes, cells, sectionOf };
}

/** Index of the section that holds a tick; what is before or after them belongs to the first or last. */
export function sectionAt(sections: readonly Section[], tick: Ticks): number {
  let [low, high] = [0, sections.length - 1];
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (sections[middle].from <= tick) low = middle;
    else high = middle - 1;
  }
  return low;
}

/** From the bar of the first line that is played to the bar of the last. */
function sectionsOf(takes: readonly TakeNotes[], song: Song, bars: number, lines: Lines): Section[] {
  const played = takes.filter(({ line }) => line.length > 0);
  if (played.length === 0) return [];
  const { meter } = timeOf(song);
  const end = Math.max(...played.map(({ line }) => most(line)));
  const sections: Section[] = [];
  let from = meter.barStartAt(Math.min(...played.map(({ line }) => least(line))));
  while (from <= end) {
    const { bar } = meter.toBarBeat(from);
    let to = from;
    for (let n = 0; n < bars; n++) to = meter.nextBarStart(to);
    sections.push({ from, to, bar, lastBar: bar + bars - 1, gap: lines.gapAt(from) });
    from = to;
  }
  return sections;
}

function cellOf(
  { heard, off, uneven, missed }: Agreement,
  section: Int32Array,
  k: number,
  s: number,
  at: (t: Ticks) => number,
): TakeCell {
  let [notes, wrong, extra, told, sum, squares, spread, spreads] = [0, 0, 0, 0, 0, 0, 0, 0];
  for (let i = 0; i < section.length; i++) {
    if (section[i] !== s) continue;
    notes++;
    if (heard[k][i] === 'wrong') wrong++;
    if (heard[k][i] === 'extra') extra++;
    else {
      const miss = Math.abs(off[k][i]);
      told++;
      sum += miss;
      squares += miss * miss;
    }
    if (!Number.isNaN(uneven[k][i])) {
      spread += Math.abs(uneven[k][i]);
      spreads++;
    }
  }
  const missMs = told > 0 ? sum / told : null;
  const variance = told > 1 ? Math.max(0, squares - (sum * sum) / told) / (told - 1) : 0;
  return {
    notes,
    missMs,
    doubtMs: told > 1 ? Math.sqrt(variance / told) : 0,
    missed: missed[k].filter((line) => at(line) === s).length,
    wrong,
    extra,
    uneven: spreads > 0 ? spread / spreads : null,
  };
}

function least(line: Float64Array): Ticks {
  return line.reduce((a, b) => Math.min(a, b), Infinity);
}

function most(line: Float64Array): Ticks {
  return line.reduce((a, b) => Math.max(a, b), -Infinity);
}
