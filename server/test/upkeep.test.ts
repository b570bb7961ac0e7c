// The upkeep run over the routes: holding, letting go on, ticked visits only, dates, roles, and what standing makes of it.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { clock, orderEvent, orderLine, orderTask, visit, workOrder } from '../src/tables.ts';
import { buildWorld, openHouse, type Caller, type TestHouse, type World } from './house.ts';

type Run = {
  today: string;
  proposals: {
    scheduleId: number;
    nominal: string;
    due: string;
    windowTo: string;
    state: string;
    holdReason: string | null;
    remark: string | null;
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
});
afterAll(() => house.close());

const run = async (to = '2026-12-10'): Promise<Run> => (await call<Run>('GET', `/api/upkeep?to=${to}`)).body;
const keys = (r: Run, n: number) => r.proposals.slice(0, n).map(({ scheduleId, nominal }) => ({ scheduleId, nominal }));
const commit = async (only: unknown = null, to = '2026-12-10') =>
  (
    await call<{ raised: number; alreadyRaised: number; held: number; firstOrderId: number | null }>(
      'POST',
      '/api/upkeep/commit',
      { to, only },
    )
  ).body;
const hold = (visits: unknown, reason = 'site closed', to = '2026-12-10') =>
  call<{ held: number }>('POST', '/api/upkeep/hold', { visits, to, reason });

describe('looking through', () => {
  it('a visit on the 25th moves to the next working day when that is a holiday, its window with it', async () => {
    const november = (await run('2026-11-24')).proposals[0];
    expect(november).toMatchObject({
      nominal: '2026-11-25',
      due: '2026-11-25',
      rule: 'Every month on day 25',
      minutes: 90,
      remark: null,
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
    expect(new Set(proposals.map((p) => `${p.nominal} ${p.remark}`))).toEqual(
      new Set(['2026-11-25 its window is over already', '2026-12-25 null']),
    );
    await late.close();
  });

  it('is open to the dispatcher, who may not decide; technicians stay out', async () => {
    const dispatcher = await house.as('dispatcher');
    expect((await dispatcher('GET', '/api/upkeep?to=2026-12-10')).status).toBe(200);
    expect(
      (await dispatcher('POST', '/api/upkeep/hold', { visits: keys(await run(), 1), to: '2026-12-10', reason: 'x' }))
        .status,
    ).toBe(403);
    expect((await (await house.as('technician'))('GET', '/api/upkeep?to=2026-12-10')).status).toBe(403);
  });
});

describe('holding back', () => {
  it('keeps a visit in the list with its reason, out of the run, until it is let go on', async () => {
    const before = await run();
    expect((await hold(keys(before, 2))).body).toEqual({ held: 2 });
    const held = await run();
    expect(held.counts).toMatchObject({ proposed: before.counts.proposed - 2, held: 2 });
    expect(held.proposals.filter((p) => p.state === 'held').map((p) => p.holdReason)).toEqual([
      'site closed',
      'site closed',
    ]);
    expect(await commit()).toMatchObject({ raised: before.counts.proposed - 2, held: 2 });
    await call('POST', '/api/upkeep/release', { visits: keys(before, 2) });
    expect(await commit()).toMatchObject({ raised: 2, held: 0 });
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
    ['no reason', { reason: ' ' }, 'reason'],
    ['no visit', { visits: [] }, 'visits'],
    ['an impossible date', { to: '2026-02-30' }, 'to'],
  ])('with %s is refused at its field', async (_, over, field) => {
    const answer = await call('POST', '/api/upkeep/hold', {
      visits: keys(await run(), 1),
      to: '2026-12-10',
      reason: 'x',
      ...over,
    });
    expect(answer.body.errors[0]?.field).toBe(field);
  });
});

describe('raising', () => {
  it('of ticked visits raises those and leaves the others proposed', async () => {
    const before = await run();
    expect(await commit(keys(before, 2))).toMatchObject({ raised: 2, alreadyRaised: 0 });
    expect((await run()).counts.proposed).toBe(before.counts.proposed - 2);
    expect(await commit(keys(before, 3))).toMatchObject({ raised: 1, alreadyRaised: 2 });
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
        visit: { due: string; agreementId: number };
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
      visit: { agreementId: world.agreementId },
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

describe('standing of upkeep', () => {
  it('counts windows that have ended, by agreement and by asset, page by page', async () => {
    const late = await openHouse('2027-01-20T10:00:00Z');
    const coordinator = await late.as('coordinator');
    const other = await buildWorld(coordinator, { rule: 'FREQ=MONTHLY;BYMONTHDAY=25', anchor: '2026-11-01' });
    const { firstOrderId } = (
      await coordinator<{ firstOrderId: number }>('POST', '/api/upkeep/commit', { to: '2027-01-20', only: null })
    ).body;
    const { tasks } = (await coordinator<{ tasks: { id: number }[] }>('GET', `/api/orders/${firstOrderId}`)).body;
    for (const act of [
      { kind: 'arrived' },
      { kind: 'task', taskId: tasks[0]?.id, outcome: 'left', text: 'filter sealed' },
      { kind: 'done', text: '' },
    ])
      await coordinator('POST', `/api/orders/${firstOrderId}/events`, {
        requestKey: randomUUID(),
        at: '2027-01-20T10:00:00Z',
        act,
      });
    type Rows = {
      items: { id: number; owed: number; inWindow: number; compliance: number | null; attainment: number | null }[];
      next: string | null;
      total: { owed: number; inWindow: number };
    };
    const period = 'from=2026-11-01&to=2027-01-31';
    const byAgreement = (await coordinator<Rows>('GET', `/api/standing?${period}&by=agreement`)).body;
    expect(byAgreement.items).toEqual([
      expect.objectContaining({ id: other.agreementId, owed: 6, inWindow: 0, compliance: 0, attainment: null }),
    ]);
    const first = (await coordinator<Rows>('GET', `/api/standing?${period}&by=asset&limit=2`)).body;
    const second = (await coordinator<Rows>('GET', `/api/standing?${period}&by=asset&limit=2&after=${first.next}`))
      .body;
    expect([...first.items, ...second.items].map((r) => [r.id, r.owed])).toEqual(other.assetIds.map((id) => [id, 2]));
    expect(second.next).toBeNull();
    const detail = (
      await coordinator<{ visits: { state: string }[] }>(
        'GET',
        `/api/standing/detail?${period}&agreement=${other.agreementId}`,
      )
    ).body;
    expect(detail.visits.map((v) => v.state).sort()).toEqual([
      'not done',
      'not done',
      'not done',
      'not done',
      'not done',
      'outside window',
    ]);
    expect((await coordinator('GET', `/api/standing/detail?${period}`)).status).toBe(422);
    await late.close();
  });
});
