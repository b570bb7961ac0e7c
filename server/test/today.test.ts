// Today and the alert rules of the low side: what needs somebody, nearest first, and the numbers beside the rooms.
import { randomUUID } from 'node:crypto';
import type { Notices } from '#api/agreements/index.ts';
import type { Promises } from '#api/orders.ts';
import type { DueNow } from '#api/upkeep.ts';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { addLine, buildWorld, openHouse, type Caller, type TestHouse, type World } from './house.ts';

let house: TestHouse;
let call: Caller;
let world: World;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call);
});
afterAll(() => house.close());

const card = async <T>(of: string): Promise<T> => (await call<T>('GET', `/api/today/${of}`)).body;
const near = (): Promise<Promises> => card('promises');
const due = (): Promise<DueNow> => card('upkeep');
const alertsNow = async () => (await card<{ items: { text: string }[] }>('alerts')).items;
const raise = async (title: string, receivedAt: string, asset = 0): Promise<number> =>
  (
    await call<{ id: number }>('POST', '/api/orders', {
      assetIds: [world.assetIds[asset]],
      priority: 1,
      cause: 'wear',
      receivedAt,
      title,
      requestKey: randomUUID(),
    })
  ).body.id;
const record = (id: number, at: string, act: unknown) =>
  call('POST', `/api/orders/${id}/events`, { requestKey: randomUUID(), at, act });

describe('promises', () => {
  it('stand by the instant they end, one line for each order, paused ones last', async () => {
    const missed = await raise('Missed', '2026-11-24T08:00:00Z');
    const short = await raise('Short', '2026-11-24T09:35:00Z', 1);
    const enough = await raise('Enough', '2026-11-24T09:58:00Z', 2);
    const paused = await raise('Paused', '2026-11-24T09:50:00Z', 2);
    await record(paused, '2026-11-24T09:52:00Z', { kind: 'told', technician: 'A' });
    await record(paused, '2026-11-24T09:55:00Z', { kind: 'paused', reason: 'no access', text: '' });
    const { promises, counts } = await near();
    expect(promises.map((p) => p.order.id)).toEqual([missed, short, enough, paused]);
    expect(promises.map((p) => [p.clock.target, p.clock.state])).toEqual([
      ['response', 'missed'],
      ['response', 'running'],
      ['response', 'running'],
      ['arrival', 'paused'],
    ]);
    expect(counts).toEqual({ missed: 1, short: 1, enough: 7, paused: 2 });
    expect(promises[0]?.clock.over).toBe(90 * 60_000);
  });

  it('carry the open hours of their calendar over the whole axis', async () => {
    const id = await raise('Hours', '2026-11-24T09:59:00Z');
    await record(id, '2026-11-24T09:59:30Z', { kind: 'told', technician: 'A' });
    const { promises, axisFrom, axisTo } = await near();
    const hours = promises.find((p) => p.order.id === id);
    expect(hours?.clock.target).toBe('arrival');
    expect(hours?.open.every((o) => o.from >= axisFrom && o.to <= axisTo)).toBe(true);
    expect(
      hours?.open.map((o) => [
        new Date(o.from).toISOString().slice(11, 16),
        new Date(o.to).toISOString().slice(11, 16),
      ]),
    ).toEqual([
      ['09:00', '18:00'],
      ['09:00', '18:00'],
    ]);
  });

  it('leave when the order is finished', async () => {
    const id = await raise('Soon done', '2026-11-24T09:40:00Z');
    await record(id, '2026-11-24T09:45:00Z', { kind: 'restored' });
    await record(id, '2026-11-24T09:50:00Z', { kind: 'done', text: 'from afar' });
    expect((await near()).promises.map((p) => p.order.id)).not.toContain(id);
  });
});

/** The outlook follows a change by some seconds. */
const upkeepSoon = () => expect.poll(due, { timeout: 20_000, interval: 200 });

describe('decisions', () => {
  it('name what is to be raised, what yields nothing and which notice dates come', async () => {
    await upkeepSoon().toMatchObject({ proposed: 3, held: 0, needsAction: 0 });
    expect((await card<Notices>('notices')).coming).toEqual([
      expect.objectContaining({ name: 'Full care', noticeBy: '2026-12-31' }),
    ]);
    const plan = (await call<{ id: number }>('POST', '/api/job-plans', { name: 'Forgotten', minutes: 0, tasks: [] }))
      .body.id;
    const draft = (
      await call<{ id: number }>('POST', '/api/agreements', {
        requestKey: randomUUID(),
        customerId: world.customerId,
        name: 'Draft',
        from: '2026-01-01',
        to: null,
        noticeDays: 0,
        reminder: '',
      })
    ).body.id;
    await call(
      'PUT',
      `/api/agreements/${draft}/coverage`,
      addLine({
        reach: { kind: 'assets', assetIds: world.assetIds },
        shares: { labour: 0, parts: 0, travel: 0 },
        serviceLevelId: null,
        kinds: ['preventive'],
        excludedCauses: [],
      }),
    );
    await call('POST', `/api/agreements/${draft}/schedules`, {
      assetIds: 'all covered',
      jobPlanId: plan,
      cadence: { kind: 'rule', rule: 'FREQ=MONTHLY;BYMONTHDAY=1' },
      anchor: '2026-01-01',
      convention: 'none',
      calendarId: null,
      earlyDays: 0,
      lateDays: 0,
      lead: 0,
      leadUnit: 'calendar days',
    });
    await upkeepSoon().toMatchObject({
      needsAction: 3,
      reasons: [{ text: 'Norvela Diagnostics: The agreement is still in draft; put it in force.', count: 3 }],
    });
  });

  it('list visits whose window ends within a week, late ones too', async () => {
    await call('POST', '/api/upkeep/commit', { to: '2026-11-24', only: null });
    const { visitsEnding } = await due();
    expect(visitsEnding.map((v) => [v.label, v.windowTo, v.late])).toEqual(
      Array.from({ length: 3 }, () => ['Quarterly care', '2026-10-13', true]),
    );
  });
});

describe('alerts of the low side', () => {
  it('raise an order when a value stays too low, and show in Today and in the counts', async () => {
    const classId = (await call<{ classes: { id: number }[] }>('GET', '/api/reference')).body.classes[0]?.id;
    await call('POST', '/api/alert-rules', {
      name: 'Air too slow',
      assetClassId: classId,
      channel: 'airspeed',
      unit: 'm/s',
      condition: { kind: 'limit', side: 'below', limit: 0.36, deadband: 0.02 },
      ...{ onDelaySeconds: 0, offDelaySeconds: 0, holdSeconds: 3600, priority: 2 },
      ...{
        partOnly: false,
        askFirst: false,
        orderText: '',
        likelyCause: '',
        jobPlanId: null,
        watchCalendarId: null,
        suppressedBy: [],
        tells: [],
      },
      ...{ model: null, assetId: null, watched: true },
    });
    await call('POST', '/api/devices', { assetId: world.assetIds[1], key: 'urn:dev:os:hood' });
    expect(
      (await call('POST', '/api/devices', { assetId: world.assetIds[2], key: 'urn:dev:os:hood' })).body.errors[0]
        ?.field,
    ).toBe('key');
    const before = (await call<{ signals: number; orders: number }>('GET', '/api/counts')).body;
    const at = Date.parse('2026-11-24T09:30:00Z') / 1000;
    await call('POST', '/api/readings', [
      { bn: 'urn:dev:os:hood:', bt: at, n: 'airspeed', u: 'm/s', v: 0.4 },
      { n: 'airspeed', u: 'm/s', t: 60, v: 0.35 },
    ]);
    expect(await alertsNow()).toEqual([expect.objectContaining({ text: 'airspeed 0.35 m/s, limit below 0.36 m/s' })]);
    const after = (await call<{ signals: number; orders: number }>('GET', '/api/counts')).body;
    expect([after.signals - before.signals, after.orders - before.orders]).toEqual([1, 1]);
    await call('POST', '/api/readings', [{ n: 'urn:dev:os:hood:airspeed', t: at + 120, v: 0.37 }]);
    expect(await alertsNow()).toHaveLength(1);
    await call('POST', '/api/readings', [{ n: 'urn:dev:os:hood:airspeed', t: at + 180, v: 0.38 }]);
    expect(await alertsNow()).toEqual([]);
  });
});
