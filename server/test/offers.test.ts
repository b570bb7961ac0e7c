// Offers: proposed, written, sent as a paper in the thread of what was asked, and made an order once.
import { randomUUID } from 'node:crypto';
import { eq } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { OfferIn, OfferLineIn, OfferPage, OfferProposal, OfferRow } from '#api/offers.ts';
import type { OrderPage } from '#api/orders.ts';
import type { OrderCharges } from '#api/settle.ts';
import { asId, type OfferId } from '#core/ids.ts';
import { asLocalDate } from '#core/time/index.ts';
import { ensureFinder } from '../src/platform/finder-index.ts';
import { FOUND } from '../src/rooms.ts';
import { attachment, findPosting, offer, outbox, workOrder } from '../src/tables.ts';
import { calling, refusedAt } from './calling.ts';
import { changed, kept } from './every-row.ts';
import { buildWorld, finding, openHouse, type Caller, type TestHouse, type World } from './house.ts';
import { mailed } from './mailed.ts';

let house: TestHouse;
let call: Caller;
let world: World;
let rosa: number;
let gasket: number;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('administrator');
  world = await buildWorld(call);
  const contact = { name: 'Rosa Vidal', role: null, email: 'rosa@norvela.example', phone: '900', preferred: 'phone' };
  rosa = (await call<{ id: number }>('POST', `/api/customers/${world.customerId}/contacts`, contact)).body.id;
  const standard = { name: 'Standard', category: 'S', hundredths: 2300, isStandard: true };
  expect((await call('POST', '/api/taxes', standard)).status).toBe(200);
  const part = { number: 'GS-1', name: 'Gasket', unit: 'piece', listPrice: 8990, cost: 5100, taxId: null };
  gasket = (
    await call<{ id: number }>('POST', '/api/parts', {
      ...part,
      consumable: false,
      serialTracked: false,
      retired: false,
    })
  ).body.id;
});
afterAll(() => house.close());
const { raised, page: order } = calling(() => ({ call, world }));

const line = (over: Partial<OfferLineIn> = {}): OfferLineIn => ({
  ...{ kind: 'part', assetId: world.assetIds[0] as number, text: 'GS-1 Gasket', quantity: 2000, unit: 'piece' },
  ...{ price: 8990, cost: 5100, discount: 10, partId: gasket, supplier: '', taxId: null, ...over },
});
const body = (over: Partial<OfferIn> = {}): OfferIn => ({
  ...{ customerId: world.customerId, assetIds: [world.assetIds[0] as number], contactId: rosa, title: 'New gasket' },
  ...{ text: 'Bring the ladder.', validUntil: '2026-12-24' },
  lines: [
    line(),
    line({
      kind: 'work',
      text: 'Change it',
      quantity: 110,
      unit: 'h',
      price: 7200,
      cost: 3000,
      discount: 0,
      partId: null,
    }),
    line({
      text: 'Door frame',
      quantity: 1000,
      partId: null,
      supplier: 'Tindrel',
      price: 30_000,
      cost: 21_000,
      assetId: null,
    }),
  ],
  ...over,
});
const write = (over: object = {}) =>
  call<{ id: number }>('POST', '/api/offers', { requestKey: randomUUID(), ...body(), ...over });
const written = async (over: object = {}): Promise<number> => {
  const { status, body: answer } = await write(over);
  if (status !== 200) throw new Error(JSON.stringify(answer));
  return answer.id;
};
const read = async (id: number): Promise<OfferPage> => (await call<OfferPage>('GET', `/api/offers/${id}`)).body;
const send = async (id: number, over: object = {}) =>
  call('POST', `/api/offers/${id}/send`, {
    version: (await read(id)).version,
    validUntil: '2026-12-24',
    contactId: rosa,
    ...over,
  });
const accept = (id: number, over: object = {}) =>
  call<{ orderId: number }>('POST', `/api/offers/${id}/accept`, {
    requestKey: randomUUID(),
    by: 'Rosa Vidal by telephone',
    ...over,
  });
const list = async (query: string): Promise<OfferRow[]> =>
  (await call<{ items: OfferRow[] }>('GET', `/api/offers?${query}`)).body.items;
const proposal = async (query: string): Promise<OfferProposal> =>
  (await call<OfferProposal>('GET', `/api/offers/proposal?${query}`)).body;

describe('an offer', () => {
  it('comes to this by hand, is sent as a PDF, and becomes an order with its lines, words and files', async () => {
    const id = await written();
    // 2 × 89.90 = 179.80 less 17.98; 1 h 50 at 72.00 = 132.00; 300.00 less 30.00. 23 % of 563.82 = 129.6786.
    expect((await read(id)).totals).toEqual({
      ...{ list: 61_180, off: 4798, cost: 36_700, withoutTax: 56_382, tax: 12_968, withTax: 69_350 },
      rows: [{ category: 'S', hundredths: 2300, taxable: 56_382, tax: 12_968 }],
    });
    expect((await send(id)).status).toBe(200);
    const [left] = await house.database.db.select().from(outbox).where(eq(outbox.aboutSubject, 'offer'));
    expect(left).toMatchObject({ way: 'mail', address: 'rosa@norvela.example', paperName: `OF-${10_000 + id}.pdf` });
    expect(left?.body).toContain('EUR 563.82 without tax, valid until Thu 24 Dec 2026');
    const paper = await call<{ text: string }>('GET', `/api/offers/${id}/document`);
    expect(paper.body.text.slice(0, 5)).toBe('%PDF-');
    const files = await call<{ items: { name: string }[] }>('GET', `/api/files?subject=offer&subjectId=${id}`);
    expect(files.body.items.map((f) => f.name)).toEqual([`OF-${10_000 + id}.pdf`]);

    const requestKey = randomUUID();
    const both = await Promise.all([accept(id, { requestKey }), accept(id, { requestKey })]);
    expect(both.map((a) => a.status)).toEqual([200, 200]);
    const orderId = both[0]?.body.orderId;
    expect(both[1]?.body.orderId).toBe(orderId);
    const made: OrderPage = await order(orderId);
    expect([made.title, made.lines.length, made.lines[0]?.plan?.minutes]).toEqual(['New gasket', 1, 110]);
    expect(made.lines[0]?.plan?.parts).toMatchObject([{ partId: gasket, thousandths: 2000 }]);
    expect(made.tasks.map((t) => t.text)).toEqual(['Change it']);
    const said = made.events.map((e) => e.text).join('\n');
    expect(said).toContain(`OF-${10_000 + id} accepted by Rosa Vidal by telephone: EUR 563.82 without tax.`);
    expect(said).toContain('To be purchased: Door frame from Tindrel.');
    expect(said).toContain('Bring the ladder.');
    const carried = await house.database.db.select().from(attachment).where(eq(attachment.subject, 'order'));
    expect(carried.filter((f) => f.subjectId === orderId).map((f) => f.name)).toEqual([`OF-${10_000 + id}.pdf`]);
    expect((await list(`order=${orderId}&show=all`)).map((o) => [o.id, o.standing])).toEqual([[id, 'accepted']]);
    // Beside what it comes to stands what it was offered for, and how far it is from that; who sees no money does not see it.
    const comesTo = async (by = call) => (await by<OrderCharges>('GET', `/api/orders/${orderId}/charges`)).body.offered;
    expect(await comesTo()).toEqual({ id, withoutTax: 56_382, currency: 'EUR', beyond: -56_382 });
    const lineId = made.lines[0]?.id;
    const used = { requestKey: randomUUID(), partId: gasket, lineId, thousandths: 7000 };
    expect((await call('POST', `/api/orders/${orderId}/parts`, used)).status).toBe(200);
    // 7 × 89.90 = 629.30, of which the agreement bears 80 %: 125.86 is the customer’s.
    expect((await comesTo())?.beyond).toBe(12_586 - 56_382);
    expect(await comesTo(await house.as('technician'))).toBeNull();
    expect(refusedAt(await accept(id))).toEqual([409, null, 'wrong-stage']);
  });

  it('of a message goes into its thread, with its words', async () => {
    const from = ['From: Rosa Vidal <rosa@norvela.example>', 'Message-ID: <ask@norvela.example>', 'Subject: Price?'];
    const mailId = await mailed(house.database, [...from, '', 'What does a new gasket cost?']);
    const begun = await proposal(`mail=${mailId}`);
    expect(begun).toMatchObject({ title: 'Price?', contactId: rosa, customer: { id: world.customerId }, mailId });
    const id = await written({ mailId });
    await send(id);
    expect((await call('GET', `/api/mail/${mailId}`)).body).toMatchObject({
      state: 'put away',
      putAwayReason: `answered by OF-${10_000 + id}`,
    });
    const [left] = (await house.database.db.select().from(outbox)).reverse();
    expect(left).toMatchObject({
      inReplyTo: 'ask@norvela.example',
      threadIds: ['ask@norvela.example'],
      subject: 'Re: Price?',
    });
  });

  it('is proposed of a job plan, of past work and of another offer, with what like work took beside it', async () => {
    const [machine] = world.assetIds;
    const plan = await call<{ id: number }>('POST', '/api/job-plans', {
      ...{ name: 'Yearly', minutes: 90, crew: 2, skillId: null, tasks: [], includes: [] },
      parts: [{ partId: gasket, thousandths: 1000 }],
    });
    const planned = await proposal(`assets=${machine}&jobPlan=${plan.body.id}`);
    expect(planned.lines.filter((l) => l.kind !== 'travel')).toMatchObject([
      { kind: 'work', text: 'Yearly', quantity: 180, assetId: machine },
      { kind: 'part', text: 'GS-1 Gasket', quantity: 1000, price: 8990, partId: gasket },
    ]);
    const id = await written();
    expect((await proposal(`offer=${id}`)).lines).toHaveLength(3);
    const past = await raised();
    const at = '2026-11-24T09:10:00Z';
    for (const act of [
      { kind: 'arrived' },
      { kind: 'restored' },
      {
        kind: 'done',
        text: 'x',
        took: [{ lineId: (await order(past)).lines[0]?.id, minutes: 95, partsCost: 4000, otherCost: 500 }],
      },
    ])
      await call('POST', `/api/orders/${past}/events`, { requestKey: randomUUID(), at, act });
    const again = await proposal(`order=${past}`);
    expect(again).toMatchObject({ title: 'Warm', orderId: past, machines: [{ id: machine }] });
    expect((await call('GET', '/api/offers/proposal?order=99999')).status).toBe(404);
  });

  it('is listed while it is open, with its age; lapsed, it is sent again with another day and holds again', async () => {
    const id = await written({ title: 'Short-lived' });
    await send(id, { validUntil: '2026-11-24' });
    expect((await read(id)).standing).toBe('sent');
    await house.database.db
      .update(offer)
      .set({ validUntil: asLocalDate('2026-11-23') })
      .where(eq(offer.id, asId<OfferId>(id)));
    expect([(await list('show=lapsed')).map((o) => o.id), (await list('')).map((o) => o.id).includes(id)]).toEqual([
      [id],
      false,
    ]);
    expect((await accept(id)).body).toMatchObject({
      code: 'wrong-stage',
      detail: expect.stringContaining('It was valid until Mon 23 Nov 2026') as string,
    });
    expect(refusedAt(await send(id, { validUntil: '2026-11-23' }))).toEqual([422, 'validUntil', 'invalid']);
    expect((await send(id, { validUntil: '2026-11-30' })).status).toBe(200);
    expect((await list('')).find((o) => o.id === id)).toMatchObject({
      standing: 'sent',
      age: 0,
      validUntil: '2026-11-30',
    });
    expect((await call('POST', `/api/offers/${id}/decline`, { reason: 'too dear' })).status).toBe(200);
    expect(await read(id)).toMatchObject({ standing: 'declined', decision: 'too dear', orderId: null });
    expect(refusedAt(await accept(id))).toEqual([409, null, 'wrong-stage']);
  });

  it('sent twice by one request is one; two who change a draft do not overwrite each other', async () => {
    const requestKey = randomUUID();
    const [a, b] = await Promise.all([write({ requestKey }), write({ requestKey })]);
    expect([a.status, b.status, a.body.id]).toEqual([200, 200, b.body.id]);
    expect(refusedAt(await write({ requestKey, title: 'Another' }))).toEqual([409, 'requestKey', 'conflict']);
    const change = (title: string) => call('PUT', `/api/offers/${a.body.id}`, { version: 1, ...body({ title }) });
    const both = await Promise.all([change('One'), change('Other')]);
    expect(both.map((x) => x.status).toSorted()).toEqual([200, 409]);
  });
});

describe('refused without a trace', () => {
  it('what is not there, not theirs, nothing or too much; and what is not allowed as it stands', async () => {
    const id = await written();
    const technician = await house.as('technician');
    const empty = await written({ lines: [] });
    const homeless = await written({ assetIds: [], lines: [line({ assetId: null })] });
    await send(homeless);
    const before = await kept(house);
    const refusals: [string, unknown[], unknown[]][] = [
      ['a customer who is not there', refusedAt(await write({ customerId: 99_999 })), [404, 'customerId', 'not-found']],
      [
        'a machine of nobody',
        refusedAt(await write({ assetIds: [99_999], lines: [] })),
        [404, 'assetIds', 'not-found'],
      ],
      ['a place that is not there', refusedAt(await write({ locationId: 99_999 })), [404, 'locationId', 'not-found']],
      ['an order it is not made of', refusedAt(await write({ orderId: 99_999 })), [404, 'orderId', 'not-found']],
      ['a message it is not made of', refusedAt(await write({ mailId: 99_999 })), [404, 'mailId', 'not-found']],
      ['a contact of nobody', refusedAt(await write({ contactId: 99_999 })), [404, 'contactId', 'not-found']],
      [
        'a quantity of nothing',
        refusedAt(await write({ lines: [line({ quantity: 0 })] })),
        [422, 'lines.0.quantity', 'invalid'],
      ],
      [
        'a negative quantity',
        refusedAt(await write({ lines: [line({ quantity: -1000 })] })),
        [422, 'lines.0.quantity', 'invalid'],
      ],
      [
        'a part that is not there',
        refusedAt(await write({ lines: [line({ partId: 99_999 })] })),
        [404, 'lines.0.partId', 'not-found'],
      ],
      [
        'a machine outside',
        refusedAt(await write({ lines: [line({ assetId: world.assetIds[1] as number })] })),
        [404, 'lines.0.assetId', 'not-found'],
      ],
      ['a draft that is accepted', refusedAt(await accept(id)), [409, null, 'wrong-stage']],
      ['nothing that is sent', refusedAt(await send(empty)), [422, null, 'missing']],
      ['an order of nowhere', refusedAt(await accept(homeless)), [422, null, 'missing']],
      [
        'a last day that has passed',
        refusedAt(await send(id, { validUntil: '2026-11-23' })),
        [422, 'validUntil', 'invalid'],
      ],
    ];
    for (const [what, got, wanted] of refusals) expect([what, got]).toEqual([what, wanted]);
    for (const url of ['/api/offers', `/api/offers/${id}`, `/api/offers/${id}/document`])
      expect((await technician('GET', url)).status).toBe(403);
    expect(changed(before, await kept(house))).toEqual([]);
    expect(await house.database.db.$count(workOrder)).toBeGreaterThan(0);
  });
});

describe('an offer in the finder', () => {
  it('is found by number, title and customer as they are now, by the office alone', async () => {
    const id = await written({ title: 'Zephyr cooling circuit' });
    const ids = async (q: string, by = call) => (await finding(by)(q)).offer.map((o) => o.id);
    for (const q of [`OF-${10_000 + id}`, `of ${10_000 + id}`, 'zephyr', 'zephir circuit', 'norvela zephyr'])
      expect([q, await ids(q)]).toEqual([q, [id]]);
    expect(await ids(`WO-${10_000 + id}`)).toEqual([]);
    expect(await ids('zephyr', await house.as('technician'))).toEqual([]);
    const { version } = await read(id);
    const renamed = await call('PUT', `/api/offers/${id}`, { ...body({ title: 'Mistral circuit' }), version });
    expect(renamed.status).toBe(200);
    expect([await ids('zephyr'), await ids('mistral')]).toEqual([[], [id]]);
    // What is there from before the finder knew offers is indexed at the next start, once.
    const { database } = house;
    await database.db.delete(findPosting).where(eq(findPosting.kind, 'offer'));
    expect(await ids('mistral')).toEqual([]);
    const before = await database.db.$count(findPosting);
    await ensureFinder(database, FOUND);
    expect(await ids('mistral')).toEqual([id]);
    const after = await database.db.$count(findPosting);
    expect(after).toBeGreaterThan(before);
    await ensureFinder(database, FOUND);
    expect(await database.db.$count(findPosting)).toBe(after);
  });
});
