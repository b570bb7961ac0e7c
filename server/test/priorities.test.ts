// Priorities that the provider names: what has no name is refused, what is in use stays, also where both happen at once.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { mustBeNamed } from '../src/orders/settings.ts';
import { workOrder } from '../src/tables.ts';
import { buildWorld, must, NOW, openHouse, type Caller, type TestHouse, type World } from './house.ts';

type Settings = { overTerms: string; priorities: string[]; version: number };
type Refused = { errors: { field: string; message: string }[] };

let house: TestHouse;
let world: World;
let [desk, boss]: Caller[] = [];
let usual: string[];
beforeAll(async () => {
  house = await openHouse();
  desk = await house.as('coordinator');
  boss = await house.as('manager');
  world = await buildWorld(desk, { assets: 1 });
  usual = (await settings()).priorities;
});
afterAll(() => house.close());

const settings = async (): Promise<Settings> => must(await (desk as Caller)<Settings>('GET', '/api/order-settings'));
const name = async (priorities: readonly string[]) => {
  const { overTerms, version } = await settings();
  return (boss as Caller)<Refused>('PUT', '/api/order-settings', { overTerms, priorities, version });
};
const raise = (priority: number) =>
  (desk as Caller)<{ id: number } & Refused>('POST', '/api/orders', {
    ...{ assetIds: [world.assetIds[0]], priority, cause: 'wear', title: 'Fifth', requestKey: randomUUID() },
    receivedAt: NOW,
  });
const callOff = async (id: number) =>
  must(
    await (desk as Caller)('POST', `/api/orders/${id}/events`, {
      ...{ requestKey: randomUUID(), at: NOW, act: { kind: 'called off', text: 'a test' } },
    }),
  );

it('without a name is refused and raises nothing; there are four at least', async () => {
  const { status, body } = await raise(5);
  expect([status, body.errors[0]?.field]).toEqual([404, 'priority']);
  expect(await house.database.db.$count(workOrder)).toBe(0);
  expect((await name(usual.slice(0, 3))).status).toBe(422);
  expect((await settings()).priorities).toEqual(usual);
});

it('once named is taken, and stays while it is in use', async () => {
  must(await name([...usual, 'never mind']));
  const { id } = must(await raise(5));
  const kept = await name(usual);
  expect([kept.status, kept.body.errors[0]?.message]).toEqual([
    409,
    'Priority 5 is in use by open orders; keep it, or change that first.',
  ]);
  await callOff(id);
  must(await name(usual));
  expect((await settings()).priorities).toEqual(usual);
});

it('that is being taken waits for who would take it away; taken away first, it is refused', async () => {
  must(await name([...usual, 'never mind']));
  const told: string[] = [];
  let taking: Promise<unknown> = Promise.resolve();
  await house.database.transact(async (tx) => {
    await mustBeNamed(tx.db, 5, 'priority');
    taking = name(usual).then(({ status }) => told.push(`taken away: ${status}`));
    await new Promise((over) => setTimeout(over, 300));
    told.push('written');
  });
  await taking;
  expect(told).toEqual(['written', 'taken away: 200']);
  expect((await raise(5)).status).toBe(404);
});

it('of many at once: never is an order left with a priority that has no name', async () => {
  for (let i = 0; i < 8; i += 1) {
    must(await name([...usual, 'never mind']));
    const [raised, taken] = await Promise.all([raise(5), name(usual)]);
    // One of the two comes first, and the other hears of it.
    expect([
      [200, 409],
      [404, 200],
    ]).toContainEqual([raised.status, taken.status]);
    if (raised.status === 200) {
      await callOff(raised.body.id);
      must(await name(usual));
    }
  }
});
