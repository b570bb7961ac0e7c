// A purchase order to print: a layout of our own, on A4, with the supplier's own numbers.
import PdfDocument from 'pdfkit';
import { purchaseNumber, type PurchasePage } from '#api/purchases.ts';
import { sayAmountOf } from '#core/money.ts';
import { sayAmount } from '#core/stores/index.ts';
import { sayDay } from '#core/time/index.ts';
import { bytesOf, hairlineAcross, INK, MARGIN, QUIET, rowOf, type Sheet } from '../platform/paper.ts';

/** Points: where columns begin, from the left edge of the text. */
const STARTS = [215, 285, 345, 415];
const CURRENCY = 'EUR';

const row = (sheet: Sheet, cells: readonly string[], colour = INK): void => rowOf(sheet, STARTS, cells, colour);

function headOf(sheet: Sheet, { id, supplier, store, note }: PurchasePage): void {
  sheet
    .font('Times-Bold')
    .fontSize(20)
    .fillColor(INK)
    .text(`Purchase order ${purchaseNumber(id)}`, MARGIN, MARGIN);
  sheet.font('Helvetica').fontSize(10).fillColor(QUIET);
  sheet.text(`To ${supplier.name}. Deliver to ${store.name}.`);
  if (note) sheet.moveDown(0.8).fillColor(INK).text(note);
  sheet.moveDown(1);
}

const amountOf = (minor: number | null): string => (minor === null ? '' : sayAmountOf(minor, CURRENCY));

export function purchaseDocument(page: PurchasePage): Promise<Buffer> {
  const sheet = new PdfDocument({
    ...{ size: 'A4', margin: MARGIN, info: { Title: purchaseNumber(page.id), Producer: 'Stavok' } },
  });
  return bytesOf(sheet, () => {
    headOf(sheet, page);
    row(sheet, ['Part', 'Your number', 'Quantity', 'Wanted on', `Amount ${CURRENCY}`], QUIET);
    hairlineAcross(sheet, 0, 5);
    for (const { part, theirNumber, thousandths, promisedOn, amount } of page.lines)
      row(sheet, [
        ...[`${part.number} ${part.name}`, theirNumber, `${sayAmount(thousandths, part.unit)}`],
        ...[promisedOn === null ? '' : sayDay(promisedOn), amountOf(amount)],
      ]);
    hairlineAcross(sheet, 2, 5);
    row(sheet, ['Without tax', '', '', '', amountOf(page.total)]);
  });
}
