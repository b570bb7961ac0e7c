// Clocks at work: who is warned of what, once; who has an order in hand; counts and groups as core says them.
import { randomUUID } from 'node:crypto';
import fc from 'fast-check';
import { eq } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { ClocksAtWork } from '#api/clocks.ts';
import type { OrderPage } from '#api/orders.ts';
import { marginOf } from '#core/service-levels/index.ts';
import { asInstant, instant, MINUTE, type Instant } from '#core/time/index.ts';
import { openDatabase, type Database } from '../src/platform/database.ts';
import { warnOfPromises } from '../src/orders/warnings.ts';
import { clock, clockWarning, outbox, person } from '../src/tables.ts';
import { buildWorld, must, NOW as HOUSE_NOW, openHouse, type Caller, type TestHouse, type World } from './house.ts';

let house: TestHouse;
let world: World;
let call: Caller;
let technician: number;
let manager: number;
const NOW = asInstant(HOUSE_NOW);
const step = (percent: number, over: object = {}) => ({
  percent,
  inCharge: true,
  technician: false,
  people: [],
  ...over,
});

beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call, { assets: 6 });
  const people = must(
    await call<{ people: { id: number; name: string }[]; technicians: { id: number }[] }>('GET', '/api/reference'),
  );
  technician = people.technicians[0]?.id as number;
  const [boss] = await house.database.db.select().from(person).where(eq(person.role, 'manager'));
  manager = boss?.id as number;
  must(
    await call('PUT', `/api/service-levels/${world.serviceLevelId}`, {
      ...{ version: 1, holdsFrom: '2026-01-02', name: 'Warned' },
      pauses: ['no access'],
      targets: { 1: { restoration: { measure: 'elapsed', minutes: 120 } } },
      pledge: {
        ...{ warnPercent: 25, availability: null, tiers: [], cap: null },
        warnings: [step(50), step(25, { technician: true }), step(0, { inCharge: false, people: [manager] })],
      },
    }),
  );
});
afterAll(() => house.close());

const later = (minutes: number): Instant => instant(NOW + minutes * MINUTE);
const raise = async (receivedAt = NOW, n = 0): Promise<number> =>
  must(
    await call<{ id: number }>('POST', '/api/orders', {
      ...{ assetIds: [world.assetIds[n]], priority: 1, cause: 'wear', title: 'Too warm', requestKey: randomUUID() },
      receivedAt: new Date(receivedAt).toISOString(),
    }),
  ).id;
const record = (id: number, act: unknown, at: Instant = NOW) =>
  call('POST', `/api/orders/${id}/events`, { requestKey: randomUUID(), at: new Date(at).toISOString(), act });
const read = async (query = ''): Promise<ClocksAtWork> => must(await call<ClocksAtWork>('GET', `/api/clocks${query}`));
const ofOrder = async (id: number) => (await read()).items.find((i) => i.clock.orderId === id);
/** Who was told of an order, by the share that was left. */
const told = async (id: number): Promise<[string, string][]> => {
  const rows = await house.database.db
    .select({ key: outbox.outKey, to: outbox.toName })
    .from(outbox)
    .where(eq(outbox.aboutId, id))
    .orderBy(outbox.id);
  return rows.flatMap((r) => {
    const at = / restoration \d+ at (\d+) to /.exec(r.key)?.[1];
    return at === undefined ? [] : [[at, r.to] as [string, string]];
  });
};
const nameOf = async (id: number): Promise<string> => {
  const [row] = await house.database.db
    .select()
    .from(person)
    .where(eq(person.id, id as never));
  return row?.name ?? '';
};
const self = async (): Promise<string> =>
  must(await call<{ person: { name: string } }>('GET', '/api/session')).person.name;

describe('a warning', () => {
  it('goes to who raised the order, once, and shows with it until somebody sees to it', async () => {
    const id = await raise();
    expect(await warnOfPromises(house.database, later(59))).toBe(0);
    expect(await told(id)).toEqual([]);
    await warnOfPromises(house.database, later(60));
    await warnOfPromises(house.database, later(61));
    expect(await told(id)).toEqual([['50', await self()]]);
    expect((await ofOrder(id))?.warnings).toEqual([
      { percent: 50, at: later(60), told: [await self()], acknowledged: null },
    ]);
    expect((await read('?unseen=yes')).items.map((i) => i.clock.orderId)).toContain(id);
    expect(
      must(await call<{ acknowledged: number }>('POST', `/api/orders/${id}/warnings/acknowledge`)).acknowledged,
    ).toBe(1);
    expect(
      must(await call<{ acknowledged: number }>('POST', `/api/orders/${id}/warnings/acknowledge`)).acknowledged,
    ).toBe(0);
    expect((await ofOrder(id))?.warnings[0]?.acknowledged).toEqual({ at: NOW, by: await self() });
    expect((await read('?unseen=yes')).items.map((i) => i.clock.orderId)).not.toContain(id);
    // The last step names somebody else.
    await warnOfPromises(house.database, later(121));
    expect((await told(id)).at(-1)).toEqual(['0', await nameOf(manager)]);
    await record(id, { kind: 'called off', text: 'a test' });
  });

  it('of several steps at once says the latest, and of none while the clock stands still', async () => {
    const id = await raise();
    await record(id, { kind: 'paused', reason: 'no access', text: '' });
    await warnOfPromises(house.database, later(500));
    expect(await told(id)).toEqual([]);
    await record(id, { kind: 'resumed' }, later(1));
    await warnOfPromises(house.database, later(100));
    // Nobody goes yet: whoever has it in hand is told in their place, once.
    expect(await told(id)).toEqual([['25', await self()]]);
    expect((await ofOrder(id))?.warnings.map((w) => [w.percent, w.told.length])).toEqual([
      [50, 0],
      [25, 1],
    ]);
    await record(id, { kind: 'called off', text: 'a test' }, later(1));
  });

  it('goes to whoever has it in hand by then, and who goes; where they have left, to every coordinator', async () => {
    const id = await raise();
    const technicianName = await nameOf(technician);
    must(
      await call('POST', `/api/orders/${id}/hand-over`, {
        ...{ personId: technician, text: 'knows the machine', requestKey: randomUUID() },
      }),
    );
    const page = must(await call<OrderPage>('GET', `/api/orders/${id}`));
    expect([page.inCharge?.name, page.events.at(-1)?.text]).toEqual([
      technicianName,
      `in the hands of ${technicianName}: knows the machine`,
    ]);
    await warnOfPromises(house.database, later(60));
    expect(await told(id)).toEqual([['50', technicianName]]);
    await house.database.db
      .update(person)
      .set({ active: false })
      .where(eq(person.id, technician as never));
    await warnOfPromises(house.database, later(90));
    expect((await told(id)).slice(1)).toEqual([['25', await self()]]);
    await house.database.db
      .update(person)
      .set({ active: true })
      .where(eq(person.id, technician as never));
    await record(id, { kind: 'called off', text: 'a test' });
  });

  it('is told once by two servers at the same moment', async () => {
    const id = await raise();
    const second: Database = openDatabase(house.url, 4);
    const all = await Promise.all([house.database, second, house.database].map((d) => warnOfPromises(d, later(60))));
    await second.close();
    expect([all.reduce((a, b) => a + b, 0), (await told(id)).length]).toEqual([1, 1]);
    await record(id, { kind: 'called off', text: 'a test' });
  });

  it('whatever happens to an order: each step once, at the first look at which the clock had so little left', async () => {
    const acts = fc.array(
      fc.record({
        minutes: fc.integer({ min: 1, max: 70 }),
        act: fc.constantFrom('paused' as const, 'resumed' as const, 'look' as const),
      }),
      { maxLength: 8 },
    );
    await fc.assert(
      fc.asyncProperty(acts, async (all) => {
        const id = await raise(instant(NOW - 10 * 3_600_000), 1);
        let t: number = NOW - 10 * 3_600_000;
        let [used, since]: [number, number | null] = [0, t];
        const expected = new Set<number>();
        for (const { minutes, act } of all) {
          t += minutes * MINUTE;
          if (act === 'look') {
            await warnOfPromises(house.database, instant(t));
            const spent = used + (since === null ? 0 : t - since);
            const come = [50, 25, 0].filter((p) => spent >= 120 * MINUTE * (1 - p / 100));
            if (since !== null) come.forEach((p) => expected.add(p));
            continue;
          }
          // What is missed stays so, pauses or not.
          if (act === 'paused' && since !== null) {
            must(await record(id, { kind: 'paused', reason: 'no access', text: '' }, instant(t)));
            [used, since] = [used + t - since, used + t - since > 120 * MINUTE ? t : null];
            if (since !== null) break;
          } else if (act === 'resumed' && since === null) {
            must(await record(id, { kind: 'resumed' }, instant(t)));
            since = t;
          }
        }
        const kept = await house.database.db
          .select()
          .from(clockWarning)
          .where(eq(clockWarning.orderId, id as never));
        const [row] = await house.database.db
          .select()
          .from(clock)
          .where(eq(clock.orderId, id as never));
        // The server itself looks too, at its own time: by then all that had come was told.
        const own = (row?.warnSteps ?? []).filter((s) => row?.state === 'running' && s.at <= NOW).map((s) => s.percent);
        const seen = new Set(kept.map((k) => k.percent));
        expect([...expected].every((p) => seen.has(p))).toBe(true);
        expect([...seen].every((p) => expected.has(p) || own.includes(p))).toBe(true);
        const sent = (await told(id)).map(([p]) => p);
        expect(sent.length).toBe(new Set(sent).size);
        await record(id, { kind: 'called off', text: 'a test' });
      }),
      { numRuns: 12 },
    );
  });
});

describe('handing over', () => {
  it.each([
    ['nobody', 0, 422],
    ['somebody who is not there', 99_999, 404],
  ])('to %s is refused at its field and changes nothing', async (_, personId, status) => {
    const id = await raise();
    const before = must(await call<OrderPage>('GET', `/api/orders/${id}`));
    const refused = await call<{ errors: { field: string }[] }>('POST', `/api/orders/${id}/hand-over`, {
      ...{ personId, text: '', requestKey: randomUUID() },
    });
    expect([refused.status, refused.body.errors[0]?.field]).toEqual([status, 'personId']);
    expect(must(await call<OrderPage>('GET', `/api/orders/${id}`))).toEqual(before);
    await record(id, { kind: 'called off', text: 'a test' });
  });

  it('of what is over is refused', async () => {
    const id = await raise();
    await record(id, { kind: 'called off', text: 'a test' });
    const refused = await call('POST', `/api/orders/${id}/hand-over`, {
      ...{ personId: technician, text: '', requestKey: randomUUID() },
    });
    expect([refused.status, refused.body.detail]).toEqual([409, 'It is called off: nobody has to see to it any more.']);
  });

  it('to who has it already is refused; sent twice it is one', async () => {
    const id = await raise();
    const body = { personId: technician, text: '', requestKey: randomUUID() };
    must(await call('POST', `/api/orders/${id}/hand-over`, body));
    must(await call('POST', `/api/orders/${id}/hand-over`, body));
    const again = await call('POST', `/api/orders/${id}/hand-over`, { ...body, requestKey: randomUUID() });
    expect(again.status).toBe(409);
    const page = must(await call<OrderPage>('GET', `/api/orders/${id}`));
    expect(page.events.filter((e) => e.text.startsWith('in the hands')).length).toBe(1);
    await record(id, { kind: 'called off', text: 'a test' });
  });
});

describe('clocks at work', () => {
  it('are counted, grouped and paged as core says each of them', async () => {
    const made: number[] = [];
    for (const [n, ago] of [0, 40, 100, 130, 200, 91].entries())
      made.push(await raise(instant(NOW - ago * MINUTE), n % 6));
    await record(made[1] as number, { kind: 'paused', reason: 'no access', text: '' });
    await record(made[2] as number, { kind: 'told', technicianId: technician });
    const all = await read('?limit=100');
    expect(all.items.length).toBeGreaterThanOrEqual(6);
    const counts = { missed: 0, short: 0, enough: 0, paused: 0 };
    for (const { clock: c, margin } of all.items) {
      expect(margin).toBe(marginOf(c));
      counts[margin] += 1;
    }
    expect(all.counts).toEqual(counts);
    expect(counts).toMatchObject({ missed: 2, short: 2, enough: 1, paused: 1 });
    for (const by of ['agreement', 'customer', 'depot', 'technician', 'in hand', 'target', 'priority', 'wait']) {
      const { groups, items } = await read(`?limit=100&by=${encodeURIComponent(by)}`);
      expect(items.length).toBe(all.items.length);
      const sum = groups.reduce((n, g) => n + g.missed + g.short + g.enough + g.paused, 0);
      expect([by, sum]).toEqual([by, all.items.length]);
      for (const g of groups) {
        const one = await read(`?limit=100&by=${encodeURIComponent(by)}&of=${encodeURIComponent(g.key)}`);
        expect([by, g.key, one.items.length]).toEqual([by, g.key, g.missed + g.short + g.enough + g.paused]);
        expect(one.items.map((i) => i.margin).filter((m) => m === 'missed').length).toBe(g.missed);
      }
    }
    for (const margin of ['missed', 'short', 'enough', 'paused'] as const)
      expect((await read(`?margin=${margin}`)).items.map((i) => i.margin)).toEqual(Array(counts[margin]).fill(margin));
    // Page by page each once, those that stand still last.
    const seen: string[] = [];
    for (let after: string | null = ''; after !== null;) {
      const page: ClocksAtWork = await read(`?limit=2${after ? `&after=${encodeURIComponent(after)}` : ''}`);
      seen.push(...page.items.map((i) => `${i.clock.orderId} ${i.clock.target}`));
      after = page.next;
    }
    expect(seen).toEqual(all.items.map((i) => `${i.clock.orderId} ${i.clock.target}`));
    expect(all.items.at(-1)?.margin).toBe('paused');
    expect((await read('?mine=yes')).items.length).toBe(all.items.length);
    for (const id of made) await record(id, { kind: 'called off', text: 'a test' });
  });
});

describe('a workaround', () => {
  type Of = { offered: string[]; clocks: { target: string; state: string; dueAt: number }[] };
  const page = async (id: number): Promise<Of> => must(await call<Of>('GET', `/api/orders/${id}`));
  it('is offered and told only where one was promised, keeps that promise, and what is to be restored stays open', async () => {
    const plain = await raise(NOW, 4);
    expect((await page(plain)).offered).not.toContain('worked around');
    await record(plain, { kind: 'called off', text: 'a test' });
    must(
      await call('PUT', `/api/service-levels/${world.serviceLevelId}`, {
        ...{ version: 2, holdsFrom: '2026-01-03', name: 'With a workaround', pauses: [] },
        targets: {
          1: { workaround: { measure: 'elapsed', minutes: 60 }, restoration: { measure: 'elapsed', minutes: 120 } },
        },
      }),
    );
    const id = await raise(instant(NOW - 20 * MINUTE), 4);
    expect((await page(id)).offered).toContain('worked around');
    const unsaid = await record(id, { kind: 'worked around', text: ' ' });
    expect([unsaid.status, (await page(id)).clocks.map((c) => c.state)]).toEqual([422, ['running', 'running']]);
    must(await record(id, { kind: 'worked around', text: 'runs on the second fan' }, instant(NOW - 5 * MINUTE)));
    const { offered, clocks } = await page(id);
    expect(Object.fromEntries(clocks.map((c) => [c.target, c.state]))).toEqual({
      workaround: 'met',
      restoration: 'running',
    });
    expect(offered).not.toContain('worked around');
    expect(offered).toContain('restored');
    // What is left goes on with its promise of back in use; the kept one stays.
    must(
      await call('POST', `/api/orders/${id}/follow-up`, {
        ...{ requestKey: randomUUID(), reason: 'a fan is ordered' },
        lineIds: [((await call<OrderPage>('GET', `/api/orders/${id}`)).body.lines[0] as { id: number }).id],
      }),
    );
    expect((await page(id)).clocks.map((c) => [c.target, c.state])).toEqual([['workaround', 'met']]);
  });

  it('that nobody told goes on with the order that follows, once', async () => {
    const id = await raise(instant(NOW - 20 * MINUTE), 5);
    const [line] = must(await call<OrderPage>('GET', `/api/orders/${id}`)).lines;
    const next = must(
      await call<{ id: number }>('POST', `/api/orders/${id}/follow-up`, {
        ...{ requestKey: randomUUID(), reason: 'a fan is ordered', lineIds: [line?.id] },
      }),
    ).id;
    expect((await page(id)).clocks).toEqual([]);
    expect((await page(next)).clocks.map((c) => [c.target, c.state])).toEqual([
      ['workaround', 'running'],
      ['restoration', 'running'],
    ]);
  });
});
