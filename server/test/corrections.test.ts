// What was told wrongly of an order is corrected with its reason: looked at before, derived again, told beside months that are closed.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Answer as AnswerOf } from '#api/contract.ts';
import type { previewCorrection, readClockHistory } from '#api/corrections.ts';
import type { OrderPage } from '#api/orders.ts';
import type { readStandingTotal } from '#api/standing.ts';
import type { readAdjustments } from '#api/standing-months.ts';
import { rebuild } from '../src/platform/derived.ts';
import { ROOMS } from '../src/rooms.ts';
import { adjustClosed } from '../src/standing/index.ts';
import { clock, orderEvent } from '../src/tables.ts';
import { agreementInForce, buildWorld, must, openHouse, type Caller, type TestHouse, type World } from './house.ts';

let house: TestHouse;
let call: Caller;
let manager: Caller;
let world: World;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  manager = await house.as('manager');
  world = await buildWorld(call, { assets: 2, minutes: 60 });
  await agreementInForce(call, world);
});
afterAll(() => house.close());

const at = (time: string, day = '2026-11-20'): string => `${day}T${time}:00.000Z`;

/** A repair of priority 1, told within 30 minutes and attended late; its id. */
async function late(day = '2026-11-20'): Promise<number> {
  const { id } = must(
    await call<{ id: number }>('POST', '/api/orders', {
      ...{ requestKey: randomUUID(), assetIds: [world.assetIds[0]], priority: 1, cause: 'wear', title: 'Warm' },
      ...{ receivedAt: at('08:00', day), lateReason: 'told by paper' },
    }),
  );
  const acts = [
    ['08:20', { kind: 'told', technician: 'technician' }],
    ['14:00', { kind: 'arrived' }],
    ['15:00', { kind: 'restored' }],
  ] as const;
  for (const [time, act] of acts)
    must(await call('POST', `/api/orders/${id}/events`, { requestKey: randomUUID(), at: at(time, day), act }));
  return id;
}

const history = async (id: number) =>
  must(await call<AnswerOf<typeof readClockHistory>>('GET', `/api/orders/${id}/clock-history`)).items;
const arrivalOf = async (id: number) => (await history(id)).find((s) => s.text === 'on site')?.id as number;
const clocksOf = async (id: number) => must(await call<OrderPage>('GET', `/api/orders/${id}`)).clocks;
const stateOf = async (id: number, target = 'arrival') => (await clocksOf(id)).find((c) => c.target === target)?.state;
const correct = (id: number, body: object, who = call) =>
  who('POST', `/api/orders/${id}/corrections`, { requestKey: randomUUID(), text: 'read off the gate’s list', ...body });

describe('a correction', () => {
  it('does what its preview showed, keeps what was told, and says what it made of the clocks', async () => {
    const id = await late();
    expect(await stateOf(id)).toBe('missed');
    const eventId = await arrivalOf(id);
    const looked = must(
      await call<AnswerOf<typeof previewCorrection>>('POST', `/api/orders/${id}/corrections/preview`, {
        ...{ eventId, to: at('11:30') },
      }),
    );
    expect(looked.closedMonths).toEqual([]);
    expect(looked.clocksBefore).toEqual(await clocksOf(id));
    expect(looked.clocksAfter.find((c) => c.target === 'arrival')?.state).toBe('met');
    expect(await stateOf(id)).toBe('missed');
    must(await correct(id, { eventId, to: at('11:30') }));
    expect(await clocksOf(id)).toEqual(looked.clocksAfter);
    const steps = await history(id);
    expect(steps.find((s) => s.id === eventId)).toMatchObject({
      ...{ text: 'on site', corrected: { to: Date.parse(at('11:30')) }, at: Date.parse(at('14:00')) },
      effects: [{ target: 'arrival', before: { state: 'missed' }, after: { state: 'missed' } }],
    });
    expect(steps.at(-1)).toMatchObject({
      ...{ text: 'the arrival corrected: read off the gate’s list', who: 'The coordinator', canCorrect: false },
      effects: [{ target: 'arrival', before: { state: 'missed' }, after: { state: 'met', over: 0 } }],
    });
  });

  it('taken back: as if it had never been told', async () => {
    const id = await late();
    const restored = (await history(id)).find((s) => s.text === 'back in use')?.id as number;
    must(await correct(id, { eventId: restored, to: null }));
    expect((await clocksOf(id)).find((c) => c.target === 'restoration')?.stoppedAt).toBeNull();
    expect((await history(id)).find((s) => s.id === restored)).toMatchObject({
      corrected: { to: null },
      canCorrect: false,
    });
  });

  it('refused changes nothing; told twice it is one', async () => {
    const id = await late();
    const eventId = await arrivalOf(id);
    const before = await house.database.db.select().from(orderEvent);
    const clocks = await house.database.db.select().from(clock);
    for (const [body, field, code] of [
      [{ eventId, to: at('08:00', '2026-11-25') }, 'to', 422],
      [{ eventId, to: at('07:00') }, 'to', 422],
      [{ eventId, to: at('14:00') }, 'to', 409],
      [{ eventId, to: at('11:00'), text: ' ' }, 'text', 422],
      [{ eventId: 999_999, to: at('11:00') }, 'eventId', 404],
      [{ eventId, to: 'yesterday' }, 'to', 422],
    ] as const) {
      const { status, body: said } = await correct(id, body);
      expect([status, said.errors[0]?.field]).toEqual([code, field]);
    }
    expect((await correct(id, { eventId, to: at('11:00') }, await house.as('technician'))).status).toBe(403);
    expect(await house.database.db.select().from(orderEvent)).toEqual(before);
    expect(await house.database.db.select().from(clock)).toEqual(clocks);
    const requestKey = randomUUID();
    for (const _ of [1, 2]) must(await correct(id, { eventId, to: at('11:00'), requestKey }));
    expect(await house.database.db.$count(orderEvent)).toBe(before.length + 1);
    expect((await correct(id, { eventId, to: at('11:10'), requestKey })).status).toBe(409);
  });

  it('of a closed month is a manager’s, and leaves its figures as they were', async () => {
    const id = await late('2026-10-20');
    const eventId = await arrivalOf(id);
    must(await manager('POST', '/api/standing/months/close', { month: '2026-10-01', reason: 'measured' }));
    const october = async () =>
      must(await call<AnswerOf<typeof readStandingTotal>>('GET', '/api/standing/total?from=2026-10-01&to=2026-10-31'))
        .total;
    const closed = await october();
    const ask = { eventId, to: at('11:30', '2026-10-20') };
    const looked = await call<AnswerOf<typeof previewCorrection>>('POST', `/api/orders/${id}/corrections/preview`, ask);
    expect(must(looked).closedMonths).toEqual(['2026-10-01']);
    const refused = await correct(id, ask);
    expect([refused.status, refused.body.errors[0]?.message]).toEqual([
      403,
      'That changes 2026-10, which is closed: a manager corrects it.',
    ]);
    expect(await stateOf(id)).toBe('missed');
    must(await correct(id, ask, manager));
    expect(await stateOf(id)).toBe('met');
    expect(await adjustClosed(house.database, house.now)).toBe(1);
    expect(await october()).toEqual(closed);
    const { items } = must(
      await call<AnswerOf<typeof readAdjustments>>('GET', '/api/standing/adjustments?from=2026-11-01&to=2026-11-30'),
    );
    expect(items).toMatchObject([
      { month: '2026-10-01', thing: 'arrival', before: 'missed', after: 'met', orderId: id },
    ]);
  });

  it('follows from the events: a rebuild finds nothing to put right', async () => {
    const kinds = ROOMS.flatMap((room) => room.derived ?? []).filter((k) => k.what === 'orders');
    expect(await rebuild(house.database, kinds, house.now, false)).toMatchObject([{ what: 'orders', differing: [] }]);
  });
});
