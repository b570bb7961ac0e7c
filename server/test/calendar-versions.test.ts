// A calendar that is open otherwise from a day on: what ended before stays, what runs is derived again, all of it or none of an order.
import { randomUUID } from 'node:crypto';
import { eq, lt, sql } from 'drizzle-orm';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { CalendarId, OrderId } from '#core/ids.ts';
import { calendarBook, holdCalendars } from '../src/calendars/index.ts';
import { loadOrder } from '../src/orders/index.ts';
import { deriveOrderClocks } from '../src/orders/order-clocks.ts';
import { deriveAgain } from '../src/orders/derive-again.ts';
import { DERIVATION } from '../src/orders/clock-rows.ts';
import { calendar, clock, job } from '../src/tables.ts';
import {
  agreementInForce,
  buildWorld,
  must,
  OFFICE,
  openHouse,
  type Caller,
  type TestHouse,
  type World,
} from './house.ts';

let house: TestHouse;
let call: Caller;
let world: World;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('administrator');
  world = await buildWorld(call, { assets: 3, minutes: 60 });
  await agreementInForce(call, world);
});
afterAll(() => house.close());

const raise = async (receivedAt: string, machine = 0, priority = 1): Promise<number> =>
  must(
    await call<{ id: number }>('POST', '/api/orders', {
      ...{ requestKey: randomUUID(), assetIds: [world.assetIds[machine]], priority, cause: 'wear', title: 'Warm' },
      ...{ receivedAt, lateReason: 'told by paper' },
    }),
  ).id;
const tell = async (id: number, at: string, act: object) =>
  must(await call('POST', `/api/orders/${id}/events`, { requestKey: randomUUID(), at, act }));
const arrival = async (id: number) => {
  const [row] = await house.database.db
    .select()
    .from(clock)
    .where(sql`${clock.orderId} = ${id} and ${clock.target} = 'arrival'`);
  return row;
};
const version = async () =>
  (
    await house.database.db
      .select()
      .from(calendar)
      .where(eq(calendar.id, world.calendarId as never))
  )[0]?.version ?? 0;
const change = async (over: object) =>
  call('PUT', `/api/calendars/${world.calendarId}`, { ...OFFICE, version: await version(), ...over });
const jobs = () => house.database.db.$count(job, eq(job.kind, 'clocks'));
const stale = () => house.database.db.$count(clock, lt(clock.derivation, DERIVATION));

// Four working hours of an office that is open from nine to six.
it('from a day on: clocks that ended before keep what they were, those that run count by it', async () => {
  const ended = await raise('2026-11-16T10:00:00Z');
  await tell(ended, '2026-11-16T12:00:00Z', { kind: 'arrived' });
  await tell(ended, '2026-11-16T13:00:00Z', { kind: 'restored' });
  const running = await raise('2026-11-24T09:00:00Z', 1);
  const before = [await arrival(ended), await arrival(running)];
  expect(before.map((c) => c?.state)).toEqual(['met', 'running']);
  const short = OFFICE.weekly.map((spans: readonly { from: number; to: number }[]) =>
    spans.map(() => ({ from: 9 * 60, to: 10 * 60 })),
  );
  const had = await jobs();
  must(await change({ weekly: short, holdsFrom: '2026-11-24' }));
  expect(await jobs()).toBe(had + 1);
  expect(await stale()).toBeGreaterThan(0);
  const progress: string[] = [];
  expect(
    await deriveAgain(house.database, house.now, async (done, left) => void progress.push(`${done}/${left}`)),
  ).toBeGreaterThan(0);
  expect(progress.at(-1)).toMatch(/^\d+\/0$/);
  expect(await stale()).toBe(0);
  const after = [await arrival(ended), await arrival(running)];
  const keep = (c: (typeof after)[0]) => ({ state: c?.state, dueAt: c?.dueAt, stoppedAt: c?.stoppedAt });
  expect(keep(after[0])).toEqual(keep(before[0]));
  // An hour a day from nine to ten: the fourth ends on Friday.
  expect(new Date(after[1]?.dueAt ?? 0).toISOString()).toBe('2026-11-27T10:00:00.000Z');
  expect(
    must(await call<{ calendars: { heldUntil: string[] }[] }>('GET', '/api/reference')).calendars[0]?.heldUntil,
  ).toEqual(['2026-11-23']);
});

it('refused, nothing changes: hours that are over without a day, a day before its newest version, another zone', async () => {
  const { db } = house.database;
  const state = async () =>
    JSON.stringify([await db.select().from(calendar), await db.select().from(clock), await jobs()]);
  const before = await state();
  for (const [over, field, status] of [
    [{ closed: [...OFFICE.closed, { date: '2026-11-20', name: 'Flood' }] }, 'closed', 409],
    [{ closed: [...OFFICE.closed, { date: '2026-11-20', name: 'Flood' }], holdsFrom: '2026-12-01' }, 'closed', 409],
    [{ holdsFrom: '2026-11-24' }, 'holdsFrom', 409],
    [{ holdsFrom: '2026-12-01', zone: 'Europe/Madrid' }, 'zone', 422],
    [{ holdsFrom: 'soon' }, 'holdsFrom', 422],
  ] as const) {
    const { status: said, body } = await change(over);
    expect([said, body.errors[0]?.field]).toEqual([status, field]);
  }
  expect(await state()).toBe(before);
});

it('a thousand clocks are marked with the change, and taken up by whoever comes; several at once do each order once', async () => {
  const { db } = house.database;
  const ids = [];
  for (let i = 0; i < 12; i += 1) ids.push(await raise('2026-11-24T09:05:00Z', i % 3));
  must(await change({ holdsFrom: '2026-11-25' }));
  const marked = await stale();
  expect(marked).toBeGreaterThanOrEqual(12);
  // One server dies after some of them: what it has not done is still marked, what it has done is whole.
  const dying = deriveAgain(house.database, house.now, () => Promise.reject(new Error('gone')));
  await expect(dying).rejects.toThrow('gone');
  await Promise.all([deriveAgain(house.database, house.now), deriveAgain(house.database, house.now)]);
  expect(await stale()).toBe(0);
  const dues = new Set((await Promise.all(ids.map(arrival))).map((c) => c?.dueAt));
  // Nearly an hour today, three tomorrow from nine on.
  expect([...dues].map((at) => new Date(at ?? 0).toISOString())).toEqual(['2026-11-25T12:05:00.000Z']);
  const own = await db
    .select()
    .from(clock)
    .where(eq(clock.orderId, ids[0] as never));
  expect(new Set(own.map((c) => c.target)).size).toBe(own.length);
});

const openOn = (date: string) => ({ date, name: 'Stocktaking', spans: [{ from: 540, to: 600 }] });

it.each([undefined, 'the latest'] as const)(
  'changed while somebody counts by it: who read it before counts again (reading %s)',
  async (reading) => {
    const id = world.calendarId as CalendarId;
    const seen: (number | null)[] = [];
    await house.database.transact(async (tx) => {
      const book = await calendarBook(tx.db);
      seen.push(book.versionOf(id));
      if (seen.length === 1) must(await change({ extraOpen: [openOn(reading ? '2026-12-05' : '2026-12-12')] }));
      await holdCalendars(tx, book, [id]);
    }, reading);
    expect(seen).toEqual([seen[0], (seen[0] as number) + 1]);
  },
);

it('is changed only once what was counted by it is written, and then finds it', async () => {
  const id = world.calendarId as CalendarId;
  await deriveAgain(house.database, house.now);
  const raised = await raise('2026-11-24T09:00:00Z', 1);
  const told: string[] = [];
  let changing: Promise<unknown> = Promise.resolve();
  await house.database.transact(async (tx) => {
    const book = await calendarBook(tx.db);
    const { order, lines, events } = await loadOrder(tx.db, raised as OrderId, 'lock');
    await deriveOrderClocks(tx, book, order, lines, events, house.now);
    changing = change({ extraOpen: [openOn('2026-12-06')] }).then(({ status }) => told.push(`changed ${status}`));
    // It waits for as long as this lasts.
    await new Promise((over) => setTimeout(over, 300));
    expect(book.versionOf(id)).toBe(await version());
    told.push('written');
  });
  await changing;
  expect(told).toEqual(['written', 'changed 200']);
  expect((await arrival(raised))?.derivation).toBe(0);
  await deriveAgain(house.database, house.now);
  expect(await stale()).toBe(0);
});
