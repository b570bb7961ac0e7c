// Agreements: drafts, stages, stale edits, and what stages do to cover and upkeep.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { addLine, buildWorld, openHouse, type Caller, type TestHouse, type World } from './house.ts';

type Page = {
  version: number;
  stage: string;
  name: string;
  noticeBy: string | null;
  lines: { id: number }[];
  schedules: { id: number; sentence: string; next: string | null; window: string; lead: string }[];
  checklist: { satisfied: boolean; text: string }[];
  events: { text: string; who: string }[];
};
let house: TestHouse;
let call: Caller;
let world: World;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call);
});
afterAll(() => house.close());

const page = async (id: number): Promise<Page> => (await call<Page>('GET', `/api/agreements/${id}`)).body;
const write = async (over: Record<string, unknown> = {}): Promise<number> =>
  (
    await call<{ id: number }>('POST', '/api/agreements', {
      requestKey: randomUUID(),
      customerId: world.customerId,
      name: 'Draft',
      from: '2026-06-01',
      to: '2027-05-31',
      noticeDays: 60,
      reminder: '',
      ...over,
    })
  ).body.id;
const cover = (id: number, over: Record<string, unknown> = {}) =>
  call(
    'PUT',
    `/api/agreements/${id}/coverage`,
    addLine({
      reach: { kind: 'assets', assetIds: world.assetIds },
      shares: { labour: 100, parts: 100, travel: 100 },
      serviceLevelId: world.serviceLevelId,
      kinds: ['repair', 'preventive'],
      excludedCauses: [],
      ...over,
    }),
  );
const plan = (id: number, over: Record<string, unknown> = {}) =>
  call<{ added: number }>('POST', `/api/agreements/${id}/schedules`, {
    assetIds: 'all covered',
    jobPlanId: world.jobPlanId,
    cadence: { kind: 'rule', rule: 'FREQ=MONTHLY;BYMONTHDAY=25' },
    anchor: '2026-06-01',
    convention: 'following',
    calendarId: world.calendarId,
    earlyDays: 3,
    lateDays: 4,
    lead: 5,
    leadUnit: 'working days',
    ...over,
  });
const move = async (id: number, to: string, reason = 'because') =>
  call('POST', `/api/agreements/${id}/stage`, { version: (await page(id)).version, to, reason });

describe('a draft', () => {
  it('is written once for one request key', async () => {
    const requestKey = randomUUID();
    expect(await write({ requestKey })).toBe(await write({ requestKey }));
  });

  it('knows its notice date, and moves it with its header', async () => {
    const id = await write();
    expect((await page(id)).noticeBy).toBe('2027-04-01');
    const changed = await call('PUT', `/api/agreements/${id}`, {
      version: 1,
      name: 'Renamed',
      from: '2026-06-01',
      to: '2027-12-31',
      noticeDays: 30,
      reminder: 'Ring first',
    });
    expect(changed.body).toEqual({ version: 2 });
    expect(await page(id)).toMatchObject({ name: 'Renamed', noticeBy: '2027-12-01', version: 2 });
    expect(
      (
        await call('PUT', `/api/agreements/${id}`, {
          version: 1,
          name: 'Late',
          from: '2026-06-01',
          to: null,
          noticeDays: 0,
          reminder: '',
        })
      ).body.code,
    ).toBe('stale');
    expect((await page(id)).events.map((e) => [e.text.split(':')[0], e.who])).toEqual([
      ['header changed', 'The coordinator'],
      ['draft written', 'The coordinator'],
    ]);
  });

  it('takes and gives back coverage lines and schedules; a picked set becomes a line for each asset', async () => {
    const id = await write();
    expect((await cover(id)).status).toBe(200);
    expect((await plan(id)).body.added).toBe(3);
    const before = await page(id);
    expect(before.schedules[0]).toMatchObject({
      sentence: 'Every month on day 25',
      window: '3 days early to 4 late',
      lead: '5 working days',
      next: '2026-11-25',
    });
    const remove = { changes: [{ act: 'remove', lineIds: [before.lines[0]?.id] }] };
    expect((await call('PUT', `/api/agreements/${id}/coverage`, remove)).status).toBe(200);
    expect((await call('PUT', `/api/agreements/${id}/coverage`, remove)).status).toBe(404);
    expect((await call('DELETE', `/api/agreements/${id}/schedules/${before.schedules[0]?.id}`)).status).toBe(200);
    const after = await page(id);
    expect([after.lines.length, after.schedules.length]).toEqual([2, 2]);
  });

  it.each<[string, Record<string, unknown>, string]>([
    ['no assets', { reach: { kind: 'assets', assetIds: [] } }, 'changes.0.reach.assetIds'],
    ['an unknown place', { reach: { kind: 'location', locationId: 9999 } }, 'changes.0.reach.locationId'],
    ['an unknown class', { reach: { kind: 'class', assetClassId: 9999 } }, 'changes.0.reach.assetClassId'],
    ['a share over 100 %', { shares: { labour: 101, parts: 0, travel: 0 } }, 'changes.0.terms.shares.labour'],
    ['no kind of work', { kinds: [] }, 'changes.0.terms.kinds'],
    ['an unknown service level', { serviceLevelId: 9999 }, 'changes.0.terms.serviceLevelId'],
  ])('refuses coverage with %s at its field', async (_, over, field) => {
    const id = await write();
    const answer = await cover(id, over);
    expect(answer.body.errors.map((e) => e.field)).toEqual([field]);
    expect((await page(id)).lines).toEqual([]);
  });

  it.each<[string, Record<string, unknown>, string]>([
    ['an unknown job plan', { jobPlanId: 9999 }, 'jobPlanId'],
    ['an unknown calendar', { calendarId: 9999 }, 'calendarId'],
    ['a negative window', { earlyDays: -1 }, 'earlyDays'],
    ['an overlong lead', { lead: 181 }, 'lead'],
    ['an impossible start', { anchor: '2026-02-30' }, 'anchor'],
    ['times of day', { cadence: { kind: 'rule', rule: 'FREQ=DAILY;BYHOUR=9' } }, 'cadence.rule'],
    ['assets it does not cover', { assetIds: [9999] }, 'assetIds'],
  ])('refuses a schedule with %s at its field', async (_, over, field) => {
    const id = await write();
    await cover(id);
    const answer = await plan(id, over);
    expect(answer.body.errors[0]?.field).toBe(field);
    expect((await page(id)).schedules).toEqual([]);
  });

  it('refuses a schedule before anything is covered', async () => {
    expect((await plan(await write())).body.detail).toContain('add coverage first');
  });

  it('says every point that keeps it from being in force, and stays a draft', async () => {
    const empty = (
      await call<{ id: number }>('POST', '/api/job-plans', { name: 'Nothing to do', minutes: 0, tasks: [] })
    ).body.id;
    const id = await write();
    await cover(id, { serviceLevelId: null });
    await plan(id, { jobPlanId: empty });
    const answer = await call('POST', `/api/agreements/${id}/in-force`, { version: 1 });
    expect(answer.status).toBe(409);
    expect(answer.body.errors.map((e) => e.message).join(' ')).toMatch(/names no service level.*duration of zero/);
    expect((await page(id)).stage).toBe('draft');
  });
});

describe('stages', () => {
  it('a suspended agreement covers nothing and raises nothing until it is lifted; an ended one never again', async () => {
    const verdict = async () =>
      (await call<{ verdict: { sentence: string } }>('GET', `/api/assets/${world.assetIds[0]}`)).body.verdict.sentence;
    const codes = async () =>
      (
        await call<{ nothing: { code: string; kind: string; agreementId: number }[] }>(
          'GET',
          '/api/upkeep?to=2026-12-20',
        )
      ).body.nothing
        .filter((n) => n.agreementId === world.agreementId)
        .map((n) => `${n.kind}: ${n.code}`);
    expect(await verdict()).toContain('Covered by AG-2001');
    expect((await move(world.agreementId, 'suspended', 'unpaid')).status).toBe(200);
    expect(await verdict()).toBe('Not covered: chargeable at list rates, no promise.');
    expect(new Set(await codes())).toEqual(new Set(['needs action: suspended']));
    expect((await move(world.agreementId, 'suspended')).body.code).toBe('wrong-stage');
    expect((await move(world.agreementId, 'in force', 'paid')).status).toBe(200);
    expect(await verdict()).toContain('Covered by AG-2001');
    expect(await codes()).toEqual([]);
    expect((await move(world.agreementId, 'ended', 'customer left')).status).toBe(200);
    expect(new Set(await codes())).toEqual(new Set(['waits: ended']));
    expect((await move(world.agreementId, 'in force')).body.code).toBe('wrong-stage');
    expect((await page(world.agreementId)).events[0]?.text).toBe('in force → ended: customer left');
  });

  it('nothing but a draft is changed, and a reason is asked for', async () => {
    expect((await cover(world.agreementId)).body.code).toBe('wrong-stage');
    expect((await plan(world.agreementId)).body.code).toBe('wrong-stage');
    expect((await move(world.agreementId, 'ended', ' ')).body.errors[0]?.field).toBe('reason');
    expect((await move(await write(), 'suspended')).body.detail).toContain('checklist');
  });

  it('lists by stage, newest term first, page by page', async () => {
    const first = await call<{ items: { id: number; from: string }[]; next: string; total: number }>(
      'GET',
      '/api/agreements?stage=draft&limit=3',
    );
    const second = await call<{ items: { id: number; from: string }[] }>(
      'GET',
      `/api/agreements?stage=draft&limit=100&after=${encodeURIComponent(first.body.next)}`,
    );
    const ids = [...first.body.items, ...second.body.items].map((a) => a.id);
    expect(new Set(ids).size).toBe(first.body.total);
    expect(ids).toHaveLength(first.body.total);
  });
});
