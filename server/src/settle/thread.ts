// What looks ahead at billing runs, draws documents, reads files of banks and adds up months and margins, on a thread. Run by the pool.
import type { BillingPreview, DocumentPage } from '#api/documents.ts';
import type { Asked as AskedOf } from '#api/contract.ts';
import type { JournalPage } from '#api/journal.ts';
import type { BankPreview } from '#api/payments.ts';
import type { listMargins, MarginList, MarginPage } from '#api/margins.ts';
import type { AgreementId } from '#core/ids.ts';
import type { Instant, LocalDate } from '#core/time/index.ts';
import type { BankRead } from '#core/settle/index.ts';
import { Refused } from '../platform/refuse.ts';
import { answered } from '../platform/thread-work.ts';
import type { Answered } from '../platform/threads.ts';
import { certainOf, planBankFile, previewBankFile, type PlannedFile } from './bank-file.ts';
import { readBankFile } from './bank-reading.ts';
import { drawClaimPaper, type ClaimPaper } from './claim-paper.ts';
import { drawPaper } from './document-paper.ts';
import { readJournalOf } from './journal.ts';
import { readMarginOf } from './margin-of.ts';
import { readMargins } from './margins.ts';
import { previewBilling, type Asked } from './preview.ts';

type MarginQuery = AskedOf<typeof listMargins>['query'];

export const preview = ({
  url,
  ask,
  now,
}: {
  readonly url: string;
  readonly ask: Asked;
  readonly now: Instant;
}): Promise<Answered<BillingPreview>> => answered(url, (database) => previewBilling(database, ask, now));

export const margins = ({
  url,
  query,
}: {
  readonly url: string;
  readonly query: MarginQuery;
}): Promise<Answered<MarginList>> => answered(url, ({ db }) => readMargins(db, query));

export const margin = ({
  url,
  id,
  today,
}: {
  readonly url: string;
  readonly id: AgreementId;
  readonly today: LocalDate;
}): Promise<Answered<MarginPage>> => answered(url, ({ db }) => readMarginOf(db, id, today));

/** Several at once: a thread is asked once for a batch. */
export async function draw(pages: readonly DocumentPage[]): Promise<Answered<Uint8Array[]>> {
  const drawn: Uint8Array[] = [];
  for (const page of pages) drawn.push(await drawPaper(page));
  return { value: drawn };
}

export const drawClaim = async (paper: ClaimPaper): Promise<Answered<Uint8Array>> => ({
  value: await drawClaimPaper(paper),
});

type BankFile = { readonly url: string; readonly text: string };

/** The file as it was read; what it refuses ends the work. */
function readOr(text: string): BankRead {
  const read = readBankFile(text);
  if ('value' in read) return read.value;
  throw new Refused(read.refusals);
}

export const previewBank = ({ url, text }: BankFile): Promise<Answered<BankPreview>> =>
  answered(url, ({ db }) => previewBankFile(db, readOr(text)));

/** What a file holds, and the invoices it would certainly pay. */
export const planBank = ({ url, text }: BankFile): Promise<Answered<PlannedFile>> =>
  answered(url, async ({ db }) => {
    const read = readOr(text);
    return { read, certain: certainOf(await planBankFile(db, read)) };
  });

export const journal = ({
  url,
  month,
  now,
}: {
  readonly url: string;
  readonly month: string | undefined;
  readonly now: Instant;
}): Promise<Answered<JournalPage>> => answered(url, ({ db }) => readJournalOf(db, month, now));
