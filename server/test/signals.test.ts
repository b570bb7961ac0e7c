// Signals to orders: packs over HTTP, alerts, repair orders raised by themselves, joining, and what is refused.
import { asc, count, eq } from 'drizzle-orm';
import { asInstant } from '#core/time/index.ts';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { letTimeGoOn } from '../src/signals/index.ts';
import { alert, gateway, reading } from '../src/tables.ts';
import { buildWorld, openHouse, type Caller, type TestHouse, type World } from './house.ts';
import { RULE } from './signal-house.ts';

const KEY = 'urn:dev:os:stavok-q100';
let house: TestHouse;
let call: Caller;
let world: World;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call);
  const classId = (await call<{ classes: { id: number }[] }>('GET', '/api/reference')).body.classes[0]?.id;
  expect(
    (
      await call('POST', '/api/alert-rules', {
        name: 'Chamber too warm',
        assetClassId: classId,
        channel: 'chamber',
        unit: 'Cel',
        condition: { kind: 'limit', side: 'above', limit: -65, deadband: 2 },
        ...{ ...RULE, onDelaySeconds: 300, priority: 1 },
      })
    ).status,
  ).toBe(200);
  expect((await call('POST', '/api/devices', { assetId: world.assetIds[0], key: KEY })).status).toBe(200);
});
afterAll(() => house.close());

const at = (time: string): number => Date.parse(`2026-11-24T${time}:00Z`) / 1000;
type Listed = { orderId: number; startedAt: number; endedAt: number | null; joined: boolean };
const journal = async () =>
  (await call<{ items: Listed[]; counts: { active: number } }>('GET', '/api/alerts?list=all')).body;
const pack = (...points: [string, number][]) =>
  points.map(([time, v], i) => ({ ...(i === 0 && { bn: `${KEY}:`, bu: 'Cel' }), n: 'chamber', t: at(time), v }));

describe('readings', () => {
  it('below the on-delay raise nothing', async () => {
    expect((await call('POST', '/api/readings', pack(['08:00', -78], ['08:10', -64], ['08:13', -68]))).body).toEqual({
      taken: 3,
      ...{ alreadyHeld: 0, alerts: 0, setAside: [] },
    });
  });

  it('beyond it raise an alert and a repair order with verdict and clocks from the alert’s start', async () => {
    expect(
      (await call('POST', '/api/readings', pack(['09:00', -64], ['09:03', -63], ['09:06', -62]))).body,
    ).toMatchObject({ alerts: 1 });
    const { items, counts } = await journal();
    const [raised] = items;
    expect([counts.active, raised?.startedAt, raised?.joined]).toEqual([1, Date.parse('2026-11-24T09:05:00Z'), false]);
    const order = await call<{
      kind: string;
      lines: [{ verdict: { sentence: string } }];
      clocks: { target: string; startedAt: number; dueAt: number }[];
    }>('GET', `/api/orders/${raised?.orderId}`);
    expect(order.body.kind).toBe('repair');
    expect(order.body.lines[0].verdict.sentence).toContain('Covered by AG-2001');
    expect(order.body.clocks.find((c) => c.target === 'response')).toMatchObject({
      startedAt: Date.parse('2026-11-24T09:05:00Z'),
      dueAt: Date.parse('2026-11-24T09:35:00Z'),
    });
  });

  it('sent twice are held once and alert once', async () => {
    expect((await call('POST', '/api/readings', pack(['09:00', -64], ['09:03', -63], ['09:06', -62]))).body).toEqual({
      taken: 0,
      ...{ alreadyHeld: 3, alerts: 0, setAside: [] },
    });
  });

  it('back to normal end the alert; a second one joins the open order', async () => {
    await call('POST', '/api/readings', pack(['09:10', -70]));
    await call('POST', '/api/readings', pack(['09:20', -60], ['09:26', -58]));
    const { items: alerts } = await journal();
    expect(alerts.map((a) => [a.joined, a.endedAt !== null])).toEqual([
      [true, false],
      [false, true],
    ]);
    expect(alerts[0]?.orderId).toBe(alerts[1]?.orderId);
    const order = await call<{ events: { kind: string }[] }>('GET', `/api/orders/${alerts[0]?.orderId}`);
    expect(order.body.events.map((e) => e.kind)).toEqual(['raised', 'alert ended', 'alert joined']);
  });

  it('are taken under the media type of SenML itself, by a gateway too', async () => {
    const { key } = (
      await (
        await house.as('administrator')
      )<{ key: string }>('POST', '/api/gateways', { name: 'Roof' })
    ).body;
    const post = (authorization: string) =>
      house.app.inject({
        method: 'POST',
        url: '/api/readings',
        headers: { 'content-type': 'application/senml+json', authorization },
        payload: JSON.stringify(pack(['08:00', -80])),
      });
    expect((await post(`Bearer ${key}`)).statusCode).toBe(200);
    for (const wrong of ['Bearer gw_nothingthatanybodyknowsof', 'Bearer', 'Basic eDp5']) {
      const answer = await post(wrong);
      expect([answer.statusCode, answer.json<{ detail: string }>().detail]).toEqual([
        401,
        expect.stringContaining('gateway key is not known'),
      ]);
    }
  });

  it('in another unit are converted to the one that is watched; one that does not convert is refused by name', async () => {
    const inUnit = (u: string, v: number, time: string) => [{ bn: `${KEY}:`, n: 'chamber', u, v, t: at(time) }];
    expect((await call('POST', '/api/readings', inUnit('K', 193.15, '08:40'))).status).toBe(200);
    const [held] = await house.database.db
      .select()
      .from(reading)
      .where(eq(reading.at, asInstant('2026-11-24T08:40:00Z')));
    expect([held?.value, held?.unit]).toEqual([-80, 'Cel']);
    const before = await house.database.db.$count(reading);
    const answer = await call('POST', '/api/readings', inUnit('°F', -112, '08:45'));
    expect([answer.status, answer.body.detail]).toEqual([422, expect.stringContaining('“°F” is not a unit of SenML')]);
    expect(await house.database.db.$count(reading)).toBe(before);
  });

  it('that arrive late are judged at their own time; an alert they speak against is withdrawn, and its order stays', async () => {
    const alerts = () =>
      house.database.db
        .select({ from: alert.startedAt, to: alert.endedAt, withdrawn: alert.withdrawnAt, orderId: alert.orderId })
        .from(alert)
        .orderBy(asc(alert.startedAt));
    const times = (all: Awaited<ReturnType<typeof alerts>>) =>
      all.map((a) =>
        [a.from, a.to, a.withdrawn !== null].map((x) =>
          typeof x === 'number' ? new Date(x).toISOString().slice(11, 16) : x,
        ),
      );
    expect(times(await alerts())).toEqual([
      ['09:05', '09:10', false],
      ['09:25', null, false],
    ]);
    expect((await call('POST', '/api/readings', pack(['07:00', -50], ['07:30', -50]))).body).toMatchObject({
      taken: 2,
    });
    await call('POST', '/api/readings', pack(['09:22', -80]));
    await letTimeGoOn(house.database, house.now);
    // At 09:22 it was cold: it is too warm only from 09:26 on.
    expect(times(await alerts())).toEqual([
      ['07:05', '08:00', false],
      ['09:05', '09:10', false],
      ['09:25', expect.any(String), true],
      ['09:31', null, false],
    ]);
    const { orderId } = (await alerts())[2] as { orderId: number };
    const { events, stage } = (
      await call<{ events: { kind: string; text: string }[]; stage: string }>('GET', `/api/orders/${orderId}`)
    ).body;
    expect([stage, events.some((e) => e.text.includes('withdrawn'))]).toEqual(['raised', true]);
  });

  it.each<[string, unknown, number, string]>([
    ['of an unknown device', [{ n: 'urn:dev:os:nobody:chamber', v: 1 }], 422, 'no device is registered'],
    ['in a malformed pack', [{ n: 'x' }], 400, 'needs a value'],
    ['far in the future', [{ bn: `${KEY}:`, n: 'chamber', v: 1, t: at('23:00') }], 400, 'future'],
    ['as an object', {}, 400, 'array of records'],
  ])('%s are refused as a whole', async (_, body, status, said) => {
    const [before] = await house.database.db.select({ n: count() }).from(reading);
    const answer = await call('POST', '/api/readings', body);
    expect([answer.status, answer.body.detail]).toEqual([status, expect.stringContaining(said)]);
    expect((await house.database.db.select({ n: count() }).from(reading))[0]).toEqual(before);
  });

  it('posted at the same time by several senders alert once', async () => {
    await call('POST', '/api/readings', pack(['09:40', -80]));
    const burst = pack(['09:41', -60], ['09:47', -60]);
    const answers = await Promise.all([1, 2, 3, 4].map(() => call('POST', '/api/readings', burst)));
    expect(answers.map((a) => a.status)).toEqual([200, 200, 200, 200]);
    expect(answers.reduce((n, a) => n + Number(a.body.alerts), 0)).toBe(1);
    expect((await house.database.db.select({ n: count() }).from(alert))[0]?.n).toBe(5);
  });

  it('half good, half unknown: the good are taken, the others named; the device waits to be tied to a machine', async () => {
    const stranger = { bn: '', n: 'urn:dev:os:stranger:chamber', v: 1 };
    const { status, body } = await call<{ taken: number; setAside: { message: string }[] }>('POST', '/api/readings', [
      ...pack(['09:49', -70]),
      stranger,
    ]);
    expect([status, body.taken, body.setAside.map((s) => s.message)]).toEqual([
      200,
      1,
      [expect.stringContaining('Record 2: no device is registered as “urn:dev:os:stranger”')],
    ]);
  });

  it('come from a gateway by its key, without a session; a wrong key is refused', async () => {
    const { key } = (
      await (
        await house.as('administrator')
      )<{ key: string }>('POST', '/api/gateways', { name: 'Roof gateway' })
    ).body;
    const post = (bearer: string) =>
      house.app.inject({
        method: 'POST',
        url: '/api/readings',
        payload: pack(['09:50', -80]),
        headers: { authorization: `Bearer ${bearer}` },
      });
    expect((await post(key)).json()).toMatchObject({ taken: 1 });
    expect((await post('gw_aaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaa')).statusCode).toBe(401);
    const admin = await house.as('administrator');
    const { items } = (await admin<{ items: { id: number; name: string; active: boolean }[] }>('GET', '/api/gateways'))
      .body;
    expect(items).toMatchObject([{ name: 'Roof' }, { name: 'Roof gateway', active: true, formerUntil: null }]);
    expect(JSON.stringify(items)).not.toContain('Hash');
    // A new key, and a week in which the former one works too; of two changes the first key is out.
    const rotate = () =>
      admin<{ key: string }>('POST', `/api/gateways/${items.at(-1)?.id}/rotate`).then((r) => r.body.key);
    const second = await rotate();
    expect([(await post(key)).statusCode, (await post(second)).statusCode]).toEqual([200, 200]);
    await house.database.db.update(gateway).set({ formerUntil: house.now });
    expect([(await post(key)).statusCode, (await post(second)).statusCode]).toEqual([401, 200]);
    const third = await rotate();
    expect([(await post(second)).statusCode, (await post(third)).statusCode]).toEqual([200, 200]);
    expect((await admin('DELETE', `/api/gateways/${items.at(-1)?.id}`)).status).toBe(200);
    expect([(await post(second)).statusCode, (await post(third)).statusCode]).toEqual([401, 401]);
    expect((await admin('POST', `/api/gateways/${items.at(-1)?.id}/rotate`)).status).toBe(409);
    expect((await post(key)).statusCode).toBe(401);
  });
});
