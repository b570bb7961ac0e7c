// @vitest-environment jsdom
// Settle on screen: what is odd and what to do, charges by who bears them, corrections, approvals, runs and credit notes as the wire reads them.
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import {
  addCorrection,
  approveOrders,
  changeCustomerBilling,
  changeSettleSettings,
  listLooks,
  readCustomerBilling,
  readLook,
  readSettleSettings,
  withdrawApproval,
} from '#api/billing.ts';
import { creditDocument, listDocuments, listRuns, previewBilling, readDocument, startBilling } from '#api/documents.ts';
import { listCustomers, readCustomer } from '#api/customers.ts';
import { readTaxes } from '#api/settle.ts';
import { refusal, testHouse, type TestHouse } from '../shell/testing.tsx';
import { BillRoom } from './bill.tsx';
import { BillingSettings } from './billing-settings.tsx';
import { CustomerBillingDialog } from './customer-billing.tsx';
import { OneDocument } from './document.tsx';
import { DocumentsRoom } from './documents.tsx';
import { LookRecord } from './look-record.tsx';
import { LookThrough } from './look-through.tsx';

const NOW = Date.UTC(2026, 10, 24, 9, 20, 30);
let house: TestHouse;
beforeEach(() => {
  house = testHouse(NOW, 'manager');
});
afterEach(cleanup);

const CUSTOMER = { id: 3, name: 'Costabela Blood Centre' };
const charge = (over: object = {}) => ({
  ...{ lineId: 31, machine: 'Q031', element: 'parts', what: 'part', text: 'GS-720 Door gasket', bearer: 'AG-1' },
  ...{ cost: 5100, list: 17980, borne: 14384, discount: 0, goodwill: 0, pay: 3596, reasons: [] },
  payers: [{ customer: CUSTOMER, minor: 3596, state: null }],
  ...over,
});
const look = (over: object = {}) => ({
  ...{ orderId: 131, title: 'Lid lock fails', customer: CUSTOMER, doneOn: '2026-11-18', state: 'to look at' },
  ...{
    currency: 'EUR',
    reference: '',
    odd: ['no hours'],
    digest: 'd1',
    hasCause: true,
    sentences: ['Covered by AG-1.'],
  },
  charges: [charge()],
  total: { cost: 5100, list: 17980, borne: 14384, discount: 0, goodwill: 0, pay: 3596, margin: -1504 },
  ...{ corrections: [], approval: null, documents: [], ...over },
});
const row = (id: number, over: object = {}) => ({
  ...{
    orderId: id,
    kind: 'repair',
    title: `Work ${id}`,
    customer: CUSTOMER,
    doneOn: '2026-11-18',
    state: 'to look at',
  },
  ...{ currency: 'EUR', cost: 1, list: 100, pay: 50, odd: [], digest: `d${id}`, ...over },
});
const looks = (items: object[], over: object = {}) => ({
  ...{ items, next: null, counts: { odd: 0, plain: items.length, second: 0, approved: 0 }, billsFrom: '2026-11-01' },
  ...over,
});

describe('a finished order', () => {
  it('says what is odd and what to do, who bears each charge, and its margin to whom may see it', async () => {
    house.answer(readLook, () => look());
    house.open(<LookRecord id="131" />);
    expect(await screen.findByText('no hours.')).toBeDefined();
    expect(screen.getByText(/by AG-1, borne 143\.84/)).toBeDefined();
    expect(screen.getByRole('row', { name: /^In all/ }).textContent).toContain('179.8035.96');
    expect(screen.getByText(/Margin EUR -15\.04/)).toBeDefined();
  });

  it('is approved as it was seen; why it is left is said beside', async () => {
    house.answer(readLook, () => look());
    house.answer(approveOrders, () => ({
      approved: 0,
      left: [{ orderId: 131, reason: 'it comes to something else by now' }],
    }));
    const { user } = house.open(<LookRecord id="131" />);
    await user.click(await screen.findByRole('button', { name: 'Approve EUR 35.96' }));
    expect((await screen.findByRole('alert')).textContent).toContain('something else');
    expect(house.told[0]?.body).toEqual({ orders: [{ id: 131, digest: 'd1' }] });
  });

  it('gets goodwill of an element by percent or amount, with a reason that is asked for', async () => {
    house.answer(readLook, () => look());
    house.answer(addCorrection, () => ({ id: 1 }));
    const { user } = house.open(<LookRecord id="131" />);
    await user.click(await screen.findByRole('button', { name: 'Goodwill…' }));
    await user.click(await screen.findByRole('button', { name: 'Give it' }));
    expect(await screen.findByText(/Say why/)).toBeDefined();
    expect(house.told).toEqual([]);
    await user.selectOptions(screen.getByLabelText('Of'), 'parts');
    await user.selectOptions(screen.getByLabelText('As'), 'an amount');
    await user.clear(screen.getByLabelText(/^Off/));
    await user.type(screen.getByLabelText(/^Off/), '12,50');
    await user.type(screen.getByLabelText('Why'), 'came late');
    await user.click(screen.getByRole('button', { name: 'Give it' }));
    await waitFor(() => expect(house.told).toHaveLength(1));
    expect(house.told[0]?.body).toMatchObject({
      ...{ lineId: null, element: 'parts', reason: 'came late', goodwill: { minor: 1250 }, payers: [] },
    });
  });

  it('is paid by somebody else in part', async () => {
    house.answer(readLook, () => look());
    house.answer(listCustomers, () => ({
      items: [{ id: 8, name: 'Ostra Diagnostics', serviceAddress: null, assets: 1, overSince: null }],
      ...{ next: null, total: 1 },
    }));
    house.answer(addCorrection, () => refusal('payers', 'The parts are more than 100 % together.'));
    const { user } = house.open(<LookRecord id="131" />);
    await user.click(await screen.findByRole('button', { name: 'Somebody else pays…' }));
    await user.type(await screen.findByRole('combobox', { name: 'Who' }), 'ostra');
    await user.click(await screen.findByRole('option', { name: /Ostra/ }));
    await user.type(screen.getByLabelText('Why'), 'the lease');
    await user.click(screen.getByRole('button', { name: 'Let them pay' }));
    expect(await screen.findByText(/more than 100 %/)).toBeDefined();
    expect(house.told[0]?.body).toMatchObject({ goodwill: null, payers: [{ customerId: 8, percent: 100 }] });
  });

  it('approved, the approval is taken back; who approved is said', async () => {
    house.answer(readLook, () =>
      look({ state: 'approved', odd: [], approval: { who: 'Mateo Larrazabal', at: NOW, second: null } }),
    );
    house.answer(withdrawApproval, () => ({ done: true }));
    const { user } = house.open(<LookRecord id="131" />);
    expect(await screen.findByText(/Approved by Mateo Larrazabal/)).toBeDefined();
    expect(screen.queryByRole('button', { name: 'Goodwill…' })).toBeNull();
    await user.click(screen.getByRole('button', { name: 'Take the approval back' }));
    await waitFor(() =>
      expect(house.told[0]).toMatchObject({ method: 'DELETE', path: '/api/settle/orders/131/approval' }),
    );
  });
});

describe('the list', () => {
  it('of plain orders is approved at one go after a look at the sum; what is left is named', async () => {
    house.answer(listLooks, () => looks([row(131), row(132)]));
    house.answer(approveOrders, () => ({ approved: 1, left: [{ orderId: 132, reason: 'it was approved already.' }] }));
    const { user } = house.open(<LookThrough />, '?show=plain');
    await user.click(await screen.findByRole('button', { name: 'Approve these 2…' }));
    const dialog = await screen.findByRole('dialog');
    expect(dialog.textContent).toContain('EUR 1.00 to pay, without tax');
    await user.click(within(dialog).getByRole('button', { name: 'Approve 2' }));
    expect((await within(dialog).findByRole('status')).textContent).toContain(
      '1 order approved.WO-10132: it was approved already.',
    );
    expect(house.told[0]?.body).toEqual({
      orders: [
        { id: 131, digest: 'd131' },
        { id: 132, digest: 'd132' },
      ],
    });
  });

  it('says that nothing is billed here yet, and where that is changed', async () => {
    house.answer(listLooks, () => looks([], { billsFrom: null }));
    house.open(<LookThrough />);
    expect((await screen.findByRole('link', { name: /Say from which day/ })).getAttribute('href')).toBe(
      '/setup/billing',
    );
  });
});

describe('billing', () => {
  const preview = (over: object = {}) => ({
    ...{
      documents: 2,
      lines: 3,
      withoutTax: 10000,
      tax: 2300,
      withTax: 12300,
      silent: 1,
      left: 1,
      currencies: ['EUR'],
    },
    shown: [
      {
        ...{ kind: 'invoice', customer: CUSTOMER, currency: 'EUR', about: 'AG-2001', lines: 1, first: 'Fee' },
        ...{ withoutTax: 10000, withTax: 12300 },
      },
    ],
    leftOut: [{ customer: 'Serra', customerId: 4, orderId: null, agreementId: 10, reason: 'AG-2010 has no price' }],
    ...over,
  });
  it('shows what a run would make and leave before it is begun', async () => {
    house.answer(previewBilling, () => preview());
    house.answer(listRuns, () => ({ items: [] }));
    house.answer(startBilling, () => ({ id: 5 }));
    const { user } = house.open(<BillRoom />);
    await user.click(await screen.findByRole('button', { name: 'Write 2 drafts' }));
    await waitFor(() => expect(house.told.some((t) => t.path === '/api/settle/runs')).toBe(true));
    expect(house.told.find((t) => t.path === '/api/settle/runs')?.body).toMatchObject({
      ...{ upTo: '2026-11-24', takesOrders: true, takesFees: true, customerId: null, orderId: null, issues: false },
    });
    expect(screen.getByText(/AG-2010 has no price/)).toBeDefined();
  });

  it('keeps how a customer is billed, and how the house does', async () => {
    const held = {
      ...{ grouping: 'order', showsCovered: false, needsReference: false, taxId: null, address: '', country: '' },
      ...{ taxNumber: '', contactId: null, version: 0 },
    };
    house.answer(readCustomerBilling, () => held);
    house.answer(readTaxes, () => ({ items: [] }));
    house.answer(readCustomer, () => ({ contacts: [] }));
    house.answer(changeCustomerBilling, () => ({ done: true }));
    const { user } = house.open(<CustomerBillingDialog customer={CUSTOMER} onClose={() => undefined} />);
    await user.selectOptions(await screen.findByLabelText('One document for'), 'everything of a month');
    await user.type(screen.getByLabelText(/^Country/), 'Portugal');
    await user.click(screen.getByRole('button', { name: 'Keep it' }));
    expect(await screen.findByText(/Two letters/)).toBeDefined();
    await user.clear(screen.getByLabelText(/^Country/));
    await user.type(screen.getByLabelText(/^Country/), 'pt');
    await user.click(screen.getByRole('button', { name: 'Keep it' }));
    await waitFor(() => expect(house.told).toHaveLength(1));
    expect(house.told[0]?.body).toMatchObject({ version: 0, grouping: 'month', country: 'pt' });
    cleanup();
    house.answer(readSettleSettings, () => ({
      ...{ billsFrom: '2026-11-01', secondAbove: null, account: '', version: 2, graceDays: null },
      reminderLevels: [{ days: 10, wait: 0 }],
      seller: { name: 'Marisma', address: 'Cais 1', country: 'PT', taxNumber: '' },
    }));
    house.answer(changeSettleSettings, () => ({ done: true }));
    const settings = house.open(<BillingSettings />);
    await settings.user.click(await screen.findByRole('checkbox', { name: /second person/ }));
    await settings.user.click(screen.getByRole('checkbox', { name: /over their credit terms/ }));
    await settings.user.click(screen.getByRole('button', { name: 'Add a level' }));
    await settings.user.clear(screen.getByLabelText(/^Above/));
    await settings.user.type(screen.getByLabelText(/^Above/), '250');
    await settings.user.click(screen.getByRole('button', { name: 'Keep it' }));
    await waitFor(() => expect(house.told).toHaveLength(2));
    expect(house.told[1]?.body).toMatchObject({
      version: 2,
      billsFrom: '2026-11-01',
      secondAbove: 250_00,
      graceDays: 14,
      reminderLevels: [
        { days: 10, wait: 0 },
        { days: 24, wait: 14 },
      ],
    });
  });
});

describe('documents', () => {
  const line = (id: number, over: object = {}) => ({
    ...{ id, position: id, orderId: 131, order: 'WO-10131 Lid lock fails', agreementId: null, agreement: null },
    ...{ day: '2026-11-18', text: `Line ${id}`, quantity: 1000, unit: 'C62', list: 5000, off: 0, offBecause: '' },
    ...{ net: 5000, credited: 0, category: 'S', hundredths: 2300, ...over },
  });
  const page = (over: object = {}) => ({
    ...{ id: 9, kind: 'invoice', state: 'issued', number: 'INV-10009', customer: CUSTOMER, currency: 'EUR' },
    ...{
      about: 'WO-10131',
      issuedOn: '2026-11-20',
      dueOn: '2026-12-20',
      withoutTax: 10000,
      withTax: 12300,
      credited: 0,
    },
    ...{ version: 2, paid: 2000, left: 10300, tax: 2300, reference: '', language: 'en', reason: '', account: '' },
    ...{ seller: null, buyer: null, hasPaper: true, of: null, notes: [] },
    ...{ unpaid: 10300, laid: [], reminders: [] },
    lines: [line(1), line(2, { credited: 1000 })],
    taxes: [{ category: 'S', hundredths: 2300, taxable: 10000, tax: 2300 }],
    ...over,
  });

  it('say what was paid on site, and are credited line by line for what is left of each', async () => {
    house.answer(readDocument, () => page());
    house.answer(creditDocument, () => ({ id: 10 }));
    const { user } = house.open(<OneDocument id="9" />);
    expect((await screen.findByRole('row', { name: /^Left to pay/ })).textContent).toContain('103.00');
    await user.click(screen.getByRole('button', { name: 'Credit it…' }));
    const first = await screen.findByLabelText(/^Credit of Line 1/);
    await user.clear(first);
    await user.type(first, '20');
    await user.type(screen.getByLabelText('Why'), 'broken on arrival');
    await user.click(screen.getByRole('button', { name: /^Issue the credit note over EUR 60\.00/ }));
    await waitFor(() => expect(house.told).toHaveLength(1));
    expect(house.told[0]?.body).toMatchObject({
      ...{ reason: 'broken on arrival', again: false },
      lines: [
        { lineId: 1, minor: 2000 },
        { lineId: 2, minor: 4000 },
      ],
    });
  });

  it('are empty because of a filter, which is said and lifted', async () => {
    house.answer(listDocuments, () => ({ items: [], next: null }));
    const { user } = house.open(<DocumentsRoom />, '?kind=invoice');
    await user.click(await screen.findByRole('button', { name: 'Show all' }));
    expect(await screen.findByText(/No document yet/)).toBeDefined();
  });
});
