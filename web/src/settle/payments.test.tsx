// @vitest-environment jsdom
// What is paid, on screen: payments typed and allocated, files of the bank looked at first, reminders of what was seen, months closed.
import { cleanup, screen, waitFor } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { listAllowances } from '#api/allowances.ts';
import { listCustomers } from '#api/customers.ts';
import { closeJournal, readJournal } from '#api/journal.ts';
import { readMargin } from '#api/margins.ts';
import {
  layPayment,
  listDebtors,
  listPayments,
  loadBank,
  previewBank,
  previewReminders,
  readOpenItems,
  readPayment,
  sendReminders,
  typePayment,
} from '#api/payments.ts';
import { ACCOUNTS } from '#core/settle/index.ts';
import { refusal, testHouse, type TestHouse } from '../shell/testing.tsx';
import { AllowancesRoom } from './allowances.tsx';
import { LoadBank } from './bank-file.tsx';
import { JournalRoom } from './journal.tsx';
import { OneMargin } from './margin.tsx';
import { DebtorsRoom } from './open-items.tsx';
import { OnePayment } from './payment.tsx';
import { TypeDialog } from './payments.tsx';
import { RemindDialog } from './remind.tsx';

const NOW = Date.UTC(2026, 10, 24, 9, 20, 30);
let house: TestHouse;
beforeEach(() => {
  house = testHouse(NOW, 'manager');
});
afterEach(cleanup);

const CUSTOMER = { id: 3, name: 'Costabela Blood Centre' };
const item = (id: number, unpaid: number, over: object = {}) => ({
  ...{ id, kind: 'invoice', number: `INV-${10_000 + id}`, currency: 'EUR', about: `WO-${10_000 + id}` },
  ...{
    issuedOn: '2026-10-01',
    dueOn: '2026-10-31',
    withTax: unpaid,
    unpaid,
    age: '1–30 days',
    level: 0,
    remindedOn: null,
  },
  ...over,
});
const openItems = (items: object[]) => ({
  ...{ customer: CUSTOMER, overSince: null, follows: true, creditLimit: null, creditCurrency: 'EUR', items, more: 0 },
  payments: [],
});
const money = (text: string): void => void expect(screen.getByText(text)).toBeDefined();

describe('a payment', () => {
  it('is typed and laid on the oldest first; a refusal stands by, and nothing typed is lost', async () => {
    house.answer(readOpenItems, () =>
      openItems([item(1, 60_00), item(2, 80_00), item(3, -5_00, { kind: 'credit note' })]),
    );
    let tries = 0;
    house.answer(typePayment, () =>
      (tries += 1) === 1 ? refusal('bookedOn', 'That day is still to come.') : { id: 7 },
    );
    let isClosed = false;
    const { user } = house.open(<TypeDialog of={CUSTOMER} onClose={() => (isClosed = true)} />);
    await user.type(await screen.findByLabelText('Amount, EUR'), '100');
    await user.click(await screen.findByRole('button', { name: 'The oldest first' }));
    money('100.00 of EUR 100.00 allocated');
    const second = screen.getByLabelText('To INV-10002, EUR');
    expect((second as HTMLInputElement).value).toBe('40.00');
    await user.clear(second);
    await user.type(second, '30.50');
    await user.click(screen.getByRole('button', { name: 'Keep it' }));
    expect(await screen.findByText(/That day is still to come\./)).toBeDefined();
    await user.click(screen.getByRole('button', { name: 'Keep it' }));
    await waitFor(() => expect(isClosed).toBe(true));
    const sent = house.told.map((t) => t.body as { requestKey: string });
    expect(sent[1]).toMatchObject({
      ...{ customerId: 3, minor: 100_00, currency: 'EUR', bookedOn: '2026-11-24' },
      parts: [
        { documentId: 1, minor: 60_00 },
        { documentId: 2, minor: 30_50 },
      ],
    });
    expect(sent[1]?.requestKey).toBe(sent[0]?.requestKey);
  });

  it('shows what it may be for, to be looked at before it is allocated', async () => {
    const payment = {
      ...{ id: 7, state: 'open', customer: null, minor: 90_00, left: 90_00, currency: 'EUR', bookedOn: '2026-11-20' },
      ...{ payer: 'Costabela', text: 'thanks', isTyped: false, version: 4, payerAccount: 'PT50', asideBecause: null },
      ...{ who: 'Inês', at: NOW, file: 'november.xml', laid: [], claims: [] },
      proposal: {
        ...{ customer: CUSTOMER, because: 'the oldest of that payer' },
        parts: [{ documentId: 1, number: 'INV-10001', minor: 60_00 }],
      },
    };
    house.answer(readPayment, () => payment);
    house.answer(listCustomers, () => ({ items: [], next: null }));
    house.answer(readOpenItems, () => openItems([item(1, 60_00), item(2, 80_00)]));
    house.answer(layPayment, () => ({ done: true }));
    const { user } = house.open(<OnePayment id="7" />);
    await screen.findByText(/Proposed: the oldest of that payer \(Costabela Blood Centre\)/);
    await user.click(await screen.findByRole('button', { name: 'all 80.00' }));
    await user.click(screen.getByRole('button', { name: 'Allocate EUR 90.00' }));
    await waitFor(() => expect(house.told).toHaveLength(1));
    expect(house.told[0]?.body).toEqual({
      ...{ version: 4, customerId: 3 },
      parts: [
        { documentId: 1, minor: 60_00 },
        { documentId: 2, minor: 30_00 },
      ],
    });
  });
});

it('a file of the bank is looked at before it is loaded, with what cannot be read by its line', async () => {
  house.answer(previewBank, () => ({
    ...{ seen: 's1', account: 'PT50', entries: 2, known: 1, laid: 1, sums: [{ currency: 'EUR', minor: 150_00 }] },
    shown: [
      {
        ...{ line: 1, bookedOn: '2026-11-20', minor: 60_00, currency: 'EUR', payer: 'Costabela', text: 'INV-10001' },
        ...{ isKnown: false, isCertain: true, because: 'names INV-10001' },
      },
    ],
    ...{ passedOver: 1, wrong: 1 },
    ...{ passed: [{ line: 3, column: 'amount', message: 'It goes out.' }] },
    doubts: ['Statement 1 ends at EUR 5.00, but what it lists comes to EUR 4.00.'],
    bad: [{ line: 4, column: 'booked', message: 'Write the day as 2026-03-17 or 17/03/2026.' }],
  }));
  house.answer(loadBank, () => ({ id: 1 }));
  let isClosed = false;
  const { user } = house.open(<LoadBank onClose={() => (isClosed = true)} />);
  await user.upload(
    screen.getByLabelText('File'),
    new File(['date,amount,text'], 'november.csv', { type: 'text/csv' }),
  );
  expect(await screen.findByText(/2 new payments/)).toBeDefined();
  expect(screen.getByText(/Line 4, booked: Write the day/)).toBeDefined();
  expect(screen.getByText(/Statement 1 ends at EUR 5\.00/)).toBeDefined();
  expect(screen.getByText('allocated: names INV-10001')).toBeDefined();
  await user.click(screen.getByRole('button', { name: 'Load without the 1 that cannot be read' }));
  await waitFor(() => expect(isClosed).toBe(true));
  expect(house.told.at(-1)?.body).toMatchObject({
    name: 'november.csv',
    text: 'date,amount,text',
    seen: 's1',
    without: 1,
  });
});

describe('open items', () => {
  it('are summed by age, with what waits to be allocated', async () => {
    house.answer(listDebtors, () => ({
      items: [
        {
          ...{ customer: CUSTOMER, currency: 'EUR', items: 2, oldest: '2026-10-31', level: 1, overSince: '2026-11-10' },
          ...{ ages: [10_00, 20_00, 0, 0, 5_00], free: -3_00, total: 32_00 },
        },
      ],
      ...{ next: null, sums: [{ currency: 'EUR', ages: [10_00, 20_00, 0, 0, 5_00], free: -3_00, total: 32_00 }] },
      waiting: 1,
    }));
    house.open(<DebtorsRoom />);
    expect(await screen.findByText('EUR 32.00', { selector: 'strong' })).toBeDefined();
    expect(screen.getByText(/25\.00 of it past due, 3\.00 in customers’ favour taken off/)).toBeDefined();
    expect(screen.getByRole('link', { name: '1 payment waits to be allocated' })).toBeDefined();
    expect(screen.getByRole('row', { name: /Costabela/ }).textContent).toContain('level 1');
  });

  it('are reminded of as they were seen; who is left is named', async () => {
    const due = (id: number, name: string) => ({
      ...{
        customer: { id, name },
        to: id === 3 ? 'Ana' : '',
        level: 2,
        currency: 'EUR',
        unpaid: 60_00,
        seen: `s${id}`,
      },
      documents: [{ id, number: `INV-${10_000 + id}`, dueOn: '2026-10-31', unpaid: 60_00, level: 2 }],
    });
    house.answer(previewReminders, () => ({ more: 0, items: [due(3, 'Costabela'), due(4, 'Damiro')] }));
    house.answer(listPayments, () => ({ items: [], next: null }));
    house.answer(sendReminders, () => ({
      sent: 0,
      left: [{ customer: { id: 3, name: 'Costabela' }, reason: 'look again' }],
    }));
    const { user } = house.open(<RemindDialog customerIds={[]} onClose={() => undefined} />);
    await user.click(await screen.findByRole('checkbox', { name: /Damiro/ }));
    await user.click(screen.getByRole('button', { name: 'Remind 1 customer' }));
    expect(await screen.findByText('Costabela: look again')).toBeDefined();
    expect(house.told.find((t) => t.path === '/api/settle/reminders')?.body).toEqual({
      customers: [{ id: 3, currency: 'EUR', seen: 's3' }],
    });
  });
});

it('a month of the journal balances on screen, and is closed only when it can be', async () => {
  const page = (whyNot: string | null) => ({
    ...{ closedTo: '2026-09-30', month: '2026-11', entries: 2, version: 1, next: { month: '2026-10', whyNot } },
    months: [{ month: '2026-11', isClosed: false }],
    codes: Object.fromEntries(ACCOUNTS.map((a) => [a, ''])),
    accounts: [
      { account: 'receivables', code: '2111', centre: '', currency: 'EUR', debit: 123_00, credit: 0 },
      { account: 'tax', code: '', centre: 'S 23 %', currency: 'EUR', debit: 0, credit: 23_00 },
      { account: 'income fees', code: '', centre: '', currency: 'EUR', debit: 0, credit: 100_00 },
    ],
  });
  house.answer(readJournal, () => page('A month is closed from the second day after its end.'));
  house.open(<JournalRoom />);
  expect((await screen.findByRole('button', { name: 'Close 2026-10' })).hasAttribute('disabled')).toBe(true);
  expect(screen.getByRole('row', { name: /together in EUR/ }).textContent).toContain('123.00123.00');
  cleanup();
  house = testHouse(NOW, 'manager');
  house.answer(readJournal, () => page(null));
  house.answer(closeJournal, () => ({ done: true }));
  const { user } = house.open(<JournalRoom />);
  await user.click(await screen.findByRole('button', { name: 'Close 2026-10' }));
  await waitFor(() => expect(house.told).toHaveLength(1));
  expect(house.told[0]?.body).toEqual({ month: '2026-10' });
});

it('counted rights say how they stand, what was beyond them, and what to propose', async () => {
  const right = (over: object) => ({
    ...{ id: 1, agreement: { id: 4, name: 'Full care' }, number: 'AG-4', customer: CUSTOMER, unit: 'call-outs' },
    ...{ granted: 5, drawn: 5, carriesOver: false, from: '2026-01-01', to: '2026-12-31', state: 'used up' },
    ...{ runsOutOn: '2026-09-03', wholePeriod: 7, beyond: null, ...over },
  });
  house.answer(listAllowances, () => ({
    items: [
      right({ beyond: { orders: [31], count: 2, pay: 410_00, currency: 'EUR' } }),
      right({ id: 2, state: 'lapses', drawn: 1, runsOutOn: null, wholePeriod: 1 }),
    ],
    ...{ next: null, counts: { 'used up': 1, 'runs out': 0, lapses: 1, lasts: 0 } },
  }));
  house.open(<AllowancesRoom />);
  expect(await screen.findByText(/2 orders beyond it came to EUR 410\.00/)).toBeDefined();
  expect(screen.getByText(/2 call-outs more would do for the period/)).toBeDefined();
  expect(screen.getByText(/4 call-outs lapse on/)).toBeDefined();
});

it('a renewal is priced from what the agreement took, for as many machines and as much margin as is asked', async () => {
  const sums = { earned: 365_00, charged: 0, cost: 100_00, margin: 265_00 };
  house.answer(readMargin, () => ({
    ...{ id: 4, number: 'AG-4', name: 'Full care', customer: CUSTOMER, currency: 'EUR', termTo: null },
    ...{ months: [{ month: '2026-11', ...sums }], elements: [], machines: [], classes: [], priceNow: 365_00 },
    // A failure for each machine and year at 100.00, and 60.00 of planned work.
    record: { failures: 2, machineYears: 2, machines: 2, medianCost: 100_00, plannedCost: 60_00 },
  }));
  const { user } = house.open(<OneMargin id="4" />);
  expect(await screen.findByText('2.0 a year')).toBeDefined();
  // 2 × 100.00 + 60.00 is 260.00; with 20 % left of the price, 325.00.
  expect(screen.getByText('EUR 260.00')).toBeDefined();
  expect(screen.getByText('EUR 325.00')).toBeDefined();
  await user.clear(screen.getByLabelText('Machines'));
  await user.type(screen.getByLabelText('Machines'), '4');
  await user.tab();
  // 4 × 100.00 + 60.00 is 460.00: 575.00.
  expect(await screen.findByText('EUR 575.00')).toBeDefined();
});
