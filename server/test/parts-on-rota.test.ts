// What the rota sees of parts: work that waits for them is not planned before the day they are promised for, unless the house decides otherwise.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { NeedOut } from '#api/needs.ts';
import type { LooseOrder } from '#api/rota.ts';
import { instant, startOfDay, asLocalDate, type Zone } from '#core/time/index.ts';
import { calling } from './calling.ts';
import { buildWorld, must, type Caller, type World } from './house.ts';
import { openStockHouse, type StockHouse } from './stock-house.ts';

let all: StockHouse;
let desk: Caller;
let world: World;
let supplierId = 0;
beforeAll(async () => {
  all = await openStockHouse();
  ({ desk } = all);
  world = await buildWorld(desk, { assets: 3 });
  const body = { name: 'Alder Mill', email: '', phone: '', leadDays: 5, note: '', retired: false };
  supplierId = must(await desk<{ id: number }>('POST', '/api/suppliers', body)).id;
});
afterAll(() => all?.house.close());
const { raised, page } = calling(() => ({ call: desk, world }));

type Work = { work: { lacks: string | null }; window: { from: number; to: number } | null };
const workOf = async (order: number): Promise<Work> =>
  must(await desk<Work>('GET', `/api/rota/orders/${order}?from=2026-11-24`));
const loose = async (show: string): Promise<LooseOrder[]> =>
  must(await desk<{ items: LooseOrder[] }>('GET', `/api/rota/loose?show=${show}&limit=100`)).items;
const isIn = async (show: string, order: number): Promise<boolean> =>
  (await loose(show)).some((o) => o.orderId === order);

describe('work that waits for parts', () => {
  it('is to begin once the last of them is promised to be here, and moves with the supplier’s day', async () => {
    const [partId, order] = [await all.addPart(), await raised({})];
    const lineId = (await page(order)).lines[0]?.id;
    must(await desk('PUT', `/api/orders/${order}/needs`, { lineId, partId, thousandths: 2000, version: 0 }));
    expect([(await workOf(order)).work.lacks, await isIn('waiting', order), await isIn('ready', order)]).toEqual([
      ...['a part it waits for', true, false],
    ]);
    const [need] = must(await desk<{ needs: NeedOut[] }>('GET', `/api/orders/${order}/needs`)).needs;
    const bought = { partId, storeId: all.north, supplierId, thousandths: 2000 };
    const { ids } = must(
      await desk<{ ids: number[] }>('POST', '/api/purchases', {
        requestKey: randomUUID(),
        lines: [{ ...bought, needs: [{ needId: need?.id, thousandths: 2000 }] }],
      }),
    );
    // Nobody promised anything yet.
    expect((await workOf(order)).work.lacks).toBe('a part it waits for');
    const promise = async (promisedOn: string, version: number): Promise<void> => {
      const body = { thousandths: 2000, unitPrice: 900, promisedOn, version };
      must(await desk('PUT', `/api/purchases/${ids[0]}/parts/${partId}`, body));
    };
    await promise('2026-12-01', 1);
    const dayAfter = (day: string): number => startOfDay('Europe/Lisbon' as Zone, asLocalDate(day));
    expect(await workOf(order)).toMatchObject({
      ...{ work: { lacks: null }, window: { from: instant(dayAfter('2026-12-02')) } },
    });
    expect((await loose('waiting')).find((o) => o.orderId === order)?.partsOn).toBe('2026-12-01');
    await promise('2026-12-08', 2);
    expect((await workOf(order)).window?.from).toBe(dayAfter('2026-12-09'));
  });

  it('is planned like any other where the house says so', async () => {
    const [partId, order] = [await all.addPart(), await raised({})];
    const lineId = (await page(order)).lines[0]?.id;
    must(await desk('PUT', `/api/orders/${order}/needs`, { lineId, partId, thousandths: 2000, version: 0 }));
    expect(await isIn('ready', order)).toBe(false);
    const manager = await all.house.as('manager');
    const settings = { planWaiting: true, holdDays: 21, reviewDays: 7, approvalLimit: null, version: 1 };
    must(await manager('PUT', '/api/store-settings', settings));
    expect([await isIn('ready', order), await isIn('waiting', order)]).toEqual([true, false]);
    expect((await workOf(order)).work.lacks).toBeNull();
  });
});
