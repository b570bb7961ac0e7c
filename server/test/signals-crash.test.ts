// A server that dies under load, again and again: every reading that was published is held once, and every alert stands once.
import { spawn } from 'node:child_process';
import { group } from 'd3-array';
import { and, asc, eq, isNull } from 'drizzle-orm';
import { connectAsync } from 'mqtt';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { startBroker } from '#standins/broker.ts';
import { advance, seriesRule, watchedFrom, type Condition, type Sample } from '#core/signals/index.ts';
import { instant, type Instant } from '#core/time/index.ts';
import { bundled } from '../../commands/bundled.ts';
import { freePort } from '../../commands/mariadb.ts';
import { alert, alertRule, orderLine, reading, toJudge, watchServer } from '../src/tables.ts';
import { buildWorld, must, openHouse, type TestHouse } from './house.ts';
import { RULE } from './signal-house.ts';

const DEVICES = 12;
const KILLS = 20;
const keyOf = (i: number): string => `urn:dev:os:falls-${i}`;
let house: TestHouse;
let broker: Awaited<ReturnType<typeof startBroker>>;
let brokerUrl: string;
let server: Awaited<ReturnType<typeof bundled>>;
let assetIds: readonly number[];

beforeAll(async () => {
  const port = await freePort();
  [house, server, broker] = await Promise.all([
    openHouse(new Date().toISOString()),
    bundled(new URL('./take-readings.process.ts', import.meta.url)),
    startBroker(port, 'a secret'),
  ]);
  brokerUrl = `mqtt://stavok:${encodeURIComponent('a secret')}@127.0.0.1:${port}`;
  const call = await house.as('coordinator');
  const world = await buildWorld(call, { assets: DEVICES });
  assetIds = world.assetIds;
  for (const [i, assetId] of assetIds.entries()) must(await call('POST', '/api/devices', { assetId, key: keyOf(i) }));
  const classId = must(await call<{ classes: { id: number }[] }>('GET', '/api/reference')).classes[0]?.id;
  const rule = (name: string, condition: Condition, onDelaySeconds: number) =>
    call('POST', '/api/alert-rules', {
      ...{ name, assetClassId: classId, channel: 'chamber', unit: 'Cel', priority: 2, condition },
      ...{ ...RULE, onDelaySeconds },
    });
  must(await rule('Warm', { kind: 'limit', side: 'above', limit: 50, deadband: 5 }, 0));
  must(await rule('Warm for a while', { kind: 'band', low: -20, high: 40, deadband: 2 }, 1));
  // The house itself only looks on: whoever is killed watches.
  await house.app.close();
});
afterAll(async () => {
  await broker?.stop();
  await house?.database.close();
  await server?.discard();
});

const pause = (ms: number): Promise<void> => new Promise((done) => setTimeout(done, ms));
async function eventually(check: () => Promise<boolean>, ms: number): Promise<boolean> {
  const until = Date.now() + ms;
  for (; Date.now() < until; await pause(100)) if (await check()) return true;
  return false;
}

/** As if the leases of the dead had run out. */
const endLeases = () => house.database.db.update(watchServer).set({ until: instant(0) });

it(`holds every reading and every alert once, killed ${KILLS} times under load`, { timeout: 180_000 }, async () => {
  const { db } = house.database;
  const client = await connectAsync(brokerUrl);
  // The broker keeps messages for a listener it knows.
  const first = spawn(process.execPath, [server.file, house.url, brokerUrl], { stdio: 'ignore' });
  expect(await eventually(async () => broker.listeners() > 0, 20_000)).toBe(true);
  first.kill('SIGKILL');
  await endLeases();
  const said = new Map<number, Sample[]>(assetIds.map((_, i) => [i, []]));
  let isPublishing = true;
  // Values wander, so that alerts start and end all the time.
  const publishing = (async () => {
    for (let n = 0; isPublishing; n += 1) {
      const device = n % DEVICES;
      const at = instant(Date.now());
      const pack = [0, 1, 2].map((k) => {
        const value = Math.round(40 + 30 * Math.sin(n / (180 + 8 * device)));
        const moment = instant(at - (2 - k) * 5);
        return { moment, value };
      });
      const own = said.get(device) as Sample[];
      const fresh = pack.filter((p) => p.moment > (own.at(-1)?.at ?? 0));
      for (const { moment, value } of fresh) own.push({ at: moment, value });
      const records = fresh.map(({ moment, value }) => ({
        n: `${keyOf(device)}:chamber`,
        t: moment / 1000,
        u: 'Cel',
        v: value,
      }));
      if (records.length > 0) await client.publishAsync('readings/x', JSON.stringify(records), { qos: 1 });
      await pause(4);
    }
  })();
  for (let life = 0; life <= KILLS; life += 1) {
    const child = spawn(process.execPath, [server.file, house.url, brokerUrl], { stdio: ['ignore', 'pipe', 'ignore'] });
    const gone = new Promise<void>((done) => child.once('exit', () => done()));
    await new Promise<void>((done) => child.stdout.once('data', () => done()));
    if (life < KILLS) {
      await pause(400 + ((life * 137) % 600));
      child.kill('SIGKILL');
      await gone;
      // Every third time whoever comes next finds the shards still held by the dead.
      if (life % 3 !== 2) await endLeases();
      continue;
    }
    isPublishing = false;
    await publishing;
    await endLeases();
    const all = [...said.values()].reduce((n, own) => n + own.length, 0);
    expect(all).toBeGreaterThan(2000);
    const isDone = async (): Promise<boolean> => (await db.$count(reading)) === all && (await db.$count(toJudge)) === 0;
    await eventually(isDone, 40_000);
    expect(await db.$count(reading)).toBe(all);
    expect(await db.$count(toJudge)).toBe(0);
    // Delays that end after the last reading.
    await pause(6000);
    child.kill('SIGKILL');
    await gone;
  }
  await client.endAsync(true);
  const rules = await db.select().from(alertRule).orderBy(asc(alertRule.id));
  for (const rule of rules) {
    const expected = new Map<string, Instant | null>();
    for (const [i, samples] of said) {
      const first = samples[0] as Sample;
      const until = instant((samples.at(-1) as Sample).at + 2000);
      for (const turn of advance(seriesRule(rule), watchedFrom(first.at), samples, until).happened)
        expected.set(`${assetIds[i]} ${turn.from}`, turn.kind === 'ended' ? turn.at : null);
    }
    // After a new connection the broker sends what is new before what it kept: that is late, and what it speaks against is withdrawn.
    const stored = await db
      .select()
      .from(alert)
      .where(and(eq(alert.ruleId, rule.id), isNull(alert.withdrawnAt)));
    expect(new Map(stored.map((a) => [`${a.assetId} ${a.startedAt}`, a.endedAt]))).toEqual(expected);
    expect(stored.length).toBe(expected.size);
    expect(expected.size).toBeGreaterThan(DEVICES);
  }
  // Every one has its order: they stand at one place, which is a flood, and no order lists a machine twice.
  const without = await db.select({ why: alert.noOrder }).from(alert).where(isNull(alert.orderId));
  expect(without).toEqual([]);
  const lines = await db.select({ orderId: orderLine.orderId, assetId: orderLine.assetId }).from(orderLine);
  expect(new Set(lines.map((l) => `${l.orderId} ${l.assetId}`)).size).toBe(lines.length);
  const [largest] = [...group(lines, (l) => l.orderId).values()].sort((a, b) => b.length - a.length);
  expect(largest).toHaveLength(DEVICES);
});
