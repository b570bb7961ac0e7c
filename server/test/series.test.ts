// Changing one visit of a schedule, or it and all later ones, over the routes: what is seen, what is raised, what is refused.
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import type { ScheduleSeries } from '#api/schedules.ts';
import {
  audit,
  clock,
  orderEvent,
  orderLine,
  orderTask,
  schedule,
  visit,
  visitChange,
  workOrder,
} from '../src/tables.ts';
import { kept } from './every-row.ts';
import { assetPage, buildWorld, forgetPlan, openHouse, type Caller, type TestHouse, type World } from './house.ts';

let house: TestHouse;
let call: Caller;
let world: World;
let id = 0;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call, { assets: 1, rule: 'FREQ=WEEKLY;INTERVAL=2;BYDAY=TU', anchor: '2026-12-01' });
  const [row] = await house.database.db.select().from(schedule);
  id = row?.id ?? 0;
});
beforeEach(async () => {
  const { db } = house.database;
  for (const table of [clock, orderEvent, orderTask, orderLine]) await db.delete(table);
  for (const table of [workOrder, visit, visitChange]) await db.delete(table);
  await db.update(schedule).set({ turns: [], version: 1 });
  await forgetPlan(house.database);
});
afterAll(() => house.close());

const read = async (): Promise<ScheduleSeries> => (await call<ScheduleSeries>('GET', `/api/schedules/${id}`)).body;
const change = async (act: object, version?: number, by: Caller = call) =>
  by<{ version: number; lapsed: string[] }>('POST', `/api/schedules/${id}/changes`, {
    version: version ?? (await read()).version,
    change: act,
  });
const coming = (s: ScheduleSeries, n: number) =>
  s.visits.slice(0, n).map((v) => [v.nominal, v.planned, v.state, v.changed]);
const run = async (to: string) =>
  (await call<{ proposals: { nominal: string; planned: string; due: string }[] }>('GET', `/api/upkeep?to=${to}`)).body
    .proposals;

describe('one visit', () => {
  it('moved, left out and added is seen so, proposed so, and raised so; taken back it is as the rule says', async () => {
    await change({ kind: 'move', nominal: '2026-12-15', to: '2026-12-17', agreed: false });
    await change({ kind: 'skip', nominal: '2026-12-29', reason: 'stocktaking' });
    await change({ kind: 'add', on: '2026-12-22' });
    expect(coming(await read(), 4)).toEqual([
      ['2026-12-01', '2026-12-01', 'to come', null],
      ['2026-12-15', '2026-12-17', 'to come', 'moved by hand'],
      ['2026-12-22', '2026-12-22', 'to come', 'added by hand'],
      ['2026-12-29', '2026-12-29', 'left out', 'left out: stocktaking'],
    ]);
    // Every deviation stands on the machine's ribbon.
    const { care } = (await assetPage(call, world.assetIds[0] as number)).ribbon;
    expect(care.slice(0, 4).map((m) => [m.due, m.planned, m.changed, m.state])).toEqual([
      ['2026-12-01', '2026-12-01', false, 'planned'],
      ['2026-12-15', '2026-12-17', true, 'planned'],
      ['2026-12-22', '2026-12-22', true, 'planned'],
      ['2027-01-12', '2027-01-12', false, 'planned'],
    ]);
    expect(care.filter((m) => m.state === 'left out')).toMatchObject([
      { due: '2026-12-29', label: 'Quarterly care (stocktaking)' },
    ]);
    expect((await run('2026-12-10')).map((p) => [p.nominal, p.planned, p.due])).toEqual([
      ['2026-12-01', '2026-12-01', '2026-12-01'],
      ['2026-12-15', '2026-12-17', '2026-12-15'],
      ['2026-12-22', '2026-12-22', '2026-12-22'],
    ]);
    expect(
      (await call<{ raised: number }>('POST', '/api/upkeep/commit', { to: '2026-12-10', only: null })).body.raised,
    ).toBe(3);
    expect((await read()).visits.slice(0, 3).map((v) => v.state)).toEqual(['raised', 'raised', 'raised']);
    await change({ kind: 'revert', nominal: '2026-12-29' });
    expect(await house.database.db.$count(visitChange)).toBe(2);
    const notes = await house.database.db.select({ text: audit.text, subject: audit.subject }).from(audit);
    expect(notes.filter((n) => n.subject === 'schedule').map((n) => n.text)).toContain(
      'visit of Tue 29 Dec 2026 left out: stocktaking',
    );
  });

  it.each<[string, object, string, number]>([
    [
      'the series does not have',
      { kind: 'move', nominal: '2026-12-16', to: '2026-12-17', agreed: false },
      'nominal',
      404,
    ],
    ['to another’s day', { kind: 'move', nominal: '2026-12-15', to: '2026-12-29', agreed: false }, 'to', 409],
    ['without a reason', { kind: 'skip', nominal: '2026-12-15', reason: ' ' }, 'change.reason', 422],
    [
      'with another rule that is none',
      { kind: 'from here on', turn: { kind: 'rule', from: '2026-12-15', rule: 'FREQ=HOURLY' } },
      'change.turn.rule',
      422,
    ],
  ])('%s is refused at its field, and nothing is written', async (_, act, field, status) => {
    const before = await kept(house);
    const answer = await change(act);
    expect([answer.status, answer.body.errors[0]?.field]).toEqual([status, field]);
    expect(await kept(house)).toEqual(before);
  });

  it('that is raised is changed no more; of two who change, the second is told', async () => {
    await call('POST', '/api/upkeep/commit', { to: '2026-11-24', only: null });
    const raised = { kind: 'move', nominal: '2026-12-01', to: '2026-12-03', agreed: false };
    expect((await change(raised)).body).toMatchObject({ code: 'conflict' });
    const { version } = await read();
    await change({ kind: 'add', on: '2026-12-22' }, version);
    expect((await change({ kind: 'add', on: '2026-12-23' }, version)).body).toMatchObject({ code: 'stale' });
  });

  it('is changed by writers only, and of a schedule that is there', async () => {
    const act = { kind: 'add', on: '2026-12-22' };
    expect((await change(act, 1, await house.as('dispatcher'))).status).toBe(403);
    expect((await call('GET', '/api/schedules/999')).status).toBe(404);
    expect((await call('POST', '/api/schedules/999/changes', { version: 1, change: act })).status).toBe(404);
  });
});

describe('from a visit on', () => {
  it('another weekday keeps the weeks, in the page and in the run', async () => {
    await change({ kind: 'from here on', turn: { kind: 'weekday', from: '2026-12-15', now: 4 } });
    const series = await read();
    expect(series.turns).toEqual([{ from: '2026-12-15', text: 'Thu instead of Tue, in the same weeks' }]);
    expect(series.visits.slice(0, 3).map((v) => v.planned)).toEqual(['2026-12-01', '2026-12-17', '2026-12-31']);
    expect((await run('2026-12-10')).map((p) => p.planned)).toEqual(['2026-12-01', '2026-12-17', '2026-12-31']);
  });

  it('another rule names what lapses; the rest taken out says so in the next run', async () => {
    await change({ kind: 'skip', nominal: '2026-12-29', reason: 'stocktaking' });
    const rule = { kind: 'rule', from: '2026-12-15', rule: 'FREQ=MONTHLY;BYMONTHDAY=15' };
    expect((await change({ kind: 'from here on', turn: rule })).body.lapsed).toEqual(['2026-12-29']);
    expect((await read()).visits.slice(0, 3).map((v) => v.nominal)).toEqual(['2026-12-01', '2026-12-15', '2027-01-15']);
    await change({ kind: 'from here on', turn: { kind: 'ends', from: '2026-12-15', reason: 'machine sold' } });
    await call('POST', '/api/upkeep/commit', { to: '2026-12-31', only: null });
    const nothing = (
      await call<{ items: { code: string; reason: string }[] }>('GET', '/api/upkeep/nothing?to=2026-12-31')
    ).body;
    expect(nothing.items).toMatchObject([
      { code: 'ended by hand', reason: expect.stringContaining('machine sold') as string },
    ]);
  });

  it('another crew and duration hold for it and later ones', async () => {
    await change({ kind: 'from here on', turn: { kind: 'work', from: '2026-12-15', minutes: 120, crew: 2 } });
    expect((await read()).visits.slice(0, 3).map((v) => [v.minutes, v.crew])).toEqual([
      [90, 1],
      [120, 2],
      [120, 2],
    ]);
  });
});
