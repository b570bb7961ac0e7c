// Payments of chance against sums: whatever is paid, taken back, credited and written off, what is open is what was billed less what paid
// it, and a refusal changes nothing.
import { randomUUID } from 'node:crypto';
import { asc, eq, isNotNull } from 'drizzle-orm';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { DocumentPage } from '#api/documents.ts';
import { allocation, document, incomingPayment } from '../src/tables.ts';
import { openBillingHouse, type BillingHouse } from './billing-house.ts';
import { must } from './house.ts';
import { moneyOf, paymentOf } from './paid.ts';

let at: BillingHouse;
beforeAll(async () => {
  at = await openBillingHouse();
});
afterAll(() => at?.house.close());

const customerId = () => at.world.customerId;
const read = async (id: number) => must(await at.call<DocumentPage>('GET', `/api/settle/documents/${id}`));
const pay = (over: object) => at.call<{ id: number }>('POST', '/api/settle/payments', paymentOf(customerId(), over));
const money = () => moneyOf(at.house);

type Step = {
  readonly kind: 'pay' | 'lay' | 'back' | 'credit' | 'off' | 'aside';
  readonly a: number;
  readonly b: number;
  readonly c: number;
};
const step: fc.Arbitrary<Step> = fc.record({
  kind: fc.constantFrom('pay', 'pay', 'lay', 'back', 'credit', 'off', 'aside'),
  ...{ a: fc.nat(1000), b: fc.nat(1000), c: fc.nat(1000) },
});

it(
  'whatever is paid, taken back, credited and written off: what is open is always what was billed less what paid it',
  { timeout: 120_000 },
  async () => {
    const { db } = at.house.database;
    const done: number[] = [];
    for (const toll of [11, 23, 37, 51]) done.push(await at.done({ toll: toll * 100 }));
    await at.approve(...done);
    await at.bill();
    const seen = new Map<string, number>();
    const act = async ({ kind, a, b, c }: Step): Promise<void> => {
      const all = await db.select().from(document).where(eq(document.kind, 'invoice')).orderBy(asc(document.id));
      const [x, y] = [all[a % all.length], all[b % all.length]];
      const payments = await db.select().from(incomingPayment).orderBy(asc(incomingPayment.id));
      const fitting = payments.filter(
        (p) => (kind !== 'lay' || p.state === 'open') && (kind !== 'aside' || p.left === p.minor),
      );
      const payment = fitting[a % fitting.length];
      const parts = [x, y].flatMap((d, i) =>
        d && (i === 0 || c % 3 === 0)
          ? [{ documentId: d.id, minor: 1 + ((b * 37 + i) % (kind === 'lay' ? 40 : 4000)) }]
          : [],
      );
      const before = await money();
      const laid = await db.select().from(allocation).orderBy(asc(allocation.id));
      const line = x && (await read(x.id)).lines.find((l) => l.net > l.credited);
      const asked = {
        // Some are on account.
        pay: () => pay({ minor: 1 + (c % 5000), parts: c % 4 === 1 ? [] : parts }),
        lay: () =>
          at.call('POST', `/api/settle/payments/${payment?.id}/lay`, {
            version: payment?.version,
            customerId: customerId(),
            parts,
          }),
        back: () =>
          at.call('POST', `/api/settle/allocations/${laid[c % laid.length]?.id}/take-back`, { reason: 'wrong one' }),
        credit: () =>
          at.call('POST', `/api/settle/documents/${x?.id}/credit`, {
            ...{ requestKey: randomUUID(), reason: 'x', again: false },
            lines: [{ lineId: line?.id ?? 1, minor: line ? 1 + (c % (line.net - line.credited)) : 1 }],
          }),
        off: () =>
          at.manager('POST', `/api/settle/documents/${x?.id}/write-off`, {
            requestKey: randomUUID(),
            minor: 1 + (c % 300),
            reason: 'x',
          }),
        aside: () =>
          payment?.state === 'aside'
            ? at.call('POST', `/api/settle/payments/${payment.id}/back`, { version: payment.version })
            : at.call('POST', `/api/settle/payments/${payment?.id}/aside`, { version: payment?.version, reason: 'x' }),
      }[kind];
      const { status } = await asked();
      expect([200, 404, 409, 422]).toContain(status);
      seen.set(`${kind} ${status === 200}`, (seen.get(`${kind} ${status === 200}`) ?? 0) + 1);
      if (status !== 200) expect(await money()).toEqual(before);
    };
    const sound = async (): Promise<void> => {
      const [documents, payments, laid] = await Promise.all([
        db.select().from(document).where(eq(document.state, 'issued')),
        db.select().from(incomingPayment),
        db.select().from(allocation),
      ]);
      const standing = laid.filter((l) => l.undoneOn === null);
      const sum = (of: typeof laid) => of.reduce((total, l) => total + l.minor, 0);
      for (const d of documents) {
        const paid =
          d.kind === 'invoice'
            ? standing.filter((l) => l.documentId === d.id)
            : standing.filter((l) => l.creditId === d.id);
        const open = d.kind === 'invoice' ? d.withTax - d.paid - sum(paid) : sum(paid) - d.withTax;
        expect([d.numberText, d.unpaid, d.openDue === null]).toEqual([d.numberText, open, open === 0]);
        expect(d.kind === 'invoice' ? d.unpaid : -d.unpaid).toBeGreaterThanOrEqual(0);
      }
      for (const p of payments) {
        const left = p.minor - sum(standing.filter((l) => l.incomingId === p.id));
        expect([p.id, p.left, p.state]).toEqual([
          p.id,
          left,
          p.state === 'aside' ? 'aside' : left === 0 ? 'laid' : 'open',
        ]);
        expect(left).toBeGreaterThanOrEqual(0);
        if (p.state === 'aside') expect(left).toBe(p.minor);
      }
      const { sums } = must(
        await at.call<{ sums: { total: number; ages: number[] }[] }>('GET', '/api/settle/open-items'),
      );
      const free = payments
        .filter((p) => p.state === 'open' && p.customerId !== null && p.currency === 'EUR')
        .reduce((total, p) => total + p.left, 0);
      expect(sums[0]?.total).toBe(documents.reduce((total, d) => total + d.unpaid, 0) - free);
    };
    for (const of of fc.sample(step, { numRuns: 80, seed: 2811 })) {
      await act(of);
      await sound();
    }
    for (const kind of ['pay', 'lay', 'back', 'credit', 'off', 'aside'])
      expect([kind, (seen.get(`${kind} true`) ?? 0) > 0]).toEqual([kind, true]);
    expect((await db.select().from(document).where(isNotNull(document.openDue))).length).toBeGreaterThan(0);
  },
);
