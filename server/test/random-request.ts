// Requests made at random from the OpenAPI description, the same ones for the same seed.
import { ROLES, type Role } from '#core/people.ts';
import { PASSWORD, type TestHouse } from './house.ts';

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
export type Operation = {
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

/** A source of random requests. */
export function randomRequests(seed: number) {
  const random = seeded(seed);
  const whole = (most: number): number => Math.floor(random() * most);
  const pick = <T>(list: readonly T[]): T => list[whole(list.length)] as T;

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

  function urlOf({ path, parameters }: Operation): string {
    const filled = path.replace(/\{(\w+)\}/g, () =>
      encodeURIComponent(
        random() < 0.75 ? String(1 + whole(6)) : pick(['999999', '4294967296', 'a', '0', '-1', '1e3']),
      ),
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

  return { random, pick, valueOf, urlOf };
}

/** Every operation of the description. */
export async function operationsOf(house: TestHouse): Promise<Operation[]> {
  type Described = {
    parameters?: Operation['parameters'];
    requestBody?: { content: Record<string, { schema: Schema }> };
  };
  const call = await house.as('administrator');
  const { body } = await call<{ paths: Record<string, Record<string, Described>> }>('GET', '/api/docs/json');
  return Object.entries(body.paths).flatMap(([path, methods]) =>
    Object.entries(methods).map(([method, of]) => ({
      method: method.toUpperCase(),
      path,
      parameters: of.parameters ?? [],
      body: Object.values(of.requestBody?.content ?? {})[0]?.schema ?? null,
    })),
  );
}

export type Entered = { readonly cookie: string; readonly csrf: string };

/** Everybody signed in, and nobody. */
export async function everybody({ app }: TestHouse): Promise<Map<Role | null, Entered>> {
  const people = new Map<Role | null, Entered>([[null, { cookie: '', csrf: '' }]]);
  for (const role of ROLES) {
    const signed = await app.inject({
      method: 'POST',
      url: '/api/session',
      payload: { email: `${role}@example.org`, password: PASSWORD },
    });
    const cookie = String(signed.headers['set-cookie']).split(';')[0] as string;
    people.set(role, { cookie, csrf: signed.json<{ csrf: string }>().csrf });
  }
  return people;
}

/** Ends sessions or shuts people out, which would leave the rest of the requests to nobody. */
export const spared = ({ method, path }: Operation): boolean =>
  path.startsWith('/api/session') || (method === 'PUT' && path.startsWith('/api/people'));
