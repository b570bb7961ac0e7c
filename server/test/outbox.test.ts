// The outbox: written with what it tells, handed over once, by the way and in the words each asked for; what cannot leave says why.
import { eq } from 'drizzle-orm';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { startGateways, type StandInGateways } from '#standins/gateways.ts';
import type { PersonId } from '#core/ids.ts';
import { linkTo } from '#core/telling.ts';
import type { Answer } from '#api/contract.ts';
import type { listOutbox, listTemplates } from '#api/outbox.ts';
import { RENEWAL_NOTICE } from '../src/agreements/messages.ts';
import { tellPeople } from '../src/outbox/index.ts';
import { job, outbox, person } from '../src/tables.ts';
import { openHouse, type Caller, type TestHouse } from './house.ts';

let gateways: StandInGateways;
let house: TestHouse;
let call: Caller;
beforeEach(async () => (gateways = await startGateways()));
afterEach(async () => {
  await house.close();
  await gateways.stop();
});

async function open(withGateways = true): Promise<PersonId> {
  const { mailUrl, messageUrl } = gateways;
  house = await openHouse(undefined, false, withGateways ? { mailUrl, messageUrl } : {});
  call = await house.as('administrator');
  const [manager] = await house.database.db.select().from(person).where(eq(person.role, 'manager'));
  return manager?.id as PersonId;
}
const VALUES = {
  name: 'Carmen',
  number: 'AG-2004',
  agreement: 'Full care',
  customer: 'Norvela',
  text: 'renews by itself',
  link: linkTo('/agreements/4'),
};
const tell = (to: readonly PersonId[], key = 'renewal 4 2026-12-01', fails = false) =>
  house.database.transact(async (tx) => {
    await tellPeople(tx, RENEWAL_NOTICE, to, {
      key,
      values: VALUES,
      about: { subject: 'agreement', id: 4 },
      now: house.now,
    });
    if (fails) throw new Error('given up');
  });
const left = async () => (await call<Answer<typeof listOutbox>>('GET', '/api/outbox')).body.items;
const states = () => expect.poll(async () => (await left()).map((m) => m.state), { timeout: 8000 });
const change = (over: object) => house.database.db.update(person).set(over).where(eq(person.role, 'manager'));

describe('a message', () => {
  it('leaves by mail, once, with the gateway’s word for it', async () => {
    const to = await open();
    await Promise.all([tell([to]), tell([to]).catch(() => undefined), tell([to]).catch(() => undefined)]);
    await tell([to]);
    await states().toEqual(['sent']);
    expect(gateways.taken).toHaveLength(1);
    expect(gateways.taken[0]).toMatchObject({ way: 'mail', to: 'manager@example.org' });
    expect(gateways.taken[0]?.text).toContain('AG-2004 Full care of Norvela: renews by itself');
    // A number taken by one of those given up is not given again: the message need not be the first.
    const [message] = await left();
    expect(message?.receipt).toContain(`taken outbox-${message?.id}@`);
    // What is kept names the page, what left names where it is.
    expect(gateways.taken[0]?.text).toMatch(/ ?http:\/\/[\w.:]+\/agreements\/4/);
    const [kept] = await house.database.db.select({ body: outbox.body }).from(outbox);
    expect(kept?.body).toContain('house:/agreements/4');
  });

  it('whose change is given up never was', async () => {
    const to = await open();
    await tell([to], undefined, true).catch(() => undefined);
    expect([await left(), await house.database.db.select().from(job)]).toEqual([[], []]);
  });

  it('goes the way and in the language its reader chose, and to nobody who left', async () => {
    const to = await open();
    await change({ prefers: 'message', phone: '+351 900 100 200', language: 'pt' });
    await tell([to]);
    await states().toEqual(['sent']);
    expect(gateways.taken[0]).toMatchObject({ way: 'message', to: '+351 900 100 200' });
    expect(gateways.taken[0]?.text).toContain('decida sobre a renovação');
    await change({ active: false });
    await tell([to], 'another');
    expect(await left()).toHaveLength(1);
  });

  it('handed over twice, for its server died before it was marked, is taken once', async () => {
    const to = await open();
    await tell([to]);
    await states().toEqual(['sent']);
    const { db } = house.database;
    await db.update(outbox).set({ state: 'waiting' });
    await db.update(job).set({ state: 'waiting', endedAt: null });
    await states().toEqual(['sent']);
    expect(gateways.taken).toHaveLength(1);
  });

  it('without a gateway says what to set, and leaves once it is sent again', async () => {
    const to = await open(false);
    await tell([to]);
    await states().toEqual(['dead']);
    const [message] = await left();
    expect(message?.problem).toContain('STAVOK_MAIL_URL');
    expect((await call('POST', `/api/outbox/${message?.id}/send`)).status).toBe(200);
    await states().toEqual(['dead']);
    expect((await call('POST', '/api/outbox/999/send')).status).toBe(404);
    const again = await house.as('coordinator');
    expect((await again('POST', `/api/outbox/${message?.id}/send`)).status).toBe(403);
  });
});

describe('the words of a message', () => {
  const path = '/api/message-templates/renewal%20notice/en';
  const words = async () =>
    (await call<Answer<typeof listTemplates>>('GET', '/api/message-templates')).body.items.find(
      (t) => t.language === 'en',
    );

  it('are changed, used from then on, and put back', async () => {
    const to = await open();
    expect(await words()).toMatchObject({ version: 0, subject: RENEWAL_NOTICE.words.en.subject });
    const own = { subject: 'Look at {number}', body: 'By the way: {text}', version: 0 };
    expect((await call('PUT', path, own)).body).toEqual({ version: 1 });
    expect((await call('PUT', path, own)).body.code).toBe('stale');
    await tell([to]);
    expect((await left())[0]).toMatchObject({ subject: 'Look at AG-2004', body: 'By the way: renews by itself' });
    expect((await call('PUT', path, { subject: '', body: '', version: 1 })).body).toEqual({ version: 0 });
    expect(await words()).toMatchObject({ version: 0, subject: RENEWAL_NOTICE.words.en.subject });
  });

  it.each([
    [{ subject: 'x', body: 'Hello {nobody}' }, 'body'],
    [{ subject: '', body: 'x' }, 'subject'],
    [{ subject: 'x', body: '{' }, 'body'],
  ])('%j are refused at their field, and change nothing', async (wrong, field) => {
    await open();
    const answer = await call<{ errors: { field: string }[] }>('PUT', path, { ...wrong, version: 0 });
    expect([answer.status, answer.body.errors[0]?.field]).toEqual([422, field]);
    expect((await words())?.version).toBe(0);
  });

  it('of a message that does not exist are refused', async () => {
    await open();
    expect((await call('PUT', '/api/message-templates/none/en', { subject: 'x', body: 'x', version: 0 })).status).toBe(
      404,
    );
  });
});

describe('jobs over the wire', () => {
  it('are read by administrators, begun now, and tried again when dead', async () => {
    const to = await open(false);
    await tell([to]);
    await states().toEqual(['dead']);
    type Jobs = { items: { id: number; says: string; state: string }[]; dead: number };
    const jobs = async (show: string) => (await call<Jobs>('GET', `/api/jobs?show=${show}`)).body;
    const { items, dead } = await jobs('dead');
    expect([dead, items[0]?.says]).toEqual([1, 'Hand a message to its gateway']);
    expect((await call<Record<string, number>>('GET', '/api/counts')).body.jobs).toBe(1);
    expect((await call('POST', `/api/jobs/${items[0]?.id}/run`)).status).toBe(200);
    expect((await call('POST', '/api/jobs', { kind: 'sessions' })).status).toBe(200);
    await expect.poll(async () => (await jobs('done')).items.map((j) => j.state), { timeout: 8000 }).toEqual(['done']);
    await expect.poll(async () => (await jobs('dead')).dead, { timeout: 8000 }).toBe(1);
    expect((await call('POST', '/api/jobs', { kind: 'deliver' })).status).toBe(404);
    expect((await call('POST', '/api/jobs/999/run')).status).toBe(404);
    const other = await house.as('manager');
    expect((await other('GET', '/api/jobs')).status).toBe(403);
  });
});
