// CSV as text: what leaves the house in files that spreadsheets open.

/** Text a spreadsheet would run as a formula is kept as text by a leading apostrophe (export). Plain numbers stay numbers. */
export function harmlessCell(value: string): string {
  return /^[=+\-@\t\r]/.test(value) && !/^[+-]?\d+([.,]\d+)?$/.test(value) ? `'${value}` : value;
}

const quoted = (cell: string): string => (/[",\r\n]/.test(cell) ? `"${cell.replaceAll('"', '""')}"` : cell);

/** Rows as one CSV text with a byte order mark, so that spreadsheets read it as UTF-8. Source: RFC 4180, section 2. */
export function csvText(rows: readonly (readonly string[])[]): string {
  return `\uFEFF${rows.map((row) => row.map((cell) => quoted(harmlessCell(cell))).join(',')).join('\r\n')}\r\n`;
}
