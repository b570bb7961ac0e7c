// The rota over the routes: who can go, appointments made, moved and taken out, and what is refused changes nothing.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { CandidatesOut, LooseOrder, Rota } from '#api/rota.ts';
import { rotaStep } from '../src/tables.ts';
import { refusedAt } from './calling.ts';
import { must } from './house.ts';
import { bookingOf, day, openRota, repairOf, rotaCalls, rotaOf, saysOf, type RotaHouse } from './rota-house.ts';

let here: RotaHouse;
beforeAll(async () => {
  here = await openRota();
});
afterAll(() => here?.house.close());

const { page, book, refused, nextMachine, needGas } = rotaCalls(() => here);
const loose = async (query = ''): Promise<number[]> =>
  must(await here.desk<{ items: LooseOrder[] }>('GET', `/api/rota/loose?limit=200${query}`)).items.map(
    (o) => o.orderId,
  );

describe('an appointment', () => {
  it('plans its order for who leads, with its times; taken out it is loose again', async () => {
    const order = await repairOf(here, nextMachine());
    expect(await loose()).toContain(order);
    const { lia, technician } = here.people;
    const { id, version } = must(await book([order], [lia, technician], day('2026-11-25', '10:00')));
    expect(await page(order)).toMatchObject({ stage: 'planned', technician: 'Lia', plannedFor: '2026-11-25' });
    expect((await page(order)).events.at(-1)?.text).toBe(
      'planned for Wed 25 Nov 2026, Lia: 10:00 to 11:00 with The technician',
    );
    expect(await loose()).not.toContain(order);
    const shown = (await rotaOf(here.desk)).appointments.find((a) => a.id === id);
    expect(shown).toMatchObject({ personIds: [lia, technician], orders: [{ orderId: order }], sent: false });

    must(await here.desk('POST', `/api/rota/appointments/${id}/out`, { version, text: 'customer asked for later' }));
    expect(await page(order)).toMatchObject({ stage: 'raised', technician: null, plannedFor: null });
    expect(await loose()).toContain(order);
    expect((await rotaOf(here.desk)).appointments.map((a) => a.id)).not.toContain(id);
  });

  it('is looked for by customer, and by a place of theirs with all that lies below it', async () => {
    const { desk, world, people } = here;
    const add = async (name: string, parentId: number | null) =>
      must(
        await desk<{ id: number }>('POST', '/api/locations', {
          ...{ parentId, customerId: world.customerId, name, address: '9 South Road', zone: 'Europe/Lisbon' },
        }),
      ).id;
    const south = await add('South', null);
    const wing = await add('Wing', south);
    const room = await add('Wing room', wing);
    const repairAt = (locationId: number) =>
      repairOf(here, undefined, { assetIds: [], locationId, customerId: world.customerId });
    const [inRoom, above] = [await repairAt(room), await repairAt(south)];
    const of = (place: number) => `&customer=${world.customerId}&area=${place}`;
    expect(await loose(of(wing))).toEqual([inRoom]);
    expect(await loose(of(south))).toEqual(expect.arrayContaining([inRoom, above]));
    const ids = [];
    for (const [order, time] of [
      [inRoom, '10:00'],
      [above, '14:00'],
    ] as const)
      ids.push(must(await book([order], [people.rui], day('2026-12-10', time), { anyway: true })).id);
    const shown = async (place: number) =>
      must(await desk<Rota>('GET', `/api/rota?from=2026-12-10&days=1${of(place)}`)).appointments.map((a) => a.id);
    expect(await shown(wing)).toEqual([ids[0]]);
    expect(await shown(south)).toEqual(expect.arrayContaining(ids));
    expect((await desk('GET', '/api/rota?from=2026-12-10&area=999999')).status).toBe(404);
  });

  it('is made once for one request, however often it is sent', async () => {
    const order = await repairOf(here, nextMachine());
    const body = bookingOf([order], [here.people.lia], day('2026-11-25', '12:00'));
    const send = () => here.desk<{ id: number }>('POST', '/api/rota/appointments', body);
    const [first, again] = [must(await send()), must(await send())];
    expect(again).toEqual(first);
    expect(refusedAt(await here.desk('POST', '/api/rota/appointments', { ...body, minutes: 90 }))).toEqual([
      409,
      'requestKey',
      'conflict',
    ]);
  });

  it('takes what its orders take, together, shared by its crew', async () => {
    const [one, two] = [await repairOf(here, nextMachine()), await repairOf(here, nextMachine())];
    const { lia, technician } = here.people;
    const { id } = must(
      await book([one, two], [lia, technician], day('2026-11-30', '10:00'), { minutes: null, anyway: true }).then(
        async (a) =>
          a.status === 200 ? a : book([one, two], [technician], day('2026-11-30', '10:00'), { minutes: null }),
      ),
    );
    const shown = (await rotaOf(here.desk, '2026-11-30', 1)).appointments.find((a) => a.id === id);
    // Nothing says how long either takes: an hour each is assumed, two people need half.
    expect(((shown?.to ?? 0) - (shown?.from ?? 0)) / 60_000).toBe(60);
    expect(shown?.orders.map((o) => o.orderId)).toEqual([one, two]);
  });

  it('moves with its version; a stale move is refused and shows what stands', async () => {
    const order = await repairOf(here, nextMachine());
    const { lia, technician } = here.people;
    const { id } = must(await book([order], [lia], day('2026-11-26', '10:00')));
    const move = (body: object) =>
      here.desk<{ version: number }>('PUT', `/api/rota/appointments/${id}`, {
        ...{ version: 1, people: [technician], from: day('2026-11-26', '13:00'), minutes: 90, ...body },
      });
    expect(must(await move({})).version).toBe(2);
    expect((await refused(() => move({}))).status).toBe(409);
    expect(await page(order)).toMatchObject({ technician: 'The technician', plannedFor: '2026-11-26' });
    // Moved onto where it lies itself: its own steps are no other's.
    must(await move({ version: 2, from: day('2026-11-26', '13:30') }));
    expect((await here.house.database.db.select().from(rotaStep)).length).toBeGreaterThan(0);
  });

  it.each<[string, () => object, string, string]>([
    [
      'a skill that lapsed the day before',
      () => ({ from: day('2026-11-27', '10:00'), needs: true }),
      'people',
      'lapsed after',
    ],
    ['a time outside open time, without a yes', () => ({ from: day('2026-11-26', '19:00') }), 'anyway', 'open time'],
    ['a beginning between two steps', () => ({ from: day('2026-11-26', '10:02') }), 'from', 'step of 5 minutes'],
    ['a length between two steps', () => ({ minutes: 58 }), 'minutes', 'steps of 5 minutes'],
    ['a length of more than any day', () => ({ minutes: 1000 }), 'minutes', 'At most 16 hours'],
    ['nobody', () => ({ people: [] }), 'people', 'who goes'],
    ['one person twice', () => ({ people: [here.people.lia, here.people.lia] }), 'people', 'once'],
    ['somebody who is no technician', () => ({ people: [1] }), 'people', 'no such technician'],
    ['no order', () => ({ orders: [] }), 'orders', 'an order'],
    ['an order that is none', () => ({ orders: [999_999] }), 'orders', 'does not exist'],
  ])('refuses %s', async (_, asked, field, says) => {
    const order = await repairOf(here, nextMachine());
    const { needs, ...body } = { needs: false, ...asked() };
    if (needs) await needGas(order);
    const answer = await refused(() => book([order], [here.people.lia], day('2026-11-26', '15:00'), body));
    expect(saysOf(answer)).toEqual([expect.stringMatching(new RegExp(`^${field}.*${says}`))]);
    expect((await page(order)).stage).toBe('raised');
  });

  it('outside open time stands after a yes, and a skill that lapses today holds today', async () => {
    const order = await repairOf(here, nextMachine());
    await needGas(order);
    must(await book([order], [here.people.lia], day('2026-11-26', '19:00'), { anyway: true }));
  });

  it('of two at once is refused, but for a reason; by the key, however they come', async () => {
    const [one, two, three] = [
      await repairOf(here, nextMachine()),
      await repairOf(here, nextMachine()),
      await repairOf(here, nextMachine()),
    ];
    const at = day('2026-12-01', '10:00');
    const { rui } = here.people;
    // From two dispatchers at the same time: one is planned, the other is told.
    const both = await Promise.all([
      book([one], [rui], at, { anyway: true }),
      book([two], [rui], at, { anyway: true }),
    ]);
    expect(both.map((a) => a.status).sort()).toEqual([200, 409]);
    const left = both[0].status === 200 ? two : one;
    const answer = await refused(() => book([left], [rui], day('2026-12-01', '10:30'), { anyway: true }));
    expect(saysOf(answer)[0]).toContain('overlapReason: Rui: they are elsewhere then.');
    const reasoned = must(
      await book([left], [rui], day('2026-12-01', '10:30'), {
        anyway: true,
        overlapReason: 'shows a new colleague both',
      }),
    );
    // The first is taken out: the second holds the steps alone, so that no third comes into them.
    const first = must(both[0].status === 200 ? both[0] : both[1]);
    must(await here.desk('POST', `/api/rota/appointments/${first.id}/out`, { version: 1, text: '' }));
    expect(
      saysOf(await refused(() => book([three], [rui], day('2026-12-01', '11:00'), { anyway: true })))[0],
    ).toContain('overlapReason');
    must(await here.desk('POST', `/api/rota/appointments/${reasoned.id}/out`, { version: 1, text: '' }));
    must(await book([three], [rui], day('2026-12-01', '11:00'), { anyway: true }));
  });

  it('lets everybody who goes act on its order, and nobody else who does not', async () => {
    const order = await repairOf(here, nextMachine());
    const { lia, rui, technician } = here.people;
    const me = await here.house.as('technician');
    const note = () =>
      me('POST', `/api/orders/${order}/events`, {
        ...{ requestKey: randomUUID(), at: '2026-11-24T09:55:00Z', act: { kind: 'note', text: 'seen' } },
      });
    const { id } = must(await book([order], [lia], day('2026-12-09', '10:00')));
    expect((await note()).status).toBe(403);
    const more = { version: 1, people: [lia, technician], from: day('2026-12-09', '10:00'), minutes: 60 };
    must(await here.desk('PUT', `/api/rota/appointments/${id}`, more));
    must(await note());
    expect(rui).toBeGreaterThan(0);
  });

  it('of an order under way is told there, and changes nothing of who is there', async () => {
    const order = await repairOf(here, nextMachine());
    const { lia, technician } = here.people;
    must(await book([order], [technician], day('2026-11-24', '11:00'), { minutes: 30 }));
    const at = '2026-11-24T09:50:00Z';
    must(
      await here.desk('POST', `/api/orders/${order}/events`, {
        requestKey: randomUUID(),
        at,
        act: { kind: 'arrived' },
      }),
    );
    must(await book([order], [lia], day('2026-11-25', '14:00')));
    expect(await page(order)).toMatchObject({ stage: 'on site', technician: 'The technician' });
    expect((await page(order)).events.at(-1)?.text).toBe('also planned: 14:00 to 15:00');
  });
});

describe('an order that is over', () => {
  const act = (order: number, what: object, at = '2026-11-24T09:50:00Z') =>
    here.desk('POST', `/api/orders/${order}/events`, { requestKey: randomUUID(), at, act: what });

  it('called off leaves the rota, and its time is free again', async () => {
    const [order, other] = [await repairOf(here, nextMachine()), await repairOf(here, nextMachine())];
    const { rui } = here.people;
    const at = day('2026-12-08', '12:00');
    const { id } = must(await book([order], [rui], at, { anyway: true }));
    must(await act(order, { kind: 'called off', text: 'the machine goes' }));
    expect((await rotaOf(here.desk, '2026-12-08', 1)).appointments.map((a) => a.id)).not.toContain(id);
    must(await book([other], [rui], at, { anyway: true }));
  });

  it('done earlier than planned ends its appointment now; one that serves another order too stays', async () => {
    const [order, other] = [await repairOf(here, nextMachine()), await repairOf(here, nextMachine())];
    const { rui } = here.people;
    const both = must(await book([order, other], [rui], day('2026-11-24', '09:00'), { minutes: 180, anyway: true }));
    const ends = async () => (await rotaOf(here.desk, '2026-11-24', 1)).appointments.find((a) => a.id === both.id)?.to;
    for (const one of [order, other]) {
      must(await act(one, { kind: 'arrived' }));
      must(await act(one, { kind: 'restored' }));
    }
    must(await act(order, { kind: 'done', text: '' }, '2026-11-24T09:55:00Z'));
    expect(await ends()).toBe(Date.parse('2026-11-24T12:00:00Z'));
    must(await act(other, { kind: 'done', text: '' }, '2026-11-24T09:55:00Z'));
    expect(await ends()).toBe(Date.parse('2026-11-24T10:00:00Z'));
    const third = await repairOf(here, nextMachine());
    must(await book([third], [rui], day('2026-11-24', '11:10'), { minutes: 30, anyway: true }));
  });
});

describe('who can go', () => {
  const ask = async (order: number, query = ''): Promise<CandidatesOut> =>
    must(await here.desk<CandidatesOut>('GET', `/api/rota/candidates/${order}${query}`));

  it('is said in order with figures, and who cannot with every reason', async () => {
    const order = await repairOf(here, nextMachine(), { priority: 2 });
    await needGas(order);
    const { can, cannot, minutes } = await ask(order, '?from=2026-12-02&days=1');
    expect(minutes).toBe(60);
    // Lia's certificate ended on 26 November; the technician has none; Rui comes from the other depot.
    expect(can.map((c) => c.name)).toEqual(['Rui']);
    expect(can[0]?.reasons.join('; ')).toMatch(/min more travel; .* free that day/);
    expect(can[0]?.travel).toMatch(/about \d+ min, estimated from \d+\.\d km by road/);
    expect(cannot.map((c) => [c.name, c.reasons.map((r) => r.text).join()])).toEqual([
      ['Lia', 'Refrigerants lapsed after Thu 26 Nov 2026'],
      ['The technician', 'Refrigerants is not theirs'],
    ]);
  });

  it('changes with the customer’s wish: whom they do not want is not offered', async () => {
    const order = await repairOf(here, nextMachine());
    const wish = (to: string | null) =>
      here.desk('PUT', `/api/customers/${here.world.customerId}/technicians`, { personId: here.people.rui, wish: to });
    must(await wish('blocked'));
    const { cannot } = await ask(order, '?from=2026-12-02&days=1');
    expect(cannot.find((c) => c.name === 'Rui')?.reasons.map((r) => r.what)).toEqual(['blocked']);
    must(await wish('preferred'));
    expect((await ask(order, '?from=2026-12-02&days=1')).can[0]?.name).not.toBe('');
    must(await wish(null));
  });

  it('is for the office; a technician looks at the rota without planning', async () => {
    const order = await repairOf(here, nextMachine());
    const technician = await here.house.as('technician');
    expect((await technician('GET', `/api/rota/candidates/${order}`)).status).toBe(403);
    expect((await technician('GET', '/api/rota?from=2026-11-24')).status).toBe(200);
    expect(
      (
        await refused(() =>
          technician(
            'POST',
            '/api/rota/appointments',
            bookingOf([order], [here.people.technician], day('2026-12-02', '10:00')),
          ),
        )
      ).status,
    ).toBe(403);
  });
});
