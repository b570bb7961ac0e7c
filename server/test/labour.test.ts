// Time over the routes: entered, divided, refused, handed in, approved, taken back; and what it comes to on the order.
import { randomUUID } from 'node:crypto';
import { eq } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { RateCardIn, WeekSheet } from '#api/labour.ts';
import type { OrderCharges } from '#api/settle.ts';
import type { OrderPage } from '#api/orders.ts';
import { agreementInForce, buildWorld, openHouse, type Caller, type TestHouse, type World } from './house.ts';
import { audit, orderLine, person, timeEntry, timePiece, workOrder } from '../src/tables.ts';

let house: TestHouse;
let desk: Caller;
let manager: Caller;
let technician: Caller;
let world: World;
let me: number;
let craftId: number;
let orders: number[];
let lines: number[];

const CARD = (over: object = {}): RateCardIn => ({
  name: 'Standard',
  currency: 'EUR',
  isStandard: true,
  rates: [{ craftId, from: '2026-01-01', cost: 3400, sales: 7500 }],
  surcharges: { night: { sales: 150, cost: 125 }, holiday: { sales: 200, cost: 100 } },
  billing: {
    work: { step: 15, minimum: 60 },
    travel: { step: 15, minimum: 0 },
    waiting: { step: 1, minimum: 0 },
  },
  night: { from: 1320, to: 360 },
  callOut: 4500,
  travel: { by: 'time' },
  ...over,
});

beforeAll(async () => {
  house = await openHouse();
  desk = await house.as('coordinator');
  manager = await house.as('manager');
  technician = await house.as('technician');
  world = await buildWorld(desk, { assets: 4 });
  await agreementInForce(desk, world);
  const { db } = house.database;
  const [own] = await db.select().from(person).where(eq(person.role, 'technician'));
  me = own?.id ?? 0;
  craftId = (await manager<{ id: number }>('POST', '/api/crafts', { name: 'Technician' })).body.id;
  await db
    .update(person)
    .set({ craftId: craftId as never })
    .where(eq(person.id, me as never));
  orders = [];
  for (const assetId of world.assetIds) {
    const raised = await desk<{ id: number }>('POST', '/api/orders', {
      ...{
        assetIds: [assetId],
        priority: 2,
        cause: 'wear',
        receivedAt: '2026-11-16T08:00:00Z',
        title: 'Warm',
        requestKey: randomUUID(),
      },
    });
    orders.push(raised.body.id);
  }
  const rows = await db.select({ id: orderLine.id, orderId: orderLine.orderId }).from(orderLine);
  lines = orders.map((id) => rows.find((r) => r.orderId === id)?.id ?? 0);
});
afterAll(() => house.close());

const entry = (over: object = {}) => ({
  ...{ day: '2026-11-17', kind: 'work', from: 540, to: 660, lines: [{ lineId: lines[0] }] },
  ...over,
});
const body = (over: object = {}) => ({ requestKey: randomUUID(), personId: me, ...entry(over) });
const enter = (over: object = {}, call = technician) => call<{ id: number }>('POST', '/api/time', body(over));
const week = async (day = '2026-11-17', call = technician) =>
  (await call<WeekSheet>('GET', `/api/time/sheets/${me}/${day}`)).body;
const act = (what: string, over: object = {}, call = desk, day = '2026-11-17') =>
  call<{ state: string }>('POST', `/api/time/sheets/${me}/${day}`, { act: what, ...over });
const labour = async (i: number, call = desk) =>
  (await call<OrderCharges>('GET', `/api/orders/${orders[i]}/charges`)).body;
const counted = async () => {
  const { db } = house.database;
  return [await db.$count(timeEntry), await db.$count(timePiece), await db.$count(audit)];
};

describe('before there is a rate card', () => {
  it('time can be entered, and comes to nothing yet', async () => {
    const added = await enter({ day: '2026-11-10', kind: 'travel', from: null, to: null, minutes: 45 });
    expect(added.status).toBe(200);
    expect(await labour(0)).toMatchObject({ card: null, charges: [], entries: [{ kind: 'travel', minutes: 45 }] });
    expect((await technician('DELETE', `/api/time/${added.body.id}`)).status).toBe(200);
    expect(await labour(0)).toMatchObject({ entries: [] });
  });
});

describe('a rate card', () => {
  it('is kept as typed, and is written by managers only', async () => {
    expect((await desk('POST', '/api/rate-cards', CARD())).status).toBe(403);
    expect((await technician('GET', '/api/rate-cards')).status).toBe(403);
    const { id } = (await manager<{ id: number }>('POST', '/api/rate-cards', CARD())).body;
    const { cards } = (await desk<{ cards: object[] }>('GET', '/api/rate-cards')).body;
    expect(cards).toEqual([{ id, version: 1, ...CARD(), agreedWith: { names: [], count: 0 } }]);
  });

  it('is refused at its field: amounts, crafts that are none, a taken name, a stale version', async () => {
    const refusal = async (over: object, path = '/api/rate-cards', method: 'POST' | 'PUT' = 'POST') => {
      const { status, body: said } = await manager(method, path, CARD({ name: 'Other', isStandard: false, ...over }));
      return [status, said.errors?.[0]?.field];
    };
    const rate = { craftId, from: '2026-01-01', cost: 1, sales: 1 };
    expect(await refusal({ rates: [] })).toEqual([422, 'rates']);
    expect(await refusal({ rates: [rate, rate] })).toEqual([409, 'rates.1.from']);
    expect(await refusal({ rates: [{ ...rate, craftId: 987 }] })).toEqual([404, 'rates.0.craftId']);
    expect(await refusal({ night: { from: 60, to: 60 } })).toEqual([422, 'night.to']);
    expect(await refusal({ name: 'Standard' })).toEqual([409, 'name']);
    expect(await refusal({ version: 7 }, '/api/rate-cards/1', 'PUT')).toEqual([409, null]);
    expect(await refusal({ version: 1, name: 'Standard' }, '/api/rate-cards/1', 'PUT')).toEqual([409, 'isStandard']);
  });

  it('of two only one is the standard', async () => {
    const other = CARD({ name: 'Summer', night: null });
    const { id } = (await manager<{ id: number }>('POST', '/api/rate-cards', other)).body;
    const standard = async () =>
      (await desk<{ cards: { name: string; isStandard: boolean }[] }>('GET', '/api/rate-cards')).body.cards
        .filter((c) => c.isStandard)
        .map((c) => c.name);
    expect(await standard()).toEqual(['Summer']);
    expect((await manager('PUT', '/api/rate-cards/1', { ...CARD(), version: 1 })).status).toBe(200);
    expect(await standard()).toEqual(['Standard']);
    expect(id).toBeGreaterThan(1);
  });
});

describe('an entry', () => {
  it('is found in the person’s week with its hours, and comes to its money on the order', async () => {
    // Tuesday 21:00 to 23:00: an hour outside, an hour of night.
    expect((await enter({ from: 1260, to: 1380, text: 'compressor' })).status).toBe(200);
    const sheet = await week();
    expect(sheet).toMatchObject({ week: '2026-11-16', state: 'open', craft: 'Technician', calendar: null });
    expect(sheet.entries[0]).toMatchObject({
      ...{ day: '2026-11-17', from: 1260, to: 1380, minutes: 120, text: 'compressor' },
      lines: [{ orderId: orders[0], minutes: 120 }],
    });
    const found = await labour(0);
    // 60 min at 34.00 and 75.00; at night ×1.25 cost and ×1.5 price.
    expect(found.charges.filter((c) => c.hours === 'night')).toMatchObject([{ minutes: 60, cost: 4250, list: 11250 }]);
    expect(found.charges.reduce((sum, c) => sum + (c.list ?? 0), 0)).toBe(7500 + 11250);
    expect(found).toMatchObject({ card: 'Standard', currency: 'EUR', withoutRate: [] });
    // The agreement’s shares say who pays.
    for (const c of found.charges) expect((c.borne ?? 0) + (c.discount ?? 0) + (c.pay ?? 0)).toBe(c.list);
  });

  it('is joined by the call-out once somebody came, divided over the machines', async () => {
    const arrived = { requestKey: randomUUID(), at: '2026-11-17T09:00:00Z', act: { kind: 'arrived' } };
    expect((await desk('POST', `/api/orders/${orders[0]}/events`, arrived)).status).toBe(200);
    const callOut = (await labour(0)).charges.filter((c) => c.what === 'call-out');
    expect(callOut).toMatchObject([{ lineId: lines[0], person: null, minutes: null, list: 4500 }]);
  });

  it('keeps money from technicians', async () => {
    const { charges } = await labour(0, technician);
    expect(charges.length).toBeGreaterThan(0);
    for (const c of charges)
      expect([c.cost, c.list, c.salesRate, c.borne, c.pay]).toEqual([null, null, null, null, null]);
  });

  it('is divided over orders, to the minute', async () => {
    const shared = [
      { lineId: lines[1], share: 1 },
      { lineId: lines[2], share: 1 },
      { lineId: lines[3], share: 1 },
    ];
    const { body: added } = await enter({ day: '2026-11-18', from: 540, to: 640, lines: shared });
    const [entry] = (await week()).entries.filter((e) => e.id === added.id);
    expect(entry?.lines.map((l) => l.minutes)).toEqual([34, 33, 33]);
    expect((await labour(2)).entries.map((e) => e.minutes)).toEqual([33]);
  });

  it('sent twice with one key, also at once, is one; the key for something else is refused', async () => {
    const key = randomUUID();
    const same = { requestKey: key, day: '2026-11-18', from: 700, to: 760 };
    const answers = await Promise.all([enter(same), enter(same)]);
    expect(answers.map((a) => a.status)).toEqual([200, 200]);
    expect(new Set(answers.map((a) => a.body.id)).size).toBe(1);
    expect((await enter(same)).body.id).toBe(answers[0]?.body.id);
    expect((await enter({ ...same, to: 770 })).status).toBe(409);
  });

  it('of two at once that overlap only one stands; with a reason both do', async () => {
    const at = { day: '2026-11-19', from: 540, to: 600 };
    const both = await Promise.all([enter(at), enter({ ...at, from: 570, to: 630 })]);
    expect(both.map((a) => a.status).sort()).toEqual([200, 409]);
    const refused = both.find((a) => a.status === 409);
    expect(refused?.body.errors[0]).toMatchObject({
      field: 'overlapReason',
      message: expect.stringContaining('is entered already') as string,
    });
    expect((await enter({ ...at, from: 590, to: 620, overlapReason: 'two machines in one room' })).status).toBe(200);
    expect((await week()).overlaps).toHaveLength(1);
    // Touching is no overlap.
    const free = { day: '2026-11-19', from: 800, to: 830 };
    expect((await enter(free)).status).toBe(200);
    expect((await enter({ ...free, from: 830, to: 840 })).status).toBe(200);
  });

  it.each([
    ['in the future', { day: '2026-11-24', from: 600, to: 1200 }, 422, 'to'],
    ['of 25 hours', { from: null, to: null, minutes: 1500 }, 413, 'minutes'],
    ['of no minutes', { from: null, to: null, minutes: 0 }, 422, 'minutes'],
    ['below zero', { from: null, to: null, minutes: -30 }, 422, 'minutes'],
    ['without an order', { lines: [] }, 422, 'lines'],
    ['for an order that is none', { lines: [{ lineId: 987_654 }] }, 404, 'lines.0.lineId'],
    ['for one order twice', () => ({ lines: [{ lineId: lines[0] }, { lineId: lines[0] }] }), 409, 'lines.1.lineId'],
    ['with shares of nothing', () => ({ lines: [{ lineId: lines[0], share: 0 }] }), 422, 'lines.0.share'],
    ['with kilometres of work', { from: 600, to: 610, kilometres: 5 }, 422, 'kilometres'],
    ['with kilometres below zero', { kind: 'travel', from: 600, to: 610, kilometres: -5 }, 422, 'kilometres'],
    ['of nobody', { personId: 987_654 }, 403, 'personId'],
  ])('%s is refused at its field, and nothing is written', async (_, over, status, field) => {
    const before = await counted();
    const answer = await enter({ day: '2026-11-20', ...(typeof over === 'function' ? over() : over) });
    expect([answer.status, answer.body.errors[0]?.field]).toEqual([status, field]);
    expect(await counted()).toEqual(before);
  });

  it('that with others would make a day of more than 24 hours is refused, also a sum that overlaps nothing', async () => {
    const on = { day: '2026-11-13', from: null, to: null };
    const first = await enter({ ...on, minutes: 1200 });
    expect(first.status).toBe(200);
    const before = await counted();
    const more = await enter({ ...on, minutes: 241 });
    expect([more.status, more.body.errors[0]?.field]).toEqual([413, 'minutes']);
    expect((await enter({ day: '2026-11-12', from: 1320, to: 241 })).body.errors[0]?.field).toBe('to');
    expect(await counted()).toEqual(before);
    expect((await enter({ ...on, minutes: 240 })).status).toBe(200);
    // Changed, its own minutes do not count twice.
    const changed = { ...entry({ ...on, minutes: 1199 }), version: 1 };
    expect((await technician('PUT', `/api/time/${first.body.id}`, changed)).status).toBe(200);
  });

  it('for an order that was called off is refused', async () => {
    const { db } = house.database;
    await db
      .update(workOrder)
      .set({ stage: 'called off' })
      .where(eq(workOrder.id, orders[3] as never));
    const answer = await enter({ day: '2026-11-20', lines: [{ lineId: lines[3] }] });
    expect([answer.status, answer.body.errors[0]?.field]).toEqual([409, 'lines.0.lineId']);
    await db
      .update(workOrder)
      .set({ stage: 'raised' })
      .where(eq(workOrder.id, orders[3] as never));
  });

  it('of others is entered by the office alone', async () => {
    const { db } = house.database;
    const [other] = await db.select().from(person).where(eq(person.role, 'dispatcher'));
    const theirs = { personId: other?.id, day: '2026-11-20' };
    expect((await enter(theirs)).status).toBe(403);
    expect((await enter(theirs, desk)).status).toBe(200);
    expect((await technician('GET', `/api/time/sheets/${other?.id}/2026-11-20`)).status).toBe(403);
    expect((await (await house.as('storekeeper'))('GET', `/api/time/sheets/${me}/2026-11-20`)).status).toBe(403);
  });

  it('is changed under the version that was read', async () => {
    const { body: added } = await enter({ day: '2026-11-20', from: 480, to: 540 });
    const changed = entry({ day: '2026-11-20', from: 480, to: 500 });
    const put = (version: number) => technician('PUT', `/api/time/${added.id}`, { ...changed, version });
    expect((await put(1)).status).toBe(200);
    expect((await put(1)).body.code).toBe('stale');
    expect((await week()).entries.find((e) => e.id === added.id)).toMatchObject({ minutes: 20, version: 2 });
    expect((await technician('DELETE', `/api/time/${added.id}`)).status).toBe(200);
    expect((await technician('DELETE', `/api/time/${added.id}`)).status).toBe(404);
  });
});

describe('a week', () => {
  it('is handed in, sent back with a reason, handed in again and approved, never by whose it is', async () => {
    expect((await act('approve')).status).toBe(409);
    expect((await act('hand in', {}, technician)).body.state).toBe('handed in');
    expect((await enter({ day: '2026-11-20', from: 900, to: 910 })).status).toBe(409);
    expect((await act('send back', { reason: '' })).body.errors[0]?.field).toBe('reason');
    expect((await act('approve', {}, technician)).status).toBe(403);
    expect((await act('send back', { reason: 'Thursday is missing' })).body.state).toBe('sent back');
    expect(await week()).toMatchObject({ state: 'sent back', reason: 'Thursday is missing' });
    expect((await enter({ day: '2026-11-20', from: 900, to: 910 })).status).toBe(200);
    expect((await act('hand in', {}, technician)).body.state).toBe('handed in');
    expect((await act('approve', {}, manager)).body.state).toBe('approved');
    expect((await act('hand in', {}, technician, '2026-12-01')).status).toBe(422);
  });

  it('that is approved is locked: an entry is taken back once, by a counter-entry with its reason', async () => {
    const [first] = (await week()).entries;
    const path = `/api/time/${first?.id}`;
    const changed = entry();
    expect((await technician('PUT', path, { ...changed, version: first?.version })).status).toBe(409);
    expect((await technician('DELETE', path)).status).toBe(409);
    expect((await desk('POST', `${path}/counter`, { reason: ' ' })).status).toBe(422);
    const taking = await Promise.all(
      [1, 2].map(() => desk<{ id: number }>('POST', `${path}/counter`, { reason: 'wrong day' })),
    );
    expect(taking.map((t) => t.status).sort()).toEqual([200, 409]);
    const sheet = await week();
    expect(sheet.entries.find((e) => e.id === first?.id)?.counteredBy).not.toBeNull();
    expect(sheet.entries.find((e) => e.counters === first?.id)).toMatchObject({ minutes: -120, reason: 'wrong day' });
    // Of the order nothing of it is left; the other entries of the week are.
    expect((await labour(0)).charges.filter((c) => c.hours === 'night')).toEqual([]);
    const counter = sheet.entries.find((e) => e.counters === first?.id)?.id;
    expect((await desk('POST', `/api/time/${counter}/counter`, { reason: 'again' })).status).toBe(409);
    // What was missing is written into it by the office, not by whose it is.
    expect((await enter({ from: 1260, to: 1380 })).status).toBe(409);
    expect((await enter({ from: 1260, to: 1380 }, desk)).status).toBe(200);
  });

  it('leaves its work with the order, for whoever says that it is done', async () => {
    const page = (await desk<OrderPage>('GET', `/api/orders/${orders[0]}`)).body;
    const { entries } = await labour(0);
    const work = entries.filter((e) => e.kind === 'work').reduce((sum, e) => sum + e.minutes, 0);
    expect([page.worked, work]).toEqual([work, expect.any(Number)]);
    expect(work).toBeGreaterThan(0);
  });

  it('is listed with everybody’s hours', async () => {
    const { items } = (
      await desk<{ items: { person: { id: number }; state: string; work: number }[] }>(
        'GET',
        '/api/time/sheets?week=2026-11-18',
      )
    ).body;
    const own = items.find((i) => i.person.id === me);
    expect(own?.state).toBe('approved');
    const sheet = await week();
    expect(own?.work).toBe(sheet.entries.filter((e) => e.kind === 'work').reduce((sum, e) => sum + e.minutes, 0));
    expect((await technician('GET', '/api/time/sheets?week=2026-11-18')).status).toBe(403);
  });
});

describe('everybody’s month', () => {
  it('has the hours by kind and hours kind, and costs what its orders cost', async () => {
    type Month = {
      items: { person: { id: number }; work: number; travel: number; night: number; normal: number; cost: number }[];
    };
    const month = async (of: string) => (await desk<Month>('GET', `/api/time/month?month=${of}`)).body.items;
    const own = (await month('2026-11')).find((i) => i.person.id === me);
    const rows = (await house.database.db.select().from(timePiece)).filter((p) => p.personId === (me as never));
    const minutes = (wanted: (p: (typeof rows)[number]) => boolean) =>
      rows.filter(wanted).reduce((sum, p) => sum + p.minutes, 0);
    expect(own).toMatchObject({
      work: minutes((p) => p.kind === 'work'),
      travel: minutes((p) => p.kind === 'travel'),
      night: minutes((p) => p.hours === 'night'),
      normal: minutes((p) => p.hours === 'normal'),
    });
    // By hand: 34.00 an hour, a quarter more at night.
    const night = minutes((p) => p.hours === 'night');
    expect(own?.cost).toBe(
      Math.round(((minutes(() => true) - night) * 3400) / 60) + Math.round((night * 3400 * 1.25) / 60),
    );
    expect(await month('2026-12')).toEqual([]);
    expect((await desk('GET', '/api/time/month?month=2026-13')).status).toBe(422);
    expect((await technician('GET', '/api/time/month?month=2026-11')).status).toBe(403);
  });
});

describe('travel sold by the kilometre', () => {
  it('is divided over the orders as its time is, comes to the card’s price, and is taken back with its entry', async () => {
    const { cards } = (
      await manager<{ cards: { id: number; name: string; version: number }[] }>('GET', '/api/rate-cards')
    ).body;
    const standard = cards.find((c) => c.name === 'Standard');
    const byKm = { ...CARD({ travel: { by: 'km', price: 45 } }), version: standard?.version };
    expect((await manager('PUT', `/api/rate-cards/${standard?.id}`, byKm)).status).toBe(200);
    const way = {
      ...{ day: '2026-11-10', kind: 'travel', from: 480, to: 540, kilometres: 7 },
      lines: [{ lineId: lines[1] }, { lineId: lines[2] }],
    };
    expect((await enter(way)).status).toBe(200);
    const driven = async (i: number) =>
      (await labour(i)).charges.filter((c) => c.what === 'kilometres').map((c) => [c.text, c.list]);
    expect([await driven(1), await driven(2)]).toEqual([[['4 km', 180]], [['3 km', 135]]]);
    expect((await labour(1)).charges.filter((c) => c.what === 'travel').map((c) => c.list)).toEqual([0]);
    const sheet = await week('2026-11-09');
    expect(sheet.entries.map((e) => e.kilometres)).toContain(7);
    for (const [what, by] of [
      ['hand in', technician],
      ['approve', manager],
    ] as const)
      expect((await act(what, {}, by, '2026-11-09')).status).toBe(200);
    const id = sheet.entries.find((e) => e.kilometres === 7)?.id;
    expect((await desk('POST', `/api/time/${id}/counter`, { reason: 'another car' })).status).toBe(200);
    expect([await driven(1), await driven(2)]).toEqual([[], []]);
  });
});
