// Whatever the office does with finished orders and their documents, in any order: nothing is billed twice or forgotten, what was issued
// never changes, numbers have no gap, and an order is settled exactly while nothing of it waits.
import { randomUUID } from 'node:crypto';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { eq } from 'drizzle-orm';
import type { DocumentPage } from '#api/documents.ts';
import { chargePayer, document, documentLine, orderApproval, workOrder } from '../src/tables.ts';
import { must } from './house.ts';
import { openBillingHouse, type BillingHouse } from './billing-house.ts';

const ORDERS = 9;
const STEPS = 70;

let at: BillingHouse;
let orders: number[];
beforeAll(async () => {
  at = await openBillingHouse();
  orders = [];
  for (let i = 0; i < ORDERS; i += 1) orders.push(await at.done({ toll: (i % 3) * 7_33 }));
});
afterAll(() => at.house.close());

type Step = {
  readonly what: (typeof WHATS)[number];
  readonly which: number;
  readonly share: number;
  readonly flag: boolean;
};
/** What leads on comes more often than what takes back. */
const WHATS = [
  ...(['approve', 'approve', 'withdraw', 'bill', 'bill all', 'bill all', 'issue', 'issue', 'discard'] as const),
  ...(['credit', 'credit', 'credit'] as const),
] as const;
const step: fc.Arbitrary<Step> = fc.record({
  what: fc.constantFrom(...WHATS),
  which: fc.nat(99),
  share: fc.integer({ min: 1, max: 100 }),
  flag: fc.boolean(),
});

const pick = <T>(all: readonly T[], which: number): T | undefined => all[which % Math.max(1, all.length)];

async function credit(of: DocumentPage, { share, flag: again }: Step): Promise<number> {
  const whole = share > 60 || again;
  const lines = of.lines.flatMap((l) => {
    const left = l.net - l.credited;
    const minor = whole ? left : Math.trunc((left * share) / 100);
    return minor === 0 ? [] : [{ lineId: l.id, minor }];
  });
  if (lines.length === 0) return 0;
  const body = { requestKey: randomUUID(), reason: 'a mistake', again, lines };
  return (await at.call('POST', `/api/settle/documents/${of.id}/credit`, body)).status;
}

/** What was refused is refused: nothing else may come of an act. */
async function act(of: Step): Promise<void> {
  const order = pick(orders, of.which) as number;
  const all = of.what.startsWith('bill') || of.what === 'approve' || of.what === 'withdraw' ? [] : await at.documents();
  const chosen = pick(
    all.filter((d) =>
      of.what === 'credit'
        ? d.state === 'issued' && d.kind === 'invoice' && d.credited < d.withTax
        : d.state === 'draft',
    ),
    of.which,
  );
  const statuses: number[] = [];
  if (of.what === 'approve') await at.approve(order);
  if (of.what === 'withdraw') statuses.push((await at.call('DELETE', `/api/settle/orders/${order}/approval`)).status);
  if (of.what === 'bill') await at.bill({ orderId: order, customerId: at.world.customerId, issues: of.flag });
  if (of.what === 'bill all') await at.bill({ issues: of.flag });
  if (chosen && (of.what === 'issue' || of.what === 'discard')) {
    const url = `/api/settle/documents/${chosen.id}/${of.what}`;
    statuses.push((await at.call('POST', url, { version: chosen.version })).status);
  }
  if (chosen && of.what === 'credit') statuses.push(await credit(chosen, of));
  expect(statuses.filter((s) => ![0, 200, 409, 422].includes(s))).toEqual([]);
}

/** Issued documents as they were first seen: without what others say of them, and whether their paper is drawn. */
/** What of it follows from what came later. */
const LATER = ['credited', 'notes', 'hasPaper', 'unpaid', 'laid', 'reminders'];
const asIssued = (page: DocumentPage): string =>
  JSON.stringify(page, (key: string, value: unknown) => (LATER.includes(key) ? undefined : value));

async function expectSound(seen: Map<number, string>): Promise<void> {
  const { db } = at.house.database;
  const documents = await at.documents();
  for (const d of documents.filter((x) => x.state === 'issued')) {
    const now = asIssued(d);
    expect(seen.get(d.id) ?? now).toBe(now);
    seen.set(d.id, now);
  }
  for (const kind of ['invoice', 'credit note'] as const) {
    const numbers = documents.flatMap((d) => (d.kind === kind && d.number ? [Number(/\d+$/.exec(d.number)?.[0])] : []));
    expect(numbers.toSorted((a, b) => a - b)).toEqual(numbers.map((_, i) => 10_001 + i));
  }
  for (const d of documents) {
    expect(d.withoutTax).toBe(d.lines.reduce((sum, l) => sum + l.net, 0));
    expect(d.withTax).toBe(d.withoutTax + d.taxes.reduce((sum, t) => sum + t.tax, 0));
    for (const l of d.lines) expect(Math.abs(l.credited)).toBeLessThanOrEqual(Math.abs(l.net));
    expect(d.credited).toBeLessThanOrEqual(d.withTax);
  }
  const lines = await db
    .select({ line: documentLine, customerId: document.customerId })
    .from(documentLine)
    .innerJoin(document, eq(document.id, documentLine.documentId));
  const payers = await db.select().from(chargePayer);
  for (const p of payers) {
    const own = lines.filter((l) => l.line.chargeId === p.chargeId && l.customerId === p.customerId);
    const billed = own.filter((l) => l.line.ofLineId === null).length;
    const again = own.filter((l) => l.line.ofLineId !== null && l.line.again).length;
    // Billed as often as it was taken back to be billed again, and once more while it is billed.
    expect([p.state, billed - again]).toEqual([p.state, p.state === 'billed' ? 1 : 0]);
  }
  const approved = await db.select().from(orderApproval);
  for (const id of orders) {
    const isSettled =
      approved.some((a) => a.orderId === id) && !payers.some((p) => p.orderId === id && p.state === 'open');
    const [order] = await db
      .select({ stage: workOrder.stage })
      .from(workOrder)
      .where(eq(workOrder.id, id as never));
    expect(order?.stage).toBe(isSettled ? 'settled' : 'done');
  }
}

it('any seventy acts keep all of it', { timeout: 240_000 }, async () => {
  const seen = new Map<number, string>();
  for (const of of fc.sample(step, { numRuns: STEPS, seed: 20_261_128 })) {
    await act(of);
    await expectSound(seen);
  }
  // It billed, took back and billed again: else it would prove little.
  const documents = await at.documents();
  expect(documents.filter((d) => d.kind === 'credit note').length).toBeGreaterThan(3);
  expect(
    must(await at.call<{ items: unknown[] }>('GET', '/api/settle/documents?kind=invoice')).items.length,
  ).toBeGreaterThan(8);
  expect(seen.size).toBeGreaterThan(10);
});
