// Visits at one place that make one order: what a run shows is what it raises, each visit keeps its own window and result, and one that
// was left undone is owed again.
import { randomUUID } from 'node:crypto';
import { group } from 'd3-array';
import { eq } from 'drizzle-orm';
import { beforeEach, describe, expect, it } from 'vitest';
import type { Load } from '#api/load.ts';
import type { OrderPage } from '#api/orders.ts';
import type { ScheduleSeries } from '#api/schedules.ts';
import { orderNumber } from '#api/shapes.ts';
import type { Proposal, Ran, UpkeepRun } from '#api/upkeep.ts';
import type { AssetId } from '#core/ids.ts';
import { asLocalDate, instant } from '#core/time/index.ts';
import { rebuild } from '../src/platform/derived.ts';
import { DERIVED } from '../src/rooms.ts';
import { location, orderLine, schedule, visit } from '../src/tables.ts';
import { visitsBetween } from '../src/upkeep/year/visits.ts';
import { kept } from './every-row.ts';
import {
  assetPage,
  buildWorld,
  firstClassId,
  NOW,
  openHouse,
  type Answer,
  type Caller,
  type TestHouse,
  type World,
} from './house.ts';

let house: TestHouse;
let call: Caller;
let world: World;
beforeEach(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  // Four machines on two floors of one site, each kept on the first Tuesday of a quarter: 5 January next.
  world = await buildWorld(call, { assets: 4, anchor: '2027-01-01' });
  return () => house.close();
});

const TO = '2027-01-31';
/** Says of a place within how many days visits join; null: as above. */
async function joinWithin(days: number | null, name = 'Norvela'): Promise<void> {
  const [place] = await house.database.db.select().from(location).where(eq(location.name, name));
  if (!place) throw new Error(`no place ${name}`);
  const { id, version, address, zone, latitude, longitude } = place;
  const body = { version, name, address, zone, latitude, longitude, joinDays: days };
  expect((await call('PUT', `/api/locations/${id}`, body)).status).toBe(200);
}
const run = async (to = TO): Promise<UpkeepRun> => (await call<UpkeepRun>('GET', `/api/upkeep?to=${to}`)).body;
const commit = (only: readonly Proposal[] | null, to = TO, seen: number | null = null): Promise<Answer<Ran>> =>
  call<Ran>('POST', '/api/upkeep/commit', {
    to,
    seen,
    only: only?.map(({ scheduleId, nominal, part }) => ({ scheduleId, nominal, part })) ?? null,
  });
const order = async (id: number): Promise<OrderPage> => (await call<OrderPage>('GET', `/api/orders/${id}`)).body;
const record = (id: number, act: object) =>
  call('POST', `/api/orders/${id}/events`, { requestKey: randomUUID(), at: NOW, act });
const lines = () => house.database.db.select().from(orderLine).orderBy(orderLine.id);
const visits = () => house.database.db.select().from(visit).orderBy(visit.id);
/** From its first visit on a machine is kept by another rule. */
async function dueOn(machine: number, rule: string): Promise<number> {
  const [own] = await house.database.db
    .select()
    .from(schedule)
    .where(eq(schedule.assetId, world.assetIds[machine] as AssetId));
  if (!own) throw new Error('no schedule');
  const change = { kind: 'from here on', turn: { kind: 'rule', from: '2027-01-05', rule } };
  expect((await call('POST', `/api/schedules/${own.id}/changes`, { version: own.version, change })).status).toBe(200);
  return own.id;
}
const differing = async (): Promise<string[]> =>
  (await rebuild(house.database, DERIVED, instant(house.now), false)).flatMap((r) => r.differing);

describe('a place whose visits join', () => {
  it('raises one order for its machines, each line with its own window and tasks', async () => {
    const apart = await run();
    expect(apart.proposals.map((p) => [p.planned, p.joins])).toEqual(Array(4).fill(['2027-01-05', 0]));
    await joinWithin(7);
    const together = await run();
    expect(together.proposals.map((p) => [p.planned, p.joins])).toEqual(Array(4).fill(['2027-01-05', 3]));
    const { body } = await commit(null);
    expect([body.raised, body.left]).toEqual([4, []]);
    const page = await order(body.firstOrderId ?? 0);
    expect(page.title).toBe('Quarterly care, 4 machines');
    expect(page.minutes).toBe(4 * 90);
    expect(page.lines.map((l) => [l.tag, l.minutes, l.visit?.due, l.left])).toEqual(
      ['Q100', 'Q101', 'Q102', 'Q103'].map((tag) => [tag, 90, '2027-01-05', null]),
    );
    expect([...group(page.tasks, (t) => t.lineId).values()].map((of) => of.map((t) => t.text))).toEqual(
      Array(4).fill(['Clean filter', 'Look at gasket']),
    );
    expect(await differing()).toEqual([]);
    expect((await run()).proposals).toEqual([]);
  });

  it('joins those that share a day, raised when the first of them is; the others stand alone', async () => {
    await joinWithin(7);
    // Three days later: shared from the later one’s own window on. Two weeks later: out of the span.
    const third = await dueOn(2, 'FREQ=MONTHLY;INTERVAL=3;BYMONTHDAY=8');
    await dueOn(3, 'FREQ=MONTHLY;INTERVAL=3;BYMONTHDAY=19');
    const said = (r: UpkeepRun) => r.proposals.map((p) => [p.tag, p.due, p.planned, p.raise, p.joins]);
    // On its own the third would be raised on 18 December.
    const early = await run('2026-12-15');
    expect(said(early)).toEqual([
      ['Q100', '2027-01-05', '2027-01-05', '2026-12-15', 2],
      ['Q101', '2027-01-05', '2027-01-05', '2026-12-15', 2],
      ['Q102', '2027-01-08', '2027-01-05', '2026-12-15', 2],
    ]);
    const series = (await call<ScheduleSeries>('GET', `/api/schedules/${third}`)).body;
    expect(series.visits.find((v) => v.due === '2027-01-08')).toMatchObject({ planned: '2027-01-05', joins: 2 });
    const { body } = await commit(null, '2026-12-15');
    expect([body.raised, (await order(body.firstOrderId ?? 0)).lines.length]).toEqual([3, 3]);
    const raised = await visits();
    expect(raised.map((v) => [v.due, v.planned, v.windowFrom])).toEqual([
      ['2027-01-05', '2027-01-05', '2026-12-31'],
      ['2027-01-05', '2027-01-05', '2026-12-31'],
      ['2027-01-08', '2027-01-05', '2027-01-03'],
    ]);
    expect((await commit(null)).body.raised).toBe(1);
    expect(new Set((await lines()).map((l) => l.orderId)).size).toBe(2);
  });

  it('joins two job plans at one machine, which is asked its forms once; lists name it once', async () => {
    const form = { name: 'Look round', classId: await firstClassId(call), kinds: ['preventive'], warrantyOnly: false };
    const questions = [{ text: 'Sound?', kind: 'yes or no', mandatory: true, unit: null, from: null, to: null }];
    expect((await call('POST', '/api/class-forms', { ...form, questions })).status).toBe(200);
    const plan = { name: 'Seal check', minutes: 20, tasks: [{ text: 'Seal', mandatory: true }] };
    const jobPlanId = (await call<{ id: number }>('POST', '/api/job-plans', plan)).body.id;
    const first = { assetIds: [world.assetIds[0]], jobPlanId, calendarId: world.calendarId };
    const terms = { convention: 'following', earlyDays: 5, lateDays: 7, lead: 21, leadUnit: 'calendar days' };
    const cadence = { kind: 'rule', rule: 'FREQ=MONTHLY;INTERVAL=3;BYMONTHDAY=6' };
    const made = { ...terms, ...first, cadence, anchor: '2027-01-01' };
    expect((await call('POST', `/api/agreements/${world.agreementId}/schedules`, made)).status).toBe(200);
    await joinWithin(0, 'Floor 1');
    await joinWithin(7, 'Lab 0');
    const { body } = await commit(null);
    const ids = [...new Set((await lines()).map((l) => l.orderId))];
    const pages = await Promise.all(ids.map((id) => order(id)));
    const both = pages.find((p) => p.lines.length === 2);
    expect([body.raised, pages.length, both?.title, both?.minutes]).toEqual([
      5,
      4,
      'Quarterly care and Seal check',
      110,
    ]);
    expect([both?.forms.map((f) => f.name), both?.tasks.length]).toEqual([['Look round'], 3]);
    const listed = (await call<{ items: { id: number; machines: number }[] }>('GET', '/api/orders')).body.items;
    expect(listed.map((o) => o.machines)).toEqual([1, 1, 1, 1]);
    const { orders } = await assetPage(call, world.assetIds[0] as number);
    expect(orders.map((o) => o.id)).toEqual([both?.id]);
    const open = await call<{ orders: object[]; ordersTotal: number }>(
      'GET',
      `/api/agreements/${world.agreementId}/open-work`,
    );
    expect([open.body.orders.length, open.body.ordersTotal]).toEqual([4, 4]);
  });

  it('is said by the nearest place: one within may keep its visits apart', async () => {
    await joinWithin(7);
    await joinWithin(0, 'Floor 1');
    expect((await run()).proposals.map((p) => [p.tag, p.joins])).toEqual([
      ['Q100', 1],
      ['Q101', 0],
      ['Q102', 1],
      ['Q103', 0],
    ]);
    await joinWithin(null);
    await joinWithin(null, 'Floor 1');
    expect((await run()).proposals.every((p) => p.joins === 0 && p.planned === p.due)).toBe(true);
  });

  it('raises the ones that were ticked, on the day that was shown, and the rest together later', async () => {
    await joinWithin(7);
    await dueOn(2, 'FREQ=MONTHLY;INTERVAL=3;BYMONTHDAY=8');
    const { proposals } = await run();
    expect(new Set(proposals.map((p) => p.planned))).toEqual(new Set(['2027-01-05']));
    const { body } = await commit(proposals.slice(1, 3));
    expect([body.raised, (await visits()).map((v) => [v.due, v.planned])]).toEqual([
      2,
      [
        ['2027-01-05', '2027-01-05'],
        ['2027-01-08', '2027-01-05'],
      ],
    ]);
    expect((await run()).proposals.map((p) => [p.planned, p.joins])).toEqual(Array(2).fill(['2027-01-05', 1]));
  });

  it('leaves out one that is held, and takes it back when it is let go', async () => {
    await joinWithin(7);
    const [first, ...others] = (await run()).proposals as [Proposal, ...Proposal[]];
    const { scheduleId, nominal, part } = first;
    const held = { kind: 'held', reason: 'the lab moves', until: null };
    await call('POST', '/api/upkeep/decide', { visits: [{ scheduleId, nominal, part }], to: TO, decision: held });
    const joins = async () => (await run()).proposals.map((p) => [p.standing, p.joins]);
    expect((await joins()).sort()).toEqual([['held', 0], ...others.map(() => ['ready', 2])]);
    await call('POST', '/api/upkeep/release', { visits: [{ scheduleId, nominal, part }] });
    expect(await joins()).toEqual(Array(4).fill(['ready', 3]));
  });

  it('raises nothing unseen: what was brought together since somebody looked is left for another look', async () => {
    const { proposals, seen } = await run();
    await dueOn(2, 'FREQ=MONTHLY;INTERVAL=3;BYMONTHDAY=8');
    await joinWithin(7);
    const { body } = await commit(proposals, TO, seen);
    expect([body.raised, body.leftCount]).toEqual([0, 4]);
    expect(body.left.every((l) => /changed since you looked|proposed no more/.test(l.reason))).toBe(true);
    expect(await lines()).toEqual([]);
  });

  it('raises each visit once and every order whole under two runs at the same time', async () => {
    await joinWithin(7);
    const both = await Promise.all([commit(null, '2027-12-01'), commit(null, '2027-12-01')]);
    expect(both.map((b) => b.status)).toEqual([200, 200]);
    for (let i = 0; i < 50 && (await visits()).length < 4; i += 1) await new Promise((done) => setTimeout(done, 100));
    const all = await lines();
    expect(new Set(all.map((l) => l.visitId)).size).toBe(all.length);
    expect([...group(all, (l) => l.orderId).values()].map((l) => l.length)).toEqual(
      all.length === 0 ? [] : Array(all.length / 4).fill(4),
    );
  });
});

describe('an order of several visits', () => {
  let id = 0;
  beforeEach(async () => {
    await joinWithin(7);
    id = (await commit(null)).body.firstOrderId ?? 0;
    await record(id, { kind: 'arrived' });
  });
  const tickAll = async (but: number | null = null) => {
    for (const t of (await order(id)).tasks)
      if (t.lineId !== but) await record(id, { kind: 'task', taskId: t.id, outcome: 'done', text: '' });
  };

  it('gives each visit its own result: one left undone is owed again, held with the reason, until somebody decides', async () => {
    const [left] = (await order(id)).lines;
    const act = { kind: 'line', lineId: left?.id, outcome: 'left', text: 'the lab was locked' };
    expect((await record(id, act)).status).toBe(200);
    await tickAll(left?.id);
    expect((await record(id, { kind: 'done', text: '' })).status).toBe(200);
    expect((await visits()).map((v) => [v.state, v.completedOn, v.orderId])).toEqual([
      ['held', null, null],
      ...[1, 2, 3].map(() => ['raised', '2026-11-24', id]),
    ]);
    const page = await order(id);
    expect(page.lines.map((l) => [l.left, l.visit?.completedOn])).toEqual([
      ['the lab was locked', null],
      ...[1, 2, 3].map(() => [null, '2026-11-24']),
    ]);
    expect(page.events.map((e) => e.text)).toContain('Q100 left undone: the lab was locked');
    const [again] = (await run()).proposals as [Proposal];
    expect(again).toMatchObject({
      tag: 'Q100',
      standing: 'held',
      holdReason: `left undone on Tue 24 Nov 2026 (order ${orderNumber(id)}): the lab was locked`,
    });
    const key = { scheduleId: again.scheduleId, nominal: again.nominal, part: again.part };
    await call('POST', '/api/upkeep/release', { visits: [key] });
    const second = (await commit(null)).body;
    expect([second.raised, second.firstOrderId === id]).toEqual([1, false]);
    // Finished again and again, the first order has no say over it any more.
    await record(id, { kind: 'note', text: 'the key lies at the porter' });
    expect((await visits()).map((v) => [v.state, v.orderId])).toEqual(
      expect.arrayContaining([['raised', second.firstOrderId]]),
    );
    expect(await differing()).toEqual([]);
  });

  it('refuses to leave the last machine, or one of another order, and nothing changes', async () => {
    const ids = (await order(id)).lines.map((l) => l.id);
    for (const lineId of ids.slice(1)) await record(id, { kind: 'line', lineId, outcome: 'left', text: 'locked' });
    const before = await kept(house);
    const last = await record(id, { kind: 'line', lineId: ids[0], outcome: 'left', text: 'locked' });
    const foreign = await record(id, { kind: 'line', lineId: 99_999, outcome: 'left', text: 'locked' });
    const wordless = await record(id, { kind: 'line', lineId: ids[1], outcome: 'left', text: '' });
    expect([last.status, foreign.status, wordless.status]).toEqual([422, 404, 422]);
    expect(await kept(house)).toEqual(before);
  });

  it('counts each visit for itself where it is planned: in calendars and in the load', async () => {
    const { db } = house.database;
    const shown = await visitsBetween(
      db,
      { scope: {} },
      [asLocalDate('2027-01-01'), asLocalDate('2027-01-31')],
      asLocalDate('2026-11-24'),
      10,
    );
    expect(shown.map((v) => v.minutes)).toEqual([90, 90, 90, 90]);
    const { rows } = (await call<Load>('GET', '/api/upkeep/load')).body;
    expect(rows.flatMap((r) => r.raised).filter((minutes) => minutes > 0)).toEqual([4 * 90]);
  });

  it('divides the labour among the machines that were done, and the sum kept exactly', async () => {
    await tickAll();
    const effort = { fault: null, labourMinutes: 362, partsCost: null, otherCost: null };
    await record(id, { kind: 'done', text: '', effort });
    expect((await lines()).map((l) => l.labourMinutes)).toEqual([91, 91, 90, 90]);
    expect((await order(id)).took?.labourMinutes).toBe(362);
    // What visits of the job plan took stands beside what is contracted for the next ones.
    const took = (await call('GET', `/api/upkeep/took?jobPlan=${world.jobPlanId}`)).body;
    expect(took).toMatchObject({ took: { count: 4, least: 90, most: 91 } });
    expect(await differing()).toEqual([]);
  });

  it('called off takes all its visits out of what is owed', async () => {
    await record(id, { kind: 'called off', text: 'the site is rebuilt' });
    expect((await visits()).map((v) => v.state)).toEqual(Array(4).fill('called off'));
    expect((await run()).proposals).toEqual([]);
  });
});
