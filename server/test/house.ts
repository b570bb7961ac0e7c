// A house for tests: a fresh migrated database, the whole server without a port, people of every role, and small builders.
import { randomUUID } from 'node:crypto';
import { cp, mkdtemp, readFile, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { FastifyInstance, InjectOptions } from 'fastify';
import { inject as provided } from 'vitest';
import type { AgreementPage } from '#api/agreements/index.ts';
import type { AssetPage } from '#api/register.ts';
import { FOUND_KINDS, type Found, type FoundKind, type Hit } from '#api/finder.ts';
import type { Role } from '#core/people.ts';
import { asInstant, type Instant } from '#core/time/index.ts';
import { createConnection } from 'mysql2/promise';
import { sql } from 'drizzle-orm';
import { buildApp } from '../src/app.ts';
import type { Config } from '../src/platform/config.ts';
import { openDatabase, type Database } from '../src/platform/database.ts';
import { NOW, PASSWORD } from './template.ts';
import { ROOMS } from '../src/rooms.ts';
import { planState } from '../src/tables.ts';

export { NOW, PASSWORD };

export type Answer<T = Record<string, unknown>> = {
  readonly status: number;
  readonly body: T & {
    errors: { field: string | null; message: string; code: string }[];
    code: string;
    detail: string;
  };
};
export type Caller = <T = Record<string, unknown>>(
  method: 'GET' | 'POST' | 'PUT' | 'DELETE',
  url: string,
  body?: unknown,
) => Promise<Answer<T>>;
export type TestHouse = {
  readonly app: FastifyInstance;
  readonly database: Database;
  readonly url: string;
  readonly now: Instant;
  as(role: Role): Promise<Caller>;
  nobody(): Promise<Caller>;
  close(): Promise<void>;
};

/** An empty database of its own. Statements between databases run as the application's account, which may make databases named stavok…. */
export async function freshDatabase(): Promise<{ database: Database; url: string }> {
  const base = provided('databaseUrl');
  const name = `stavok_${randomUUID().slice(0, 8)}`;
  const admin = openDatabase(base, 1);
  await admin.pool.query('CREATE DATABASE ??', [name]);
  await admin.close();
  const url = base.replace(/\/stavok$/, `/${name}`);
  return { database: openDatabase(url), url };
}

/** A migrated database with one person of each role, copied from the template. */
export async function peopledDatabase(): Promise<{ database: Database; url: string }> {
  const fresh = await freshDatabase();
  const connection = await createConnection({ uri: fresh.url, multipleStatements: true });
  await connection.query(provided('template'));
  await connection.end();
  return fresh;
}

const MIGRATIONS = fileURLToPath(new URL('../migrations', import.meta.url));

/** A folder with the migrations of an earlier version: those up to and with number `last`. */
export async function migrationsUpTo(last: number): Promise<string> {
  const folder = await mkdtemp(join(tmpdir(), 'stavok-migrations-'));
  await cp(MIGRATIONS, folder, { recursive: true });
  const path = join(folder, 'meta/_journal.json');
  const journal = JSON.parse(await readFile(path, 'utf8')) as { entries: { idx: number }[] };
  await writeFile(path, JSON.stringify({ ...journal, entries: journal.entries.filter((e) => e.idx <= last) }));
  return folder;
}

/** For tests that write schedules or visits by themselves: the plan is worked out anew when it is next asked for. */
export const forgetPlan = ({ db }: Database) =>
  // One that is under way read what was before: it is overtaken, and would otherwise say that all is planned.
  db.update(planState).set({ plannedAt: null, busyUntil: null, fence: sql`${planState.fence} + 1` });

export async function openHouse(now = NOW, demo = false, config: Partial<Config> = {}): Promise<TestHouse> {
  const { database, url } = await peopledDatabase();
  const app = await buildApp(
    {
      port: 0,
      databaseUrl: url,
      brokerUrl: null,
      brokerTls: null,
      mailUrl: null,
      mailFrom: 'Stavok <stavok@example.org>',
      mailboxPort: null,
      messageUrl: null,
      pushKeys: null,
      terminalUrl: null,
      sessionSecret: 'x'.repeat(40),
      fixedNow: asInstant(now),
      demo,
      production: false,
      logLevel: process.env.STAVOK_TEST_LOG ?? 'silent',
      webRoot: null,
      publicAddress: 'http://stavok.example.org',
      trustedProxies: [],
      ...config,
    },
    database,
    ROOMS,
  );
  await app.ready();

  async function caller(): Promise<{ call: Caller; signIn: (email: string) => Promise<void> }> {
    let cookie = '';
    let csrf = '';
    const send = async (options: InjectOptions): Promise<Answer> => {
      const answer = await app.inject({ ...options, headers: { ...options.headers, cookie, 'x-csrf-token': csrf } });
      const set = answer.headers['set-cookie'];
      if (set) cookie = (Array.isArray(set) ? set : [set]).map((c) => c.split(';')[0]).join('; ');
      const type = String(answer.headers['content-type'] ?? '');
      return {
        status: answer.statusCode,
        body: (type.includes('json') ? answer.json() : { text: answer.body }) as Answer['body'],
      };
    };
    const call = (method: 'GET' | 'POST' | 'PUT' | 'DELETE', url_: string, body?: unknown) =>
      send({
        method,
        url: url_,
        ...(body !== undefined &&
          (Buffer.isBuffer(body)
            ? { payload: body, headers: { 'content-type': 'application/octet-stream' } }
            : { payload: JSON.stringify(body), headers: { 'content-type': 'application/json' } })),
      });
    const refresh = (answer: Answer): void => void (csrf = String(answer.body.csrf));
    refresh(await call('GET', '/api/session'));
    return {
      call: call as Caller,
      async signIn(email) {
        const answer = await call('POST', '/api/session', { email, password: PASSWORD });
        if (answer.status !== 200) throw new Error(`sign-in failed: ${answer.body.detail}`);
        refresh(answer);
      },
    };
  }

  const signedIn = new Map<Role, Promise<Caller>>();
  return {
    app,
    database,
    url,
    now: asInstant(now),
    as(role) {
      // One sign-in for each role: the sign-in route slows down who signs in too often.
      let known = signedIn.get(role);
      if (!known)
        signedIn.set(
          role,
          (known = caller().then(async ({ call, signIn }) => (await signIn(`${role}@example.org`), call))),
        );
      return known;
    },
    nobody: async () => (await caller()).call,
    async close() {
      await app.close();
      await database.close();
    },
  };
}

export const HEAD =
  'customer,location_path,address,latitude,longitude,zone,class,maker,model,serial,tag,owner,commissioned,warranty_until,parent_tag';

/** A register file of `n` freezers at one site. */
export function registerCsv(
  n = 3,
  over: (i: number) => Partial<{ zone: string; warranty: string }> = () => ({}),
): string {
  const rows = Array.from(
    { length: n },
    (_, i) =>
      `Norvela Diagnostics,Norvela > Floor ${i % 2} > Lab ${i},"72 Rua do Cais, Norvela",42.2,-8.4,${over(i).zone ?? 'Europe/Lisbon'},Ultra-low freezer,Tindrel,ULF-720,ULF720-Q${100 + i},Q${100 + i},customer,2024-01-10,${over(i).warranty ?? ''},`,
  );
  return [HEAD, ...rows].join('\n');
}

export const OFFICE = {
  name: 'Office hours',
  zone: 'Europe/Lisbon',
  weekly: [1, 2, 3, 4, 5, 6, 7].map((d) => (d <= 5 ? [{ from: 540, to: 1080 }] : [])),
  closed: [
    { date: '2026-12-08', name: 'Immaculate Conception' },
    { date: '2026-12-25', name: 'Christmas Day' },
  ],
  extraOpen: [],
};

export type World = {
  readonly calendarId: number;
  readonly serviceLevelId: number;
  readonly jobPlanId: number;
  readonly customerId: number;
  readonly assetIds: number[];
  readonly agreementId: number;
};

/** The first steps of the chain through the routes: register, calendar, service level, agreement in force with quarterly upkeep. */
/** The body that adds coverage to a draft; what is not said has no limits and no price. */
export const addLine = (line: Record<string, unknown>) => {
  const { reach, shares, ...terms } = line;
  return {
    changes: [
      {
        act: 'add',
        reach,
        terms: {
          shares: { consumables: 0, ...(shares as object) },
          serviceLevelId: null,
          kinds: ['repair'],
          excludedCauses: [],
          excludedParts: [],
          discounts: [],
          hours: null,
          priceMinor: null,
          from: null,
          to: null,
          ...terms,
        },
      },
    ],
  };
};

export async function buildWorld(
  call: Caller,
  options: { assets?: number; inForce?: boolean; minutes?: number; rule?: string; anchor?: string } = {},
): Promise<World> {
  must(
    await call('POST', '/api/register/import', { fileName: 'register.csv', text: registerCsv(options.assets ?? 3) }),
  );
  const calendarId = must(await call<{ id: number }>('POST', '/api/calendars', OFFICE)).id;
  const serviceLevelId = must(
    await call<{ id: number }>('POST', '/api/service-levels', {
      name: 'Cold storage',
      pauses: ['no access'],
      targets: {
        1: {
          response: { measure: 'elapsed', minutes: 30 },
          arrival: { measure: 'working', minutes: 240, calendarId },
          restoration: { measure: 'elapsed', minutes: 720 },
        },
        2: { response: { measure: 'working', minutes: 480, calendarId } },
      },
    }),
  ).id;
  const jobPlanId = must(
    await call<{ id: number }>('POST', '/api/job-plans', {
      name: 'Quarterly care',
      minutes: options.minutes ?? 90,
      tasks: [
        { text: 'Clean filter', mandatory: true },
        { text: 'Look at gasket', mandatory: false },
      ],
    }),
  ).id;
  const assets = must(await call<{ items: { id: number }[] }>('GET', '/api/assets?limit=200')).items.map((a) => a.id);
  const customerId = must(await call<{ items: { id: number }[] }>('GET', '/api/customers')).items[0]?.id as number;
  const agreementId = must(
    await call<{ id: number }>('POST', '/api/agreements', {
      requestKey: randomUUID(),
      customerId,
      name: 'Full care',
      from: '2026-01-01',
      to: '2027-03-31',
      noticeDays: 90,
      reminder: '',
    }),
  ).id;
  must(
    await call(
      'PUT',
      `/api/agreements/${agreementId}/coverage`,
      addLine({
        reach: { kind: 'assets', assetIds: assets },
        shares: { labour: 100, parts: 80, travel: 0 },
        serviceLevelId,
        kinds: ['repair', 'preventive'],
        excludedCauses: ['misuse'],
      }),
    ),
  );
  must(
    await call('POST', `/api/agreements/${agreementId}/schedules`, {
      assetIds: 'all covered',
      jobPlanId,
      cadence: { kind: 'rule', rule: options.rule ?? 'FREQ=MONTHLY;INTERVAL=3;BYDAY=1TU' },
      anchor: options.anchor ?? '2026-10-01',
      convention: 'following',
      calendarId,
      earlyDays: 5,
      lateDays: 7,
      lead: 21,
      leadUnit: 'calendar days',
    }),
  );
  if (options.inForce !== false) must(await call('POST', `/api/agreements/${agreementId}/in-force`, { version: 1 }));
  return { calendarId, serviceLevelId, jobPlanId, customerId, assetIds: assets, agreementId };
}

/** An agreement as its page has it, on a day. */
export const agreementPage = async (call: Caller, id: number, on?: string): Promise<AgreementPage> =>
  (await call<AgreementPage>('GET', `/api/agreements/${id}${on ? `?on=${on}` : ''}`)).body;

/** Ends an agreement, so that it does not stand in the way of the next. */
export async function endAgreement(call: Caller, id: number): Promise<void> {
  const { version } = await agreementPage(call, id);
  await call('POST', `/api/agreements/${id}/stage`, { version, to: 'ended', reason: 'the test is over' });
}

type Fields = Record<string, unknown>;
/** What an agreement has otherwise than the usual one: its header, its line, its counted rights. */
export type OwnTerms = [header?: Fields, line?: Fields, rights?: readonly Fields[]];

/** The answer’s body; throws what was refused. */
export const must = <T>(answer: Answer<T>): T => {
  if (answer.status !== 200) throw new Error(JSON.stringify(answer.body));
  return answer.body;
};

/** An agreement of its own over one machine, in force unless told otherwise. */
export async function agreementInForce(
  call: Caller,
  world: World,
  ...[header = {}, line = {}, rights = []]: OwnTerms
): Promise<number> {
  const { id } = (
    await call<{ id: number }>('POST', '/api/agreements', {
      requestKey: randomUUID(),
      customerId: world.customerId,
      name: 'Own terms',
      from: '2026-01-01',
      to: '2026-12-31',
      noticeDays: 0,
      reminder: '',
      ...header,
    })
  ).body;
  const versionOf = async () => (await call<{ version: number }>('GET', `/api/agreements/${id}`)).body.version;
  const covered = await call(
    'PUT',
    `/api/agreements/${id}/coverage`,
    addLine({
      reach: { kind: 'assets', assetIds: [world.assetIds[0]] },
      shares: { labour: 100, parts: 100, consumables: 100, travel: 100 },
      serviceLevelId: world.serviceLevelId,
      ...line,
    }),
  );
  if (covered.status !== 200) throw new Error(JSON.stringify(covered.body));
  if (rights.length > 0) {
    await call('PUT', `/api/agreements/${id}/allowances`, { version: await versionOf(), allowances: rights });
  }
  const put = await call('POST', `/api/agreements/${id}/in-force`, { version: await versionOf() });
  if (put.status !== 200) throw new Error(JSON.stringify(put.body));
  return id;
}

/** What the finder finds, by kind. */
export const finding =
  (call: Caller) =>
  async (q: string): Promise<Record<FoundKind, Hit[]>> => {
    const { body } = await call<Found>('GET', `/api/find?q=${encodeURIComponent(q)}`);
    const of = (kind: FoundKind): Hit[] => body.hits.filter((hit) => hit.kind === kind);
    return Object.fromEntries(FOUND_KINDS.map((kind) => [kind, of(kind)])) as Record<FoundKind, Hit[]>;
  };

/** An asset as its page has it. */
export const assetPage = async (call: Caller, id: number): Promise<AssetPage> =>
  (await call<AssetPage>('GET', `/api/assets/${id}`)).body;

export const firstClassId = async (call: Caller): Promise<number> =>
  (await call<{ classes: { id: number }[] }>('GET', '/api/reference')).body.classes[0]?.id as number;

/** Registers an asset of the world's customer that stands nowhere. */
export const registerAsset = async (call: Caller, world: World, over: object = {}) =>
  call<{ id: number }>('POST', '/api/assets', {
    customerId: world.customerId,
    locationId: null,
    classId: await firstClassId(call),
    maker: 'Tindrel',
    model: 'ULF-900',
    serial: 'NEW-1',
    tag: 'N001',
    owner: 'customer',
    commissioned: null,
    ...over,
  });
