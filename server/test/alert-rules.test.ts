// Rules of every kind over the wire: whose they are, what readings and time make of them, and what changing one does.
import { randomUUID } from 'node:crypto';
import { and, asc, eq } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { AlertOut } from '#api/signals.ts';
import type { AlertRuleOut, Tried } from '#api/alert-rules.ts';
import { asId, type AlertRuleId, type AssetId } from '#core/ids.ts';
import { instant, MINUTE } from '#core/time/index.ts';
import { letTimeGoOn } from '../src/signals/index.ts';
import { beginWatching } from '../src/signals/keep-watching.ts';
import { forgetWatched } from '../src/signals/shards.ts';
import { migrateDatabase } from '../src/platform/database.ts';
import { alert, alertRule, asset, ruleState } from '../src/tables.ts';
import { buildWorld, must, openHouse, type Caller, type TestHouse, type World } from './house.ts';
import { at, keyOf, RULE } from './signal-house.ts';
import { withOldMachine } from './old-machine.ts';

let house: TestHouse;
let call: Caller;
let world: World;
let classId: number;
beforeAll(async () => {
  house = await openHouse('2026-11-24T09:20:00Z');
  call = await house.as('coordinator');
  world = await buildWorld(call, { assets: 4 });
  classId = must(await call<{ classes: { id: number }[] }>('GET', '/api/reference')).classes[0]?.id as number;
  for (const assetId of world.assetIds) must(await call('POST', '/api/devices', { assetId, key: keyOf(assetId) }));
});
afterAll(() => house.close());

const asked = (over: object = {}) => ({
  ...{ name: `Rule ${randomUUID().slice(0, 8)}`, assetClassId: classId, channel: 'chamber', unit: 'Cel', priority: 2 },
  condition: { kind: 'limit', side: 'above', limit: -65, deadband: 2 },
  ...RULE,
  ...over,
});
const add = async (over: object = {}) => must(await call<{ id: number }>('POST', '/api/alert-rules', asked(over))).id;
const machine = (n: number): number => world.assetIds[n] as number;

/** What one machine says on one channel. */
const say = async (
  n: number,
  channel: string,
  ...points: readonly [time: string, value: number | string | boolean][]
) =>
  must(
    await call<{ alerts: number }>(
      'POST',
      '/api/readings',
      points.map(([time, value]) => ({
        ...{ bn: `${keyOf(machine(n))}:`, n: channel, bt: at(time) / 1000 },
        ...(typeof value === 'number' ? { v: value } : typeof value === 'string' ? { vs: value } : { vb: value }),
      })),
    ),
  ).alerts;
const alertsOf = (ruleId: number) =>
  house.database.db
    .select({
      since: alert.since,
      from: alert.startedAt,
      to: alert.endedAt,
      normal: alert.normalSince,
      worst: alert.worst,
    })
    .from(alert)
    .where(eq(alert.ruleId, asId<AlertRuleId>(ruleId)))
    .orderBy(asc(alert.id));

describe('rules', () => {
  it.each<[string, object, string]>([
    [
      'a band whose limits are the wrong way round',
      { condition: { kind: 'band', low: 8, high: 2, deadband: 0 } },
      'condition.high',
    ],
    ['a state without a name', { condition: { kind: 'state', equals: ' ' } }, 'condition.equals'],
    ['a kind nobody knows', { condition: { kind: 'mood' } }, 'condition.kind'],
    ['a model and a machine at once', { model: 'ULF', assetId: 1 }, 'model'],
    ['a machine that does not exist', { assetId: 99_999 }, 'assetId'],
    [
      'a rate of nothing',
      { condition: { kind: 'rate', side: 'rising', perHour: 0, deadband: 0, spanSeconds: 60 } },
      'condition.perHour',
    ],
  ])('are refused with %s, at its field', async (_, over, field) => {
    const before = await house.database.db.$count(alertRule);
    const own = 'assetId' in over && over.assetId === 1 ? { ...over, assetId: machine(0) } : over;
    const { status, body } = await call('POST', '/api/alert-rules', asked(own));
    expect([[400, 404, 409, 422].includes(status), body.errors[0]?.field]).toEqual([true, field]);
    expect(await house.database.db.$count(alertRule)).toBe(before);
  });

  it('have one name for the same machines; a machine’s own may be called as its class’s', async () => {
    const name = 'Twice';
    const id = await add({ name });
    const own = await add({ name, assetId: machine(0) });
    for (const over of [{ name }, { name, assetId: machine(0) }])
      expect((await call('POST', '/api/alert-rules', asked(over))).body.errors[0]).toMatchObject({ code: 'taken' });
    const { items } = must(await call<{ items: AlertRuleOut[] }>('GET', '/api/alert-rules'));
    expect(items.filter((r) => r.name === name).map((r) => [r.id, r.tag === null])).toEqual([
      [id, true],
      [own, false],
    ]);
  });

  it('of a machine win over its class’s, or say that it is not watched', async () => {
    const name = 'Nearest';
    await add({ name, channel: 'near' });
    const condition = { kind: 'limit', side: 'above', limit: 0, deadband: 0 };
    await add({ name, channel: 'near', assetId: machine(1), condition });
    await add({ name, channel: 'near', assetId: machine(2), watched: false });
    expect([
      await say(0, 'near', ['08:00', -60]),
      await say(1, 'near', ['08:00', -60]),
      await say(2, 'near', ['08:00', 60]),
    ]).toEqual([1, 0, 0]);
    expect(await say(1, 'near', ['08:01', 1])).toBe(1);
    const { alerts } = { alerts: must(await call<{ items: AlertOut[] }>('GET', '/api/alerts?list=all')).items };
    expect(alerts.filter((a) => a.rule === name).map((a) => a.text)).toEqual([
      'near 1 °C, limit above 0 °C',
      'near −60 °C, limit above −65 °C',
    ]);
  });
});

describe('time by itself', () => {
  // The house's own clock stands at 09:20: what is due later is looked at only here.
  it('ends an on-delay between readings, and an off-delay; each alert once, whoever looks', async () => {
    const id = await add({ channel: 'slow', onDelaySeconds: 300, offDelaySeconds: 120 });
    expect(await say(0, 'slow', ['09:21', -60])).toBe(0);
    await letTimeGoOn(house.database, at('09:25'));
    expect(await alertsOf(id)).toEqual([]);
    await Promise.all([1, 2, 3].map(() => letTimeGoOn(house.database, at('09:27'))));
    expect(await alertsOf(id)).toMatchObject([{ since: at('09:21'), from: at('09:26'), to: null, worst: -60 }]);
    await say(0, 'slow', ['09:28', -50], ['09:29', -70]);
    await letTimeGoOn(house.database, at('09:40'));
    expect(await alertsOf(id)).toEqual([
      { since: at('09:21'), from: at('09:26'), to: at('09:31'), normal: at('09:29'), worst: -50 },
    ]);
  });

  it('finds silence, also of a machine that never said anything; it ends with a word', async () => {
    const id = await house.database.transact(async (tx) => {
      const silence = { kind: 'silence', spanSeconds: 600 } as const;
      const rule = { ...asked({ channel: 'pulse' }), condition: silence } as unknown as typeof alertRule.$inferInsert;
      const [made] = await tx.db.insert(alertRule).values(rule).$returningId();
      await forgetWatched(tx);
      await beginWatching(tx, asId<AssetId>(0), at('09:10'));
      return made?.id as AlertRuleId;
    });
    await say(0, 'pulse', ['09:15', 1]);
    const half = instant(at('09:20') + MINUTE / 2);
    await letTimeGoOn(house.database, half);
    expect((await alertsOf(id)).map((a) => a.from)).toEqual([at('09:20'), at('09:20'), at('09:20')]);
    await say(1, 'pulse', ['09:24', 1]);
    expect((await alertsOf(id)).map((a) => a.to).filter((to) => to !== null)).toEqual([at('09:24')]);
    await letTimeGoOn(house.database, at('09:26'));
    expect((await alertsOf(id)).map((a) => a.from).at(-1)).toBe(at('09:25'));
    // Watched already: nothing begins anew.
    const states = await house.database.db.$count(ruleState);
    await house.database.transact((tx) => beginWatching(tx, asId<AssetId>(0), at('09:26')));
    expect(await house.database.db.$count(ruleState)).toBe(states);
  });

  it('counts doors that open too often, by yes and no', async () => {
    const condition = { kind: 'count', equals: '1', most: 1, spanSeconds: 600 };
    const id = await add({ channel: 'door', unit: '', condition });
    const doors = [false, true, false, true].map((open, i): [string, boolean] => [`09:2${i}`, open]);
    expect(await say(0, 'door', ...doors)).toBe(1);
    await letTimeGoOn(house.database, at('09:40'));
    // The first of the two counts until 09:31.
    expect(await alertsOf(id)).toMatchObject([{ from: at('09:23'), to: at('09:31'), worst: 2 }]);
  });
});

describe('a rule that is changed', () => {
  it('goes on with another limit; to another kind it begins anew, and what went on is not watched any more', async () => {
    const id = await add({ name: 'Changed', channel: 'changed' });
    await say(0, 'changed', ['08:00', -60]);
    const change = async (over: object, version: number) =>
      must(
        await call('PUT', `/api/alert-rules/${id}`, {
          ...asked({ name: 'Changed', channel: 'changed', ...over }),
          version,
        }),
      );
    await change({ condition: { kind: 'limit', side: 'above', limit: -66, deadband: 2 } }, 1);
    expect(await alertsOf(id)).toMatchObject([{ to: null }]);
    await change({ condition: { kind: 'silence', spanSeconds: 600 } }, 2);
    expect(await alertsOf(id)).toMatchObject([{ to: expect.any(Number) as number, normal: null }]);
    const states = house.database.db
      .select()
      .from(ruleState)
      .where(and(eq(ruleState.ruleId, asId<AlertRuleId>(id))));
    expect(await states).toEqual([]);
    expect((await call('PUT', `/api/alert-rules/${id}`, { ...asked(), version: 2 })).status).toBe(409);
  });
});

describe('rules and alerts from before conditions', () => {
  it('watch as they did: what is active stays so and returns, what was pending goes on', async () => {
    const { database, old } = await withOldMachine(73);
    const begun = at('08:00');
    await old(
      `INSERT INTO asset (customer_id, class_id, maker, model, serial, tag, serial_plain, owner, state)
       VALUES (1, 1, 'Vessmark', 'INC-240', 'S2', 'T2', 's2', 'customer', 'in service')`,
    );
    await old(
      `INSERT INTO alert_rule (name, asset_class_id, channel, unit, side, threshold, deadband, on_delay_seconds, priority)
       VALUES ('Warm', 1, 'chamber', 'Cel', 'above', 8, 0.5, 600, 1)`,
    );
    await old("INSERT INTO alert (rule_id, asset_id, started_at, worst) VALUES (1, 1, '2026-11-24 08:00:00', 9.5)");
    const state = (assetId: number, held: object) =>
      old(
        `INSERT INTO rule_state (rule_id, asset_id, last_at, state)
         VALUES (1, ${assetId}, '2026-11-24 08:05:00', '${JSON.stringify(held)}')`,
      );
    await state(1, { kind: 'active', since: begun, worst: 9.5 });
    await state(2, { kind: 'pending', since: begun, worst: 8.5 });
    await migrateDatabase(database);
    expect(await database.db.select().from(alertRule)).toMatchObject([
      { condition: { kind: 'limit', side: 'above', limit: 8, deadband: 0.5 }, offDelaySeconds: 0, watched: true },
    ]);
    expect(await database.db.select().from(alert)).toMatchObject([
      { since: instant(begun - 10 * MINUTE), startedAt: begun, endedAt: null },
    ]);
    const states = await database.db.select().from(ruleState).orderBy(asc(ruleState.assetId));
    expect(states.map((s) => [s.state.phase, s.state.worst, s.state.upTo])).toEqual([
      [{ kind: 'active', since: begun - 10 * MINUTE, from: begun }, 9.5, at('08:05')],
      [{ kind: 'pending', since: begun }, 8.5, at('08:05')],
    ]);
    expect(states.map((s) => s.dueAt)).toEqual([null, at('08:05')]);
    await database.close();
  });
});

describe('a nearer rule', () => {
  it('takes a machine over: what the farther one had going ends as not watched any more', async () => {
    const name = 'Taken over';
    const id = await add({ name, channel: 'over' });
    for (const n of [0, 1]) await say(n, 'over', ['09:00', -60]);
    await add({ name, channel: 'over', assetId: machine(0), watched: false });
    await letTimeGoOn(house.database, at('09:21'));
    const alerts = await house.database.db
      .select({ assetId: alert.assetId, to: alert.endedAt, normal: alert.normalSince, worst: alert.worst })
      .from(alert)
      .where(eq(alert.ruleId, asId<AlertRuleId>(id)))
      .orderBy(asc(alert.assetId));
    expect(alerts).toEqual([
      { assetId: machine(0), to: at('09:21'), normal: null, worst: -60 },
      { assetId: machine(1), to: null, normal: null, worst: -60 },
    ]);
    const states = await house.database.db
      .select({ assetId: ruleState.assetId })
      .from(ruleState)
      .where(eq(ruleState.ruleId, asId<AlertRuleId>(id)));
    expect(states).toEqual([{ assetId: machine(1) }]);
  });

  it('watches no machine that is retired, whoever still reports for it', async () => {
    const id = await add({ channel: 'gone', onDelaySeconds: 60 });
    for (const n of [2, 3]) await say(n, 'gone', ['09:22', -60]);
    const retired = eq(asset.id, asId<AssetId>(machine(2)));
    await house.database.db.update(asset).set({ state: 'retired' }).where(retired);
    await letTimeGoOn(house.database, at('09:30'));
    expect(await say(2, 'gone', ['09:25', -50], ['09:29', -50])).toBe(0);
    const alerts = await house.database.db
      .select({ assetId: alert.assetId })
      .from(alert)
      .where(eq(alert.ruleId, asId<AlertRuleId>(id)));
    expect(alerts).toEqual([{ assetId: machine(3) }]);
    await house.database.db.update(asset).set({ state: 'in service' }).where(retired);
  });
});

describe('a rule tried on the past', () => {
  it('says what it would have raised, beside the kept one, and raises and keeps nothing', async () => {
    const id = await add({ channel: 'tried', onDelaySeconds: 120 });
    await say(0, 'tried', ['07:00', -70], ['07:10', -64], ['07:30', -70], ['08:00', -60], ['08:20', -70]);
    await say(1, 'tried', ['07:00', -64.5], ['08:00', -70]);
    const count = async () => [await house.database.db.$count(alert), await house.database.db.$count(ruleState)];
    const before = await count();
    const ask = (over: object = {}) =>
      call<{ tried: Tried; kept: Tried | null }>('POST', '/api/alert-rules/preview', {
        ...asked({ channel: 'tried', onDelaySeconds: 120, ...over }),
        ...{ days: 1, ruleId: id },
      });
    const { tried, kept } = must(await ask({ condition: { kind: 'limit', side: 'above', limit: -62, deadband: 2 } }));
    // Beyond −62 only at 08:00, active two minutes later until 08:20.
    expect([tried.machines, tried.readings, tried.alerts, tried.seconds]).toEqual([2, 7, 1, 18 * 60]);
    expect(tried.shown).toMatchObject([
      { from: at('08:02'), to: at('08:20'), text: 'tried −60 °C, limit above −62 °C' },
    ]);
    // The kept one is what the house itself raised.
    expect([kept?.alerts, kept?.shown.map((a) => a.from)]).toEqual([
      3,
      (await alertsOf(id)).map((a) => a.from).toSorted((a, b) => b - a),
    ]);
    expect(must(await ask({ watched: false, assetId: machine(0) })).tried.alerts).toBe(0);
    expect(must(await ask({ assetId: machine(1) })).tried.alerts).toBe(1);
    expect(await count()).toEqual(before);
    const { status, body } = await call('POST', '/api/alert-rules/preview', { ...asked(), days: 0, ruleId: null });
    expect([status, body.errors[0]?.field]).toEqual([422, 'days']);
  });
});
