// What goes back: old parts into quarantine, goods to their supplier, and what came of it; money and stock to the cent.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { ReturnOut } from '#api/returns.ts';
import type { UnitLife } from '#api/part-life.ts';
import { stock, stockMove, storeAct, supplierReturn } from '../src/tables.ts';
import { calling, refusedAt } from './calling.ts';
import { buildWorld, must, type Caller, type TestHouse, type World } from './house.ts';
import { openStockHouse, refusing, stockLine, type StockHouse } from './stock-house.ts';

let all: StockHouse;
let house: TestHouse;
let desk: Caller;
let keeper: Caller;
let world: World;
let [north, apart, supplierId] = [0, 0, 0];
let { addPart, receive, inStore, rebuilt } = {} as StockHouse;
beforeAll(async () => {
  all = await openStockHouse();
  ({ house, desk, keeper, north } = all);
  ({ addPart, receive, inStore, rebuilt } = all);
  world = await buildWorld(desk, { assets: 2 });
  const add = async (path: string, body: object) => must(await desk<{ id: number }>('POST', path, body)).id;
  apart = await add('/api/stores', all.storeBody({ name: 'Apart', kind: 'quarantine' }));
  supplierId = await add('/api/suppliers', {
    ...{ name: 'Alder Mill', email: '', phone: '', leadDays: 5, note: '', retired: false },
  });
});
afterAll(() => house?.close());

const { raised } = calling(() => ({ call: desk, world }));
const line = stockLine;
const send = (lines: object[], over: object = {}, by = keeper) =>
  by<{ id: number }>('POST', '/api/supplier-returns', {
    ...{
      requestKey: randomUUID(),
      storeId: north,
      supplierId,
      reason: 'wrong or broken',
      reference: 'RA 12',
      text: '',
    },
    ...{ lines, ...over },
  });
const newest = async (by = desk): Promise<ReturnOut> => {
  const [first] = must(await by<{ items: ReturnOut[] }>('GET', '/api/supplier-returns?limit=1')).items;
  if (!first) throw new Error('Nothing was sent back.');
  return first;
};
const answer = (of: ReturnOut, body: object, by = desk) =>
  by('PUT', `/api/supplier-returns/${of.id}/answer`, {
    ...{ version: of.version, credit: null, text: '', serials: [], ...body },
  });
const refused = refusing(() => house, [stock, stockMove, storeAct, supplierReturn]);

describe('goods sent back', () => {
  it('leave at their average; what is credited less than that is the difference', async () => {
    const part = await addPart();
    must(await receive(north, [line(part, 4, { unitPrice: 1000 })], desk));
    must(await receive(north, [line(part, 4, { unitPrice: 1500 })], desk));
    must(await send([line(part, 2)]));
    const sent = await newest();
    expect(sent).toMatchObject({ stage: 'sent', worth: 2500, credit: null, variance: null, reference: 'RA 12' });
    expect(sent.lines).toMatchObject([{ thousandths: 2000, serials: [] }]);
    expect(await inStore(part, north)).toMatchObject({ onHand: 6000, value: 7500 });
    must(await answer(sent, { stage: 'credited', credit: 2000 }));
    expect(await newest()).toMatchObject({ stage: 'credited', credit: 2000, variance: 500 });
    expect(await inStore(part, north)).toMatchObject({ onHand: 6000, value: 7500 });
    await refused(async () => answer(await newest(), { stage: 'refused' }));
    expect(await newest(keeper)).toMatchObject({ worth: null, credit: null, variance: null });
    expect(await rebuilt()).toEqual([]);
  });

  it('come back at what they were worth when they are replaced, by serials that are given', async () => {
    const part = await addPart({ serialTracked: true });
    must(await receive(north, [line(part, 2, { serials: ['R-1', 'R-2'], unitPrice: 3333 })], desk));
    must(await send([line(part, 2, { serials: ['R-1', 'R-2'] })], { reason: 'warranty' }));
    const sent = await newest();
    await refused(() => answer(sent, { stage: 'replaced' }));
    await refused(() => answer(sent, { stage: 'refused', serials: ['R-3'] }));
    must(await answer(sent, { stage: 'replaced', serials: ['R-3', 'R-4'] }, keeper));
    expect(await inStore(part, north)).toMatchObject({ onHand: 2000, value: 6666 });
    expect(await newest()).toMatchObject({ stage: 'replaced', variance: 0 });
    const life = must(await desk<UnitLife>('GET', `/api/parts/${part}/unit?serial=R-1`));
    expect([life.place, life.steps.map((s) => s.kind)]).toEqual(['sent back', ['receipt', 'to supplier']]);
    expect(await rebuilt()).toEqual([]);
  });

  it('are sent once for one request, and never more than is free', async () => {
    const part = await addPart();
    must(await receive(north, [line(part, 3)]));
    const key = { requestKey: randomUUID() };
    expect(must(await send([line(part, 1)], key))).toEqual(must(await send([line(part, 1)], key)));
    expect(await inStore(part, north)).toMatchObject({ onHand: 2000 });
    expect(refusedAt(await refused(() => send([line(part, 3)])))).toEqual([409, 'lines.0.thousandths', 'conflict']);
    expect((await refused(() => send([line(part, 1)], { supplierId: 999 }))).status).toBe(404);
  });

  it('are credited by the office, with an amount', async () => {
    const part = await addPart();
    must(await receive(north, [line(part, 3)]));
    must(await send([line(part, 1)]));
    const sent = await newest();
    expect(refusedAt(await refused(() => answer(sent, { stage: 'credited' })))[1]).toBe('credit');
    expect(refusedAt(await refused(() => answer(sent, { stage: 'credited', credit: 5 }, keeper)))[1]).toBe('credit');
  });
});

describe('old parts from the field', () => {
  const take = (partId: number, over: object = {}) =>
    keeper<{ id: number }>('POST', '/api/stock/old-parts', {
      ...{ requestKey: randomUUID(), storeId: apart, partId, thousandths: 1000, serials: [], reason: 'core', text: '' },
      ...over,
    });

  it('come into quarantine worth nothing; what a maker gives for the core is won', async () => {
    const part = await addPart();
    const orderId = await raised({});
    must(await take(part, { orderId }));
    expect(await inStore(part, apart)).toMatchObject({ onHand: 1000, value: 0 });
    must(await send([line(part, 1)], { storeId: apart, reason: 'core' }));
    must(await answer(await newest(), { stage: 'credited', credit: 4500 }));
    expect(await newest()).toMatchObject({ worth: 0, variance: -4500 });
    expect(await rebuilt()).toEqual([]);
  });

  it('lie apart from parts for work, and belong to an order', async () => {
    const part = await addPart();
    const orderId = await raised({});
    expect(refusedAt(await refused(() => take(part, { orderId, storeId: north })))[1]).toBe('storeId');
    expect(refusedAt(await refused(() => take(part, { orderId: 999_999 })))[1]).toBe('orderId');
  });

  it('are units that are not part of their machine any more', async () => {
    const part = await addPart({ serialTracked: true });
    const orderId = await raised({});
    must(await receive(north, [line(part, 1, { serials: ['K-1'] })]));
    const lineId = must(await desk<{ lines: { id: number }[] }>('GET', `/api/orders/${orderId}`)).lines[0]?.id;
    const used = { requestKey: randomUUID(), lineId, partId: part, thousandths: 1000, serial: 'K-1', storeId: north };
    must(await desk('POST', `/api/orders/${orderId}/parts`, used));
    must(await take(part, { orderId, reason: 'warranty', serials: ['K-1'] }));
    const life = must(await desk<UnitLife>('GET', `/api/parts/${part}/unit?serial=K-1`));
    expect(life).toMatchObject({ place: 'in store', store: { name: 'Apart' }, asset: null, builtIn: null });
    expect(life.steps.at(-1)).toMatchObject({ kind: 'return', text: 'old part under warranty', orderId });
  });
});
