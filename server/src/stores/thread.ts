// What takes long, on a thread: all parts of all stores gone through day by day for what runs low, and papers. Run by the pool.
import { parse } from 'csv-parse/sync';
import type { PurchasePage } from '#api/purchases.ts';
import { refusal } from '#core/refusal.ts';
import { readParts, readShelvesFile, type ListRead, type PartRow, type ShelfRow } from '#core/stores/index.ts';
import type { Instant } from '#core/time/index.ts';
import { answered } from '../platform/thread-work.ts';
import type { Answered } from '../platform/threads.ts';
import { keepFigures } from './figures.ts';
import { purchaseDocument } from './purchase-document.ts';
import { keepProposals } from './reordering.ts';

export const lookForLow = ({ url, now }: { readonly url: string; readonly now: Instant }): Promise<Answered<number>> =>
  answered(url, (database) => keepProposals(database, now));

export const workOutFigures = ({
  url,
  now,
}: {
  readonly url: string;
  readonly now: Instant;
}): Promise<Answered<number>> => answered(url, (database) => keepFigures(database, now));

export const drawPurchase = async (page: PurchasePage): Promise<Answered<Uint8Array>> => ({
  value: await purchaseDocument(page),
});

function listIn<Row>(text: string, read: (records: string[][]) => ListRead<Row>): Answered<ListRead<Row>> {
  try {
    return { value: read(parse(text, { bom: true, relax_column_count: true, skip_empty_lines: false })) };
  } catch (error) {
    const message = `The file cannot be read as CSV: ${(error as Error).message}`;
    return { refusals: [refusal('malformed', message, 'text')] };
  }
}
export const readPartsIn = async (text: string): Promise<Answered<ListRead<PartRow>>> => listIn(text, readParts);
export const readShelvesIn = async (text: string): Promise<Answered<ListRead<ShelfRow>>> =>
  listIn(text, readShelvesFile);
