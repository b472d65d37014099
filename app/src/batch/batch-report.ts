import { csvRow } from '@early-sparrow/core/insight';
import type { Recipe } from '@early-sparrow/core/recipe';
import type { Row } from './batch';

const COLUMNS = [
  'file',
  'written_as',
  'track',
  'lines',
  'lag_ms',
  'notes',
  'moved',
  'typical_move_ms',
  'largest_move_ms',
  'merges',
  'look_at',
];

/** A line for each track of each file, and one for each file that could not be corrected (RFC 4180). */
export function reportCsv(rows: readonly Row[], outputs: ReadonlyMap<number, string>): string {
  const lines = rows.flatMap((row) => {
    if (row.state === 'failed') return [csvRow([row.file.name, '', '', '', '', '', '', '', '', '', row.reason])];
    if (row.state !== 'done') return [];
    return row.tracks.map((t) =>
      csvRow([
        row.file.name,
        outputs.get(row.id) ?? '',
        t.name,
        t.grid,
        t.lagMs ?? '',
        t.notes,
        t.moved,
        tenth(t.typicalMs),
        tenth(t.largestMs),
        t.merges,
        t.doubts.join(' '),
      ]),
    );
  });
  return [csvRow(COLUMNS), ...lines, ''].join('\r\n');
}

/** The same for programs, with the recipe that was used. */
export function reportJson(recipe: Recipe, rows: readonly Row[], outputs: ReadonlyMap<number, string>): string {
  const files = rows.flatMap((row): object[] => {
    if (row.state === 'failed') return [{ file: row.file.name, reason: row.reason }];
    if (row.state !== 'done') return [];
    return [{ file: row.file.name, output: outputs.get(row.id), notices: row.notices, tracks: row.tracks }];
  });
  return `${JSON.stringify({ recipe, files }, null, 1)}\n`;
}

const tenth = (ms: number) => Math.round(ms * 10) / 10;
