// The load of the coming year, what may be moved to even it out, and moving it; over the routes.
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Levelling, Load } from '#api/load.ts';
import type { ScheduleSeries } from '#api/schedules.ts';
import type { UpkeepRun } from '#api/upkeep.ts';
import { asId, type AssetId } from '#core/ids.ts';
import { asInstant, asLocalDate, addDays, toDayNumber, weekdayOf } from '#core/time/index.ts';
import { jobPlan, location, schedule } from '../src/tables.ts';
import { kept } from './every-row.ts';
import { buildWorld, forgetPlan, openHouse, type Caller, type TestHouse, type World } from './house.ts';
import { raiseAll } from './raise-all.ts';

let house: TestHouse;
let call: Caller;
let world: World;
let depotId = 0;
let skillId = 0;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  // Three machines, each kept on the first Tuesday of every month.
  world = await buildWorld(call, { assets: 3, rule: 'FREQ=MONTHLY;BYDAY=1TU', anchor: '2026-10-01' });
  skillId = (await call<{ id: number }>('POST', '/api/skills', { name: 'Refrigerant handling' })).body.id;
  const capacity = [{ skillId, weeklyMinutes: 600 }];
  const depot = { name: 'Ribeira', latitude: 41.7, longitude: -8.7, capacity };
  depotId = (await call<{ id: number }>('POST', '/api/depots', depot)).body.id;
  const { db } = house.database;
  await db.update(location).set({ depotId: asId(depotId), latitude: 41.9, longitude: -8.6 });
  await db.update(jobPlan).set({ skillId: asId(skillId) });
  await forgetPlan(house.database);
});
afterAll(() => house.close());

const load = async (query = ''): Promise<Load> => (await call<Load>('GET', `/api/upkeep/load${query}`)).body;
const levelling = async (query = ''): Promise<Levelling> =>
  (await call<Levelling>('GET', `/api/upkeep/levelling${query}`)).body;
type Move = { scheduleId: number; nominal: string; was: string; to: string };
const move = (moves: Move[]) =>
  call<{ moved: number; left: { nominal: string; reason: string }[] }>('POST', '/api/upkeep/moves', { moves });
const series = async (id: number): Promise<ScheduleSeries> =>
  (await call<ScheduleSeries>('GET', `/api/schedules/${id}`)).body;
const sum = (numbers: readonly number[]): number => numbers.reduce((a, b) => a + b, 0);

describe('the load', () => {
  it('is the minutes of all visits of the year, week by week, by depot and skill, beside what there is', async () => {
    const { from, rows } = await load();
    expect(from).toBe('2026-11-23');
    expect(rows).toHaveLength(1);
    const [row] = rows;
    expect(row).toMatchObject({ depot: { id: depotId }, skill: { id: skillId }, capacity: 600 });
    const { visits } = await levelling();
    // Counted once more, from the series of each schedule as its page shows them.
    const weeks = new Map<number, number>();
    for (const { id } of await house.database.db.select({ id: schedule.id }).from(schedule))
      for (const v of (await series(id)).visits) {
        const week = Math.max(0, Math.floor((toDayNumber(v.planned) - toDayNumber(from)) / 7));
        if (week < 52) weeks.set(week, (weeks.get(week) ?? 0) + (v.minutes ?? 0));
      }
    expect(row?.planned).toEqual(Array.from({ length: 52 }, (_, i) => weeks.get(i) ?? 0));
    // What is overdue stands in the first week of the load, and is not moved.
    expect(sum(visits.map((v) => v.minutes))).toBe(sum(row?.planned ?? []) - (row?.planned[0] ?? 0));
  });

  it('is asked for by depot and customer; what is raised counts as raised', async () => {
    expect((await load(`?depot=${depotId}`)).rows).toHaveLength(1);
    expect((await load('?depot=987654')).rows).toEqual([]);
    expect((await load(`?customer=${world.customerId}`)).rows).toHaveLength(1);
    const before = (await load()).rows[0];
    await raiseAll(house.database, asLocalDate('2026-11-24'), asInstant('2026-11-24T09:20:00Z'));
    const after = (await load()).rows[0];
    expect(sum(after?.raised ?? [])).toBeGreaterThan(0);
    expect(sum(after?.raised ?? []) + sum(after?.planned ?? [])).toBe(
      sum(before?.raised ?? []) + sum(before?.planned ?? []),
    );
    const { fixed } = await levelling();
    expect(sum(fixed.map((f) => f.minutes))).toBe(sum(after?.raised ?? []));
  });
});

describe('what may be moved', () => {
  it('lies inside its window, from tomorrow on, on open days', async () => {
    const { visits, sites, depots } = await levelling();
    expect(sites).toEqual([{ name: expect.any(String) as string, latitude: 41.9, longitude: -8.6 }]);
    expect(depots).toEqual([{ name: 'Ribeira', position: { latitude: 41.7, longitude: -8.7 } }]);
    for (const v of visits) {
      // Five days early to seven late, Monday to Friday.
      expect([...v.days].length).toBeLessThanOrEqual(13);
      [...v.days].forEach((may, i) => {
        if (weekdayOf(addDays(v.from, i)) > 5) expect(may).toBe('0');
      });
      expect(v.from > '2026-11-24').toBe(true);
    }
    expect(visits.some((v) => v.days.includes('1'))).toBe(true);
  });

  it('is moved at once; what a person chose stays from then on, and can be taken back', async () => {
    const { visits } = await levelling();
    const [one, two] = visits.filter((v) => v.days.length > 10);
    if (!one || !two) throw new Error('no visits');
    const later = (v: typeof one) => addDays(v.planned, 2);
    const moves = [one, two].map((v) => ({
      scheduleId: v.scheduleId,
      nominal: v.nominal,
      was: v.planned,
      to: later(v),
    }));
    expect((await move(moves)).body).toEqual({ moved: 2, left: [] });
    const moved = (await series(one.scheduleId)).visits.find((v) => v.nominal === one.nominal);
    expect(moved).toMatchObject({ planned: later(one), due: one.planned, changed: 'moved by hand' });
    const again = (await levelling()).visits.find((v) => v.scheduleId === one.scheduleId && v.nominal === one.nominal);
    expect(again).toMatchObject({ planned: later(one), days: '' });
    const { version } = await series(one.scheduleId);
    const revert = { version, change: { kind: 'revert', nominal: one.nominal } };
    expect((await call('POST', `/api/schedules/${one.scheduleId}/changes`, revert)).status).toBe(200);
    const back = (await series(one.scheduleId)).visits.find((v) => v.nominal === one.nominal);
    expect(back).toMatchObject({ planned: one.planned, changed: null });
  });

  it('two of one schedule may change places, in whatever order they are told', async () => {
    const [made] = await house.database.db
      .insert(schedule)
      .values({
        ...{ agreementId: asId(world.agreementId), assetId: asId<AssetId>(world.assetIds[0] ?? 0) },
        ...{ jobPlanId: asId(world.jobPlanId), cadence: { kind: 'rule', rule: 'FREQ=WEEKLY;BYDAY=TU' }, turns: [] },
        ...{ anchor: asLocalDate('2027-02-02'), hours: null, convention: 'none', earlyDays: 10, lateDays: 10 },
        ...{ leadDays: 10, leadUnit: 'calendar days' },
      })
      .$returningId();
    await forgetPlan(house.database);
    const id = made?.id ?? 0;
    const shift = ['2027-02-02', '2027-02-09', '2027-02-16'].map((nominal) => ({
      ...{ scheduleId: id, nominal, was: nominal },
      to: addDays(asLocalDate(nominal), 7),
    }));
    expect((await move(shift)).body).toMatchObject({ moved: 0, left: [{}, {}, {}] });
    // Where the last one makes room the others follow.
    const freed = shift.map((m) => (m.nominal === '2027-02-16' ? { ...m, to: '2027-02-18' } : m));
    expect((await move(freed)).body).toEqual({ moved: 3, left: [] });
  });

  it('is left where it is, with the reason, where something changed or speaks against it; nothing is changed then', async () => {
    const { visits } = await levelling();
    const v = visits.find((x) => x.days.length > 10);
    if (!v) throw new Error('no visit');
    const of = { scheduleId: v.scheduleId, nominal: v.nominal, was: v.planned };
    const before = await kept(house);
    const cases: [Move, string][] = [
      [{ ...of, was: '2026-12-24', to: addDays(v.planned, 1) }, 'it is planned for'],
      [{ ...of, to: addDays(v.planned, 40) }, 'outside its window'],
      [{ ...of, to: addDays(v.planned, 4) }, 'is a closed day'],
      [{ ...of, nominal: '2031-01-01', to: v.planned }, 'owed no more'],
      [{ ...of, scheduleId: 987_654, to: v.planned }, 'its schedule is gone'],
    ];
    for (const [asked, reason] of cases) {
      const { body } = await move([asked]);
      expect(body).toMatchObject({ moved: 0, left: [{ nominal: asked.nominal }] });
      expect(body.left[0]?.reason).toContain(reason);
    }
    expect(await kept(house)).toEqual(before);
    expect((await move([])).status).toBe(422);
  });
});

describe('depots and skills', () => {
  it('nobody has the skill: told of the visits, by a setting', async () => {
    const lacking = async () => {
      const { body } = await call<UpkeepRun>('GET', '/api/upkeep?to=2027-01-15');
      return body.counts.exceptions.find((e) => e.code === 'no skill')?.count ?? 0;
    };
    expect(await lacking()).toBe(0);
    const { depots } = (await call<{ depots: { version: number; capacity: object[] }[] }>('GET', '/api/depots')).body;
    const change = (version: number, capacity: object[]) =>
      call('PUT', `/api/depots/${depotId}`, { version, name: 'Ribeira', latitude: null, longitude: null, capacity });
    expect((await change(depots[0]?.version ?? 0, [])).status).toBe(200);
    expect(await lacking()).toBeGreaterThan(0);
    expect((await change(1, [])).body).toMatchObject({ code: 'stale' });
    expect((await change(2, [{ skillId: 987_654, weeklyMinutes: 60 }])).body).toMatchObject({ code: 'not-found' });
    const half = { name: 'Half', latitude: 41, longitude: null, capacity: [] };
    expect((await call('POST', '/api/depots', half)).body).toMatchObject({ errors: [{ field: 'longitude' }] });
    expect((await call('POST', '/api/skills', { name: 'refrigerant handling' })).body).toMatchObject({ code: 'taken' });
  });
});
