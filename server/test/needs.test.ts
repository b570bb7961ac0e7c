// Needs of orders: held by the rules, bought or gone without, used from the store they are held in; the order's mark follows by itself.
import { randomUUID } from 'node:crypto';
import { eq } from 'drizzle-orm';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { NeedOut } from '#api/needs.ts';
import type { OrderCharges } from '#api/settle.ts';
import type { OrderId } from '#core/ids.ts';
import { cover } from '../src/stores/covering.ts';
import { orderEvent, partNeed, stock, stockHold, stockMove, usedPart, workOrder } from '../src/tables.ts';
import { calling, refusedAt } from './calling.ts';
import { buildWorld, must, type Caller, type TestHouse, type World } from './house.ts';
import { openStockHouse, stockLine, type StockHouse } from './stock-house.ts';

let all: StockHouse;
let house: TestHouse;
let desk: Caller;
let world: World;
let [north, south, van] = [0, 0, 0];
let { addPart, receive, inStore, movesOf, rebuilt } = {} as StockHouse;
beforeAll(async () => {
  all = await openStockHouse();
  ({ house, desk, north, south, van } = all);
  ({ addPart, receive, inStore, movesOf, rebuilt } = all);
  world = await buildWorld(desk, { assets: 3 });
});
afterAll(() => house?.close());

const { raised, page, record } = calling(() => ({ call: desk, world }));
const line = stockLine;

const needsOf = async (order: number): Promise<NeedOut[]> =>
  must(await desk<{ needs: NeedOut[] }>('GET', `/api/orders/${order}/needs`)).needs;
const lineOf = async (order: number): Promise<number> => (await page(order)).lines[0]?.id as number;
const ask = async (order: number, partId: number, n: number, version = 0, by = desk) =>
  by('PUT', `/api/orders/${order}/needs`, { lineId: await lineOf(order), partId, thousandths: n * 1000, version });
const use = async (order: number, partId: number, n: number, storeId: number | null, over: object = {}) =>
  desk<{ id: number }>('POST', `/api/orders/${order}/parts`, {
    ...{ requestKey: randomUUID(), lineId: await lineOf(order), partId, thousandths: n * 1000, storeId, ...over },
  });
const act = (order: number, body: object) => record(order, body, desk, new Date(house.now).toISOString());
const plan = (order: number, date = '2026-11-26') =>
  act(order, { kind: 'planned', technicianId: all.technician, date });
/** What the job does that a change leaves behind. */
const covered = (of: Parameters<typeof cover>[1] = {}) => cover(house.database, of, house.now);
const waiting = async (order: number): Promise<string | null> => {
  const [row] = await house.database.db
    .select()
    .from(workOrder)
    .where(eq(workOrder.id, order as OrderId));
  return row?.waitingFor ?? null;
};
const heldIn = async (order: number) =>
  (await needsOf(order)).map((n) => n.holds.map((h) => [h.store.name, h.thousandths]));

const TABLES = [stock, stockMove, partNeed, stockHold, usedPart];
const rows = (): Promise<unknown[]> => Promise.all(TABLES.map((t) => house.database.db.select().from(t)));

describe('a need', () => {
  it('is held from the van of who goes, then from depots; what is open makes the order wait, and a receipt ends that', async () => {
    const partId = await addPart({ name: 'Door gasket' });
    must(await receive(van, [line(partId, 1)]));
    must(await receive(north, [line(partId, 1)]));
    const order = await raised({});
    must(await plan(order));
    must(await ask(order, partId, 4));
    expect(await heldIn(order)).toEqual([
      [
        ['North', 1000],
        ['Van 1', 1000],
      ],
    ]);
    expect(await waiting(order)).toBe('waiting for parts');
    const events = await house.database.db
      .select()
      .from(orderEvent)
      .where(eq(orderEvent.orderId, order as never));
    expect(events.at(-1)).toMatchObject({ personId: null, act: { kind: 'paused', text: '2 × Door gasket' } });
    must(await receive(south, [line(partId, 1)]));
    expect([await waiting(order), (await needsOf(order))[0]?.open]).toEqual(['waiting for parts', 1000]);
    must(await receive(south, [line(partId, 5)]));
    expect([await waiting(order), (await needsOf(order))[0]?.open]).toEqual([null, 0]);
    expect(await inStore(partId, south)).toMatchObject({ onHand: 6000, reserved: 2000, free: 4000 });
    expect(await rebuilt()).toEqual([]);
  });

  it('comes with the job plan of an order, without what is used up anyway and lies in no store', async () => {
    const [kept, grease] = [await addPart(), await addPart({ consumable: true })];
    must(await receive(north, [line(kept, 1)]));
    const jobPlanId = must(
      await desk<{ id: number }>('POST', '/api/job-plans', {
        ...{ name: `Yearly ${kept}`, minutes: 60, skillId: null, includes: [], crew: 1, safetyNote: '' },
        ...{ tasks: [{ text: 'Measure', mandatory: true }], parts: [line(kept, 2), line(grease, 1)] },
      }),
    ).id;
    const order = await raised({ kind: 'inspection', jobPlanId });
    await covered({ orders: [order as never] });
    expect((await needsOf(order)).map((n) => [n.part.id, n.wanted, n.held, n.open])).toEqual([
      [kept, 2000, 1000, 1000],
    ]);
    expect(await waiting(order)).toBe('waiting for parts');
    must(await receive(north, [line(kept, 1)]));
    // Common practice: a template of two of a part; once used, stock falls by two.
    const pressed = must(await desk<{ booked: number; left: string[] }>('POST', `/api/orders/${order}/planned-parts`));
    expect(pressed).toEqual({ booked: 2, left: [] });
    expect(await inStore(kept, north)).toBeUndefined();
    expect((await movesOf(kept)).map((m) => [m.kind, m.thousandths, m.orderId])[0]).toEqual(['issue', -2000, order]);
    expect(await rebuilt()).toEqual([]);
  });

  it('of work that is weeks away takes nothing from what is near, and is not waited for yet', async () => {
    const partId = await addPart();
    must(await receive(north, [line(partId, 1)]));
    const far = await raised({});
    must(await plan(far, '2027-02-01'));
    must(await ask(far, partId, 2));
    expect([await waiting(far), (await needsOf(far))[0]?.held]).toEqual([null, 0]);
    const near = await raised({});
    must(await ask(near, partId, 1));
    expect((await needsOf(near))[0]?.held).toBe(1000);
    must(await plan(far, '2026-12-01'));
    await covered();
    expect(await waiting(far)).toBe('waiting for parts');
  });

  it('is gone without for a reason, waited for again once that is taken back', async () => {
    const [partId, order] = [await addPart(), await raised({})];
    must(await ask(order, partId, 1));
    const anyway = (reason: string, version: number, by = desk) =>
      needsOf(order).then(([n]) => by('PUT', `/api/needs/${n?.id}/anyway`, { reason, version }));
    expect(refusedAt(await anyway('', 9))).toEqual([409, null, 'stale']);
    expect((await anyway('x', 1, await house.as('technician'))).status).toBe(403);
    must(await anyway('the customer has one', 1));
    expect([await waiting(order), (await needsOf(order))[0]?.anyway?.reason]).toEqual([null, 'the customer has one']);
    must(await anyway('', 2));
    expect(await waiting(order)).toBe('waiting for parts');
  });

  it('leaves alone what waits for something else, and waits for parts once that is over', async () => {
    const [partId, order] = [await addPart(), await raised({})];
    must(await act(order, { kind: 'paused', reason: 'no access', text: 'closed' }));
    must(await ask(order, partId, 1));
    expect(await waiting(order)).toBe('no access');
    must(await act(order, { kind: 'resumed' }));
    await covered();
    expect(await waiting(order)).toBe('waiting for parts');
  });

  it('is let go where less of it is wanted, and where the order is called off', async () => {
    const partId = await addPart();
    must(await receive(van, [line(partId, 3)]));
    const order = await raised({});
    must(await plan(order));
    must(await ask(order, partId, 3));
    expect(await inStore(partId, van)).toMatchObject({ reserved: 3000, free: 0 });
    must(await ask(order, partId, 2, 1));
    expect(await inStore(partId, van)).toMatchObject({ reserved: 2000, free: 1000 });
    must(await act(order, { kind: 'called off', text: 'not wanted' }));
    expect(await inStore(partId, van)).toMatchObject({ reserved: 0, free: 3000 });
    expect((await needsOf(order))[0]).toMatchObject({ wanted: 2000, held: 0, open: 0 });
    expect(refusedAt(await ask(order, partId, 1, 2))).toEqual([409, null, 'wrong-stage']);
    expect(await rebuilt()).toEqual([]);
  });
});

describe('a follow-up', () => {
  it('takes along what was not used, and what was held for it', async () => {
    const partId = await addPart();
    must(await receive(north, [line(partId, 3)]));
    const order = await raised({});
    must(await plan(order));
    must(await ask(order, partId, 3));
    must(await use(order, partId, 1, north));
    must(await act(order, { kind: 'arrived' }));
    const body = { requestKey: randomUUID(), lineIds: [await lineOf(order)], reason: 'the rest tomorrow', parts: '' };
    const { id } = must(await desk<{ id: number }>('POST', `/api/orders/${order}/follow-up`, body));
    await covered({ orders: [id as never] });
    expect((await needsOf(order))[0]).toMatchObject({ wanted: 1000, used: 1000, held: 0, open: 0 });
    expect((await needsOf(id))[0]).toMatchObject({ wanted: 2000, used: 0, held: 2000, open: 0 });
    expect(await inStore(partId, north)).toMatchObject({ onHand: 2000, reserved: 2000 });
    expect(await rebuilt()).toEqual([]);
  });
});

describe('a part used from a store', () => {
  it('goes out at what it is worth there, costs the order that, and comes back at the same', async () => {
    const partId = await addPart({ cost: 900, listPrice: 2000 });
    must(await receive(north, [line(partId, 2, { unitPrice: 700 }), line(partId, 2, { unitPrice: 900 })]));
    const order = await raised({});
    const { id } = must(await use(order, partId, 1, north));
    expect(await inStore(partId, north)).toMatchObject({ onHand: 3000, value: 2400, average: 800 });
    must(await receive(north, [line(partId, 1, { unitPrice: 1200 })]));
    must(await desk('DELETE', `/api/used-parts/${id}`));
    expect((await movesOf(partId)).slice(0, 3).map((m) => [m.kind, m.money])).toEqual([
      ['return', 800],
      ['receipt', 1200],
      ['issue', -800],
    ]);
    expect(await inStore(partId, north)).toMatchObject({ onHand: 5000, value: 4400 });
    const again = must(await use(order, partId, 1, north));
    const { charges } = must(await desk<OrderCharges>('GET', `/api/orders/${order}/charges`));
    expect(charges.find((c) => c.what === 'part')).toMatchObject({ cost: 880, list: 2000 });
    const changed = { ...{ version: 1, lineId: await lineOf(order), thousandths: 3000, storeId: north, serial: '' } };
    must(await desk('PUT', `/api/used-parts/${again.id}`, changed));
    expect(await inStore(partId, north)).toMatchObject({ onHand: 2000, value: 1760 });
    expect(await rebuilt()).toEqual([]);
  });

  it('is refused beyond what is free there, and changes nothing; what is held for another order is not free', async () => {
    const partId = await addPart();
    must(await receive(north, [line(partId, 2)]));
    const [order, other] = [await raised({}), await raised({})];
    must(await ask(other, partId, 2));
    const before = await rows();
    expect(refusedAt(await use(order, partId, 1, north))).toEqual([409, 'thousandths', 'conflict']);
    expect(refusedAt(await use(order, partId, 3, north))).toEqual([409, 'thousandths', 'conflict']);
    expect(refusedAt(await use(order, partId, 1, 987_654))).toEqual([404, 'storeId', 'not-found']);
    expect(await rows()).toEqual(before);
    must(await use(other, partId, 1, north));
    expect((await needsOf(other))[0]).toMatchObject({ wanted: 2000, used: 1000, held: 1000, open: 0 });
  });

  it('kept by serial names the unit that goes out, which is nowhere then, and back', async () => {
    const partId = await addPart({ serialTracked: true });
    must(await receive(north, [line(partId, 2, { serials: ['K-ZX1', 'K-ZX2'] })]));
    const order = await raised({});
    expect(refusedAt(await use(order, partId, 1, south, { serial: 'K-ZX1' }))[1]).toBe('thousandths');
    must(await receive(south, [line(partId, 1, { serials: ['K-ZX3'] })]));
    expect(refusedAt(await use(order, partId, 1, south, { serial: 'K-ZX1' }))).toEqual([409, 'serial', 'conflict']);
    const { id } = must(await use(order, partId, 1, north, { serial: 'K-ZX1' }));
    expect((await all.lies(partId)).serials.map((s) => s.serial)).toEqual(['K-ZX2', 'K-ZX3']);
    expect(refusedAt(await use(order, partId, 1, north, { serial: 'K-ZX1' }))).toEqual([409, 'serial', 'taken']);
    must(await desk('DELETE', `/api/used-parts/${id}`));
    expect((await all.lies(partId)).serials.map((s) => s.serial)).toEqual(['K-ZX1', 'K-ZX2', 'K-ZX3']);
    expect(await rebuilt()).toEqual([]);
  });

  it('sent twice, or by forty at once, goes out once each and never below nothing', async () => {
    const partId = await addPart();
    must(await receive(north, [line(partId, 25)]));
    const order = await raised({});
    const lineId = await lineOf(order);
    const body = (requestKey: string) => ({ requestKey, lineId, partId, thousandths: 1000, storeId: north });
    const key = randomUUID();
    const first = await desk<{ id: number }>('POST', `/api/orders/${order}/parts`, body(key));
    expect(await desk('POST', `/api/orders/${order}/parts`, body(key))).toEqual(first);
    const asked = await Promise.all(
      Array.from({ length: 40 }, () => desk('POST', `/api/orders/${order}/parts`, body(randomUUID()))),
    );
    expect(asked.filter((a) => a.status === 200)).toHaveLength(24);
    expect(asked.every((a) => a.status === 200 || a.status === 409)).toBe(true);
    expect(await inStore(partId, north)).toBeUndefined();
    expect(await rebuilt()).toEqual([]);
  });
});

describe('what is held by a person', () => {
  it('comes from any store they choose, up to what is wanted and free, and never from quarantine', async () => {
    const partId = await addPart();
    const other = must(
      await desk<{ id: number }>('POST', '/api/stores', all.storeBody({ name: 'Aside', kind: 'quarantine' })),
    ).id;
    must(await receive(van, [line(partId, 2)]));
    must(await receive(other, [line(partId, 2)]));
    const order = await raised({});
    must(await ask(order, partId, 3));
    const [need] = await needsOf(order);
    // Nobody goes yet: a van gives nothing by itself.
    expect([need?.held, need?.free.map((f) => f.store.name)]).toEqual([0, ['Van 1', 'Aside']]);
    const hold = (store: number, n: number, version: number) =>
      desk('PUT', `/api/needs/${need?.id}/holds/${store}`, { thousandths: n * 1000, version });
    const before = await rows();
    expect(refusedAt(await hold(van, 4, 1))).toEqual([409, 'thousandths', 'conflict']);
    expect(refusedAt(await hold(van, 3, 1))).toEqual([409, 'thousandths', 'conflict']);
    expect(refusedAt(await hold(other, 1, 1))).toEqual([409, 'store', 'conflict']);
    expect(refusedAt(await hold(987_654, 1, 1))).toEqual([404, 'store', 'not-found']);
    expect(await rows()).toEqual(before);
    must(await hold(van, 2, 1));
    expect((await needsOf(order))[0]).toMatchObject({ held: 2000, open: 1000 });
    must(await hold(van, 0, 2));
    expect(await inStore(partId, van)).toMatchObject({ reserved: 0 });
  });
});

describe('whatever is done', () => {
  it('nothing is held twice, nothing goes below zero, and marks say what needs say', async () => {
    const parts = [await addPart(), await addPart()];
    const orders = [await raised({}), await raised({}), await raised({})];
    const lineIds = await Promise.all(orders.map(lineOf));
    const some = fc.record({
      what: fc.constantFrom('receive', 'ask', 'use', 'back', 'carry'),
      part: fc.nat(1),
      order: fc.nat(2),
      store: fc.nat(1),
      n: fc.integer({ min: 1, max: 4 }),
    });
    const used: number[] = [];
    const stores = [north, van];
    const once = async ({
      what,
      part,
      order,
      store,
      n,
    }: {
      what: string;
      part: number;
      order: number;
      store: number;
      n: number;
    }) => {
      const [partId, orderId, lineId, storeId] = [parts[part], orders[order], lineIds[order], stores[store]] as [
        number,
        number,
        number,
        number,
      ];
      if (what === 'receive') return receive(storeId, [line(partId, n)]);
      if (what === 'carry') return all.carry(storeId, stores[1 - store] as number, [line(partId, n)]);
      if (what === 'back') {
        const id = used.pop();
        return id === undefined ? null : desk('DELETE', `/api/used-parts/${id}`);
      }
      if (what === 'ask') {
        const version = (await needsOf(orderId)).find((x) => x.part.id === partId)?.version ?? 0;
        return desk('PUT', `/api/orders/${orderId}/needs`, { lineId, partId, thousandths: n * 1000, version });
      }
      const body = { requestKey: randomUUID(), lineId, partId, thousandths: n * 1000, storeId };
      const answer = await desk<{ id: number }>('POST', `/api/orders/${orderId}/parts`, body);
      if (answer.status === 200) used.push(answer.body.id);
      return answer;
    };
    for (const what of fc.sample(some, { numRuns: 90, seed: 15 })) {
      const answer = await once(what);
      if (answer) expect([200, 409]).toContain(answer.status);
    }
    for (const id of orders) {
      const needs = await needsOf(id);
      expect((await waiting(id)) === 'waiting for parts').toBe(needs.some((n) => n.open > 0));
    }
    for (const s of (await Promise.all(parts.map((p) => all.lies(p)))).flatMap((l) => l.stores))
      expect(s.onHand >= s.reserved && s.reserved >= 0).toBe(true);
    expect(await rebuilt()).toEqual([]);
    // Wrong numbers are found and put right by what they follow from.
    const { db } = house.database;
    await db.update(partNeed).set({ held: 77_000, open: 5 });
    await db.update(stock).set({ reserved: 1 });
    expect((await rebuilt()).length).toBeGreaterThan(2);
    await rebuilt(true);
    expect(await rebuilt()).toEqual([]);
  });
});

describe('what is free in vans', () => {
  it('is told with how far it is: from where its person is on site, else from their depot', async () => {
    const { pool, db } = house.database;
    await pool.query('UPDATE location SET latitude = 42.3, longitude = -8 WHERE parent_id IS NULL');
    await pool.query("UPDATE work_order SET stage = 'done' WHERE stage = 'on site'");
    const part = await addPart();
    must(await receive(van, [line(part, 2)]));
    const order = await raised({});
    must(await ask(order, part, 1));
    const free = async () => (await needsOf(order))[0]?.free;
    // 0.3 degrees of latitude: 33 km on a sphere of 6,371 km.
    expect(await free()).toEqual([{ store: { id: van, name: 'Van 1' }, kind: 'van', thousandths: 2000, km: 33 }]);

    const elsewhere = await raised({});
    await db
      .update(workOrder)
      .set({ stage: 'on site', technicianId: all.technician as never })
      .where(eq(workOrder.id, elsewhere as OrderId));
    expect(await free()).toMatchObject([{ km: 0 }]);
    await pool.query('UPDATE location SET latitude = NULL, longitude = NULL');
    expect(await free()).toMatchObject([{ km: null }]);
  });
});
