// @vitest-environment jsdom
// People: added with a password, changed without one, told the way they like.
import { cleanup, screen, waitFor } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { addPerson, changePerson, listPeople } from '#api/session.ts';
import { refusal, testHouse, type TestHouse } from '../shell/testing.tsx';
import { People } from './people.tsx';

const NOW = Date.UTC(2026, 10, 24, 9, 20);
const DUARTE = {
  ...{ id: 21, name: 'Duarte Melo', email: 'duarte@example.org', role: 'technician', zone: 'Europe/Lisbon' },
  ...{ active: true, phone: '+351 900 111 222', prefers: 'message', language: 'pt', version: 4 },
};

let house: TestHouse;
beforeEach(() => {
  house = testHouse(NOW, 'administrator');
  house.answer(listPeople, () => ({ items: [DUARTE] }));
});
afterEach(cleanup);
const field = (label: string | RegExp): HTMLInputElement => screen.getByLabelText(label);

describe('people', () => {
  it('are added with a first password long enough; an address that is taken is said at its field', async () => {
    house.answer(addPerson, () => refusal('email', 'Somebody signs in with that e-mail address already.'));
    const { user } = house.open(<People />);
    await user.click(await screen.findByRole('button', { name: 'Add a person' }));
    await user.type(field('Name'), 'Ewa Zielonka');
    await user.type(field('E-mail'), 'duarte@example.org');
    await user.type(field('First password'), 'short');
    await user.click(screen.getByRole('button', { name: 'Add the person' }));
    await waitFor(() => expect(field('First password').getAttribute('aria-invalid')).toBe('true'));
    expect(house.told).toEqual([]);
    await user.type(field('First password'), ' but longer now');
    await user.click(screen.getByRole('button', { name: 'Add the person' }));
    expect(await screen.findByText(/Somebody signs in with that e-mail address already\./)).toBeDefined();
    expect(house.told[0]?.body).toMatchObject({
      name: 'Ewa Zielonka',
      role: 'technician',
      phone: null,
      prefers: 'mail',
    });
    expect(field('First password').value).toBe('short but longer now');
  });

  it('are changed without a word of their password unless one is typed', async () => {
    house.answer(changePerson, () => ({ done: true }));
    const { user } = house.open(<People />);
    await user.click(await screen.findByRole('button', { name: 'change' }));
    await user.clear(field('Phone'));
    await user.click(field('May sign in'));
    await user.click(screen.getByRole('button', { name: 'Save the person' }));
    await waitFor(() => expect(house.told).toHaveLength(1));
    const body = house.told[0]?.body as Record<string, unknown>;
    expect(body).toMatchObject({ version: 4, phone: null, active: false, prefers: 'message', language: 'pt' });
    expect('password' in body).toBe(false);
  });
});
