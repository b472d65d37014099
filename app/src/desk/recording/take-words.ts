import { counted } from '@early-sparrow/core/song';
import { costOf, type Choice, type Section, type TakeCell, type TakeTable } from '@early-sparrow/core/takes';
import { countedFirst, earlyOrLate, shortMs } from '../../common/format';

/** `Bar 5`, `Bars 5 to 8`. */
export function sectionName({ bar, lastBar }: Section): string {
  return bar === lastBar ? `Bar ${bar}` : `Bars ${bar} to ${lastBar}`;
}

/** What a cell of the table says: `6 ms · 1 wrong`. */
export function cellShort(cell: TakeCell): string {
  const faults = [
    cell.wrong > 0 ? `${cell.wrong} wrong` : '',
    cell.missed > 0 ? `${cell.missed} missed` : '',
    cell.extra > 0 ? `${cell.extra} extra` : '',
  ].filter(Boolean);
  return (
    [cell.missMs === null ? '' : `${cell.missMs.toFixed(0)}\u00a0ms`, ...faults].filter(Boolean).join(' · ') ||
    'no notes'
  );
}

/** The same in a sentence, with what else is known: `6 ms off its lines on average, 1 wrong note, velocities ±9`. */
export function cellLong(cell: TakeCell): string {
  const said = [
    cell.missMs === null ? '' : `${shortMs(cell.missMs)}\u00a0ms off the lines on average`,
    cell.wrong > 0 ? counted(cell.wrong, 'wrong note') : '',
    cell.missed > 0 ? counted(cell.missed, 'missed note') : '',
    cell.extra > 0 ? counted(cell.extra, 'extra note') : '',
    cell.uneven === null ? '' : `velocities ±${cell.uneven.toFixed(0)}`,
  ].filter(Boolean);
  return said.join(', ') || 'no notes';
}

/** A take as a whole: its lag, and its miss over all sections. */
export function takeShort({ cells, takes }: TakeTable, k: number): string {
  const told = cells[k].flatMap((c) => (c?.missMs === undefined || c.missMs === null ? [] : [c]));
  if (told.length === 0) return 'no notes';
  const notes = told.reduce((sum, c) => sum + c.notes, 0);
  const miss = told.reduce((sum, c) => sum + (c.missMs ?? 0) * c.notes, 0) / Math.max(1, notes);
  const { lagMs } = takes[k];
  return `${miss.toFixed(0)}\u00a0ms${Math.abs(lagMs) < 1 ? '' : ` · ${earlyOrLate(lagMs)} throughout`}`;
}

/** Why a take is or is not proposed for a section, against the one that is. */
export function whyTake(
  { takes, cells, sections }: TakeTable,
  s: number,
  k: number,
  { take, equal, kept }: Choice,
): string {
  const cell = cells[k][s];
  if (!cell) return `${takes[k].name} was not played in ${sectionName(sections[s]).toLowerCase()}.`;
  const own = `${sectionName(sections[s])}, ${takes[k].name}: ${cellLong(cell)}.`;
  if (take === null) return own;
  if (take !== k) {
    const best = cells[take][s];
    if (kept === k) return `${own} Better, but a note sounds across the bar line, so it cannot be joined here.`;
    if (equal.includes(k)) return `${own} As good as ${takes[take].name}.`;
    return best ? `${own} ${takes[take].name} is proposed: ${cellLong(best)}.` : own;
  }
  const also = equal.map((e) => takes[e].name);
  if (also.length > 0) return `${own} Proposed; ${also.join(' and ')} ${also.length === 1 ? 'is' : 'are'} as good.`;
  return `${own} Proposed.`;
}

/** What a proposal comes to: how much of each take, and where it is open. */
export function proposalWords({ takes, sections }: TakeTable, choices: readonly Choice[]): string {
  const one = sections.every((s) => s.bar === s.lastBar);
  const bars = (n: number) => counted(n, one ? 'bar' : 'stretch', one ? 'bars' : 'stretches');
  const parts = takes.flatMap(({ name }, k) => {
    const n = choices.filter((c) => c.take === k).length;
    return n > 0 ? [`${bars(n)} of ${name}`] : [];
  });
  const equal = choices.filter((c) => c.equal.length > 0).length;
  const kept = choices.filter((c) => c.kept !== null).length;
  return [
    `Best of the takes: ${parts.join(', ')}.`,
    equal > 0 ? `In ${bars(equal)} another is as good: decide by ear.` : '',
    kept > 0 ? `In ${bars(kept)} a better one cannot be joined, because a note sounds across.` : '',
  ]
    .filter(Boolean)
    .join(' ');
}

/** What can be said before anything is compared. */
export function nothingToCompare(takes: number, played: number): string {
  if (takes < 2) return 'This part has one take. Record it over a loop: each round becomes a take.';
  if (played < 2) return `${countedFirst(played, 'take')} has notes, so there is nothing to compare.`;
  return '';
}

/** Whether any other take is clearly better than this one in a section. */
export function isWorse(table: TakeTable, s: number, k: number): boolean {
  const own = table.cells[k][s];
  return own !== null && table.cells.some((row) => row[s] !== null && costOf(row[s]) + 5 < costOf(own));
}
