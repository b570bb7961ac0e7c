// Counts: compared with what is there at that moment, whatever moves meanwhile; approved together; who loses what is not there waits.
import { randomUUID } from 'node:crypto';
import { eq } from 'drizzle-orm';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { CountPage } from '#api/counts.ts';
import type { NeedOut } from '#api/needs.ts';
import type { OrderId } from '#core/ids.ts';
import { countLine, stock, stockCount, stockMove, workOrder } from '../src/tables.ts';
import { calling, refusedAt } from './calling.ts';
import { buildWorld, must, type Caller, type TestHouse, type World } from './house.ts';
import { openStockHouse, stockLine, type StockHouse } from './stock-house.ts';

let all: StockHouse;
let house: TestHouse;
let desk: Caller;
let keeper: Caller;
let world: World;
let { addPart, receive, scrap, movesOf, rebuilt } = {} as StockHouse;
beforeAll(async () => {
  all = await openStockHouse();
  ({ house, desk, keeper } = all);
  ({ addPart, receive, scrap, movesOf, rebuilt } = all);
  world = await buildWorld(desk, { assets: 3 });
});
afterAll(() => house?.close());

const { raised, page } = calling(() => ({ call: desk, world }));
const line = stockLine;
/** A store of its own, in which nothing lies that other tests count. */
const ownStore = async (): Promise<number> =>
  must(await desk<{ id: number }>('POST', '/api/stores', all.storeBody({ name: randomUUID().slice(0, 12) }))).id;
const begin = (store: number, body: object = { of: 'all' }, requestKey: string = randomUUID(), by = keeper) =>
  by<{ id: number }>('POST', `/api/stores/${store}/counts`, { requestKey, ...body });
const begun = async (store: number, body?: object): Promise<number> => must(await begin(store, body)).id;
const shown = async (id: number, by = desk): Promise<CountPage> =>
  must(await by<CountPage>('GET', `/api/stock-counts/${id}`));
const lineOf = async (id: number, partId: number) => (await shown(id)).rows.find((r) => r.part.id === partId);
const count = async (id: number, partId: number, n: number, serials: string[] = [], version?: number) =>
  keeper('PUT', `/api/stock-counts/${id}/parts/${partId}`, {
    ...{ thousandths: n * 1000, serials, version: version ?? (await lineOf(id, partId))?.version ?? 1 },
  });
const approve = async (id: number, by = desk) =>
  by('POST', `/api/stock-counts/${id}/approve`, { version: (await shown(id)).version });
const inStore = async (partId: number, store: number) =>
  (await all.lies(partId)).stores.find((s) => s.store.id === store);
const rows = (): Promise<unknown[]> =>
  Promise.all([stock, stockMove, stockCount, countLine].map((t) => house.database.db.select().from(t)));

describe('a count', () => {
  it('is compared with what is there when it is counted; what moves before it is approved is respected', async () => {
    const [store, partId] = [await ownStore(), await addPart()];
    must(await receive(store, [line(partId, 10, { unitPrice: 500 })]));
    const id = await begun(store);
    must(await scrap(store, [line(partId, 2)]));
    must(await count(id, partId, 7));
    expect((await lineOf(id, partId))?.counted).toMatchObject({
      ...{ thousandths: 7000, expected: 8000, difference: -1000, value: -500, missing: [], found: [] },
    });
    must(await receive(store, [line(partId, 4, { unitPrice: 500 })]));
    expect((await approve(id, keeper)).status).toBe(403);
    must(await approve(id));
    expect(await inStore(partId, store)).toMatchObject({ onHand: 11_000, value: 5500 });
    expect((await movesOf(partId))[0]).toMatchObject({ kind: 'count', thousandths: -1000, money: -500 });
    expect((await shown(id, keeper)).rows[0]?.counted?.value).toBeNull();
    expect(refusedAt(await approve(id))).toEqual([409, null, 'wrong-stage']);
    expect(await rebuilt()).toEqual([]);
  });

  it('of a part of a store is in one count at a time, begun once for a request; called off nothing changes', async () => {
    const [store, a, b] = [await ownStore(), await addPart(), await addPart()];
    must(await receive(store, [line(a, 3), line(b, 3)]));
    for (const [partId, bin] of [
      [a, 'A1'],
      [b, 'B1'],
    ] as const)
      must(
        await desk('PUT', `/api/stores/${store}/shelves/${partId}`, { version: 0, bin, minimum: null, maximum: null }),
      );
    const key = randomUUID();
    const first = must(await begin(store, { of: 'bins', bins: 'A' }, key));
    expect(must(await begin(store, { of: 'bins', bins: 'A' }, key))).toEqual(first);
    expect((await shown(first.id)).rows.map((r) => r.part.id)).toEqual([a]);
    const before = await rows();
    expect(refusedAt(await begin(store))).toEqual([409, 'of', 'conflict']);
    expect(refusedAt(await begin(store, { of: 'bins', bins: '' }))).toEqual([422, 'bins', 'missing']);
    expect(refusedAt(await begin(store, { of: 'bins', bins: 'Q' }))).toEqual([404, 'bins', 'not-found']);
    expect(refusedAt(await count(first.id, b, 1))).toEqual([404, null, 'not-found']);
    expect(refusedAt(await count(first.id, a, 1, [], 7))).toEqual([409, null, 'stale']);
    expect(await rows()).toEqual(before);
    const other = await begun(store, { of: 'bins', bins: 'B' });
    must(await count(first.id, a, 1));
    must(await keeper('POST', `/api/stock-counts/${first.id}/call-off`, { version: 1 }));
    expect(await inStore(a, store)).toMatchObject({ onHand: 3000 });
    await begun(store, { of: 'bins', bins: 'A' });
    must(await approve(other));
    expect(await inStore(b, store)).toMatchObject({ onHand: 3000 });
  });

  it('of what is kept by serial names the units: those that are missing are nowhere, those found are here', async () => {
    const [store, partId] = [await ownStore(), await addPart({ serialTracked: true })];
    must(await receive(store, [line(partId, 2, { serials: ['K-ZC1', 'K-ZC2'], unitPrice: 800 })]));
    const id = await begun(store);
    expect(refusedAt(await count(id, partId, 2, ['K-ZC1']))).toEqual([422, 'serials', 'missing']);
    must(await count(id, partId, 2, ['K-ZC2', 'K-ZC9']));
    expect((await lineOf(id, partId))?.counted).toMatchObject({ difference: 0, missing: ['K-ZC1'], found: ['K-ZC9'] });
    must(await approve(id));
    expect((await all.lies(partId)).serials.map((s) => s.serial)).toEqual(['K-ZC2', 'K-ZC9']);
    expect(await inStore(partId, store)).toMatchObject({ onHand: 2000, value: 1600 });
    expect(await rebuilt()).toEqual([]);
  });

  it('below what is held stands: those that need it last wait for it again', async () => {
    const [store, partId] = [await ownStore(), await addPart()];
    must(await receive(store, [line(partId, 3)]));
    const wanting = async (wishedOn: string) => {
      const order = await raised({});
      await house.database.db
        .update(workOrder)
        .set({ wishedOn: wishedOn as never })
        .where(eq(workOrder.id, order as OrderId));
      const lineId = (await page(order)).lines[0]?.id;
      must(await desk('PUT', `/api/orders/${order}/needs`, { lineId, partId, thousandths: 1500, version: 0 }));
      return order;
    };
    const [late, early] = [await wanting('2026-12-09'), await wanting('2026-11-25')];
    const id = await begun(store);
    must(await count(id, partId, 2));
    must(await approve(id));
    const needOf = async (order: number) =>
      must(await desk<{ needs: NeedOut[] }>('GET', `/api/orders/${order}/needs`)).needs[0];
    expect([(await needOf(early))?.open, (await needOf(late))?.open]).toEqual([0, 1000]);
    const [row] = await house.database.db
      .select()
      .from(workOrder)
      .where(eq(workOrder.id, late as OrderId));
    expect(row?.waitingFor).toBe('waiting for parts');
    expect(await inStore(partId, store)).toMatchObject({ onHand: 2000, reserved: 2000 });
    expect(await rebuilt()).toEqual([]);
  });

  it('of a cycle takes what turns over most and was not counted longest', async () => {
    const [store, busy, quiet] = [await ownStore(), await addPart(), await addPart()];
    must(await receive(store, [line(quiet, 5, { unitPrice: 900 }), line(busy, 5, { unitPrice: 900 })]));
    const order = await raised({});
    const lineId = (await page(order)).lines[0]?.id;
    const use = { requestKey: randomUUID(), lineId, partId: busy, thousandths: 3000, storeId: store };
    must(await desk('POST', `/api/orders/${order}/parts`, use));
    const id = await begun(store, { of: 'cycle', most: 1 });
    expect((await shown(id)).rows.map((r) => r.part.id)).toEqual([busy]);
    must(await approve(id));
    // It was in a count, but nobody counted it.
    expect((await shown(await begun(store, { of: 'cycle', most: 1 }))).rows.map((r) => r.part.id)).toEqual([busy]);
  });

  it('comes to what was found less what was there, with anything moved between', async () => {
    const store = await ownStore();
    const steps = fc.array(fc.constantFrom('receive', 'scrap', 'count'), { minLength: 4, maxLength: 9 });
    for (const run of fc.sample(fc.tuple(steps, fc.nat(12)), { numRuns: 5, seed: 3 })) {
      const [moves, found] = run;
      const partId = await addPart();
      must(await receive(store, [line(partId, 9)]));
      const id = await begun(store, { of: 'all' });
      let [there, difference] = [9, 0];
      for (const what of moves) {
        if (what === 'receive') {
          must(await receive(store, [line(partId, 2)]));
          there += 2;
        } else if (what === 'scrap' && there > 0) {
          must(await scrap(store, [line(partId, 1)]));
          there -= 1;
        } else if (what === 'count') {
          must(await count(id, partId, found));
          difference = found - there;
        }
      }
      const after = await approve(id);
      if (there + difference < 0) expect(refusedAt(after)[2]).toBe('conflict');
      else {
        must(after);
        expect((await inStore(partId, store))?.onHand ?? 0).toBe((there + difference) * 1000);
        continue;
      }
      must(await keeper('POST', `/api/stock-counts/${id}/call-off`, { version: (await shown(id)).version }));
    }
    expect(await rebuilt()).toEqual([]);
  });
});
