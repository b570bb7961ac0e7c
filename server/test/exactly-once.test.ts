// Raising is exactly once, whatever runs twice at the same time.
import { spawn } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { count, countDistinct } from 'drizzle-orm';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { orderEvent, orderLine, orderTask, visit } from '../src/tables.ts';
import { buildWorld, NOW, openHouse, registerCsv, type TestHouse } from './house.ts';

const ASSETS = 200;
let house: TestHouse;
beforeAll(async () => {
  house = await openHouse();
  await buildWorld(await house.as('coordinator'), { assets: ASSETS, rule: 'FREQ=MONTHLY;BYDAY=1TU' });
});
afterAll(() => house.close());

function startRunner(to: string) {
  const child = spawn(
    process.execPath,
    ['--import', 'tsx', fileURLToPath(new URL('./commit-run.process.ts', import.meta.url)), house.url, to, NOW],
    { stdio: ['pipe', 'pipe', 'inherit'] },
  );
  let text = '';
  const waitFor = (pattern: RegExp): Promise<string> =>
    new Promise((found, failed) => {
      const look = (): void => {
        const match = pattern.exec(text);
        if (match) found(match[0]);
      };
      child.stdout.on('data', (chunk: Buffer) => {
        text += chunk.toString();
        look();
      });
      child.once('exit', (code) => (code === 0 ? look() : failed(new Error(`runner ended with ${code}`))));
      look();
    });
  return { ready: waitFor(/ready/), go: () => child.stdin.write('go\n'), result: waitFor(/\{.*\}/) };
}

it('a run committed at the same time from two processes raises each visit once', async () => {
  const runners = [startRunner('2027-03-01'), startRunner('2027-03-01')];
  await Promise.all(runners.map((r) => r.ready));
  runners.forEach((r) => r.go());
  const results = (await Promise.all(runners.map((r) => r.result))).map(
    (text) => JSON.parse(text) as { raised: number },
  );
  const { db } = house.database;
  const [visits] = await db.select({ n: count(), orders: countDistinct(visit.orderId) }).from(visit);
  const [orders] = await db.select({ n: count(), visits: countDistinct(orderLine.visitId) }).from(orderLine);
  const [[lines], [events], [tasks]] = await Promise.all([
    db.select({ n: count() }).from(orderLine),
    db.select({ n: count() }).from(orderEvent),
    db.select({ n: count() }).from(orderTask),
  ]);
  const expected = ASSETS * 6; // first Tuesdays of October 2026 to March 2027
  expect(results.reduce((sum, r) => sum + r.raised, 0)).toBe(expected);
  expect([visits, orders, lines?.n, events?.n, tasks?.n]).toEqual([
    { n: expected, orders: expected },
    { n: expected, visits: expected },
    expected,
    expected,
    2 * expected,
  ]);
});

it('four imports of one file at the same time register each asset once', async () => {
  const call = await house.as('administrator');
  const text = registerCsv(40).replaceAll('ULF720-Q', 'NEW-').replaceAll(',Q1', ',N1');
  const answers = await Promise.all(
    [1, 2, 3, 4].map(() => call('POST', '/api/register/import', { fileName: 'again.csv', text })),
  );
  const list = await call<{ total: number }>('GET', '/api/assets?search=N1');
  expect(list.body.total).toBe(40);
  expect(answers.filter((a) => a.status === 200).length).toBeGreaterThan(0);
});
