// Papers of issued documents: drawn beside requests, kept as they were drawn, and mailed to whom the customer named.
import { and, asc, eq, gte, isNull } from 'drizzle-orm';
import * as v from 'valibot';
import type { DocumentId } from '#core/ids.ts';
import { refusal } from '#core/refusal.ts';
import type { DocumentPage } from '#api/billing.ts';
import { sayAmountOf } from '#core/money.ts';
import { sayDate, type Instant } from '#core/time/index.ts';
import { contact } from '../customers/tables.ts';
import { tellOutside } from '../outbox/index.ts';
import { keepContent } from '../platform/content.ts';
import type { Database, Tx } from '../platform/database.ts';
import { jobKind } from '../platform/job-kind.ts';
import { holdClaim } from '../platform/jobs.ts';
import { announce } from '../platform/live.ts';
import { onThreads, type Answered } from '../platform/threads.ts';
import { billingOf } from './billing-settings.ts';
import { document } from './document-tables.ts';
import { PAPERS } from './documents.ts';
import { DOCUMENT_SENT } from './messages.ts';
import { readOne } from './reading.ts';

const onThread = onThreads<{ draw(pages: readonly DocumentPage[]): Promise<Answered<Uint8Array[]>> }>(
  new URL('./thread.mjs', import.meta.url),
  refusal('too-large', 'The document is too large to be drawn at once.'),
);

/** As it stands: of a draft marked as such, of an issued one as it is kept. */
export async function paperOf(page: DocumentPage): Promise<Buffer> {
  const [paper] = await onThread('draw', [page]);
  return Buffer.from(paper as Uint8Array);
}

/** Documents of one batch. */
const AT_ONCE = 20;

async function keepPaper(tx: Tx, page: DocumentPage, paper: Buffer, now: Instant): Promise<void> {
  const id = page.id as DocumentId;
  const [row] = await tx.db.select().from(document).where(eq(document.id, id)).for('update');
  if (!row || row.paper !== null) return;
  const sha256 = await keepContent(tx, paper, 'application/pdf');
  await tx.db.update(document).set({ paper: sha256 }).where(eq(document.id, id));
  const { contactId } = (await billingOf(tx.db, [row.customerId]))(row.customerId);
  if (contactId === null) return;
  const [to] = await tx.db.select().from(contact).where(eq(contact.id, contactId));
  if (!to?.email) return;
  const { name, email, language } = to;
  await tellOutside(
    tx,
    DOCUMENT_SENT,
    // A paper goes by mail, whatever way they like otherwise.
    { name, personId: null, mail: email, phone: null, prefers: 'mail', language, hasBrowser: false },
    {
      key: `document ${id}`,
      values: {
        ...{ name, number: page.number ?? '', customer: page.customer.name },
        amount: `${page.currency} ${sayAmountOf(page.withTax, page.currency)}`,
        due: page.dueOn ? sayDate(page.dueOn) : '',
      },
      about: { subject: 'document', id },
      paper: { sha256, name: `${page.number}.pdf` },
      now,
    },
  );
}

/** Draws some that have none yet, from an id on; gives how many. */
export async function drawSome(
  database: Database,
  from: DocumentId,
  now: Instant,
  holds: (tx: Tx) => Promise<boolean>,
) {
  const { db } = database;
  const rows = await db
    .select({ id: document.id })
    .from(document)
    .where(and(eq(document.state, 'issued'), isNull(document.paper), gte(document.id, from)))
    .orderBy(asc(document.id))
    .limit(AT_ONCE);
  if (rows.length === 0) return 0;
  const pages = await Promise.all(rows.map((r) => readOne(db, r.id)));
  const papers = await onThread('draw', pages);
  const isOurs = await database.transact(async (tx) => {
    if (!(await holds(tx))) return false;
    for (const [i, page] of pages.entries()) await keepPaper(tx, page, Buffer.from(papers[i] as Uint8Array), now);
    await announce(tx, { touches: ['settle', 'outbox'] });
    return true;
  });
  return isOurs ? rows.length : 0;
}

export const papers = jobKind({
  kind: PAPERS,
  says: 'Draw issued documents, and mail them to whom the customer named',
  ask: v.object({ from: v.number(), count: v.number() }),
  async run({ database, readNow }, { from }, claim) {
    let drawn = 0;
    for (;;) {
      if (claim.signal.aborted) return 'cut short';
      const some = await drawSome(database, from as DocumentId, readNow(), (tx) => holdClaim(tx, claim));
      if (some === 0) return `${drawn} drawn`;
      drawn += some;
      await claim.progress(`${drawn} drawn`);
    }
  },
});
