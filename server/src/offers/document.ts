// An offer to print: a layout of our own, on A4, machine by machine, with the tax by its category.
import PdfDocument from 'pdfkit';
import { offerNumber, type OfferPage } from '#api/offers.ts';
import { sayAmountOf } from '#core/money.ts';
import { sayQuantity } from '#core/stores/index.ts';
import { sayDay } from '#core/time/index.ts';
import { bytesOf, hairlineAcross, INK, MARGIN, QUIET, roomFor, rowOf, type Sheet } from '../platform/paper.ts';

/** Points: where columns begin, from the left edge of the text; the last two end at the right. */
const QUANTITY_AT = 270;
const PRICE_AT = 345;
const AMOUNT_AT = 415;

type Line = OfferPage['lines'][number];

const rule = (sheet: Sheet): void => hairlineAcross(sheet, 2, 5);

const row = (sheet: Sheet, cells: readonly [string, string, string, string], colour = INK): void =>
  rowOf(sheet, [QUANTITY_AT, PRICE_AT, AMOUNT_AT], cells, colour);

function headOf(sheet: Sheet, page: OfferPage): void {
  sheet.font('Times-Bold').fontSize(20).fillColor(INK).text(page.title, MARGIN, MARGIN);
  sheet.font('Helvetica').fontSize(10).fillColor(QUIET);
  sheet.text(`Offer ${offerNumber(page.id)} to ${page.customer.name}, valid until ${sayDay(page.validUntil)}`);
  const who = [page.contact && `For the attention of ${page.contact.name}`, page.who && `Written by ${page.who}`];
  sheet.text(who.filter((x) => x).join('. '));
  if (page.text) sheet.moveDown(0.8).fillColor(INK).fontSize(10).text(page.text);
  sheet.moveDown(1);
}

const sayHours = (minutes: number): string =>
  [minutes >= 60 && `${Math.floor(minutes / 60)} h`, minutes % 60 > 0 && `${minutes % 60} min`]
    .filter((x) => x)
    .join(' ');

const quantityOf = ({ kind, quantity, unit }: Line): string =>
  kind === 'work' ? sayHours(quantity) : `${sayQuantity(quantity)} ${unit}`;

function linesOf(sheet: Sheet, title: string, lines: readonly Line[], currency: string): void {
  if (lines.length === 0) return;
  roomFor(sheet, 60);
  sheet.font('Times-Bold').fontSize(12).fillColor(INK).text(title, MARGIN);
  rule(sheet);
  row(sheet, ['', 'Quantity', 'Price', `Amount ${currency}`], QUIET);
  for (const line of lines) {
    row(sheet, [line.text, quantityOf(line), sayAmountOf(line.price, currency), sayAmountOf(line.list, currency)]);
    if (line.off > 0) row(sheet, [`  less ${line.discount} %`, '', '', sayAmountOf(-line.off, currency)], QUIET);
  }
  sheet.moveDown(0.8);
}

function sumsOf(sheet: Sheet, { totals, currency }: OfferPage): void {
  roomFor(sheet, 90);
  rule(sheet);
  const sum = (name: string, minor: number): void => row(sheet, [name, '', '', sayAmountOf(minor, currency)]);
  sum('Without tax', totals.withoutTax);
  for (const { category, hundredths, taxable, tax } of totals.rows)
    sum(
      `Tax ${(hundredths / 100).toFixed(hundredths % 100 === 0 ? 0 : 2)} % (${category}) of ${sayAmountOf(taxable, currency)}`,
      tax,
    );
  sheet.font('Helvetica-Bold');
  sum('With tax', totals.withTax);
}

export function offerDocument(page: OfferPage): Promise<Buffer> {
  const sheet = new PdfDocument({
    size: 'A4',
    margin: MARGIN,
    info: { Title: `${offerNumber(page.id)} ${page.title}`, Producer: 'Stavok' },
  });
  return bytesOf(sheet, () => {
    headOf(sheet, page);
    for (const machine of page.machines)
      linesOf(
        sheet,
        [`${machine.model} ${machine.tag}`, machine.place].filter((x) => x).join(', '),
        page.lines.filter((l) => l.assetId === machine.id),
        page.currency,
      );
    const rest = page.lines.filter((l) => !page.machines.some((m) => m.id === l.assetId));
    linesOf(sheet, page.machines.length > 0 ? 'Besides' : (page.place?.name ?? 'What is offered'), rest, page.currency);
    sumsOf(sheet, page);
  });
}
