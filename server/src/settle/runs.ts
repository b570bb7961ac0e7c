// Billing runs: everything up to a day, customer by customer, each lot in a transaction of its own with how far the run is.
import { asc, desc, eq, inArray } from 'drizzle-orm';
import * as v from 'valibot';
import type { BodyOf } from '#api/contract.ts';
import { startBilling } from '#api/documents.ts';
import type { BillingRunId, CustomerId } from '#core/ids.ts';
import type { Instant } from '#core/time/index.ts';
import { customer } from '../customers/tables.ts';
import { bulkInsert, isTaken, takenKey, type Database, type Db, type Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { jobKind } from '../platform/job-kind.ts';
import { holdClaim, leaveJob, type Working } from '../platform/jobs.ts';
import { announce } from '../platform/live.ts';
import { contentOf, mustBeSame } from '../platform/request-key.ts';
import { person } from '../platform/tables.ts';
import type { Write } from '../platform/writing.ts';
import { gather, holdOpen, writeDrafts, type Wanted } from './billing.ts';
import { billingRun, billingRunLeft } from './document-tables.ts';
import { holdDrafts, issueIn } from './documents.ts';
import { lotsOf, mustBeReady, NAMED_AT_MOST } from './preview.ts';

export const BILLING = 'billing run';
async function sentBefore(db: Db, requestKey: string, requestContent: string): Promise<{ id: BillingRunId } | null> {
  const [sent] = await db
    .select({ id: billingRun.id, content: billingRun.requestContent })
    .from(billingRun)
    .where(eq(billingRun.requestKey, requestKey));
  if (!sent) return null;
  mustBeSame(sent.content, requestContent);
  return { id: sent.id };
}

/** Writes that a run begins, and leaves it to be carried out. A repeated request key gives the first run. */
export async function beginBilling(
  write: Write,
  db: Db,
  { requestKey, ...ask }: BodyOf<typeof startBilling>,
  who: Person,
  now: Instant,
): Promise<{ id: BillingRunId }> {
  const requestContent = contentOf(ask);
  try {
    return await write(async (tx, told) => {
      const sent = await sentBefore(tx.db, requestKey, requestContent);
      if (sent) return sent;
      await mustBeReady(tx.db, ask);
      const [made] = await tx.db
        .insert(billingRun)
        .values({
          ...{ state: 'waiting', upTo: ask.upTo, takesOrders: ask.takesOrders, takesFees: ask.takesFees },
          ...{ customerId: ask.customerId, issues: ask.issues, personId: who.id, at: now, lastId: 0 as CustomerId },
          ...{ requestKey, requestContent },
        })
        .$returningId();
      const id = made?.id as BillingRunId;
      await leaveJob(tx, BILLING, { id, orderId: ask.orderId }, { key: `billing ${id}` });
      told({ subject: 'billing run', id, text: `bills up to ${ask.upTo}` });
      return { id };
    });
  } catch (error) {
    // Sent by two at once, the second finds what the first wrote.
    const sent = isTaken(error) ? await sentBefore(db, requestKey, requestContent) : null;
    if (!sent) throw error;
    return sent;
  }
}

type Run = typeof billingRun.$inferSelect;

/** A lot: gathered, written and, where it is wanted, issued in one transaction with how far the run is. */
export async function billLot(
  tx: Tx,
  run: Pick<Run, 'id' | 'personId' | 'issues'>,
  zone: Person['zone'],
  lot: readonly CustomerId[],
  wanted: Wanted,
  now: Instant,
) {
  await holdOpen(tx, lot);
  const made = await gather(tx.db, lot, wanted);
  const ids = await writeDrafts(tx, made, { personId: run.personId, runId: run.id, now });
  if (run.issues) await issueIn(tx, await holdDrafts(tx, ids), now, zone);
  await bulkInsert(
    tx.connection,
    'billing_run_left',
    ['run_id', 'customer_id', 'order_id', 'agreement_id', 'reason'],
    made.left.map((l) => [run.id, l.customerId, l.orderId, l.agreementId, l.reason]),
  );
  return {
    documents: made.documents.length,
    withTax: made.documents.reduce((sum, d) => sum + (d.kind === 'invoice' ? 1 : -1) * d.totals.withTax, 0),
  };
}

const TRIES = 4;
/** What another bills meanwhile is found by its key: then all of the lot is looked at anew. */
async function unlessBilledMeanwhile<T>(work: () => Promise<T>): Promise<T> {
  for (let tried = 1; ; tried += 1)
    try {
      return await work();
    } catch (error) {
      if (takenKey(error) !== 'document_line_source' || tried >= TRIES) throw error;
    }
}

/** Carries a run out from where it stands; what was written stays, whoever goes on. */
export async function carryOutBilling(
  database: Database,
  { id, orderId }: { readonly id: BillingRunId; readonly orderId: number | null },
  claim: Pick<Working, 'id' | 'fence' | 'signal' | 'progress'>,
  now: Instant,
): Promise<string> {
  const [run] = await database.db.select().from(billingRun).where(eq(billingRun.id, id));
  if (!run || run.state === 'ended') return 'ended already';
  const [who] = await database.db.select({ zone: person.zone }).from(person).where(eq(person.id, run.personId));
  const zone = who?.zone ?? ('UTC' as Person['zone']);
  const wanted: Wanted = {
    ...{ upTo: run.upTo, takesOrders: run.takesOrders, takesFees: run.takesFees },
    ...(orderId !== null && { orderId: orderId as Wanted['orderId'] & number }),
    // Whoever goes on with it, whenever that is, finds the same.
    now: run.at,
  };
  for await (const lot of lotsOf(database.db, run.customerId, wanted, run.lastId)) {
    if (claim.signal.aborted) return 'cut short';
    const went = await unlessBilledMeanwhile(() =>
      database.transact(async (tx) => {
        if (!(await holdClaim(tx, claim))) return null;
        const [held] = await tx.db.select().from(billingRun).where(eq(billingRun.id, id)).for('update');
        const lastId = lot.at(-1) as CustomerId;
        if (!held || held.lastId >= lastId) return held ?? null;
        const did = await billLot(tx, held, zone, lot, wanted, now);
        const documents = held.documents + did.documents;
        await tx.db
          .update(billingRun)
          .set({ state: 'running', lastId, documents, withTax: held.withTax + did.withTax })
          .where(eq(billingRun.id, id));
        await announce(tx, startBilling, []);
        return { documents };
      }),
    );
    if (!went) return 'taken over';
    await claim.progress(`${went.documents} documents`);
  }
  return database.transact(async (tx) => {
    if (!(await holdClaim(tx, claim))) return 'taken over';
    const [held] = await tx.db.select().from(billingRun).where(eq(billingRun.id, id)).for('update');
    await tx.db.update(billingRun).set({ state: 'ended', endedAt: now }).where(eq(billingRun.id, id));
    await announce(tx, startBilling, []);
    return `${held?.documents ?? 0} documents`;
  });
}

export const billing = jobKind({
  kind: BILLING,
  says: 'Bill what is approved and what agreements owe',
  ask: v.object({ id: v.number(), orderId: v.nullable(v.number()) }),
  run: ({ database, readNow }, { id, orderId }, claim) =>
    carryOutBilling(database, { id: id as BillingRunId, orderId }, claim, readNow()),
});

const RUNS_SHOWN = 20;

export async function runsOf(db: Db) {
  const rows = await db
    .select({ run: billingRun, who: person.name, customer: customer.name })
    .from(billingRun)
    .innerJoin(person, eq(person.id, billingRun.personId))
    .leftJoin(customer, eq(customer.id, billingRun.customerId))
    .orderBy(desc(billingRun.id))
    .limit(RUNS_SHOWN);
  const left =
    rows.length === 0
      ? []
      : await db
          .select({ of: billingRunLeft, customer: customer.name })
          .from(billingRunLeft)
          .innerJoin(customer, eq(customer.id, billingRunLeft.customerId))
          .where(
            inArray(
              billingRunLeft.runId,
              rows.map((r) => r.run.id),
            ),
          )
          .orderBy(asc(billingRunLeft.id))
          .limit(NAMED_AT_MOST);
  return rows.map(({ run, who, customer: name }) => ({
    ...{ id: run.id, state: run.state, upTo: run.upTo, takesOrders: run.takesOrders, takesFees: run.takesFees },
    ...{ issues: run.issues, who, customer: name, at: run.at, documents: run.documents, withTax: run.withTax },
    left: left
      .filter((l) => l.of.runId === run.id)
      .map((l) => ({
        ...{ customer: l.customer, customerId: l.of.customerId, orderId: l.of.orderId, agreementId: l.of.agreementId },
        reason: l.of.reason,
      })),
  }));
}
