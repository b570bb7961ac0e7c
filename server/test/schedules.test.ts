// What a schedule is written down with, over the routes: kept as typed, seen by the run and the order, changed, refused.
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { eq } from 'drizzle-orm';
import type { ScheduleSeries } from '#api/schedules.ts';
import type { UpkeepRun } from '#api/upkeep.ts';
import { asId, type ScheduleId } from '#core/ids.ts';
import { jobPlan, orderEvent, person, schedule, visit, workOrder } from '../src/tables.ts';
import { kept } from './every-row.ts';
import { agreementPage, buildWorld, openHouse, type Caller, type TestHouse, type World } from './house.ts';

let house: TestHouse;
let call: Caller;
let world: World;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call, { assets: 2 });
});
afterAll(() => house.close());

const TERMS = {
  cadence: { kind: 'rule', rule: 'FREQ=WEEKLY;INTERVAL=2;BYDAY=TU' },
  anchor: '2026-11-03',
  convention: 'following',
  calendarId: null,
  earlyDays: 3,
  lateDays: 4,
  lead: 10,
  leadUnit: 'calendar days',
};
const WISHES = {
  ...{ weekday: 4, timeOfDay: 450, crew: 2, technicianId: null, absorbDays: 3, needsYes: true, visitPrice: 18_500 },
  ...{ hours: { totalMinutes: 2600, factors: [1, 1, 1, 1, 1, 1, 2, 2, 1, 1, 1, 0.5] }, reminder: 'key at the porter' },
};
const terms = (over: object = {}) => ({ jobPlanId: world.jobPlanId, ...TERMS, ...WISHES, ...over });
const add = (over: object = {}) =>
  call<{ added: number }>('POST', `/api/agreements/${world.agreementId}/schedules`, {
    ...terms(over),
    assetIds: [world.assetIds[0]],
  });
const read = async (id: number) => (await call<ScheduleSeries>('GET', `/api/schedules/${id}`)).body;
const newest = async (): Promise<ScheduleId> => {
  const rows = await house.database.db.select({ id: schedule.id }).from(schedule);
  return rows.reduce((a, r) => (r.id > a ? r.id : a), asId<ScheduleId>(1));
};
const run = async (to: string) => (await call<UpkeepRun>('GET', `/api/upkeep?to=${to}`)).body;
const change = (id: number, version: number, over: object = {}) =>
  call<{ version: number }>('PUT', `/api/schedules/${id}`, { ...terms(over), version });

describe('a schedule under an agreement in force', () => {
  let id: ScheduleId;
  beforeAll(async () => {
    expect((await add()).body).toEqual({ added: 1 });
    id = await newest();
  });

  it('is read as it was typed, and owes nothing from before it was promised', async () => {
    const series = await read(id);
    expect(series.terms).toEqual(terms());
    expect([series.isDraft, series.isSeries]).toEqual([false, true]);
    // Today is 24 November: the dates of 3 and 17 November lie before it.
    expect(series.visits[0]?.nominal).toBe('2026-12-01');
    const page = await agreementPage(call, world.agreementId);
    expect(page.schedules.find((s) => s.id === id)?.next).toBe('2026-12-01');
  });

  it('its visits are planned for the wanted weekday, share the year’s hours, and wait for the customer’s yes', async () => {
    const { proposals } = await run('2026-12-22');
    const own = proposals.filter((p) => p.scheduleId === id);
    expect(own.map((p) => [p.nominal, p.due, p.planned, p.crew])).toEqual([
      ['2026-12-01', '2026-12-01', '2026-12-03', 2],
      ['2026-12-15', '2026-12-15', '2026-12-17', 2],
      ['2026-12-29', '2026-12-29', '2026-12-31', 2],
    ]);
    expect(own[0]?.reminder).toContain('key at the porter');
    expect(own.map((p) => p.exceptions.map((e) => e.code).includes('needs yes'))).toEqual([true, true, true]);
    // 2,600 minutes over two visits of November and three of December, which count half: 2,600 · 0.5 / 3.5 each.
    expect(own.map((p) => Math.round(p.minutes / 10))).toEqual([37, 37, 37]);
  });

  it('is raised once the customer said yes, with what is wanted and what to remember on the order', async () => {
    const key = { scheduleId: id, nominal: '2026-12-01', part: 1 };
    const only = { to: '2026-11-24', only: [key] };
    expect((await call<{ raised: number }>('POST', '/api/upkeep/commit', only)).body.raised).toBe(0);
    const yes = { visits: [key], to: '2026-11-24', decision: { kind: 'accepted', reason: 'Ms Silva said yes' } };
    expect((await call('POST', '/api/upkeep/decide', yes)).status).toBe(200);
    expect((await call<{ raised: number }>('POST', '/api/upkeep/commit', only)).body.raised).toBe(1);
    const [raised] = await house.database.db
      .select({ act: orderEvent.act })
      .from(visit)
      .innerJoin(workOrder, eq(workOrder.id, visit.orderId))
      .innerJoin(orderEvent, eq(orderEvent.orderId, workOrder.id))
      .where(eq(visit.scheduleId, id));
    expect(raised?.act).toMatchObject({
      kind: 'raised',
      text: 'upkeep due Tue 1 Dec 2026; wanted on Thu 3 Dec 2026 at 07:30; key at the porter',
    });
  });

  it('changes its terms, for the visits that are not raised', async () => {
    const { version } = await read(id);
    const over = { weekday: null, earlyDays: 6, needsYes: false, reminder: '', hours: null, timeOfDay: null };
    expect((await change(id, version, over)).body).toEqual({ version: version + 1 });
    const own = (await run('2026-12-22')).proposals.filter((p) => p.scheduleId === id);
    expect(own.map((p) => [p.nominal, p.planned, p.windowFrom, p.exceptions.map((e) => e.code).join()])).toEqual([
      ['2026-12-15', '2026-12-15', '2026-12-09', 'open order'],
      ['2026-12-29', '2026-12-29', '2026-12-23', 'open order'],
    ]);
    expect((await read(id)).visits.find((v) => v.state === 'raised')).toMatchObject({ planned: '2026-12-03' });
  });

  it('is not given another rule, nor changed over somebody else’s change; nothing is changed then', async () => {
    const { version } = await read(id);
    const before = await kept(house);
    const rule = await change(id, version, { cadence: { kind: 'rule', rule: 'FREQ=WEEKLY' } });
    expect(rule.body).toMatchObject({ code: 'conflict', errors: [{ field: 'cadence' }] });
    expect((await change(id, version, { anchor: '2026-11-10' })).body).toMatchObject({ code: 'conflict' });
    expect((await change(id, version - 1)).body).toMatchObject({ code: 'stale' });
    expect((await change(987_654, version)).body).toMatchObject({ code: 'not-found' });
    expect(await kept(house)).toEqual(before);
  });

  it('counted from the last service it may be given another interval', async () => {
    const cadence = (count: number) => ({ kind: 'since service', time: { count, unit: 'month' }, meter: null });
    expect((await add({ cadence: cadence(3), hours: null, anchor: '2026-10-01' })).status).toBe(200);
    const since = await newest();
    const changed = await change(since, 1, { cadence: cadence(2), hours: null, anchor: '2026-10-01' });
    expect(changed.body).toEqual({ version: 2 });
    expect((await read(since)).visits[0]?.due).toBe('2026-12-01');
    expect((await change(since, 2, { anchor: '2026-10-01', hours: null })).body).toMatchObject({ code: 'conflict' });
  });
});

async function coordinatorId(): Promise<number> {
  const people = await house.database.db.select({ id: person.id, role: person.role }).from(person);
  return people.find((p) => p.role === 'coordinator')?.id ?? 0;
}

describe('refused at its field, without a trace', () => {
  it.each<[string, () => Promise<object> | object]>([
    ['hours', () => ({ cadence: { kind: 'since service', time: { count: 1, unit: 'year' }, meter: null } })],
    ['hours.factors', () => ({ hours: { totalMinutes: 60, factors: Array.from({ length: 12 }, () => 0) } })],
    ['timeOfDay', () => ({ timeOfDay: 1440 })],
    ['crew', () => ({ crew: 0 })],
    ['weekday', () => ({ weekday: 8 })],
    ['reminder', () => ({ reminder: 'x'.repeat(501) })],
    ['cadence.rule', () => ({ cadence: { kind: 'rule', rule: 'FREQ=NEVER' } })],
    ['jobPlanId', () => ({ jobPlanId: 987_654 })],
    ['calendarId', () => ({ calendarId: 987_654 })],
    ['technicianId', async () => ({ technicianId: await coordinatorId() })],
    [
      'cadence.phases.1.jobPlanId',
      async () => {
        const [plan] = await house.database.db.select({ id: jobPlan.id }).from(jobPlan);
        const phase = (name: string, from: number, jobPlanId: number) => ({
          ...{ name, jobPlanId, rule: 'FREQ=WEEKLY', factors: null },
          ...{ from: { month: from, day: 1 }, to: { month: from + 1, day: 28 } },
        });
        return { cadence: { kind: 'phases', phases: [phase('a', 1, plan?.id ?? 0), phase('b', 5, 987_654)] } };
      },
    ],
  ])('%s', async (field, over) => {
    const before = await kept(house);
    const answer = await add(await over());
    expect([answer.status, answer.body]).toMatchObject([answer.status, { errors: [{ field }] }]);
    expect(answer.status).toBeGreaterThanOrEqual(400);
    expect(await kept(house)).toEqual(before);
  });
});
