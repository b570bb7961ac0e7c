// @vitest-environment jsdom
// The matrix of a whole place: what is scheduled and suggested, ticked and given rules, looked at before it is made.
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { readCustomer } from '#api/customers.ts';
import { previewFacility, readFacility, setFacility } from '#api/facility.ts';
import { readTree } from '#api/places.ts';
import { readReference } from '#api/setup.ts';
import { refusal, testHouse, type TestHouse } from '../shell/testing.tsx';
import { FacilityRoom } from './facility/facility.tsx';

const NOW = Date.UTC(2026, 10, 24, 9, 20);
const machine = (assetId: number, over: object = {}) => ({
  ...{ assetId, tag: `Q${assetId}`, model: 'INC-240', className: 'Incubator', customerId: 2, place: 'Room K1' },
  ...{ agreementIds: [4], suggested: [7, 8], schedules: [] },
  ...over,
});
const FACILITY = {
  place: { id: 19, name: 'Molinho Incubator' },
  join: { days: 7, from: 'Molinho Incubator' },
  today: '2026-11-24',
  agreements: [
    { id: 4, number: 'AG-2018', name: 'Care', stage: 'in force', customer: { id: 2, name: 'Kelvara' } },
    { id: 5, number: 'AG-2020', name: 'Offer', stage: 'draft', customer: { id: 2, name: 'Kelvara' } },
  ],
  machines: [
    machine(316, {
      schedules: [
        {
          jobPlanId: 7,
          scheduleId: 91,
          agreementId: 4,
          sentence: '12 months after the last one',
          nextDue: '2027-01-04',
        },
      ],
    }),
    machine(317, { agreementIds: [4, 5] }),
    machine(318, { agreementIds: [] }),
  ],
};
const OUTCOME = {
  ...{ schedules: 3, visits: 12, orders: 5 },
  months: [{ month: '2027-02', visits: 3, orders: 1, minutes: 135 }],
  nothing: [{ tag: 'Q317', jobPlanId: 8, reason: 'The rule fires after the term ends.' }],
};

let house: TestHouse;
beforeEach(() => {
  house = testHouse(NOW);
  house.answer(readFacility, () => FACILITY);
  house.answer(readCustomer, () => ({ id: 2, name: 'Kelvara' }));
  house.answer(readTree, () => ({ nodes: [] }));
  house.answer(previewFacility, () => OUTCOME);
  house.answer(setFacility, () => ({ added: 3 }));
  house.answer(readReference, () => ({
    calendars: [],
    jobPlans: [
      { id: 7, name: 'Incubator yearly', minutes: 60, tasks: [] },
      { id: 8, name: 'Gas calibration', minutes: 45, tasks: [] },
      { id: 9, name: 'Door seal', minutes: 20, tasks: [] },
    ],
  }));
});
afterEach(cleanup);

const open = async () => {
  const { user } = house.open(<FacilityRoom />, '?customer=2&place=19');
  await screen.findByRole('region', { name: 'Incubator' });
  return user;
};
const button = (name: string | RegExp): HTMLElement => screen.getByRole('button', { name });
type Sent = {
  placeId: number;
  sets: { jobPlanId: number; agreementId: number; assetIds: number[]; cadence: object }[];
};
const made = (): Sent => house.told.filter((t) => t.path === setFacility.path).at(-1)?.body as Sent;

describe('a whole place', () => {
  it('shows what is scheduled, what is suggested, and what no agreement covers', async () => {
    await open();
    const [, first, second, third] = screen.getAllByRole('row');
    expect(within(first as HTMLElement).getByRole('link', { name: '12 months after the last one' })).toBeDefined();
    expect(within(second as HTMLElement).getAllByText('suggested')).toHaveLength(2);
    expect(within(third as HTMLElement).getAllByText('not covered')).toHaveLength(2);
    expect(screen.getByText(/1 machine no agreement covers/)).toBeDefined();
    expect(screen.getByText(/within 7 days of each other make one order/)).toBeDefined();
  });

  it('ticks all of a column that can be, says what it comes to, and makes it in one act', async () => {
    const user = await open();
    await user.click(button('tick all 2'));
    await user.click(button('tick the one'));
    await user.click(screen.getByRole('checkbox', { name: /^Incubator yearly for Q317/ }));
    expect(await screen.findByText(/with 12 visits in the\s+coming year, in 5 orders/)).toBeDefined();
    expect(screen.getByText(/Gas calibration for Q317 yields no visit\. The rule fires after/)).toBeDefined();
    await user.click(button('Make 2 schedules'));
    expect(await screen.findByText(/3 schedules made/)).toBeDefined();
    expect(made().sets.map((s) => [s.jobPlanId, s.agreementId, s.assetIds])).toEqual([[8, 4, [316, 317]]]);
    expect(screen.getByText(/Tick what is to be scheduled/)).toBeDefined();
  });

  it('gives a column its rule in words, one machine another, and another agreement where several cover it', async () => {
    const user = await open();
    await user.click(button('tick all 2'));
    const rule = screen.getByLabelText('How often, Gas calibration');
    await user.clear(rule);
    await user.type(rule, '25th of every month');
    await user.click(screen.getAllByRole('button', { name: 'another rule…' })[0] as HTMLElement);
    const own = screen.getByLabelText('How often, Q316');
    await user.clear(own);
    await user.type(own, 'alternate Tuesdays');
    await user.selectOptions(screen.getByLabelText('Agreement of Q317'), '5');
    await user.click(button('Make 2 schedules'));
    await waitFor(() => expect(made()).toBeDefined());
    expect(made().sets.map((s) => [s.agreementId, s.assetIds, s.cadence])).toEqual([
      [4, [316], { kind: 'rule', rule: 'FREQ=WEEKLY;INTERVAL=2;BYDAY=TU' }],
      [5, [317], { kind: 'rule', rule: 'FREQ=MONTHLY;BYMONTHDAY=25' }],
    ]);
  });

  it('adds a job plan that nothing suggests; what is refused is said, and what is ticked stays', async () => {
    house.answer(setFacility, () => refusal('sets.0.assetIds', 'Q317 has a schedule of this job plan already.'));
    const user = await open();
    await user.selectOptions(screen.getByLabelText('Add a job plan to Incubator'), '9');
    await user.click(screen.getByRole('checkbox', { name: 'Door seal for Q317' }));
    await user.click(button('Make 1 schedule'));
    expect(await screen.findByText(/has a schedule of this job plan already/)).toBeDefined();
    expect(screen.getByRole<HTMLInputElement>('checkbox', { name: 'Door seal for Q317' }).checked).toBe(true);
  });

  it('that cannot be previewed says why, and is not made', async () => {
    house.answer(previewFacility, () => refusal('sets.0.cadence.rule', 'Interval 0 never comes; write 1 or more.'));
    const user = await open();
    await user.click(button('tick the one'));
    expect(await screen.findByText(/Interval 0 never comes/)).toBeDefined();
    expect(button('Make 1 schedule').hasAttribute('disabled')).toBe(true);
  });

  it('is only looked at by those who may not write', async () => {
    house = testHouse(NOW, 'dispatcher');
    house.answer(readFacility, () => FACILITY);
    house.answer(readCustomer, () => ({ id: 2, name: 'Kelvara' }));
    house.answer(readTree, () => ({ nodes: [] }));
    house.answer(readReference, () => ({ calendars: [], jobPlans: [] }));
    await open();
    expect(screen.queryByRole('checkbox')).toBeNull();
    expect(screen.queryByText(/Tick what is to be scheduled/)).toBeNull();
  });
});
