// Papers of issued documents: drawn beside requests, kept as they were drawn, and mailed to whom the customer named.
import { and, asc, eq, gte, isNull, lte } from 'drizzle-orm';
import * as v from 'valibot';
import type { DocumentId } from '#core/ids.ts';
import { refusal } from '#core/refusal.ts';
import type { DocumentPage } from '#api/documents.ts';
import { sayAmountOf } from '#core/money.ts';
import { sayDate, type Instant } from '#core/time/index.ts';
import { contact } from '../customers/tables.ts';
import { tellOutside } from '../outbox/index.ts';
import { keepContent } from '../platform/content.ts';
import type { Database, Tx } from '../platform/database.ts';
import { jobKind } from '../platform/job-kind.ts';
import { holdClaim, type Working } from '../platform/jobs.ts';
import { announce } from '../platform/live.ts';
import { onThreads } from '../platform/threads.ts';
import { billingOf } from './billing-settings.ts';
import { document } from './document-tables.ts';
import { leavePapers, PAPERS } from './documents.ts';
import { DOCUMENT_SENT } from './messages.ts';
import { readOne } from './reading.ts';
import type * as tasks from './thread.ts';

const onThread = onThreads<Pick<typeof tasks, 'draw'>>(
  new URL('./thread.ts', import.meta.url),
  refusal('too-large', 'The document is too large to be drawn at once.'),
);

/** As it stands: of a draft marked as such, of an issued one as it is kept. */
export async function paperOf(page: DocumentPage): Promise<Buffer> {
  const [paper] = await onThread('draw', [page]);
  return Buffer.from(paper as Uint8Array);
}

/** Documents of one batch. */
const AT_ONCE = 12;

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

/**
 * Draws the first of a stretch that have none yet, and leaves the rest of it to a job behind those that wait already: a run of
 * thousands keeps nobody's mail from leaving. Gives how many were drawn.
 */
async function drawSome(database: Database, { from, to }: Stretch, now: Instant, claim: Working): Promise<number> {
  const { db } = database;
  const rows = await db
    .select({ id: document.id })
    .from(document)
    .where(
      and(
        eq(document.state, 'issued'),
        isNull(document.paper),
        gte(document.id, from as DocumentId),
        lte(document.id, to as DocumentId),
      ),
    )
    .orderBy(asc(document.id))
    .limit(AT_ONCE);
  const last = rows.at(-1);
  if (!last) return 0;
  const pages = await Promise.all(rows.map((r) => readOne(db, r.id)));
  const papers = await onThread('draw', pages);
  await database.transact(async (tx) => {
    if (!(await holdClaim(tx, claim))) return;
    for (const [i, page] of pages.entries()) await keepPaper(tx, page, Buffer.from(papers[i] as Uint8Array), now);
    if (rows.length === AT_ONCE && last.id < to) await leavePapers(tx, last.id + 1, to);
    await announce(tx, { touches: ['settle', 'outbox'] });
  });
  return rows.length;
}

const stretch = v.object({ from: v.number(), to: v.number() });
type Stretch = v.InferOutput<typeof stretch>;

export const papers = jobKind({
  kind: PAPERS,
  says: 'Draw issued documents, and mail them to whom the customer named',
  ask: stretch,
  run: async ({ database, readNow }, ask, claim) => `${await drawSome(database, ask, readNow(), claim)} drawn`,
});
