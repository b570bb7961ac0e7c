// Labels: a sheet of QR codes, each with what it is called and the link that opens it.
import PdfDocument from 'pdfkit';
import { encode } from 'uqr';

export type Label = {
  /** A tag or number, the largest on it. */
  readonly mark: string;
  readonly name: string;
  /** Its serial, or the bin it lies in. */
  readonly beside: string;
  readonly link: string;
};

/** A4 with 3 × 8 labels of 70 × 37 mm, the common sheet; lengths in points (1/72 inch). */
const MM = 72 / 25.4;
const SHEET = { width: 70 * MM, height: 37.125 * MM, across: 3, down: 8 };
const CODE = 27 * MM;

/** A QR code (ISO/IEC 18004, error correction M) drawn as squares: sharp at any size, and no picture to be made. */
function drawCode(document: PDFKit.PDFDocument, text: string, x: number, y: number): void {
  const { data, size } = encode(text, { ecc: 'M', border: 0 });
  const side = CODE / size;
  data.forEach((row, down) => {
    // Squares side by side are drawn as one, so that no hairline shows between them.
    for (let from = 0; from < size; from += 1) {
      if (!row[from]) continue;
      let to = from;
      while (row[to + 1]) to += 1;
      document.rect(x + from * side, y + down * side, (to - from + 1) * side, side);
      from = to;
    }
  });
  document.fill('black');
}

export async function labelSheet(labels: readonly Label[]): Promise<Buffer> {
  const document = new PdfDocument({ size: 'A4', margin: 0, info: { Title: 'Labels', Producer: 'Stavok' } });
  const parts: Buffer[] = [];
  document.on('data', (part: Buffer) => parts.push(part));
  const ended = new Promise<void>((resolve) => document.on('end', () => resolve()));
  const perPage = SHEET.across * SHEET.down;
  for (const [i, label] of labels.entries()) {
    if (i > 0 && i % perPage === 0) document.addPage();
    const at = i % perPage;
    const x = (at % SHEET.across) * SHEET.width + 4 * MM;
    const y = Math.floor(at / SHEET.across) * SHEET.height + 5 * MM;
    drawCode(document, label.link, x, y);
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
    line(label.mark, 15, 'Courier-Bold', 2 * MM);
    line(label.name, 8, 'Helvetica', 10 * MM);
    line(label.beside, 8, 'Courier', 15 * MM);
  }
  document.end();
  await ended;
  return Buffer.concat(parts);
}
