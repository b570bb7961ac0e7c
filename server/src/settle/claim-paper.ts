// A claim on paper, with its evidence: the machine, the warranty, what was found and done, parts with their serials, photos, and what is asked for.
import PdfDocument from 'pdfkit';
import { claimNumber, type ClaimPage } from '#api/claims.ts';
import type { OrderPage } from '#api/orders.ts';
import type { OrderCharges } from '#api/settle.ts';
import { orderNumber } from '#api/shapes.ts';
import type { ClaimId, OrderId } from '#core/ids.ts';
import { sayAmountOf } from '#core/money.ts';
import { FINDINGS } from '#core/orders/index.ts';
import type { Party } from '#core/settle/index.ts';
import { sayAmount } from '#core/stores/index.ts';
import { localDateAt, sayDate, type Instant, type LocalDate, type Zone } from '#core/time/index.ts';
import { readOrderAs } from '../orders/index.ts';
import { readContent } from '../platform/content.ts';
import type { Db } from '../platform/database.ts';
import { bytesOf, DRAWN, heading, INK, MARGIN, QUIET, roomFor, rowOf, said, type Sheet } from '../platform/paper.ts';
import { settleSettings } from './billing-settings.ts';
import { evidenceOf, isPhoto, readClaimOf } from './claim-pages.ts';
import { chargesOf } from './of-order.ts';

export type ClaimPaper = {
  readonly page: ClaimPage;
  readonly order: OrderPage;
  readonly charges: Pick<OrderCharges, 'entries' | 'parts'>;
  readonly seller: Party | null;
  readonly photos: readonly { readonly name: string; readonly bytes: Uint8Array }[];
};

/** Photos on a paper, and how large each may be. */
const MOST_PHOTOS = 8;
const LARGEST_PHOTO = 3_000_000;

/** Everything that the paper of a claim says, as it stands. */
export async function claimPaperOf(db: Db, id: ClaimId, now: Instant, today: LocalDate): Promise<ClaimPaper> {
  const page = await readClaimOf(db, id, today);
  const orderId = page.order.id as OrderId;
  // What the maker sees holds nothing that is for the desk but what is asked for.
  const as = { role: 'technician' } as const;
  const [order, charges, files, { seller }] = await Promise.all([
    readOrderAs(db, as, orderId, now),
    chargesOf(db, orderId, as.role),
    evidenceOf(db, orderId),
    settleSettings(db),
  ]);
  const drawn = files.filter((f) => isPhoto(f) && DRAWN.includes(f.type)).slice(0, MOST_PHOTOS);
  const photos = await Promise.all(drawn.map(async (f) => ({ name: f.name, bytes: await readContent(db, f.sha256) })));
  return {
    ...{ page, order, seller, photos: photos.filter((p) => p.bytes.length <= LARGEST_PHOTO) },
    charges: { entries: charges.entries, parts: charges.parts },
  };
}

function headOn(sheet: Sheet, { page, order, seller }: ClaimPaper): void {
  sheet
    .font('Times-Bold')
    .fontSize(20)
    .fillColor(INK)
    .text(`Warranty claim ${claimNumber(page.id)}`, MARGIN, MARGIN);
  sheet.font('Helvetica').fontSize(11).text(`To ${page.maker}`);
  sheet.moveDown(0.4);
  if (seller)
    said(sheet, [seller.name, seller.address, seller.country, seller.taxNumber].filter(Boolean).join(', '), QUIET);
  sheet.moveDown(0.4);
  said(sheet, `Our order ${orderNumber(order.id)}, ${order.title}`);
  said(sheet, `Called ${sayDate(localDateAt(order.zone as Zone, order.startedAt))}, done ${sayDate(page.doneOn)}`);
  for (const because of page.because) said(sheet, because);
  const done = order.events.find((e) => e.kind === 'done');
  if (done?.text) said(sheet, `What was done: ${done.text}`);
}

/** A machine that the claim is about, with what was found, done and used at it. */
function machineOn(sheet: Sheet, line: OrderPage['lines'][number], { order, charges }: ClaimPaper): void {
  heading(sheet, `${line.className} ${line.model} ${line.tag}`);
  said(
    sheet,
    `${line.serial === '' ? 'Serial not known' : `Serial ${line.serial}`}. ${order.customer.name}, ${line.place}`,
    QUIET,
  );
  for (const what of FINDINGS)
    if (line.found[what]) said(sheet, `${what[0]?.toUpperCase()}${what.slice(1)}: ${line.found[what]}`);
  const minutes = charges.entries.filter((e) => e.lineId === line.id).reduce((sum, e) => sum + e.minutes, 0);
  if (minutes > 0) said(sheet, `Time: ${minutes} minutes`);
  const parts = charges.parts.filter((p) => p.lineId === line.id);
  if (parts.length === 0) return;
  sheet.moveDown(0.3);
  rowOf(sheet, [300, 400], ['Parts', 'Serial', 'Quantity'], QUIET);
  for (const { part, serial, thousandths } of parts)
    rowOf(sheet, [300, 400], [`${part.number} ${part.name}`, serial, sayAmount(thousandths, part.unit)]);
}

function askedOn(sheet: Sheet, { page }: ClaimPaper): void {
  heading(sheet, 'What we ask for');
  const amount = (minor: number) => sayAmountOf(minor, page.currency);
  for (const l of page.lines)
    if (l.asked > 0)
      rowOf(sheet, [400], [[l.element, l.text, l.machine?.tag].filter(Boolean).join(', '), amount(l.asked)]);
  roomFor(sheet, 24);
  const y = sheet.y + 4;
  sheet.font('Times-Bold').fontSize(13).fillColor(INK).text('Together, without tax', MARGIN, y);
  const width = sheet.page.width - 2 * MARGIN;
  sheet.text(`${page.currency} ${amount(page.asked)}`, MARGIN, y, { width, align: 'right' });
}

const PHOTO_HEIGHT = 210;
function photosOn(sheet: Sheet, { photos }: ClaimPaper): void {
  if (photos.length === 0) return;
  heading(sheet, 'Photos');
  for (const { name, bytes } of photos) {
    roomFor(sheet, PHOTO_HEIGHT + 20);
    const { y } = sheet;
    try {
      sheet.image(Buffer.from(bytes), MARGIN, y, { fit: [sheet.page.width - 2 * MARGIN, PHOTO_HEIGHT] });
      sheet.y = y + PHOTO_HEIGHT + 2;
    } catch {
      // It calls itself a picture and is none that can be drawn: named all the same.
      sheet.y = y;
    }
    said(sheet, name, QUIET);
    sheet.moveDown(0.4);
  }
}

export function drawClaimPaper(paper: ClaimPaper): Promise<Buffer> {
  const info = { Title: `Warranty claim ${claimNumber(paper.page.id)}`, Producer: 'Stavok' };
  const sheet = new PdfDocument({ size: 'A4', margin: MARGIN, info });
  const about = new Set(paper.page.lines.map((l) => l.machine?.id));
  return bytesOf(sheet, () => {
    headOn(sheet, paper);
    for (const line of paper.order.lines) if (about.has(line.assetId ?? undefined)) machineOn(sheet, line, paper);
    askedOn(sheet, paper);
    photosOn(sheet, paper);
  });
}
