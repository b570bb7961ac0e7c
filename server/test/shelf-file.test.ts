// A store as a file: given out and loaded again; ten thousand rows, rows that do not fit, and figures of what moved.
import { randomUUID } from 'node:crypto';
import { eq, sql } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { DeadStock, StoreFigures } from '#api/store-figures.ts';
import type { PartsEffect, ShelvesEffect } from '#api/stores.ts';
import { keepFigures } from '../src/stores/figures.ts';
import { deadStock, part, partNeed, shelf, stock, stockMove, storeAct } from '../src/tables.ts';
import { calling, refusedAt } from './calling.ts';
import { buildWorld, must, type Caller, type TestHouse, type World } from './house.ts';
import { openStockHouse, refusing, stockLine, type StockHouse } from './stock-house.ts';

let all: StockHouse;
let house: TestHouse;
let desk: Caller;
let keeper: Caller;
let world: World;
let [north, south, van] = [0, 0, 0];
let { addPart, receive, inStore, rebuilt } = {} as StockHouse;
beforeAll(async () => {
  all = await openStockHouse();
  ({ house, desk, keeper, north, south, van } = all);
  ({ addPart, receive, inStore, rebuilt } = all);
  world = await buildWorld(desk, { assets: 2 });
});
afterAll(() => house?.close());

const { raised, page } = calling(() => ({ call: desk, world }));
const line = stockLine;
const fileOf = (head: string, rows: readonly string[]): string => [head, ...rows].join('\r\n');
const preview = (text: string, storeId = north) =>
  keeper<ShelvesEffect>('POST', `/api/stores/${storeId}/shelves/import/preview`, { text });
const load = (text: string, over: object = {}, storeId = north) =>
  desk<ShelvesEffect>('POST', `/api/stores/${storeId}/shelves/import`, {
    ...{ requestKey: randomUUID(), text, without: 0, ...over },
  });
const numberOf = async (id: number): Promise<string> => {
  const [row] = await house.database.db
    .select({ number: part.number })
    .from(part)
    .where(eq(part.id, id as never));
  return row?.number ?? '';
};
const refused = refusing(() => house, [stock, stockMove, storeAct, shelf]);

describe('a list of a store', () => {
  it('says first what it does, then does exactly that, once; bins alone change no stock', async () => {
    const [one, two] = [await addPart(), await addPart()];
    must(await receive(north, [line(one, 4, { unitPrice: 1000 })], desk));
    const [a, b] = [await numberOf(one), await numberOf(two)];
    const text = fileOf('number,bin,minimum,maximum,counted', [`${a},R1-1,2,9,3`, `${b},R1-2,1,4,2`]);
    const said = must(await preview(text));
    expect(said).toMatchObject({ kept: 2, counted: 2, differing: 2, unchanged: 0, wrong: 0, worth: null });
    const key = { requestKey: randomUUID() };
    // One less at 10.00, two more at what the parts list has.
    expect(must(await load(text, key))).toMatchObject({ kept: 2, differing: 2, worth: -1000 + 2 * 900 });
    must(await load(text, key));
    expect(await inStore(one, north)).toMatchObject({ onHand: 3000, value: 3000, bin: 'R1-1', minimum: 2000 });
    expect(await inStore(two, north)).toMatchObject({ onHand: 2000, value: 1800, maximum: 4000 });
    expect(must(await load(text))).toMatchObject({ kept: 0, differing: 0, unchanged: 2 });
    const before = await inStore(one, north);
    must(await load(fileOf('number,bin', [`${a},R9`])));
    expect(await inStore(one, north)).toMatchObject({ ...before, bin: 'R9', version: expect.anything() as number });
    expect(await rebuilt()).toEqual([]);
  });

  it('given out by the store is loaded again with nothing changed', async () => {
    const id = await addPart({ name: '=danger, "quoted"' });
    must(await receive(south, [line(id, 4)]));
    must(await load(fileOf('number,bin,minimum,maximum', [`${await numberOf(id)},K-1,1.5,8`]), {}, south));
    const csv = must(await desk<{ text: string }>('GET', `/api/stores/${south}/shelves.csv`)).text;
    expect(csv).toContain('K-1,1.5,8,4,0,4');
    expect(must(await load(csv, {}, south))).toMatchObject({ kept: 0, counted: 0, wrong: 0 });
  });

  it('names each row that does not fit, loads nothing with it, and the others where that is asked for', async () => {
    const [good, metres, units] = [
      await addPart(),
      await addPart({ unit: 'm' }),
      await addPart({ serialTracked: true }),
    ];
    const text = fileOf('number,unit,bin,minimum,maximum,counted', [
      `${await numberOf(good)},piece,B7,,,5`,
      `${await numberOf(metres)},piece,B8,,,`,
      `${await numberOf(units)},,B9,,,2`,
      'no-such-part,,B9,,,',
      `${await numberOf(good)},,B9,,,`,
    ]);
    const said = must(await preview(text));
    expect(said.bad.map((r) => [r.line, r.column])).toEqual([
      [3, 'unit'],
      [4, 'counted'],
      [5, 'number'],
      [6, 'number'],
    ]);
    await refused(() => load(text));
    await refused(() => load(text, { without: 3 }));
    must(await load(text, { without: said.wrong }));
    expect(await inStore(good, north)).toMatchObject({ onHand: 5000, bin: 'B7' });
    expect(await inStore(metres, north)).toBeUndefined();
    expect(refusedAt(await refused(() => load('number,"open')))[1]).toBe('text');
  });

  it('counted below what is held lets the orders wait that need it last', async () => {
    const id = await addPart();
    must(await receive(north, [line(id, 3)]));
    const order = await raised({});
    must(
      await desk('PUT', `/api/orders/${order}/needs`, {
        ...{ lineId: (await page(order)).lines[0]?.id, partId: id, thousandths: 3000, version: 0 },
      }),
    );
    expect(await inStore(id, north)).toMatchObject({ reserved: 3000 });
    must(await load(fileOf('number,counted', [`${await numberOf(id)},1`])));
    expect(await inStore(id, north)).toMatchObject({ onHand: 1000, reserved: 1000 });
    const [need] = await house.database.db
      .select()
      .from(partNeed)
      .where(eq(partNeed.partId, id as never));
    expect(need).toMatchObject({ held: 1000, open: 2000 });
    expect(await rebuilt()).toEqual([]);
  });

  it('of ten thousand rows is loaded as a whole, with those that are wrong named', async () => {
    const rows = Array.from({ length: 10_000 }, (_, i) => `ZZ-${i},Part ${i},2.00,${i % 500 === 7 ? 'dear' : '1.00'}`);
    const parts = fileOf('number,name,list price,cost', rows);
    const seen = must(await desk<PartsEffect>('POST', '/api/parts/import/preview', { text: parts }));
    expect(seen).toMatchObject({ added: 9980, wrong: 20 });
    expect((await desk('POST', '/api/parts/import', { text: parts })).status).toBe(422);
    const right = fileOf(
      'number,name,list price,cost',
      rows.filter((_, i) => i % 500 !== 7),
    );
    must(await desk('POST', '/api/parts/import', { text: right }));
    const counted = fileOf(
      'number,bin,counted',
      rows.map((_, i) => `ZZ-${i},S${i % 40},${i % 3}`),
    );
    must(await preview(counted, south));
    const effect = must(await load(counted, { without: 20 }, south));
    expect(effect).toMatchObject({ kept: 9980, wrong: 20 });
    const [sum] = await house.database.db
      .select({ n: sql<string>`sum(${stock.onHand})`, value: sql<string>`sum(${stock.value})` })
      .from(stock)
      .innerJoin(part, eq(part.id, stock.partId))
      .where(sql`${part.number} like 'ZZ-%'`);
    const units = rows.reduce((n, _, i) => n + (i % 500 === 7 ? 0 : i % 3), 0);
    expect([Number(sum?.n), Number(sum?.value)]).toEqual([units * 1000, units * 100]);
  });
});

describe('how a part is counted', () => {
  it('stays once any of it was moved, in the form and in a file', async () => {
    const id = await addPart({ name: 'Hose' });
    const number = await numberOf(id);
    const body = {
      ...{ number, name: 'Hose', unit: 'm', listPrice: 2000, cost: 900, consumable: false },
      ...{ serialTracked: false, taxId: null, retired: false },
    };
    must(await desk('PUT', `/api/parts/${id}`, { ...body, version: 1 }));
    must(await receive(north, [line(id, 4)]));
    expect(
      refusedAt(await refused(() => desk('PUT', `/api/parts/${id}`, { ...body, unit: 'cm', version: 2 }))),
    ).toEqual([409, 'unit', 'conflict']);
    const tracked = { ...body, serialTracked: true, version: 2 };
    expect(refusedAt(await refused(() => desk('PUT', `/api/parts/${id}`, tracked)))[1]).toBe('serialTracked');
    const text = fileOf('number,name,unit,list price,cost', [`${number},Hose,cm,20.00,9.00`]);
    expect(must(await desk<PartsEffect>('POST', '/api/parts/import/preview', { text })).bad).toMatchObject([
      { line: 2, column: 'unit' },
    ]);
    must(await desk('PUT', `/api/parts/${id}`, { ...body, name: 'Hose, grey', version: 2 }));
  });
});

describe('figures of stores', () => {
  it('are what the moves of the year come to; what lies untouched is named by its worth', async () => {
    const [moving, dead] = [await addPart(), await addPart()];
    must(await receive(van, [line(moving, 10, { unitPrice: 1000 }), line(dead, 2, { unitPrice: 7000 })], desk));
    const order = await raised({});
    const used = { lineId: (await page(order)).lines[0]?.id, partId: moving, thousandths: 4000, storeId: van };
    must(await desk('POST', `/api/orders/${order}/parts`, { requestKey: randomUUID(), ...used }));
    // What came in came long ago.
    await house.database.pool.query(
      "UPDATE store_act a JOIN stock_move m ON m.act_id = a.id SET a.at = '2025-06-01 09:00:00' WHERE m.store_id = ? AND a.kind = 'receipt'",
      [van],
    );
    await keepFigures(house.database, house.now);
    const found = must(await desk<StoreFigures>('GET', '/api/store-figures'));
    // 240.00 a year ago, 200.00 now, 40.00 taken: 40 over 220.
    expect(found.stores.find((s) => s.store.id === van)).toMatchObject({
      ...{ value: 20_000, taken: 4000, turnover: 18, deadValue: 14_000, deadParts: 1 },
    });
    const untouched = must(await desk<{ items: DeadStock[] }>('GET', `/api/store-figures/dead?store=${van}`)).items;
    expect(untouched).toMatchObject([{ part: { id: dead }, onHand: 2000, value: 14_000 }]);
    expect(found.openNeeds).toBeGreaterThan(0);
    expect((await keeper('GET', '/api/store-figures')).status).toBe(403);
  });

  it('are read page by page, the greatest worth first, each once', async () => {
    await house.database.db.delete(deadStock);
    const ids = await Promise.all([addPart(), addPart(), addPart(), addPart()]);
    await house.database.db
      .insert(deadStock)
      .values(
        ids.map((partId, i) => ({ storeId: north, partId, onHand: 1000, value: i < 2 ? 500 : 900 - i }) as never),
      );
    const seen: number[] = [];
    for (let after = ''; ;) {
      const { items, next } = must(
        await desk<{ items: DeadStock[]; next: string | null }>('GET', `/api/store-figures/dead?limit=1${after}`),
      );
      seen.push(...items.map((d) => d.value));
      if (next === null) break;
      after = `&after=${encodeURIComponent(next)}`;
    }
    expect(seen).toEqual([898, 897, 500, 500]);
  });

  it('count as complete what came from a van at first go', async () => {
    const complete = async (): Promise<[number, number]> => {
      const { complete: months } = must(await desk<StoreFigures>('GET', '/api/store-figures'));
      const last = months.at(-1);
      return [last?.orders ?? 0, last?.complete ?? 0];
    };
    const before = await complete();
    const id = await addPart();
    must(await receive(van, [line(id, 2)]));
    must(await receive(north, [line(id, 2)]));
    for (const storeId of [van, north]) {
      const order = await raised({});
      const used = { lineId: (await page(order)).lines[0]?.id, partId: id, thousandths: 1000, storeId };
      must(await desk('POST', `/api/orders/${order}/parts`, { requestKey: randomUUID(), ...used }));
      await house.database.pool.query(
        "INSERT INTO order_course (order_id, done_on, kind, at_first_go) VALUES (?, '2026-11-24', 'repair', 1)",
        [order],
      );
    }
    expect(await complete()).toEqual([before[0] + 2, before[1] + 1]);
  });
});
