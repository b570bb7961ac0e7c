// What customers pay: typed, loaded from files of a bank, laid on invoices and taken back; credit terms follow, reminders go out.
import { randomUUID } from 'node:crypto';
import { eq } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { BankPreview, Debtor, OpenItemsPage, PaymentPage, PaymentRow, ReminderPreview } from '#api/payments.ts';
import type { DocumentPage } from '#api/documents.ts';
import { asLocalDate } from '#core/time/index.ts';
import { lookAtCredit } from '../src/settle/index.ts';
import { customer, document, outbox } from '../src/tables.ts';
import { openBillingHouse, type BillingHouse } from './billing-house.ts';
import { must } from './house.ts';
import { moneyOf, paymentOf } from './paid.ts';

let at: BillingHouse;
let invoices: DocumentPage[];
beforeAll(async () => {
  at = await openBillingHouse();
  const done = [await at.done({ toll: 40_00 }), await at.done({ toll: 60_00 }), await at.done({ toll: 25_00 })];
  await at.approve(...done);
  await at.bill();
  invoices = (await at.documents()).toSorted((a, b) => a.id - b.id);
});
afterAll(() => at?.house.close());

const customerId = () => invoices[0]?.customer.id as number;
const nth = (i: number) => invoices[i] as DocumentPage;
const read = async (id: number) => must(await at.call<DocumentPage>('GET', `/api/settle/documents/${id}`));
const open = async () => must(await at.call<OpenItemsPage>('GET', `/api/customers/${customerId()}/open-items`));
const typed = (over: object) => paymentOf(customerId(), over);
const pay = (over: object) => at.call<{ id: number }>('POST', '/api/settle/payments', typed(over));
const refusedAt = async (answer: ReturnType<typeof pay>) => {
  const { status, body } = await answer;
  return [status, (body as unknown as { errors: { field: string; message: string }[] }).errors[0]?.field];
};

const money = () => moneyOf(at.house);

describe('a payment', () => {
  it('is typed once, laid on invoices, and what is left stays with the customer', async () => {
    const [first, second] = [nth(0), nth(1)];
    expect(first.unpaid).toBe(first.withTax);
    const body = typed({
      minor: first.withTax + 5_00,
      parts: [{ documentId: first.id, minor: first.withTax }],
    });
    const { id } = must(await at.call<{ id: number }>('POST', '/api/settle/payments', body));
    expect(must(await at.call<{ id: number }>('POST', '/api/settle/payments', body)).id).toBe(id);
    expect((await read(first.id)).unpaid).toBe(0);
    const page = must(await at.call<PaymentPage>('GET', `/api/settle/payments/${id}`));
    expect([page.state, page.left, page.laid.map((l) => [l.number, l.minor])]).toEqual([
      'open',
      5_00,
      [[first.number, first.withTax]],
    ]);
    expect((await open()).payments.map((p) => p.left)).toEqual([5_00]);
    const lay = { version: page.version, customerId: customerId(), parts: [{ documentId: second.id, minor: 5_00 }] };
    must(await at.call('POST', `/api/settle/payments/${id}/lay`, lay));
    expect((await read(second.id)).unpaid).toBe(second.withTax - 5_00);
    expect((await at.call('POST', `/api/settle/payments/${id}/lay`, lay)).status).toBe(409);
  });
  it('that does not fit is refused at its field and changes nothing', async () => {
    const before = await money();
    const parts = (documentId: number, minor: number) => ({ parts: [{ documentId, minor }] });
    expect(await refusedAt(pay({ bookedOn: '2027-01-01' }))).toEqual([422, 'bookedOn']);
    expect(await refusedAt(pay({ customerId: 99_999 }))).toEqual([404, 'customerId']);
    expect(await refusedAt(pay(parts(nth(1).id, 10_01)))).toEqual([422, 'parts.0.minor']);
    expect(await refusedAt(pay({ minor: 1e9, ...parts(nth(1).id, 1e9) }))).toEqual([422, 'parts.0.minor']);
    expect(await refusedAt(pay(parts(nth(0).id, 1_00)))).toEqual([404, 'parts.0.minor']);
    expect(await refusedAt(pay({ currency: 'USD', ...parts(nth(1).id, 1_00) }))).toEqual([409, 'parts.0.minor']);
    expect((await pay({ minor: 0 })).status).toBe(422);
    const key = typed({});
    must(await at.call('POST', '/api/settle/payments', key));
    const after = await money();
    expect(await refusedAt(at.call('POST', '/api/settle/payments', { ...key, minor: 11_00 }))).toEqual([
      409,
      'requestKey',
    ]);
    expect(await money()).toEqual(after);
    expect(after[0]).toEqual(before[0]);
  });
  it('laid on one invoice by two people at once is laid by one', async () => {
    const third = nth(2);
    const ask = () => pay({ minor: third.withTax, parts: [{ documentId: third.id, minor: third.withTax }] });
    const answers = await Promise.all([ask(), ask(), ask()]);
    expect(answers.map((a) => a.status).sort()).toEqual([200, 404, 404]);
    expect((await read(third.id)).unpaid).toBe(0);
    const [laid] = (await read(third.id)).laid;
    const takeBack = () =>
      at.call('POST', `/api/settle/allocations/${laid?.id}/take-back`, { reason: 'somebody else’s' });
    const back = await Promise.all([takeBack(), takeBack()]);
    expect(back.map((a) => a.status).sort()).toEqual([200, 409]);
    expect((await read(third.id)).unpaid).toBe(third.withTax);
  });
  it('that pays nothing of ours is set aside with why, and taken back', async () => {
    const { id } = must(await pay({ minor: 7_00 }));
    const one = async () => must(await at.call<PaymentPage>('GET', `/api/settle/payments/${id}`));
    must(await at.call('POST', `/api/settle/payments/${id}/aside`, { version: 1, reason: 'a refund of the carrier' }));
    expect(await one()).toMatchObject({ state: 'aside', asideBecause: 'a refund of the carrier' });
    const lay = { version: 2, customerId: customerId(), parts: [] };
    expect((await at.call('POST', `/api/settle/payments/${id}/lay`, lay)).status).toBe(409);
    must(await at.call('POST', `/api/settle/payments/${id}/back`, { version: 2 }));
    expect((await one()).state).toBe('open');
  });
});

describe('a credit note', () => {
  it('pays its own invoice first; what is left of it is laid on another', async () => {
    const [first, second] = [await read(nth(0).id), await read(nth(1).id)];
    const line = first.lines[0];
    const { id } = must(
      await at.call<{ id: number }>('POST', `/api/settle/documents/${first.id}/credit`, {
        ...{ requestKey: randomUUID(), reason: 'too much', again: false },
        lines: [{ lineId: line?.id, minor: line?.net }],
      }),
    );
    const note = await read(id);
    // The invoice was paid in full: all of it is the customer's.
    expect([note.unpaid, (await read(first.id)).unpaid]).toEqual([-note.withTax, 0]);
    const body = { requestKey: randomUUID(), parts: [{ documentId: second.id, minor: 10_00 }] };
    must(await at.call('POST', `/api/settle/documents/${id}/lay`, body));
    must(await at.call('POST', `/api/settle/documents/${id}/lay`, body));
    expect([(await read(id)).unpaid, (await read(second.id)).unpaid]).toEqual([
      10_00 - note.withTax,
      second.unpaid - 10_00,
    ]);
    expect(
      (
        await at.call('POST', `/api/settle/documents/${id}/lay`, {
          ...body,
          requestKey: randomUUID(),
          parts: [{ documentId: second.id, minor: note.withTax }],
        })
      ).status,
    ).toBe(422);
  });
  it('over an open invoice leaves nothing of it to be asked for', async () => {
    const third = await read(nth(2).id);
    must(
      await at.call('POST', `/api/settle/documents/${third.id}/credit`, {
        ...{ requestKey: randomUUID(), reason: 'all of it', again: true },
        lines: third.lines.filter((l) => l.net !== 0).map((l) => ({ lineId: l.id, minor: l.net })),
      }),
    );
    const after = await read(third.id);
    expect([after.unpaid, after.laid[0]?.kind, after.notes.length]).toEqual([0, 'credit note', 1]);
  });
});

it('a cent that is not worth asking for is written off by a manager, once', async () => {
  const second = await read(nth(1).id);
  const body = { requestKey: randomUUID(), minor: 1, reason: 'bank charges' };
  const url = `/api/settle/documents/${second.id}/write-off`;
  expect((await at.call('POST', url, body)).status).toBe(403);
  must(await at.manager('POST', url, body));
  must(await at.manager('POST', url, body));
  expect((await read(second.id)).unpaid).toBe(second.unpaid - 1);
  expect((await at.manager('POST', url, { ...body, requestKey: randomUUID(), minor: 1e9 })).status).toBe(422);
});

describe('a file of a bank', () => {
  const preview = async (text: string) =>
    must(await at.call<BankPreview>('POST', '/api/settle/bank-files/preview', { name: 'bank.csv', text }));
  const load = (text: string, { seen, wrong }: BankPreview, key: string = randomUUID()) =>
    at.call('POST', '/api/settle/bank-files', { requestKey: key, name: 'bank.csv', text, seen, without: wrong });
  const euros = (minor: number) => (minor / 100).toFixed(2);

  it('brings each payment once, and lays those that name their invoices exactly', async () => {
    const second = await read(nth(1).id);
    const text = [
      'date;amount;payer;iban;text',
      `2026-11-20;${euros(second.unpaid)};Somebody;PT50 1;your ${second.number}`,
      `2026-11-20;${euros(second.unpaid)};Somebody;PT50 1;your ${second.number}`,
      '2026-11-21;3.00;Nobody;PT50 2;thanks',
      '2026-11-21;-9.00;Rent;;',
      'soon;3.00;Nobody;;',
    ].join('\n');
    const seen = await preview(text);
    expect(seen).toMatchObject({
      entries: 3,
      known: 0,
      laid: 1,
      sums: [{ currency: 'EUR', minor: 2 * second.unpaid + 3_00 }],
    });
    expect([seen.passed.length, seen.bad.map((b) => [b.line, b.column])]).toEqual([1, [[6, 'booked']]]);
    expect((await load(text, { ...seen, wrong: 0 })).status).toBe(409);
    expect((await load(text, { ...seen, seen: 'another' })).status).toBe(409);
    const key = randomUUID();
    const answers = await Promise.all([load(text, seen, key), load(text, seen, key)]);
    expect(answers.map((a) => a.status)).toEqual([200, 200]);
    expect((await read(second.id)).unpaid).toBe(0);
    const { items } = must(await at.call<{ items: PaymentRow[] }>('GET', '/api/settle/payments?state=open'));
    const waiting = items.filter((p) => !p.isTyped);
    expect(waiting.map((p) => p.minor).sort()).toEqual([3_00, second.unpaid].sort());
    // Loaded again, also under another key or as part of a longer one, nothing comes twice.
    const again = await preview(`${text}\n2026-11-22;4.00;Nobody;PT50 2;more`);
    expect([again.entries, again.known]).toEqual([1, 3]);
    // Whoever paid from an account before is known by it.
    const twice = waiting.find((p) => p.minor === second.unpaid);
    const page = must(await at.call<PaymentPage>('GET', `/api/settle/payments/${twice?.id}`));
    expect(page.proposal.customer?.id).toBe(customerId());
  });
  it('that is none is refused by what is wrong', async () => {
    for (const [text, code] of [
      ['<Document><Nothing/></Document>', 'statement'],
      ['<Document><', 'XML'],
      ['<!DOCTYPE x [<!ENTITY a "b">]><Document/>', 'entities'],
      ['name,text\na,b', 'booked'],
    ] as const) {
      const { body } = await at.call('POST', '/api/settle/bank-files/preview', { name: 'x', text });
      expect(JSON.stringify(body)).toContain(code);
    }
  });
});

describe('credit terms', () => {
  const { stringify } = JSON;
  const look = async (day: string) => {
    while ((await lookAtCredit(at.house.database, Date.parse(`${day}T12:00:00Z`) as never)) > 0);
    const [row] = await at.house.database.db
      .select()
      .from(customer)
      .where(eq(customer.id, customerId() as never));
    return row?.overSince ?? null;
  };
  it('follow from what is open, and are not set by hand then', async () => {
    const done = await at.done({ toll: 300_00 });
    await at.approve(done);
    await at.bill();
    const newest = (await at.documents('?state=issued'))[0] as DocumentPage;
    expect(await look('2026-11-25')).toBeNull();
    // Fourteen days after it was due: four over the ten that are let go.
    await at.house.database.db
      .update(document)
      .set({ dueOn: asLocalDate('2026-11-10'), openDue: asLocalDate('2026-11-10') })
      .where(eq(document.id, newest.id as never));
    must(await pay({ minor: 1, parts: [{ documentId: newest.id, minor: 1 }] }));
    expect(await look('2026-11-20')).toBeNull();
    must(await pay({ minor: 1, parts: [{ documentId: newest.id, minor: 1 }] }));
    expect(await look('2026-11-24')).toBe('2026-11-21');
    const page = must(await at.call<{ name: string; version: number }>('GET', `/api/customers/${customerId()}`));
    const terms = { name: page.name, serviceAddress: null, creditDays: 30, creditLimit: null, version: page.version };
    const refused = await at.call('PUT', `/api/customers/${customerId()}`, { ...terms, overSince: null });
    expect([refused.status, stringify(refused.body)]).toEqual([409, expect.stringContaining('overSince')]);
    must(await at.call('PUT', `/api/customers/${customerId()}`, terms));
    const left = (await read(newest.id)).unpaid;
    must(await pay({ minor: left, parts: [{ documentId: newest.id, minor: left }] }));
    expect(await look('2026-11-24')).toBeNull();
  });
  it('are set by hand again where the house says so', async () => {
    const settings = must(await at.manager<{ version: number }>('GET', '/api/settle/settings'));
    must(await at.manager('PUT', '/api/settle/settings', { ...settings, graceDays: null }));
    const owner = must(await at.call<{ name: string; version: number }>('GET', `/api/customers/${customerId()}`));
    must(
      await at.call('PUT', `/api/customers/${customerId()}`, {
        ...{ name: owner.name, serviceAddress: null, creditDays: 30, creditLimit: null, version: owner.version },
        overSince: null,
      }),
    );
    const { overSince } = must(await at.call<{ overSince: string | null }>('GET', `/api/customers/${customerId()}`));
    expect(overSince).toBeNull();
  });
});

describe('reminders', () => {
  it('are sent level by level, once, of exactly what was seen', async () => {
    const done = await at.done({ toll: 80_00 });
    await at.approve(done);
    await at.bill();
    const newest = (await at.documents('?state=issued'))[0] as DocumentPage;
    const { db } = at.house.database;
    await db
      .update(document)
      .set({ openDue: asLocalDate('2026-11-01') })
      .where(eq(document.id, newest.id as never));
    const due = async () =>
      must(await at.call<ReminderPreview>('POST', '/api/settle/reminders/preview', { customerIds: [] })).items;
    const [one] = await due();
    expect(one).toMatchObject({ level: 1, unpaid: newest.withTax, documents: [{ number: newest.number }] });
    const send = (seen: string) =>
      at.call<{ sent: number; left: unknown[] }>('POST', '/api/settle/reminders', {
        customers: [{ id: customerId(), currency: 'EUR', seen }],
      });
    const { sent, left } = must(await send('another'));
    expect([sent, JSON.stringify(left)]).toEqual([0, expect.stringContaining('look again')]);
    const answers = await Promise.all([send(one?.seen ?? ''), send(one?.seen ?? '')]);
    expect(answers.map((a) => must(a).sent).sort()).toEqual([0, 1]);
    expect(await due()).toEqual([]);
    expect((await read(newest.id)).reminders).toMatchObject([{ level: 1 }]);
    const { items } = must(await at.call<{ items: Debtor[] }>('GET', '/api/settle/open-items?overdue=yes'));
    expect(items).toMatchObject([{ level: 1, ages: [expect.any(Number), newest.withTax, 0, 0, 0] }]);
    // Nobody is named for their invoices: nothing left the house.
    expect((await db.select().from(outbox).where(eq(outbox.kind, 'reminder'))).length).toBe(0);
  });
});
