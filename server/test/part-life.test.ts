// A part's own page: how it went and will go, what stands in for it, where it is used, and the lives of its units.
import { randomUUID } from 'node:crypto';
import { eq } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import type { BuiltIn, Course, PartUse, UnitLife, UnitOut } from '#api/part-life.ts';
import type { NeedOut } from '#api/needs.ts';
import type { AssetId, UsedPartId } from '#core/ids.ts';
import { asset, partAlternative, partNeed, usedPart } from '../src/tables.ts';
import { calling, refusedAt } from './calling.ts';
import { buildWorld, must, type Caller, type TestHouse, type World } from './house.ts';
import { openStockHouse, stockLine, type StockHouse } from './stock-house.ts';

let all: StockHouse;
let house: TestHouse;
let desk: Caller;
let world: World;
let [north, van] = [0, 0];
let { addPart, receive, carry, scrap, rebuilt } = {} as StockHouse;
beforeAll(async () => {
  all = await openStockHouse();
  ({ house, desk, north, van } = all);
  ({ addPart, receive, carry, scrap, rebuilt } = all);
  world = await buildWorld(desk, { assets: 3 });
});
afterAll(() => house?.close());

const { raised, page } = calling(() => ({ call: desk, world }));
const line = stockLine;
const courseOf = async (id: number, query = ''): Promise<Course> =>
  must(await desk<Course>('GET', `/api/parts/${id}/course${query}`));
const useOf = async (id: number): Promise<PartUse> => must(await desk<PartUse>('GET', `/api/parts/${id}/use`));
const lineOf = async (order: number) => (await page(order)).lines[0]?.id;
const use = async (order: number, partId: number, over: object) =>
  desk<{ id: number }>('POST', `/api/orders/${order}/parts`, {
    ...{ requestKey: randomUUID(), lineId: await lineOf(order), partId, thousandths: 1000, ...over },
  });
const lifeOf = (id: number, serial: string) =>
  desk<UnitLife>('GET', `/api/parts/${id}/unit?serial=${encodeURIComponent(serial)}`);
const unitsOf = async (id: number, query = ''): Promise<UnitOut[]> =>
  must(await desk<{ items: UnitOut[] }>('GET', `/api/parts/${id}/units${query}`)).items;

describe('a part over time', () => {
  it('ends today with what is there, goes on with what is free, and falls by what work takes', async () => {
    const part = await addPart();
    must(await receive(north, [line(part, 8)]));
    must(await receive(van, [line(part, 2)]));
    await desk('PUT', `/api/stores/${north}/shelves/${part}`, { version: 0, bin: 'A1', minimum: 3000, maximum: 9000 });
    const order = await raised({});
    must(await use(order, part, { thousandths: 3000, storeId: north }));
    const whole = await courseOf(part);
    expect(whole.past.slice(-2)).toEqual([0, 7000]);
    expect(whole.past).toHaveLength(91);
    expect(whole.ahead).toHaveLength(61);
    expect([whole.ahead[0], whole.ahead.at(-1)]).toEqual([7000, 7000]);
    expect([whole.minimum, whole.maximum]).toEqual([3000, 9000]);
    expect(whole.took).toHaveLength(12);
    expect(whole.took.at(-1)).toEqual({ month: whole.today.slice(0, 7), thousandths: 3000 });
    expect((await courseOf(part, `?store=${van}`)).past.at(-1)).toBe(2000);

    // More than there is: what is open is missing from today on, what is held is not free.
    must(
      await desk('PUT', `/api/orders/${order}/needs`, {
        ...{ lineId: await lineOf(order), partId: part, thousandths: 12_000, version: 0 },
      }),
    );
    expect((await courseOf(part)).ahead.at(-1)).toBe(-2000);
    expect((await desk('GET', '/api/parts/999999/course')).status).toBe(404);
  });

  it('knows what upkeep takes in the coming year, by the parts of its job plans', async () => {
    const part = await addPart();
    const plan = { name: 'Quarterly care', minutes: 90, tasks: [{ text: 'Clean filter', mandatory: true }] };
    must(
      await desk('PUT', `/api/job-plans/${world.jobPlanId}`, {
        ...{ ...plan, version: 1, parts: [{ partId: part, thousandths: 2000 }] },
      }),
    );
    // Visits are planned beside requests.
    const planned = await vi.waitFor(
      async () => {
        const [rows] = await house.database.pool.query('SELECT planned FROM planned_visit WHERE absorbed_by IS NULL');
        const months = (rows as { planned: string }[]).map((v) => String(v.planned).slice(0, 7));
        expect(months.length).toBeGreaterThan(0);
        return months;
      },
      { timeout: 30_000, interval: 200 },
    );
    const { takes } = await courseOf(part);
    for (const { month, thousandths } of takes)
      expect([month, thousandths]).toEqual([month, 2000 * planned.filter((p) => p === month).length]);
    expect((await useOf(part)).plans).toEqual([{ id: world.jobPlanId, name: 'Quarterly care', thousandths: 2000 }]);
  });
});

describe('what stands in for a part', () => {
  const set = (id: number, others: number[], seen: number[] = []) =>
    desk('PUT', `/api/parts/${id}/alternatives`, { others, seen });

  it('is shown with what is free of it, and taken for what is open', async () => {
    const [part, other] = [await addPart(), await addPart({ name: 'Gasket, newer' })];
    must(await set(part, [other]));
    must(await receive(north, [line(other, 5)]));
    expect((await useOf(part)).instead).toMatchObject([{ id: other, free: 5000 }]);
    expect((await useOf(other)).standsInFor).toMatchObject([{ id: part, free: 0 }]);

    const order = await raised({});
    const needs = async () => must(await desk<{ needs: NeedOut[] }>('GET', `/api/orders/${order}/needs`)).needs;
    must(
      await desk('PUT', `/api/orders/${order}/needs`, {
        ...{ lineId: await lineOf(order), partId: part, thousandths: 2000, version: 0 },
      }),
    );
    const [open] = await needs();
    expect(open?.instead).toMatchObject([{ id: other, free: 5000 }]);
    const take = (version = open?.version) => desk('PUT', `/api/needs/${open?.id}/instead`, { partId: other, version });
    must(await take());
    const after = await needs();
    expect(after.find((n) => n.part.id === other)).toMatchObject({ wanted: 2000, held: 2000, open: 0 });
    expect(after.find((n) => n.part.id === part)).toMatchObject({ wanted: 0, open: 0, instead: [] });
    expect((await take()).status).toBe(409);
    expect(await rebuilt()).toEqual([]);
  });

  it.each([
    ['itself', (own: number) => own],
    ['what does not exist', () => 999_999],
  ])('is not %s', async (_, of) => {
    const part = await addPart();
    expect((await set(part, [of(part)])).status).toBeGreaterThanOrEqual(400);
    expect(
      await house.database.db
        .select()
        .from(partAlternative)
        .where(eq(partAlternative.partId, part as never)),
    ).toEqual([]);
  });

  it('is counted in the same unit; a list that was changed meanwhile is not written over', async () => {
    const [part, metres, other] = [await addPart(), await addPart({ unit: 'm' }), await addPart()];
    expect(refusedAt(await set(part, [metres]))).toEqual([422, 'others', 'invalid']);
    must(await set(part, [other]));
    expect((await set(part, [], [])).status).toBe(409);
    must(await set(part, [], [other]));
    expect((await useOf(part)).instead).toEqual([]);
  });

  it('is taken only where it is said to be one', async () => {
    const [part, other] = [await addPart(), await addPart()];
    const order = await raised({});
    must(
      await desk('PUT', `/api/orders/${order}/needs`, {
        ...{ lineId: await lineOf(order), partId: part, thousandths: 1000, version: 0 },
      }),
    );
    const [need] = await house.database.db
      .select()
      .from(partNeed)
      .where(eq(partNeed.partId, part as never));
    const answer = await desk('PUT', `/api/needs/${need?.id}/instead`, { partId: other, version: need?.version });
    expect(refusedAt(answer)).toEqual([404, 'partId', 'not-found']);
    expect(
      await house.database.db
        .select()
        .from(partNeed)
        .where(eq(partNeed.partId, part as never)),
    ).toEqual([need]);
  });
});

describe('a unit', () => {
  it('has a life: received, carried, built in with its warranty, taken back, thrown away', async () => {
    const part = await addPart({ serialTracked: true, warrantyMonths: 24 });
    must(await receive(north, [line(part, 2, { serials: ['U-1', 'U-2'] })]));
    must(await carry(north, van, [line(part, 1, { serials: ['U-1'] })]));
    const order = await raised({});
    const { id } = must(await use(order, part, { serial: 'U-1', storeId: van }));
    const life = must(await lifeOf(part, 'U-1'));
    expect(life.steps.map((s) => [s.kind, s.store?.name])).toEqual([
      ['receipt', 'North'],
      ['transfer', 'North'],
      ['transfer', 'Van 1'],
      ['issue', 'Van 1'],
    ]);
    const { asset: machine, builtIn } = life;
    expect(machine?.id).toBe((await page(order)).lines[0]?.assetId);
    expect(builtIn).toMatchObject({ usedPartId: id, on: '2026-11-24', warrantyUntil: '2028-11-23', became: null });
    const into = async () =>
      must(await desk<{ items: BuiltIn[] }>('GET', `/api/assets/${machine?.id}/units`)).items.map((u) => u.serial);
    expect(await into()).toContain('U-1');
    expect(await unitsOf(part)).toMatchObject([
      { serial: 'U-1', place: 'built in', orderId: order },
      { serial: 'U-2', place: 'in store', store: { name: 'North' } },
    ]);
    expect((await unitsOf(part, '?q=-2')).map((u) => u.serial)).toEqual(['U-2']);

    must(await desk('DELETE', `/api/used-parts/${id}`));
    expect(must(await lifeOf(part, 'U-1'))).toMatchObject({
      place: 'in store',
      store: { name: 'Van 1' },
      builtIn: null,
    });
    expect(await into()).not.toContain('U-1');
    must(await scrap(van, [line(part, 1, { serials: ['U-1'] })]));
    expect(must(await lifeOf(part, 'U-1')).place).toBe('thrown away');
    expect(refusedAt(await lifeOf(part, 'U-9'))).toEqual([404, 'serial', 'not-found']);
  });

  it('built in out of no store of ours is known as well', async () => {
    const part = await addPart({ serialTracked: true });
    const order = await raised({});
    must(await use(order, part, { serial: 'N-1', storeId: null }));
    const life = must(await lifeOf(part, 'N-1'));
    expect(life).toMatchObject({ place: 'built in', steps: [{ kind: 'built in', orderId: order }] });
    expect(life.builtIn?.warrantyUntil).toBeNull();
    expect(await unitsOf(part)).toMatchObject([{ serial: 'N-1', place: 'built in' }]);
  });

  it('becomes a machine within the one it was built into, once, warranted as its part is', async () => {
    const part = await addPart({ serialTracked: true, warrantyMonths: 12 });
    const order = await raised({});
    const { id } = must(await use(order, part, { serial: 'C-77', storeId: null }));
    const [host] = await house.database.db
      .select()
      .from(asset)
      .where(eq(asset.id, (await page(order)).lines[0]?.assetId as AssetId));
    const become = (over: object = {}, by = desk) =>
      by<{ id: number }>('POST', `/api/used-parts/${id}/asset`, {
        ...{ classId: host?.classId, maker: 'Alder', model: 'CX', tag: 'Q-C77', ...over },
      });
    // A tag that another has is refused at its field, and nothing is registered.
    expect(refusedAt(await become({ tag: host?.tag }))).toEqual([409, 'tag', 'taken']);
    expect((await become({}, await house.as('technician'))).status).toBe(403);
    const [row] = await house.database.db
      .select()
      .from(usedPart)
      .where(eq(usedPart.id, id as UsedPartId));
    expect(row?.assetId).toBeNull();
    const made = must(await become());
    const [child] = await house.database.db
      .select()
      .from(asset)
      .where(eq(asset.id, made.id as AssetId));
    expect(child).toMatchObject({
      ...{ parentId: host?.id, customerId: host?.customerId, locationId: host?.locationId, serial: 'C-77' },
      ...{ warrantyFrom: '2026-11-24', warrantyUntil: '2027-11-23', state: 'in service' },
    });
    expect(must(await lifeOf(part, 'C-77')).builtIn?.became).toMatchObject({ id: made.id, tag: 'Q-C77' });
    expect((await become({ tag: 'Q-C78' })).status).toBe(409);
  });
});
