// Account managers are told before an agreement renews by itself: once for each notice date, until they put it away.
import type { Notices } from '#api/agreements/index.ts';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { asInstant } from '#core/time/index.ts';
import { sweepRenewals } from '../src/agreements/index.ts';
import { agreementInForce, buildWorld, openHouse, type Caller, type TestHouse, type World } from './house.ts';

let house: TestHouse;
let world: World;
let coordinator: Caller;
let manager: Caller;
let managerId: number;
beforeAll(async () => {
  house = await openHouse();
  coordinator = await house.as('coordinator');
  manager = await house.as('manager');
  world = await buildWorld(coordinator);
  const { managers } = (await coordinator<{ managers: { id: number; name: string }[] }>('GET', '/api/reference')).body;
  managerId = managers.find((m) => m.name === 'The manager')?.id as number;
});
afterAll(() => house.close());

const own = async (call: Caller) => (await call<Notices>('GET', '/api/today/notices')).body.own;

it('a notice comes 30 days before the notice date, once, to the account manager, and can be put away', async () => {
  const terms = { renewalMode: 'renews by itself', renewalMonths: 12, managerId, noticeDays: 0 };
  // Its notice date is the last day of its term: 31 December.
  const id = await agreementInForce(coordinator, world, terms);
  const { number } = (await coordinator<{ number: string }>('GET', `/api/agreements/${id}`)).body;
  await agreementInForce(coordinator, world, { ...terms, renewalMode: 'ends' });
  await agreementInForce(coordinator, world, { ...terms, managerId: null });
  expect((await sweepRenewals(house.database, asInstant('2026-11-30T12:00:00Z'))).told).toBe(0);
  expect((await sweepRenewals(house.database, asInstant('2026-12-01T12:00:00Z'))).told).toBe(1);
  const both = await Promise.all([
    sweepRenewals(house.database, asInstant('2026-12-02T12:00:00Z')),
    sweepRenewals(house.database, asInstant('2026-12-02T12:00:00Z')),
  ]);
  expect(both.map((b) => b.told)).toEqual([0, 0]);
  expect(await own(coordinator)).toEqual([]);
  const [notice] = await own(manager);
  expect(notice).toMatchObject({ number, text: expect.stringContaining('Renews by itself for 12 months') as string });
  const { events } = (await coordinator<{ events: { text: string }[] }>('GET', `/api/agreements/${id}`)).body;
  expect(events.map((e) => e.text).filter((t) => t.startsWith('The manager told: '))).toHaveLength(1);
  expect((await coordinator('POST', `/api/notices/${notice?.id}/seen`)).status).toBe(404);
  expect((await manager('POST', `/api/notices/${notice?.id}/seen`)).status).toBe(200);
  expect(await own(manager)).toEqual([]);
});
