// Bad input: each a clear refusal, nothing half-written, the server alive.
import { randomUUID } from 'node:crypto';
import { count } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { asset, customer, location, reading, workOrder } from '../src/tables.ts';
import {
  addLine,
  buildWorld,
  finding,
  HEAD,
  openHouse,
  registerCsv,
  type Caller,
  type TestHouse,
  type World,
} from './house.ts';

let house: TestHouse;
let call: Caller;
let world: World;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call);
});
afterAll(() => house.close());

const rowsOf = async (): Promise<number[]> =>
  Promise.all(
    [asset, customer, location, workOrder, reading].map(
      async (t) => (await house.database.db.select({ n: count() }).from(t))[0]?.n ?? -1,
    ),
  );

describe('who may call', () => {
  it('nobody reads without signing in, and no change goes without the page’s token', async () => {
    const nobody = await house.nobody();
    for (const url of [
      '/api/today/promises',
      '/api/assets',
      '/api/agreements',
      '/api/orders',
      '/api/devices',
      '/api/live',
      '/api/reference',
    ])
      expect([url, (await nobody('GET', url)).status]).toEqual([url, 401]);
    expect(
      (await house.app.inject({ method: 'POST', url: '/api/upkeep/commit', payload: { to: '2026-12-01', only: null } }))
        .statusCode,
    ).toBe(403);
  });

  it.each<['technician' | 'storekeeper' | 'dispatcher' | 'manager', 'GET' | 'POST', string, unknown]>([
    ['technician', 'POST', '/api/register/import', { fileName: 'x', text: HEAD }],
    [
      'storekeeper',
      'POST',
      '/api/agreements',
      { requestKey: randomUUID(), customerId: 1, name: 'x', from: '2026-01-01', to: null, noticeDays: 0, reminder: '' },
    ],
    ['dispatcher', 'POST', '/api/upkeep/commit', { to: '2026-12-01', only: null }],
    ['technician', 'GET', '/api/standing?from=2026-01-01&to=2026-02-01&by=asset', undefined],
    ['technician', 'GET', '/api/standing/places/1?from=2026-01-01&to=2026-02-01', undefined],
    ['manager', 'POST', '/api/gateways', { name: 'x' }],
    ['technician', 'POST', '/api/readings', [{ n: 'a:b', v: 1 }]],
  ])('a %s is refused %s %s', async (role, method, url, body) => {
    const before = await rowsOf();
    const answer = await (await house.as(role))(method, url, body);
    expect([answer.status, answer.body.code]).toEqual([403, 'not-allowed']);
    expect(await rowsOf()).toEqual(before);
  });

  it('one-click sign-in exists in the demo only', async () => {
    expect(
      (await (await house.nobody())('POST', '/api/session/demo', { email: 'coordinator@example.org' })).status,
    ).toBe(403);
  });
});

describe('a register file', () => {
  it.each([
    ['wrong columns', 'customer,serial\nA,B', 'Columns missing'],
    ['no rows at all', '', 'empty'],
    ['a binary file', 'PK\u0000\u0003', 'UTF-8'],
    ['a line with too few cells', `${HEAD}\nA,B`, 'Line 2 has 2 cells'],
    ['an open quote', `${HEAD}\n"A,B`, 'cannot be read'],
  ])('with %s is refused as a whole', async (_, text, said) => {
    const before = await rowsOf();
    const answer = await call('POST', '/api/register/import', { fileName: 'x.csv', text });
    expect(answer.body.detail).toContain(said);
    expect(answer.status).toBe(400);
    expect(await rowsOf()).toEqual(before);
  });

  it('loads good rows and names each bad one with line, column and remedy', async () => {
    const text = registerCsv(3, (i) => (i === 1 ? { zone: 'Europe/Atlantis' } : {})).replaceAll('Q1', 'Z1');
    const answer = await call<{ assets: number; bad: { line: number; column: string; message: string }[] }>(
      'POST',
      '/api/register/import',
      { fileName: 'x.csv', text },
    );
    expect(answer.body).toMatchObject({ assets: 2, bad: [{ line: 3, column: 'zone' }] });
  });

  it('with a byte order mark, CRLF and quotes is read (RFC 4180)', async () => {
    const text = `\uFEFF${registerCsv(1).replaceAll('\n', '\r\n').replaceAll('Q100', 'B100').replace('72 Rua do Cais, Norvela', 'Rua ""Nova"", 1')}`;
    expect((await call('POST', '/api/register/import/preview', { fileName: 'x.csv', text })).body).toMatchObject({
      assets: 1,
      bad: [],
    });
  });
});

describe('agreements and schedules', () => {
  const header = { name: 'x', from: '2026-05-01', to: '2026-04-01', noticeDays: 0, reminder: '' };
  it('an end before the start is refused at its field', async () => {
    const answer = await call('POST', '/api/agreements', {
      requestKey: randomUUID(),
      customerId: world.customerId,
      ...header,
    });
    expect(answer.body.errors[0]).toMatchObject({ field: 'to' });
    expect(answer.status).toBe(422);
  });

  it('an empty draft is not put in force, with the reasons', async () => {
    const made = await call<{ id: number }>('POST', '/api/agreements', {
      requestKey: randomUUID(),
      customerId: world.customerId,
      ...header,
      to: null,
    });
    const answer = await call('POST', `/api/agreements/${made.body.id}/in-force`, { version: 1 });
    expect([answer.status, answer.body.detail]).toEqual([
      409,
      'There is no coverage line; say which assets the agreement covers.',
    ]);
  });

  it.each([
    ['FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30', 'never fires'],
    ['FREQ=YEARLY;BYWEEKNO=3', 'BYWEEKNO'],
    ['every now and then', 'FREQ'],
  ])('the rule %s is refused', async (rule, said) => {
    const made = await call<{ id: number }>('POST', '/api/agreements', {
      requestKey: randomUUID(),
      customerId: world.customerId,
      ...header,
      to: null,
    });
    await call(
      'PUT',
      `/api/agreements/${made.body.id}/coverage`,
      addLine({
        reach: { kind: 'assets', assetIds: world.assetIds },
        shares: { labour: 0, parts: 0, travel: 0 },
        serviceLevelId: null,
        kinds: ['preventive'],
        excludedCauses: [],
      }),
    );
    const answer = await call('POST', `/api/agreements/${made.body.id}/schedules`, {
      assetIds: 'all covered',
      jobPlanId: world.jobPlanId,
      cadence: { kind: 'rule', rule },
      anchor: '2026-01-01',
      convention: 'none',
      calendarId: null,
      earlyDays: 0,
      lateDays: 0,
      lead: 0,
      leadUnit: 'calendar days',
    });
    expect([answer.status, answer.body.errors[0]?.field]).toEqual([422, 'cadence.rule']);
    expect(answer.body.detail).toContain(said);
  });

  it('a rule that fires without end is reported by the run, not followed', async () => {
    const made = await call<{ id: number }>('POST', '/api/agreements', {
      requestKey: randomUUID(),
      customerId: world.customerId,
      ...header,
      from: '2020-01-01',
      to: null,
    });
    await call(
      'PUT',
      `/api/agreements/${made.body.id}/coverage`,
      addLine({
        reach: { kind: 'assets', assetIds: [world.assetIds[0]] },
        shares: { labour: 0, parts: 0, travel: 0 },
        serviceLevelId: null,
        kinds: ['preventive'],
        excludedCauses: [],
      }),
    );
    await call('POST', `/api/agreements/${made.body.id}/schedules`, {
      assetIds: 'all covered',
      jobPlanId: world.jobPlanId,
      cadence: { kind: 'rule', rule: 'FREQ=DAILY' },
      anchor: '2020-01-01',
      convention: 'none',
      calendarId: null,
      earlyDays: 0,
      lateDays: 0,
      lead: 0,
      leadUnit: 'calendar days',
    });
    await call('POST', `/api/agreements/${made.body.id}/in-force`, { version: 1 });
    const run = await call<{ nothing: { code: string }[] }>('GET', '/api/upkeep?to=2026-11-24');
    expect(run.body.nothing.map((n) => n.code)).toContain('too many dates');
    expect((await call('GET', '/api/upkeep?to=2031-11-24')).body.errors[0]?.field).toBe('to');
  });
});

describe('stale edits', () => {
  it('the second to save sees what stands now; nothing is overwritten', async () => {
    const url = `/api/assets/${world.assetIds[0]}`;
    const other = await house.as('manager');
    const page = (
      await call<{
        version: number;
        serial: string;
        tag: string;
        model: string;
        state: string;
        warrantyUntil: string | null;
      }>('GET', url)
    ).body;
    const fields = {
      version: page.version,
      serial: page.serial,
      tag: page.tag,
      model: page.model,
      state: page.state,
      warrantyUntil: page.warrantyUntil,
    };
    expect((await other('PUT', url, { ...fields, tag: 'Q100-X' })).status).toBe(200);
    const late = await call<{ current: { tag: string; version: number } }>('PUT', url, { ...fields, model: 'ULF-721' });
    expect([late.status, late.body.code, late.body.current.tag]).toEqual([409, 'stale', 'Q100-X']);
    expect(
      (await call('PUT', url, { ...fields, version: late.body.current.version, tag: 'Q100-X', model: 'ULF-721' }))
        .status,
    ).toBe(200);
  });

  it('a tag or serial of another asset is refused at its field', async () => {
    const page = (
      await call<{ version: number; serial: string; tag: string; model: string; state: string }>(
        'GET',
        `/api/assets/${world.assetIds[1]}`,
      )
    ).body;
    const answer = await call('PUT', `/api/assets/${world.assetIds[1]}`, {
      version: page.version,
      serial: page.serial,
      tag: 'Q102',
      model: page.model,
      state: page.state,
      warrantyUntil: null,
    });
    expect([answer.status, answer.body.errors[0]?.field]).toEqual([409, 'tag']);
  });
});

describe('requests of impossible size or shape', () => {
  it('a body of 50 MB is refused and the server goes on', async () => {
    const answer = await call('POST', '/api/orders', { title: 'x'.repeat(50 * 1024 * 1024) });
    expect([answer.status, answer.body.code]).toEqual([413, 'too-large']);
    expect((await call('GET', '/api/health')).status).toBe(200);
  });

  it.each([
    ['/api/assets/0'],
    ['/api/assets/abc'],
    ['/api/assets?limit=9999'],
    ['/api/find?q=a'],
    ['/api/upkeep?to=tomorrow'],
    ['/api/standing?from=2026-02-01&to=2026-01-01&by=asset'],
    ['/api/standing/places/1?from=2026-02-01&to=2026-01-01'],
    ['/api/standing/detail?from=2026-01-01&to=2026-02-01&by=room&id=1'],
  ])('%s is refused', async (url) => {
    expect((await call('GET', url)).status).toBe(422);
  });

  it.each([
    ['/api/standing/places/999999?from=2026-01-01&to=2026-02-01'],
    ['/api/standing/detail?from=2026-01-01&to=2026-02-01&by=place&id=999999'],
  ])('%s names nothing that is there', async (url) => {
    const { status, body } = await call('GET', url);
    expect([status, body.errors]).toEqual([
      404,
      [{ field: 'id', code: 'not-found', message: 'There is no such place.' }],
    ]);
  });

  it('broken JSON is refused as malformed, unknown paths as not found', async () => {
    const broken = await house.app.inject({
      method: 'POST',
      url: '/api/session',
      payload: '{"email":',
      headers: { 'content-type': 'application/json' },
    });
    expect([broken.statusCode, broken.headers['content-type']]).toEqual([400, 'application/problem+json']);
    expect((await call('GET', '/api/nothing')).status).toBe(404);
  });

  it('text with quotes, wildcards and markup is data', async () => {
    for (const q of ["' OR 1=1 --", '%%', '__', '<script>']) expect((await finding(call)(q)).asset).toEqual([]);
  });
});

describe('guessing passwords', () => {
  it('a wrong password and an unknown address get the same answer, and guessing is slowed down', async () => {
    const nobody = await house.nobody();
    const wrong = await nobody('POST', '/api/session', {
      email: 'coordinator@example.org',
      password: 'not the one at all',
    });
    const unknown = await nobody('POST', '/api/session', { email: 'who@example.org', password: 'not the one at all' });
    expect([wrong.status, wrong.body.detail]).toEqual([unknown.status, unknown.body.detail]);
    const answers = [];
    for (let i = 0; i < 12; i += 1)
      answers.push((await nobody('POST', '/api/session', { email: 'a@example.org', password: 'x' })).status);
    expect(answers).toContain(429);
  });
});
