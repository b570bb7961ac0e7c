// Every route: who may call it and who may not; and whatever a write refuses, no row of any table is other than before.
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { AnyContract } from '#api/contract.ts';
import { mayCall, ROLES, type Role } from '#core/people.ts';
import { everyContract } from './every-contract.ts';
import { changed, kept } from './every-row.ts';
import { agreementInForce, buildWorld, openHouse, type TestHouse } from './house.ts';
import { everybody, operationsOf, randomRequests, spared, type Entered } from './random-request.ts';

let house: TestHouse;
let people: Map<Role | null, Entered>;
let contracts: readonly AnyContract[];
beforeAll(async () => {
  house = await openHouse();
  const call = await house.as('coordinator');
  const world = await buildWorld(call);
  await agreementInForce(call, world, { priceMinor: 100_00 });
  await call('POST', '/api/upkeep/commit', { to: '2026-12-20', only: null });
  people = await everybody(house);
  contracts = await everyContract();
});
afterAll(() => house.close());

async function send(who: Entered, method: string, url: string, payload?: string) {
  return house.app.inject({
    method: method as 'GET',
    url,
    headers: {
      cookie: who.cookie,
      'x-csrf-token': who.csrf,
      ...(payload !== undefined && { 'content-type': 'application/json' }),
    },
    ...(payload !== undefined && { payload }),
  });
}

describe('every route of every contract', () => {
  it(
    'answers 401 to nobody, 403 to whom it is not for, and lets the others in; none of it changes a row',
    { timeout: 120_000 },
    async () => {
      expect(contracts.length).toBeGreaterThan(140);
      const before = await kept(house);
      const wrong: string[] = [];
      for (const { method, path, may } of contracts) {
        if (path.startsWith('/api/session')) continue;
        const url = path.replace(/:\w+/g, '999999');
        for (const [role, who] of people) {
          const { statusCode } = await send(who, method, url, method === 'GET' ? undefined : '{}');
          // Nobody's writes fail already for want of the token that signing in gives.
          const out = role === null && method === 'GET' ? 401 : 403;
          const wanted = (role === null ? may === 'anybody' : mayCall(may, role)) ? 'in' : out;
          // Let in means judged by what was asked for, which here is nothing that exists.
          const got = statusCode === 401 || statusCode === 403 ? statusCode : 'in';
          if (got !== wanted || statusCode >= 500)
            wrong.push(`${method} ${path} as ${role ?? 'nobody'}: ${statusCode}, wanted ${wanted}`);
        }
      }
      expect(wrong).toEqual([]);
      expect(changed(before, await kept(house))).toEqual([]);
    },
  );

  it('is served with the room it belongs to, and a write says what it touches', () => {
    const untold = contracts.filter(
      (c) => c.method !== 'GET' && !c.touches && !/preview|propose|session/i.test(c.path + c.summary),
    );
    expect(untold.map((c) => `${c.method} ${c.path}`)).toEqual([]);
  });
});

describe('a write that is refused', () => {
  const WRITES = 900;
  /** What goes on by itself afterwards would change rows under the comparison. */
  const goesOn = (path: string): boolean => /^\/api\/(imports|jobs|outbox|readings)/.test(path);

  it(`leaves every table as it was, ${WRITES} times over, by every role`, { timeout: 240_000 }, async () => {
    const { random, pick, valueOf, urlOf } = randomRequests(7);
    const writes = (await operationsOf(house)).filter((o) => o.method !== 'GET' && !spared(o) && !goesOn(o.path));
    let before = await kept(house);
    const wrong: string[] = [];
    let [refused, done, noticed] = [0, 0, 0];
    for (let n = 0; n < WRITES; n += 1) {
      const operation = pick(writes);
      const role = random() < 0.7 ? 'administrator' : pick(ROLES);
      const url = urlOf(operation);
      const payload = operation.body === null ? undefined : JSON.stringify(valueOf(operation.body));
      const answer = await send(people.get(role) as Entered, operation.method, url, payload);
      const after = await kept(house);
      const differ = changed(before, after);
      before = after;
      if (answer.statusCode < 400) {
        done += 1;
        if (differ.length > 0) noticed += 1;
      } else {
        refused += 1;
        if (differ.length > 0)
          wrong.push(`${answer.statusCode} ${operation.method} ${url} ${payload ?? ''} changed ${differ.join(', ')}`);
      }
    }
    expect(wrong).toEqual([]);
    // Both were tried: refusals in number, and enough that went through for the comparison to mean something.
    expect(refused).toBeGreaterThan(WRITES / 3);
    expect(done).toBeGreaterThan(WRITES / 50);
    expect(noticed).toBeGreaterThan(WRITES / 100);
  });
});
