// Picking: what is held for a day's work goes to the vans, once; what is missing says why; what is left over comes back.
import { randomUUID } from 'node:crypto';
import { eq } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { NeedOut } from '#api/needs.ts';
import type { ToBringOut, ToPickOut } from '#api/picking.ts';
import type { OrderId } from '#core/ids.ts';
import { partNeed, pickLine, stock, stockHold, stockMove, storeAct, usedPart, workOrder } from '../src/tables.ts';
import { calling, refusedAt } from './calling.ts';
import { buildWorld, must, type Caller, type TestHouse, type World } from './house.ts';
import { openStockHouse, stockLine, type StockHouse } from './stock-house.ts';

const DAY = '2026-11-26';
let all: StockHouse;
let house: TestHouse;
let desk: Caller;
let keeper: Caller;
let world: World;
let [north, van] = [0, 0];
let { addPart, receive, inStore, rebuilt } = {} as StockHouse;
beforeAll(async () => {
  all = await openStockHouse();
  ({ house, desk, keeper, north, van } = all);
  ({ addPart, receive, inStore, rebuilt } = all);
  world = await buildWorld(desk, { assets: 3 });
});
afterAll(() => house?.close());

const { raised, page, record } = calling(() => ({ call: desk, world }));
const line = stockLine;
const act = async (order: number, body: object): Promise<void> => {
  must(await record(order, body, desk, new Date(house.now).toISOString()));
};
/** An order of the technician's on the day that needs so much of a part, which the store has. */
const wanting = async (partId: number, n: number): Promise<number> => {
  const order = await raised({});
  await act(order, { kind: 'planned', date: DAY, technicianId: all.technician });
  const lineId = (await page(order)).lines[0]?.id;
  must(await desk('PUT', `/api/orders/${order}/needs`, { lineId, partId, thousandths: n * 1000, version: 0 }));
  return order;
};
const needOf = async (order: number): Promise<NeedOut | undefined> =>
  must(await desk<{ needs: NeedOut[] }>('GET', `/api/orders/${order}/needs`)).needs[0];
const toPick = async (partId: number, day = DAY): Promise<ToPickOut[]> =>
  must(await keeper<{ rows: ToPickOut[] }>('GET', `/api/stores/${north}/picking?day=${day}`)).rows.filter(
    (r) => r.part.id === partId,
  );
const pick = (lines: object[], requestKey: string = randomUUID()) =>
  keeper<{ id: number }>('POST', `/api/stores/${north}/picks`, { requestKey, lines });
const toBring = async (partId: number): Promise<ToBringOut[]> =>
  must(await keeper<{ rows: ToBringOut[] }>('GET', `/api/stores/${north}/bring-back`)).rows.filter(
    (r) => r.part.id === partId,
  );
const bring = (lines: object[], requestKey: string = randomUUID()) =>
  keeper<{ id: number }>('POST', `/api/stores/${north}/bring-back`, { requestKey, lines });
const use = async (order: number, partId: number, n: number, storeId: number) =>
  desk<{ id: number }>('POST', `/api/orders/${order}/parts`, {
    ...{ requestKey: randomUUID(), lineId: (await page(order)).lines[0]?.id, partId, thousandths: n * 1000, storeId },
  });
const TABLES = [stock, stockMove, storeAct, partNeed, stockHold, pickLine, usedPart];
const rows = (): Promise<unknown[]> => Promise.all(TABLES.map((t) => house.database.db.select().from(t)));

describe('a picking list', () => {
  it('has what the store holds for orders of the day, by bin, with whose van it goes to', async () => {
    const [late, early] = [await addPart(), await addPart()];
    must(await receive(north, [line(late, 5), line(early, 5)]));
    for (const [partId, bin] of [
      [late, 'Z9'],
      [early, 'A1'],
    ] as const)
      must(
        await desk('PUT', `/api/stores/${north}/shelves/${partId}`, { version: 0, bin, minimum: null, maximum: null }),
      );
    const orders = [await wanting(late, 2), await wanting(early, 1), await wanting(late, 1)];
    const { rows: list } = must(await keeper<{ rows: ToPickOut[] }>('GET', `/api/stores/${north}/picking?day=${DAY}`));
    expect(list.map((r) => [r.bin, r.order.id, r.thousandths, r.van?.id])).toEqual([
      ['A1', orders[1], 1000, van],
      ['Z9', orders[0], 2000, van],
      ['Z9', orders[2], 1000, van],
    ]);
    expect(await toPick(late, '2026-11-27')).toEqual([]);
    expect((await desk('GET', `/api/stores/987654/picking?day=${DAY}`)).status).toBe(404);
  });
});

describe('what is picked', () => {
  it('goes to the van, held there for the same orders, several at once and each once', async () => {
    const partId = await addPart();
    must(await receive(north, [line(partId, 4, { unitPrice: 700 })]));
    const orders = [await wanting(partId, 1), await wanting(partId, 2)];
    const lines = (await toPick(partId)).map((r) => ({ needId: r.needId, thousandths: r.thousandths }));
    const key = randomUUID();
    const done = must(await pick(lines, key));
    expect(must(await pick(lines, key))).toEqual(done);
    expect(await inStore(partId, north)).toMatchObject({ onHand: 1000, reserved: 0, value: 700 });
    expect(await inStore(partId, van)).toMatchObject({ onHand: 3000, reserved: 3000, value: 2100 });
    expect((await needOf(orders[1] as number))?.holds).toMatchObject([{ store: { id: van }, thousandths: 2000 }]);
    expect(await toPick(partId)).toEqual([]);
    expect(refusedAt(await pick(lines))).toEqual([409, 'lines.0.needId', 'conflict']);
    must(await use(orders[1] as number, partId, 2, van));
    expect(await inStore(partId, van)).toMatchObject({ onHand: 1000, reserved: 1000 });
    expect(await rebuilt()).toEqual([]);
  });

  it('is no more than is held; less says why, and stays to be picked', async () => {
    const partId = await addPart();
    must(await receive(north, [line(partId, 3)]));
    const order = await wanting(partId, 3);
    const [row] = await toPick(partId);
    const before = await rows();
    const one = (over: object) => pick([{ needId: row?.needId, thousandths: 3000, ...over }]);
    expect(refusedAt(await one({ thousandths: 4000 }))).toEqual([409, 'lines.0.thousandths', 'conflict']);
    expect(refusedAt(await one({ thousandths: 1000 }))).toEqual([422, 'lines.0.why', 'missing']);
    expect(refusedAt(await one({ serials: ['K-1'] }))[1]).toBe('lines.0.serials');
    expect(await rows()).toEqual(before);
    must(await one({ thousandths: 1000, why: 'only one in the bin' }));
    expect(await needOf(order)).toMatchObject({ held: 3000, notPicked: 'only one in the bin' });
    expect(await toPick(partId)).toMatchObject([{ thousandths: 2000, notPicked: 'only one in the bin' }]);
    must(await one({ thousandths: 2000 }));
    expect((await needOf(order))?.notPicked).toBeNull();
  });

  it('by serial names the units, which are in the van then', async () => {
    const partId = await addPart({ serialTracked: true });
    must(await receive(north, [line(partId, 2, { serials: ['K-ZP1', 'K-ZP2'] })]));
    await wanting(partId, 1);
    const [row] = await toPick(partId);
    expect(row?.serials).toEqual(['K-ZP1', 'K-ZP2']);
    const one = (serials: string[]) => pick([{ needId: row?.needId, thousandths: 1000, serials }]);
    expect(refusedAt(await one([]))).toEqual([422, 'lines.0.serials', 'missing']);
    must(await one(['K-ZP2']));
    expect((await all.lies(partId)).serials.map((s) => [s.serial, s.store.id])).toEqual([
      ['K-ZP1', north],
      ['K-ZP2', van],
    ]);
  });

  it('for somebody without a van is handed to them, and counts as used', async () => {
    const partId = await addPart();
    must(await receive(north, [line(partId, 2)]));
    const order = await wanting(partId, 2);
    const { db } = house.database;
    await db
      .update(workOrder)
      .set({ technicianId: null })
      .where(eq(workOrder.id, order as OrderId));
    const [row] = await toPick(partId);
    expect([row?.van, row?.technician]).toEqual([null, null]);
    must(await pick([{ needId: row?.needId, thousandths: 2000 }]));
    expect(await needOf(order)).toMatchObject({ used: 2000, held: 0, open: 0 });
    expect(await inStore(partId, north)).toBeUndefined();
    const unit = await addPart({ serialTracked: true });
    must(await receive(north, [line(unit, 1, { serials: ['K-ZH1'] })]));
    const other = await wanting(unit, 1);
    await db
      .update(workOrder)
      .set({ technicianId: null })
      .where(eq(workOrder.id, other as OrderId));
    const [of] = await toPick(unit);
    const hand = (serials: string[]) => pick([{ needId: of?.needId, thousandths: 1000, serials }]);
    expect(refusedAt(await hand([]))).toEqual([422, 'lines.0.serials', 'missing']);
    must(await hand(['K-ZH1']));
    expect((await all.lies(unit)).serials).toEqual([]);
    expect(await rebuilt()).toEqual([]);
  });
});

describe('what was picked and not used', () => {
  it('is proposed to come back once the order is over, and comes back once', async () => {
    const partId = await addPart();
    must(await receive(north, [line(partId, 3)]));
    const order = await wanting(partId, 3);
    const [row] = await toPick(partId);
    must(await pick([{ needId: row?.needId, thousandths: 3000 }]));
    must(await use(order, partId, 1, van));
    expect(await toBring(partId)).toEqual([]);
    await act(order, { kind: 'called off', text: 'not wanted any more' });
    const [left] = await toBring(partId);
    expect(left).toMatchObject({ thousandths: 2000, van: { id: van }, to: { id: north }, order: { id: order } });
    expect(refusedAt(await bring([{ pickId: left?.pickId, thousandths: 3000 }]))).toEqual([
      ...[409, 'lines.0.thousandths', 'conflict'],
    ]);
    const key = randomUUID();
    const lines = [{ pickId: left?.pickId, thousandths: 2000 }];
    const asked = await Promise.all([bring(lines, key), bring(lines, key)]);
    expect(asked.map((a) => a.status)).toEqual([200, 200]);
    expect(refusedAt(await bring(lines))).toEqual([409, 'lines.0.pickId', 'conflict']);
    expect(await inStore(partId, north)).toMatchObject({ onHand: 2000, reserved: 0 });
    expect(await toBring(partId)).toEqual([]);
    expect(await rebuilt()).toEqual([]);
  });
});
