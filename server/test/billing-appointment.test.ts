// A customer who is billed by appointment: what was done at each stands on a document of its own, once.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { orderNumber } from '#api/shapes.ts';
import type { AppointmentId, OrderId, PersonId } from '#core/ids.ts';
import { asInstant, asZone } from '#core/time/index.ts';
import { lookAtMarked } from '../src/settle/index.ts';
import { appointment, appointmentOrder, orderPayment, person } from '../src/tables.ts';
import { openBillingHouse, type BillingHouse } from './billing-house.ts';
import { must } from './house.ts';

let at: BillingHouse;
beforeAll(async () => {
  at = await openBillingHouse();
  await billedBy('appointment', 0);
});
afterAll(() => at.house.close());

const billedBy = async (grouping: string, version: number) =>
  must(
    await at.call('PUT', `/api/customers/${at.world.customerId}/billing`, {
      ...{ version, grouping, showsCovered: false, needsReference: false, taxId: null, address: '' },
      ...{ country: 'pt', taxNumber: '', contactId: null },
    }),
  );

async function plan(orderId: number, from: string, to: string): Promise<void> {
  const { db } = at.house.database;
  const [made] = await db
    .insert(appointment)
    .values({ zone: asZone('Europe/Lisbon'), fromAt: asInstant(from), toAt: asInstant(to) })
    .$returningId();
  await db.insert(appointmentOrder).values({ appointmentId: made?.id as AppointmentId, orderId: orderId as OrderId });
}

/** An order that took two appointments, with a third that nobody kept: a toll at each, and two gaskets used after the last. */
async function doneInTwo(): Promise<number> {
  const { id } = must(
    await at.call<{ id: number }>('POST', '/api/orders', {
      ...{ requestKey: randomUUID(), assetIds: [at.world.assetIds[0]], priority: 2, cause: 'wear', title: 'Warm' },
      receivedAt: '2026-11-16T08:00:00Z',
    }),
  );
  await plan(id, '2026-11-16T10:00:00Z', '2026-11-16T12:00:00Z');
  await plan(id, '2026-11-18T10:00:00Z', '2026-11-18T12:00:00Z');
  await plan(id, '2026-11-19T13:00:00Z', '2026-11-19T15:00:00Z');
  const [line] = must(await at.call<{ lines: { id: number }[] }>('GET', `/api/orders/${id}`)).lines;
  const act = async (when: string, kind: object) =>
    must(await at.call('POST', `/api/orders/${id}/events`, { requestKey: randomUUID(), at: when, act: kind }));
  const toll = async (day: string, price: number) =>
    must(
      await at.call('POST', `/api/orders/${id}/costs`, {
        ...{ requestKey: randomUUID(), lineId: line?.id, day, text: 'Toll', cost: 10_00, price, taxId: null },
      }),
    );
  await act('2026-11-16T10:05:00Z', { kind: 'arrived' });
  await toll('2026-11-16', 15_00);
  await act('2026-11-16T12:00:00Z', { kind: 'paused', reason: 'waiting for parts', text: 'gaskets' });
  await act('2026-11-19T13:05:00Z', { kind: 'resumed' });
  await toll('2026-11-19', 22_00);
  const { items } = must(await at.call<{ items: { id: number }[] }>('GET', '/api/parts?q=GS-720'));
  must(
    await at.call('POST', `/api/orders/${id}/parts`, {
      ...{ requestKey: randomUUID(), partId: items[0]?.id, lineId: line?.id, thousandths: 2000 },
    }),
  );
  await act('2026-11-19T14:00:00Z', { kind: 'restored' });
  await act('2026-11-19T15:00:00Z', { kind: 'done', text: '' });
  while ((await lookAtMarked(at.house.database)) > 0);
  return id;
}

it('stands on a document for each appointment that was kept, and a card’s payment is taken off in their order', async () => {
  const id = await doneInTwo();
  const [who] = await at.house.database.db.select({ id: person.id }).from(person).limit(1);
  await at.house.database.db.insert(orderPayment).values({
    ...{ orderId: id as OrderId, way: 'card', state: 'paid', amount: 30_00, currency: 'EUR', receipt: 'R 1' },
    ...{ personId: who?.id as PersonId, at: at.house.now, requestKey: randomUUID(), requestContent: '' },
  });
  const [first, second] = [
    { nth: 1, on: '2026-11-16' },
    { nth: 2, on: '2026-11-19' },
  ];
  expect((await at.look(id)).charges.map((c) => [c.what, c.pay, c.coming])).toEqual([
    ['other', 15_00, first],
    ['part', 35_96, second],
    ['other', 22_00, second],
  ]);
  expect((await at.approve(id)).approved).toBe(1);
  expect((await at.look(id)).charges.map((c) => c.coming)).toEqual([first, second, second]);
  await at.bill({ orderId: id, customerId: at.world.customerId });
  const pages = (await at.documents()).filter((d) => d.lines.some((l) => l.orderId === id));
  // 15.00 with 23 % is 18.45; 35.96 + 22.00 = 57.96 with 13.33 is 71.29. The card paid 30.00.
  expect(pages.map((d) => [d.about, d.withTax, d.paid]).toSorted()).toEqual([
    [`${orderNumber(id)}, appointment of 2026-11-16`, 18_45, 18_45],
    [`${orderNumber(id)}, appointment of 2026-11-19`, 71_29, 11_55],
  ]);
  expect(must(await at.call<{ stage: string }>('GET', `/api/orders/${id}`)).stage).toBe('settled');
  const run = await at.bill({ orderId: id, customerId: at.world.customerId });
  expect(await at.documents(`?run=${run}`)).toEqual([]);
});

it('is looked at anew when they want to be billed otherwise, unless it is approved', async () => {
  const [open, approved] = [await doneInTwo(), await doneInTwo()];
  await at.approve(approved);
  const seen = (await at.look(open)).digest;
  await billedBy('order', 1);
  while ((await lookAtMarked(at.house.database)) > 0);
  const left = must(
    await at.call<{ left: { reason: string }[] }>('POST', '/api/settle/approvals', {
      orders: [{ id: open, digest: seen }],
    }),
  ).left;
  expect(left.map((l) => l.reason)).toEqual([expect.stringContaining('something else')]);
  expect((await at.look(open)).charges.map((c) => c.coming)).toEqual([null, null, null]);
  await at.approve(open);
  await at.bill({ customerId: at.world.customerId });
  // What was approved by appointment stands together all the same, as they want it now.
  const abouts = (await at.documents()).map((d) => d.about);
  expect(abouts).toEqual(expect.arrayContaining([`${orderNumber(open)}`, `${orderNumber(approved)}`]));
});
