// Lists of orders: every filter and order against a plain look at all of them; views under a name; one act on many.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { BulkEffect, OrderView } from '#api/order-lists.ts';
import type { OrderRow } from '#api/orders.ts';
import { addDays, localDateAt, asZone, type LocalDate } from '#core/time/index.ts';
import { rebuild } from '../src/platform/derived.ts';
import { DERIVED } from '../src/rooms.ts';
import { depot, location, person, workOrder } from '../src/tables.ts';
import { buildWorld, must, openHouse, type Answer, type Caller, type TestHouse, type World } from './house.ts';

type Listed = { items: OrderRow[]; next: string | null; total: number; more: boolean };
let house: TestHouse;
let call: Caller;
let world: World;
let technician: number;
let depotId: number;
const ids: number[] = [];

const refusedAt = ({ status, body }: Answer): unknown[] => [status, body.errors[0]?.field, body.errors[0]?.code];
const act = (id: number | undefined, of: object, at = '2026-11-24T09:50:00Z') =>
  call('POST', `/api/orders/${id}/events`, { requestKey: randomUUID(), at, act: of });
const list = async (query: string, by = call): Promise<Listed> =>
  must(await by<Listed>('GET', `/api/orders?limit=200&${query}`));

beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call, { assets: 4 });
  const { db } = house.database;
  const people = await db.select().from(person);
  technician = people.find((p) => p.role === 'technician')?.id as number;
  depotId = must(
    await call<{ id: number }>('POST', '/api/depots', {
      name: 'Ribeira',
      latitude: null,
      longitude: null,
      capacity: [],
    }),
  ).id;
  await db.update(location).set({ depotId: depotId as never });
  for (let i = 0; i < 24; i += 1) {
    const kind = (['repair', 'repair', 'inspection'] as const)[i % 3];
    const day = String(24 - (i % 12) * 2).padStart(2, '0');
    const raised = await call<{ id: number }>('POST', '/api/orders', {
      ...{ requestKey: randomUUID(), assetIds: [world.assetIds[i % 4]], kind, priority: (i % 4) + 1, cause: 'wear' },
      ...{ title: `Trouble ${i}`, receivedAt: `2026-11-${day}T08:00:00Z`, lateReason: 'found in the van' },
    });
    ids.push(must(raised).id);
  }
  await db.update(location).set({ depotId: null });
  for (const i of [0, 5, 9]) must(await act(ids[i], { kind: 'planned', technicianId: technician, date: '2026-11-25' }));
  must(await act(ids[0], { kind: 'sent' }));
  for (const i of [1, 2, 3])
    must(await act(ids[i], { kind: 'paused', reason: i === 1 ? 'waiting for parts' : 'no access', text: '' }));
  must(await act(ids[3], { kind: 'resumed' }, '2026-11-24T09:55:00Z'));
  must(await act(ids[6], { kind: 'called off', text: 'x' }));
  must(await act(ids[7], { kind: 'arrived' }));
  must(await act(ids[7], { kind: 'restored' }));
  must(await act(ids[7], { kind: 'done', text: '' }));
});
afterAll(() => house.close());

describe('the list of orders', () => {
  const today = (): LocalDate => localDateAt(asZone('Europe/Lisbon'), house.now);
  const OPEN = ['raised', 'planned', 'sent', 'on site'];
  const isOpen = (o: OrderRow): boolean => OPEN.includes(o.stage);
  const isDue = (o: OrderRow, before: LocalDate): boolean => o.nextDue !== null && o.nextDue < before;
  const old = (o: OrderRow, days: number): boolean => o.startedAt < house.now - days * 86_400_000;

  it.each<[string, (o: OrderRow) => boolean]>([
    ['show=all', () => true],
    ['', isOpen],
    ['show=finished', (o) => !isOpen(o)],
    ['stage=planned,sent', (o) => ['planned', 'sent'].includes(o.stage)],
    ['kind=inspection', (o) => isOpen(o) && o.kind === 'inspection'],
    ['technician=none', (o) => isOpen(o) && o.technician === null],
    ['waiting=any', (o) => isOpen(o) && o.waitingFor !== null],
    ['waiting=no%20access', (o) => o.waitingFor === 'no access'],
    ['priority=2&show=all', (o) => o.priority === 2],
    ['older=7', (o) => isOpen(o) && old(o, 7)],
    ['due=late', (o) => isOpen(o) && isDue(o, today())],
    ['due=today', (o) => isOpen(o) && isDue(o, addDays(today(), 1))],
    ['due=week&kind=repair', (o) => isOpen(o) && o.kind === 'repair' && isDue(o, addDays(today(), 7))],
    ['older=3&priority=1', (o) => isOpen(o) && old(o, 3) && o.priority === 1],
  ])('filtered by “%s” is what a look at all of them says', async (query, fits) => {
    const all = (await list('show=all')).items;
    expect(all).toHaveLength(ids.length);
    const { items, total, more } = await list(query);
    expect(items.map((o) => o.id).sort()).toEqual(
      all
        .filter(fits)
        .map((o) => o.id)
        .sort(),
    );
    expect([total, more]).toEqual([items.length, false]);
    expect(items.length > 0 && items.length <= all.length).toBe(true);
  });

  it('by technician and depot knows who goes and whose it was when it was raised', async () => {
    expect((await list(`technician=${technician}`)).items.map((o) => o.id).sort()).toEqual(
      [ids[0], ids[5], ids[9]].sort(),
    );
    expect((await list(`depot=${depotId}&show=all`)).total).toBe(ids.length);
    const [none] = await house.database.db.select().from(depot);
    expect((await list(`depot=${(none?.id as number) + 1}`)).total).toBe(0);
  });

  it.each(['newest', 'due', 'oldest'])('sorted %s is walked page by page without loss', async (sort) => {
    const whole = (await list(`show=all&sort=${sort}`)).items;
    const walked: OrderRow[] = [];
    for (let after = ''; ;) {
      const page = must(await call<Listed>('GET', `/api/orders?show=all&sort=${sort}&limit=5${after}`));
      walked.push(...page.items);
      if (page.next === null) break;
      after = `&after=${page.next}`;
    }
    expect(walked.map((o) => o.id)).toEqual(whole.map((o) => o.id));
    const by = {
      newest: (o: OrderRow) => -o.id,
      oldest: (o: OrderRow) => o.startedAt,
      due: (o: OrderRow) => o.nextDue ?? '9',
    }[sort as 'due'];
    const keys = whole.map(by);
    expect(keys).toEqual([...keys].sort((a, b) => (a < b ? -1 : a > b ? 1 : 0)));
  });

  it('keeps the day on which its next promise ends as its events say', async () => {
    for (const { differing } of await rebuild(house.database, DERIVED, house.now, false)) expect(differing).toEqual([]);
    const rows = (await list('show=all')).items;
    for (const o of rows)
      if (o.nextClock?.dueAt && o.nextClock.state !== 'paused')
        expect(o.nextDue).toBe(localDateAt(asZone(o.nextClock.zone), o.nextClock.dueAt));
    expect(rows.filter((o) => !isOpen(o)).every((o) => o.nextDue === null)).toBe(true);
  });

  it('says what is wrong with a filter', async () => {
    for (const [query, field] of [
      ['stage=planed', 'stage.0'],
      ['older=x', 'older'],
      ['technician=somebody', 'technician'],
      ['due=never', 'due'],
      ['after=a', 'after'],
    ])
      expect([query, (await call('GET', `/api/orders?${query}`)).body.errors[0]?.field]).toEqual([query, field]);
  });

  it('comes out as it is filtered', async () => {
    const csv = must(await call<{ text: string }>('GET', '/api/orders.csv?waiting=any')).text;
    expect(csv.trim().split('\r\n')).toHaveLength(3);
  });
});

describe('a view', () => {
  const views = async (by = call) => must(await by<{ items: OrderView[] }>('GET', '/api/order-views')).items;
  const keep = (body: object, by = call) =>
    by<{ id: number }>('POST', '/api/order-views', { name: 'Waiting', query: 'waiting=any', shared: false, ...body });

  it('is one’s own, or shared; kept again it is replaced; only its owner removes it', async () => {
    const dispatcher = await house.as('dispatcher');
    const { id } = must(await keep({}));
    expect([(await views()).length, (await views(dispatcher)).length]).toEqual([1, 0]);
    expect(must(await keep({ query: 'waiting=any&sort=due', shared: true })).id).toBe(id);
    expect((await views(dispatcher))[0]).toMatchObject({ name: 'Waiting', own: false, query: 'waiting=any&sort=due' });
    // Somebody else may call theirs the same.
    must(await keep({ name: 'Waiting' }, dispatcher));
    expect((await dispatcher('DELETE', `/api/order-views/${id}`)).status).toBe(403);
    must(await call('DELETE', `/api/order-views/${id}`));
    expect((await views()).length).toBe(0);
    expect(refusedAt(await keep({ name: ' ' }))).toEqual([422, 'name', 'invalid']);
    expect(refusedAt(await keep({ query: '<script>' }))).toEqual([422, 'query', 'invalid']);
  });
});

describe('one act on many orders', () => {
  const bulk = (body: object, preview = false, by = call) =>
    by<BulkEffect>(
      'POST',
      `/api/orders/bulk${preview ? '/preview' : ''}`,
      preview ? body : { requestKey: randomUUID(), ...body },
    );
  const stages = async () =>
    new Map((await house.database.db.select().from(workOrder)).map((o) => [o.id as number, o.stage]));

  it('is done where it may be, and says of the others why not; the preview said so and wrote nothing', async () => {
    const wanted = [ids[10], ids[6], ids[11], ids[7], 987_654];
    const ask = { ids: wanted, act: { kind: 'planned', technicianId: technician, date: '2026-11-26' } };
    const before = await stages();
    const seen = must(await bulk(ask, true));
    expect(await stages()).toEqual(before);
    expect(seen.done).toBe(2);
    expect(seen.refused.map((r) => r.id)).toEqual([ids[6], ids[7], 987_654]);
    expect(seen.refused[0]?.reason).toContain('called off');
    const key = randomUUID();
    expect(must(await bulk({ ...ask, requestKey: key }))).toEqual(seen);
    expect(must(await bulk({ ...ask, requestKey: key }))).toEqual(seen);
    const after = await stages();
    expect([after.get(ids[10] as number), after.get(ids[6] as number)]).toEqual(['planned', 'called off']);
    const events = must(await call<{ events: { kind: string }[] }>('GET', `/api/orders/${ids[10]}`)).events;
    expect(events.filter((e) => e.kind === 'planned')).toHaveLength(1);
  });

  it('of nobody, for nobody, or without a reason is refused', async () => {
    expect(refusedAt(await bulk({ ids: [], act: { kind: 'sent' } }))).toEqual([422, 'ids', 'invalid']);
    expect(refusedAt(await bulk({ ids: [ids[12]], act: { kind: 'called off', text: ' ' } }))).toEqual([
      422,
      'act.text',
      'invalid',
    ]);
    const nobody = { ids: [ids[12]], act: { kind: 'planned', technicianId: 987_654, date: '2026-11-26' } };
    expect(refusedAt(await bulk(nobody))).toEqual([404, 'act.technicianId', 'not-found']);
    expect((await bulk({ ids: [ids[12]], act: { kind: 'sent' } }, false, await house.as('technician'))).status).toBe(
      403,
    );
  });
});
