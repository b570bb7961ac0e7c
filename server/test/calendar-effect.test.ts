// What a change of a calendar is said to do before it is saved is what it does: clocks as they are derived again, visits as they are
// planned anew; and looking changes nothing.
import { randomUUID } from 'node:crypto';
import fc from 'fast-check';
import { eq, inArray } from 'drizzle-orm';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { CalendarEffect } from '#api/calendar-effect.ts';
import { addDays, asLocalDate } from '#core/time/index.ts';
import { deriveAgain } from '../src/orders/derive-again.ts';
import { keepPlanned } from '../src/upkeep/index.ts';
import { calendar, clock, plannedVisit } from '../src/tables.ts';
import { changed, kept } from './every-row.ts';
import { buildWorld, forgetPlan, must, OFFICE, openHouse, type Caller, type TestHouse, type World } from './house.ts';

const TODAY = asLocalDate('2026-11-24');
let house: TestHouse;
let call: Caller;
let world: World;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call, { assets: 4, rule: 'FREQ=WEEKLY;BYDAY=TU', anchor: '2026-12-01' });
  for (const [n, receivedAt] of ['2026-11-23T15:00:00Z', '2026-11-24T08:30:00Z', '2026-11-24T09:50:00Z'].entries())
    for (const priority of [1, 2])
      must(
        await call('POST', '/api/orders', {
          ...{ requestKey: randomUUID(), assetIds: [world.assetIds[n]], priority, cause: 'wear', title: 'Warm' },
          receivedAt,
        }),
      );
  await keepPlanned(house.database, { today: TODAY });
});
afterAll(() => house.close());

const version = async () =>
  (
    await house.database.db
      .select()
      .from(calendar)
      .where(eq(calendar.id, world.calendarId as never))
  )[0]?.version ?? 0;
const clocksNow = async () => {
  const rows = await house.database.db
    .select()
    .from(clock)
    .where(inArray(clock.state, ['running', 'paused']));
  return new Map(rows.map((c) => [`${c.orderId} ${c.target}`, c.dueAt]));
};
const plannedNow = async () => {
  const rows = await house.database.db.select().from(plannedVisit);
  return new Map(rows.map((v) => [`${v.scheduleId} ${v.nominal}`, v.planned]));
};
/** The calendar as it was at first, and everything by it. */
async function asAtFirst(): Promise<void> {
  const { db } = house.database;
  const { weekly, closed } = OFFICE;
  await db
    .update(calendar)
    .set({ weekly, closed: closed as never, extraOpen: [], past: null, version: (await version()) + 1 })
    .where(eq(calendar.id, world.calendarId as never));
  await db.update(clock).set({ derivation: 0 });
  await everythingAnew();
}
async function everythingAnew(): Promise<void> {
  await deriveAgain(house.database, house.now);
  await forgetPlan(house.database);
  await keepPlanned(house.database, { today: TODAY });
}
const look = async (body: object) =>
  call<CalendarEffect & { errors: { field: string }[] }>('POST', `/api/calendars/${world.calendarId}/preview`, body);

const hours = fc.record({ open: fc.constantFrom(480, 540, 600), close: fc.constantFrom(900, 1080, 1320) });
const aDay = fc.integer({ min: 1, max: 60 }).map((n) => addDays(TODAY, n));
const otherwise = fc.record({
  weekly: fc.option(fc.array(fc.option(hours, { freq: 4 }), { minLength: 7, maxLength: 7 }), { freq: 2 }),
  closed: fc.uniqueArray(aDay, { maxLength: 6 }),
  extraOpen: fc.uniqueArray(aDay, { maxLength: 3 }),
  isFromToday: fc.boolean(),
});

it('is what it does, whatever changes', async () => {
  let said = { clocks: 0, visits: 0 };
  await fc.assert(
    fc.asyncProperty(otherwise, async ({ weekly, closed, extraOpen, isFromToday }) => {
      await asAtFirst();
      const body = {
        ...OFFICE,
        ...(weekly && { weekly: weekly.map((h) => (h ? [{ from: h.open, to: h.close }] : [])) }),
        closed: closed.sort().map((date) => ({ date, name: 'closed' })),
        extraOpen: extraOpen
          .filter((d) => !closed.includes(d))
          .sort()
          .map((date) => ({ date, name: 'open', spans: [{ from: 600, to: 720 }] })),
        ...{ version: await version(), holdsFrom: isFromToday ? TODAY : addDays(TODAY, 3) },
      };
      const before = { clocks: await clocksNow(), visits: await plannedNow(), rows: await kept(house) };
      const looked = await look(body);
      expect(changed(before.rows, await kept(house))).toEqual([]);
      const put = await call('PUT', `/api/calendars/${world.calendarId}`, body);
      // What cannot be saved is refused by the look alike.
      expect(looked.status).toBe(put.status);
      if (put.status !== 200) return;
      await everythingAnew();
      const [clocks, visits] = [await clocksNow(), await plannedNow()];
      const moved = [...clocks].filter(([key, due]) => before.clocks.has(key) && before.clocks.get(key) !== due);
      const effect = looked.body;
      expect(effect.clocks.changed.map((c) => [`${c.orderId} ${c.target}`, c.dueAfter]).sort()).toEqual(
        moved.map(([key, due]) => [key, due]).sort(),
      );
      expect(effect.clocks.later + effect.clocks.earlier).toBe(moved.length);
      const until = addDays(asLocalDate(effect.from), 180);
      const visitsMoved = [...visits].filter(
        ([key, day]) => before.visits.has(key) && before.visits.get(key) !== day && day <= until,
      );
      expect(effect.visits.moves).toBe(visitsMoved.length);
      for (const { scheduleId, before: was, after } of effect.visits.moved)
        expect(
          visitsMoved.some(
            ([key, day]) => key.startsWith(`${scheduleId} `) && day === after && before.visits.get(key) === was,
          ),
        ).toBe(true);
      said = { clocks: said.clocks + moved.length, visits: said.visits + visitsMoved.length };
    }),
    { numRuns: 14, seed: 5 },
  );
  // That something moved is known: nothing is compared with nothing.
  expect([said.clocks > 5, said.visits > 20]).toEqual([true, true]);
});

it('is refused where the change would be: a version of before, and hours nobody can read', async () => {
  const body = { ...OFFICE, version: await version(), holdsFrom: TODAY };
  expect((await look({ ...body, version: body.version + 1 })).status).toBe(409);
  const overlong = await look({ ...body, weekly: [[{ from: 1200, to: 3000 }], [], [], [], [], [], []] });
  expect(overlong.status).toBe(422);
  expect((await call('POST', '/api/calendars/99999/preview', body)).status).toBe(404);
});
