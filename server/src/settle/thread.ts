// What looks ahead at billing runs, draws documents and reads files of banks, on a thread. Run by the pool.
import type { BillingPreview, DocumentPage } from '#api/documents.ts';
import type { BankRead } from '#core/settle/index.ts';
import { answered } from '../platform/thread-work.ts';
import type { Answered } from '../platform/threads.ts';
import { readBankFile } from './bank-reading.ts';
import { drawPaper } from './document-paper.ts';
import { previewBilling, type Asked } from './preview.ts';

export const preview = ({
  url,
  ask,
}: {
  readonly url: string;
  readonly ask: Asked;
}): Promise<Answered<BillingPreview>> => answered(url, (database) => previewBilling(database, ask));

/** Several at once: a thread is asked once for a batch. */
export async function draw(pages: readonly DocumentPage[]): Promise<Answered<Uint8Array[]>> {
  const drawn: Uint8Array[] = [];
  for (const page of pages) drawn.push(await drawPaper(page));
  return { value: drawn };
}

export const readBank = async (text: string): Promise<Answered<BankRead>> => readBankFile(text);
