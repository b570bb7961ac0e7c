// CSV as text: what leaves the house in files that spreadsheets open.

/** What no eye sees at the start of a text: spaces, controls, marks of direction and joining, the byte order mark. */
const UNSEEN = /^[\s\p{Cc}\p{Cf}]*/u;
/** Signs that begin a formula, in their full width too (some spreadsheets fold them). */
const BEGINS_FORMULA = /^[=+\-@\uFF1D\uFF0B\uFF0D\uFF20]/u;
const PLAIN_NUMBER = /^[+-]?\d+([.,]\d+)?$/;

/** Text a spreadsheet would run as a formula is kept as text by a leading apostrophe (export), also behind unseen characters. Plain numbers stay numbers. */
export function harmlessCell(value: string): string {
  if (/^[\t\r]/.test(value)) return `'${value}`;
  return BEGINS_FORMULA.test(value.replace(UNSEEN, '')) && !PLAIN_NUMBER.test(value) ? `'${value}` : value;
}

const quoted = (cell: string): string => (/[",\r\n]/.test(cell) ? `"${cell.replaceAll('"', '""')}"` : cell);

/** Rows as one CSV text with a byte order mark, so that spreadsheets read it as UTF-8. Source: RFC 4180, section 2. */
export function csvText(rows: readonly (readonly string[])[]): string {
  return `\uFEFF${rows.map((row) => row.map((cell) => quoted(harmlessCell(cell))).join(',')).join('\r\n')}\r\n`;
}
