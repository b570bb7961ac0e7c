// A rota proposed by the house: worked out beside requests, looked at, accepted in part; what changed meanwhile asks again and nothing else.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { PlanOut } from '#api/rota-plans.ts';
import type { RotaAppointment } from '#api/rota.ts';
import { decideAppointment, type PersonDay } from '#core/rota/index.ts';
import { localDateAt } from '#core/time/index.ts';
import { daysOf, whoGoes } from '../src/rota/index.ts';
import { roadsOf } from '../src/rota/roads.ts';
import { around, together, workOf } from '../src/rota/work.ts';
import { appointment, rotaStep } from '../src/tables.ts';
import { refusedAt } from './calling.ts';
import { must } from './house.ts';
import { bookingOf, openRota, repairOf, rotaOf, type RotaHouse } from './rota-house.ts';

let here: RotaHouse;
beforeAll(async () => {
  here = await openRota(10);
});
afterAll(() => here?.house.close());

const DAY = '2026-11-26';
const asked = (over: object = {}) => ({
  ...{ requestKey: randomUUID(), from: DAY, days: 1, depotId: null, orders: null, moves: true, movesTold: false },
  ...{ rules: 'promises first', ...over },
});
const propose = (over: object = {}) => here.desk<{ id: number }>('POST', '/api/rota/plans', asked(over));
const read = async (id: number): Promise<PlanOut> => must(await here.desk<PlanOut>('GET', `/api/rota/plans/${id}`));
async function ready(over: object = {}): Promise<PlanOut> {
  const { id } = must(await propose(over));
  for (let waited = 0; waited < 300; waited += 1) {
    const plan = await read(id);
    if (plan.state !== 'working') return plan;
    await new Promise((go) => setTimeout(go, 100));
  }
  throw new Error('no plan within half a minute');
}
const accept = (id: number, keys: readonly number[]) =>
  here.desk<{ accepted: number; refused: { key: number; why: string }[] }>('POST', `/api/rota/plans/${id}/acceptance`, {
    keys,
  });
const onDay = async (): Promise<readonly RotaAppointment[]> => (await rotaOf(here.desk, DAY, 1)).appointments;
const clear = async (): Promise<void> => {
  for (const a of await here.house.database.db.select().from(appointment))
    must(await here.desk('POST', `/api/rota/appointments/${a.id}/out`, { version: a.version, text: '' }));
};

/** Nothing that binds speaks against any of it, by the rule that a drag is looked at with. */
async function mustGo(): Promise<void> {
  const { db } = here.house.database;
  for (const a of await onDay()) {
    const goes = await whoGoes(db, { ids: a.personIds as never });
    const { days } = await daysOf(db, goes, DAY as never, DAY as never, here.house.now, [a.id as never]);
    const orders = [...(await workOf(db, a.orders.map((o) => o.orderId) as never, around(a.from, 2))).values()];
    const work = { ...together(orders, goes.length), minutes: (a.to - a.from) / 60_000 };
    const goers = goes.map((g) => ({
      name: g.name,
      day: days.find((d) => d.personId === g.id && d.date === localDateAt(g.zone, a.from)) as PersonDay,
    }));
    expect(decideAppointment(goers, work, a, { anyway: true, overlapReason: '' }, await roadsOf(db)).ok).toBe(true);
  }
}

describe('a proposed rota', () => {
  it('changes nothing until it is accepted, and then is what it said', async () => {
    const orders: number[] = [];
    for (const id of here.world.assetIds.slice(0, 6)) orders.push(await repairOf(here, id));
    const before = await onDay();
    const plan = await ready();
    expect(await onDay()).toEqual(before);
    expect(plan).toMatchObject({ state: 'ready', progress: 100 });
    const { result } = plan;
    expect(result?.items.map((i) => i.orderIds[0]).sort()).toEqual([...orders].sort());
    expect(result?.before.left).toBeGreaterThan(0);
    expect(result?.after.left).toBe(0);

    const some = (result?.items ?? []).slice(0, 2);
    expect(
      must(
        await accept(
          plan.id,
          some.map((i) => i.key),
        ),
      ),
    ).toEqual({ accepted: 2, refused: [] });
    expect((await onDay()).map((a) => [a.orders[0]?.orderId, a.personIds, a.from]).sort()).toEqual(
      some.map((i) => [i.orderIds[0], [i.person.id], i.from]).sort(),
    );
    // Accepted again it is done once.
    expect(
      must(
        await accept(
          plan.id,
          some.map((i) => i.key),
        ),
      ),
    ).toEqual({ accepted: 0, refused: [] });
    must(
      await accept(
        plan.id,
        (result?.items ?? []).map((i) => i.key),
      ),
    );
    expect(await onDay()).toHaveLength(6);
    expect((await read(plan.id)).result?.items.every((i) => i.accepted)).toBe(true);
    await mustGo();
    // Nothing is left to be done better.
    expect((await ready()).result?.items).toEqual([]);
  });

  it('lets two change places, and asks again only for what somebody changed since', async () => {
    await clear();
    const orders: number[] = [];
    for (const id of here.world.assetIds.slice(0, 4)) orders.push(await repairOf(here, id));
    const { technician, rui } = here.people;
    // Laid out badly: who is far away goes, twice.
    for (const [i, order] of orders.entries())
      must(
        await here.desk('POST', '/api/rota/appointments', {
          ...bookingOf([order], [i < 2 ? rui : technician], `${DAY}T${i % 2 === 0 ? '13' : '16'}:00:00Z`, {
            anyway: true,
          }),
        }),
      );
    const plan = await ready();
    const items = plan.result?.items ?? [];
    expect(plan.result?.after.travel).toBeLessThan(plan.result?.before.travel ?? 0);
    const moved = items.filter((i) => i.was !== null);
    expect(moved.length).toBeGreaterThan(1);
    // One of them is moved by somebody meanwhile.
    const [first] = moved;
    const a = (await onDay()).find((x) => x.id === first?.appointmentId) as RotaAppointment;
    must(
      await here.desk('PUT', `/api/rota/appointments/${a.id}`, {
        ...{ version: a.version, people: a.personIds, from: `${DAY}T10:00:00Z`, minutes: 45, anyway: true },
      }),
    );
    const said = must(
      await accept(
        plan.id,
        items.map((i) => i.key),
      ),
    );
    expect(said.refused.map((r) => r.key)).toEqual([first?.key]);
    expect(said.refused[0]?.why).toContain('Somebody changed it since');
    expect(said.accepted).toBe(items.length - 1);
    const after = await onDay();
    expect(after.find((x) => x.id === a.id)).toMatchObject({ from: Date.parse(`${DAY}T10:00:00Z`) });
    const taken = await here.house.database.db.select().from(rotaStep);
    expect(taken.every((s) => s.lap === 0)).toBe(true);
    await mustGo();
  });

  it('leaves what the customer was told of where it is, unless asked', async () => {
    await clear();
    const order = await repairOf(here, here.world.assetIds[7]);
    const { id, version } = must(
      await here.desk<{ id: number; version: number }>(
        'POST',
        '/api/rota/appointments',
        bookingOf([order], [here.people.rui], `${DAY}T16:00:00Z`, { anyway: true }),
      ),
    );
    const told = { from: `${DAY}T16:00:00Z`, to: `${DAY}T17:00:00Z` };
    must(await here.desk('PUT', `/api/rota/appointments/${id}/told`, { version, told, fixed: false }));
    const isMoved = (plan: PlanOut) => plan.result?.items.some((i) => i.appointmentId === id);
    expect(isMoved(await ready())).toBe(false);
    expect(isMoved(await ready({ movesTold: true }))).toBe(true);
  });

  const takes = async (order: number, crew: number, minutes = 120): Promise<void> => {
    const plan = { name: 'X', version: 1, minutes, crew, skills: [], safety: '', parts: [], formIds: [] };
    await here.house.database.pool.query('UPDATE order_line SET plan = ? WHERE order_id = ?', [
      JSON.stringify(plan),
      order,
    ]);
  };

  it('of some orders puts in these only, and says what nobody can do', async () => {
    await clear();
    const order = await repairOf(here, here.world.assetIds[8]);
    await takes(order, 4);
    const other = await repairOf(here, here.world.assetIds[9]);
    const plan = await ready({ orders: [order, other] });
    expect(plan.result?.items.map((i) => i.orderIds)).toEqual([[other]]);
    expect(plan.result?.left).toMatchObject([{ orderId: order, title: 'Warm' }]);
    expect(plan.result?.left[0]?.why).toMatch(/^no 4 people have room for it together/);
  });

  it('puts work for two on the crew of the day, books both, and asks again where one of them was given away since', async () => {
    await clear();
    const { lia, technician, rui } = here.people;
    const crew = { name: 'Far and near', fromDay: DAY, toDay: DAY, people: [rui, lia] };
    must(await here.desk('POST', '/api/rota/crews', crew));
    const [first, second] = [
      await repairOf(here, here.world.assetIds[0]),
      await repairOf(here, here.world.assetIds[1], { title: 'Cold' }),
    ];
    await takes(first, 2);
    await takes(second, 2);
    const plan = await ready({ orders: [first, second] });
    const items = [...(plan.result?.items ?? [])].sort((a, b) => a.from - b.from);
    expect(items.map((i) => [i.person.id, i.others.map((o) => o.id), (i.to - i.from) / 60_000])).toEqual([
      [rui, [lia], 120],
      [rui, [lia], 120],
    ]);
    const load = (id: number) => plan.result?.load.find((l) => l.person.id === id)?.after;
    expect([load(rui), load(lia), load(technician)]).toEqual([240, 240, 0]);
    const [one, other] = items as [(typeof items)[number], (typeof items)[number]];
    must(await accept(plan.id, [one.key]));
    expect((await onDay()).map((a) => a.personIds)).toEqual([[rui, lia]]);
    await mustGo();
    // The one who goes along is somewhere else by now: what was proposed for both is not done by one.
    const third = await repairOf(here, here.world.assetIds[2]);
    const taken = bookingOf([third], [lia], new Date(other.from).toISOString(), { anyway: true });
    must(await here.desk('POST', '/api/rota/appointments', taken));
    const answer = must(await accept(plan.id, [other.key]));
    expect(answer).toMatchObject({ accepted: 0, refused: [{ key: other.key }] });
    expect(answer.refused[0]?.why).toMatch(/Lia/);
    expect((await onDay()).flatMap((a) => a.orders.map((o) => o.orderId)).sort()).toEqual([first, third].sort());
  });

  it('is refused for more than a week, a depot that is none, and before it is ready', async () => {
    expect(refusedAt(await propose({ days: 8 }))).toEqual([422, 'days', 'invalid']);
    expect(refusedAt(await propose({ depotId: 999 }))).toEqual([404, 'depotId', 'not-found']);
    expect(refusedAt(await accept(999, [1]))).toEqual([404, undefined, 'not-found'].map((x) => x ?? null));
  });
});
