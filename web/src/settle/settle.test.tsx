// @vitest-environment jsdom
// What an order comes to on screen: charges with their sums, parts, other costs, tax; and the parts list behind them.
import { cleanup, screen, waitFor } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { listFiles } from '#api/files.ts';
import { readNeeds } from '#api/needs.ts';
import { addCost, addTax, readCharges, readTaxes } from '#api/settle.ts';
import { readPartStock } from '#api/stock.ts';
import { addPart, changeUse, importParts, listParts, previewParts, removeUse, usePart } from '#api/stores.ts';
import { type TestHouse, dialogClosed, refusal, testHouse } from '../shell/testing.tsx';
import { PartsRoom } from '../stores/parts.tsx';
import { ComesTo } from './of-order.tsx';
import { Taxes } from './taxes.tsx';

const NOW = Date.UTC(2026, 10, 24, 9, 20, 30);
const LINES = [{ lineId: 31, orderId: 131, title: 'Fan noisy', tag: 'Q031' }];
const TAX = { id: 1, version: 1, name: 'Standard', category: 'S', hundredths: 2300, isStandard: true };

let house: TestHouse;
beforeEach(() => {
  house = testHouse(NOW);
});
afterEach(cleanup);

const open = () => house.open(<ComesTo orderId={131} zone={'Europe/Lisbon' as never} lines={LINES} open />);

describe('what an order comes to', () => {
  const charge = (over: object) => ({
    ...{ lineId: 31, person: { id: 21, name: 'Ilse Verhagen' }, craft: 'Technician', what: 'work', hours: 'normal' },
    ...{ minutes: 100, billed: 105, salesRate: 7500, cost: 5667, list: 13125, by: null },
    ...{ borne: 0, discount: 0, pay: 13125, text: null, ...over },
  });
  const labour = (charges: object[]) => ({
    ...{ currency: 'EUR', card: 'Standard', charges, withoutRate: [], parts: [], others: [], payments: [] },
    ...{ internal: false, tax: null, margin: null, offered: null },
    entries: [
      {
        id: 5,
        person: { id: 21, name: 'Ilse Verhagen' },
        day: '2026-11-23',
        kind: 'work',
        lineId: 31,
        minutes: 100,
        span: null,
        text: '',
        state: 'open',
      },
    ],
  });
  it('comes to its cost and its list price, with their sum', async () => {
    house.answer(readCharges, () =>
      labour([
        charge({}),
        charge({ hours: 'night', minutes: 10, billed: 10, cost: 700, list: 1875, borne: 1875, pay: 0, by: 'AG-1' }),
      ]),
    );
    open();
    const foot = await screen.findByRole('row', { name: /^In all/ });
    expect(foot.textContent).toMatch(/1 h 50 min.*1 h 55 min.*63\.67.*150\.00.*18\.75.*131\.25/);
    expect(screen.getByRole('row', { name: /work, night/ })).toBeDefined();
    expect(screen.getByText(/Borne by AG-1/)).toBeDefined();
  });

  it('is without money for those who do not see it, and says whose time has no rate', async () => {
    const hidden = { salesRate: null, cost: null, list: null, borne: null, discount: null, pay: null };
    house.answer(readCharges, () => ({
      ...labour([charge(hidden)]),
      withoutRate: [{ person: 'Ilse Verhagen', day: '2026-11-23' }],
    }));
    open();
    expect(await screen.findByText(/Without a rate: Ilse Verhagen/)).toBeDefined();
    expect(screen.queryByText(/EUR/)).toBeNull();
    expect(screen.queryByRole('columnheader', { name: 'List price' })).toBeNull();
  });

  it('stands beside what it was offered for, and says how far it is from that', async () => {
    const offered = { id: 4, withoutTax: 12_000, currency: 'EUR', beyond: 1125 };
    house.answer(readCharges, () => ({ ...labour([charge({})]), offered }));
    open();
    const link = await screen.findByRole('link', { name: 'OF-10004' });
    expect(link.getAttribute('href')).toBe('/offers/4');
    expect(link.closest('p')?.textContent).toBe(
      'Offered for EUR 120.00 without tax by OF-10004; the customer’s amount is EUR 11.25 more.',
    );
  });

  it('says what it was offered for before anything is entered', async () => {
    const offered = { id: 4, withoutTax: 12_000, currency: 'EUR', beyond: -12_000 };
    house.answer(readCharges, () => ({ ...labour([]), offered, entries: [] }));
    open();
    expect((await screen.findByRole('link', { name: 'OF-10004' })).closest('p')?.textContent).toBe(
      'Offered for EUR 120.00 without tax by OF-10004.',
    );
  });

  it('says the customer’s amount with tax, and what is left of it', async () => {
    house.answer(readCharges, () => ({
      ...labour([charge({})]),
      ...{
        margin: 7458,
        tax: { rows: [{ name: 'Standard', hundredths: 2300, taxable: 13125, tax: 3019 }], withTax: 16144 },
      },
    }));
    open();
    expect(await screen.findByText('EUR 161.44')).toBeDefined();
    expect(screen.getByText(/Standard 23 % 30\.19/)).toBeDefined();
    expect(screen.getByText(/EUR 74\.58/)).toBeDefined();
  });
});

describe('parts and other costs', () => {
  const empty = {
    ...{
      currency: 'EUR',
      card: 'Standard',
      charges: [],
      entries: [],
      withoutRate: [],
      parts: [],
      others: [],
      payments: [],
    },
    ...{ internal: false, tax: null, margin: null, offered: null },
  };
  const part = (over: object) => ({
    ...{ id: 4, version: 1, number: 'TN-CM-K2', name: 'Compressor', unit: 'piece', listPrice: 100, cost: 50 },
    ...{ consumable: false, serialTracked: true, taxId: null, tax: null, retired: false, ...over },
  });
  const used = {
    ...{ id: 9, version: 3, lineId: 31, thousandths: 1500, serial: '', who: 'Ilse Verhagen', at: NOW },
    part: { id: 5, number: 'ST-DS-05', name: 'Descaler', unit: 'litre', serialTracked: false },
    ...{ orderId: 131, store: null },
  };
  const inStore = (id: number, name: string, free: number, personId: number | null = null) => ({
    ...{ store: { id, name }, kind: 'depot', depot: { id: 1, name: 'Porto' }, onHand: free, reserved: 0, free },
    ...{ person: personId === null ? null : { id: personId, name: 'Ilse Verhagen' }, bin: '', minimum: null },
    ...{ maximum: null, version: 0, average: null, value: null },
  });
  const lying = (...stores: object[]) => ({ part: { ...used.part, retired: false }, stores, ordered: [], serials: [] });
  beforeEach(() => {
    house.answer(readCharges, () => empty);
    house.answer(listParts, () => ({ items: [part({})], next: null, total: 1 }));
    house.answer(usePart, () => ({ id: 1 }));
    house.answer(readPartStock, () => lying());
    house.answer(readNeeds, () => ({ needs: [], over: false }));
    house.answer(readTaxes, () => ({ items: [{ ...TAX }] }));
    house.answer(listFiles, () => ({ items: [] }));
  });

  it('are used by a fragment; the serial is asked where one is kept', async () => {
    const { user } = open();
    await user.click(await screen.findByRole('button', { name: 'part used…' }));
    const box = await screen.findByRole('combobox', { name: 'Part' });
    await user.type(box, 'compr{Enter}');
    await user.type(await screen.findByLabelText('Serial'), 'K2-1');
    await user.click(screen.getByRole('button', { name: 'Keep it' }));
    await waitFor(() => expect(house.told).toHaveLength(1));
    expect(house.told[0]?.body).toMatchObject({ partId: 4, lineId: 31, thousandths: 1000, serial: 'K2-1' });
  });

  it('come from the store that holds them for the order, unless somebody says otherwise', async () => {
    const holds = [{ store: { id: 3, name: 'Porto' }, kind: 'depot', bin: 'A1', thousandths: 1000 }];
    house.answer(listParts, () => ({ items: [part({ serialTracked: false })], next: null, total: 1 }));
    house.answer(readPartStock, () => lying(inStore(2, 'Vigo', 4000), inStore(3, 'Porto', 500)));
    house.answer(readNeeds, () => ({
      over: false,
      needs: [
        {
          ...{ id: 1, version: 1, lineId: 31, tag: 'ULF-0001', wanted: 1000, used: 0, held: 1000, open: 0, holds },
          ...{ part: { ...used.part, id: 4 }, free: [], ordered: [], notPicked: null, anyway: null },
        },
      ],
    }));
    const { user } = open();
    await user.click(await screen.findByRole('button', { name: 'part used…' }));
    await user.type(await screen.findByRole('combobox', { name: 'Part' }), 'compr{Enter}');
    const from = await screen.findByLabelText<HTMLSelectElement>('Taken from');
    expect([...from.options].map((o) => o.text)).toEqual([
      ...['none of our stores', 'Vigo: 4 free', 'Porto: 1 held for it'],
    ]);
    await user.click(screen.getByRole('button', { name: 'Keep it' }));
    await waitFor(() => expect(house.told[0]?.body).toMatchObject({ partId: 4, storeId: 3 }));
    await user.click(await screen.findByRole('button', { name: 'part used…' }));
    await user.type(await screen.findByRole('combobox', { name: 'Part' }), 'compr{Enter}');
    await user.selectOptions(await screen.findByLabelText('Taken from'), 'Vigo: 4 free');
    await user.click(screen.getByRole('button', { name: 'Keep it' }));
    await waitFor(() => expect(house.told[1]?.body).toMatchObject({ partId: 4, storeId: 2 }));
  });

  it('nobody chose, or of no quantity, are refused at their field', async () => {
    house.answer(usePart, () => refusal('thousandths', 'A quantity above 0.'));
    const { user } = open();
    await user.click(await screen.findByRole('button', { name: 'part used…' }));
    await user.click(await screen.findByRole('button', { name: 'Keep it' }));
    expect(await screen.findByText(/Choose one of those offered/)).toBeDefined();
    expect(house.told).toEqual([]);
    await user.type(screen.getByRole('combobox', { name: 'Part' }), 'compr{Enter}');
    await screen.findByLabelText('Serial');
    await user.click(screen.getByRole('button', { name: 'Keep it' }));
    expect(await screen.findByText(/A quantity above 0\./)).toBeDefined();
  });

  it('are changed with the version that was read, and taken back', async () => {
    house.answer(readCharges, () => ({ ...empty, parts: [used] }));
    house.answer(changeUse, () => ({ done: true }));
    house.answer(removeUse, () => ({ done: true }));
    const { user } = open();
    expect(await screen.findByRole('cell', { name: '1.5 litres' })).toBeDefined();
    await user.click(screen.getByRole('button', { name: 'Change Descaler' }));
    const quantity = await screen.findByLabelText('Quantity, litre');
    await user.clear(quantity);
    await user.type(quantity, '2.25');
    await user.click(screen.getByRole('button', { name: 'Save' }));
    await dialogClosed();
    expect(house.told[0]?.body).toEqual({ version: 3, lineId: 31, thousandths: 2250, serial: '', storeId: null });
    await user.click(await screen.findByRole('button', { name: 'Take back Descaler' }));
    await waitFor(() => expect(house.told[1]).toMatchObject({ method: 'DELETE', path: '/api/used-parts/9' }));
  });

  it('other costs are the customer’s unless a reason is given', async () => {
    house.answer(addCost, () => ({ id: 1 }));
    const { user } = open();
    await user.click(await screen.findByRole('button', { name: 'other cost…' }));
    await user.type(await screen.findByLabelText('What for'), 'Toll');
    for (const [label, amount] of [
      ['Cost us', '12,50'],
      ['Sold for', '15'],
    ] as const)
      await user.type(screen.getByLabelText(new RegExp(`^${label}`)), amount);
    await user.click(screen.getByRole('button', { name: 'Keep it' }));
    await waitFor(() => expect(house.told).toHaveLength(1));
    expect(house.told[0]?.body).toMatchObject({
      text: 'Toll',
      cost: 1250,
      price: 1500,
      oursBecause: null,
      day: '2026-11-24',
    });
  });
});

describe('the parts list', () => {
  it('says what a file would change before it is loaded, and loads nothing while a row is wrong', async () => {
    house.answer(listParts, () => ({ items: [], next: null, total: 0 }));
    const bad = [{ line: 3, column: 'cost', message: 'Write an amount such as 12.50.' }];
    let effect = { added: 2, changed: 0, unchanged: 1, bad, sample: [] as object[] };
    house.answer(previewParts, () => effect);
    house.answer(importParts, () => effect);
    const { user } = house.open(<PartsRoom />);
    await user.click(await screen.findByRole('button', { name: 'Load a list…' }));
    const file = () => new File(['number,name'], 'parts.csv', { type: 'text/csv' });
    await user.upload(screen.getByLabelText('File'), file());
    expect(await screen.findByText(/Line 3, cost: Write an amount/)).toBeDefined();
    expect(screen.getByRole('button', { name: 'Load' })).toHaveProperty('disabled', true);
    effect = { ...effect, bad: [], sample: [{ number: 'A', name: 'Oil', what: 'added' }] };
    await user.upload(screen.getByLabelText('File'), file());
    await user.click(await screen.findByRole('button', { name: 'Load 2' }));
    await dialogClosed();
    expect(house.told.map((t) => t.path)).toEqual([
      '/api/parts/import/preview',
      '/api/parts/import/preview',
      '/api/parts/import',
    ]);
  });

  it('takes a part with its amounts in whole cents', async () => {
    house.answer(listParts, () => ({ items: [], next: null, total: 0 }));
    house.answer(readTaxes, () => ({ items: [TAX] }));
    house.answer(addPart, () => ({ id: 1 }));
    const { user } = house.open(<PartsRoom />);
    await user.click(await screen.findByRole('button', { name: 'Add a part' }));
    await user.type(screen.getByLabelText('Number'), 'GS-1');
    await user.type(screen.getByLabelText('Name'), 'Gasket');
    await user.type(screen.getByLabelText(/^List price/), '89,90');
    await user.type(screen.getByLabelText(/^Cost/), '51');
    await user.click(screen.getByLabelText('Consumable'));
    await user.click(screen.getByRole('button', { name: 'Save the part' }));
    await waitFor(() => expect(house.told).toHaveLength(1));
    expect(house.told[0]?.body).toMatchObject({
      number: 'GS-1',
      listPrice: 8990,
      cost: 5100,
      consumable: true,
      taxId: null,
    });
  });
});

describe('taxes', () => {
  it('of another category than the standard rate have no percentage', async () => {
    house = testHouse(NOW, 'manager');
    house.answer(readTaxes, () => ({ items: [] }));
    house.answer(addTax, () => ({ id: 1 }));
    const { user } = house.open(<Taxes />);
    await user.click(await screen.findByRole('button', { name: 'Add a tax' }));
    await user.type(screen.getByLabelText('Name'), 'Exempt');
    await user.selectOptions(screen.getByLabelText('Category'), 'E: exempt');
    await user.click(screen.getByRole('button', { name: 'Save the tax' }));
    await waitFor(() => expect(house.told).toHaveLength(1));
    expect(house.told[0]?.body).toEqual({ name: 'Exempt', category: 'E', hundredths: 0, isStandard: false });
  });
});
