// A house that keeps stock: two depots' stores and a van, with builders of parts and of what is done to them.
import { randomUUID } from 'node:crypto';
import { eq } from 'drizzle-orm';
import type { MySqlTable } from 'drizzle-orm/mysql-core';
import { expect } from 'vitest';
import type { MoveOut, PartStock } from '#api/stock.ts';
import { rebuild } from '../src/platform/derived.ts';
import { DERIVED } from '../src/rooms.ts';
import { person } from '../src/tables.ts';
import { must, openHouse, type Answer, type Caller, type TestHouse } from './house.ts';

export const stockLine = (partId: number, n: number, over: object = {}) => ({ partId, thousandths: n * 1000, ...over });
const KEPT = ['stock of parts in stores', 'needs of parts'];

/** What is done to stock over the routes, by somebody. */
export const stocking = (desk: Caller) => {
  const lies = async (partId: number, by = desk): Promise<PartStock> =>
    must(await by<PartStock>('GET', `/api/parts/${partId}/stock`));
  return {
    lies,
    inStore: async (partId: number, storeId: number) => (await lies(partId)).stores.find((s) => s.store.id === storeId),
    addPart: async (over: object = {}): Promise<number> => {
      const body = {
        ...{ number: randomUUID().slice(0, 8), name: 'Gasket', unit: 'piece', listPrice: 2000, cost: 900 },
        ...{ consumable: false, serialTracked: false, taxId: null, retired: false, ...over },
      };
      return must(await desk<{ id: number }>('POST', '/api/parts', body)).id;
    },
    receive: (storeId: number, lines: object[], by = desk, requestKey: string = randomUUID()) =>
      by<{ id: number }>('POST', '/api/stock/receipts', {
        ...{ requestKey, storeId, text: 'delivery note 7' },
        lines: lines.map((l) => ({ unitPrice: null, ...l })),
      }),
    carry: (fromId: number, toId: number, lines: object[], by = desk) =>
      by<{ id: number }>('POST', '/api/stock/transfers', { requestKey: randomUUID(), fromId, toId, text: '', lines }),
    scrap: (storeId: number, lines: object[], text = 'broken in the box') =>
      desk<{ id: number }>('POST', '/api/stock/scraps', { requestKey: randomUUID(), storeId, text, lines }),
    movesOf: async (partId: number): Promise<readonly MoveOut[]> =>
      must(await desk<{ items: MoveOut[] }>('GET', `/api/parts/${partId}/moves`)).items,
  };
};

/** Asks for what is refused, and sees that nothing of some tables changed by it. */
export const refusing =
  (house: () => TestHouse, tables: readonly MySqlTable[]) =>
  async (asked: () => Promise<Answer>): Promise<Answer> => {
    const written = (): Promise<unknown[]> => Promise.all(tables.map((t) => house().database.db.select().from(t)));
    const before = await written();
    const got = await asked();
    expect(got.status).not.toBe(200);
    expect(await written()).toEqual(before);
    return got;
  };

export type StockHouse = Awaited<ReturnType<typeof openStockHouse>>;

export async function openStockHouse() {
  const house: TestHouse = await openHouse();
  const [desk, keeper] = [await house.as('coordinator'), await house.as('storekeeper')];
  const depotId = must(
    await desk<{ id: number }>('POST', '/api/depots', { name: 'D', latitude: 42, longitude: -8, capacity: [] }),
  ).id;
  const [who] = await house.database.db.select().from(person).where(eq(person.role, 'technician'));
  const technician = who?.id as number;
  const storeBody = (over: object = {}) => ({
    ...{ name: 'North', kind: 'depot', depotId, personId: null, retired: false, ...over },
  });
  const add = async (over: object) => must(await desk<{ id: number }>('POST', '/api/stores', storeBody(over))).id;
  const [north, south] = [await add({ name: 'North' }), await add({ name: 'South' })];
  const van = await add({ name: 'Van 1', kind: 'van', personId: technician });
  /** What `rebuild` finds that does not follow from moves, uses and holds. */
  const rebuilt = async (mend = false): Promise<string[]> => {
    const found = await rebuild(house.database, DERIVED, house.now, mend);
    return KEPT.flatMap((what) => found.find((r) => r.what === what)?.differing ?? ['not looked at']);
  };
  return { house, desk, keeper, depotId, technician, storeBody, north, south, van, rebuilt, ...stocking(desk) };
}
