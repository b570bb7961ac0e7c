// Many assets over the routes: changed at once, twins found and merged, past work loaded.
import { randomUUID } from 'node:crypto';
import { eq } from 'drizzle-orm';
import { afterAll, beforeEach, describe, expect, it } from 'vitest';
import type { BulkEffect, History } from '#api/assets.ts';
import type { AssetPage } from '#api/register.ts';
import type { AssetId } from '#core/ids.ts';
import { asset } from '../src/tables.ts';
import { buildWorld, assetPage, registerAsset, openHouse, type Caller, type TestHouse, type World } from './house.ts';

let house: TestHouse;
let call: Caller;
let world: World;
beforeEach(async () => {
  await (house as TestHouse | undefined)?.close();
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call);
});
afterAll(() => house.close());

const page = (id: number): Promise<AssetPage> => assetPage(call, id);
const register = (over: object = {}) => registerAsset(call, world, over);
const first = (): number => world.assetIds[0] as number;

describe('many at once', () => {
  const bulk = (ids: number[], change: object, path = '') =>
    call<BulkEffect>('POST', `/api/assets/bulk${path}`, { ids, change });
  it('does what the preview said, and says what is refused and why', async () => {
    const stored = (await register()).body.id;
    const lab = (await page(first())).path.at(-1)?.id;
    const change = { kind: 'place', locationId: lab };
    const preview = await bulk([...world.assetIds, stored], change, '/preview');
    expect(preview.body).toEqual({
      will: 2,
      unchanged: 1,
      refused: [{ tag: 'N001', reason: 'It is in store.' }],
      remarks: [],
    });
    expect((await page(world.assetIds[1] as number)).path.at(-1)?.id).not.toBe(lab);
    expect((await bulk([...world.assetIds, stored], change)).body).toEqual(preview.body);
    for (const id of world.assetIds) expect((await page(id)).path.at(-1)?.id).toBe(lab);
  });
  it('retiring many names the schedules that stop', async () => {
    const effect = (await bulk(world.assetIds, { kind: 'retire', reason: 'sold' })).body;
    expect(effect).toMatchObject({
      will: 3,
      remarks: ['3 schedules stop; the next upkeep run names them with the reason “retired”.'],
    });
    expect((await page(first())).events[0]).toMatchObject({ kind: 'scrapped', text: 'retired: sold' });
  });
  it('nothing ticked, no reason and an unknown class are refused', async () => {
    expect((await bulk([], { kind: 'owner', owner: 'customer' })).status).toBe(422);
    expect((await bulk(world.assetIds, { kind: 'retire', reason: '' })).status).toBe(422);
    expect((await bulk(world.assetIds, { kind: 'class', classId: 999 })).status).toBe(404);
  });
});

describe('twins', () => {
  it('are offered, merged into the kept one with orders and cover, and never across customers', async () => {
    const locationId = (await page(first())).path.at(-1)?.id;
    const twin = (await register({ serial: 'UIF720-Q100', model: 'ULF-720', locationId })).body.id;
    const order = {
      assetIds: [twin],
      priority: 1,
      cause: 'wear',
      receivedAt: '2026-11-24T09:00:00Z',
      title: 'Warm',
      requestKey: randomUUID(),
    };
    expect((await call('POST', '/api/orders', order)).status).toBe(200);
    type Pairs = { items: { a: { id: number }; b: { id: number }; because: string }[] };
    const pairs = (await call<Pairs>('GET', `/api/twins?customer=${world.customerId}`)).body.items;
    expect(pairs.map((p) => [p.a.id, p.b.id])).toEqual([[first(), twin]]);
    expect((await call('POST', '/api/assets/merge', { keptId: first(), goneId: twin })).status).toBe(200);
    const kept = await page(first());
    expect(kept.orders.map((o) => o.title)).toContain('Warm');
    expect(kept.events[0]?.kind).toBe('merged');
    expect((await page(twin)).state).toBe('retired');
    expect((await call<Pairs>('GET', `/api/twins?customer=${world.customerId}`)).body.items).toEqual([]);
    expect((await call('POST', '/api/assets/merge', { keptId: first(), goneId: first() })).status).toBe(409);
  });

  it('one that stands above the other: the kept one takes its place, and no loop is made', async () => {
    const [top, middle, low] = world.assetIds as [number, number, number];
    const under = (id: number, parentId: number) =>
      house.database.db
        .update(asset)
        .set({ parentId: parentId as AssetId })
        .where(eq(asset.id, id as AssetId));
    await under(middle, top);
    await under(low, middle);
    expect((await call('POST', '/api/assets/merge', { keptId: low, goneId: top })).status).toBe(200);
    const rows = await house.database.db
      .select({ id: asset.id, parentId: asset.parentId })
      .from(asset)
      .orderBy(asset.id);
    expect(rows).toEqual([
      { id: top, parentId: null },
      { id: middle, parentId: low },
      { id: low, parentId: null },
    ]);
  });
});

describe('past work', () => {
  it('gives the spread of what jobs took, by model, fault and words', async () => {
    for (const [i, hours] of [1, 2, 3].entries()) {
      const { id } = (
        await call<{ id: number }>('POST', '/api/orders', {
          assetIds: [world.assetIds[i]],
          priority: 2,
          cause: 'wear',
          receivedAt: `2026-11-2${i}T08:00:00Z`,
          title: 'Door torn',
          requestKey: randomUUID(),
        })
      ).body;
      const record = (act: object, at: string) =>
        call('POST', `/api/orders/${id}/events`, { requestKey: randomUUID(), at, act });
      await record({ kind: 'arrived' }, `2026-11-2${i}T09:00:00Z`);
      await record({ kind: 'restored' }, `2026-11-2${i}T10:00:00Z`);
      const effort = { fault: 'Gasket', labourMinutes: hours * 60, partsCost: hours * 1000, otherCost: null };
      expect((await record({ kind: 'done', text: '', effort }, `2026-11-2${i}T11:00:00Z`)).status).toBe(200);
    }
    const found = (await call<History>('GET', '/api/history?model=ULF&fault=gasket&words=door')).body;
    expect(found.spreads.labourMinutes).toEqual({
      count: 3,
      mean: 120,
      deviation: 60,
      least: 60,
      median: 120,
      most: 180,
    });
    expect([found.total, found.spreads.partsCost?.mean, found.spreads.otherCost]).toEqual([3, 2000, null]);
    expect(found.faults).toEqual([{ fault: 'gasket', count: 3 }]);
    expect((await call<History>('GET', '/api/history?words=nothing')).body.total).toBe(0);
    expect(await house.database.db.$count(asset)).toBe(3);
  });
});
