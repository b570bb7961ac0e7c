// @vitest-environment jsdom
// Service levels: lengths as they are typed, whom they warn, and how they read.
import { cleanup, screen, waitFor } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import * as setup from '#api/setup.ts';
import { testHouse, type TestHouse } from '../shell/testing.tsx';
import { ServiceLevels } from './service-levels.tsx';

const NOW = Date.UTC(2026, 10, 24, 9, 20);
const DONE = { done: true };
const CALENDAR = {
  id: 3,
  version: 2,
  name: 'Ribeira service hours',
  zone: 'Europe/Lisbon',
  weekly: [1, 2, 3, 4, 5, 6, 7].map((d) => (d < 6 ? [{ from: 540, to: 1080 }] : [])),
  closed: [{ date: '2026-12-25', name: 'Christmas' }],
  extraOpen: [],
  heldUntil: [],
};
const LEVEL = {
  id: 6,
  version: 1,
  name: 'Cold storage',
  pauses: ['no access'],
  targets: { 1: { response: { measure: 'elapsed', minutes: 30 } } },
  pledge: null,
  holdsFrom: null,
  past: [],
};
const REFERENCE = {
  today: '2026-11-24',
  zone: 'Europe/Lisbon',
  calendars: [CALENDAR],
  serviceLevels: [LEVEL],
  jobPlans: [{ id: 5, name: 'Yearly care' }],
  classes: [{ id: 11, name: 'Steam steriliser' }],
  technicians: [],
  depots: [],
  skills: [],
  managers: [],
  people: [],
  priorities: ['down', 'poor', 'can wait', 'any time'],
};
let house: TestHouse;
beforeEach(() => {
  house = testHouse(NOW, 'administrator');
  house.answer(setup.readReference, () => REFERENCE);
});
afterEach(cleanup);

const press = (name: string | RegExp): HTMLElement => screen.getByRole('button', { name });
const found = (name: string | RegExp): Promise<HTMLElement> => screen.findByRole('button', { name });
const field = (label: string | RegExp): HTMLElement => screen.getByLabelText(label);
const sent = async (n = 1): Promise<unknown> => {
  await waitFor(() => expect(house.told).toHaveLength(n));
  return house.told[n - 1]?.body;
};

describe('a service level', () => {
  it('is read length by length, and holds from a day', async () => {
    house.answer(setup.changeServiceLevel, () => DONE);
    const { user } = house.open(<ServiceLevels />);
    await user.click(await found('change'));
    expect((field('response, priority 1') as HTMLInputElement).value).toBe('30 min');
    await user.type(field('restoration, priority 2'), 'soon');
    await user.click(press('Save the service level'));
    expect(await screen.findByText(/A length cannot be read; write it as 30 min, 4 h or 2 d\./)).toBeDefined();
    await user.clear(field('restoration, priority 2'));
    await user.type(field('restoration, priority 2'), '2 d');
    await user.selectOptions(field('restoration, priority 2, counted in'), 'working: Ribeira service hours');
    await user.type(field(/Availability, %/), '99.5');
    await user.click(press('Add a tier'));
    await user.click(press('Save the service level'));
    expect(await sent()).toMatchObject({
      version: 1,
      holdsFrom: '2026-11-25',
      targets: {
        1: { response: { measure: 'elapsed', minutes: 30 } },
        2: { restoration: { measure: 'working', minutes: 2880, calendarId: 3 } },
      },
      pledge: { availability: { target: 9950, calendarId: null }, tiers: [{ below: 9500, credit: 500 }] },
    });
  });

  it('warns whom it names at each step, and reads as a sentence', async () => {
    house.answer(setup.changeServiceLevel, () => DONE);
    house.answer(setup.readReference, () => ({ ...REFERENCE, people: [{ id: 9, name: 'Carmen Rioboo' }] }));
    const { user } = house.open(<ServiceLevels />);
    expect(
      await screen.findByText('Priority 1, down: you hear who comes within 30 min, around the clock.'),
    ).toBeDefined();
    expect(screen.getByText('Time stands still while nobody can let us in.')).toBeDefined();
    await user.click(await found('change'));
    await user.click(press('Add a warning'));
    await user.click(field('who goes'));
    await user.type(screen.getByRole('combobox', { name: 'and' }), 'carmen');
    await user.click(await screen.findByRole('option', { name: /Carmen Rioboo/ }));
    expect(press('Carmen Rioboo ×')).toBeDefined();
    await user.click(press('Save the service level'));
    expect(await sent()).toMatchObject({
      pledge: { warnings: [{ percent: 50, inCharge: true, technician: true, people: [9] }] },
    });
  });

  it('without any target is not sent', async () => {
    const { user } = house.open(<ServiceLevels />);
    await user.click(await found('Add a service level'));
    await user.type(field('Name'), 'Nothing');
    await user.click(press('Save the service level'));
    expect(await screen.findByText(/Give at least one priority a target\./)).toBeDefined();
    expect(house.told).toEqual([]);
  });
});
