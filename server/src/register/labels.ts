// Labels: a sheet of QR codes, each with tag, serial and the link that opens the asset.
import PdfDocument from 'pdfkit';
import { toBuffer } from 'bwip-js/node';

/** The package’s types mix its callback and promise forms. */
const drawCode = toBuffer as (options: object) => Promise<Buffer>;

export type Label = { readonly tag: string; readonly serial: string; readonly model: string; readonly link: string };

/** A4 with 3 × 8 labels of 70 × 37 mm, the common sheet; lengths in points (1/72 inch). */
const MM = 72 / 25.4;
const SHEET = { width: 70 * MM, height: 37.125 * MM, across: 3, down: 8 };
const CODE = 27 * MM;

export async function labelSheet(labels: readonly Label[]): Promise<Buffer> {
  const document = new PdfDocument({ size: 'A4', margin: 0, info: { Title: 'Asset labels', Producer: 'Stavok' } });
  const parts: Buffer[] = [];
  document.on('data', (part: Buffer) => parts.push(part));
  const ended = new Promise<void>((resolve) => document.on('end', () => resolve()));
  const perPage = SHEET.across * SHEET.down;
  for (const [i, label] of labels.entries()) {
    if (i > 0 && i % perPage === 0) document.addPage();
    const at = i % perPage;
    const x = (at % SHEET.across) * SHEET.width + 4 * MM;
    const y = Math.floor(at / SHEET.across) * SHEET.height + 5 * MM;
    const code = await drawCode({ bcid: 'qrcode', text: label.link, scale: 4, eclevel: 'M' });
    document.image(code, x, y, { width: CODE, height: CODE });
    const room = SHEET.width - CODE - 10 * MM;
    const line = (text: string, size: number, font: string, offset: number): void => {
      document
        .font(font)
        .fontSize(size)
        .text(text, x + CODE + 3 * MM, y + offset, {
          width: room,
          height: size * 1.3,
          ellipsis: true,
          lineBreak: false,
        });
    };
    line(label.tag, 15, 'Courier-Bold', 2 * MM);
    line(label.model, 8, 'Helvetica', 10 * MM);
    line(label.serial, 8, 'Courier', 15 * MM);
  }
  document.end();
  await ended;
  return Buffer.concat(parts);
}
