// A run that dies in the middle: nothing half-written, and the next run raises exactly the rest.
import { spawn } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { count, countDistinct, isNull } from 'drizzle-orm';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { asId, type PersonId } from '#core/ids.ts';
import { asInstant, asLocalDate, asZone } from '#core/time/index.ts';
import { orderEvent, orderLine, orderTask, visit, workOrder } from '../src/tables.ts';
import { commitRun } from '../src/upkeep/index.ts';
import { buildWorld, NOW, openHouse, type TestHouse } from './house.ts';

const ASSETS = 200;
const TO = '2027-12-01';
let house: TestHouse;
beforeAll(async () => {
  house = await openHouse();
  await buildWorld(await house.as('coordinator'), { assets: ASSETS, rule: 'FREQ=WEEKLY;BYDAY=TU' });
});
afterAll(() => house.close());

/** Starts a run in a process of its own and kills it as soon as the first batch has been committed. */
async function runAndKill(): Promise<void> {
  const file = fileURLToPath(new URL('./commit-run.process.ts', import.meta.url));
  const child = spawn(process.execPath, ['--import', 'tsx', file, house.url, TO, NOW], {
    stdio: ['pipe', 'pipe', 'inherit'],
  });
  await new Promise<void>((ready) => child.stdout.once('data', () => ready()));
  child.stdin.write('go\n');
  const gone = new Promise<void>((done) => child.once('exit', () => done()));
  for (let i = 0; i < 2000 && (await house.database.db.$count(workOrder)) === 0; i += 1)
    await new Promise((r) => setTimeout(r, 5));
  child.kill('SIGKILL');
  await gone;
}

async function whole(): Promise<number> {
  const { db } = house.database;
  const [[visits], [orders], lines, events, tasks, [loose]] = await Promise.all([
    db.select({ n: count(), orders: countDistinct(visit.orderId) }).from(visit),
    db.select({ n: count(), visits: countDistinct(workOrder.visitId) }).from(workOrder),
    db.$count(orderLine),
    db.$count(orderEvent),
    db.$count(orderTask),
    db.select({ n: count() }).from(visit).where(isNull(visit.orderId)),
  ]);
  const n = visits?.n ?? 0;
  expect([visits?.orders, orders?.n, orders?.visits, lines, events, tasks, loose?.n]).toEqual([
    n,
    n,
    n,
    n,
    n,
    2 * n,
    0,
  ]);
  return n;
}

it('is taken up by the next one, each visit once', async () => {
  await runAndKill();
  const before = await whole();
  expect(before).toBeGreaterThan(0);
  const who = {
    id: asId<PersonId>(1),
    name: 'again',
    email: '',
    role: 'coordinator',
    zone: asZone('Europe/Lisbon'),
  } as const;
  const again = await commitRun(house.database, asLocalDate(TO), null, who, asInstant(NOW), asLocalDate('2026-11-24'));
  const after = await whole();
  expect(after).toBe(before + again.raised);
  expect(after % ASSETS).toBe(0);
  expect(
    (await commitRun(house.database, asLocalDate(TO), null, who, asInstant(NOW), asLocalDate('2026-11-24'))).raised,
  ).toBe(0);
});
