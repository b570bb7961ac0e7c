// @vitest-environment jsdom
// A customer: notes that pop up, wishes for technicians, contacts; what somebody may not do is not offered.
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { afterEach, describe, expect, it } from 'vitest';
import * as contracts from '#api/customers.ts';
import { listFiles } from '#api/files.ts';
import { readReference } from '#api/setup.ts';
import type { Role } from '#core/people.ts';
import { refusal, testHouse, type TestHouse } from '../shell/testing.tsx';
import { CustomerView } from './customer.tsx';

const NOW = Date.UTC(2026, 10, 24, 9, 20);
const CUSTOMER = {
  ...{ id: 2, version: 3, name: 'Alvorim Hospitals', serviceAddress: null, creditDays: 30, creditLimit: 150_000 },
  ...{ creditCurrency: 'EUR', overSince: '2026-11-02', assets: 70, openOrders: 4 },
  contacts: [
    { id: 31, version: 1, name: 'Marta Silva', role: 'head nurse', email: '', phone: '+351 900 1', preferred: 'phone' },
  ],
  notes: [{ id: 5, text: 'Ask for the key', popsUp: true, at: NOW, who: 'Inês Teixeira' }],
  technicians: [{ id: 21, name: 'Duarte Melo', wish: 'preferred' }],
  agreements: [{ id: 4, number: 'AG-2004', name: 'Full care', stage: 'in force', from: '2026-01-01', to: null }],
};

let house: TestHouse;
const openAs = (role: Role) => {
  house = testHouse(NOW, role);
  house.answer(contracts.readCustomer, () => CUSTOMER);
  house.answer(listFiles, () => ({ items: [] }));
  house.answer(readReference, () => ({
    technicians: [
      { id: 21, name: 'Duarte Melo' },
      { id: 22, name: 'Ewa Zielonka' },
    ],
  }));
  return house.open(<CustomerView id="2" />);
};
afterEach(cleanup);

describe('a customer', () => {
  it('says its terms, what is over them, and that an order without a place has nowhere to go', async () => {
    openAs('coordinator');
    expect(await screen.findByText('✕ Over its credit terms since Mon 2 Nov 2026.')).toBeDefined();
    expect(screen.getByText('30 days, up to EUR 1,500.00')).toBeDefined();
    expect(screen.getByText('none: an order without a place has nowhere to go')).toBeDefined();
    expect(screen.getByText('70 assets, 4 open orders')).toBeDefined();
  });

  it('offers nobody what they may not do', async () => {
    openAs('technician');
    expect(await screen.findByText('Ask for the key')).toBeDefined();
    for (const name of ['Change the customer…', 'Add a contact…', 'Add the note', 'Preferred', 'change'])
      expect(screen.queryByRole('button', { name })).toBeNull();
  });

  it('takes a note and is ready for the next; an empty one is refused before it is sent', async () => {
    const { user } = openAs('coordinator');
    await screen.findByText('Ask for the key');
    house.answer(contracts.addNote, () => ({ id: 6 }));
    await user.click(screen.getByRole('button', { name: 'Add the note' }));
    expect(await screen.findByText(/This is needed\.|Write the note\./)).toBeDefined();
    await user.type(screen.getByLabelText('A note'), 'Ramp at the back');
    await user.click(screen.getByLabelText('Show it when an order is raised'));
    await user.click(screen.getByRole('button', { name: 'Add the note' }));
    await waitFor(() => expect(screen.getByLabelText<HTMLTextAreaElement>('A note').value).toBe(''));
    expect(house.told.map((t) => t.body)).toEqual([{ text: 'Ramp at the back', popsUp: false }]);
  });

  it('wishes for a technician found by a part of the name, and no longer for another', async () => {
    const { user } = openAs('coordinator');
    await screen.findByText('Ask for the key');
    house.answer(contracts.setWish, () => ({ done: true }));
    const technicians = within(screen.getByRole('heading', { name: 'Technicians' }).parentElement as HTMLElement);
    expect(technicians.getByRole('button', { name: 'Blocked' })).toHaveProperty('disabled', true);
    await user.type(technicians.getByRole('combobox', { name: 'Technician' }), 'ziel');
    await user.click(await screen.findByRole('option', { name: 'Ewa Zielonka' }));
    await user.click(technicians.getByRole('button', { name: 'Blocked' }));
    await waitFor(() => expect(house.told).toHaveLength(1));
    await user.click(technicians.getByRole('button', { name: 'No wish for Duarte Melo' }));
    await waitFor(() => expect(house.told).toHaveLength(2));
    expect(house.told.map((t) => t.body)).toEqual([
      { personId: 22, wish: 'blocked' },
      { personId: 21, wish: null },
    ]);
  });

  it('keeps a contact that is needed elsewhere, and says why', async () => {
    const { user } = openAs('coordinator');
    house.answer(contracts.removeContact, () =>
      refusal(null, 'Marta Silva is a contact of AG-2004; take her off it first.'),
    );
    await user.click(await screen.findByRole('button', { name: 'Remove Marta Silva' }));
    expect((await screen.findByRole('alert')).textContent).toContain('take her off it first.');
    expect(screen.getByText('Marta Silva')).toBeDefined();
  });
});
