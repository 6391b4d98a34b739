/** A table as CSV (RFC 4180), its heads first. */
export function csvTable(rows: readonly (readonly (string | number)[])[]): string {
  return rows
    .map((row) => `${row.map((cell) => (typeof cell === 'number' ? cell : quoted(cell))).join(',')}\r\n`)
    .join('');
}

function quoted(text: string): string {
  return /[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
}
