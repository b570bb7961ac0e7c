// Schedules that follow a coverage line: machines that come under it get their visits by themselves, those that leave lose them.
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { eq } from 'drizzle-orm';
import type { ScheduleSeries } from '#api/schedules.ts';
import type { UpkeepRun } from '#api/upkeep.ts';
import { asId, type AgreementId, type AssetId } from '#core/ids.ts';
import { asset, audit, lineSchedule, schedule, upkeepRun } from '../src/tables.ts';
import { keepPlanned } from '../src/upkeep/index.ts';
import { kept } from './every-row.ts';
import {
  addLine,
  agreementPage,
  buildWorld,
  firstClassId,
  openHouse,
  registerAsset,
  type Caller,
  type TestHouse,
  type World,
} from './house.ts';

let house: TestHouse;
let call: Caller;
let world: World;
let classId = 0;
let lineId = 0;
let draft = 0;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call, { assets: 2 });
  classId = await firstClassId(call);
  const header = {
    ...{ requestKey: 'line-schedules', customerId: world.customerId, name: 'By class', reminder: '', noticeDays: 0 },
    ...{ from: '2026-01-01', to: '2027-12-31' },
  };
  draft = (await call<{ id: number }>('POST', '/api/agreements', header)).body.id;
  const covered = await call(
    'PUT',
    `/api/agreements/${draft}/coverage`,
    addLine({
      reach: { kind: 'class', assetClassId: classId },
      shares: { labour: 100, parts: 100, travel: 100 },
      serviceLevelId: world.serviceLevelId,
      kinds: ['repair', 'preventive'],
      excludedCauses: [],
    }),
  );
  expect(covered.status, JSON.stringify(covered.body)).toBe(200);
  lineId = (await agreementPage(call, draft)).lines[0]?.id ?? 0;
});
afterAll(() => house.close());

const add = (of: object) =>
  call<{ added: number }>('POST', `/api/agreements/${draft}/schedules`, {
    ...{ assetIds: of, jobPlanId: world.jobPlanId, cadence: { kind: 'rule', rule: 'FREQ=MONTHLY;BYDAY=1TU' } },
    ...{ anchor: '2026-01-01', convention: 'following', calendarId: world.calendarId, earlyDays: 3, lateDays: 4 },
    ...{ lead: 10, leadUnit: 'calendar days', reminder: 'as the line says' },
  });
const members = async () =>
  house.database.db
    .select()
    .from(schedule)
    .where(eq(schedule.agreementId, asId<AgreementId>(draft)))
    .orderBy(schedule.id);
const run = async () => (await call<UpkeepRun>('GET', '/api/upkeep?to=2026-12-24')).body;
const toState = (id: number, state: 'retired' | 'in service') =>
  house.database.db
    .update(asset)
    .set({ state })
    .where(eq(asset.id, asId<AssetId>(id)));

describe('a schedule for a coverage line', () => {
  it('makes one for each machine it reaches; of a line that names one machine, or of another agreement, it is refused', async () => {
    const before = await kept(house);
    expect((await add({ lineId: 987_654 })).body).toMatchObject({ code: 'not-found', errors: [{ field: 'assetIds' }] });
    const single = (await agreementPage(call, world.agreementId)).lines[0]?.id ?? 0;
    expect((await add({ lineId: single })).body).toMatchObject({ code: 'not-found' });
    expect(await kept(house)).toEqual(before);
    expect((await add({ lineId })).body).toEqual({ added: 2 });
    expect((await members()).map((m) => [m.assetId, m.holdsFrom, m.joinedAt])).toEqual(
      world.assetIds.map((id) => [id, null, null]),
    );
  });

  it('in a draft is removed as a whole: one alone would come back by itself', async () => {
    const [one] = await members();
    expect((await call('DELETE', `/api/agreements/${draft}/schedules/${one?.id}`)).status).toBe(200);
    expect(await members()).toEqual([]);
    expect(await house.database.db.select().from(lineSchedule)).toEqual([]);
    await run();
    expect(await members()).toEqual([]);
    expect((await add({ lineId })).body).toEqual({ added: 2 });
  });

  it('gives a machine that comes under the line its visits from that day on, and tells so in the next run', async () => {
    const page = await agreementPage(call, draft);
    const inForce = await call('POST', `/api/agreements/${draft}/in-force`, { version: page.version });
    expect(inForce.status, JSON.stringify(inForce.body)).toBe(200);
    await run();
    const [there] = await house.database.db.select({ locationId: asset.locationId }).from(asset);
    const late = { tag: 'LATE-1', serial: 'late-1', locationId: there?.locationId };
    const { id } = (await registerAsset(call, world, late)).body as { id: number };
    const told = await run();
    const own = (await members()).find((m) => m.assetId === id);
    expect(own).toMatchObject({ holdsFrom: '2026-11-24', holdsTo: null, reminder: 'as the line says' });
    expect(told.moved).toMatchObject([{ tag: 'LATE-1', what: 'came', on: '2026-11-24' }]);
    expect(told.proposals.filter((p) => p.assetId === id).map((p) => p.nominal)).toEqual(['2026-12-01']);
    const [entry] = await house.database.db.select().from(audit).where(eq(audit.subjectId, draft)).limit(1);
    expect(entry).toBeDefined();
    // Looked at again, nothing is made twice.
    await run();
    expect((await members()).filter((m) => m.assetId === id)).toHaveLength(1);
  });

  it('is changed for the whole line at once, and for those that come later', async () => {
    const own = await members();
    const { body: series } = await call<ScheduleSeries>('GET', `/api/schedules/${own[0]?.id}`);
    expect(series.ofLine).toBe(3);
    const change = { version: series.version, wholeLine: true, ...series.terms, lateDays: 9 };
    expect((await call('PUT', `/api/schedules/${own[0]?.id}`, change)).status).toBe(200);
    expect((await members()).map((m) => m.lateDays)).toEqual([9, 9, 9]);
    await registerAsset(call, world, { tag: 'LATE-2', serial: 'late-2' });
    await run();
    expect((await members()).map((m) => m.lateDays)).toEqual([9, 9, 9, 9]);
    const alone = { ...change, version: series.version + 1, wholeLine: false, lateDays: 5 };
    expect((await call('PUT', `/api/schedules/${own[0]?.id}`, alone)).status).toBe(200);
    expect((await members()).map((m) => m.lateDays)).toEqual([5, 9, 9, 9]);
  });

  it('ends for a machine that leaves, says why it yields nothing, and begins again when it comes back', async () => {
    const { db } = house.database;
    const gone = world.assetIds[0] ?? 0;
    await db.insert(upkeepRun).values({
      ...{ at: house.now, today: '2026-11-24', runTo: '2026-11-24', scope: {}, only: null, state: 'done', left: [] },
    } as never);
    await toState(gone, 'retired');
    // By hand: nobody told of it, so everything is looked at anew, as every hour.
    const today = '2026-11-24' as UpkeepRun['today'];
    await keepPlanned(house.database, { today, whole: true });
    const left = (await members()).find((m) => m.assetId === gone);
    expect(left).toMatchObject({ holdsTo: '2026-11-23' });
    const told = await run();
    expect(told.moved.filter((m) => m.what === 'left')).toMatchObject([{ assetId: gone, on: '2026-11-24' }]);
    expect(told.nothing.find((n) => n.scheduleId === left?.id)?.code).toBe('left line');
    await toState(gone, 'in service');
    await keepPlanned(house.database, { today, whole: true });
    expect((await members()).filter((m) => m.assetId === gone).map((m) => m.holdsTo)).toEqual(['2026-11-23', null]);
  });
});
