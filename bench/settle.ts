// Billing at load: ten thousand approved orders and two thousand agreements in one run, looked at and then issued.
import { eq } from 'drizzle-orm';
import { asInstant, asLocalDate } from '#core/time/index.ts';
import { writeToBill } from '#demo/to-bill.ts';
import type { BillingRunId, CustomerId } from '#core/ids.ts';
import { claimJob, leaveJob } from '#server/platform/jobs.ts';
import { bulkInsert, type Database } from '#server/platform/database.ts';
import { carryOutBilling, previewBilling } from '#server/settle/index.ts';
import { billingRun, document, documentLine, documentTax, person } from '#server/tables.ts';
import { sized } from './size.ts';
import { rounded } from './stopwatch.ts';
import { inWorld, type World } from './world.ts';

const MUCH = { customers: sized(2_000, 20), orders: sized(10_000, 60), agreements: sized(2_000, 20) };
const [NOW, TODAY] = [asInstant('2026-11-24T09:20:00Z'), asLocalDate('2026-11-24')];
const KIND = 'measured billing';
const ASK = { upTo: TODAY, takesOrders: true, takesFees: true, customerId: null, orderId: null, issues: true };

async function beginRun(database: Database): Promise<BillingRunId> {
  const [who] = await database.db.select({ id: person.id }).from(person).limit(1);
  return database.transact(async (tx) => {
    const { orderId: _, ...ask } = ASK;
    const [made] = await tx.db
      .insert(billingRun)
      .values({
        ...{ ...ask, state: 'waiting', personId: who?.id as never, at: NOW, lastId: 0 as CustomerId },
        ...{ requestKey: 'measured', requestContent: '' },
      })
      .$returningId();
    await leaveJob(tx, KIND, {});
    return made?.id as BillingRunId;
  });
}

async function seconds(work: () => Promise<unknown>): Promise<number> {
  const from = performance.now();
  await work();
  return (performance.now() - from) / 1000;
}

/** The rows that the run wrote, inserted plainly into tables like theirs in as many transactions. */
async function plainly(database: Database, lots: number): Promise<void> {
  const { pool } = database;
  for (const table of ['document', 'document_line', 'document_tax']) {
    await pool.query('CREATE TABLE ?? LIKE ??', [`plain_${table}`, table]);
    const [rows] = (await pool.query({ sql: 'SELECT * FROM ??', values: [table], rowsAsArray: true })) as unknown as [
      unknown[][],
    ];
    const [named] = (await pool.query('SHOW COLUMNS FROM ??', [table])) as unknown as [{ Field: string }[]];
    const each = Math.ceil(rows.length / lots);
    for (let i = 0; i < rows.length; i += each)
      await database.transact((tx) =>
        bulkInsert(
          tx.connection,
          `plain_${table}`,
          named.map((c) => c.Field),
          // What is JSON was read as what it says.
          rows
            .slice(i, i + each)
            .map((r) => r.map((x) => (typeof x === 'object' && x !== null ? JSON.stringify(x) : x))),
        ),
      );
  }
}

async function measureIn({ database, figures }: World): Promise<unknown> {
  const { db } = database;
  await writeToBill(database, MUCH, NOW, TODAY);
  const preview = await seconds(() => previewBilling(database, ASK, NOW));
  const id = await beginRun(database);
  const claim = await claimJob(database, [KIND]);
  if (!claim) throw new Error('the run that was left is there to be taken');
  const working = { ...claim, signal: new AbortController().signal, progress: () => Promise.resolve() };
  const issue = await seconds(() => carryOutBilling(database, { id, orderId: null }, working, NOW));
  const documents = await db.$count(document, eq(document.runId, id));
  const reference = await seconds(() => plainly(database, Math.ceil(MUCH.customers / 60)));
  return {
    bench: 'settle',
    world: {
      ...figures,
      ...MUCH,
      documents,
      lines: await db.$count(documentLine),
      taxes: await db.$count(documentTax),
    },
    previewSeconds: rounded(preview),
    previewWanted: '≤ 5 s',
    issueSeconds: rounded(issue),
    issueWanted: '≤ 20 s, papers drawn later',
    reference: {
      what: 'the same rows of documents inserted plainly, in as many transactions',
      seconds: rounded(reference),
    },
    issueToReference: rounded(issue / reference),
  };
}

export const measure = (): Promise<unknown> => inWorld(measureIn, 1);
