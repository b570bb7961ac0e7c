// Nested upkeep, visits counted from the last service, and visits that a person changed: what a run makes of them.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { asId, type AssetId, type JobPlanId, type OrderId, type ScheduleId } from '#core/ids.ts';
import { asInstant, asLocalDate, type LocalDate } from '#core/time/index.ts';
import type { WrittenCadence } from '#core/upkeep/index.ts';
import {
  clock,
  jobPlan,
  jobPlanIncludes,
  meter,
  meterReading,
  orderCourse,
  orderEvent,
  orderLine,
  orderTask,
  schedule,
  visit,
  visitChange,
  workOrder,
} from '../src/tables.ts';
import { assetPage, buildWorld, forgetPlan, openHouse, type Caller, type TestHouse, type World } from './house.ts';

const d = asLocalDate;
let house: TestHouse;
let call: Caller;
let world: World;
let large: JobPlanId;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call, { assets: 1 });
  const { db } = house.database;
  [{ id: large }] = (await db.insert(jobPlan).values({ name: 'Yearly', minutes: 200, tasks: [] }).$returningId()) as [
    { id: JobPlanId },
  ];
  await db.insert(jobPlanIncludes).values({ largerId: large, smallerId: asId<JobPlanId>(world.jobPlanId) });
});
beforeEach(async () => {
  const { db } = house.database;
  for (const table of [clock, orderCourse, orderEvent, orderTask, orderLine]) await db.delete(table);
  for (const table of [workOrder, visit, visitChange, schedule, meterReading, meter]) await db.delete(table);
});
afterAll(() => house.close());

async function scheduled(cadence: WrittenCadence, over: Partial<typeof schedule.$inferInsert> = {}) {
  const terms = { convention: 'none', earlyDays: 5, lateDays: 7, leadDays: 14, leadUnit: 'calendar days' } as const;
  const [made] = await house.database.db
    .insert(schedule)
    .values({
      agreementId: asId(world.agreementId),
      assetId: asId<AssetId>(world.assetIds[0] as number),
      jobPlanId: asId<JobPlanId>(world.jobPlanId),
      ...{ cadence, anchor: d('2026-11-01'), turns: [], hours: null, ...terms },
      ...over,
    })
    .$returningId();
  return (made as { id: ScheduleId }).id;
}
const rule = (text: string): WrittenCadence => ({ kind: 'rule', rule: text });
const visits = async () =>
  (await house.database.db.select().from(visit).orderBy(visit.nominal, visit.id)).map((v) => ({
    ...{ id: v.id, scheduleId: v.scheduleId, nominal: v.nominal, part: v.part, state: v.state },
    ...{ orderId: v.orderId, absorbedBy: v.absorbedBy, completedOn: v.completedOn, jobPlanId: v.jobPlanId },
  }));
type Run = {
  proposals: { nominal: string; part: number; due: string; planned: string }[];
  nothing: { reason: string }[];
};
const run = async (to: string): Promise<Run> => {
  await forgetPlan(house.database);
  return (await call<Run>('GET', `/api/upkeep?to=${to}`)).body;
};
const raise = async (to: string): Promise<number> => {
  await forgetPlan(house.database);
  return (await call<{ raised: number }>('POST', '/api/upkeep/commit', { to, only: null })).body.raised;
};
const happened = async (orderId: OrderId | null, ...kinds: string[]) => {
  for (const kind of kinds) {
    const told = { requestKey: randomUUID(), at: '2026-11-24T10:00:00Z', act: { kind, text: 'as told' } };
    const answer = await call('POST', `/api/orders/${orderId}/events`, told);
    expect(answer, JSON.stringify(answer.body)).toMatchObject({ status: 200 });
  }
};

describe('nested upkeep', () => {
  const pair = async () => ({
    monthly: await scheduled(rule('FREQ=MONTHLY;BYMONTHDAY=10'), { absorbDays: 10 }),
    yearly: await scheduled(rule('FREQ=YEARLY;BYMONTH=12;BYMONTHDAY=15'), { jobPlanId: large, leadDays: 0 }),
  });

  it('a smaller one waits for the larger that is raised later, and is recorded with it', async () => {
    const { monthly, yearly } = await pair();
    // On 1 December the small one of the 10th could be raised, the large one of the 15th not yet.
    expect((await run('2026-12-01')).proposals.map((p) => p.nominal)).toEqual(['2026-11-10']);
    expect((await run('2026-12-15')).proposals.map((p) => p.nominal)).toEqual(['2026-11-10', '2026-12-15']);
    expect(await raise('2026-12-15')).toBe(2);
    const [, small, larger] = await visits();
    expect(larger).toMatchObject({ scheduleId: yearly, state: 'raised', jobPlanId: large });
    expect(small).toMatchObject({
      scheduleId: monthly,
      nominal: '2026-12-10',
      state: 'absorbed',
      absorbedBy: larger?.id,
    });
    expect(await raise('2026-12-20')).toBe(0);
  });

  it('the smaller is done with the larger, and owed again when that is called off', async () => {
    await pair();
    await raise('2026-12-15');
    const larger = (await visits()).find((v) => v.nominal === '2026-12-15');
    await happened(larger?.orderId ?? null, 'arrived', 'done');
    expect((await visits()).map((v) => [v.nominal, v.completedOn])).toEqual([
      ['2026-11-10', null],
      ['2026-12-10', '2026-11-24'],
      ['2026-12-15', '2026-11-24'],
    ]);
    await house.database.db.delete(visit);
    await house.database.db.delete(orderEvent);
    await house.database.db.delete(orderCourse);
    await house.database.db.delete(orderTask);
    await house.database.db.delete(orderLine);
    await house.database.db.delete(workOrder);
    await raise('2026-12-15');
    const again = (await visits()).find((v) => v.nominal === '2026-12-15');
    await happened(again?.orderId ?? null, 'called off');
    expect((await run('2026-12-15')).proposals.map((p) => p.nominal)).toEqual(['2026-12-10']);
  });
});

describe('visits counted from the last service', () => {
  it('come one after the other, by running number, from the day the one before was done', async () => {
    await scheduled({ kind: 'since service', time: { count: 10, unit: 'day' }, meter: null }, { jobPlanId: large });
    expect((await run('2026-11-24')).proposals).toMatchObject([{ nominal: '2026-11-01', part: 1, due: '2026-11-11' }]);
    await raise('2026-11-24');
    expect((await run('2027-03-01')).proposals).toEqual([]);
    expect((await run('2027-03-01')).nothing[0]?.reason).toContain('Visit 1');
    await happened((await visits())[0]?.orderId ?? null, 'arrived', 'done');
    expect((await run('2026-12-24')).proposals).toMatchObject([{ part: 2, due: '2026-12-04' }]);
    expect([await raise('2026-12-24'), await raise('2026-12-24')]).toEqual([1, 0]);
    // Called off: the next counts from the due date.
    await happened((await visits())[1]?.orderId ?? null, 'called off');
    expect((await run('2026-12-24')).proposals).toMatchObject([{ part: 3, due: '2026-12-14' }]);
  });

  it('follow a meter’s readings over a reset; struck-out ones do not count', async () => {
    const { db } = house.database;
    await scheduled({ kind: 'since service', time: null, meter: { meter: 'cycles', every: 500, spanDays: 90 } });
    expect((await run('2026-12-24')).nothing[0]?.reason).toContain('“cycles” has no reading');
    const [{ id: meterId }] = (await db
      .insert(meter)
      .values({ assetId: asId<AssetId>(world.assetIds[0] as number), name: 'cycles', unit: '' })
      .$returningId()) as [{ id: never }];
    const reading = (at: string, value: number, over: Partial<typeof meterReading.$inferInsert> = {}) =>
      db.insert(meterReading).values({ meterId, at: asInstant(`${at}T12:00:00Z`), value, source: 'typed', ...over });
    await reading('2026-11-01', 9900);
    await reading('2026-11-05', 99_000, { struckOut: true });
    await reading('2026-11-06', 10, { anew: 'meter reset' });
    await reading('2026-11-21', 190);
    // 190 since the reset, 20 days: 9.5 a day; 310 are missing, 33 days from the 21st.
    expect((await run('2026-12-24')).proposals).toMatchObject([{ due: '2026-12-24' }]);
    const marks = async () => (await assetPage(call, world.assetIds[0] as number)).ribbon.care;
    expect((await marks()).map((m) => [m.due, m.band])).toEqual([['2026-12-24', undefined]]);
    // Read more often, it is told how sure the day is; each reading moves both.
    await reading('2026-11-12', 40);
    await reading('2026-11-17', 150);
    const [before] = await marks();
    expect(before?.due).toBe('2026-12-24');
    expect(before?.band && [before.band.from < '2026-12-24', (before.band.to ?? '9999') > '2026-12-24']).toEqual([
      true,
      true,
    ]);
    await reading('2026-11-23', 300);
    // 300 since the reset, 22 days; 200 are missing, 15 days from the 23rd.
    const [after] = await marks();
    expect([after?.due, after?.band && after.band.from < (before?.band?.from ?? '')]).toEqual(['2026-12-08', true]);
  });
});

describe('a visit that a person changed', () => {
  const changed = (scheduleId: ScheduleId, nominal: string, over: Partial<typeof visitChange.$inferInsert>) =>
    house.database.db.insert(visitChange).values({ scheduleId, nominal: d(nominal), at: house.now, ...over });

  it('moved, skipped and added: the run takes each as decided, and raises it once', async () => {
    const id = await scheduled(rule('FREQ=MONTHLY;BYMONTHDAY=10'));
    await changed(id, '2026-11-10', { skipped: 'closed' });
    await changed(id, '2026-12-10', { movedTo: d('2026-12-14') });
    await changed(id, '2026-12-28', { added: true, minutes: 30 });
    const expected: [LocalDate, LocalDate, LocalDate][] = [
      [d('2026-12-10'), d('2026-12-10'), d('2026-12-14')],
      [d('2026-12-28'), d('2026-12-28'), d('2026-12-28')],
    ];
    expect((await run('2026-12-15')).proposals.map((p) => [p.nominal, p.due, p.planned])).toEqual(expected);
    expect([await raise('2026-12-15'), await raise('2026-12-15')]).toEqual([2, 0]);
    const minutes = await house.database.db
      .select({ minutes: workOrder.minutes })
      .from(workOrder)
      .orderBy(workOrder.id);
    expect(minutes.map((m) => m.minutes).sort()).toEqual([30, 90]);
  });
});
