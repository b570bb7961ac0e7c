// Time that runs.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { RunningTime } from '#api/labour.ts';
import type { OrderPage } from '#api/orders.ts';
import { instant, MINUTE, type Instant } from '#core/time/index.ts';
import { runningTime, timeEntry } from '../src/tables.ts';
import { buildWorld, must, openHouse, type Answer, type Caller, type TestHouse, type World } from './house.ts';

let house: TestHouse;
let call: Caller;
let world: World;
let lines: number[];
let order: number;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call, { assets: 3 });
  order = await raise();
  lines = (await page(order)).lines.map((l) => l.id);
});
afterAll(() => house.close());

const refusedAt = ({ status, body }: Answer): unknown[] => [status, body.errors[0]?.field, body.errors[0]?.code];
const raise = async (over: object = {}): Promise<number> =>
  must(
    await call<{ id: number }>('POST', '/api/orders', {
      ...{ requestKey: randomUUID(), assetIds: [world.assetIds[0]], priority: 2, cause: 'wear', title: 'Warm' },
      ...{ receivedAt: '2026-11-23T09:00:00Z', ...over },
    }),
  ).id;
const page = async (id: number): Promise<OrderPage> => must(await call<OrderPage>('GET', `/api/orders/${id}`));
const running = async (by = call) =>
  must(await by<{ running: RunningTime | null }>('GET', '/api/time/running')).running;
const start = (lineId: number | undefined, kind = 'work', by = call) =>
  by('POST', '/api/time/running', { lineId, kind });
const stop = (body: object = {}, by = call) =>
  by<{ id: number | null }>('POST', '/api/time/running/stop', { requestKey: randomUUID(), ...body });
/** As if it had been started earlier. */
const begunAt = (at: Instant) => house.database.db.update(runningTime).set({ startedAt: at });
const entries = async () => house.database.db.select().from(timeEntry);

describe('time that runs', () => {
  it('becomes an entry of its span, once; then the order may be done', async () => {
    must(await start(lines[0]));
    expect(await running()).toMatchObject({ lineId: lines[0], kind: 'work', startedAt: house.now });
    must(await start(lines[0]));
    await begunAt(instant(house.now - 95 * MINUTE));
    const act = (of: object) =>
      call('POST', `/api/orders/${order}/events`, { requestKey: randomUUID(), at: '2026-11-24T09:00:00Z', act: of });
    must(await act({ kind: 'arrived' }));
    must(await act({ kind: 'restored' }));
    expect((await page(order)).missing.map((m) => m.what)).toEqual(['running time']);
    expect(refusedAt(await act({ kind: 'done', text: '' }))).toEqual([422, 'kind', 'missing']);
    const key = randomUUID();
    const { id } = must(await stop({ requestKey: key, text: 'fan changed' }));
    expect(must(await stop({ requestKey: key, text: 'fan changed' })).id).toBe(id);
    const made = (await entries()).find((e) => e.id === id);
    expect([made?.minutes, made?.kind, made?.text]).toEqual([95, 'work', 'fan changed']);
    expect([await running(), (await entries()).length]).toEqual([null, 1]);
    must(await act({ kind: 'done', text: '' }));
  });

  it('of less than a minute is no entry; none that runs cannot be stopped', async () => {
    const other = (await page(await raise())).lines[0]?.id;
    must(await start(other, 'travel'));
    const before = (await entries()).length;
    expect(must(await stop()).id).toBeNull();
    expect((await entries()).length).toBe(before);
    expect((await stop()).status).toBe(404);
  });

  it('is one of a person; it goes on where stopping is refused', async () => {
    const [first, second] = [await raise(), await raise()];
    const [a, b] = [(await page(first)).lines[0]?.id, (await page(second)).lines[0]?.id];
    must(await start(a));
    expect(refusedAt(await start(b))).toEqual([409, 'lineId', 'conflict']);
    must(await start(b, 'work', await house.as('dispatcher')));
    must(await stop({}, await house.as('dispatcher')));
    // It would stand beside the entry made above.
    await begunAt(instant(house.now - 60 * MINUTE));
    expect(refusedAt(await stop()).slice(1)).toEqual(['overlapReason', 'conflict']);
    expect(await running()).not.toBeNull();
    must(await stop({ overlapReason: 'two people beside each other' }));
    expect(await running()).toBeNull();
  });

  it('is not started on what takes no more time, nor by the stores', async () => {
    const id = await raise();
    must(
      await call('POST', `/api/orders/${id}/events`, {
        requestKey: randomUUID(),
        at: '2026-11-24T09:00:00Z',
        act: { kind: 'called off', text: 'x' },
      }),
    );
    expect(refusedAt(await start((await page(id)).lines[0]?.id))).toEqual([409, 'lineId', 'wrong-stage']);
    expect(refusedAt(await start(987_654))).toEqual([404, 'lineId', 'not-found']);
    expect((await start(lines[0], 'work', await house.as('storekeeper'))).status).toBe(403);
  });
});
