// A rate card agreed with a customer: what their orders come to, what a caller is told, what an offer begins with, and their night.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { CustomerPage } from '#api/customers.ts';
import type { RateCardOut } from '#api/labour.ts';
import type { OfferProposal } from '#api/offers.ts';
import type { OrderCharges } from '#api/settle.ts';
import { person, timePiece } from '../src/tables.ts';
import { calling, refusedAt } from './calling.ts';
import { buildWorld, must, openHouse, type Caller, type TestHouse, type World } from './house.ts';

let house: TestHouse;
let call: Caller;
let manager: Caller;
let world: World;
let cards: { standard: number; agreed: number };
const { raised, page, record } = calling(() => ({ call, world }));

const step = { step: 15, minimum: 0 };
const card = (sales: number, craftId: number, over: object = {}) => ({
  ...{
    name: 'Standard',
    currency: 'EUR',
    isStandard: true,
    surcharges: {},
    callOut: 0,
    night: { from: 1320, to: 360 },
  },
  rates: [{ craftId, from: '2026-01-01', cost: 3_000, sales }],
  ...{ billing: { work: step, travel: step, waiting: step }, travel: { by: 'time' }, ...over },
});
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  manager = await house.as('manager');
  world = await buildWorld(call, { assets: 3, inForce: false });
  const craft = must(await manager<{ id: number }>('POST', '/api/crafts', { name: 'Technician' })).id;
  await house.database.db.update(person).set({ craftId: craft as never });
  const add = async (body: object) => must(await manager<{ id: number }>('POST', '/api/rate-cards', body)).id;
  cards = {
    standard: await add(card(8_000, craft)),
    agreed: await add(
      card(6_000, craft, {
        ...{ name: 'Hospitals', isStandard: false, callOut: 2_500 },
        night: { from: 1200, to: 360 },
      }),
    ),
  };
});
afterAll(() => house.close());

const customer = async (): Promise<CustomerPage> =>
  must(await call<CustomerPage>('GET', `/api/customers/${world.customerId}`));
const change = async (over: object) => {
  const { version, name, serviceAddress, creditDays, creditLimit, overSince } = await customer();
  return call('PUT', `/api/customers/${world.customerId}`, {
    ...{ version, name, serviceAddress, creditDays, creditLimit, overSince, ...over },
  });
};
const charges = async (id: number): Promise<OrderCharges> =>
  must(await call<OrderCharges>('GET', `/api/orders/${id}/charges`));
/** On the Monday of the sheet. */
const enter = async (lineIds: number[], over: object) =>
  must(
    await call<{ id: number }>('POST', '/api/time', {
      ...{ requestKey: randomUUID(), personId: (await house.database.db.select().from(person))[0]?.id, kind: 'work' },
      ...{ day: '2026-11-23', lines: lineIds.map((lineId) => ({ lineId })), ...over },
    }),
  ).id;

describe('a rate card agreed with a customer', () => {
  it('prices the orders raised from then on; those before, and those raised without it again, go by the standard one', async () => {
    const worked = async (id: number): Promise<OrderCharges> => {
      const [line] = (await page(id)).lines;
      must(await record(id, { kind: 'arrived' }));
      await enter([line?.id as number], { minutes: 90, hours: 'normal' });
      return charges(id);
    };
    const said = ({ card: name, charges: all }: OrderCharges) => [name, ...all.map((c) => [c.what, c.list])];
    const before = await raised();
    // 90 minutes in quarters of an hour: 1.5 × 80.00, no call-out.
    expect(said(await worked(before))).toEqual(['Standard', ['work', 12_000]]);
    must(await change({ rateCardId: cards.agreed }));
    expect((await customer()).rateCard).toEqual({ id: cards.agreed, name: 'Hospitals' });
    const listed = must(await call<{ cards: RateCardOut[] }>('GET', '/api/rate-cards')).cards;
    expect(listed.map((c) => [c.name, c.agreedWith])).toEqual([
      ['Hospitals', { names: [(await customer()).name], count: 1 }],
      ['Standard', { names: [], count: 0 }],
    ]);
    // 1.5 × 60.00, and the call-out of 25.00.
    const agreed = await raised();
    expect(said(await worked(agreed))).toEqual(['Hospitals', ['work', 9_000], ['call-out', 2_500]]);
    expect(said(await charges(before))).toEqual(['Standard', ['work', 12_000]]);
    // A change of something else leaves it as it is.
    must(await change({ creditDays: 14 }));
    expect((await customer()).rateCard?.id).toBe(cards.agreed);
    must(await change({ rateCardId: null }));
    expect(said(await charges(agreed))[0]).toBe('Hospitals');
    expect(said(await worked(await raised()))).toEqual(['Standard', ['work', 12_000]]);
  });

  it('is what an offer begins with and what a caller is told', async () => {
    must(await change({ rateCardId: cards.agreed }));
    const proposal = must(
      await call<OfferProposal>('GET', `/api/offers/proposal?assets=${world.assetIds[0]}&jobPlan=${world.jobPlanId}`),
    );
    expect(proposal.lines.map((l) => [l.kind, l.price])).toContainEqual(['work', 6_000]);
    must(await change({ rateCardId: null }));
    const plain = must(
      await call<OfferProposal>('GET', `/api/offers/proposal?assets=${world.assetIds[0]}&jobPlan=${world.jobPlanId}`),
    );
    expect(plain.lines.map((l) => [l.kind, l.price])).toContainEqual(['work', 8_000]);
  });

  it('says when their night begins: time is split by it', async () => {
    must(await change({ rateCardId: cards.agreed }));
    const [line] = (await page(await raised())).lines;
    const id = await enter([line?.id as number], { from: 1170, to: 1230 });
    const pieces = (await house.database.db.select().from(timePiece)).filter((p) => p.entryId === (id as never));
    // 19:30 to 20:30, night from 20:00.
    expect(pieces.map((p) => [p.hours, p.minutes])).toEqual([
      ['normal', 30],
      ['night', 30],
    ]);
    must(await change({ rateCardId: null }));
  });

  it('is one that there is, in the currency of the others', async () => {
    const before = await customer();
    expect(refusedAt(await change({ rateCardId: 987_654 }))).toEqual([404, 'rateCardId', 'not-found']);
    expect(await customer()).toEqual(before);
    const other = card(1, 1, { name: 'Pounds', isStandard: false, currency: 'GBP' });
    expect(refusedAt(await manager('POST', '/api/rate-cards', other))).toEqual([409, 'currency', 'conflict']);
    expect(refusedAt(await manager('PUT', `/api/rate-cards/${cards.agreed}`, { ...other, version: 1 }))).toEqual([
      409,
      'currency',
      'conflict',
    ]);
    // Who sees no money does not see it.
    const technician = must(
      await (
        await house.as('technician')
      )<CustomerPage>('GET', `/api/customers/${world.customerId}`),
    );
    expect(technician.rateCard).toBeNull();
  });
});
