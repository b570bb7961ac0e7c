// The whole chain over the routes: imported register to proven standing.
import { randomUUID } from 'node:crypto';
import { eq } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { asId, type OrderId } from '#core/ids.ts';
import { attainmentOf, upkeepCompliance } from '#core/standing/index.ts';
import { asInstant, asLocalDate, asZone } from '#core/time/index.ts';
import { calendarBook } from '../src/calendars/index.ts';
import { deriveOrderClocks, loadOrder, recordOrderAct } from '../src/orders/index.ts';
import { standingPage } from '../src/standing/index.ts';
import { clock, visit, workOrder } from '../src/tables.ts';
import {
  addLine,
  buildWorld,
  finding,
  openHouse,
  registerCsv,
  type Caller,
  type TestHouse,
  type World,
} from './house.ts';

let house: TestHouse;
let call: Caller;
let world: World;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call);
});
afterAll(() => house.close());

describe('the register', () => {
  it('imports the same file a second time without creating anything', async () => {
    const again = await call<{ assets: number; alreadyHeld: number; locations: number; customers: string[] }>(
      'POST',
      '/api/register/import',
      { fileName: 'register.csv', text: registerCsv(3) },
    );
    expect(again.body).toMatchObject({ assets: 0, alreadyHeld: 3, locations: 0, customers: [] });
  });

  it('shows the tree with counts and the asset with inherited zone and address', async () => {
    const tree = await call<{ nodes: { name: string; assets: number; zone: string | null }[] }>(
      'GET',
      `/api/customers/${world.customerId}/tree`,
    );
    expect(tree.body.nodes.map((n) => [n.name, n.assets, n.zone])).toContainEqual(['Norvela', 0, 'Europe/Lisbon']);
    const asset = await call<{ zone: { value: string; from: string }; verdict: { sentence: string } }>(
      'GET',
      `/api/assets/${world.assetIds[0]}`,
    );
    expect(asset.body.zone).toEqual({ value: 'Europe/Lisbon', from: 'Norvela' });
    expect(asset.body.verdict.sentence).toBe(
      'Covered by AG-2001 Full care: labour 100 %, parts 80 %, travel not covered.',
    );
  });

  it.each([
    ['ulf720q101', 'Q101'],
    ['Q102', 'Q102'],
    ['rua do cais', 'Q100'],
    ['lab 2', 'Q102'],
  ])('finds a machine by %s', async (q, tag) => {
    expect((await finding(call)(q)).asset.map((a) => a.mark)).toContain(tag);
  });

  it('pages assets by tag without losing or repeating one', async () => {
    const first = await call<{ items: { tag: string }[]; next: string; total: number }>('GET', '/api/assets?limit=2');
    const second = await call<{ items: { tag: string }[]; next: string | null }>(
      'GET',
      `/api/assets?limit=2&after=${first.body.next}`,
    );
    expect([...first.body.items, ...second.body.items].map((a) => a.tag)).toEqual(['Q100', 'Q101', 'Q102']);
    expect([first.body.total, second.body.next]).toEqual([3, null]);
  });
});

describe('upkeep', () => {
  it('previews what it then raises, with window and raise date, and raises nothing twice', async () => {
    const preview = await call<{
      proposals: {
        due: string;
        windowFrom: string;
        windowTo: string;
        raise: string;
        scheduleId: number;
        nominal: string;
      }[];
      counts: { proposed: number };
    }>('GET', '/api/upkeep?to=2026-12-20');
    expect(preview.body.counts.proposed).toBe(6);
    expect(preview.body.proposals[3]).toMatchObject({
      due: '2027-01-05',
      windowFrom: '2026-12-31',
      windowTo: '2027-01-12',
      raise: '2026-12-15',
    });
    const held = preview.body.proposals[0] as (typeof preview.body.proposals)[number];
    expect(
      (
        await call('POST', '/api/upkeep/decide', {
          visits: [{ scheduleId: held.scheduleId, nominal: held.nominal }],
          to: '2026-12-20',
          decision: { kind: 'held', reason: 'site closed', until: null },
        })
      ).body,
    ).toMatchObject({ decided: 1 });
    const commit = await call<{ raised: number }>('POST', '/api/upkeep/commit', {
      to: '2026-12-20',
      only: null,
    });
    expect(commit.body).toMatchObject({ raised: 5, state: 'done' });
    expect((await call('POST', '/api/upkeep/commit', { to: '2026-12-20', only: null })).body).toMatchObject({
      raised: 0,
    });
    expect(
      (await call('POST', '/api/upkeep/release', { visits: [{ scheduleId: held.scheduleId, nominal: held.nominal }] }))
        .status,
    ).toBe(200);
    expect(
      (
        await call('POST', '/api/upkeep/commit', {
          to: '2026-12-20',
          only: [{ scheduleId: held.scheduleId, nominal: held.nominal }],
        })
      ).body,
    ).toMatchObject({ raised: 1 });
    const orders = await call<{ total: number; items: { kind: string; due: string }[] }>(
      'GET',
      '/api/orders?kind=preventive',
    );
    expect(orders.body.total).toBe(6);
  });

  it('names a schedule that yields nothing, with the reason', async () => {
    const draft = await call<{ id: number }>('POST', '/api/agreements', {
      requestKey: randomUUID(),
      customerId: world.customerId,
      name: 'Forgotten draft',
      from: '2026-01-01',
      to: null,
      noticeDays: 0,
      reminder: '',
    });
    await call(
      'PUT',
      `/api/agreements/${draft.body.id}/coverage`,
      addLine({
        reach: { kind: 'assets', assetIds: [world.assetIds[0]] },
        shares: { labour: 0, parts: 0, travel: 0 },
        serviceLevelId: null,
        kinds: ['preventive'],
        excludedCauses: [],
      }),
    );
    await call('POST', `/api/agreements/${draft.body.id}/schedules`, {
      assetIds: 'all covered',
      jobPlanId: world.jobPlanId,
      cadence: { kind: 'rule', rule: 'FREQ=MONTHLY;BYMONTHDAY=10' },
      anchor: '2026-01-01',
      convention: 'none',
      calendarId: null,
      earlyDays: 0,
      lateDays: 0,
      lead: 0,
      leadUnit: 'calendar days',
    });
    const run = await call<{ nothing: { code: string; kind: string; agreementId: number }[] }>(
      'GET',
      '/api/upkeep?to=2026-12-20',
    );
    expect(run.body.nothing.filter((n) => n.agreementId === draft.body.id)).toEqual([
      expect.objectContaining({ code: 'draft', kind: 'needs action' }),
    ]);
  });

  it('marks a visit done inside its window on the day in the site’s zone', async () => {
    const orders = await call<{ items: { id: number; due: string }[] }>('GET', '/api/orders?kind=preventive');
    const oldest = orders.body.items.find((o) => o.due === '2026-10-06') as { id: number };
    const page = await call<{ tasks: { id: number }[] }>('GET', `/api/orders/${oldest.id}`);
    const act = (at: string, body: unknown) =>
      call('POST', `/api/orders/${oldest.id}/events`, { requestKey: randomUUID(), at, act: body });
    await act('2026-11-24T10:00:00Z', { kind: 'arrived' });
    expect((await act('2026-11-24T10:00:00Z', { kind: 'done', text: '' })).body.detail).toContain('Clean filter');
    await act('2026-11-24T10:00:00Z', { kind: 'task', taskId: page.body.tasks[0]?.id, outcome: 'done', text: '' });
    expect((await act('2026-11-24T10:00:00Z', { kind: 'done', text: 'all well' })).body).toEqual({ stage: 'done' });
    const [row] = await house.database.db
      .select()
      .from(visit)
      .where(eq(visit.orderId, asId<OrderId>(oldest.id)));
    expect(row).toMatchObject({ completedOn: '2026-11-24', due: '2026-10-06' });
  });
});

describe('a repair from a call', () => {
  let id: number;
  it('is previewed and raised with the same verdict and clocks from the time of the call', async () => {
    const ask = {
      assetIds: [world.assetIds[1]],
      priority: 1,
      cause: 'wear',
      receivedAt: '2026-11-24T09:00:00Z',
      title: 'Alarm, warming up',
    };
    const preview = await call<{ lines: [{ sentence: string; promise: string }] }>('POST', '/api/orders/preview', ask);
    const requestKey = randomUUID();
    id = (await call<{ id: number }>('POST', '/api/orders', { ...ask, requestKey })).body.id;
    expect((await call<{ id: number }>('POST', '/api/orders', { ...ask, requestKey })).body.id).toBe(id);
    const page = await call<{
      lines: [{ verdict: { sentence: string; promise: string } }];
      clocks: { target: string; state: string; dueAt: number; over: number }[];
    }>('GET', `/api/orders/${id}`);
    expect(page.body.lines[0].verdict).toMatchObject({
      sentence: preview.body.lines[0].sentence,
      promise: preview.body.lines[0].promise,
    });
    expect(page.body.lines[0].verdict.promise).toContain('arrive by Tue 24 Nov 2026 13:00');
    expect(page.body.clocks.map((c) => [c.target, c.state])).toEqual([
      ['response', 'missed'],
      ['arrival', 'running'],
      ['restoration', 'running'],
    ]);
    expect(page.body.clocks[0]?.over).toBe(30 * 60_000);
  });

  it('moves its clocks with what is recorded; a repeated request key changes nothing', async () => {
    const send = (at: string, act: unknown, requestKey: string = randomUUID()) =>
      call('POST', `/api/orders/${id}/events`, { requestKey, at, act });
    const key = randomUUID();
    await send('2026-11-24T09:20:00Z', { kind: 'told', technician: 'A. Brandel' }, key);
    await send('2026-11-24T09:20:00Z', { kind: 'told', technician: 'A. Brandel' }, key);
    await send('2026-11-24T09:30:00Z', { kind: 'paused', reason: 'no access', text: '' });
    const paused = await call<{ clocks: { target: string; state: string; left: number }[]; events: unknown[] }>(
      'GET',
      `/api/orders/${id}`,
    );
    expect(paused.body.clocks.map((c) => c.state)).toEqual(['met', 'paused', 'paused']);
    expect(paused.body.events).toHaveLength(3);
    await send('2026-11-24T09:45:00Z', { kind: 'resumed' });
    await send('2026-11-24T09:50:00Z', { kind: 'arrived' });
    await send('2026-11-24T10:00:00Z', { kind: 'restored' });
    const ended = await call<{ clocks: { state: string }[] }>('GET', `/api/orders/${id}`);
    expect(ended.body.clocks.map((c) => c.state)).toEqual(['met', 'met', 'met']);
    expect((await send('2026-11-24T10:00:00Z', { kind: 'sent' })).body.code).toBe('wrong-stage');
  });

  it('without cover is chargeable, never refused', async () => {
    const ask = {
      assetIds: [world.assetIds[1]],
      priority: 1,
      cause: 'misuse',
      receivedAt: '2026-11-24T09:00:00Z',
      title: 'Dropped',
    };
    const made = await call<{ id: number }>('POST', '/api/orders', { ...ask, requestKey: randomUUID() });
    const page = await call<{ lines: [{ verdict: { sentence: string } }]; clocks: unknown[] }>(
      'GET',
      `/api/orders/${made.body.id}`,
    );
    expect(page.body).toMatchObject({
      lines: [{ verdict: { sentence: 'Not covered: chargeable at list rates, no promise.' } }],
      clocks: [],
    });
  });

  it('two recordings at the same time both stand, one after the other', async () => {
    const made = await call<{ id: number }>('POST', '/api/orders', {
      assetIds: [world.assetIds[2]],
      priority: 2,
      cause: 'wear',
      receivedAt: '2026-11-24T09:00:00Z',
      title: 'Noise',
      requestKey: randomUUID(),
    });
    const at = asInstant('2026-11-24T09:30:00Z');
    const record = (kind: 'arrived' | 'note') =>
      recordOrderAct(
        house.database,
        asId<OrderId>(made.body.id),
        { at, act: kind === 'note' ? { kind, text: 'x' } : { kind }, requestKey: randomUUID(), who: null },
        house.now,
      );
    const results = await Promise.allSettled([record('arrived'), record('arrived'), record('note'), record('note')]);
    expect(results.filter((r) => r.status === 'fulfilled')).toHaveLength(3);
  });
});

describe('what is derived', () => {
  it('clocks rebuilt from the events are the clocks that stand in the table', async () => {
    const columns = {
      line: clock.orderLineId,
      target: clock.target,
      state: clock.state,
      dueAt: clock.dueAt,
      stoppedAt: clock.stoppedAt,
      leftMs: clock.leftMs,
    };
    const before = await house.database.db.select(columns).from(clock).orderBy(clock.orderLineId, clock.target);
    expect(before.length).toBeGreaterThan(3);
    await house.database.transact(async (tx) => {
      await tx.db.delete(clock);
      const book = await calendarBook(tx.db);
      for (const row of await tx.db.select().from(workOrder)) {
        const { order, lines, events } = await loadOrder(tx.db, row.id, 'look');
        await deriveOrderClocks(tx, book, order, lines, events, house.now);
      }
    });
    expect(await house.database.db.select(columns).from(clock).orderBy(clock.orderLineId, clock.target)).toEqual(
      before,
    );
  });

  it('the database’s standing is the core’s', async () => {
    const period = {
      from: asLocalDate('2026-10-01'),
      to: asLocalDate('2026-11-30'),
      zone: asZone('Europe/Lisbon'),
      now: house.now,
      today: asLocalDate('2026-11-24'),
    };
    const rows = await standingPage(house.database.db, 'agreement', period, { after: null, limit: 10 });
    const span = { from: period.from, to: asLocalDate('2026-12-01') };
    const clocks = await house.database.db
      .select()
      .from(clock)
      .where(eq(clock.agreementId, asId(world.agreementId)));
    const visits = await house.database.db.select().from(visit);
    const expected = {
      ...attainmentOf(clocks, span, house.now),
      ...upkeepCompliance(
        visits.map((v) => ({ ...v, state: v.state === 'held' || v.state === 'accepted' ? 'absorbed' : v.state })),
        span,
        period.today,
      ),
    };
    expect(rows[0]).toMatchObject(expected);
    expect(expected.met + expected.missed).toBeGreaterThan(0);
    expect(expected.owed).toBe(3);
  });

  it('standing unfolds to the clocks and visits behind it, and exports as CSV', async () => {
    const detail = await call<{ clocks: unknown[]; visits: unknown[] }>(
      'GET',
      `/api/standing/detail?from=2026-10-01&to=2026-11-30&by=agreement&id=${world.agreementId}`,
    );
    const list = await call<{ items: { met: number; missed: number; owed: number }[] }>(
      'GET',
      '/api/standing?from=2026-10-01&to=2026-11-30&by=agreement',
    );
    expect([detail.body.clocks.length, detail.body.visits.length]).toEqual([
      (list.body.items[0]?.met ?? 0) + (list.body.items[0]?.missed ?? 0),
      list.body.items[0]?.owed,
    ]);
    const csv = await call<{ text: string }>('GET', '/api/standing.csv?from=2026-10-01&to=2026-11-30&by=asset');
    expect(csv.body.text.split('\r\n')[0]).toContain('attainment %');
    expect(csv.body.text).toContain('Q101,ULF-720,Norvela Diagnostics');
  });

  it('today names the promises, and the counts beside the rooms agree', async () => {
    await call('POST', '/api/orders', {
      assetIds: [world.assetIds[2]],
      priority: 1,
      cause: 'wear',
      receivedAt: '2026-11-24T09:50:00Z',
      title: 'Door alarm',
      requestKey: randomUUID(),
    });
    const today = await call<{ promises: { order: { title: string } }[]; counts: Record<string, number> }>(
      'GET',
      '/api/today/promises',
    );
    expect(today.status).toBe(200);
    expect(today.body.promises.map((p) => p.order.title)).toEqual(['Door alarm']);
    expect(today.body.counts).toEqual({ missed: 0, short: 0, enough: 3, paused: 0 });
    expect((await call('GET', '/api/counts')).body).toMatchObject({ signals: 0, today: 1 });
  });
});
