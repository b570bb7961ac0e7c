// Random requests made from the OpenAPI description: whatever is sent by whoever, no answer is a fault and the server stays alive.
import { afterAll, beforeAll, expect, it } from 'vitest';
import { ROLES } from '#core/people.ts';
import { agreementInForce, buildWorld, openHouse, type TestHouse } from './house.ts';
import { everybody, operationsOf, randomRequests, spared, type Entered, type Operation } from './random-request.ts';

const REQUESTS = 5000;
const SEED = 20_261_125;
/** At a time, as browsers and gateways would be. */
const LANES = 6;
const { random, pick, valueOf, urlOf } = randomRequests(SEED);

let house: TestHouse;
let operations: Operation[];
beforeAll(async () => {
  house = await openHouse();
  const call = await house.as('coordinator');
  const world = await buildWorld(call);
  await agreementInForce(call, world, { priceMinor: 100_00 });
  await call('POST', '/api/upkeep/commit', { to: '2026-12-20', only: null });
  operations = await operationsOf(house);
  expect(operations.length).toBeGreaterThan(100);
});
afterAll(() => house.close());

it(`${REQUESTS} of them answer without a fault, by every role and by nobody`, { timeout: 240_000 }, async () => {
  const people = await everybody(house);
  const targets = operations.filter((o) => !spared(o));
  const faults: string[] = [];
  const answers = new Map<number, number>();
  let sent = 0;
  async function lane(): Promise<void> {
    while (sent < REQUESTS) {
      sent += 1;
      const operation = pick(targets);
      // Mostly by those who may: behind the door is more to break.
      const role = random() < 0.6 ? 'administrator' : random() < 0.3 ? 'coordinator' : pick([...ROLES, null]);
      const who = people.get(role) as Entered;
      const url = urlOf(operation);
      const payload =
        operation.body === null ? undefined : random() < 0.03 ? '{"broken' : JSON.stringify(valueOf(operation.body));
      const answer = await house.app.inject({
        method: operation.method as 'GET',
        url,
        headers: {
          cookie: who.cookie,
          'x-csrf-token': who.csrf,
          ...(payload !== undefined && { 'content-type': random() < 0.98 ? 'application/json' : 'text/plain' }),
        },
        ...(payload !== undefined && { payload }),
      });
      answers.set(answer.statusCode, (answers.get(answer.statusCode) ?? 0) + 1);
      if (answer.statusCode >= 500)
        faults.push(
          `${answer.statusCode} ${operation.method} ${url} ${payload?.slice(0, 600) ?? ''} → ${answer.body.slice(0, 200)}`,
        );
    }
  }
  await Promise.all(Array.from({ length: LANES }, lane));
  expect(faults).toEqual([]);
  // Both sides of the door were tried.
  expect(answers.get(200) ?? 0).toBeGreaterThan(REQUESTS / 20);
  expect([...answers.keys()].some((s) => s === 401) && [...answers.keys()].some((s) => s === 422)).toBe(true);
  expect((await house.app.inject({ method: 'GET', url: '/api/ready' })).statusCode).toBe(200);
});
