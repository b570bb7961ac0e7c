// A run whose process dies, again and again: nothing half-written, and whoever takes it up raises exactly the rest.
import { spawn } from 'node:child_process';
import { group } from 'd3-array';
import { count, countDistinct, eq, isNotNull, isNull } from 'drizzle-orm';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { asId, type PersonId, type RunId } from '#core/ids.ts';
import { asInstant, asLocalDate, asZone } from '#core/time/index.ts';
import { location, orderEvent, orderLine, orderTask, planState, upkeepRun, visit, workOrder } from '../src/tables.ts';
import { beginRun, carryOutRun, computeRun, keepPlanned, runOf } from '../src/upkeep/index.ts';
import { bundled } from '../../commands/bundled.ts';
import { raiseAll } from './raise-all.ts';
import { buildWorld, forgetPlan, NOW, openHouse, type TestHouse } from './house.ts';

const ASSETS = 200;
const TO = asLocalDate('2027-12-01');
const TODAY = asLocalDate('2026-11-24');
const KILLS = 30;
/** Every third time it is killed before anything stands; else so long after the next lot stands, at most. */
const LONGEST_MS = 300;
const WHO = {
  id: asId<PersonId>(1),
  name: 'again',
  email: '',
  role: 'coordinator',
  zone: asZone('Europe/Lisbon'),
} as const;
let house: TestHouse;
let carrier: Awaited<ReturnType<typeof bundled>>;
let owed = 0;
beforeAll(async () => {
  [house, carrier] = await Promise.all([openHouse(), bundled(new URL('./carry-out.process.ts', import.meta.url))]);
  await buildWorld(await house.as('coordinator'), { assets: ASSETS, rule: 'FREQ=WEEKLY;BYDAY=TU' });
  // On one of two floors the visits of a day make one order.
  await house.database.db.update(location).set({ joinDays: 3 }).where(eq(location.name, 'Floor 1'));
  await forgetPlan(house.database);
  owed = (await computeRun(house.database.db, TO)).owed.length;
  await keepPlanned(house.database, { today: TODAY });
});
afterAll(() => Promise.all([house?.close(), carrier?.discard()]));

/** A process that carries the run out as soon as it is told to; begun ahead, for beginning takes longer than what is tested. */
function startCarrier(id: RunId) {
  const child = spawn(process.execPath, [carrier.file, house.url, String(id)], { stdio: ['pipe', 'pipe', 'inherit'] });
  const ready = new Promise<void>((done) => child.stdout.once('data', () => done()));
  const gone = new Promise<void>((done) => child.once('exit', () => done()));
  return { child, ready, gone };
}

/** Lets it go and kills it some time after it has begun, or after it has written a lot. */
async function goAndKill(
  { child, ready, gone }: ReturnType<typeof startCarrier>,
  afterMs: number,
  since: 'its begin' | 'a lot',
): Promise<void> {
  const { db } = house.database;
  await ready;
  const before = await db.$count(workOrder);
  child.stdin.write('go\n');
  for (let i = 0; since === 'a lot' && i < 400 && (await db.$count(workOrder)) === before; i += 1)
    await new Promise((r) => setTimeout(r, 5));
  await new Promise((r) => setTimeout(r, afterMs));
  child.kill('SIGKILL');
  await gone;
  // As if the leases of the dead had run out.
  await db.update(upkeepRun).set({ leaseUntil: null });
  await db.update(planState).set({ busyUntil: null });
}

/** Each visit stands in one order, and each order is whole. Gives how many there are. */
async function whole(): Promise<number> {
  const { db } = house.database;
  const raised = db.select({ n: count(), orders: countDistinct(visit.orderId) }).from(visit);
  const [[visits], lines, events, tasks, [loose]] = await Promise.all([
    raised.where(isNotNull(visit.orderId)),
    db.select({ orderId: orderLine.orderId, visitId: orderLine.visitId }).from(orderLine),
    db.$count(orderEvent),
    db.$count(orderTask),
    db.select({ n: count() }).from(visit).where(isNull(visit.orderId)),
  ]);
  const n = visits?.n ?? 0;
  const orders = group(lines, (l) => l.orderId);
  const found = [lines.length, new Set(lines.map((l) => l.visitId)).size, visits?.orders, events, tasks, loose?.n];
  expect(found).toEqual([n, n, orders.size, orders.size, 2 * n, 0]);
  expect([...orders.values()].filter((own) => own.length !== 1 && own.length !== ASSETS / 2)).toEqual([]);
  return n;
}

it(
  `killed ${KILLS} times at random, is taken up each time; each visit is raised once`,
  { timeout: 300_000 },
  async () => {
    const begin = { to: TO, scope: {}, only: null, seen: null };
    const id = await beginRun(house.database, begin, WHO, asInstant(NOW), TODAY);
    const delays = fc.sample(fc.integer({ min: 0, max: LONGEST_MS }), { numRuns: KILLS, seed: 30 });
    const seen: number[] = [];
    let next = startCarrier(id);
    for (const [i, delay] of delays.entries()) {
      const running = next;
      if (i < KILLS - 1) next = startCarrier(id);
      await goAndKill(running, delay, i % 3 === 0 ? 'its begin' : 'a lot');
      seen.push(await whole());
      expect((await runOf(house.database.db, id)).raised).toBe(seen.at(-1));
    }
    // It was hit at many stages, and both kinds of orders were among what it raised.
    const sizes = group(await house.database.db.select({ id: orderLine.orderId }).from(orderLine), (l) => l.id);
    expect(new Set([...sizes.values()].map((own) => own.length))).toEqual(new Set([1, ASSETS / 2]));
    expect(new Set(seen).size).toBeGreaterThan(4);
    await carryOutRun(house.database, id, WHO);
    expect(await whole()).toBe(owed);
    expect(await runOf(house.database.db, id)).toMatchObject({
      state: 'done',
      raised: owed,
      wanted: owed,
      leftCount: 0,
    });
    expect((await raiseAll(house.database, TO, asInstant(NOW))).raised).toBe(0);
  },
);
