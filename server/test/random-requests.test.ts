// Random requests made from the OpenAPI description: whatever is sent by whoever, no answer is a fault and the server stays alive.
import { afterAll, beforeAll, expect, it } from 'vitest';
import { ROLES, type Role } from '#core/people.ts';
import { agreementInForce, buildWorld, openHouse, PASSWORD, type TestHouse } from './house.ts';

const REQUESTS = 5000;
const SEED = 20_261_125;
/** At a time, as browsers and gateways would be. */
const LANES = 6;

type Schema = {
  type?: string | string[];
  enum?: unknown[];
  const?: unknown;
  anyOf?: Schema[];
  oneOf?: Schema[];
  items?: Schema;
  properties?: Record<string, Schema>;
  required?: string[];
  minimum?: number;
  maximum?: number;
};
type Operation = {
  method: string;
  path: string;
  parameters: { name: string; in: string; schema: Schema }[];
  body: Schema | null;
};

/** Mulberry32: the same requests each time. */
function seeded(seed: number): () => number {
  let a = seed;
  return () => {
    a = (a + 0x6d2b79f5) | 0;
    let t = Math.imul(a ^ (a >>> 15), 1 | a);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32;
  };
}
const random = seeded(SEED);
const whole = (most: number): number => Math.floor(random() * most);
const pick = <T>(list: readonly T[]): T => list[whole(list.length)] as T;

const TEXTS = [
  'a',
  '',
  'Norvela',
  '2026-11-24',
  '2026-02-30',
  '2026-11-24T09:00:00Z',
  '9999-12-31',
  '0000-00-00',
  'FREQ=MONTHLY;BYDAY=1TU',
  'FREQ=DAILY',
  '%',
  "'; DROP TABLE asset; --",
  '=1+1',
  '\u0000',
  '\ud800',
  '🧊'.repeat(60),
  'x'.repeat(5000),
  '999999999999999999999',
  '-1',
  'Europe/Lisbon',
  'EUR',
  'null',
  '../..',
  '١٢٣',
] as const;
const NUMBERS = [0, 1, 2, 3, -1, 0.5, 1e9, 2_147_483_648, 4_294_967_296, 1e21, 9_007_199_254_740_993] as const;

function valueOf(schema: Schema, depth = 0): unknown {
  // Now and then something that does not belong there at all.
  if (random() < 0.06) return pick([null, [], {}, 'x', 7, true, { a: 1 }, [[]], '\udfff']);
  if (schema.const !== undefined) return schema.const;
  if (schema.enum) return random() < 0.95 ? pick(schema.enum) : 'another';
  const variants = schema.anyOf ?? schema.oneOf;
  if (variants) return valueOf(pick(variants), depth + 1);
  const type = Array.isArray(schema.type) ? pick(schema.type) : schema.type;
  switch (type) {
    case 'integer':
    case 'number':
      return random() < 0.6 ? 1 + whole(6) : pick(NUMBERS);
    case 'boolean':
      return random() < 0.5;
    case 'null':
      return null;
    case 'array':
      return depth > 5 ? [] : Array.from({ length: whole(4) }, () => valueOf(schema.items ?? {}, depth + 1));
    case 'object': {
      const keys = Object.entries(schema.properties ?? {});
      return Object.fromEntries(
        keys.flatMap(([key, of]) =>
          schema.required?.includes(key) || random() < 0.5 ? [[key, valueOf(of, depth + 1)]] : [],
        ),
      );
    }
    case 'string':
    case undefined:
    default:
      return pick(TEXTS);
  }
}

let house: TestHouse;
let operations: Operation[];
beforeAll(async () => {
  house = await openHouse();
  const call = await house.as('coordinator');
  const world = await buildWorld(call);
  await agreementInForce(call, world, { priceMinor: 100_00 });
  await call('POST', '/api/upkeep/commit', { to: '2026-12-20', only: null });
  const asked = await (
    await house.as('administrator')
  )<{
    paths: Record<
      string,
      Record<
        string,
        { parameters?: Operation['parameters']; requestBody?: { content: Record<string, { schema: Schema }> } }
      >
    >;
  }>('GET', '/api/docs/json');
  operations = Object.entries(asked.body.paths).flatMap(([path, methods]) =>
    Object.entries(methods).map(([method, of]) => ({
      method: method.toUpperCase(),
      path,
      parameters: of.parameters ?? [],
      body: Object.values(of.requestBody?.content ?? {})[0]?.schema ?? null,
    })),
  );
  expect(operations.length).toBeGreaterThan(100);
});
afterAll(() => house.close());

/** Ends sessions or shuts people out, which would leave the rest of the requests to nobody. */
const spared = ({ method, path }: Operation): boolean =>
  path.startsWith('/api/session') || (method === 'PUT' && path.startsWith('/api/people'));

function urlOf({ path, parameters }: Operation): string {
  const filled = path.replace(/\{(\w+)\}/g, () =>
    encodeURIComponent(random() < 0.75 ? String(1 + whole(6)) : pick(['999999', '4294967296', 'a', '0', '-1', '1e3'])),
  );
  const query = parameters
    .filter((p) => p.in === 'query' && random() < 0.6)
    .map((p) => {
      const value = valueOf(p.schema);
      const text = typeof value === 'string' ? value : JSON.stringify(value);
      return `${p.name}=${/\p{Surrogate}/u.test(text) ? '%ED%A0%80' : encodeURIComponent(text)}`;
    });
  return query.length > 0 ? `${filled}?${query.join('&')}` : filled;
}

it(`${REQUESTS} of them answer without a fault, by every role and by nobody`, { timeout: 240_000 }, async () => {
  const people = new Map<Role | null, { cookie: string; csrf: string }>([[null, { cookie: '', csrf: '' }]]);
  for (const role of ROLES) {
    const signed = await house.app.inject({
      method: 'POST',
      url: '/api/session',
      payload: { email: `${role}@example.org`, password: PASSWORD },
    });
    const cookie = String(signed.headers['set-cookie']).split(';')[0] as string;
    people.set(role, { cookie, csrf: signed.json<{ csrf: string }>().csrf });
  }
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
      const who = people.get(role) as { cookie: string; csrf: string };
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
