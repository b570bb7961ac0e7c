// Floods over the wire: many machines of one place within minutes make one order, in whatever order and by whomever they are told of.
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openSignals, type SignalHouse } from './signal-house.ts';

const MACHINES = 16;
let s: SignalHouse;
beforeAll(async () => {
  s = await openSignals(MACHINES);
});
afterAll(() => s.house.close());

describe('a flood that is told of at once', () => {
  it('is found by whoever tells of it last, though each of several that tell at once sees only its own', async () => {
    const id = await s.add('At once', 'at-once');
    const all = Array.from({ length: MACHINES }, (_, n) => n);
    // Even and odd machines are written side by side: neither half is a flood.
    await Promise.all(all.map((n) => s.say(n, 'at-once', ['02:00', 20])));
    const alerts = await s.alertsOf(id);
    expect([alerts.length, new Set(alerts.map((a) => a.orderId)).size, alerts[0]?.orderId]).toEqual([
      MACHINES,
      1,
      expect.any(Number),
    ]);
  });
});

describe('a flood that is told of in any order', () => {
  it('takes in who was part of it, up to ten minutes before it began, and goes on for the others', async () => {
    const id = await s.add('Tardy', 'tardy');
    for (let n = 0; n < 10; n += 1) await s.say(n, 'tardy', ['04:09', 20]);
    await s.say(10, 'tardy', ['04:10', 20]);
    const ordersOf = async () => (await s.alertsOf(id)).map((a) => [a.assetId, a.orderId] as const);
    const flooded = (await ordersOf())[0]?.[1];
    await s.say(11, 'tardy', ['04:01', 20]);
    await s.say(12, 'tardy', ['03:59', 20]);
    await s.say(13, 'tardy', ['04:11', 20]);
    expect(Object.fromEntries((await ordersOf()).map(([machine, order]) => [machine, order === flooded]))).toEqual(
      Object.fromEntries(Array.from({ length: 14 }, (_, n) => [s.machine(n), n !== 12])),
    );
  });
});
