// Visit patterns over the routes: kept, applied by agreement type, changed with a choice of who follows, never removed while used.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { eq } from 'drizzle-orm';
import type { Candidate, Follower, PatternOut } from '#api/patterns.ts';
import type { UpkeepRun } from '#api/upkeep.ts';
import { asId } from '#core/ids.ts';
import { asInstant, asLocalDate } from '#core/time/index.ts';
import { agreement, schedule, visit } from '../src/tables.ts';
import { kept } from './every-row.ts';
import {
  addLine,
  agreementPage,
  buildWorld,
  firstClassId,
  openHouse,
  type Caller,
  type TestHouse,
  type World,
} from './house.ts';
import { raiseAll } from './raise-all.ts';

let house: TestHouse;
let call: Caller;
let world: World;
let classId = 0;
let typeId = 0;
let draft = 0;
let patternId = 0;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call, { assets: 3 });
  classId = await firstClassId(call);
  const terms = {
    ...{ months: 12, noticeDays: 60, renewalMode: 'ends', renewalMonths: 12, billingPer: 'quarter' },
    ...{ billingTiming: 'in arrears', reminder: '', shares: { labour: 100, parts: 0, consumables: 0, travel: 0 } },
    ...{ discounts: [], kinds: ['repair'], excludedCauses: [], excludedParts: [], allowances: [] },
  };
  const type = { name: 'Class care', terms };
  const made = await call<{ id: number }>('POST', '/api/agreement-types', type);
  typeId = made.body.id;
  const header = {
    ...{ requestKey: randomUUID(), customerId: world.customerId, name: 'Care', reminder: '', noticeDays: 0 },
    ...{ from: '2026-01-01', to: '2027-12-31' },
  };
  draft = (await call<{ id: number }>('POST', '/api/agreements', header)).body.id;
  const line = {
    ...{ reach: { kind: 'class', assetClassId: classId }, shares: { labour: 100, parts: 100, travel: 100 } },
    ...{ serviceLevelId: world.serviceLevelId, kinds: ['repair', 'preventive'], excludedCauses: [] },
  };
  await call('PUT', `/api/agreements/${draft}/coverage`, addLine(line));
});
afterAll(() => house.close());

const pattern = (over: object = {}) => ({
  ...{
    name: 'Monthly',
    classId,
    jobPlanId: world.jobPlanId,
    cadence: { kind: 'rule', rule: 'FREQ=MONTHLY;BYDAY=1TU' },
  },
  ...{ convention: 'following', calendarId: world.calendarId, earlyDays: 3, lateDays: 4, lead: 10 },
  ...{ leadUnit: 'calendar days', weekday: null, timeOfDay: null, crew: 1, technicianId: null, hours: null },
  ...{ absorbDays: null, needsYes: false, visitPrice: null, reminder: '', ...over },
});
const read = async (): Promise<PatternOut> =>
  (await call<{ items: PatternOut[] }>('GET', '/api/patterns')).body.items.find(
    (p) => p.id === patternId,
  ) as PatternOut;
const candidates = async (query = '') =>
  (await call<{ items: Candidate[] }>('GET', `/api/patterns/${patternId}/candidates${query}`)).body.items;
const apply = (agreementIds: number[]) =>
  call<{ added: number }>('POST', `/api/patterns/${patternId}/apply`, { agreementIds });
const followers = async (from = '2026-12-01') =>
  (await call<{ items: Follower[]; total: number }>('GET', `/api/patterns/${patternId}/followers?from=${from}`)).body;
const follow = (scheduleIds: number[], version: number, from = '2026-12-01') =>
  call<{ followed: number }>('POST', `/api/patterns/${patternId}/follow`, { version, from, scheduleIds });
const madeOf = () =>
  house.database.db
    .select()
    .from(schedule)
    .where(eq(schedule.patternId, asId(patternId)))
    .orderBy(schedule.id);

describe('a pattern', () => {
  it('is kept as it was typed; a taken name, a class or job plan that is not there are refused at their field', async () => {
    const before = await kept(house);
    expect((await call('POST', '/api/patterns', pattern({ classId: 987_654 }))).body).toMatchObject({
      errors: [{ field: 'classId' }],
    });
    expect((await call('POST', '/api/patterns', pattern({ jobPlanId: 987_654 }))).body).toMatchObject({
      errors: [{ field: 'jobPlanId' }],
    });
    expect(await kept(house)).toEqual(before);
    patternId = (await call<{ id: number }>('POST', '/api/patterns', pattern())).body.id;
    expect((await read()).pattern).toEqual(pattern());
    expect(await read()).toMatchObject({ sentence: 'Every month on the first Tuesday', schedules: 0, following: 0 });
    expect((await call('POST', '/api/patterns', pattern())).body).toMatchObject({ errors: [{ field: 'name' }] });
  });

  it('is applied to agreements of a type: to each covered machine that has none of it, once', async () => {
    await house.database.db
      .update(agreement)
      .set({ typeId: asId(typeId) })
      .where(eq(agreement.id, asId(world.agreementId)));
    expect((await candidates(`?type=${typeId}`)).map((c) => [c.agreementId, c.machines])).toEqual([
      [world.agreementId, 3],
    ]);
    expect((await candidates()).map((c) => c.agreementId).sort()).toEqual([world.agreementId, draft].sort());
    expect((await apply([world.agreementId, draft])).body).toEqual({ added: 6 });
    expect((await madeOf()).map((s) => s.holdsFrom)).toEqual([
      ...['2026-11-24', '2026-11-24', '2026-11-24'],
      ...[null, null, null],
    ]);
    expect((await apply([world.agreementId, draft])).body).toEqual({ added: 0 });
    expect(await candidates()).toEqual([]);
    expect((await apply([987_654])).body).toMatchObject({ code: 'not-found' });
    expect(await read()).toMatchObject({ schedules: 6, following: 6 });
  });

  it('is not removed while schedules are made from it', async () => {
    const before = await kept(house);
    const refused = await call<{ detail: string }>('DELETE', `/api/patterns/${patternId}`);
    expect([refused.status, refused.body.detail]).toEqual([409, expect.stringContaining('6 schedules are made from')]);
    expect(await kept(house)).toEqual(before);
    const spare = (await call<{ id: number }>('POST', '/api/patterns', pattern({ name: 'Spare' }))).body.id;
    expect((await call('DELETE', `/api/patterns/${spare}`)).status).toBe(200);
  });
});

describe('a pattern that changes', () => {
  const WEEKLY = { cadence: { kind: 'rule', rule: 'FREQ=WEEKLY;BYDAY=WE' }, lateDays: 2 };

  it('changes no schedule by itself; before anybody follows, the days before and after are seen', async () => {
    await raiseAll(house.database, asLocalDate('2026-11-24'), asInstant('2026-11-24T09:20:00Z'));
    const before = await madeOf();
    const { version } = await read();
    const changed = await call('PUT', `/api/patterns/${patternId}`, { ...pattern(WEEKLY), version });
    expect(changed.body).toEqual({ version: version + 1 });
    expect((await call('PUT', `/api/patterns/${patternId}`, { ...pattern(WEEKLY), version })).body).toMatchObject({
      code: 'stale',
    });
    expect(await madeOf()).toEqual(before);
    expect(await read()).toMatchObject({ schedules: 6, following: 0 });
    const { items, total } = await followers();
    expect(total).toBe(6);
    // The visit of 1 December is raised: another rule holds from behind it.
    const [inForce, inDraft] = [items[0], items[5]];
    expect(inForce).toMatchObject({ from: '2026-12-02' });
    expect(inForce?.before.slice(0, 2)).toEqual(['2027-01-05', '2027-02-02']);
    expect(inForce?.after.slice(0, 2)).toEqual(['2026-12-02', '2026-12-09']);
    expect(inDraft?.from).toBeNull();
  });

  it('is followed by those that are chosen: what was seen is what comes, raised visits stay, none comes twice', async () => {
    const { version } = await read();
    const { items } = await followers();
    const [one, other] = [items[0] as Follower, items[5] as Follower];
    expect((await follow([one.scheduleId, other.scheduleId], version - 1)).body).toMatchObject({ code: 'stale' });
    expect((await follow([one.scheduleId], version, '2026-11-01')).body).toMatchObject({ errors: [{ field: 'from' }] });
    expect((await follow([one.scheduleId, 987_654], version)).body).toMatchObject({ code: 'not-found' });
    expect((await follow([one.scheduleId, other.scheduleId], version)).body).toEqual({ followed: 2 });
    const [old] = (await madeOf()).filter((s) => s.id === one.scheduleId);
    expect(old).toMatchObject({ holdsTo: '2026-12-01' });
    const { proposals, nothing } = (await call<UpkeepRun>('GET', '/api/upkeep?to=2027-01-15')).body;
    const own = proposals.filter((p) => p.scheduleId === old?.replacedById);
    expect(own.map((p) => p.planned)).toEqual(one.after.filter((d) => d <= '2027-01-25'));
    expect(nothing.find((n) => n.scheduleId === old?.id)?.code).toBe('replaced');
    const raised = await house.database.db
      .select()
      .from(visit)
      .where(eq(visit.nominal, asLocalDate('2026-12-01')));
    expect(raised.find((v) => v.assetId === old?.assetId && v.state === 'raised')?.scheduleId).toBe(old?.id);
    expect(await read()).toMatchObject({ schedules: 6, following: 2 });
    expect((await followers()).total).toBe(4);
    // The one in the draft was changed where it stands.
    const page = await agreementPage(call, draft);
    expect(page.schedules.find((s) => s.id === other.scheduleId)?.sentence).toBe('Every week on Wednesday');
  });
});
