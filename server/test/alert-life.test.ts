// The life of alerts over the wire: answered, shelved, held back by others, flooding, out of service, told to people; and devices that
// nobody knows, or that move.
import { randomUUID } from 'node:crypto';
import { asc, eq } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { AlertOut } from '#api/signals.ts';
import { asId, type AlertRuleId } from '#core/ids.ts';
import { asInstant, type Instant } from '#core/time/index.ts';
import { letTimeGoOn } from '../src/signals/index.ts';
import { escalate } from '../src/signals/escalating.ts';
import {
  alert,
  alertFlood,
  alertShelf,
  alertTold,
  channel,
  outbox,
  person,
  reading,
  unknownDevice,
  workOrder,
} from '../src/tables.ts';
import { buildWorld, must, openHouse, type Caller, type TestHouse, type World } from './house.ts';

const MACHINES = 16;
let house: TestHouse;
let call: Caller;
let world: World;
let classId: number;
beforeAll(async () => {
  house = await openHouse('2026-11-24T09:20:00Z');
  call = await house.as('coordinator');
  world = await buildWorld(call, { assets: MACHINES });
  classId = must(await call<{ classes: { id: number }[] }>('GET', '/api/reference')).classes[0]?.id as number;
  for (const assetId of world.assetIds) must(await call('POST', '/api/devices', { assetId, key: keyOf(assetId) }));
});
afterAll(() => house.close());

const keyOf = (assetId: number): string => `urn:dev:os:life-${assetId}`;
const machine = (n: number): number => world.assetIds[n] as number;
const at = (time: string): Instant => asInstant(`2026-11-24T${time}:00Z`);
const add = async (name: string, channelName: string, over: object = {}): Promise<number> =>
  must(
    await call<{ id: number }>('POST', '/api/alert-rules', {
      ...{ name, assetClassId: classId, channel: channelName, unit: '', priority: 2 },
      condition: { kind: 'limit', side: 'above', limit: 10, deadband: 0 },
      ...{ onDelaySeconds: 0, offDelaySeconds: 0, holdSeconds: 3600, model: null, assetId: null, watched: true },
      ...{
        askFirst: false,
        orderText: '',
        likelyCause: '',
        jobPlanId: null,
        watchCalendarId: null,
        suppressedBy: [],
        tells: [],
      },
      ...over,
    }),
  ).id;
const say = async (n: number, channelName: string, ...points: readonly [time: string, value: number][]) =>
  must(
    await call<{ alerts: number }>(
      'POST',
      '/api/readings',
      points.map(([time, v]) => ({ n: `${keyOf(machine(n))}:${channelName}`, t: at(time) / 1000, v })),
    ),
  ).alerts;
const alertsOf = (ruleId: number) =>
  house.database.db
    .select()
    .from(alert)
    .where(eq(alert.ruleId, asId<AlertRuleId>(ruleId)))
    .orderBy(asc(alert.startedAt), asc(alert.id));
const journal = async (query: string) =>
  must(await call<{ items: AlertOut[]; counts: Record<string, number> }>('GET', `/api/alerts?${query}`));
const eventsOf = async (orderId: number) =>
  must(await call<{ stage: string; events: { kind: string; text: string }[] }>('GET', `/api/orders/${orderId}`));

describe('answering', () => {
  it('takes in every earlier alert of the rule and machine, and no later one or other machine’s', async () => {
    const id = await add('Answered', 'answered');
    await say(0, 'answered', ['08:00', 20], ['08:05', 5], ['08:10', 20], ['08:15', 5], ['08:20', 20]);
    await say(1, 'answered', ['08:00', 20]);
    const [first, second] = await alertsOf(id).then((all) => all.filter((a) => a.assetId === machine(0)));
    expect(first?.id).toBeLessThan(second?.id as number);
    const answer = await call('POST', '/api/alerts/acknowledge', { alertIds: [second?.id] });
    expect(answer.body).toEqual({ acknowledged: 2 });
    const { items, counts } = await journal(`rule=${id}&list=to answer`);
    expect([items.length, counts.toAnswer]).toEqual([2, 2]);
    const all = await journal(`rule=${id}`);
    expect(all.items.filter((a) => a.acknowledged).map((a) => a.acknowledged?.by)).toEqual([
      'The coordinator',
      'The coordinator',
    ]);
    // Twice says nothing new; one that is not there is refused, and nothing of the rest is done.
    expect((await call('POST', '/api/alerts/acknowledge', { alertIds: [second?.id] })).body).toEqual({
      acknowledged: 0,
    });
    const refused = await call('POST', '/api/alerts/acknowledge', { alertIds: [items[0]?.id, 999_999] });
    expect([refused.status, (await journal(`rule=${id}&list=to answer`)).items.length]).toEqual([404, 2]);
    for (const a of items) await call('POST', '/api/alerts/acknowledge', { alertIds: [a.id] });
    const technician = await house.as('technician');
    expect((await technician('POST', '/api/alerts/acknowledge', { alertIds: [second?.id] })).status).toBe(403);
  });
});

describe('the journal', () => {
  it('comes page by page, each alert once, and is searched by rule, machine and customer', async () => {
    const id = await add('Paged', 'paged');
    for (let i = 0; i < 7; i += 1) await say(2, 'paged', [`07:${10 + i * 2}`, 20], [`07:${11 + i * 2}`, 5]);
    const seen: number[] = [];
    for (let after: string | null = ''; after !== null;) {
      const page: { items: AlertOut[]; next: string | null } = must(
        await call('GET', `/api/alerts?rule=${id}&limit=3${after ? `&after=${after}` : ''}`),
      );
      seen.push(...page.items.map((a) => a.id));
      after = page.next;
    }
    const all = await alertsOf(id);
    expect(seen).toEqual(all.map((a) => a.id).reverse());
    expect((await journal('search=Paged&limit=2')).items.map((a) => a.rule)).toEqual(['Paged', 'Paged']);
    expect((await journal('search=nobody%25')).items).toEqual([]);
  });
});

describe('a shelf', () => {
  it('holds back what starts while it lasts; what is gone by its end stays in the journal, what goes on is told from then', async () => {
    const id = await add('Shelved', 'shelved');
    await say(3, 'shelved', ['08:00', 20], ['08:05', 5]);
    const [told] = await alertsOf(id);
    for (const [body, field] of [
      [{ hours: 0, reason: 'the door is mended' }, 'hours'],
      [{ hours: 500, reason: 'the door is mended' }, 'hours'],
      [{ hours: 4, reason: ' ' }, 'reason'],
    ] as const)
      expect((await call('POST', `/api/alerts/${told?.id}/shelf`, body)).body.errors[0]?.field).toBe(field);
    expect(await house.database.db.$count(alertShelf)).toBe(0);
    const shelf = must(
      await call<{ id: number }>('POST', `/api/alerts/${told?.id}/shelf`, { hours: 1, reason: 'the door is mended' }),
    );
    expect((await call('POST', `/api/alerts/${told?.id}/shelf`, { hours: 1, reason: 'once more' })).status).toBe(409);
    const orders = await house.database.db.$count(workOrder);
    await say(3, 'shelved', ['09:21', 20], ['09:22', 5], ['09:25', 20]);
    const [, gone, held] = await alertsOf(id);
    expect([gone?.toldAt, gone?.heldBy, held?.toldAt, held?.orderId]).toEqual([null, 'shelved', null, null]);
    expect((await journal(`rule=${id}&list=held back`)).items).toMatchObject([
      { id: held?.id, shelf: { id: shelf.id, reason: 'the door is mended' } },
    ]);
    expect(await house.database.db.$count(workOrder)).toBe(orders);
    await letTimeGoOn(house.database, at('10:19'));
    expect((await alertsOf(id)).at(-1)?.toldAt).toBeNull();
    await letTimeGoOn(house.database, at('10:21'));
    const [, still, now] = await alertsOf(id);
    expect([still?.toldAt, now?.toldAt, now?.acknowledgedAt]).toEqual([null, at('10:20'), null]);
    // It joins the order its first alert raised.
    expect(now?.orderId).toBe(told?.orderId);
  });

  it('taken off before its end tells of what goes on at once, and is taken off once', async () => {
    const id = await add('Off the shelf', 'off');
    await say(4, 'off', ['08:00', 20], ['08:05', 5]);
    const [first] = await alertsOf(id);
    const shelf = must(
      await call<{ id: number }>('POST', `/api/alerts/${first?.id}/shelf`, { hours: 8, reason: 'being moved' }),
    );
    await say(4, 'off', ['09:20', 20]);
    expect((await alertsOf(id)).at(-1)?.toldAt).toBeNull();
    expect((await call('POST', `/api/alert-shelves/${shelf.id}/end`)).status).toBe(200);
    expect((await alertsOf(id)).at(-1)?.toldAt).toBe(at('09:20'));
    expect((await call('POST', `/api/alert-shelves/${shelf.id}/end`)).status).toBe(409);
  });
});

describe('an alert that holds others back', () => {
  it('at the same instant too; they are told when it ends, if they still go on', async () => {
    await add('No power', 'power', { condition: { kind: 'limit', side: 'below', limit: 1, deadband: 0 } });
    const id = await add('Too warm without power', 'warmth', { suppressedBy: ['No power'] });
    // One pack: the power is gone and it is too warm, at one instant.
    const both = ['power', 'warmth'].map((n, i) => ({
      n: `${keyOf(machine(5))}:${n}`,
      t: at('08:30') / 1000,
      v: i * 20,
    }));
    must(await call('POST', '/api/readings', both.reverse()));
    expect(await alertsOf(id)).toMatchObject([{ heldBy: 'suppressed', toldAt: null, orderId: null }]);
    await say(5, 'power', ['08:50', 5]);
    const [told] = await alertsOf(id);
    expect([told?.toldAt, told?.orderId !== null]).toEqual([at('08:50'), true]);
  });

  it('is named by rules of its class, and by none that it holds back itself', async () => {
    const base = {
      assetClassId: classId,
      channel: 'x',
      unit: '',
      priority: 2,
      condition: { kind: 'state', equals: 'on' },
    };
    const rest = {
      ...{ onDelaySeconds: 0, offDelaySeconds: 0, holdSeconds: 3600, model: null, assetId: null, watched: true },
      ...{ askFirst: false, orderText: '', likelyCause: '', jobPlanId: null, watchCalendarId: null, tells: [] },
    };
    const ask = (name: string, suppressedBy: string[]) =>
      call<{ id: number }>('POST', '/api/alert-rules', { ...base, ...rest, name, suppressedBy });
    expect((await ask('Alone', ['Nobody knows'])).body.errors[0]).toMatchObject({
      field: 'suppressedBy',
      code: 'not-found',
    });
    expect((await ask('Itself', ['Itself'])).body.errors[0]).toMatchObject({ field: 'suppressedBy', code: 'conflict' });
    const first = must(await ask('First', []));
    must(await ask('Second', ['First']));
    const changed = await call('PUT', `/api/alert-rules/${first.id}`, {
      ...base,
      ...rest,
      name: 'First',
      suppressedBy: ['Second'],
      version: 1,
    });
    expect(changed.body.errors[0]).toMatchObject({ field: 'suppressedBy', code: 'conflict' });
  });
});

describe('a rule that asks first', () => {
  it('raises nothing until somebody says so, and then once', async () => {
    const id = await add('Asks', 'asks', {
      askFirst: true,
      likelyCause: 'a worn seal',
      orderText: 'Bring the long key.',
    });
    await say(6, 'asks', ['09:00', 20]);
    const [{ id: alertId }] = (await alertsOf(id)) as unknown as [{ id: number }];
    expect((await journal(`rule=${id}&list=no order`)).items).toMatchObject([{ asks: true, orderId: null }]);
    const raised = must(await call<{ id: number }>('POST', `/api/alerts/${alertId}/order`));
    const { events } = await eventsOf(raised.id);
    expect(events[0]?.text).toContain('likely cause: a worn seal');
    expect(events[0]?.text).toContain('Bring the long key.');
    expect((await call('POST', `/api/alerts/${alertId}/order`)).status).toBe(409);
  });
});

describe('a machine that somebody works on', () => {
  it('starts no alert, and begins anew once it has settled', async () => {
    const id = await add('Worked on', 'work');
    await say(7, 'work', ['07:00', 20]);
    const [first] = await alertsOf(id);
    const act = (body: object, time: string) =>
      call('POST', `/api/orders/${first?.orderId}/events`, {
        requestKey: randomUUID(),
        at: new Date(at(time)).toISOString(),
        act: body,
      });
    for (const [body, time] of [
      [{ kind: 'told', technician: 'Somebody' }, '07:10'],
      [{ kind: 'arrived' }, '08:00'],
    ] as const)
      must(await act(body, time));
    await say(7, 'work', ['08:05', 5], ['08:20', 30], ['08:25', 30]);
    expect(await alertsOf(id)).toMatchObject([{ endedAt: at('08:05') }]);
    must(await act({ kind: 'restored' }, '08:30'));
    await say(7, 'work', ['09:05', 30]);
    // Half an hour after it was back in use.
    expect((await alertsOf(id)).map((a) => a.startedAt)).toEqual([at('07:00'), at('09:00')]);
  });

  it('told late, takes back what was found meanwhile', async () => {
    const id = await add('Told late', 'told-late');
    await say(8, 'told-late', ['07:00', 20], ['07:30', 5]);
    const [first] = await alertsOf(id);
    await say(8, 'told-late', ['08:20', 30]);
    expect(await alertsOf(id)).toHaveLength(2);
    for (const [kind, time] of [
      ['told', '07:10'],
      ['arrived', '08:00'],
    ] as const)
      must(
        await call('POST', `/api/orders/${first?.orderId}/events`, {
          ...{ requestKey: randomUUID(), at: new Date(at(time)).toISOString() },
          act: kind === 'told' ? { kind, technician: 'Somebody' } : { kind },
        }),
      );
    await say(8, 'told-late', ['08:21', 30]);
    await letTimeGoOn(house.database, at('09:21'));
    expect((await alertsOf(id)).map((a) => a.withdrawnAt !== null)).toEqual([false, true]);
    expect((await journal(`rule=${id}`)).items.map((a) => a.withdrawn)).toEqual([true, false]);
  });
});

describe('a flood', () => {
  it('makes one order of all machines of the place, by the strictest priority, and takes in those nobody has begun with', async () => {
    const [warm, off] = [
      await add('Flooded', 'flooded', { priority: 3 }),
      await add('Flooded, urgent', 'flooded', {
        priority: 1,
        condition: { kind: 'limit', side: 'above', limit: 90, deadband: 0 },
      }),
    ];
    for (let n = 0; n < 10; n += 1) await say(n, 'flooded', [`06:0${n}`, 20]);
    const before = await alertsOf(warm);
    expect(new Set(before.map((a) => a.orderId)).size).toBe(10);
    await say(10, 'flooded', ['06:09', 95]);
    const flooded = [...(await alertsOf(warm)), ...(await alertsOf(off))];
    const [flood] = await house.database.db.select().from(alertFlood);
    expect(new Set(flooded.map((a) => a.orderId))).toEqual(new Set([flood?.orderId]));
    type Page = { priority: number; stage: string; lines: { assetId: number }[] };
    const page = must(await call<Page>('GET', `/api/orders/${flood?.orderId}`));
    expect([page.priority, page.lines.map((l) => l.assetId).sort((a, b) => a - b)]).toEqual([
      1,
      world.assetIds.slice(0, 11),
    ]);
    for (const { orderId } of before) expect((await eventsOf(orderId as number)).stage).toBe('called off');
    // The next machine is added to it; one that is on it already is not listed twice.
    await say(11, 'flooded', ['06:11', 20]);
    await say(10, 'flooded', ['06:12', 5], ['06:13', 20]);
    const again = must(await call<Page>('GET', `/api/orders/${flood?.orderId}`));
    expect(again.lines.map((l) => l.assetId).sort((a, b) => a - b)).toEqual(world.assetIds.slice(0, 12));
    expect((await alertsOf(warm)).at(-1)?.orderId).toBe(flood?.orderId);
  });

  it('is over when fewer than five came within ten minutes', async () => {
    const id = await add('After the flood', 'after');
    await say(15, 'after', ['06:29', 20]);
    const [flood] = await house.database.db.select().from(alertFlood);
    const [own] = await alertsOf(id);
    expect([flood?.until, own?.orderId === flood?.orderId, own?.floodId]).toEqual([at('06:29'), false, null]);
  });
});

describe('who is told', () => {
  it('one after the other, until somebody acknowledges; within their hours; each once, whoever looks', async () => {
    const people = await house.database.db.select().from(person).orderBy(asc(person.id));
    const [a, b] = people as [typeof person.$inferSelect, typeof person.$inferSelect];
    const steps = [
      { personId: a.id, afterMinutes: 0, hours: null },
      { personId: b.id, afterMinutes: 10, hours: null },
      { personId: a.id, afterMinutes: 10, hours: { from: 60, to: 120 } },
      { personId: b.id, afterMinutes: 60, hours: null },
    ];
    const id = await add('Told', 'told', { tells: steps, askFirst: true });
    await say(12, 'told', ['09:15', 20]);
    const [of] = await alertsOf(id);
    const told = async () =>
      (
        await house.database.db
          .select()
          .from(alertTold)
          .where(eq(alertTold.alertId, of?.id as never))
      ).map((t) => [t.step, t.personId]);
    const before = await house.database.db.$count(outbox);
    await Promise.all([1, 2, 3].map(() => escalate(house.database, at('09:16'))));
    expect(await told()).toEqual([[0, a.id]]);
    await escalate(house.database, at('09:26'));
    expect(await told()).toEqual([
      [0, a.id],
      [1, b.id],
    ]);
    expect(await house.database.db.$count(outbox)).toBe(before + 2);
    must(await call('POST', '/api/alerts/acknowledge', { alertIds: [of?.id] }));
    await escalate(house.database, at('11:00'));
    expect(await told()).toHaveLength(2);
    const wrong = await call('POST', '/api/alert-rules', { name: 'x', tells: [{ ...steps[0], personId: 99_999 }] });
    expect(wrong.status).toBe(422);
  });
});

describe('a watch calendar', () => {
  it('ends what goes on when it closes, and finds nothing outside of it', async () => {
    const day = await call<{ id: number }>('POST', '/api/calendars', {
      ...{
        name: 'One hour',
        zone: 'UTC',
        weekly: Array.from({ length: 7 }, () => [{ from: 480, to: 540 }]),
        closed: [],
        extraOpen: [],
      },
    });
    const calendarId = must(day).id;
    const id = await add('By calendar', 'calendar', { watchCalendarId: calendarId });
    await say(13, 'calendar', ['07:30', 20], ['08:10', 20]);
    expect((await alertsOf(id)).map((a) => a.startedAt)).toEqual([at('08:00')]);
    await letTimeGoOn(house.database, at('09:10'));
    expect(await alertsOf(id)).toMatchObject([{ endedAt: at('09:00'), normalSince: null }]);
    await say(13, 'calendar', ['09:15', 30]);
    expect(await alertsOf(id)).toHaveLength(1);
  });
});

describe('devices', () => {
  it('that nobody knows wait by name, are refused or tied, and flood no list', async () => {
    const send = (names: string[]) =>
      call<{ setAside: { message: string }[] }>('POST', '/api/readings', [
        { n: `${keyOf(machine(14))}:fine`, v: 1, t: at('09:00') / 1000 },
        ...names.map((name) => ({ n: `${name}:chamber`, v: 1, t: at('09:00') / 1000 })),
      ]);
    must(await send(['stranger-1', 'stranger-2']));
    type Listed = { items: { id: number; key: string; channels: string }[]; next: string | null };
    const listed = must(await call<Listed>('GET', '/api/unknown-devices'));
    expect(listed.items.map((u) => [u.key, u.channels]).sort()).toEqual([
      ['stranger-1', 'chamber'],
      ['stranger-2', 'chamber'],
    ]);
    const [first] = listed.items.filter((u) => u.key === 'stranger-1');
    must(await call('POST', `/api/unknown-devices/${first?.id}/refuse`, { refused: true }));
    expect(must(await call<Listed>('GET', '/api/unknown-devices')).items.map((u) => u.key)).toEqual(['stranger-2']);
    must(await call('POST', '/api/devices', { assetId: machine(14), key: 'stranger-2' }));
    expect(must(await call<Listed>('GET', '/api/unknown-devices')).items).toEqual([]);
    must(await send(['stranger-2', 'stranger-1']));
    expect((await house.database.db.select().from(channel)).some((c) => c.channel === 'chamber')).toBe(true);
    // Ten thousand names: so many are listed, the rest is only named.
    for (let i = 0; i < 13; i += 1) await send(Array.from({ length: 900 }, (_, k) => `flood-${i * 900 + k}`));
    expect(await house.database.db.$count(unknownDevice)).toBeLessThanOrEqual(1001);
    expect(must(await call<Listed>('GET', '/api/unknown-devices?limit=200')).next).not.toBeNull();
  });

  it('move from a time on: what was said before stays the old machine’s, also of alerts', async () => {
    const id = await add('Moved', 'moved');
    await say(14, 'moved', ['08:00', 5], ['08:30', 20], ['08:50', 20]);
    const devices = must(await call<{ devices: { id: number; key: string }[] }>('GET', '/api/signals')).devices;
    const own = devices.find((d) => d.key === keyOf(machine(14))) as { id: number };
    const move = (assetId: number, from: Instant) => call('POST', `/api/devices/${own.id}/move`, { assetId, from });
    for (const [answer, field] of [
      [await move(999_999, at('08:20')), 'assetId'],
      [await move(machine(14), at('08:20')), 'assetId'],
      [await move(machine(15), at('23:00')), 'from'],
    ] as const)
      expect(answer.body.errors[0]?.field).toBe(field);
    must(await move(machine(15), at('08:20')));
    await letTimeGoOn(house.database, at('09:20'));
    const alerts = await alertsOf(id);
    expect(alerts.map((a) => [a.assetId, a.startedAt, a.withdrawnAt !== null]).sort()).toEqual(
      [
        [machine(14), at('08:30'), true],
        [machine(15), at('08:30'), false],
      ].sort(),
    );
    expect(await house.database.db.$count(reading, eq(reading.channel, 'moved'))).toBe(3);
    const back = await move(machine(14), at('08:10'));
    expect([back.status, back.body.errors[0]?.field]).toEqual([422, 'from']);
    const points = (assetId: number) =>
      call<{ points: { at: number }[] }>('GET', `/api/assets/${assetId}/readings?channel=moved`).then(
        (r) => r.body.points.length,
      );
    expect([await points(machine(14)), await points(machine(15))]).toEqual([1, 2]);
  });
});

describe('figures and the watch', () => {
  it('count what happened, and show what is active and silent', async () => {
    type Figures = {
      alerts: number;
      withdrawn: number;
      told: number;
      ordered: number;
      top: { rule: string }[];
      days: { alerts: number }[];
    };
    const f = must(await call<Figures>('GET', '/api/alert-figures?days=7'));
    const all = await house.database.db.select().from(alert);
    const own = all.filter((a) => a.startedAt < at('09:20'));
    expect([f.alerts, f.withdrawn]).toEqual([
      own.filter((a) => !a.withdrawnAt).length,
      own.filter((a) => a.withdrawnAt).length,
    ]);
    expect(f.days.reduce((n, d) => n + d.alerts, 0)).toBe(f.alerts);
    expect(f.top[0]?.rule).toBe('Paged');
    expect((await call('GET', '/api/alert-figures?days=8')).status).toBe(422);
    type Watched = {
      places: { machines: number; active: number }[];
      machines: { assetId: number; channels: { channel: string; high: number | null; alert: object | null }[] }[];
    };
    const w = must(await call<Watched>('GET', '/api/watch'));
    expect(w.places[0]?.machines).toBe(MACHINES);
    const flooded = w.machines.find((m) => m.assetId === machine(3));
    expect(flooded?.channels.find((c) => c.channel === 'flooded')).toMatchObject({
      high: 10,
      alert: { rule: 'Flooded' },
    });
  });
});
