// Stock over the routes: what it is worth, nothing below zero with any number of people at once, each act once, each unit at one place.
import { randomUUID } from 'node:crypto';
import { count, eq } from 'drizzle-orm';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { ShelfOut, StoreOut } from '#api/stock.ts';
import { moveSerial, part, serialUnit, shelf, stock, stockMove, store, storeAct } from '../src/tables.ts';
import { refusedAt } from './calling.ts';
import { must, type Caller, type TestHouse } from './house.ts';
import { openStockHouse, stockLine, type StockHouse } from './stock-house.ts';

let all: StockHouse;
let house: TestHouse;
let desk: Caller;
let keeper: Caller;
let [north, south, van] = [0, 0, 0];
let technician = 0;
let { storeBody, addPart, receive, carry, scrap, lies, inStore, movesOf, rebuilt } = {} as StockHouse;
const line = stockLine;

const TABLES = [store, stock, shelf, storeAct, stockMove, moveSerial, serialUnit];
const rows = async (): Promise<unknown[]> => {
  const { db } = house.database;
  const all = await Promise.all(TABLES.map((t) => db.select({ n: count() }).from(t)));
  return [...all.map(([r]) => r?.n), await db.select().from(stock), await db.select().from(serialUnit)];
};

beforeAll(async () => {
  all = await openStockHouse();
  ({ house, desk, keeper, north, south, van, technician } = all);
  ({ storeBody, addPart, receive, carry, scrap, lies, inStore, movesOf, rebuilt } = all);
});
afterAll(() => house?.close());

describe('stores', () => {
  it('have names of their own, a depot, and a van is one technician’s', async () => {
    const add = async (over: object) => refusedAt(await desk('POST', '/api/stores', storeBody(over)));
    const before = await rows();
    expect(await add({ name: 'South' })).toEqual([409, 'name', 'taken']);
    expect(await add({ name: 'X', depotId: 999 })).toEqual([404, 'depotId', 'not-found']);
    expect(await add({ name: 'X', kind: 'van' })).toEqual([422, 'personId', 'missing']);
    expect(await add({ name: 'X', personId: technician })).toEqual([422, 'personId', 'invalid']);
    expect(await add({ name: 'X', kind: 'van', personId: 1 })).toEqual([404, 'personId', 'not-found']);
    expect(await add({ name: 'X', kind: 'van', personId: technician })).toEqual([409, 'personId', 'taken']);
    expect(await rows()).toEqual(before);
  });

  it('stay in use while something lies there, and take nothing in afterwards', async () => {
    const partId = await addPart();
    const { id } = must(await desk<{ id: number }>('POST', '/api/stores', storeBody({ name: 'Old' })));
    must(await receive(id, [line(partId, 1)]));
    const retire = () => desk('PUT', `/api/stores/${id}`, { ...storeBody({ name: 'Old', retired: true }), version: 1 });
    expect(refusedAt(await retire())).toEqual([409, 'retired', 'conflict']);
    must(await carry(id, north, [line(partId, 1)]));
    must(await retire());
    expect(refusedAt(await retire())).toEqual([409, undefined, 'stale'].map((x) => x ?? null));
    expect(refusedAt(await receive(id, [line(partId, 1)]))).toEqual([409, 'storeId', 'conflict']);
    expect(refusedAt(await carry(north, id, [line(partId, 1)]))).toEqual([409, 'toId', 'conflict']);
  });
});

describe('what is received', () => {
  it('is worth what was paid, by the moving average; without a price what was last paid anywhere, else the list’s cost', async () => {
    const partId = await addPart({ cost: 900 });
    must(await receive(north, [line(partId, 2)], keeper));
    must(await receive(south, [line(partId, 1, { unitPrice: 1200 })]));
    must(await receive(north, [line(partId, 2)], keeper));
    expect(await inStore(partId, north)).toMatchObject({ onHand: 4000, free: 4000, value: 4200, average: 1050 });
    expect((await movesOf(partId)).map((m) => [m.kind, m.store.name, m.thousandths, m.money])).toEqual([
      ...[
        ['receipt', 'North', 2000, 2400],
        ['receipt', 'South', 1000, 1200],
        ['receipt', 'North', 2000, 1800],
      ],
    ]);
    const stores = must(await desk<{ items: StoreOut[] }>('GET', '/api/stores')).items;
    expect(stores.find((s) => s.id === north)?.value).toBeGreaterThanOrEqual(4200);
  });

  it('shows no money to who sees none, and takes no price of them', async () => {
    const partId = await addPart();
    const before = await rows();
    expect(refusedAt(await receive(north, [line(partId, 1, { unitPrice: 5 })], keeper))).toEqual([
      ...[403, 'lines', 'not-allowed'],
    ]);
    expect(await rows()).toEqual(before);
    must(await receive(north, [line(partId, 1)], keeper));
    const [own] = (await lies(partId, keeper)).stores;
    expect([own?.onHand, own?.value, own?.average]).toEqual([1000, null, null]);
    const technicians = await house.as('technician');
    expect((await receive(north, [line(partId, 1)], technicians)).status).toBe(403);
  });

  it('is refused at its line, and nothing of it is written', async () => {
    const [plain, tracked] = [await addPart(), await addPart({ serialTracked: true })];
    const before = await rows();
    const wrong = async (lines: object[]) => refusedAt(await receive(north, [line(plain, 1), ...lines]));
    expect(await wrong([line(999, 1)])).toEqual([404, 'lines.1.partId', 'not-found']);
    expect(await wrong([line(plain, 0)])).toEqual([422, 'lines.1.thousandths', 'invalid']);
    expect(await wrong([line(tracked, 2, { serials: ['A'] })])).toEqual([422, 'lines.1.serials', 'missing']);
    expect(await wrong([line(tracked, 2, { serials: ['A', 'A'] })])).toEqual([422, 'lines.1.serials', 'invalid']);
    expect(await wrong([line(plain, 1, { serials: ['A'] })])).toEqual([422, 'lines.1.serials', 'unsupported']);
    expect(refusedAt(await receive(999, [line(plain, 1)]))).toEqual([404, 'storeId', 'not-found']);
    expect(await rows()).toEqual(before);
  });

  it('is received once, sent again or four times at once; the same key for something else is refused', async () => {
    const partId = await addPart();
    const key = randomUUID();
    const all = await Promise.all([1, 2, 3, 4].map(() => receive(north, [line(partId, 5)], desk, key)));
    expect(new Set(all.map((a) => must(a).id)).size).toBe(1);
    expect((await inStore(partId, north))?.onHand).toBe(5000);
    expect(refusedAt(await receive(north, [line(partId, 6)], desk, key))).toEqual([409, 'requestKey', 'conflict']);
  });
});

describe('what is carried to another store', () => {
  it('takes exactly its money along, and each unit is at one place', async () => {
    const tracked = await addPart({ serialTracked: true });
    must(await receive(north, [line(tracked, 3, { serials: ['S1', 'S2', 'S3'], unitPrice: 3333 })]));
    must(await carry(north, van, [line(tracked, 1, { serials: ['S2'] })]));
    expect([await inStore(tracked, north), await inStore(tracked, van)].map((s) => [s?.onHand, s?.value])).toEqual([
      ...[
        [2000, 6666],
        [1000, 3333],
      ],
    ]);
    expect((await lies(tracked)).serials.map((s) => [s.serial, s.store.name])).toEqual([
      ...[
        ['S1', 'North'],
        ['S2', 'Van 1'],
        ['S3', 'North'],
      ],
    ]);
    const before = await rows();
    const again = await carry(north, south, [line(tracked, 1, { serials: ['S2'] })]);
    expect(refusedAt(again)).toEqual([409, 'lines.0.serials', 'conflict']);
    expect(refusedAt(await receive(south, [line(tracked, 1, { serials: ['S1'] })]))).toEqual([
      ...[409, 'lines.0.serials', 'conflict'],
    ]);
    expect(refusedAt(await carry(north, north, [line(tracked, 1, { serials: ['S1'] })]))).toEqual([
      ...[422, 'toId', 'invalid'],
    ]);
    expect(await rows()).toEqual(before);
    // What was thrown away may come back: it is somewhere again.
    must(await scrap(van, [line(tracked, 1, { serials: ['S2'] })]));
    expect((await lies(tracked)).serials).toHaveLength(2);
  });
});

describe('many people at once', () => {
  it('take from a part that is wanted by all what there is and no more', async () => {
    const partId = await addPart();
    must(await receive(north, [line(partId, 25, { unitPrice: 777 })]));
    const answers = await Promise.all(
      Array.from({ length: 40 }, (_, i) =>
        i % 2 === 0 ? scrap(north, [line(partId, 1)]) : carry(north, i % 3 === 0 ? south : van, [line(partId, 1)]),
      ),
    );
    const statuses = answers.map((a) => a.status);
    expect(statuses.filter((s) => s === 200)).toHaveLength(25);
    expect(new Set(statuses)).toEqual(new Set([200, 409]));
    const { stores } = await lies(partId);
    expect(stores.every((s) => s.onHand >= 0)).toBe(true);
    const scrapped = answers.filter((a, i) => i % 2 === 0 && a.status === 200).length;
    expect(stores.reduce((sum, s) => sum + s.onHand, 0)).toBe((25 - scrapped) * 1000);
    expect(await rebuilt()).toEqual([]);
  });

  it('carry both ways between two stores without ever stopping each other for good', async () => {
    const parts = await Promise.all([addPart(), addPart(), addPart()]);
    for (const id of [north, south])
      must(
        await receive(
          id,
          parts.map((p) => line(p, 20)),
        ),
      );
    const answers = await Promise.all(
      Array.from({ length: 24 }, (_, i) => {
        const lines = (i % 4 < 2 ? parts : [...parts].reverse()).map((p) => line(p, 1));
        return i % 2 === 0 ? carry(north, south, lines) : carry(south, north, lines);
      }),
    );
    expect(answers.map((a) => a.status).filter((s) => s !== 200)).toEqual([]);
    for (const p of parts) expect((await lies(p)).stores.map((s) => s.onHand)).toEqual([20_000, 20_000]);
  });
});

describe('any acts', () => {
  const act = fc.record({
    what: fc.constantFrom('receive', 'carry', 'back', 'scrap'),
    n: fc.integer({ min: 1, max: 7 }),
    price: fc.nat(5000),
  });
  it('leave what their moves come to, and what was spoilt is found and mended', { timeout: 120_000 }, async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(act, { minLength: 1, maxLength: 14 }), async (acts) => {
        const partId = await addPart();
        const held = { north: 0, south: 0 };
        for (const { what, n, price } of acts) {
          const lines = [line(partId, n)];
          const [from, to] = what === 'back' ? (['south', 'north'] as const) : (['north', 'south'] as const);
          const isThere = what === 'receive' || held[from] >= n;
          const answer =
            what === 'receive'
              ? await receive(north, [line(partId, n, { unitPrice: price })])
              : what === 'scrap'
                ? await scrap(north, lines)
                : await carry(what === 'back' ? south : north, what === 'back' ? north : south, lines);
          expect(answer.status).toBe(isThere ? 200 : 409);
          if (!isThere) continue;
          if (what === 'receive') held.north += n;
          else held[from] -= n;
          if (what === 'carry' || what === 'back') held[to] += n;
        }
        const stores = (await lies(partId)).stores;
        const of = (id: number) => stores.find((s) => s.store.id === id)?.onHand ?? 0;
        expect([of(north), of(south)]).toEqual([held.north * 1000, held.south * 1000]);
        const all = await house.database.db
          .select()
          .from(stockMove)
          .where(eq(stockMove.partId, partId as never));
        expect(stores.reduce((sum, s) => sum + (s.value ?? 0), 0)).toBe(all.reduce((sum, m) => sum + m.money, 0));
      }),
      { numRuns: 15, seed: 15 },
    );
    expect(await rebuilt()).toEqual([]);
    const { db } = house.database;
    const [some] = await db.select().from(stock).limit(1);
    const kept = await db.select().from(stock);
    await db
      .update(stock)
      .set({ onHand: 7, value: 1 })
      .where(eq(stock.partId, some?.partId as never));
    expect((await rebuilt()).length).toBeGreaterThan(0);
    await rebuilt(true);
    expect(await db.select().from(stock)).toEqual(kept);
  });
});

describe('a shelf', () => {
  it('has a bin, and a minimum below which its part is listed', async () => {
    const [low, full] = [await addPart({ number: 'ZQ-1' }), await addPart({ number: 'ZQ-2' })];
    must(await receive(south, [line(low, 1), line(full, 9)]));
    const keep = (partId: number, over: object = {}) =>
      keeper('PUT', `/api/stores/${south}/shelves/${partId}`, {
        ...{ version: 0, bin: 'A1', minimum: 2000, maximum: 8000, ...over },
      });
    for (const p of [low, full]) must(await keep(p));
    const shelves = async (query: string) =>
      must(
        await keeper<{ items: ShelfOut[]; total: number; next: string | null }>(
          'GET',
          `/api/stores/${south}/shelves?${query}`,
        ),
      );
    expect((await shelves('q=ZQ&below=minimum')).items.map((s) => [s.number, s.bin, s.free])).toEqual([
      ...[['ZQ-1', 'A1', 1000]],
    ]);
    const first = await shelves('q=ZQ&limit=1');
    expect([first.total, first.items[0]?.number, (await shelves(`q=ZQ&after=${first.next}`)).items[0]?.number]).toEqual(
      [...[2, 'ZQ-1', 'ZQ-2']],
    );
    const before = await rows();
    expect(refusedAt(await keep(low))).toEqual([409, undefined, 'stale'].map((x) => x ?? null));
    expect(refusedAt(await keep(low, { version: 1, minimum: null }))).toEqual([422, 'minimum', 'missing']);
    expect(refusedAt(await keep(low, { version: 1, minimum: 9000 }))).toEqual([422, 'maximum', 'invalid']);
    expect(await rows()).toEqual(before);
    // Kept there, it is shown with nothing on hand.
    const none = await addPart({ number: 'ZQ-3' });
    must(await keep(none));
    expect((await shelves('q=ZQ-3')).items.map((s) => s.onHand)).toEqual([0]);
  });
});

it('a part that is nowhere says so, and one that does not exist is not found', async () => {
  const [row] = await house.database.db.select().from(part).limit(1);
  expect(row).toBeDefined();
  expect((await lies(await addPart())).stores).toEqual([]);
  expect((await desk('GET', '/api/parts/99999/stock')).status).toBe(404);
  expect((await desk('GET', '/api/stores/99999/shelves')).status).toBe(404);
});
