// Papers to print: what their layouts have in common.
import type PdfDocument from 'pdfkit';

/** Lengths in points (1/72 inch). */
export const MARGIN = 56;
export const INK = '#16202E';
export const QUIET = '#4B5563';
export const HAIRLINE = '#D8D2C4';

/** Kinds of pictures that can be drawn on a paper. */
export const DRAWN = ['image/jpeg', 'image/png'];

export type Sheet = InstanceType<typeof PdfDocument>;

/** A hairline across the page, `above` points below what was written last; what comes next stands `below` points under it. */
export function hairlineAcross(sheet: Sheet, above: number, below: number): void {
  const y = sheet.y + above;
  sheet
    .moveTo(MARGIN, y)
    .lineTo(sheet.page.width - MARGIN, y)
    .lineWidth(0.6)
    .strokeColor(HAIRLINE)
    .stroke();
  sheet.y = y + below;
}

/** A new page where what comes next has no room on this one. */
export function roomFor(sheet: Sheet, height: number): void {
  if (sheet.y + height > sheet.page.height - MARGIN) sheet.addPage();
}

/** A row of a table: each cell in as many lines as it needs, those after the first at the right of columns that begin at `starts`. */
export function rowOf(sheet: Sheet, starts: readonly number[], cells: readonly string[], colour = INK): void {
  sheet.font('Helvetica').fontSize(9.5);
  const [text = '', ...others] = cells;
  const width = (starts[0] ?? 0) - 10;
  const right = sheet.page.width - 2 * MARGIN;
  const widthOf = (i: number): number =>
    (starts[i + 1] === undefined ? right : (starts[i + 1] as number) - 6) - (starts[i] ?? 0);
  const height = Math.max(
    sheet.heightOfString(text || ' ', { width }),
    ...others.map((cell, i) => sheet.heightOfString(cell || ' ', { width: widthOf(i) })),
  );
  roomFor(sheet, height + 4);
  const { y } = sheet;
  sheet.fillColor(colour).text(text, MARGIN, y, { width });
  for (const [i, cell] of others.entries())
    sheet.text(cell, MARGIN + (starts[i] ?? 0), y, { width: widthOf(i), align: 'right' });
  sheet.y = y + height + 4;
}

/** Begins a part of a paper; not as the last line of a page. */
export function heading(sheet: Sheet, text: string): void {
  roomFor(sheet, 50);
  sheet.moveDown(0.6).font('Times-Bold').fontSize(12).fillColor(INK).text(text, MARGIN);
  hairlineAcross(sheet, 2, 5);
}

/** A paragraph. */
export function said(sheet: Sheet, text: string, colour = INK): void {
  sheet.font('Helvetica').fontSize(9.5).fillColor(colour);
  roomFor(sheet, sheet.heightOfString(text));
  sheet.text(text, MARGIN);
}

/** The whole paper, once `draw` has written and ended it. */
export async function bytesOf(sheet: Sheet, draw: () => void): Promise<Buffer> {
  const parts: Buffer[] = [];
  sheet.on('data', (part: Buffer) => parts.push(part));
  const ended = new Promise<void>((resolve) => sheet.on('end', () => resolve()));
  draw();
  sheet.end();
  await ended;
  return Buffer.concat(parts);
}
