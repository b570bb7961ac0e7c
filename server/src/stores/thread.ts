// What takes long, on a thread: all parts of all stores gone through day by day for what runs low, and papers. Run by the pool.
import type { PurchasePage } from '#api/purchases.ts';
import type { Instant } from '#core/time/index.ts';
import { answered } from '../platform/thread-work.ts';
import type { Answered } from '../platform/threads.ts';
import { purchaseDocument } from './purchase-document.ts';
import { keepProposals } from './reordering.ts';

export const lookForLow = ({ url, now }: { readonly url: string; readonly now: Instant }): Promise<Answered<number>> =>
  answered(url, (database) => keepProposals(database, now));

export const drawPurchase = async (page: PurchasePage): Promise<Answered<Uint8Array>> => ({
  value: await purchaseDocument(page),
});
