// The upkeep run over the routes: holding, letting go on, ticked visits only, dates and roles.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { eq } from 'drizzle-orm';
import { asId, type PersonId, type RunId } from '#core/ids.ts';
import { asLocalDate, asZone } from '#core/time/index.ts';
import { asset, clock, customer, orderEvent, orderLine, orderTask, schedule, visit, workOrder } from '../src/tables.ts';
import { readyOf, runAsk } from '../src/upkeep/proposals.ts';
import { raiseBatch } from '../src/upkeep/raise.ts';
import { buildWorld, forgetPlan, openHouse, type Caller, type TestHouse, type World } from './house.ts';

type Run = {
  today: string;
  proposals: {
    scheduleId: number;
    nominal: string;
    due: string;
    windowTo: string;
    state: string;
    holdReason: string | null;
    exceptions: { code: string; level: string; text: string }[];
    rule: string;
    minutes: number;
  }[];
  nothing: { code: string; reason: string }[];
  counts: { schedules: number; proposed: number; held: number; needsAction: number; waits: number };
};
let house: TestHouse;
let call: Caller;
let world: World;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call, { rule: 'FREQ=MONTHLY;BYMONTHDAY=25', anchor: '2026-11-01' });
});
beforeEach(async () => {
  for (const table of [clock, orderEvent, orderTask, orderLine]) await house.database.db.delete(table);
  await house.database.db.delete(workOrder);
  await house.database.db.delete(visit);
  await forgetPlan(house.database);
});
afterAll(() => house.close());

const run = async (to = '2026-12-10'): Promise<Run> => (await call<Run>('GET', `/api/upkeep?to=${to}`)).body;
const keys = (r: Pick<Run, 'proposals'>, n: number) =>
  r.proposals.slice(0, n).map(({ scheduleId, nominal }) => ({ scheduleId, nominal }));
const commit = async (only: unknown = null, to = '2026-12-10') =>
  (
    await call<{ raised: number; leftCount: number; firstOrderId: number | null }>('POST', '/api/upkeep/commit', {
      to,
      only,
    })
  ).body;
const hold = (visits: unknown, reason = 'site closed', to = '2026-12-10') =>
  call<{ decided: number }>('POST', '/api/upkeep/decide', {
    ...{ visits, to, decision: { kind: 'held', reason, until: null } },
  });

describe('looking through', () => {
  it('a visit on the 25th moves to the next working day when that is a holiday, its window with it', async () => {
    const november = (await run('2026-11-24')).proposals[0];
    expect(november).toMatchObject({
      nominal: '2026-11-25',
      due: '2026-11-25',
      rule: 'Every month on day 25',
      minutes: 90,
      exceptions: [],
    });
    const { proposals } = await run();
    const december = proposals.find((p) => p.nominal === '2026-12-25');
    expect([december?.due, december?.windowTo]).toEqual(['2026-12-28', '2027-01-04']);
  });

  it('names the visit after next while it waits', async () => {
    await commit();
    const after = await run();
    expect(after.counts).toMatchObject({ proposed: 0, waits: 3, needsAction: 0 });
    expect(after.nothing[0]?.reason).toBe('Next visit is due on Mon 25 Jan 2027 and raised on Mon 4 Jan 2027.');
  });

  it('says when a window is over already', async () => {
    const late = await openHouse('2026-12-05T10:00:00Z');
    const coordinator = await late.as('coordinator');
    await buildWorld(coordinator, { rule: 'FREQ=MONTHLY;BYMONTHDAY=25', anchor: '2026-11-01' });
    const { proposals } = (await coordinator<Run>('GET', '/api/upkeep?to=2026-12-08')).body;
    expect(new Set(proposals.map((p) => `${p.nominal} ${p.exceptions[0]?.text}`))).toEqual(
      new Set(['2026-11-25 its window is over since Wed 2 Dec 2026', '2026-12-25 undefined']),
    );
    await late.close();
  });

  it('is open to the dispatcher, who may not decide; technicians stay out', async () => {
    const dispatcher = await house.as('dispatcher');
    expect((await dispatcher('GET', '/api/upkeep?to=2026-12-10')).status).toBe(200);
    expect(
      (
        await dispatcher('POST', '/api/upkeep/decide', {
          ...{ visits: keys(await run(), 1), to: '2026-12-10' },
          decision: { kind: 'held', reason: 'x', until: null },
        })
      ).status,
    ).toBe(403);
    expect((await (await house.as('technician'))('GET', '/api/upkeep?to=2026-12-10')).status).toBe(403);
  });
});

describe('holding back', () => {
  it('keeps a visit in the list with its reason, out of the run, until it is let go on', async () => {
    const before = await run();
    expect((await hold(keys(before, 2))).body).toEqual({ decided: 2 });
    const held = await run();
    expect(held.counts).toMatchObject({ proposed: before.counts.proposed - 2, held: 2 });
    expect(held.proposals.filter((p) => p.state === 'held').map((p) => p.holdReason)).toEqual([
      'site closed',
      'site closed',
    ]);
    expect(await commit()).toMatchObject({ raised: before.counts.proposed - 2 });
    await call('POST', '/api/upkeep/release', { visits: keys(before, 2) });
    expect(await commit()).toMatchObject({ raised: 2 });
  });

  it('a second reason replaces the first; a raised visit is no longer held', async () => {
    const before = await run();
    await hold(keys(before, 1), 'first');
    await hold(keys(before, 1), 'second');
    expect((await run()).proposals.find((p) => p.state === 'held')?.holdReason).toBe('second');
    await call('POST', '/api/upkeep/release', { visits: keys(before, 1) });
    await commit(keys(before, 1));
    expect((await hold(keys(before, 1))).body).toMatchObject({ code: 'conflict' });
  });

  it.each<[string, Record<string, unknown>, string]>([
    ['no reason', { decision: { kind: 'held', reason: ' ', until: null } }, 'decision.reason'],
    ['no visit', { visits: [] }, 'visits'],
    ['an impossible date', { to: '2026-02-30' }, 'to'],
  ])('with %s is refused at its field', async (_, over, field) => {
    const answer = await call('POST', '/api/upkeep/decide', {
      visits: keys(await run(), 1),
      to: '2026-12-10',
      decision: { kind: 'held', reason: 'x', until: null },
      ...over,
    });
    expect(answer.body.errors[0]?.field).toBe(field);
  });
});

describe('raising', () => {
  it('of ticked visits raises those and leaves the others proposed', async () => {
    const before = await run();
    expect(await commit(keys(before, 2))).toMatchObject({ raised: 2, leftCount: 0 });
    expect((await run()).counts.proposed).toBe(before.counts.proposed - 2);
    expect(await commit(keys(before, 3))).toMatchObject({ raised: 1, leftCount: 2 });
  });

  it('of visits nobody owes raises nothing', async () => {
    expect(await commit([{ scheduleId: 1, nominal: '2026-11-13' }])).toMatchObject({ raised: 0, firstOrderId: null });
  });

  it('gives each order the tasks, duration and place of its visit', async () => {
    const { firstOrderId } = await commit();
    const page = (
      await call<{
        kind: string;
        stage: string;
        title: string;
        minutes: number;
        tasks: { text: string; mandatory: boolean }[];
        lines: { visit: { due: string; agreementId: number } }[];
        address: { value: string };
        offered: string[];
        clocks: unknown[];
      }>('GET', `/api/orders/${firstOrderId}`)
    ).body;
    expect(page).toMatchObject({
      kind: 'preventive',
      stage: 'raised',
      title: 'Quarterly care',
      minutes: 90,
      lines: [{ visit: { agreementId: world.agreementId } }],
      address: { value: '72 Rua do Cais, Norvela' },
      clocks: [],
    });
    expect(page.tasks.map((t) => [t.text, t.mandatory])).toEqual([
      ['Clean filter', true],
      ['Look at gasket', false],
    ]);
  });

  it('calling an order off takes its visit out of what is owed', async () => {
    const { firstOrderId } = await commit();
    await call('POST', `/api/orders/${firstOrderId}/events`, {
      requestKey: randomUUID(),
      at: '2026-11-24T10:00:00Z',
      act: { kind: 'called off', text: 'machine removed' },
    });
    expect((await house.database.db.select().from(visit)).filter((v) => v.state === 'called off')).toHaveLength(1);
    expect((await run()).counts.proposed).toBe(0);
  });
});

describe('what speaks against a visit', () => {
  type Counted = Omit<Run, 'proposals' | 'counts'> & {
    proposals: (Run['proposals'][number] & { standing: string })[];
    counts: Run['counts'] & { ready: number; toDecide: number; exceptions: { code: string; count: number }[] };
  };
  const look = async (query = '', by: Caller = call): Promise<Counted> =>
    (await by<Counted>('GET', `/api/upkeep?to=2026-12-10${query}`)).body;
  const decide = (visits: unknown, decision: object, by: Caller = call) =>
    by('POST', '/api/upkeep/decide', { visits, to: '2026-12-10', decision });
  const level = async (exception: string, to: string) =>
    (await house.as('manager'))('PUT', '/api/upkeep/settings', { exception, level: to });
  afterAll(async () => {
    await level('over terms', 'asks');
    await house.database.db.update(customer).set({ overSince: null });
  });

  it('is told of the page’s rows and counted of all, both the same', async () => {
    const { db } = house.database;
    await db.update(customer).set({ overSince: asLocalDate('2026-11-01') });
    await db
      .update(asset)
      .set({ state: 'out of service' })
      .where(eq(asset.id, asId(world.assetIds[0] as number)));
    await forgetPlan(house.database);
    const { proposals, counts } = await look();
    const told = new Map<string, number>();
    for (const p of proposals) for (const e of p.exceptions) told.set(e.code, (told.get(e.code) ?? 0) + 1);
    expect(Object.fromEntries(told)).toEqual(Object.fromEntries(counts.exceptions.map((e) => [e.code, e.count])));
    expect(told.get('over terms')).toBe(proposals.length);
    expect(told.get('out of service')).toBe(2);
    for (const shown of ['ready', 'to decide', 'held'] as const) {
      const listed = (await look(`&shown=${encodeURIComponent(shown)}`)).proposals;
      expect(listed.map((p) => p.standing)).toEqual(proposals.filter((p) => p.standing === shown).map(() => shown));
    }
    for (const [code, n] of told) {
      const listed = await look(`&exception=${encodeURIComponent(code)}`);
      expect([code, listed.proposals.length]).toEqual([code, n]);
    }
    await db.update(asset).set({ state: 'in service' });
  });

  it('that asks keeps a visit from being raised until somebody lets it go on', async () => {
    await house.database.db.update(customer).set({ overSince: asLocalDate('2026-11-01') });
    const before = await look();
    expect([before.counts.ready, before.counts.toDecide]).toEqual([0, before.counts.proposed]);
    expect(await commit()).toMatchObject({ raised: 0 });
    expect(await commit(keys(before, 1))).toMatchObject({ raised: 0, leftCount: 1 });
    expect((await decide(keys(before, 1), { kind: 'accepted', reason: '' })).status).toBe(200);
    expect((await look()).counts).toMatchObject({ ready: 1, toDecide: before.counts.proposed - 1 });
    expect(await commit()).toMatchObject({ raised: 1 });
  });

  it('that stops is overridden by a manager with a reason only; the list stays as it is otherwise', async () => {
    await house.database.db.update(customer).set({ overSince: asLocalDate('2026-11-01') });
    await level('over terms', 'stops');
    const one = keys(await look(), 1);
    const manager = await house.as('manager');
    const accepted = (reason: string) => ({ kind: 'accepted', reason });
    expect((await decide(one, accepted('they paid'))).body).toMatchObject({ code: 'not-allowed' });
    expect((await decide(one, accepted(' '), manager)).body).toMatchObject({ code: 'missing' });
    expect(await house.database.db.select().from(visit)).toEqual([]);
    expect((await decide(one, accepted('they paid'), manager)).status).toBe(200);
    expect((await look()).counts).toMatchObject({ ready: 1 });
    await level('over terms', 'tells');
    expect((await look()).counts).toMatchObject({ toDecide: 0 });
  });

  it('held until a day it is proposed again from that day on; until today or before is refused', async () => {
    await level('over terms', 'tells');
    const one = keys(await look(), 1);
    const held = (until: string | null) => ({ kind: 'held', reason: 'closed', until });
    expect((await decide(one, held('2026-11-24'))).body.errors).toMatchObject([{ field: 'until' }]);
    await decide(one, held('2026-11-25'));
    expect((await look()).counts.held).toBe(1);
    await house.database.db.update(visit).set({ holdUntil: asLocalDate('2026-11-24') });
    expect((await look()).counts.held).toBe(0);
  });

  it('declined is owed no more, and listed in standing as declined', async () => {
    const before = await look();
    await decide(keys(before, 1), { kind: 'declined', reason: 'not wanted' });
    expect((await look()).counts.proposed).toBe(before.counts.proposed - 1);
    expect(await house.database.db.select().from(visit)).toMatchObject([
      { state: 'declined', holdReason: 'not wanted' },
    ]);
  });

  it('what changed since somebody looked is left and named, not raised', async () => {
    const { seen } = (await call<{ seen: number }>('GET', '/api/upkeep?to=2026-12-10')).body;
    await house.database.db.update(schedule).set({ convention: 'preceding' });
    await forgetPlan(house.database);
    const answer = await call<{ raised: number; left: { reason: string }[] }>('POST', '/api/upkeep/commit', {
      ...{ to: '2026-12-10', only: null, seen },
    });
    // December’s moved from the 28th back to the 24th; November’s are as they were.
    expect(answer.body).toMatchObject({ raised: 3, leftCount: 3 });
    expect(answer.body.left[0]?.reason).toContain('changed since you looked');
    expect((await commit()).raised).toBe(3);
    await house.database.db.update(schedule).set({ convention: 'following' });
  });

  it('that was held while a run was on its way to it stays held', async () => {
    await level('over terms', 'tells');
    const { db } = house.database;
    const over = { to: asLocalDate('2026-12-10'), today: asLocalDate('2026-11-24'), scope: {} };
    await look();
    const rows = await readyOf(
      db,
      await runAsk(db, over),
      (await db.select().from(schedule)).map((r) => r.id),
    );
    const one = keys(await look(), 1);
    await decide(one, { kind: 'held', reason: 'closed', until: null });
    const who = {
      id: asId<PersonId>(1),
      name: '',
      email: '',
      role: 'coordinator',
      zone: asZone('Europe/Lisbon'),
    } as const;
    const { raised, left } = await house.database.transact((tx) =>
      raiseBatch(tx, rows, over, asId<RunId>(1), who, house.now),
    );
    expect([raised, left.map((l) => l.reason)]).toEqual([5, ['it was held, raised or let go meanwhile']]);
    expect((await look()).counts).toMatchObject({ held: 1, proposed: 0 });
  });

  it('beyond a counted right asks, where the house says so: in the page, the numbers and the run alike', async () => {
    const alone = await openHouse();
    const caller = await alone.as('coordinator');
    const own = await buildWorld(caller, {
      assets: 2,
      inForce: false,
      rule: 'FREQ=MONTHLY;BYMONTHDAY=25',
      anchor: '2026-11-01',
    });
    const page = () => caller<{ version: number }>('GET', `/api/agreements/${own.agreementId}`);
    const right = { unit: 'visits', amount: 3, period: 'agreement year', carriesOver: false };
    await caller('PUT', `/api/agreements/${own.agreementId}/allowances`, {
      ...{ version: (await page()).body.version, allowances: [right] },
    });
    await caller('POST', `/api/agreements/${own.agreementId}/in-force`, { version: (await page()).body.version });
    await (
      await alone.as('manager')
    )('PUT', '/api/upkeep/settings', { exception: 'beyond right', level: 'asks' });
    const before = await look('', caller);
    expect([before.counts.ready, before.counts.toDecide]).toEqual([3, 1]);
    expect((await look('&shown=to%20decide', caller)).proposals.map((p) => p.exceptions[0]?.code)).toEqual([
      'beyond right',
    ]);
    const run = await caller<{ raised: number }>('POST', '/api/upkeep/commit', { to: '2026-12-10', only: null });
    expect(run.body.raised).toBe(3);
    await alone.close();
  });

  it('runs are listed, each with what came of it; only managers set what an exception means', async () => {
    await commit();
    const { items } = (
      await call<{ items: { id: number; raised: number; who: string; scope: string }[] }>('GET', '/api/upkeep/runs')
    ).body;
    expect(items[0]).toMatchObject({ raised: 6, scope: 'everything' });
    expect((await call('GET', `/api/upkeep/runs/${items[0]?.id}`)).body).toEqual(items[0]);
    expect((await call('PUT', '/api/upkeep/settings', { exception: 'open order', level: 'stops' })).status).toBe(403);
  });
});
