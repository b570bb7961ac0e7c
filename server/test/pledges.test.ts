// What a service level pledges beside its targets: when clocks run short, what is credited, and availability.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { PledgeOut } from '#api/standing.ts';
import { addLine, buildWorld, openHouse, type Caller, type TestHouse, type World } from './house.ts';

let house: TestHouse;
let world: World;
let call: Caller;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call);
});
afterAll(() => house.close());

type Refused = { errors: { field: string; message: string }[] };
const PLEDGE = {
  warnPercent: 60,
  availability: { target: 9990, calendarId: null as number | null },
  tiers: [
    { below: 9500, credit: 500 },
    { below: 6000, credit: 1000 },
  ],
  cap: 800 as number | null,
};
const level = (over: object = {}, name = randomUUID().slice(0, 8)) => ({
  name,
  pauses: [],
  targets: { 1: { response: { measure: 'elapsed', minutes: 60 }, restoration: { measure: 'elapsed', minutes: 240 } } },
  pledge: { ...PLEDGE, ...over },
});
const raise = async (assetId: number | undefined, receivedAt: string): Promise<number> =>
  (
    await call<{ id: number }>('POST', '/api/orders', {
      assetIds: [assetId],
      priority: 1,
      cause: 'wear',
      receivedAt,
      title: 'Too warm',
      requestKey: randomUUID(),
    })
  ).body.id;
const record = (id: number, act: unknown, at: string) =>
  call('POST', `/api/orders/${id}/events`, { requestKey: randomUUID(), at, act });

describe('a pledge', () => {
  it.each<[string, object, string]>([
    ['a calendar that is not there', { availability: { target: 9990, calendarId: 999 } }, 'pledge.availability'],
    ['tiers that give less for worse', { tiers: [...PLEDGE.tiers, { below: 5000, credit: 1 }] }, 'pledge.tiers'],
    ['a warning that is no number', { warnPercent: null }, 'pledge.warnPercent'],
    ['a cap over the fee', { cap: 10_001 }, 'pledge.cap'],
    [
      'a warning to somebody who is not there',
      { warnings: [{ percent: 25, inCharge: false, technician: false, people: [99_999] }] },
      'pledge.warnings',
    ],
    [
      'a warning to nobody',
      { warnings: [{ percent: 25, inCharge: false, technician: false, people: [] }] },
      'pledge.warnings',
    ],
  ])('with %s is refused at its field', async (_, over, field) => {
    const refused = await call<Refused>('POST', '/api/service-levels', level(over));
    expect(refused.body.errors.map((e) => e.field)).toEqual([field]);
  });
});

describe('an agreement with a pledge', () => {
  let agreementId: number;
  const own = () => world.assetIds[0];
  beforeAll(async () => {
    const { id } = (await call<{ id: number }>('POST', '/api/service-levels', level({}, 'Pledged'))).body;
    // Beside the world's own agreement: the closer targets of this one are the strictest.
    await call('POST', `/api/agreements/${world.agreementId}/stage`, { version: 2, to: 'ended', reason: 'test' });
    agreementId = (
      await call<{ id: number }>('POST', '/api/agreements', {
        requestKey: randomUUID(),
        customerId: world.customerId,
        name: 'Uptime promise',
        from: '2026-01-01',
        to: '2026-12-31',
        noticeDays: 0,
        reminder: '',
        priceMinor: 310_000,
        billingPer: 'month',
      })
    ).body.id;
    await call(
      'PUT',
      `/api/agreements/${agreementId}/coverage`,
      addLine({
        reach: { kind: 'assets', assetIds: world.assetIds.slice(0, 2) },
        shares: { labour: 100, parts: 100, travel: 100 },
        serviceLevelId: id,
      }),
    );
    const { version } = (await call<{ version: number }>('GET', `/api/agreements/${agreementId}`)).body;
    expect((await call('POST', `/api/agreements/${agreementId}/in-force`, { version })).status).toBe(200);
  });

  it('warns at the share its service level says', async () => {
    const id = await raise(own(), '2026-11-24T09:00:00Z');
    const { clocks } = (await call<{ clocks: { target: string; warnPercent: number }[] }>('GET', `/api/orders/${id}`))
      .body;
    expect(clocks.map((c) => c.warnPercent)).toEqual([60, 60]);
    await call('POST', `/api/orders/${id}/events`, {
      requestKey: randomUUID(),
      at: '2026-11-24T09:10:00Z',
      act: { kind: 'called off', text: 'a test' },
    });
  });

  it('credits a share of the period’s fee by the tier that was missed, not above the cap, and says how available machines were', async () => {
    // One of two promises kept: told in time, restored six hours after the call instead of four.
    const id = await raise(own(), '2026-11-10T08:00:00Z');
    await record(id, { kind: 'told', technician: 'A. Brandel' }, '2026-11-10T08:30:00Z');
    await record(id, { kind: 'arrived' }, '2026-11-10T10:00:00Z');
    await record(id, { kind: 'restored' }, '2026-11-10T14:00:00Z');
    const read = async (from: string, to: string): Promise<PledgeOut> =>
      (
        await (
          await house.as('manager')
        )<{ pledges: PledgeOut[] }>('GET', `/api/standing/detail?by=agreement&id=${agreementId}&from=${from}&to=${to}`)
      ).body.pledges[0] as PledgeOut;
    const pledged = await read('2026-11-01', '2026-11-15');
    // Half of November's 3,100.00; 50 % kept is below 60 %: 10 %, capped at 8 %.
    expect(pledged).toMatchObject({ attainment: 0.5, credit: 800, fee: 155_000, amount: 12_400, currency: 'EUR' });
    const days = 15 * 24;
    expect(pledged.availability).toMatchObject({ target: 9990, downMinutes: 360, machines: 2 });
    expect(pledged.availability?.share).toBeCloseTo((2 * days - 6) / (2 * days), 10);
    expect(await read('2026-10-01', '2026-10-31')).toMatchObject({ attainment: null, credit: 0, amount: 0 });
    // Of November 78 % are over: half a promise more is to come by the pace of two so far.
    expect(pledged.forecast).toBeNull();
    expect((await read('2026-11-01', '2026-11-30')).forecast).toMatchObject({ toCome: 1 });
  });
});
