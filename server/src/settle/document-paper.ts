// Invoices and credit notes on paper: a layout of our own, on A4, order by order, in the customer's language.
import PdfDocument from 'pdfkit';
import type { DocumentPage } from '#api/documents.ts';
import type { Party } from '#core/settle/index.ts';
import { sayQuantity } from '#core/stores/index.ts';
import type { Language } from '#core/telling.ts';
import { bytesOf, hairlineAcross, INK, MARGIN, QUIET, roomFor, rowOf, type Sheet } from '../platform/paper.ts';
import { amountSaid, dateIn, wordsIn, type Words } from './words.ts';

const amountOf = ({ language, currency }: DocumentPage, minor: number): string =>
  amountSaid(language as Language, minor, currency);

/** Where columns of figures begin, in points from the margin. */
const COLUMNS = [262, 330, 420] as const;
/** The sums stand under the last two columns. */
const SUMS = [340] as const;

function partyAt(sheet: Sheet, party: Party, x: number, y: number, words: Words): number {
  const lines = [party.address, party.country, party.taxNumber && `${words('tax number')} ${party.taxNumber}`];
  sheet.font('Helvetica-Bold').fontSize(10).fillColor(INK).text(party.name, x, y, { width: 220 });
  sheet.font('Helvetica').fontSize(9.5).fillColor(QUIET);
  for (const line of lines) if (line) sheet.text(line, x, sheet.y, { width: 220 });
  return sheet.y;
}

function headOn(sheet: Sheet, page: DocumentPage, words: Words): void {
  const title = `${words(page.kind)} ${page.number ?? words('draft')}`;
  sheet.font('Times-Bold').fontSize(20).fillColor(INK).text(title, MARGIN, MARGIN);
  const top = sheet.y + 14;
  const right = MARGIN + 270;
  const below = [
    page.seller ? partyAt(sheet, page.seller, MARGIN, top, words) : top,
    page.buyer ? partyAt(sheet, page.buyer, right, top, words) : top,
  ];
  sheet.y = Math.max(...below) + 12;
  const facts: (readonly [string, string])[] = [
    [words('date'), page.issuedOn ? dateIn(page.language as Language, page.issuedOn) : words('draft')],
    ...(page.kind === 'invoice' && page.dueOn
      ? [[words('due'), dateIn(page.language as Language, page.dueOn)] as const]
      : []),
    ...(page.reference ? [[words('your reference'), page.reference] as const] : []),
    ...(page.of?.number ? [[words('credits'), page.of.number] as const] : []),
    ...(page.reason ? [[words('because'), page.reason] as const] : []),
  ];
  for (const [name, value] of facts) {
    const { y } = sheet;
    sheet.font('Helvetica').fontSize(9.5).fillColor(QUIET).text(name, MARGIN, y, { width: 110 });
    sheet.fillColor(INK).text(value, MARGIN + 115, y, { width: 360 });
  }
}

type Line = DocumentPage['lines'][number];

/** Lines of one order or agreement stand together under its name. */
function groupsOf(lines: readonly Line[]): { readonly name: string; readonly lines: Line[] }[] {
  const groups: { name: string; lines: Line[] }[] = [];
  for (const line of lines) {
    const name = line.order ?? line.agreement ?? '';
    const last = groups.at(-1);
    if (last?.name === name) last.lines.push(line);
    else groups.push({ name, lines: [line] });
  }
  return groups;
}

/** "100 % off: borne by AG-1", in whole percent where it is one. */
function offOf(line: Line, words: Words): string {
  const percent = line.list === 0 ? 0 : (100 * line.off) / line.list;
  const said = Number.isInteger(percent) ? `${percent}` : percent.toFixed(1);
  return words('covered', { percent: said, because: line.offBecause });
}

function linesOn(sheet: Sheet, page: DocumentPage, words: Words): void {
  sheet.moveDown(0.8);
  rowOf(sheet, COLUMNS, ['', words('quantity'), words('list'), words('net')], QUIET);
  hairlineAcross(sheet, 0, 5);
  for (const { name, lines } of groupsOf(page.lines)) {
    if (name !== '') {
      roomFor(sheet, 40);
      sheet
        .font('Times-Bold')
        .fontSize(11)
        .fillColor(INK)
        .text(name, MARGIN, sheet.y + 3);
      sheet.moveDown(0.2);
    }
    for (const line of lines) {
      const unit = words(line.unit);
      const quantity = `${sayQuantity(line.quantity)}${unit === '' ? '' : ` ${unit}`}`;
      rowOf(sheet, COLUMNS, [...[line.text, quantity, amountOf(page, line.list), amountOf(page, line.net)]]);
      if (line.off !== 0) rowOf(sheet, [400], [`   ${offOf(line, words)}`], QUIET);
    }
  }
}

function sumsOn(sheet: Sheet, page: DocumentPage, words: Words): void {
  const amount = (minor: number) => `${page.currency} ${amountOf(page, minor)}`;
  roomFor(sheet, 30 + 16 * (page.taxes.length + 2));
  hairlineAcross(sheet, 4, 6);
  rowOf(sheet, SUMS, [words('without tax'), amount(page.withoutTax)]);
  for (const { category, hundredths, taxable, tax } of page.taxes) {
    const of = { percent: `${hundredths / 100}`, category, taxable: amountOf(page, taxable) };
    rowOf(sheet, SUMS, [words(category === 'S' ? 'tax' : 'exempt', of), amount(tax)]);
  }
  roomFor(sheet, 24);
  const { y } = sheet;
  sheet
    .font('Times-Bold')
    .fontSize(13)
    .fillColor(INK)
    .text(words('with tax'), MARGIN, y + 4);
  sheet.text(amount(page.withTax), MARGIN, y + 4, { width: sheet.page.width - 2 * MARGIN, align: 'right' });
  if (page.paid > 0) {
    sheet.moveDown(0.4);
    rowOf(sheet, SUMS, [words('paid on site'), amount(-page.paid)]);
    rowOf(sheet, SUMS, [words('left'), amount(page.left)]);
  }
  if (page.kind === 'invoice' && page.account !== '' && page.left > 0)
    sheet
      .moveDown(0.8)
      .font('Helvetica')
      .fontSize(9.5)
      .fillColor(QUIET)
      .text(words('account', { account: page.account, number: page.number ?? '' }), MARGIN);
}

function numberPages(sheet: Sheet, page: DocumentPage, words: Words): void {
  const { start, count } = sheet.bufferedPageRange();
  for (let i = start; i < start + count; i += 1) {
    sheet.switchToPage(i);
    const said = `${page.number ?? words('draft')} · ${words('page', { page: `${i + 1}/${count}` })}`;
    const at = sheet.page.height - MARGIN + 14;
    // Below the margin: else a page would be begun for it.
    sheet.page.margins.bottom = 0;
    sheet.font('Helvetica').fontSize(8).fillColor(QUIET).text(said, MARGIN, at, { lineBreak: false });
    sheet.page.margins.bottom = MARGIN;
  }
}

export const drawPaper = (page: DocumentPage): Promise<Buffer> => {
  const words = wordsIn(page.language as Language);
  const title = `${words(page.kind)} ${page.number ?? ''}`.trim();
  const sheet = new PdfDocument({ size: 'A4', margin: MARGIN, bufferPages: true, info: { Title: title } });
  return bytesOf(sheet, () => {
    headOn(sheet, page, words);
    linesOn(sheet, page, words);
    sumsOn(sheet, page, words);
    numberPages(sheet, page, words);
  });
};
