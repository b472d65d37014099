/** One record of comma-separated values; what holds a comma, a quote or a line's end is quoted (RFC 4180). */
export function csvRow(cells: readonly (string | number)[]): string {
  return cells.map((c) => (/[",\r\n]/.test(String(c)) ? `"${String(c).replaceAll('"', '""')}"` : c)).join(',');
}

/** A number with at most three digits after the point; nothing for null. */
export function cell(value: number | null): string {
  return value === null ? '' : String(Math.round(value * 1000) / 1000);
}
