// The report of finished work: drawn once it is done, kept among the files of the order, and sent to its contact with the word that it is.
import { and, desc, eq, inArray } from 'drizzle-orm';
import * as v from 'valibot';
import { orderNumber } from '#api/shapes.ts';
import type { OrderId, PersonId } from '#core/ids.ts';
import { refusal } from '#core/refusal.ts';
import { heldOf } from '#core/orders/index.ts';
import { instant, type Instant } from '#core/time/index.ts';
import { attachIn, freeName, namesAttached } from '../assets/index.ts';
import { addFile } from '#api/files.ts';
import { contactLanguage, loadOrder, readOrderAs, tellDone } from '../orders/index.ts';
import { workOrder } from '../orders/tables.ts';
import { keepContent, readContent } from '../platform/content.ts';
import type { Db, Tx } from '../platform/database.ts';
import { jobKind } from '../platform/job-kind.ts';
import { holdClaim, leaveJob } from '../platform/jobs.ts';
import { announce } from '../platform/live.ts';
import { whenOrders } from '../platform/order-life.ts';
import { DRAWN } from '../platform/paper.ts';
import { onThreads } from '../platform/threads.ts';
import { fileContent } from '../platform/tables.ts';
import { chargesOf } from '../settle/index.ts';
import type { Report } from './report-document.ts';
import type * as tasks from './report-thread.ts';
import { fieldPhoto } from './tables.ts';

export const REPORTING = 'report of an order';
/** What a phone tells after “done” comes with it: the report waits for it a little. */
const AFTER_MS = 20_000;

const onThread = onThreads<typeof tasks>(
  new URL('./report-thread.ts', import.meta.url),
  refusal('too-large', 'The report is too large to be drawn at once.'),
);

async function signatureOf(db: Db, id: OrderId): Promise<Uint8Array | null> {
  const [kept] = await db
    .select({ sha256: fieldPhoto.sha256 })
    .from(fieldPhoto)
    .innerJoin(fileContent, eq(fileContent.sha256, fieldPhoto.sha256))
    .where(and(eq(fieldPhoto.signsId, id), inArray(fileContent.mediaType, DRAWN)))
    .orderBy(desc(fieldPhoto.at))
    .limit(1);
  return kept ? readContent(db, kept.sha256) : null;
}

/** Everything that a report says, as it stands, and who said that it is done; null: the order is not. */
export async function reportOf(
  db: Db,
  id: OrderId,
  now: Instant,
): Promise<{ readonly report: Report; readonly by: PersonId | null } | null> {
  const { order, events } = await loadOrder(db, id, 'look');
  const ended = events.find((e) => e.act.kind === 'done');
  if (ended?.act.kind !== 'done') return null;
  // No reader without sight of money gets any; the report has none.
  const as = { role: 'technician' } as const;
  const [page, charges, signature, language] = await Promise.all([
    readOrderAs(db, as, id, now),
    chargesOf(db, id, as.role),
    signatureOf(db, id),
    contactLanguage(db, order),
  ]);
  const { entries, parts } = charges;
  const signed = heldOf(events).signed;
  return {
    report: { language, page, charges: { entries, parts }, text: ended.act.text, signed, signature },
    by: ended.by,
  };
}

export const drawReport = async (report: Report): Promise<Buffer> => Buffer.from(await onThread('draw', report));

export const reporting = jobKind({
  kind: REPORTING,
  says: 'Draw the report of an order that is done, and send it',
  ask: v.object({ id: v.number() }),
  async run({ database, readNow }, ask, claim) {
    const id = ask.id as OrderId;
    const now = readNow();
    const found = await reportOf(database.db, id, now);
    if (found === null) return 'not done';
    const paper = await drawReport(found.report);
    return database.transact(async (tx) => {
      // Whoever attaches to it waits, as does another try of this.
      await tx.db.select({ id: workOrder.id }).from(workOrder).where(eq(workOrder.id, id)).for('update');
      if (!(await holdClaim(tx, claim))) return 'taken over';
      const sha256 = await keepContent(tx, paper, 'application/pdf');
      const name = freeName(await namesAttached(tx, 'order', id), `${orderNumber(id)} report.pdf`);
      await attachIn(tx, () => undefined, { subject: 'order', subjectId: id, name, sha256, personId: found.by }, now);
      await announce(tx, addFile, [{ subject: 'order', id }]);
      return (await tellDone(tx, id, { sha256, name }, now)) ? 'drawn and sent' : 'drawn';
    });
  },
  // Without a paper they hear of it all the same.
  async died({ database, readNow }, { id }) {
    await database.transact((tx) => tellDone(tx, id as OrderId, null, readNow()));
  },
});

/** Done: its report is drawn. Called off: there is none. */
async function over(tx: Tx, id: OrderId): Promise<void> {
  const [done] = await tx.db
    .select({ id: workOrder.id })
    .from(workOrder)
    .where(and(eq(workOrder.id, id), eq(workOrder.stage, 'done')));
  if (done) await leaveJob(tx, REPORTING, { id }, { key: `report ${id}`, at: instant(Date.now() + AFTER_MS) });
}

export const reportingDone = (): void => whenOrders({ over });
