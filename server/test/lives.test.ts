// The lives of assets over the routes: registering, moving, swapping, merging, changing many, meters, past work.
import { eq } from 'drizzle-orm';
import { afterAll, beforeEach, describe, expect, it } from 'vitest';
import type { MeterOut } from '#api/assets.ts';
import type { AssetPage } from '#api/register.ts';
import type { UpkeepRun } from '#api/upkeep.ts';
import type { AssetId } from '#core/ids.ts';
import type { LocalDate } from '#core/time/index.ts';
import { asset, schedule, visit } from '../src/tables.ts';
import {
  forgetPlan,
  agreementInForce,
  buildWorld,
  assetPage,
  firstClassId,
  registerAsset,
  finding,
  openHouse,
  type Caller,
  type TestHouse,
  type World,
} from './house.ts';

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

const TODAY = '2026-11-24';
const page = (id: number): Promise<AssetPage> => assetPage(call, id);
const classId = (): Promise<number> => firstClassId(call);
const register = (over: object = {}) => registerAsset(call, world, over);
const first = (): number => world.assetIds[0] as number;

describe('registering an asset', () => {
  it('takes warranty and meters from the catalogue, and is found at once', async () => {
    const id = await classId();
    const plan = {
      name: 'Ultra-low freezer',
      version: 1,
      jobPlanIds: [world.jobPlanId],
      meters: [{ name: 'Run hours', unit: 'h', channel: null }],
    };
    expect((await call('PUT', `/api/asset-classes/${id}`, plan)).status).toBe(200);
    const model = {
      classId: id,
      maker: 'Tindrel',
      name: 'ULF-900',
      warrantyMonths: 12,
      warrantyLabour: 0,
      warrantyParts: 100,
      warrantyTravel: 0,
      warrantyVisits: 4,
    };
    expect((await call('POST', '/api/asset-models', model)).status).toBe(200);
    const made = (await register({ commissioned: '2026-11-01' })).body.id;
    expect(await page(made)).toMatchObject({
      state: 'in store',
      warranty: { from: '2026-11-01', until: '2027-10-31', labour: 0, parts: 100, travel: 0, visits: 4 },
      meters: [{ name: 'Run hours', unit: 'h', last: null }],
    });
    // The warranty bears parts only; the agreement does not reach a machine it does not name.
    expect((await page(made)).verdict.sentence).toContain('parts 100 %');
    expect((await finding(call)('ulf900')).asset.map((a) => a.mark)).toEqual(['N001']);
  });
  it('a taken serial or tag offers the other asset', async () => {
    const taken = await register({ serial: 'ULF720-Q100', model: 'ULF-720' });
    expect([taken.status, taken.body.errors[0]?.field]).toEqual([409, 'serial']);
    expect(taken.body.errors[0]?.message).toContain(`/assets/${first()}`);
    expect((await register({ tag: 'Q101' })).body.errors[0]?.message).toContain(`/assets/${world.assetIds[1]}`);
  });
  it.each<[string, object, string]>([
    ['a future commissioning', { commissioned: '2027-01-01' }, 'commissioned'],
    ['an unknown class', { classId: 999 }, 'classId'],
    ['an unknown place', { locationId: 999 }, 'locationId'],
    ['no serial', { serial: ' ' }, 'serial'],
  ])('%s is refused at its field', async (_, over, field) =>
    expect((await register(over)).body.errors[0]?.field).toBe(field),
  );
  it('at a place of another customer is refused', async () => {
    const other = (
      await call<{ id: number }>('POST', '/api/customers', {
        name: 'Other',
        serviceAddress: null,
        creditDays: 30,
        creditLimit: null,
        overSince: null,
      })
    ).body.id;
    const locationId = (await page(first())).path.at(-1)?.id;
    expect((await register({ customerId: other, locationId })).body.errors[0]?.field).toBe('locationId');
  });
});

describe('a swap', () => {
  it('hands over place, coverage and schedules; the past stays with each', async () => {
    const fresh = (await register()).body.id;
    const old = await page(first());
    const body = {
      version: old.version,
      newAssetId: fresh,
      oldGoes: 'to store',
      on: TODAY,
      text: 'compressor worn out',
    };
    const preview = await call<{ schedules: string[]; coverageLines: string[]; place: string }>(
      'POST',
      `/api/assets/${first()}/swap/preview`,
      body,
    );
    expect(preview.body).toMatchObject({
      place: 'Norvela · Floor 0 · Lab 0',
      coverageLines: ['AG-2001 Full care'],
      schedules: ['Quarterly care, AG-2001'],
    });
    expect((await call('POST', `/api/assets/${first()}/swap`, body)).body).toEqual({ coverageLines: 1, schedules: 1 });
    const [gone, come] = [await page(first()), await page(fresh)];
    expect([gone.state, gone.path, come.state, come.path.at(-1)?.name]).toEqual([
      'in store',
      [],
      'in service',
      'Lab 0',
    ]);
    expect(come.verdict.sentence).toContain('AG-2001');
    expect(gone.verdict.sentence).not.toContain('Covered by AG-2001');
    expect(gone.events[0]).toMatchObject({
      kind: 'swapped out',
      text: 'swapped out for N001, to store: compressor worn out',
    });
    expect(come.events[0]?.kind).toBe('swapped in');
  });

  const coverOn = async (asset_: number, day: string): Promise<string> =>
    (await call<{ sentence: string }>('GET', `/api/cover?asset=${asset_}&at=${day}T10:00:00Z&kind=repair&cause=wear`))
      .body.sentence;
  const swapOn = (newAssetId: number, on: string) =>
    call('POST', `/api/assets/${first()}/swap`, { version: 1, newAssetId, oldGoes: 'to store', on, text: '' });

  it('splits cover by its day: any day before answers as it was, for both machines', async () => {
    const fresh = (await register()).body.id;
    const days = ['2026-06-01', '2026-11-19', '2026-11-20', '2027-01-05'];
    const before = await Promise.all(days.map((day) => coverOn(first(), day)));
    const freshBefore = await Promise.all(days.map((day) => coverOn(fresh, day)));
    expect((await swapOn(fresh, '2026-11-20')).status).toBe(200);
    const [none] = freshBefore;
    expect(await Promise.all(days.map((day) => coverOn(first(), day)))).toEqual([before[0], before[1], none, none]);
    expect(await Promise.all(days.map((day) => coverOn(fresh, day)))).toEqual([none, none, before[2], before[3]]);
  });

  it('splits what a place covers too: each machine is covered where it stood on the day', async () => {
    const place = (await page(first())).path[0]?.id;
    await agreementInForce(call, world, { name: 'By place' }, { reach: { kind: 'location', locationId: place } });
    const fresh = (await register()).body.id;
    const named = async (id: number, day: string): Promise<boolean> => (await coverOn(id, day)).includes('By place');
    expect((await swapOn(fresh, '2026-11-20')).status).toBe(200);
    expect([await named(first(), '2026-11-19'), await named(first(), '2026-11-20')]).toEqual([true, false]);
    expect([await named(fresh, '2026-11-19'), await named(fresh, '2026-11-20')]).toEqual([false, true]);
    const bare = async (day: string) =>
      (await call<{ asked: number }>('GET', `/api/cover/all?question=no%20cover&on=${day}`)).body.asked;
    expect([await bare('2026-11-19'), await bare('2026-11-20')]).toEqual([3, 3]);
  });

  it('splits schedules by its day; a visit raised for a later one is not raised again', async () => {
    const fresh = (await register()).body.id;
    await house.database.db.update(schedule).set({ cadence: { kind: 'rule', rule: 'FREQ=MONTHLY;BYDAY=1TU' } });
    await forgetPlan(house.database);
    const run = await call<{ raised: number }>('POST', '/api/upkeep/commit', { to: '2026-12-20', only: null });
    expect(run.body.raised).toBeGreaterThan(0);
    const raised = await house.database.db.select().from(visit);
    expect((await swapOn(fresh, '2026-11-20')).body).toEqual({ coverageLines: 1, schedules: 1 });
    const rows = await house.database.db.select().from(schedule).orderBy(schedule.id);
    expect(rows.map((r) => [r.assetId, r.holdsFrom, r.holdsTo])).toEqual([
      [first(), null, '2026-11-19'],
      ...world.assetIds.slice(1).map((id) => [id, null, null]),
      [fresh, '2026-11-20', null],
    ]);
    expect(
      (await call<{ raised: number }>('POST', '/api/upkeep/commit', { to: '2026-12-20', only: null })).body.raised,
    ).toBe(0);
    expect(await house.database.db.$count(visit)).toBe(raised.length);
    const next = await call<UpkeepRun>('GET', '/api/upkeep?to=2027-03-20');
    expect(next.body.proposals.map((p) => p.assetId)).toContain(fresh);
    expect(next.body.proposals.map((p) => p.assetId)).not.toContain(first());
    expect(next.body.nothing.find((n) => n.assetId === first())).toMatchObject({ kind: 'waits', code: 'swapped' });
  });
  it('two at once with the same machine: one of them is refused', async () => {
    const fresh = (await register()).body.id;
    const swap = (id: number) =>
      call('POST', `/api/assets/${id}/swap`, {
        version: 1,
        newAssetId: fresh,
        oldGoes: 'to store',
        on: TODAY,
        text: '',
      });
    const answers = await Promise.all([swap(world.assetIds[0] as number), swap(world.assetIds[1] as number)]);
    expect(answers.map((a) => a.status).sort()).toEqual([200, 409]);
  });
  it('with a machine that works elsewhere is refused at its field', async () => {
    const answer = await call('POST', `/api/assets/${first()}/swap`, {
      version: 1,
      newAssetId: world.assetIds[1],
      oldGoes: 'to store',
      on: TODAY,
      text: '',
    });
    expect([answer.status, answer.body.errors[0]?.field]).toEqual([409, 'newAssetId']);
  });
});

describe('a changed asset', () => {
  const change = async (over: object) => {
    const [row] = await house.database.db
      .select()
      .from(asset)
      .where(eq(asset.id, first() as AssetId));
    const {
      version,
      parentId,
      classId: ofClass,
      maker,
      model,
      serial,
      tag,
      owner,
      state,
      commissioned,
    } = row as typeof asset.$inferSelect;
    const { warrantyFrom, warrantyUntil, warrantyLabour, warrantyParts, warrantyTravel, warrantyVisits } =
      row as typeof asset.$inferSelect;
    return call('PUT', `/api/assets/${first()}`, {
      ...{ version, parentId, classId: ofClass, maker, model, serial, tag, owner, state, commissioned },
      ...{ warrantyFrom, warrantyUntil, warrantyLabour, warrantyParts, warrantyTravel, warrantyVisits },
      ...over,
    });
  };

  it('is retired by one path, and never put back in service', async () => {
    await house.database.db
      .update(asset)
      .set({ owner: 'own fleet', rentedSince: '2026-01-01' as LocalDate, parentId: world.assetIds[1] as AssetId })
      .where(eq(asset.id, first() as AssetId));
    expect((await change({ state: 'retired' })).status).toBe(200);
    const [row] = await house.database.db
      .select()
      .from(asset)
      .where(eq(asset.id, first() as AssetId));
    expect(row).toMatchObject({ state: 'retired', parentId: null, rentedSince: null });
    expect((await page(first())).events[0]?.kind).toBe('scrapped');
    for (const state of ['in service', 'out of service', 'in store']) {
      const back = await change({ state });
      expect([back.status, back.body.errors[0]?.field]).toEqual([409, 'state']);
    }
  });

  it('many at once are retired as one is: rented no more', async () => {
    await house.database.db.update(asset).set({ owner: 'own fleet', rentedSince: '2026-01-01' as LocalDate });
    await call('POST', '/api/assets/bulk', { ids: world.assetIds, change: { kind: 'retire', reason: 'sold' } });
    const rows = await house.database.db.select({ state: asset.state, rented: asset.rentedSince }).from(asset);
    expect(rows).toEqual(world.assetIds.map(() => ({ state: 'retired', rented: null })));
  });
});

describe('life acts', () => {
  const act = async (kind: object, on = TODAY) =>
    call('POST', `/api/assets/${first()}/life`, { version: (await page(first())).version, act: kind, on, text: '' });
  it('scrapping stops the schedules, and the next run says why by name', async () => {
    expect((await act({ kind: 'scrapped' })).status).toBe(200);
    const run = (await call<UpkeepRun>('GET', '/api/upkeep?to=2027-03-01')).body;
    expect(JSON.stringify(run)).toContain('retired');
    expect((await act({ kind: 'removed' })).body.code).toBe('wrong-stage');
  });
  it('moving changes place and words, and both are in its life', async () => {
    const lab = (await page(world.assetIds[1] as number)).path.at(-1)?.id;
    expect((await act({ kind: 'moved', locationId: lab, parentId: null })).status).toBe(200);
    const moved = await page(first());
    expect(moved.path.at(-1)?.id).toBe(lab);
    expect(moved.events[0]?.text).toBe('moved from Norvela > Floor 0 > Lab 0 to Norvela > Floor 1 > Lab 1');
  });
  it('of the future, without a place, or by a storekeeper are refused', async () => {
    expect((await act({ kind: 'removed' }, '2026-12-01')).body.errors[0]?.field).toBe('on');
    await act({ kind: 'removed' });
    expect((await act({ kind: 'installed', locationId: null, parentId: null })).body.errors[0]?.field).toBe(
      'act.locationId',
    );
    const storekeeper = await house.as('storekeeper');
    expect(
      (
        await storekeeper('POST', `/api/assets/${first()}/life`, {
          version: 2,
          act: { kind: 'scrapped' },
          on: TODAY,
          text: '',
        })
      ).status,
    ).toBe(403);
  });
  it('a loop between parts is refused', async () => {
    const [a, b] = world.assetIds as [number, number];
    const change = async (id: number, parentId: number) => {
      const { tag, serial, model, state, version } = await page(id);
      return call('PUT', `/api/assets/${id}`, { tag, serial, model, state, version, warrantyUntil: null, parentId });
    };
    expect((await change(b, a)).status).toBe(200);
    expect((await change(a, b)).body.errors[0]?.field).toBe('parentId');
    expect((await change(a, a)).body.errors[0]?.field).toBe('parentId');
  });
});

describe('meters', () => {
  it('a lower reading is asked about, and goes on as told', async () => {
    const { id } = (
      await call<{ id: number }>('POST', `/api/assets/${first()}/meters`, { name: 'Run hours', unit: 'h' })
    ).body;
    const read = (value: number, lowerMeans: string | null = null, at = '2026-11-24T09:00:00Z') =>
      call('POST', `/api/meters/${id}/readings`, { at, value, lowerMeans });
    expect((await read(100, null, '2026-11-01T09:00:00Z')).status).toBe(200);
    expect((await read(250)).status).toBe(200);
    expect((await read(30)).body.errors[0]).toMatchObject({ field: 'lowerMeans', code: 'out-of-order' });
    expect((await read(30, 'meter replaced')).status).toBe(200);
    const { items } = (await call<{ items: MeterOut[] }>('GET', `/api/assets/${first()}/meters`)).body;
    expect([items[0]?.total, items[0]?.last?.value]).toEqual([180, 30]);
    expect((await read(20, 'last reading was wrong')).status).toBe(200);
    expect(
      (await call<{ items: MeterOut[] }>('GET', `/api/assets/${first()}/meters`)).body.items[0]?.readings.some(
        (r) => r.struckOut,
      ),
    ).toBe(true);
    expect((await read(90, null, '2027-01-01T09:00:00Z')).body.errors[0]?.field).toBe('at');
  });
});

describe('a meter that a device counts', () => {
  it('is read at most once an hour; one that begins anew goes on with what it had come to', async () => {
    const id = await classId();
    const meters = [{ name: 'Cycles', unit: 'n', channel: 'cycles' }];
    await call('PUT', `/api/asset-classes/${id}`, { name: 'Ultra-low freezer', version: 1, jobPlanIds: [], meters });
    const made = (await register()).body.id;
    await call('POST', '/api/devices', { assetId: made, key: 'urn:dev:os:counter-1' });
    const count = (time: string, v: number) =>
      call('POST', '/api/readings', [
        { n: 'urn:dev:os:counter-1:cycles', t: Date.parse(`2026-11-24T${time}:00Z`) / 1000, v },
      ]);
    for (const [time, n] of [
      ['06:00', 40],
      ['06:20', 41],
      ['08:00', 47],
      ['08:20', 48],
      ['09:30', 3],
      ['09:40', 4],
    ] as const)
      expect((await count(time, n)).status).toBe(200);
    const { items } = (await call<{ items: MeterOut[] }>('GET', `/api/assets/${made}/meters`)).body;
    expect(items[0]?.readings.map((r) => [r.value, r.source])).toEqual([
      [3, 'signal'],
      [48, 'signal'],
      [47, 'signal'],
      [40, 'signal'],
    ]);
    // 40 to 48, and 3 since.
    expect(items[0]?.total).toBe(11);
  });
});
