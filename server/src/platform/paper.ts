// Papers to print: what their layouts have in common.
import type PdfDocument from 'pdfkit';

/** Lengths in points (1/72 inch). */
export const MARGIN = 56;
export const INK = '#16202E';
export const QUIET = '#4B5563';
export const HAIRLINE = '#D8D2C4';

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
