// Orders: lists, recording by role, events that come late, pauses, and the stored verdict.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { buildWorld, openHouse, type Caller, type TestHouse, type World } from './house.ts';

type Page = {
  stage: string;
  clocks: { target: string; state: string; left: number | null; over: number | null; dueAt: number | null }[];
  events: { kind: string; text: string; at: number; recordedAt: number; who: string | null }[];
  offered: string[];
  lines: [{ verdict: { sentence: string; considered: { taken: boolean; reason: string }[] } }];
  pauses: { reason: string; counts: boolean }[];
};
let house: TestHouse;
let call: Caller;
let world: World;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call);
});
afterAll(() => house.close());

const raise = async (over: Record<string, unknown> = {}): Promise<number> =>
  (
    await call<{ id: number }>('POST', '/api/orders', {
      assetIds: [world.assetIds[0]],
      priority: 1,
      cause: 'wear',
      receivedAt: '2026-11-24T09:00:00Z',
      title: 'Noise',
      requestKey: randomUUID(),
      ...over,
    })
  ).body.id;
const record = (id: number, act: unknown, at = '2026-11-24T09:30:00Z', by: Caller = call) =>
  by('POST', `/api/orders/${id}/events`, { requestKey: randomUUID(), at, act });
const page = async (id: number): Promise<Page> => (await call<Page>('GET', `/api/orders/${id}`)).body;
const clockOf = (p: Page, target: string) => p.clocks.find((c) => c.target === target);

describe('recording', () => {
  it('is for those who work on orders', async () => {
    const id = await raise();
    expect((await record(id, { kind: 'note', text: 'x' }, undefined, await house.as('storekeeper'))).status).toBe(403);
    expect((await record(id, { kind: 'note', text: 'seen' }, undefined, await house.as('technician'))).status).toBe(
      200,
    );
    expect((await page(id)).events.map((e) => [e.kind, e.who])).toEqual([
      ['raised', 'The coordinator'],
      ['note', 'The technician'],
    ]);
  });

  it('a call of long ago is told with the reason, and by whom it came', async () => {
    const old = { receivedAt: '2026-09-01T09:00:00Z' };
    const ask = { assetIds: [world.assetIds[0]], priority: 1, cause: 'wear', title: 'Noise', requestKey: randomUUID() };
    const refused = await call('POST', '/api/orders', { ...ask, ...old });
    expect([refused.status, refused.body.errors[0]?.field]).toEqual([422, 'receivedAt']);
    const contact = { name: 'Rosa Vidal', role: 'lab lead', email: null, phone: '900 111', preferred: 'phone' };
    const { id: callerId } = (
      await call<{ id: number }>('POST', `/api/customers/${world.customerId}/contacts`, contact)
    ).body;
    const told = await call<{ id: number }>('POST', '/api/orders', {
      ...ask,
      ...old,
      callerId,
      lateReason: 'the sheet lay in the van',
    });
    expect(told.status).toBe(200);
    const { caller, events } = (await call<Page & { caller: unknown }>('GET', `/api/orders/${told.body.id}`)).body;
    expect(caller).toMatchObject({ name: 'Rosa Vidal', phone: '900 111', email: null });
    expect(JSON.stringify(events)).toContain('told late: the sheet lay in the van');
    const again = { ...ask, ...old, callerId, lateReason: 'the sheet lay in the van' };
    expect((await call<{ id: number }>('POST', '/api/orders', again)).body.id).toBe(told.body.id);
    for (const other of [{ callerId: null }, { lateReason: 'another reason' }])
      expect((await call('POST', '/api/orders', { ...again, ...other })).status).toBe(409);
    const stranger = await call('POST', '/api/orders', {
      ...ask,
      receivedAt: '2026-11-24T09:00:00Z',
      callerId: 99_999,
      requestKey: randomUUID(),
    });
    expect([stranger.status, stranger.body.errors[0]?.field]).toEqual([404, 'callerId']);
  });

  it('what the work took stands on the order and on the asset; costs only for those who see prices', async () => {
    const id = await raise({ priority: 4 });
    await record(id, { kind: 'arrived' }, '2026-11-24T09:10:00Z');
    await record(id, { kind: 'restored' }, '2026-11-24T09:20:00Z');
    const took = { fault: 'gasket', labourMinutes: 90, partsCost: 12_00, otherCost: null };
    expect((await record(id, { kind: 'done', text: '', effort: took })).status).toBe(200);
    type Told = { took: typeof took };
    expect((await call<Told>('GET', `/api/orders/${id}`)).body.took).toEqual(took);
    const technician = await house.as('technician');
    expect((await technician<Told>('GET', `/api/orders/${id}`)).body.took).toEqual({ ...took, partsCost: null });
    const asset = await call<{ orders: { id: number }[] }>('GET', `/api/assets/${world.assetIds[0]}`);
    expect(asset.body.orders.find((o) => o.id === id)).toMatchObject({ fault: 'gasket', labourMinutes: 90 });
  });

  it('an event that was recorded late takes its place by its own time, and the clocks follow', async () => {
    const id = await raise();
    expect(clockOf(await page(id), 'response')).toMatchObject({ state: 'missed' });
    await record(id, { kind: 'arrived' }, '2026-11-24T09:50:00Z');
    expect(clockOf(await page(id), 'response')).toMatchObject({ state: 'missed', over: 20 * 60_000 });
    await record(id, { kind: 'told', technician: 'A. Brandel' }, '2026-11-24T09:10:00Z');
    const after = await page(id);
    expect(clockOf(after, 'response')).toMatchObject({ state: 'met' });
    expect(after.events.map((e) => e.kind)).toEqual(['raised', 'told', 'arrived']);
    expect((after.events[1]?.recordedAt ?? 0) - (after.events[1]?.at ?? 0)).toBe(50 * 60_000);
  });

  it.each<[string, unknown, string, number, string]>([
    ['a future time', { kind: 'arrived' }, '2026-11-24T10:30:00Z', 422, 'at'],
    ['a time before the call', { kind: 'arrived' }, '2026-11-24T08:30:00Z', 422, 'at'],
    ['a time without an offset', { kind: 'arrived' }, '2026-11-24T09:30', 422, 'at'],
    ['an empty note', { kind: 'note', text: ' ' }, '2026-11-24T09:30:00Z', 422, 'act.text'],
    ['an invented act', { kind: 'exploded' }, '2026-11-24T09:30:00Z', 422, 'act.kind'],
    [
      'a pause for no listed reason',
      { kind: 'paused', reason: 'lunch', text: '' },
      '2026-11-24T09:30:00Z',
      422,
      'act.reason',
    ],
    [
      'a plan without a date',
      { kind: 'planned', technicianId: 1, date: 'soon' },
      '2026-11-24T09:30:00Z',
      422,
      'act.date',
    ],
  ])('refuses %s at its field', async (_, act, at, status, field) => {
    const id = await raise();
    const answer = await record(id, act, at);
    expect([answer.status, answer.body.errors[0]?.field]).toEqual([status, field]);
    expect((await page(id)).events).toHaveLength(1);
  });

  it('a pause the service level does not allow is kept as an event, and the clocks run on', async () => {
    const id = await raise({ receivedAt: '2026-11-24T09:50:00Z' });
    expect((await page(id)).pauses).toContainEqual({ reason: 'waiting for parts', counts: false });
    await record(id, { kind: 'paused', reason: 'waiting for parts', text: 'relay' }, '2026-11-24T09:55:00Z');
    const paused = await page(id);
    expect(paused.clocks.map((c) => c.state)).toEqual(['running', 'running', 'running']);
    expect(paused.offered[0]).toBe('resumed');
    expect(paused.events[1]?.text).toBe('paused: waiting for parts (relay)');
  });

  it('calling off voids what still runs', async () => {
    const id = await raise({ receivedAt: '2026-11-24T09:50:00Z' });
    expect((await record(id, { kind: 'called off', text: '' }, '2026-11-24T09:55:00Z')).body.detail).toContain(
      'Say why',
    );
    await record(id, { kind: 'called off', text: 'wrong machine' }, '2026-11-24T09:55:00Z');
    const after = await page(id);
    expect([after.stage, after.clocks.map((c) => c.state), after.offered]).toEqual([
      'called off',
      ['void', 'void', 'void'],
      ['note'],
    ]);
  });
});

describe('the stored verdict', () => {
  it('stays as decided when the agreement changes afterwards', async () => {
    const id = await raise();
    const before = (await page(id)).lines[0].verdict;
    const { version } = (await call<{ version: number }>('GET', `/api/agreements/${world.agreementId}`)).body;
    await call('POST', `/api/agreements/${world.agreementId}/stage`, { version, to: 'suspended', reason: 'unpaid' });
    expect((await page(id)).lines[0].verdict).toEqual(before);
    const later = await page(await raise());
    expect(later.lines[0].verdict.considered[0]).toMatchObject({ taken: false, reason: 'the agreement is suspended' });
    expect(later.clocks).toEqual([]);
    await call('POST', `/api/agreements/${world.agreementId}/stage`, {
      version: version + 1,
      to: 'in force',
      reason: 'paid',
    });
  });
});

describe('lists', () => {
  it('page through all orders newest first, filtered by what is shown', async () => {
    for (let i = 0; i < 5; i += 1) await raise();
    const seen: number[] = [];
    for (let after = ''; ;) {
      const list = (
        await call<{ items: { id: number }[]; next: string | null; total: number }>(
          'GET',
          `/api/orders?show=all&limit=4${after}`,
        )
      ).body;
      seen.push(...list.items.map((o) => o.id));
      if (list.next === null) {
        expect(seen).toHaveLength(list.total);
        break;
      }
      after = `&after=${list.next}`;
    }
    expect(seen).toEqual([...new Set(seen)].sort((a, b) => b - a));
    const finished = (await call<{ items: { stage: string }[] }>('GET', '/api/orders?show=finished')).body.items;
    expect(finished.map((o) => o.stage).sort()).toEqual(['called off', 'done']);
    expect((await call<{ total: number }>('GET', '/api/orders?kind=installation')).body.total).toBe(0);
  });

  it('refuse calls from the future or long ago, and unknown machines', async () => {
    for (const [over, field] of [
      [{ receivedAt: '2026-11-25T09:00:00Z' }, 'receivedAt'],
      [{ receivedAt: '2026-09-01T09:00:00Z' }, 'receivedAt'],
      [{ assetIds: [999] }, 'assetIds'],
      [{ title: ' ' }, 'title'],
      [{ priority: 5 }, 'priority'],
    ] as const) {
      const answer = await call('POST', '/api/orders', {
        assetIds: [world.assetIds[0]],
        priority: 1,
        cause: 'wear',
        receivedAt: '2026-11-24T09:00:00Z',
        title: 'x',
        requestKey: randomUUID(),
        ...over,
      });
      expect([field, answer.body.errors[0]?.field]).toEqual([field, field]);
    }
  });
});
