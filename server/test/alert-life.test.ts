// The life of alerts over the wire: answered, shelved, held back by others, flooding, out of service, told to people, and counted.
import { randomUUID } from 'node:crypto';
import { asc, eq } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { AlertOut } from '#api/signals.ts';
import { letTimeGoOn } from '../src/signals/index.ts';
import { escalate } from '../src/signals/escalating.ts';
import { alert, alertFlood, alertShelf, alertTold, outbox, person, workOrder } from '../src/tables.ts';
import { must } from './house.ts';
import { at, keyOf, openSignals, RULE, type SignalHouse } from './signal-house.ts';

const MACHINES = 16;
let s: SignalHouse;
beforeAll(async () => {
  s = await openSignals(MACHINES);
});
afterAll(() => s.house.close());

const eventsOf = async (orderId: number) =>
  must(await s.call<{ stage: string; events: { kind: string; text: string }[] }>('GET', `/api/orders/${orderId}`));

describe('answering', () => {
  it('takes in every earlier alert of the rule and machine, and no later one or other machine’s', async () => {
    const id = await s.add('Answered', 'answered');
    await s.say(0, 'answered', ['08:00', 20], ['08:05', 5], ['08:10', 20], ['08:15', 5], ['08:20', 20]);
    await s.say(1, 'answered', ['08:00', 20]);
    const [first, second] = await s.alertsOf(id).then((all) => all.filter((a) => a.assetId === s.machine(0)));
    expect(first?.id).toBeLessThan(second?.id as number);
    const answer = await s.call('POST', '/api/alerts/acknowledge', { alertIds: [second?.id] });
    expect(answer.body).toEqual({ acknowledged: 2 });
    const { items, counts } = await s.journal(`rule=${id}&list=to answer`);
    expect([items.length, counts.toAnswer]).toEqual([2, 2]);
    const all = await s.journal(`rule=${id}`);
    expect(all.items.filter((a) => a.acknowledged).map((a) => a.acknowledged?.by)).toEqual([
      'The coordinator',
      'The coordinator',
    ]);
    // Twice says nothing new; one that is not there is refused, and nothing of the rest is done.
    expect((await s.call('POST', '/api/alerts/acknowledge', { alertIds: [second?.id] })).body).toEqual({
      acknowledged: 0,
    });
    const refused = await s.call('POST', '/api/alerts/acknowledge', { alertIds: [items[0]?.id, 999_999] });
    expect([refused.status, (await s.journal(`rule=${id}&list=to answer`)).items.length]).toEqual([404, 2]);
    for (const a of items) await s.call('POST', '/api/alerts/acknowledge', { alertIds: [a.id] });
    const technician = await s.house.as('technician');
    expect((await technician('POST', '/api/alerts/acknowledge', { alertIds: [second?.id] })).status).toBe(403);
  });
});

describe('the journal', () => {
  it('comes page by page, each alert once, and is searched by rule, machine and customer', async () => {
    const id = await s.add('Paged', 'paged');
    for (let i = 0; i < 7; i += 1) await s.say(2, 'paged', [`07:${10 + i * 2}`, 20], [`07:${11 + i * 2}`, 5]);
    const seen: number[] = [];
    for (let after: string | null = ''; after !== null;) {
      const page: { items: AlertOut[]; next: string | null } = must(
        await s.call('GET', `/api/alerts?rule=${id}&limit=3${after ? `&after=${after}` : ''}`),
      );
      seen.push(...page.items.map((a) => a.id));
      after = page.next;
    }
    const all = await s.alertsOf(id);
    expect(seen).toEqual(all.map((a) => a.id).reverse());
    expect((await s.journal('search=Paged&limit=2')).items.map((a) => a.rule)).toEqual(['Paged', 'Paged']);
    expect((await s.journal('search=nobody%25')).items).toEqual([]);
  });
});

describe('a shelf', () => {
  it('holds back what starts while it lasts; what is gone by its end stays in the journal, what goes on is told from then', async () => {
    const id = await s.add('Shelved', 'shelved');
    await s.say(3, 'shelved', ['08:00', 20], ['08:05', 5]);
    const [told] = await s.alertsOf(id);
    for (const [body, field] of [
      [{ hours: 0, reason: 'the door is mended' }, 'hours'],
      [{ hours: 500, reason: 'the door is mended' }, 'hours'],
      [{ hours: 4, reason: ' ' }, 'reason'],
    ] as const)
      expect((await s.call('POST', `/api/alerts/${told?.id}/shelf`, body)).body.errors[0]?.field).toBe(field);
    expect(await s.house.database.db.$count(alertShelf)).toBe(0);
    const shelf = must(
      await s.call<{ id: number }>('POST', `/api/alerts/${told?.id}/shelf`, { hours: 1, reason: 'the door is mended' }),
    );
    expect((await s.call('POST', `/api/alerts/${told?.id}/shelf`, { hours: 1, reason: 'once more' })).status).toBe(409);
    const orders = await s.house.database.db.$count(workOrder);
    await s.say(3, 'shelved', ['09:21', 20], ['09:22', 5], ['09:25', 20]);
    const [, gone, held] = await s.alertsOf(id);
    expect([gone?.toldAt, gone?.heldBy, held?.toldAt, held?.orderId]).toEqual([null, 'shelved', null, null]);
    expect((await s.journal(`rule=${id}&list=held back`)).items).toMatchObject([
      { id: held?.id, shelf: { id: shelf.id, reason: 'the door is mended' } },
    ]);
    expect(await s.house.database.db.$count(workOrder)).toBe(orders);
    await letTimeGoOn(s.house.database, at('10:19'));
    expect((await s.alertsOf(id)).at(-1)?.toldAt).toBeNull();
    await letTimeGoOn(s.house.database, at('10:21'));
    const [, still, now] = await s.alertsOf(id);
    expect([still?.toldAt, now?.toldAt, now?.acknowledgedAt]).toEqual([null, at('10:20'), null]);
    // It joins the order its first alert raised.
    expect(now?.orderId).toBe(told?.orderId);
  });

  it('taken off before its end tells of what goes on at once, and is taken off once', async () => {
    const id = await s.add('Off the shelf', 'off');
    await s.say(4, 'off', ['08:00', 20], ['08:05', 5]);
    const [first] = await s.alertsOf(id);
    const shelf = must(
      await s.call<{ id: number }>('POST', `/api/alerts/${first?.id}/shelf`, { hours: 8, reason: 'being moved' }),
    );
    await s.say(4, 'off', ['09:20', 20]);
    expect((await s.alertsOf(id)).at(-1)?.toldAt).toBeNull();
    expect((await s.call('POST', `/api/alert-shelves/${shelf.id}/end`)).status).toBe(200);
    expect((await s.alertsOf(id)).at(-1)?.toldAt).toBe(at('09:20'));
    expect((await s.call('POST', `/api/alert-shelves/${shelf.id}/end`)).status).toBe(409);
  });
});

describe('an alert that holds others back', () => {
  it('at the same instant too; they are told when it ends, if they still go on', async () => {
    await s.add('No power', 'power', { condition: { kind: 'limit', side: 'below', limit: 1, deadband: 0 } });
    const id = await s.add('Too warm without power', 'warmth', { suppressedBy: ['No power'] });
    // One pack: the power is gone and it is too warm, at one instant.
    const both = ['power', 'warmth'].map((n, i) => ({
      n: `${keyOf(s.machine(5))}:${n}`,
      t: at('08:30') / 1000,
      v: i * 20,
    }));
    must(await s.call('POST', '/api/readings', both.reverse()));
    expect(await s.alertsOf(id)).toMatchObject([{ heldBy: 'suppressed', toldAt: null, orderId: null }]);
    await s.say(5, 'power', ['08:50', 5]);
    const [told] = await s.alertsOf(id);
    expect([told?.toldAt, told?.orderId !== null]).toEqual([at('08:50'), true]);
  });

  it('is named by rules of its class, and by none that it holds back itself', async () => {
    const base = {
      assetClassId: s.classId,
      channel: 'x',
      unit: '',
      priority: 2,
      condition: { kind: 'state', equals: 'on' },
    };
    const ask = (name: string, suppressedBy: string[]) =>
      s.call<{ id: number }>('POST', '/api/alert-rules', { ...RULE, ...base, name, suppressedBy });
    expect((await ask('Alone', ['Nobody knows'])).body.errors[0]).toMatchObject({
      field: 'suppressedBy',
      code: 'not-found',
    });
    expect((await ask('Itself', ['Itself'])).body.errors[0]).toMatchObject({ field: 'suppressedBy', code: 'conflict' });
    const first = must(await ask('First', []));
    must(await ask('Second', ['First']));
    const changed = await s.call('PUT', `/api/alert-rules/${first.id}`, {
      ...RULE,
      ...base,
      name: 'First',
      suppressedBy: ['Second'],
      version: 1,
    });
    expect(changed.body.errors[0]).toMatchObject({ field: 'suppressedBy', code: 'conflict' });
  });
});

describe('a rule that asks first', () => {
  it('raises nothing until somebody says so, and then once', async () => {
    const id = await s.add('Asks', 'asks', {
      askFirst: true,
      likelyCause: 'a worn seal',
      orderText: 'Bring the long key.',
    });
    await s.say(6, 'asks', ['09:00', 20]);
    const [{ id: alertId }] = (await s.alertsOf(id)) as unknown as [{ id: number }];
    expect((await s.journal(`rule=${id}&list=no order`)).items).toMatchObject([{ asks: true, orderId: null }]);
    const raised = must(await s.call<{ id: number }>('POST', `/api/alerts/${alertId}/order`));
    const { events } = await eventsOf(raised.id);
    expect(events[0]?.text).toContain('likely cause: a worn seal');
    expect(events[0]?.text).toContain('Bring the long key.');
    expect((await s.call('POST', `/api/alerts/${alertId}/order`)).status).toBe(409);
  });
});

describe('a machine that somebody works on', () => {
  it('starts no alert, and begins anew once it has settled', async () => {
    const id = await s.add('Worked on', 'work');
    await s.say(7, 'work', ['07:00', 20]);
    const [first] = await s.alertsOf(id);
    const act = (body: object, time: string) =>
      s.call('POST', `/api/orders/${first?.orderId}/events`, {
        requestKey: randomUUID(),
        at: new Date(at(time)).toISOString(),
        act: body,
      });
    for (const [body, time] of [
      [{ kind: 'told', technician: 'Somebody' }, '07:10'],
      [{ kind: 'arrived' }, '08:00'],
    ] as const)
      must(await act(body, time));
    await s.say(7, 'work', ['08:05', 5], ['08:20', 30], ['08:25', 30]);
    expect(await s.alertsOf(id)).toMatchObject([{ endedAt: at('08:05') }]);
    must(await act({ kind: 'restored' }, '08:30'));
    await s.say(7, 'work', ['09:05', 30]);
    // Half an hour after it was back in use.
    expect((await s.alertsOf(id)).map((a) => a.startedAt)).toEqual([at('07:00'), at('09:00')]);
  });

  it('told late, takes back what was found meanwhile', async () => {
    const id = await s.add('Told late', 'told-late');
    await s.say(8, 'told-late', ['07:00', 20], ['07:30', 5]);
    const [first] = await s.alertsOf(id);
    await s.say(8, 'told-late', ['08:20', 30]);
    expect(await s.alertsOf(id)).toHaveLength(2);
    for (const [kind, time] of [
      ['told', '07:10'],
      ['arrived', '08:00'],
    ] as const)
      must(
        await s.call('POST', `/api/orders/${first?.orderId}/events`, {
          ...{ requestKey: randomUUID(), at: new Date(at(time)).toISOString() },
          act: kind === 'told' ? { kind, technician: 'Somebody' } : { kind },
        }),
      );
    await s.say(8, 'told-late', ['08:21', 30]);
    await letTimeGoOn(s.house.database, at('09:21'));
    expect((await s.alertsOf(id)).map((a) => a.withdrawnAt !== null)).toEqual([false, true]);
    expect((await s.journal(`rule=${id}`)).items.map((a) => a.withdrawn)).toEqual([true, false]);
  });
});

describe('a flood', () => {
  it('makes one order of all machines of the place, by the strictest priority, and takes in those nobody has begun with', async () => {
    const [warm, off] = [
      await s.add('Flooded', 'flooded', { priority: 3 }),
      await s.add('Flooded, urgent', 'flooded', {
        priority: 1,
        condition: { kind: 'limit', side: 'above', limit: 90, deadband: 0 },
      }),
    ];
    for (let n = 0; n < 10; n += 1) await s.say(n, 'flooded', [`06:0${n}`, 20]);
    const before = await s.alertsOf(warm);
    expect(new Set(before.map((a) => a.orderId)).size).toBe(10);
    await s.say(10, 'flooded', ['06:09', 95]);
    const flooded = [...(await s.alertsOf(warm)), ...(await s.alertsOf(off))];
    const [flood] = await s.house.database.db.select().from(alertFlood);
    expect(new Set(flooded.map((a) => a.orderId))).toEqual(new Set([flood?.orderId]));
    type Page = { priority: number; stage: string; lines: { assetId: number }[] };
    const page = must(await s.call<Page>('GET', `/api/orders/${flood?.orderId}`));
    expect([page.priority, page.lines.map((l) => l.assetId).sort((a, b) => a - b)]).toEqual([
      1,
      s.world.assetIds.slice(0, 11),
    ]);
    for (const { orderId } of before) expect((await eventsOf(orderId as number)).stage).toBe('called off');
    // The next machine is added to it; one that is on it already is not listed twice.
    await s.say(11, 'flooded', ['06:11', 20]);
    await s.say(10, 'flooded', ['06:12', 5], ['06:13', 20]);
    const again = must(await s.call<Page>('GET', `/api/orders/${flood?.orderId}`));
    expect(again.lines.map((l) => l.assetId).sort((a, b) => a - b)).toEqual(s.world.assetIds.slice(0, 12));
    expect((await s.alertsOf(warm)).at(-1)?.orderId).toBe(flood?.orderId);
  });

  it('is over when fewer than five came within ten minutes', async () => {
    const id = await s.add('After the flood', 'after');
    await s.say(15, 'after', ['06:29', 20]);
    const [flood] = await s.house.database.db.select().from(alertFlood);
    const [own] = await s.alertsOf(id);
    expect([flood?.until, own?.orderId === flood?.orderId, own?.floodId]).toEqual([at('06:29'), false, null]);
  });
});

describe('what stands behind an order', () => {
  it('is the rule as it was, who was told, and what was read around it, which goes on', async () => {
    const [who] = await s.house.database.db.select().from(person).orderBy(asc(person.id));
    const tells = [{ personId: who?.id, afterMinutes: 0, hours: null }];
    const id = await s.add('Behind', 'behind', { tells, onDelaySeconds: 120 });
    await s.say(14, 'behind', ['03:00', 1], ['09:00', 3], ['09:05', 20], ['09:08', 25]);
    const [of] = await s.alertsOf(id);
    await escalate(s.house.database, at('09:10'));
    const version = must(
      await s.call<{ items: { id: number; version: number }[] }>('GET', '/api/alert-rules'),
    ).items.find((r) => r.id === id)?.version;
    const changed = {
      ...{ ...RULE, name: 'Behind', assetClassId: s.classId, channel: 'behind', unit: '', priority: 2, version },
      condition: { kind: 'limit', side: 'above', limit: 11, deadband: 0 },
    };
    must(await s.call('PUT', `/api/alert-rules/${id}`, changed));
    type Behind = { said: string; text: string; told: { name: string; at: number }[]; limits: { limit: number }[] };
    const [behind] = must(await s.call<{ items: Behind[] }>('GET', `/api/orders/${of?.orderId}/alerts`)).items;
    expect([behind?.said, behind?.text, behind?.limits.map((l) => l.limit), behind?.told]).toEqual([
      ...['behind above 10, for 2 min', 'behind 25, limit above 10', [10]],
      [{ name: who?.name, at: at('09:10') }],
    ]);
    const curve = async () =>
      must(await s.call<{ points: { at: number; value: number }[] }>('GET', `/api/alerts/${of?.id}/curve`)).points.map(
        (p) => [p.at, p.value],
      );
    const before = [
      [at('09:00'), 3],
      [at('09:05'), 20],
      [at('09:08'), 25],
    ];
    // Six hours before it was abnormal is far enough.
    expect(await curve()).toEqual(before);
    await s.say(14, 'behind', ['09:19', 4]);
    expect(await curve()).toEqual([...before, [at('09:19'), 4]]);
    expect((await s.call('GET', '/api/alerts/999999/curve')).status).toBe(404);
    expect(must(await s.call<{ items: object[] }>('GET', '/api/orders/999999/alerts')).items).toEqual([]);
  });
});

describe('who is told', () => {
  it('one after the other, until somebody acknowledges; within their hours; each once, whoever looks', async () => {
    const people = await s.house.database.db.select().from(person).orderBy(asc(person.id));
    const [a, b] = people as [typeof person.$inferSelect, typeof person.$inferSelect];
    const steps = [
      { personId: a.id, afterMinutes: 0, hours: null },
      { personId: b.id, afterMinutes: 10, hours: null },
      { personId: a.id, afterMinutes: 10, hours: { from: 60, to: 120 } },
      { personId: b.id, afterMinutes: 60, hours: null },
    ];
    const id = await s.add('Told', 'told', { tells: steps, askFirst: true });
    await s.say(12, 'told', ['09:15', 20]);
    const [of] = await s.alertsOf(id);
    const told = async () =>
      (
        await s.house.database.db
          .select()
          .from(alertTold)
          .where(eq(alertTold.alertId, of?.id as never))
      ).map((t) => [t.step, t.personId]);
    const before = await s.house.database.db.$count(outbox);
    await Promise.all([1, 2, 3].map(() => escalate(s.house.database, at('09:16'))));
    expect(await told()).toEqual([[0, a.id]]);
    await escalate(s.house.database, at('09:26'));
    expect(await told()).toEqual([
      [0, a.id],
      [1, b.id],
    ]);
    expect(await s.house.database.db.$count(outbox)).toBe(before + 2);
    must(await s.call('POST', '/api/alerts/acknowledge', { alertIds: [of?.id] }));
    await escalate(s.house.database, at('11:00'));
    expect(await told()).toHaveLength(2);
    const wrong = await s.call('POST', '/api/alert-rules', { name: 'x', tells: [{ ...steps[0], personId: 99_999 }] });
    expect(wrong.status).toBe(422);
  });
});

describe('a watch calendar', () => {
  it('ends what goes on when it closes, and finds nothing outside of it', async () => {
    const day = await s.call<{ id: number }>('POST', '/api/calendars', {
      ...{
        name: 'One hour',
        zone: 'UTC',
        weekly: Array.from({ length: 7 }, () => [{ from: 480, to: 540 }]),
        closed: [],
        extraOpen: [],
      },
    });
    const calendarId = must(day).id;
    const id = await s.add('By calendar', 'calendar', { watchCalendarId: calendarId });
    await s.say(13, 'calendar', ['07:30', 20], ['08:10', 20]);
    expect((await s.alertsOf(id)).map((a) => a.startedAt)).toEqual([at('08:00')]);
    await letTimeGoOn(s.house.database, at('09:10'));
    expect(await s.alertsOf(id)).toMatchObject([{ endedAt: at('09:00'), normalSince: null }]);
    await s.say(13, 'calendar', ['09:15', 30]);
    expect(await s.alertsOf(id)).toHaveLength(1);
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
    const f = must(await s.call<Figures>('GET', '/api/alert-figures?days=7'));
    const all = await s.house.database.db.select().from(alert);
    const own = all.filter((a) => a.startedAt < at('09:20'));
    expect([f.alerts, f.withdrawn]).toEqual([
      own.filter((a) => !a.withdrawnAt).length,
      own.filter((a) => a.withdrawnAt).length,
    ]);
    expect(f.days.reduce((n, d) => n + d.alerts, 0)).toBe(f.alerts);
    expect(f.top[0]?.rule).toBe('Paged');
    expect((await s.call('GET', '/api/alert-figures?days=8')).status).toBe(422);
    type Watched = {
      places: { machines: number; active: number }[];
      machines: { assetId: number; channels: { channel: string; high: number | null; alert: object | null }[] }[];
    };
    const w = must(await s.call<Watched>('GET', '/api/watch'));
    expect(w.places[0]?.machines).toBe(MACHINES);
    const flooded = w.machines.find((m) => m.assetId === s.machine(3));
    expect(flooded?.channels.find((c) => c.channel === 'flooded')).toMatchObject({
      high: 10,
      alert: { rule: 'Flooded' },
    });
  });
});
