// The journal: every month balances, tells what is owed and what the bank has, and once closed never changes, whatever comes late.
import { randomUUID } from 'node:crypto';
import { sql } from 'drizzle-orm';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { JournalPage } from '#api/journal.ts';
import type { DocumentPage } from '#api/documents.ts';
import { asLocalDate } from '#core/time/index.ts';
import { allocation, document, incomingPayment } from '../src/tables.ts';
import { openBillingHouse, type BillingHouse } from './billing-house.ts';
import { must } from './house.ts';

let at: BillingHouse;
beforeAll(async () => {
  at = await openBillingHouse();
});
afterAll(() => at?.house.close());

const read = async (month: string) => must(await at.manager<JournalPage>('GET', `/api/settle/journal?month=${month}`));
const csv = async (month: string): Promise<string> =>
  must(await at.manager<{ text: string }>('GET', `/api/settle/journal.csv?month=${month}`)).text;
const balance = (page: JournalPage, account: string): number =>
  page.accounts.filter((a) => a.account === account).reduce((sum, a) => sum + a.debit - a.credit, 0);
const close = (month: string) => at.manager('POST', '/api/settle/journal/close', { month });

const invoiceOf = async (toll: number): Promise<DocumentPage> => {
  const id = await at.done({ toll });
  await at.approve(id);
  await at.bill();
  return (await at.documents('?state=issued'))[0] as DocumentPage;
};

it('balances, and its accounts are what stands', async () => {
  const [one, two] = [await invoiceOf(40_00), await invoiceOf(60_00)];
  const customerId = one.customer.id;
  const pay = (minor: number, parts: object[]) =>
    at.call<{ id: number }>('POST', '/api/settle/payments', {
      ...{ requestKey: randomUUID(), customerId, minor, currency: 'EUR', bookedOn: '2026-11-23', text: '', parts },
    });
  must(await pay(one.withTax + 10_00, [{ documentId: one.id, minor: one.withTax }]));
  must(
    await at.manager('POST', `/api/settle/documents/${two.id}/write-off`, {
      requestKey: randomUUID(),
      minor: 50,
      reason: 'charges',
    }),
  );
  must(
    await at.call('POST', `/api/settle/documents/${two.id}/credit`, {
      ...{ requestKey: randomUUID(), reason: 'too much', again: false },
      lines: [{ lineId: two.lines.find((l) => l.net > 0)?.id, minor: 5_00 }],
    }),
  );
  const { db } = at.house.database;
  const page = await read('2026-11');
  expect(page.accounts.reduce((sum, a) => sum + a.debit - a.credit, 0)).toBe(0);
  const [owed] = await db.select({ sum: sql<string>`sum(${document.unpaid})` }).from(document);
  const [bank] = await db
    .select({ sum: sql<string>`sum(${incomingPayment.minor})`, left: sql<string>`sum(${incomingPayment.left})` })
    .from(incomingPayment);
  expect(balance(page, 'receivables')).toBe(Number(owed?.sum));
  expect([balance(page, 'bank'), balance(page, 'receipts to allocate')]).toEqual([
    Number(bank?.sum),
    -Number(bank?.left),
  ]);
  expect(balance(page, 'written off')).toBe(50);
  const [tax] = await db.select({ sum: sql<string>`sum(if(kind = 'invoice', tax, -tax))` }).from(document);
  expect(balance(page, 'tax')).toBe(-Number(tax?.sum));
});

it('books work of our own to its cost centre, and takes it back with the approval', async () => {
  const before = balance(await read('2026-11'), 'own work');
  const id = await at.done({ toll: 0 });
  const { lines } = must(await at.call<{ lines: { id: number }[] }>('GET', `/api/orders/${id}`));
  must(
    await at.call('POST', `/api/orders/${id}/costs`, {
      ...{
        requestKey: randomUUID(),
        lineId: lines[0]?.id,
        day: '2026-11-23',
        text: 'Hotel',
        cost: 70_00,
        price: 80_00,
      },
      ...{ taxId: null, oursBecause: 'we came twice' },
    }),
  );
  await at.approve(id);
  expect(balance(await read('2026-11'), 'own work')).toBe(before + 80_00);
  must(await at.call('DELETE', `/api/settle/orders/${id}/approval`));
  expect(balance(await read('2026-11'), 'own work')).toBe(before);
  expect((await csv('2026-11')).match(/CC-\d+/g)?.length).toBe(4);
});

it('closed, a month never changes, and what comes late is told in the next', async () => {
  const { db } = at.house.database;
  // Everything so far happened in September; the house’s clock stands in November.
  await db.update(document).set({ issuedOn: asLocalDate('2026-09-10') });
  await db.update(incomingPayment).set({ bookedOn: asLocalDate('2026-09-12'), journalOn: asLocalDate('2026-09-12') });
  await db.update(allocation).set({ on: asLocalDate('2026-09-13') });
  expect((await at.call('POST', '/api/settle/journal/close', { month: '2026-09' })).status).toBe(403);
  expect((await close('2026-10')).status).toBe(422);
  expect((await close('2026-08')).status).toBe(422);
  const kept = await csv('2026-09');
  must(await close('2026-09'));
  expect((await close('2026-09')).status).toBe(409);
  // Late: a payment of September, a write-off and a payment taken back, a credit note.
  const [one] = (await at.documents('?kind=invoice')).filter((d) => d.unpaid > 0);
  const [laid] = (await at.documents('?kind=invoice')).flatMap((d) => d.laid.filter((l) => l.kind === 'payment'));
  must(
    await at.call('POST', '/api/settle/payments', {
      ...{
        requestKey: randomUUID(),
        customerId: one?.customer.id,
        minor: 3_00,
        currency: 'EUR',
        bookedOn: '2026-09-30',
      },
      ...{ text: 'late', parts: [{ documentId: one?.id, minor: 3_00 }] },
    }),
  );
  must(await at.call('POST', `/api/settle/allocations/${laid?.id}/take-back`, { reason: 'another one' }));
  must(
    await at.call('POST', `/api/settle/documents/${one?.id}/credit`, {
      ...{ requestKey: randomUUID(), reason: 'more', again: false },
      lines: [{ lineId: one?.lines.find((l) => l.net - l.credited > 0)?.id, minor: 1_00 }],
    }),
  );
  expect(await csv('2026-09')).toBe(kept);
  expect(await csv('2026-10')).toContain('PAY-');
  const all = [await read('2026-09'), await read('2026-10'), await read('2026-11')];
  const [owed] = await db.select({ sum: sql<string>`sum(${document.unpaid})` }).from(document);
  expect(all.reduce((sum, page) => sum + balance(page, 'receivables'), 0)).toBe(Number(owed?.sum));
  for (const page of all) expect(page.accounts.reduce((sum, a) => sum + a.debit - a.credit, 0)).toBe(0);
  expect(all[0]?.months.map((m) => [m.month, m.isClosed])).toEqual([
    ['2026-11', false],
    ['2026-10', false],
    ['2026-09', true],
  ]);
});

it('gives accounts the codes of the house', async () => {
  const page = await read('2026-11');
  const codes = { ...page.codes, receivables: '2111', bank: '1201' };
  must(await at.manager('PUT', '/api/settle/journal/accounts', { version: page.version, codes }));
  expect((await at.manager('PUT', '/api/settle/journal/accounts', { version: page.version, codes })).status).toBe(409);
  expect(await csv('2026-09')).toContain('receivables,2111');
});
