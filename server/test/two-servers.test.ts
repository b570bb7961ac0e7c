// Two servers that are alive at once take readings of the same machines: one watches them, the other hands on what it is told, and it
// turns meanwhile. Alerts are those that the core finds in all readings.
import fc from 'fast-check';
import { eq } from 'drizzle-orm';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { activeSpans, advance, seriesRule, watchedFrom } from '#core/signals/index.ts';
import { instant, MINUTE } from '#core/time/index.ts';
import { openDatabase, type Database } from '../src/platform/database.ts';
import { letTimeGoOn, takePack } from '../src/signals/index.ts';
import { release } from '../src/signals/shards.ts';
import { holdShards, watchOf } from '../src/signals/watch.ts';
import { alertRule } from '../src/tables.ts';
import { at, keyOf, openSignals, type SignalHouse } from './signal-house.ts';

const MACHINES = 8;
let s: SignalHouse;
let second: Database;
let rules: readonly [number, number];
let alone: number;
beforeAll(async () => {
  s = await openSignals(MACHINES);
  second = openDatabase(s.house.url, 4);
  rules = [
    await s.add('Shared, at once', 'shared', { askFirst: true }),
    await s.add('Shared, after a while', 'shared', { askFirst: true, onDelaySeconds: 300, offDelaySeconds: 120 }),
  ];
  alone = await s.add('One machine’s', 'alone', { askFirst: true });
  // What it does by itself every two seconds is done here step by step, at the times of the story.
  await s.house.app.close();
});
afterAll(async () => {
  await second.close();
  await s.house.close();
});

it('every alert once, whichever of them is told, and whoever watches by then', async () => {
  const servers = [s.house.database, second];
  const step = fc.record({ to: fc.nat(1), value: fc.constantFrom(0, 20), turns: fc.nat(9).map((n) => n === 0) });
  // A machine's readings in their order; those of different machines at the same time.
  const told = fc.sample(fc.array(step, { minLength: 40, maxLength: 40 }), { numRuns: MACHINES, seed: 11 });
  const said = new Map<number, { at: ReturnType<typeof instant>; value: number }[]>();
  for (let i = 0; i < 40; i += 1) {
    await Promise.all(
      told.map(async (steps, n) => {
        const { to, value } = steps[i] as (typeof steps)[number];
        const moment = instant(at('07:00') + i * 2 * MINUTE + n * 1000);
        const own = s.machine(n);
        said.set(n, [...(said.get(n) ?? []), { at: moment, value }]);
        const pack = [{ n: `${keyOf(own)}:shared`, t: moment / 1000, v: value }];
        await takePack(servers[to] as Database, pack, at('09:20'));
      }),
    );
    // Whoever watches lets go, as on a shutdown; the other takes over with what it does next.
    const turning = told[0]?.[i];
    if (turning?.turns) await release(second.db, watchOf(servers[turning.to] as Database).me);
    // As each of them does every two seconds.
    for (const server of servers) await holdShards(server, watchOf(server));
    if (i % 5 === 0) for (const server of servers) await letTimeGoOn(server, instant(at('07:00') + i * 2 * MINUTE));
  }
  let did = 1;
  while (did > 0) {
    did = 0;
    for (const server of servers) did += await letTimeGoOn(server, at('08:20'));
  }
  for (const id of rules) {
    const [rule] = await s.house.database.db
      .select()
      .from(alertRule)
      .where(eq(alertRule.id, id as never));
    const alerts = (await s.alertsOf(id)).filter((a) => a.withdrawnAt === null);
    for (let n = 0; n < MACHINES; n += 1) {
      const read = said.get(n) ?? [];
      const { happened } = advance(seriesRule(rule as never), watchedFrom(read[0]?.at as never), read, at('08:19'));
      expect([id, n, alerts.filter((a) => a.assetId === s.machine(n)).map((a) => [a.startedAt, a.endedAt])]).toEqual([
        ...[id, n],
        activeSpans(happened).map((x) => [x.from, x.to]),
      ]);
    }
  }
});

/** One reading of a machine’s own channel. */
const read = (server: Database, n: number, clock: string, v: number) =>
  takePack(server, [{ n: `${keyOf(s.machine(n))}:alone`, t: at(clock) / 1000, v }], at('09:20'));
const spansOf = async (n: number) =>
  (await s.alertsOf(alone)).filter((a) => a.assetId === s.machine(n)).map((a) => [a.startedAt, a.endedAt]);
const letGo = (server: Database) => release(server.db, watchOf(server).me);

it('who held a machine before and takes it up again knows what another found meanwhile', async () => {
  const first = s.house.database;
  const turnTo = async (from: Database, to: Database) => {
    await letGo(from);
    await holdShards(to, watchOf(to));
  };
  await turnTo(second, first);
  await read(first, 3, '08:30', 20);
  await turnTo(first, second);
  await read(second, 3, '08:32', 0);
  await turnTo(second, first);
  await read(first, 3, '08:34', 20);
  expect(await spansOf(3)).toEqual([
    [at('08:30'), at('08:32')],
    [at('08:34'), null],
  ]);
});

it('what nobody holds any more is taken up by whoever is told next, and what was read between is judged', async () => {
  const first = s.house.database;
  await read(first, 4, '08:30', 0);
  // Neither knows that it holds nothing: the next reading shows it.
  for (const server of [first, second]) await letGo(server);
  await read(first, 4, '08:32', 20);
  expect(await spansOf(4)).toEqual([]);
  await read(first, 4, '08:34', 20);
  while ((await letTimeGoOn(first, at('08:40'))) > 0);
  expect(await spansOf(4)).toEqual([[at('08:32'), null]]);
});
