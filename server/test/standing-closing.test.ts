// A closed month never changes: whatever is told of it later, its figures stay, and closed figures with what was found since are the truth.
import { randomUUID } from 'node:crypto';
import fc from 'fast-check';
import { beforeAll, afterAll, describe, expect, it } from 'vitest';
import type { Answer as AnswerOf } from '#api/contract.ts';
import type { readStanding, readStandingPlaces, readStandingTotal } from '#api/standing.ts';
import type { readAdjustments, readStandingMonths } from '#api/standing-months.ts';
import { eq } from 'drizzle-orm';
import { rebuild } from '../src/platform/derived.ts';
import { ROOMS } from '../src/rooms.ts';
import { adjustClosed, sumMonths } from '../src/standing/index.ts';
import { closedCount, standingMonth, standingSum } from '../src/tables.ts';
import { agreementInForce, buildWorld, must, openHouse, type Caller } from './house.ts';
import { asLocalDate } from '#core/time/index.ts';
import {
  anOrder,
  aVisit,
  counted,
  everything,
  raiseOrders,
  someActs,
  tellActs,
  writeVisits,
  type Built,
  type Raised,
} from './standing-worlds.ts';

const OCTOBER = ['2026-10-01', '2026-10-31'] as const;

let built: Built;
let manager: Caller;
let raised: Raised[];
beforeAll(async () => {
  const house = await openHouse();
  const call = await house.as('coordinator');
  manager = await house.as('manager');
  built = { house, call, world: await buildWorld(call, { assets: 5, minutes: 60 }) };
  await agreementInForce(call, built.world);
});
afterAll(() => built.house.close());

const inOctober = async <T>(path: string): Promise<T> =>
  must(await manager<T>('GET', `/api/standing${path}from=${OCTOBER[0]}&to=${OCTOBER[1]}`));
const october = async () => ({
  ...(await inOctober<AnswerOf<typeof readStanding>>('?by=asset&')),
  total: (await inOctober<AnswerOf<typeof readStandingTotal>>('/total?')).total,
  places: await inOctober<AnswerOf<typeof readStandingPlaces>>('/places/1?'),
});
const close = (month: string, reason = '', who = manager) =>
  who('POST', '/api/standing/months/close', { month, reason });
const found = async () =>
  must(
    await manager<AnswerOf<typeof readAdjustments>>('GET', '/api/standing/adjustments?from=2026-11-01&to=2026-11-30'),
  ).items;

describe('closing a month', () => {
  it('is for whoever answers for figures, month by month, and only once it is over everywhere', async () => {
    const [first] = await raiseOrders(built, [{ asset: 0, priority: 1, daysAgo: 50, acts: [] }]);
    expect(first).toBeDefined();
    const state = () => built.house.database.db.select().from(standingMonth);
    expect((await close('2026-10-01', '', built.call)).status).toBe(403);
    expect((await close('2026-10-02')).body.errors[0]?.message).toBe('Name a month by its first day.');
    expect((await close('2026-09-01')).body.errors[0]).toMatchObject({
      field: 'month',
      message: 'Close Oct 2026 first.',
    });
    expect((await close('2026-11-01')).body.errors[0]?.message).toBe('Close Oct 2026 first.');
    // Its promises are past due and still open: it is said why it is closed in spite of that.
    expect((await close('2026-10-01')).body.errors[0]).toMatchObject({ field: 'reason', code: 'missing' });
    expect(await state()).toEqual([]);
    const { next } = must(await manager<AnswerOf<typeof readStandingMonths>>('GET', '/api/standing/months'));
    expect(next).toEqual({ month: '2026-10-01', whyNot: null, open: 3 });
  });

  it('keeps its figures whatever is told later, and tells what was found', { timeout: 240_000 }, async () => {
    const { house } = built;
    raised = await raiseOrders(built, fc.sample(anOrder(fc.integer({ min: 28, max: 50 })), { numRuns: 16, seed: 11 }));
    await writeVisits(built, fc.sample(aVisit(40), { numRuns: 30, seed: 12 }));
    await sumMonths(house.database, house.now);
    const before = await october();
    expect((await close('2026-10-01', 'the customer was told')).status).toBe(200);
    expect((await close('2026-10-01', 'again')).body.errors[0]?.message).toBe('Oct 2026 is closed already.');
    expect((await close('2026-11-01')).body.errors[0]).toMatchObject({ code: 'not-ready' });
    const closed = await october();
    expect(closed).toEqual(before);
    expect(closed.total.met + closed.total.missed).toBeGreaterThan(20);
    expect(closed.places.total).toEqual(closed.total);
    expect(closed.places.rows.length).toBeGreaterThan(0);
    const months = () => manager<AnswerOf<typeof readStandingMonths>>('GET', '/api/standing/months');
    expect(must(await months()).months.find((m) => m.month === '2026-10-01')).toMatchObject({
      ...{ closedBy: 'The manager', reason: 'the customer was told', adjustments: 0 },
      ...{ met: closed.total.met, missed: closed.total.missed },
    });
    const rows = await house.database.db.select().from(closedCount);

    let told = 0;
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.record({ which: fc.nat(raised.length - 1), acts: someActs }), { minLength: 1, maxLength: 4 }),
        fc.array(aVisit(40), { maxLength: 3 }),
        async (late, visits) => {
          for (const { which, acts } of late) {
            const of = raised[which];
            if (of) await tellActs(built, of.id, of.start, acts);
          }
          await writeVisits(built, visits);
          await adjustClosed(house.database, house.now);
          expect(await adjustClosed(house.database, house.now)).toBe(0);
          const stated = await october();
          expect(stated.total).toEqual(closed.total);
          expect(stated.items).toEqual(closed.items);
          expect(stated.places).toEqual(closed.places);
          expect(await house.database.db.select().from(closedCount)).toEqual(rows);
          // What was closed and what was found since come to what is so.
          const truth = counted(
            await everything(house),
            house.now,
            ...([asLocalDate(OCTOBER[0]), asLocalDate(OCTOBER[1])] as const),
            () => true,
          );
          const adjustments = await found();
          told = adjustments.length;
          const change = (as: string) =>
            adjustments.filter((a) => a.after === as).length - adjustments.filter((a) => a.before === as).length;
          expect({
            met: closed.total.met + change('met'),
            missed: closed.total.missed + change('missed'),
            inWindow: closed.total.inWindow + change('in window'),
            owed: closed.total.owed + change('in window') + change('out of window'),
            declined: closed.total.declined + change('declined'),
          }).toEqual(truth);
        },
      ),
      { numRuns: 12, seed: 5 },
    );
    expect(told).toBeGreaterThan(5);
    expect(must(await months()).months.find((m) => m.month === '2026-10-01')?.adjustments).toBe(told);
  });

  it('tells of both where a promise turns out to be another machine’s', async () => {
    const { house, call, world } = built;
    const before = (await found()).length;
    let isChanged = false;
    for (const { id } of raised) {
      const { lines } = must(await call<{ lines: { id: number; assetId: number }[] }>('GET', `/api/orders/${id}`));
      const [line] = lines;
      const assetId = world.assetIds.find((a) => a !== line?.assetId);
      const { status } = await call('POST', `/api/orders/${id}/changes`, {
        ...{ requestKey: randomUUID(), text: 'it was the neighbour' },
        lines: [{ lineId: line?.id, assetId }],
      });
      isChanged = status === 200;
      if (isChanged) break;
    }
    expect(isChanged).toBe(true);
    await adjustClosed(house.database, house.now);
    const now = await found();
    expect(now.length).toBeGreaterThan(before);
    const newest = now.slice(0, now.length - before);
    expect(newest.map((a) => a.before !== null).sort()).toEqual([...newest.map((a) => a.after === null)].sort());
  });

  it('its sums and those of open months are what they are the sums of; what is not is found and put right', async () => {
    const { database, now } = built.house;
    await sumMonths(database, now);
    const months = ROOMS.flatMap((room) => room.derived ?? []).filter((k) => k.what === 'standing months');
    const look = (mend: boolean) => rebuild(database, months, now, mend);
    expect(await look(false)).toMatchObject([{ what: 'standing months', differing: [] }]);
    const rows = await database.db.select().from(standingSum);
    await database.db.update(standingSum).set({ missed: 99 }).where(eq(standingSum.summedFor, 'agreement'));
    await database.db.delete(standingSum).where(eq(standingSum.summedFor, 'asset'));
    const found = (await look(true))[0]?.differing.join('; ');
    expect(found).toContain('of agreement are not what is counted');
    expect(found).toContain('of asset are not what is counted');
    expect(await look(false)).toMatchObject([{ differing: [] }]);
    const keyed = (all: typeof rows) => all.map(({ changes: _, ...row }) => JSON.stringify(row)).sort();
    expect(keyed(await database.db.select().from(standingSum))).toEqual(keyed(rows));
  });
});
