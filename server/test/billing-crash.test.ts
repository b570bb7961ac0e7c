// A billing run whose process dies, again and again: no number lost or given twice, nothing billed twice, nothing forgotten.
import { spawn } from 'node:child_process';
import { cp } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { count, eq, isNotNull, sql } from 'drizzle-orm';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { writeToBill } from '#demo/to-bill.ts';
import type { CustomerId } from '#core/ids.ts';
import { asInstant, asLocalDate } from '#core/time/index.ts';
import {
  billingRun,
  chargePayer,
  document,
  documentLine,
  documentSeries,
  job,
  orderEvent,
  person,
  settleSetting,
  tax,
  workOrder,
} from '../src/tables.ts';
import { leaveJob } from '../src/platform/jobs.ts';
import { bundled } from '../../commands/bundled.ts';
import { SELLER } from './billing-house.ts';
import { peopledDatabase } from './house.ts';

const MUCH = { customers: 1500, orders: 2400, agreements: 500 };
const MONTHS = 11;
const KILLS = 20;
/** Every third time it is killed before anything may stand; else so long after the next lot stands, at most. */
const LONGEST_MS = 200;
/** Not one that a server knows: nobody else takes it up. */
const KIND = 'billing that dies';
const [NOW, TODAY] = [asInstant('2026-11-24T09:20:00Z'), asLocalDate('2026-11-24')];

let at: Awaited<ReturnType<typeof peopledDatabase>>;
let carrier: Awaited<ReturnType<typeof bundled>>;
let runId = 0;
beforeAll(async () => {
  [at, carrier] = await Promise.all([
    peopledDatabase(),
    bundled(new URL('./carry-out-billing.process.ts', import.meta.url)),
  ]);
  const words = fileURLToPath(new URL('../src/settle/words', import.meta.url));
  await cp(words, join(dirname(carrier.file), 'words'), { recursive: true });
  const { db } = at.database;
  await db.insert(tax).values({ name: 'Standard', category: 'S', hundredths: 2300, isStandard: true });
  await db.insert(settleSetting).values({ id: 1, billsFrom: asLocalDate('2026-01-01'), seller: SELLER, account: '' });
  await writeToBill(at.database, MUCH, NOW, TODAY);
  const [who] = await db.select({ id: person.id }).from(person).limit(1);
  runId = await at.database.transact(async (tx) => {
    const [made] = await tx.db
      .insert(billingRun)
      .values({
        ...{ state: 'waiting', upTo: TODAY, takesOrders: true, takesFees: true, customerId: null, issues: true },
        ...{ personId: who?.id as never, at: NOW, lastId: 0 as CustomerId, requestKey: 'dies', requestContent: '' },
      })
      .$returningId();
    await leaveJob(tx, KIND, { id: made?.id });
    return made?.id as number;
  });
}, 120_000);
afterAll(() => Promise.all([at?.database.close(), carrier?.discard()]));

const standing = (): Promise<number> => at.database.db.$count(document);

/** Carries it out until it is killed so long after it was told to go, or after the next lot stands; null: until it has ended. */
async function carry(kill: { readonly afterMs: number; readonly since: 'go' | 'a lot' } | null): Promise<void> {
  const args = [carrier.file, at.url, String(runId), KIND];
  const child = spawn(process.execPath, args, { stdio: ['pipe', 'pipe', 'inherit'] });
  await new Promise<void>((done) => child.stdout.once('data', () => done()));
  const gone = new Promise<void>((done) => child.once('exit', () => done()));
  const before = await standing();
  child.stdin.write('go\n');
  if (kill) {
    for (
      let i = 0;
      kill.since === 'a lot' && i < 600 && child.exitCode === null && (await standing()) === before;
      i += 1
    )
      await new Promise((r) => setTimeout(r, 5));
    await new Promise((r) => setTimeout(r, kill.afterMs));
    child.kill('SIGKILL');
  }
  await gone;
  // As if the lease of the dead had run out.
  await at.database.db.update(job).set({ leaseUntil: null }).where(eq(job.kind, KIND));
}

it(`killed ${KILLS} times, it bills everything once, and its numbers have no gap`, { timeout: 240_000 }, async () => {
  const { db } = at.database;
  const stood: number[] = [];
  const times = fc.sample(fc.integer({ min: 0, max: LONGEST_MS }), { numRuns: KILLS, seed: 11 });
  for (const [i, afterMs] of times.entries()) {
    await carry({ afterMs, since: i % 3 === 0 ? 'go' : 'a lot' });
    const [numbers] = await db
      .select({ n: count(), least: sql<number>`min(number)`, most: sql<number>`max(number)` })
      .from(document)
      .where(isNotNull(document.number));
    const [series] = await db.select().from(documentSeries).where(eq(documentSeries.kind, 'invoice'));
    // Whatever stands has its number, and the next number is the one behind the last.
    expect(await db.$count(document, eq(document.state, 'draft'))).toBe(0);
    if (numbers && numbers.n > 0) expect([numbers.least, numbers.most]).toEqual([10_001, 10_000 + numbers.n]);
    expect(series?.next ?? 10_001).toBe(10_001 + (numbers?.n ?? 0));
    stood.push(numbers?.n ?? 0);
  }
  // It was killed with something written and something left, not only before or after.
  expect(new Set(stood).size).toBeGreaterThan(3);
  await carry(null);
  const [run] = await db.select().from(billingRun);
  const documents = await db.$count(document);
  expect(run).toMatchObject({ state: 'ended', documents });
  expect(documents).toBe(MUCH.orders + MUCH.agreements * MONTHS - MUCH.agreements * (MONTHS - 1));
  expect(await db.$count(chargePayer, eq(chargePayer.state, 'open'))).toBe(0);
  expect(await db.$count(workOrder, eq(workOrder.stage, 'done'))).toBe(0);
  // Each order is settled by one event, and each fee of each month is billed by one line.
  expect(await db.$count(orderEvent)).toBe(MUCH.orders);
  const fees = await db
    .select({ n: count() })
    .from(documentLine)
    .where(isNotNull(documentLine.feeKey))
    .groupBy(documentLine.agreementId, documentLine.feeFrom);
  expect([fees.length, new Set(fees.map((f) => f.n))]).toEqual([MUCH.agreements * MONTHS, new Set([1])]);
});
