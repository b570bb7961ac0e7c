// A whole place: what its machines are suggested, and many schedules set in one act, which is what was shown before.
import { eq } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Facility, FacilityOutcome } from '#api/facility.ts';
import type { UpkeepRun } from '#api/upkeep.ts';
import type { AssetId } from '#core/ids.ts';
import { asset, location, schedule } from '../src/tables.ts';
import { kept } from './every-row.ts';
import { buildWorld, firstClassId, openHouse, type Answer, type Caller, type TestHouse, type World } from './house.ts';

let house: TestHouse;
let call: Caller;
let world: World;
let site = 0;
let deepClean = 0;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call, { assets: 4 });
  const tasks = [{ text: 'Defrost', mandatory: true }];
  deepClean = (await call<{ id: number }>('POST', '/api/job-plans', { name: 'Deep clean', minutes: 61, tasks })).body
    .id;
  const [row] = await house.database.db.select().from(location).where(eq(location.name, 'Norvela'));
  site = row?.id ?? 0;
  await house.database.db
    .update(location)
    .set({ joinDays: 7 })
    .where(eq(location.id, row?.id as never));
  const classId = await firstClassId(call);
  const own = { name: 'Ultra-low freezer', jobPlanIds: [deepClean], meters: [] };
  expect((await call('PUT', `/api/asset-classes/${classId}`, { version: 1, ...own })).status).toBe(200);
});
afterAll(() => house.close());

const read = async (place = site): Promise<Facility> =>
  (await call<Facility>('GET', `/api/upkeep/facility?place=${place}`)).body;
const terms = (over: object = {}) => ({
  ...{ agreementId: world.agreementId, assetIds: world.assetIds, jobPlanId: deepClean, calendarId: null },
  ...{ cadence: { kind: 'rule' as const, rule: 'FREQ=MONTHLY;INTERVAL=6;BYDAY=2WE' }, anchor: '2026-12-01' },
  ...{ convention: 'following' as const, earlyDays: 7, lateDays: 7, lead: 21, leadUnit: 'calendar days' as const },
  ...over,
});
const preview = (sets: object[]): Promise<Answer<FacilityOutcome>> =>
  call<FacilityOutcome>('POST', '/api/upkeep/facility/preview', { placeId: site, sets });
const set = (sets: object[]): Promise<Answer<{ added: number }>> =>
  call<{ added: number }>('POST', '/api/upkeep/facility', { placeId: site, sets });

describe('a place', () => {
  it('shows its machines with what covers, suggests and keeps them', async () => {
    const facility = await read();
    expect(facility).toMatchObject({
      place: { id: site, name: 'Norvela' },
      join: { days: 7, from: 'Norvela' },
      agreements: [{ id: world.agreementId, stage: 'in force', customer: { id: world.customerId } }],
    });
    expect(facility.machines.map((m) => [m.tag, m.place, m.suggested, m.agreementIds])).toEqual(
      ['Q100', 'Q101', 'Q102', 'Q103'].map((tag, i) => [
        tag,
        `Floor ${i % 2} · Lab ${i}`,
        [deepClean],
        [world.agreementId],
      ]),
    );
    expect(facility.machines[0]?.schedules).toMatchObject([
      { jobPlanId: world.jobPlanId, sentence: 'Every 3 months on the first Tuesday' },
    ]);
    const [floor] = await house.database.db.select().from(location).where(eq(location.name, 'Floor 1'));
    expect((await read(floor?.id)).machines.map((m) => [m.tag, m.place])).toEqual([
      ['Q101', 'Lab 1'],
      ['Q103', 'Lab 3'],
    ]);
    expect((await call('GET', '/api/upkeep/facility?place=99999')).status).toBe(404);
  });

  it('looked at leaves everything as it was, and sets what was shown', async () => {
    const before = await kept(house);
    const yearly = { cadence: { kind: 'rule', rule: 'FREQ=YEARLY;BYMONTH=6;BYMONTHDAY=10' } };
    const sets = [
      terms({ assetIds: world.assetIds.slice(0, 3) }),
      terms({ ...yearly, assetIds: world.assetIds.slice(3) }),
    ];
    const { status, body } = await preview(sets);
    expect([status, JSON.stringify(body)]).toEqual([200, expect.stringContaining('"schedules":4')]);
    // The agreement ends on 31 March: the half-yearly ones fall on 9 December only, the yearly one nowhere.
    expect(body).toMatchObject({
      ...{ schedules: 4, visits: 3, orders: 1 },
      months: [{ month: '2026-12', visits: 3, orders: 1, minutes: 3 * 61 }],
      nothing: [{ tag: 'Q103', jobPlanId: deepClean }],
    });
    expect(await kept(house)).toEqual(before);
    expect((await set(sets)).body).toEqual({ added: 4 });
    const { proposals } = (await call<UpkeepRun>('GET', '/api/upkeep?to=2026-12-31')).body;
    const own = proposals.filter((p) => p.jobPlan === 'Deep clean');
    expect(own.map((p) => [p.tag, p.planned])).toEqual(['Q100', 'Q101', 'Q102'].map((tag) => [tag, '2026-12-09']));
    const [made] = await house.database.db
      .select()
      .from(schedule)
      .where(eq(schedule.jobPlanId, deepClean as never));
    expect(made?.holdsFrom).toBe('2026-11-24');
    expect((await read()).machines.map((m) => m.schedules.length)).toEqual([2, 2, 2, 2]);
  });

  it('refuses all where one of it cannot be, at its field, and nothing is made', async () => {
    const { db } = house.database;
    const before = await kept(house);
    const fields = async (sets: object[]): Promise<unknown> => {
      const { status, body } = await set(sets);
      expect((await preview(sets)).status).toBe(status);
      return [status, (body as unknown as { errors: { field: string }[] }).errors.map((e) => e.field)];
    };
    const fresh = { jobPlanId: world.jobPlanId };
    expect(await fields([terms({ jobPlanId: 9999 }), terms()])).toEqual([404, ['sets.0.jobPlanId']]);
    // Kept by it already, and a rule that never comes.
    expect(await fields([terms(fresh)])).toEqual([409, ['sets.0.assetIds']]);
    const never = { cadence: { kind: 'rule', rule: 'FREQ=MONTHLY;INTERVAL=0' } };
    expect(await fields([terms(never)])).toEqual([422, ['sets.0.cadence.rule']]);
    expect(await fields([terms({ agreementId: 9999 })])).toEqual([404, ['sets.0.agreementId']]);
    expect(await fields([])).toEqual([422, ['sets']]);
    const [away] = await db.select().from(asset).where(eq(asset.tag, 'Q100'));
    await db
      .update(asset)
      .set({ locationId: null })
      .where(eq(asset.id, away?.id as AssetId));
    const other = { assetIds: world.assetIds.slice(0, 1) };
    expect(await fields([terms(other)])).toEqual([422, ['sets.0.assetIds']]);
    await db
      .update(asset)
      .set({ locationId: away?.locationId ?? null })
      .where(eq(asset.id, away?.id as AssetId));
    expect(await kept(house)).toEqual(before);
  });

  it('set by two at once is set once', async () => {
    const plan = { name: 'Seal check', minutes: 20, tasks: [{ text: 'Seal', mandatory: true }] };
    const jobPlanId = (await call<{ id: number }>('POST', '/api/job-plans', plan)).body.id;
    const both = await Promise.all([set([terms({ jobPlanId })]), set([terms({ jobPlanId })])]);
    expect(both.map((b) => b.status).sort()).toEqual([200, 409]);
    const made = await house.database.db.$count(schedule, eq(schedule.jobPlanId, jobPlanId as never));
    expect(made).toBe(4);
  });
});
