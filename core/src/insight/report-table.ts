import type { NoteReport } from '../treatment';
import { cell, csvRow } from './csv';

/** A part's notes before and after as comma-separated values (RFC 4180), offsets in ms. */
export function reportCsv(notes: readonly NoteReport[]): string {
  const rows = notes.map((n) =>
    csvRow([n.id, n.pitch, n.played, n.corrected, cell(n.line), cell(n.offsetMs), cell(n.leftMs), n.fate]),
  );
  return ['note,pitch,played_tick,corrected_tick,line_tick,offset_ms,left_ms,fate', ...rows, ''].join('\r\n');
}
