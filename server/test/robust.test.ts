// What one person does never stops the others: refusals inside streams, floods of wrong passwords, bodies that never end, a database that is away.
import { request as httpRequest } from 'node:http';
import type { AddressInfo } from 'node:net';
import { eq } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { audit, person, session, signInTry, workOrder } from '../src/tables.ts';
import { buildWorld, openHouse, PASSWORD, type Caller, type TestHouse, type World } from './house.ts';

let house: TestHouse;
let call: Caller;
let world: World;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call);
});
afterAll(() => house.close());

describe('a file that is refused', () => {
  it.each([
    ['/api/assets.csv?location=999999', 404],
    ['/api/agreements/999999/coverage.csv', 404],
    ['/api/imports/999999/remarks.csv', 404],
    ['/api/agreements/999999/agreement.pdf', 404],
    ['/api/labels.pdf', 422],
    ['/api/standing.csv?by=asset&from=2026-02-01&to=2026-01-01', 422],
  ])('%s is an answer with its reason, and the server goes on', async (url, status) => {
    const answer = await call('GET', url);
    expect([answer.status, typeof answer.body.detail]).toEqual([status, 'string']);
    expect((await call('GET', '/api/health')).status).toBe(200);
  });

  it('for want of the database is asked for again later, before its first byte and after it', async () => {
    const away = await openHouse();
    const caller = await away.as('coordinator');
    await buildWorld(caller);
    const gone = Object.assign(new Error('connect ECONNREFUSED'), { code: 'ECONNREFUSED' });
    const broken = vi.spyOn(away.database.pool, 'query').mockRejectedValue(gone);
    for (const url of ['/api/assets.csv', '/api/orders.csv', '/api/customers.csv', '/api/today/promises']) {
      const answer = await caller('GET', url);
      expect([url, answer.status, answer.body.detail]).toEqual([url, 503, expect.stringContaining('try again')]);
    }
    broken.mockRestore();
    expect((await caller('GET', '/api/assets')).status).toBe(200);
    await away.close();
  });
});

describe('a run that is cut', () => {
  it('says how far it came, leaves its note, and goes on with the rest', async () => {
    const cut = await openHouse();
    const caller = await cut.as('coordinator');
    await buildWorld(caller, { assets: 60, rule: 'FREQ=WEEKLY;BYDAY=TU' });
    // The database fails every batch after the first.
    await cut.database.pool.query(
      "CREATE TRIGGER fails BEFORE INSERT ON visit FOR EACH ROW IF EXISTS (SELECT 1 FROM work_order) THEN SIGNAL SQLSTATE '45000'; END IF",
    );
    const answer = await caller('POST', '/api/upkeep/commit', { to: '2027-03-01', only: null });
    await cut.database.pool.query('DROP TRIGGER fails');
    expect([answer.status, answer.body.detail]).toEqual([
      503,
      expect.stringMatching(/^The run was cut short: \d+ of \d+ visits are raised/),
    ]);
    const notes = await cut.database.db.select({ text: audit.text }).from(audit).where(eq(audit.subject, 'upkeep run'));
    const stands = await cut.database.db.$count(workOrder);
    expect(answer.body.detail).toContain(`: ${stands} of `);
    expect(notes.map((n) => n.text)).toEqual([expect.stringContaining(`${stands} visits raised`)]);
    const again = await caller<{ raised: number }>('POST', '/api/upkeep/commit', { to: '2027-03-01', only: null });
    expect(again.status).toBe(200);
    expect(await cut.database.db.$count(workOrder)).toBe(stands + again.body.raised);
    await cut.close();
  });
});

describe('signing in', () => {
  const enter = (email: string, password: string, remoteAddress = '192.0.2.1') =>
    house.app.inject({ method: 'POST', url: '/api/session', payload: { email, password }, remoteAddress });

  it('is slowed down for the account and address that fail, and for nobody else', async () => {
    const statuses: number[] = [];
    for (let i = 0; i < 8; i += 1) statuses.push((await enter('manager@example.org', `wrong ${i}`)).statusCode);
    expect(statuses.slice(0, 5)).toEqual([401, 401, 401, 401, 401]);
    const slowed = await enter('manager@example.org', PASSWORD);
    expect([slowed.statusCode, slowed.json<{ detail: string }>().detail]).toEqual([
      429,
      expect.stringMatching(/try again in \d+ seconds?/),
    ]);
    // The same account from elsewhere, and others from the same address, come in at once.
    expect((await enter('manager@example.org', PASSWORD, '192.0.2.9')).statusCode).toBe(200);
    expect((await enter('dispatcher@example.org', PASSWORD)).statusCode).toBe(200);
    // The wait grows with each try, and ends.
    const [row] = await house.database.db.select().from(signInTry);
    await house.database.db.update(signInTry).set({ lastAt: ((row?.lastAt as number) - 3_599_000) as never });
    expect((await enter('manager@example.org', PASSWORD)).statusCode).toBe(200);
    expect(await house.database.db.$count(signInTry)).toBe(0);
  });

  it('well, however often, is never slowed down', async () => {
    const answers = await Promise.all(Array.from({ length: 25 }, () => enter('dispatcher@example.org', PASSWORD)));
    expect(new Set(answers.map((a) => a.statusCode))).toEqual(new Set([200]));
  });

  it('many wrong tries at once are counted one by one', async () => {
    const answers = await Promise.all(
      Array.from({ length: 20 }, (_, i) => enter('storekeeper@example.org', `wrong ${i}`, '192.0.2.77')),
    );
    expect(answers.filter((a) => a.statusCode === 401).length).toBeLessThanOrEqual(6);
    expect(answers.filter((a) => a.statusCode === 429).length).toBeGreaterThanOrEqual(14);
  });

  it('only looked at leaves no row and no cookie', async () => {
    const before = await house.database.db.$count(session);
    for (let i = 0; i < 5; i += 1) {
      const { headers } = await house.app.inject({ method: 'GET', url: '/api/session' });
      expect(headers['set-cookie']).toBeUndefined();
    }
    expect(await house.database.db.$count(session)).toBe(before);
  });

  it('by one click as somebody who is shut out is refused', async () => {
    const demo = await openHouse(undefined, true);
    const click = () =>
      demo.app.inject({ method: 'POST', url: '/api/session/demo', payload: { email: 'manager@example.org' } });
    expect((await click()).statusCode).toBe(200);
    await demo.database.db.update(person).set({ active: false }).where(eq(person.email, 'manager@example.org'));
    expect((await click()).statusCode).toBe(404);
    await demo.close();
  });

  it('behind a trusted proxy goes by the address it names, with a cookie for TLS only', async () => {
    const behind = await openHouse(undefined, false, { trustedProxies: ['127.0.0.1'] });
    const from = (address: string, password: string) =>
      behind.app.inject({
        method: 'POST',
        url: '/api/session',
        payload: { email: 'manager@example.org', password },
        headers: { 'x-forwarded-for': address, 'x-forwarded-proto': 'https' },
        remoteAddress: '127.0.0.1',
      });
    for (let i = 0; i < 8; i += 1) await from('198.51.100.7', 'wrong');
    expect((await from('198.51.100.7', PASSWORD)).statusCode).toBe(429);
    const good = await from('198.51.100.8', PASSWORD);
    expect([good.statusCode, String(good.headers['set-cookie'])]).toEqual([200, expect.stringContaining('Secure')]);
    await behind.close();
  });
});

describe('answers', () => {
  it('are kept by no cache, files only where their reader asks again', async () => {
    const raw = await enterAs('coordinator');
    const head = async (url: string) =>
      (await house.app.inject({ method: 'GET', url, headers: { cookie: raw } })).headers['cache-control'];
    expect(await head('/api/today/promises')).toBe('no-store');
    expect(await head('/api/assets.csv')).toBe('no-store');
    expect(await head(`/api/agreements/${world.agreementId}/agreement.pdf`)).toBe('no-store');
    const file = await call<{ id: number }>(
      'POST',
      `/api/files?subject=asset&subjectId=${world.assetIds[0]}&name=note.pdf`,
      Buffer.from('%PDF-1.4 hello'),
    );
    expect(file.status).toBe(200);
    expect(await head(`/api/files/${file.body.id}/content`)).toBe('no-cache, private');
  });

  it('lead to the set public address, whatever the caller says the host is', async () => {
    const answer = await house.app.inject({
      method: 'GET',
      url: `/api/labels.pdf?ids=${world.assetIds.join(',')}`,
      headers: { cookie: await enterAs('coordinator'), host: 'evil.example' },
    });
    expect([answer.statusCode, answer.rawPayload.subarray(0, 5).toString()]).toEqual([200, '%PDF-']);
    expect(answer.body).not.toContain('evil.example');
  });

  async function enterAs(role: string): Promise<string> {
    const signed = await house.app.inject({
      method: 'POST',
      url: '/api/session',
      payload: { email: `${role}@example.org`, password: PASSWORD },
    });
    return String(signed.headers['set-cookie']).split(';')[0] as string;
  }
});

describe('a request', () => {
  it('whose body stops coming is closed after ten seconds, and one that is whole is not', async () => {
    const open = await openHouse();
    await open.app.listen({ port: 0, host: '127.0.0.1' });
    const { port } = open.app.server.address() as AddressInfo;
    const begun = Date.now();
    const closed = await new Promise<number>((done) => {
      const asking = httpRequest({
        port,
        host: '127.0.0.1',
        method: 'POST',
        path: '/api/session',
        headers: { 'content-type': 'application/json', 'content-length': 500 },
      });
      asking.once('error', () => done(Date.now() - begun));
      asking.once('response', () => done(-1));
      asking.write('{"email":');
    });
    expect(closed).toBeGreaterThan(8000);
    expect(closed).toBeLessThan(14_000);
    await open.close();
  });

  it('with half of a character in its text is refused at the field', async () => {
    const answer = await call('POST', '/api/customers', {
      name: 'Clinic \ud800',
      serviceAddress: null,
      creditDays: 30,
      creditLimit: null,
      overSince: null,
    });
    expect([answer.status, answer.body.errors[0]?.field]).toEqual([422, 'name']);
  });

  it.each([
    ['/api/orders?after=a', 'after'],
    ['/api/agreements?after=a', 'after'],
    ['/api/standing?by=asset&from=2026-01-01&to=2026-02-01&after=a', 'after'],
    ['/api/assets/99999999999', 'id'],
    ['/api/assets/4294967296', 'id'],
  ])('%s is refused in words', async (url, field) => {
    const answer = await call('GET', url);
    expect([answer.status, answer.body.errors[0]?.field]).toEqual([422, field]);
    expect(answer.body.errors[0]?.message).not.toMatch(/Invalid|Expected|received/);
  });

  it('key used again for something else is refused, and for the same gives the first answer', async () => {
    const ask = {
      assetIds: [world.assetIds[0]],
      priority: 2,
      cause: 'wear',
      receivedAt: '2026-11-24T09:00:00Z',
      title: 'Warm',
      requestKey: 'a-key-of-my-own',
    };
    const first = await call<{ id: number }>('POST', '/api/orders', ask);
    expect((await call<{ id: number }>('POST', '/api/orders', ask)).body.id).toBe(first.body.id);
    const other = await call('POST', '/api/orders', { ...ask, title: 'Cold' });
    expect([other.status, other.body.errors[0]?.field]).toEqual([409, 'requestKey']);
    const act = { requestKey: 'another-key-of-mine', at: '2026-11-24T09:30:00Z', act: { kind: 'note', text: 'seen' } };
    const record = (body: object) => call('POST', `/api/orders/${first.body.id}/events`, body);
    expect([(await record(act)).status, (await record(act)).status]).toEqual([200, 200]);
    expect((await record({ ...act, act: { kind: 'note', text: 'unseen' } })).status).toBe(409);
    const events = await call<{ events: unknown[] }>('GET', `/api/orders/${first.body.id}`);
    expect(events.body.events).toHaveLength(2);
  });

  it('pairs that use one new word at the same time are both kept', async () => {
    const ask = (title: string, side: number) =>
      call('POST', '/api/orders', {
        assetIds: [world.assetIds[side]],
        priority: 4,
        cause: 'wear',
        receivedAt: '2026-11-24T09:00:00Z',
        title,
        requestKey: `pair-${title.replace(' ', '-')}-${side}`,
      });
    for (let i = 0; i < 60; i += 1) {
      const answers = await Promise.all([ask(`Fresh word${i}x`, 0), ask(`Fresh word${i}x`, 1)]);
      expect(answers.map((a) => a.status)).toEqual([200, 200]);
    }
  });
});

describe('who sees and does what', () => {
  it('technicians and storekeepers see no prices, credit terms or agreement documents', async () => {
    await house.database.pool.query(
      "UPDATE customer SET credit_days = 30, credit_limit = 500000, over_since = '2026-01-01'",
    );
    await house.database.pool.query('UPDATE agreement SET price_minor = 12345');
    for (const role of ['technician', 'storekeeper'] as const) {
      const caller = await house.as(role);
      expect((await caller('GET', `/api/customers/${world.customerId}`)).body).toMatchObject({
        creditDays: null,
        creditLimit: null,
        overSince: null,
      });
      const { body } = await caller<{ priceMinor: number | null }>('GET', `/api/agreements/${world.agreementId}`);
      expect([body.priceMinor, JSON.stringify(body).includes('12345')]).toEqual([null, false]);
      for (const url of [
        `/api/agreements/${world.agreementId}/price`,
        `/api/agreements/${world.agreementId}/agreement.pdf`,
        `/api/agreements/${world.agreementId}/coverage.csv`,
        `/api/files?subject=agreement&subjectId=${world.agreementId}`,
        '/api/customers.csv',
        '/api/agreements.csv',
      ])
        expect([url, (await caller('GET', url)).status]).toEqual([url, 403]);
    }
    expect((await call('GET', `/api/customers/${world.customerId}`)).body).toMatchObject({ creditDays: 30 });
  });

  it('a technician acts on their own orders only, scraps nothing, and removes only their own files', async () => {
    const technician = await house.as('technician');
    const order = await call<{ id: number }>('POST', '/api/orders', {
      assetIds: [world.assetIds[0]],
      priority: 2,
      cause: 'wear',
      receivedAt: '2026-11-24T09:00:00Z',
      title: 'Door',
      requestKey: 'rights-of-technicians',
      overTermsReason: 'a hospital',
    });
    const record = (caller: Caller, act: object, requestKey: string) =>
      caller('POST', `/api/orders/${order.body.id}/events`, { requestKey, at: '2026-11-24T09:30:00Z', act });
    const people = await house.database.db.select().from(person);
    const idOf = (role: string): number => people.find((p) => p.role === role)?.id ?? 0;
    const planned = (technicianId: number) => ({ kind: 'planned', technicianId, date: '2026-11-25' });
    for (const [none, key] of [
      [987_654, 'planned-for-nobody'],
      [idOf('coordinator'), 'planned-for-the-desk'],
    ] as const) {
      const refused = await record(call, planned(none), key);
      expect([refused.status, refused.body.errors[0]?.field]).toEqual([404, 'act.technicianId']);
    }
    const unnamed = await record(call, { kind: 'told' }, 'told-nobody');
    expect([unnamed.status, unnamed.body.errors[0]?.field]).toEqual([422, 'act.technicianId']);
    expect((await record(call, { kind: 'told', technician: 'Somebody Else' }, 'told-somebody-else')).status).toBe(200);
    expect((await record(technician, { kind: 'arrived' }, 'arrived-at-others')).status).toBe(403);
    expect((await record(call, planned(idOf('technician')), 'planned-for-the-one')).status).toBe(200);
    expect((await record(technician, { kind: 'arrived' }, 'arrived-at-my-own')).status).toBe(200);

    const scrap = await technician('POST', `/api/assets/${world.assetIds[2]}/life`, {
      version: 1,
      act: { kind: 'scrapped' },
      on: '2026-11-24',
      text: '',
    });
    expect(scrap.status).toBe(403);

    const attach = (caller: Caller, name: string) =>
      caller<{ id: number }>(
        'POST',
        `/api/files?subject=asset&subjectId=${world.assetIds[0]}&name=${name}`,
        Buffer.from(`%PDF-1.4 ${name}`),
      );
    const [theirs, ours] = [(await attach(technician, 'mine.pdf')).body.id, (await attach(call, 'desk.pdf')).body.id];
    expect((await technician('DELETE', `/api/files/${ours}`)).status).toBe(403);
    expect((await technician('DELETE', `/api/files/${theirs}`)).status).toBe(200);
  });
});
