// An order's clocks line by line over the wire: what was counted, who recorded what, and what else they could have been.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { DerivedOut } from '#api/derivations.ts';
import { recompute, type StatementData } from '#core/standing/index.ts';
import { asInstant, MINUTE } from '#core/time/index.ts';
import { buildWorld, must, openHouse, type Caller, type TestHouse, type World } from './house.ts';

let house: TestHouse;
let call: Caller;
let world: World;
let id: number;
/** The house's clock stands at noon of a Tuesday; in Lisbon that is UTC. */
const at = (time: string) => asInstant(`2026-11-24T${time}:00Z`);
beforeAll(async () => {
  house = await openHouse('2026-11-24T12:00:00Z');
  call = await house.as('coordinator');
  world = await buildWorld(call);
  const ask = {
    ...{ assetIds: [world.assetIds[0]], cause: 'wear', priority: 1, title: 'Too warm' },
    receivedAt: '2026-11-24T08:30:00Z',
  };
  id = must(await call<{ id: number }>('POST', '/api/orders', { ...ask, requestKey: randomUUID() })).id;
  const act = async (time: string, body: object) =>
    must(
      await call('POST', `/api/orders/${id}/events`, {
        ...{ requestKey: randomUUID(), at: `2026-11-24T${time}:00Z`, act: body },
      }),
    );
  await act('08:50', { kind: 'told', technician: 'A. Brandel' });
  await act('09:30', { kind: 'paused', reason: 'no access', text: '' });
  await act('10:30', { kind: 'resumed' });
});
afterAll(() => house.close());

type Answer = { items: DerivedOut[]; zone: string; calendars: { id: number; name: string }[] };
const read = async (query = '') => must(await call<Answer>('GET', `/api/orders/${id}/derivations${query}`));
const clockOf = (answer: Answer, target: string) => answer.items.find((c) => c.target === target) as DerivedOut;
const said = (of: DerivedOut['asIs']) =>
  of.lines.map((l) => [l.kind, l.from, l.to, l.ms / MINUTE, l.sum / MINUTE] as const);

it('tells each of them line by line, with who recorded what', async () => {
  const answer = await read();
  expect(answer.items.map((c) => [c.target, c.serviceLevel, c.whatIf])).toEqual([
    ['response', 'Cold storage', null],
    ['arrival', 'Cold storage', null],
    ['restoration', 'Cold storage', null],
  ]);
  const response = clockOf(answer, 'response').asIs;
  expect(said(response)).toEqual([
    ['started', at('08:30'), null, 0, 0],
    ['counted', at('08:30'), at('08:50'), 20, 20],
    ['stopped', at('08:50'), null, 0, 0],
    // Met before it was due.
    ['due', at('09:00'), null, 0, 0],
  ]);
  expect(response.lines[2]?.by).toMatchObject({ who: 'The coordinator', recordedAt: at('12:00') });
  expect(said(clockOf(answer, 'arrival').asIs)).toEqual([
    ['started', at('08:30'), null, 0, 0],
    // The office opens at nine.
    ['closed', at('08:30'), at('09:00'), 0, 0],
    ['counted', at('09:00'), at('09:30'), 30, 30],
    ['paused', at('09:30'), at('10:30'), 0, 0],
    ['counted', at('10:30'), at('12:00'), 90, 120],
    ['due', at('14:00'), null, 0, 0],
  ]);
  expect(clockOf(answer, 'arrival').asIs).toMatchObject({
    state: 'running',
    measure: 'Office hours',
    used: 120 * MINUTE,
  });
});

it('tells what else they would be: at another priority, by another calendar, with other pauses', async () => {
  const second = await read('?priority=2');
  expect(second.items.map((c) => c.whatIf?.minutes ?? null)).toEqual([480, null, null]);
  expect(second.items[0]?.whatIf).toMatchObject({ state: 'met', measure: 'Office hours', used: 0 });
  const around = clockOf(await read('?calendar=elapsed&pauses=none'), 'arrival').whatIf;
  // From half past eight around the clock, the pause not counted: due four hours later.
  expect([around?.state, around?.dueAt, around?.pauses]).toEqual(['running', at('12:30'), []]);
  expect(around?.lines.map((l) => l.kind)).toEqual(['started', 'counted', 'ran on', 'due']);
  const office = clockOf(await read(`?calendar=${world.calendarId}`), 'restoration').whatIf;
  expect([office?.measure, office?.dueAt]).toEqual(['Office hours', asInstant('2026-11-25T13:00:00Z')]);
  expect(clockOf(await read(), 'restoration').asIs.dueAt).toBe(at('21:30'));
});

it('is asked of orders that exist, by those who may', async () => {
  expect((await call('GET', '/api/orders/999999/derivations')).status).toBe(404);
  expect((await call('GET', `/api/orders/${id}/derivations?priority=10`)).status).toBe(422);
  expect((await call('GET', `/api/orders/${id}/derivations?calendar=999`)).body).toMatchObject({
    errors: [{ field: 'calendar', code: 'not-found' }],
  });
  const technician = await house.as('technician');
  expect((await technician('GET', `/api/orders/${id}/derivations`)).status).toBe(403);
});

it('a statement’s data is enough to work every clock out again, and knows no costs', async () => {
  const url = `/api/standing/statement.json?customer=${world.customerId}&from=2026-11-01&to=2026-11-30`;
  const data = must(await call<StatementData>('GET', url));
  expect([data.clocks.length, data.met, data.missed]).toEqual([3, 1, 0]);
  expect(recompute(data)).toEqual({ clocks: 3, attainment: { met: 1, missed: 0 }, differences: [] });
  // A clock of it that was altered comes out otherwise.
  const [first, ...rest] = data.clocks as [StatementData['clocks'][number], ...StatementData['clocks']];
  const altered = recompute({ ...data, clocks: [{ ...first, promisedMinutes: 10 }, ...rest] });
  expect(altered.differences.length).toBeGreaterThan(1);
  expect(JSON.stringify(data)).not.toMatch(/cost|price|amount|rate/i);
  expect((await call('GET', url.replace(/customer=\d+/, 'customer=99999'))).status).toBe(404);
  expect((await call('GET', url.replace('to=2026-11-30', 'to=2026-10-01'))).body).toMatchObject({
    errors: [{ field: 'to' }],
  });
});
