// Decisions on orders that something spoke against: kept with who took them, listed, taken back, and built again from the events.
import { eq } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { OrderException } from '#api/order-lists.ts';
import type { ExceptionKind } from '#core/orders/index.ts';
import { migrateDatabase } from '../src/platform/database.ts';
import { rebuild } from '../src/platform/derived.ts';
import { DERIVED } from '../src/rooms.ts';
import { customer, orderException } from '../src/tables.ts';
import { calling } from './calling.ts';
import {
  buildWorld,
  freshDatabase,
  migrationsUpTo,
  must,
  openHouse,
  type Caller,
  type TestHouse,
  type World,
} from './house.ts';

type Listed = { items: OrderException[]; next: string | null };
let house: TestHouse;
let world: World;
let call: Caller;
let manager: Caller;
const { raised, page, record } = calling(() => ({ call, world }));
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  manager = await house.as('manager');
  world = await buildWorld(call);
});
afterAll(() => house.close());

const list = async (query = ''): Promise<Listed> =>
  must(await call<Listed>('GET', `/api/order-exceptions?limit=200&${query}`));
const kindsOf = async (id: number): Promise<ExceptionKind[]> =>
  (await list()).items.filter((e) => e.order.id === id).map((e) => e.kind);

async function overTerms(since: string | null): Promise<void> {
  await house.database.db
    .update(customer)
    .set({ overSince: since as never })
    .where(eq(customer.id, world.customerId as never));
}

describe('exceptions', () => {
  it('name what was decided, why, and by whom; what was put right is none any more', async () => {
    const plan = { kind: 'inspection', jobPlanId: world.jobPlanId };
    await overTerms('2026-11-01');
    const id = await raised({ ...plan, overTermsReason: 'vaccines at risk' });
    await overTerms(null);
    const [filter, gasket] = (await page(id)).tasks;
    must(await record(id, { kind: 'arrived' }));
    must(await record(id, { kind: 'task', taskId: gasket?.id, outcome: 'left', text: 'not needed' }));
    expect(await kindsOf(id)).toEqual(['over terms']);
    must(await record(id, { kind: 'task', taskId: filter?.id, outcome: 'left', text: 'no filter in the van' }));
    expect((await list()).items.filter((e) => e.order.id === id)).toMatchObject([
      {
        ...{ kind: 'task left', text: 'left: Clean filter (no filter in the van)', order: { id, stage: 'on site' } },
        who: { name: 'The coordinator' },
      },
      { kind: 'over terms', text: 'over terms since Sun 1 Nov 2026: vaccines at risk' },
    ]);
    must(await record(id, { kind: 'task', taskId: filter?.id, outcome: 'done', text: '' }));
    expect(await kindsOf(id)).toEqual(['over terms']);
  });

  it('are found by kind, who decided, day and depot, and page by page; the list of orders knows which have one', async () => {
    const id = await raised();
    must(await record(id, { kind: 'arrived' }));
    must(await record(id, { kind: 'restored' }));
    must(await record(id, { kind: 'signed', by: '', function: '', text: 'nobody about' }));
    const other = await raised({ kind: 'inspection', jobPlanId: world.jobPlanId });
    must(await record(other, { kind: 'arrived' }));
    must(await record(other, { kind: 'done', text: '', anyway: 'the site closed' }, manager));
    const all = (await list()).items;
    expect(all.map((e) => e.id)).toEqual([...all].sort((a, b) => b.at - a.at || b.id - a.id).map((e) => e.id));
    for (const kind of new Set(all.map((e) => e.kind)))
      expect((await list(`kind=${encodeURIComponent(kind)}`)).items).toEqual(all.filter((e) => e.kind === kind));
    const decided = all.find((e) => e.order.id === other);
    expect(decided?.kind).toBe('done with something missing');
    expect((await list(`who=${decided?.who?.id}`)).items).toEqual(all.filter((e) => e.who?.id === decided?.who?.id));
    expect((await list('from=2026-11-24&to=2026-11-24')).items).toEqual(all);
    expect((await list('from=2026-11-25')).items).toEqual([]);
    expect((await list('to=2026-11-23')).items).toEqual([]);
    expect((await list('depot=987654')).items).toEqual([]);
    const paged: OrderException[] = [];
    for (let next: string | null = ''; next !== null;) {
      const one: Listed = must(
        await call<Listed>('GET', `/api/order-exceptions?limit=1${next && `&after=${encodeURIComponent(next)}`}`),
      );
      paged.push(...one.items);
      next = one.next;
    }
    expect(paged).toEqual(all);
    const orders = must(
      await call<{ items: { id: number }[] }>('GET', '/api/orders?show=all&exception=yes&limit=200'),
    ).items;
    expect(new Set(orders.map((o) => o.id))).toEqual(new Set(all.map((e) => e.order.id)));
    const csv = await house.app.inject({ method: 'GET', url: '/api/order-exceptions.csv', headers: { cookie: '' } });
    expect(csv.statusCode).toBe(401);
    expect((await (await house.as('technician'))('GET', '/api/order-exceptions')).status).toBe(403);
  });

  it('follow from the events: nothing differs, and what was lost comes back', async () => {
    const { db } = house.database;
    const before = await db.select().from(orderException);
    expect(before.length).toBeGreaterThan(2);
    const check = async (mend: boolean) =>
      (await rebuild(house.database, DERIVED, house.now, mend)).flatMap((r) => r.differing);
    expect(await check(false)).toEqual([]);
    await db.delete(orderException).where(eq(orderException.kind, 'over terms'));
    expect((await check(true)).join()).toContain('exceptions of order');
    expect(await db.select().from(orderException)).toEqual(before);
  });
});

describe('decisions from before they were kept by themselves', () => {
  it('are found in the events, as the rules find them', async () => {
    const { database } = await freshDatabase();
    await migrateDatabase(database, await migrationsUpTo(50));
    const old = async (sql: string) => void (await database.pool.query(sql));
    await old("INSERT INTO customer (name) VALUES ('Old customer')");
    await old(
      `INSERT INTO work_order (kind, stage, priority, title, customer_id, zone, started_at, done_at)
       VALUES ('inspection', 'done', 2, 'Check', 1, 'Europe/Lisbon', '2026-11-01 09:00:00.000', '2026-11-01 10:00:00.000')`,
    );
    await old(`INSERT INTO order_line (order_id, verdict, promises) VALUES (1, 'null', '{}'), (1, 'null', '{}')`);
    await old(
      `INSERT INTO order_task (order_id, order_line_id, position, text, mandatory) VALUES (1, 1, 0, 'A', 1), (1, 1, 1, 'B', 1), (1, 1, 2, 'C', 0)`,
    );
    const line = { lineId: 1, before: { sentence: '', promise: '' }, after: { sentence: '', promise: '' } };
    const acts = [
      { kind: 'raised', text: 'x' },
      { kind: 'note', text: 'over terms since Sun 1 Nov 2026: a hospital' },
      { kind: 'arrived' },
      { kind: 'task', taskId: 1, outcome: 'left', text: 'x' },
      { kind: 'task', taskId: 2, outcome: 'left', text: 'x' },
      { kind: 'task', taskId: 2, outcome: 'done', text: '' },
      { kind: 'task', taskId: 3, outcome: 'left', text: 'x' },
      { kind: 'line', lineId: 2, outcome: 'left', text: 'x' },
      { kind: 'changed', text: 'x', lines: [{ ...line, machine: { from: 'a', to: 'b' } }] },
      { kind: 'changed', text: 'x', lines: [{ ...line, cause: { from: 'wear', to: 'misuse' } }] },
      { kind: 'note', text: 'over terms since Monday, they say' },
      { kind: 'done', text: '', anyway: 'agreed' },
    ];
    for (const [i, act] of acts.entries()) {
      const at = `2026-11-01 09:${String(i < 2 ? 0 : i).padStart(2, '0')}:00.000`;
      await database.pool.query(
        'INSERT INTO order_event (order_id, at, recorded_at, person_id, act) VALUES (1, ?, ?, 1, ?)',
        [...[at, at, JSON.stringify(act)]],
      );
    }
    await migrateDatabase(database);
    const kept = await database.db.select().from(orderException).orderBy(orderException.eventId);
    expect(kept.map((e) => [e.eventId, e.kind, e.personId])).toEqual([
      [2, 'over terms', 1],
      [4, 'task left', 1],
      [8, 'machine left', 1],
      [10, 'decided again', 1],
      [12, 'done with something missing', 1],
    ]);
    const [compared] = await rebuild(
      database,
      DERIVED.filter((d) => d.what === 'orders'),
      house.now,
      false,
    );
    expect(compared?.differing.filter((d) => d.startsWith('exceptions'))).toEqual([]);
    await database.close();
  });
});
