import type { NoteReport } from '../treatment';

/** A part's notes before and after as comma-separated values (RFC 4180), offsets in ms. */
export function reportCsv(notes: readonly NoteReport[]): string {
  const rows = notes.map((n) =>
    [n.id, n.pitch, n.played, n.corrected, cell(n.line), cell(n.offsetMs), cell(n.leftMs), n.fate].join(','),
  );
  return ['note,pitch,played_tick,corrected_tick,line_tick,offset_ms,left_ms,fate', ...rows, ''].join('\r\n');
}

function cell(value: number | null): string {
  return value === null ? '' : String(Math.round(value * 1000) / 1000);
}
