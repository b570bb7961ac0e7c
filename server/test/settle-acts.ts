// What is done in a day with finished orders before they are billed.
import { randomUUID } from 'node:crypto';
import { ACCOUNTS } from '#core/settle/index.ts';
import { contentOf } from '../src/platform/request-key.ts';
import { act, type Act, type Standing } from './act.ts';

const order = ({ ids }: Standing, rest = ''): string => `/api/settle/orders/${ids.order}${rest}`;
const approval = {
  says: 'approved',
  url: () => '/api/settle/approvals',
  body: (at: Standing) => ({ orders: [{ id: at.ids.order, digest: null }] }),
};

export const SETTLE_ACTS: readonly Act[] = [
  act(
    'it is said how the house bills',
    'PUT',
    () => '/api/settle/settings',
    () => ({
      ...{ version: 0, billsFrom: '2026-11-01', secondAbove: null, account: '', graceDays: null, reminderLevels: [] },
      seller: { name: 'Norvela Service', address: 'Rua do Cais 4', country: 'PT', taxNumber: '' },
    }),
  ),
  act(
    'it is said how a customer is billed',
    'PUT',
    (at) => `/api/customers/${at.ids.customer}/billing`,
    () => ({
      ...{ version: 0, grouping: 'month', showsCovered: true, needsReference: false, taxId: null },
      ...{ address: '', country: 'PT', taxNumber: '', contactId: null },
    }),
  ),
  act(
    'a toll is paid on the finished order',
    'POST',
    (at) => `/api/orders/${at.ids.order}/costs`,
    () => ({
      requestKey: randomUUID(),
      lineId: 1,
      day: '2026-11-24',
      text: 'Toll',
      cost: 900,
      price: 1000,
      taxId: null,
    }),
  ),
  act(
    'goodwill is given',
    'POST',
    (at) => order(at, '/corrections'),
    () => ({
      ...{ requestKey: randomUUID(), lineId: null, element: 'other', reason: 'late twice' },
      ...{ goodwill: { percent: 10 }, payers: [] },
    }),
  ),
  act('goodwill is taken back', 'DELETE', (at) => order(at, '/corrections/1')),
  act('the finished order is approved', 'POST', approval.url, approval.body),
  act('the approval is taken back', 'DELETE', (at) => order(at, '/approval')),
  act('it is approved again', 'POST', approval.url, approval.body),
  act(
    'fees are billed as drafts',
    'POST',
    () => '/api/settle/runs',
    () => ({
      ...{ requestKey: randomUUID(), upTo: '2026-11-24', takesOrders: false, takesFees: true },
      ...{ customerId: null, orderId: null, issues: false },
    }),
  ),
  act(
    'a payment is typed',
    'POST',
    () => '/api/settle/payments',
    (at) => ({
      ...{ requestKey: randomUUID(), customerId: at.ids.customer, minor: 120_00, currency: 'EUR', parts: [] },
      ...{ bookedOn: '2026-09-10', text: 'on account' },
    }),
  ),
  act(
    'it is said whose a payment is',
    'POST',
    () => '/api/settle/payments/1/lay',
    (at) => ({ version: 1, customerId: at.ids.customer, parts: [] }),
  ),
  act(
    'a payment is set aside',
    'POST',
    () => '/api/settle/payments/1/aside',
    () => ({ version: 2, reason: 'a refund of the carrier' }),
  ),
  act(
    'a payment waits again',
    'POST',
    () => '/api/settle/payments/1/back',
    () => ({ version: 3 }),
  ),
  act(
    'a list of the bank is loaded in which nothing came in',
    'POST',
    () => '/api/settle/bank-files',
    () => ({
      ...{ requestKey: randomUUID(), name: 'november.csv', text: 'date,amount,text\n2026-11-20,-5.00,rent\n' },
      ...{ seen: contentOf([]), without: 0 },
    }),
  ),
  act(
    'it is said where claims to a maker go',
    'PUT',
    () => '/api/settle/makers',
    () => ({ name: 'Vessmark', mail: 'warranty@vessmark.example', days: 45, version: null }),
  ),
  act(
    'the accounts are named',
    'PUT',
    () => '/api/settle/journal/accounts',
    () => ({ version: 1, codes: Object.fromEntries(ACCOUNTS.map((a, i) => [a, String(2000 + i)])) }),
  ),
  act(
    'a month of the journal is closed',
    'POST',
    () => '/api/settle/journal/close',
    () => ({ month: '2026-09' }),
  ),
];
