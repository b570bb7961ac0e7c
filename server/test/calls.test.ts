// Calls: what is known while somebody speaks, orders of several machines and of a place, decided again, added to and followed up.
import { randomUUID } from 'node:crypto';
import { eq } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { CallKnown } from '#api/calls.ts';
import type { CustomerId } from '#core/ids.ts';
import { rebuild } from '../src/platform/derived.ts';
import { DERIVED } from '../src/rooms.ts';
import { instant, MINUTE } from '#core/time/index.ts';
import { asset, clock, customer, orderPresence, workOrder } from '../src/tables.ts';
import { calling, RECEIVED, refusedAt } from './calling.ts';
import { agreementInForce, buildWorld, openHouse, type Caller, type TestHouse, type World } from './house.ts';

let house: TestHouse;
let call: Caller;
let world: World;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call, { assets: 5 });
});
afterAll(() => house.close());

const { asked, raise, raised, page, record } = calling(() => ({ call, world }));
const known = (over: object = {}) => call<CallKnown>('POST', '/api/orders/preview', asked(over));
const placeOf = async (assetId: number | undefined): Promise<number> => {
  const [row] = await house.database.db
    .select()
    .from(asset)
    .where(eq(asset.id, assetId as never));
  return row?.locationId as number;
};
/** Everything that follows from events is what they say. */
const isDerived = async (): Promise<void> => {
  for (const { differing } of await rebuild(house.database, DERIVED, house.now, false)) expect(differing).toEqual([]);
};

describe('a call', () => {
  it('for several machines keeps a decision for each, as the preview said', async () => {
    const assetIds = world.assetIds.slice(0, 3);
    const before = (await known({ assetIds })).body;
    const order = await page(await raised({ assetIds }));
    expect(order.lines.map((l) => [l.tag, l.verdict?.sentence, l.verdict?.promise])).toEqual(
      before.lines.map((l) => [l.tag, l.sentence, l.promise]),
    );
    expect(order.clocks).toHaveLength(9);
    expect(before.lines.flatMap((l) => l.clocks.map((c) => [c.assetId, c.target, c.dueAt])).sort()).toEqual(
      order.clocks.map((c) => [c.assetId, c.target, c.dueAt]).sort(),
    );
    await isDerived();
  });

  it('says what is open for the machine and its place, and who was there last', async () => {
    const id = await raised({ assetIds: [world.assetIds[3]], title: 'First trouble' });
    const first = (await known({ assetIds: [world.assetIds[3]] })).body;
    expect(first.open.map(({ order, same }) => [order.id, same])).toContainEqual([id, 'machine']);
    await record(id, { kind: 'arrived' });
    await record(id, { kind: 'restored' });
    expect((await record(id, { kind: 'done', text: 'reset' })).status).toBe(200);
    const then = (await known({ assetIds: [world.assetIds[3]] })).body;
    expect(then.open.map(({ order }) => order.id)).not.toContain(id);
    expect(then.lastHere[0]).toMatchObject({ orderId: id, title: 'First trouble' });
  });

  it('joins an open order as a note, once', async () => {
    const id = await raised({ title: 'Door' });
    const body = { requestKey: randomUUID(), receivedAt: '2026-11-24T09:15:00Z', text: 'now it beeps' };
    for (let i = 0; i < 2; i += 1) expect((await call('POST', `/api/orders/${id}/calls`, body)).status).toBe(200);
    const notes = (await page(id)).events.filter((e) => e.text === 'called again: now it beeps');
    expect(notes).toHaveLength(1);
    const late = { ...body, requestKey: randomUUID(), receivedAt: '2026-11-25T09:15:00Z' };
    expect(refusedAt(await call('POST', `/api/orders/${id}/calls`, late))).toEqual([
      422,
      'receivedAt',
      'in-the-future',
    ]);
  });

  it('for a place without a machine promises nothing until the machine is named, then from the call on', async () => {
    const locationId = await placeOf(world.assetIds[4]);
    const id = await raised({ assetIds: [], locationId, customerId: world.customerId, title: 'Something drips' });
    const before = await page(id);
    expect([before.clocks, before.lines[0]?.assetId, before.lines[0]?.verdict]).toEqual([[], null, null]);
    const list = (await call<{ items: { id: number; tag: string; place: string }[] }>('GET', '/api/orders')).body.items;
    expect(list.find((o) => o.id === id)).toMatchObject({ tag: '', place: expect.stringContaining('Lab 4') as string });
    const change = { lines: [{ lineId: before.lines[0]?.id, assetId: world.assetIds[4] }], text: 'it is the freezer' };
    const url = `/api/orders/${id}/changes`;
    expect((await call('POST', url, { requestKey: randomUUID(), ...change })).status).toBe(200);
    const after = await page(id);
    expect([after.lines[0]?.tag, after.clocks.length]).toEqual(['Q104', 3]);
    for (const c of after.clocks) expect(c.startedAt).toBe(Date.parse(RECEIVED));
    expect(after.lines[0]?.former[0]?.sentence).toBe('No machine was named.');
    await isDerived();
  });

  it.each<[string, () => object, string, string]>([
    ['nothing it is about', () => ({ assetIds: [] }), 'assetIds', 'missing'],
    ['a machine twice', () => ({ assetIds: [world.assetIds[0], world.assetIds[0]] }), 'assetIds', 'conflict'],
    ['an unknown machine', () => ({ assetIds: [987_654] }), 'assetIds', 'not-found'],
    [
      'a place of nobody',
      () => ({ assetIds: [], locationId: 987_654, customerId: world.customerId }),
      'locationId',
      'not-found',
    ],
    ['a contact of another', () => ({ callerId: 987_654 }), 'callerId', 'not-found'],
    ['a contact on site of another', () => ({ contactId: 987_654 }), 'contactId', 'not-found'],
  ])('is refused for %s, and nothing is written', async (_, over, field, code) => {
    const count = async () => (await house.database.db.select({ id: workOrder.id }).from(workOrder)).length;
    const before = await count();
    const answer = await raise(over());
    expect([answer.body.errors[0]?.field, answer.body.errors[0]?.code]).toEqual([field, code]);
    expect(await count()).toBe(before);
  });

  it('of a customer over their terms wants a reason, or a manager where it is stopped; it is kept', async () => {
    const { db } = house.database;
    const over = (date: string | null) =>
      db
        .update(customer)
        .set({ overSince: date as never })
        .where(eq(customer.id, world.customerId as CustomerId));
    const manager = await house.as('manager');
    const set = async (overTerms: string): Promise<void> => {
      const { version } = (await manager<{ version: number }>('GET', '/api/order-settings')).body;
      expect((await manager('PUT', '/api/order-settings', { overTerms, version })).status).toBe(200);
      expect((await manager('PUT', '/api/order-settings', { overTerms, version })).status).toBe(409);
    };
    await over('2026-10-01');
    expect(refusedAt(await raise())).toEqual([422, 'overTermsReason', 'missing']);
    const id = (await raise({ overTermsReason: 'vaccines at risk' })).body.id;
    expect((await page(id)).events.map((e) => e.text).join()).toContain('vaccines at risk');
    await set('stop');
    expect((await known()).body.credit).toMatchObject({ policy: 'stop', mayRaise: false });
    expect(refusedAt(await raise({ overTermsReason: 'vaccines at risk' }))).toEqual([
      403,
      'overTermsReason',
      'not-allowed',
    ]);
    expect((await raise({ overTermsReason: 'vaccines at risk' }, manager)).status).toBe(200);
    await set('go on');
    expect((await raise()).status).toBe(200);
    expect((await call('PUT', '/api/order-settings', { overTerms: 'ask', version: 3 })).status).toBe(403);
    await set('ask');
    await over(null);
  });

  it('about a machine of our own fleet that is rented to nobody is internal', async () => {
    await house.database.db
      .update(asset)
      .set({ owner: 'own fleet' })
      .where(eq(asset.id, world.assetIds[2] as never));
    const covered = await page(await raised({ assetIds: [world.assetIds[2]] }));
    expect(covered.internal).toBe(false);
    // Misuse is excluded from the agreement: nobody else bears it.
    const own = (await known({ assetIds: [world.assetIds[2]], cause: 'misuse' })).body;
    expect([own.internal, own.chargeable]).toEqual([true, false]);
    expect((await page(await raised({ assetIds: [world.assetIds[2]], cause: 'misuse' }))).internal).toBe(true);
    await house.database.db
      .update(asset)
      .set({ owner: 'customer' })
      .where(eq(asset.id, world.assetIds[2] as never));
  });
});

describe('one order, more machines, less', () => {
  const add = (id: number, assetId: number | undefined, key = randomUUID()) =>
    call<{ id: number }>('POST', `/api/orders/${id}/lines`, { requestKey: key, assetId });

  it('a machine that joins has its own decision and its promises from now on; once', async () => {
    const id = await raised();
    await record(id, { kind: 'arrived' });
    const key = randomUUID();
    const made = await add(id, world.assetIds[1], key);
    expect((await add(id, world.assetIds[1], key)).body.id).toBe(made.body.id);
    expect(refusedAt(await add(id, world.assetIds[1]))).toEqual([409, 'assetId', 'conflict']);
    const order = await page(id);
    expect(order.lines.map((l) => l.tag)).toEqual(['Q100', 'Q101']);
    const own = order.clocks.filter((c) => c.tag === 'Q101');
    expect(own.map((c) => [c.target, c.state, c.startedAt])).toContainEqual(['arrival', 'met', house.now]);
    expect(own.map((c) => c.target).sort()).toEqual(['arrival', 'response', 'restoration']);
    await isDerived();
  });

  it('one taken off has no clocks that run, and is finished for', async () => {
    const id = await raised({ assetIds: world.assetIds.slice(0, 2) });
    const [one, two] = (await page(id)).lines;
    await record(id, { kind: 'arrived' });
    expect((await record(id, { kind: 'line', lineId: two?.id, outcome: 'off', text: 'named by mistake' })).status).toBe(
      200,
    );
    await record(id, { kind: 'restored', lineId: one?.id });
    expect((await record(id, { kind: 'done', text: '' })).status).toBe(200);
    const order = await page(id);
    const states = order.clocks.filter((c) => c.tag === 'Q101').map((c) => [c.target, c.state]);
    expect(states).toContainEqual(['restoration', 'void']);
    await isDerived();
  });

  it('is not added to once it is over', async () => {
    const id = await raised();
    await record(id, { kind: 'called off', text: 'x' });
    expect(refusedAt(await add(id, world.assetIds[1]))).toEqual([409, 'assetId', 'wrong-stage']);
  });
});

describe('a follow-up', () => {
  const follow = (id: number, lineIds: (number | undefined)[], over: object = {}) =>
    call<{ id: number }>('POST', `/api/orders/${id}/follow-up`, {
      ...{ requestKey: randomUUID(), lineIds, reason: 'compressor on order', parts: 'compressor K2', ...over },
    });

  it('takes the promise that was not kept with it, from the same start and with its pauses; the first may end', async () => {
    const id = await raised();
    const [line] = (await page(id)).lines;
    await record(id, { kind: 'arrived' }, call, '2026-11-24T09:05:00Z');
    await record(id, { kind: 'paused', reason: 'no access', text: '' }, call, '2026-11-24T09:06:00Z');
    await record(id, { kind: 'resumed' }, call, '2026-11-24T09:11:00Z');
    const due = (await page(id)).clocks.find((c) => c.target === 'restoration')?.dueAt;
    const key = randomUUID();
    const made = await follow(id, [line?.id], { requestKey: key });
    expect((await follow(id, [line?.id], { requestKey: key })).body.id).toBe(made.body.id);
    expect((await follow(id, [line?.id], { requestKey: key, parts: 'other' })).status).toBe(409);
    const [first, rest] = [await page(id), await page(made.body.id)];
    expect([first.followedBy[0]?.id, rest.follows?.id]).toEqual([rest.id, first.id]);
    expect(first.clocks.map((c) => c.target).sort()).toEqual(['arrival', 'response']);
    expect(rest.clocks.map((c) => [c.target, c.startedAt, c.dueAt])).toEqual([
      ['restoration', Date.parse(RECEIVED), due],
    ]);
    expect(rest.events[0]?.text).toContain('compressor K2');
    expect((await record(id, { kind: 'done', text: '' }, call, '2026-11-24T09:12:00Z')).status).toBe(200);
    expect(refusedAt(await follow(id, [line?.id]))).toEqual([409, 'lineIds', 'conflict']);
    await isDerived();
  });

  it('after the machine is back in use leaves the promises where they were kept', async () => {
    const id = await raised();
    await record(id, { kind: 'arrived' });
    await record(id, { kind: 'restored' });
    await record(id, { kind: 'done', text: '' });
    const before = (await page(id)).clocks;
    const rest = await page((await follow(id, [(await page(id)).lines[0]?.id])).body.id);
    expect([rest.clocks, (await page(id)).clocks]).toEqual([[], before]);
  });

  it('of a called off order, or without a reason, is none', async () => {
    const id = await raised();
    const lines = (await page(id)).lines.map((l) => l.id);
    expect(refusedAt(await follow(id, lines, { reason: ' ' }))).toEqual([422, 'reason', 'invalid']);
    await record(id, { kind: 'called off', text: 'x' });
    expect(refusedAt(await follow(id, lines))).toEqual([409, 'lineIds', 'wrong-stage']);
  });
});

describe('the done check', () => {
  it('lists what is missing; a manager finishes with a reason, nobody else does', async () => {
    const classes = (await call<{ classes: { id: number; version: number; name: string }[] }>('GET', '/api/catalogue'))
      .body;
    const own = classes.classes[0];
    const words = { symptom: ['warm'], fault: [], cause: ['worn seal'], remedy: ['seal replaced'] };
    const body = { name: own?.name, jobPlanIds: [], meters: [], words, version: own?.version };
    expect((await call('PUT', `/api/asset-classes/${own?.id}`, body)).status).toBe(200);
    expect((await known()).body.symptoms).toEqual(['warm']);
    const id = await raised({ symptom: 'warm' });
    await record(id, { kind: 'arrived' });
    await record(id, { kind: 'restored' });
    const order = await page(id);
    expect(order.missing.map((m) => m.what)).toEqual(['findings']);
    expect([order.lines[0]?.found.symptom, order.lines[0]?.words.cause]).toEqual(['warm', ['worn seal']]);
    expect(refusedAt(await record(id, { kind: 'done', text: '' }))).toEqual([422, 'kind', 'missing']);
    const anyway = { kind: 'done', text: '', anyway: 'the sheet is lost' };
    expect(refusedAt(await record(id, anyway))).toEqual([403, 'act.anyway', 'not-allowed']);
    const lineId = order.lines[0]?.id;
    const said = { kind: 'found', lineId, symptom: 'warm', fault: 'seal', cause: 'worn seal', remedy: 'seal replaced' };
    expect((await record(id, said)).status).toBe(200);
    expect((await page(id)).missing).toEqual([]);
    expect((await record(id, { kind: 'done', text: '' })).status).toBe(200);
    const other = await raised();
    await record(other, { kind: 'arrived' });
    await record(other, { kind: 'restored' });
    expect((await record(other, anyway, await house.as('manager'))).status).toBe(200);
    expect((await page(other)).events.at(-1)?.text).toContain('the sheet is lost');
    await isDerived();
  });
});

describe('two people at one order', () => {
  it('see that the other is there, until one has been silent for a while', async () => {
    const id = await raised();
    const dispatcher = await house.as('dispatcher');
    const here = async (by: Caller) =>
      (await by<{ others: { name: string }[] }>('POST', `/api/orders/${id}/here`)).body.others.map((o) => o.name);
    expect([await here(call), await here(dispatcher), await here(call)]).toEqual([
      [],
      ['The coordinator'],
      ['The dispatcher'],
    ]);
    await house.database.db.update(orderPresence).set({ seenAt: instant(house.now - 2 * MINUTE) });
    expect(await here(call)).toEqual([]);
    expect((await call('POST', '/api/orders/987654/here')).status).toBe(404);
  });

  it('who change different fields both stand; of the same field the second is asked', async () => {
    const id = await raised();
    const change = (body: object) => call('PUT', `/api/orders/${id}/head`, body);
    const title = { from: 'Warm', to: 'Warm and loud' };
    expect((await change({ title })).status).toBe(200);
    expect((await change({ customerReference: { from: '', to: 'PO-77' } })).status).toBe(200);
    expect(await page(id)).toMatchObject({ title: 'Warm and loud', customerReference: 'PO-77' });
    const late = await change({ title: { from: 'Warm', to: 'Cold' } });
    expect(refusedAt(late)).toEqual([409, 'title', 'stale']);
    expect(late.body.errors[0]?.message).toContain('Warm and loud');
    // Said again the same is no quarrel.
    expect((await change({ title })).status).toBe(200);
    expect((await page(id)).title).toBe('Warm and loud');
  });
});

describe('clocks of orders with several covers', () => {
  it('count for the agreement that covers the machine', async () => {
    const [third] = world.assetIds.slice(3);
    const own = await agreementInForce(
      call,
      world,
      {},
      {
        ...{ reach: { kind: 'assets', assetIds: [third] }, kinds: ['repair'], serviceLevelId: world.serviceLevelId },
        shares: { labour: 100, parts: 100, travel: 100 },
      },
    );
    const id = await raised({ assetIds: [world.assetIds[0], third] });
    const rows = await house.database.db
      .select()
      .from(clock)
      .where(eq(clock.orderId, id as never));
    const agreements = new Set(rows.map((r) => `${r.assetId} ${r.agreementId}`));
    expect(agreements.has(`${world.assetIds[0]} ${world.agreementId}`)).toBe(true);
    expect(
      [...agreements].some(
        (a) => a.startsWith(`${third} `) && (a.endsWith(` ${own}`) || a.endsWith(` ${world.agreementId}`)),
      ),
    ).toBe(true);
  });
});
