// @vitest-environment jsdom
// Clocks at work: who is due next, who was warned, who sees to it; handed over and answered where it stands.
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { acknowledgeWarnings, handOver, readClocksAtWork, type ClockAtWork } from '#api/clocks.ts';
import { readReference } from '#api/setup.ts';
import { dialogClosed, refusal, testHouse, type TestHouse } from '../shell/testing.tsx';
import { ClocksAtWorkRoom } from './at-work.tsx';

const NOW = Date.UTC(2026, 10, 24, 9, 20);
const MINUTE = 60_000;
const item = (orderId: number, over: object = {}, clock: object = {}): ClockAtWork =>
  ({
    clock: {
      ...{ orderId, assetId: 61, tag: 'Q0222', target: 'response', state: 'running', promisedMinutes: 30, over: null },
      ...{ warnPercent: 25, measure: 'elapsed time', startedAt: NOW - 25 * MINUTE, dueAt: NOW + 5 * MINUTE },
      ...{ stoppedAt: null, left: 5 * MINUTE, note: null, zone: 'Europe/Lisbon', ...clock },
    },
    ...{ margin: 'short', title: 'Chamber too warm', priority: 1, stage: 'raised', customer: 'Horta Nova Biobank' },
    ...{ place: 'Horta Nova · Cold room', technician: null, inCharge: null, pausedSince: null, warnings: [] },
    ...over,
  }) as unknown as ClockAtWork;
const WARNED = [
  { percent: 50, at: NOW - 10 * MINUTE, told: [], acknowledged: null },
  { percent: 25, at: NOW - 3 * MINUTE, told: ['Inês Teixeira', 'Mateo Larrazabal'], acknowledged: null },
];
const COUNTS = { missed: 0, short: 1, enough: 0, paused: 1 };

let house: TestHouse;
let asked: URLSearchParams[];
beforeEach(() => {
  asked = [];
  house = testHouse(NOW);
  house.answer(readReference, () => ({
    people: [
      { id: 7, name: 'Inês Teixeira' },
      { id: 9, name: 'Mateo Larrazabal' },
    ],
    priorities: ['down', 'poor', 'can wait', 'any time'],
  }));
  house.answer(readClocksAtWork, ({ query }) => {
    asked.push(query);
    const isGrouped = query.get('by') === 'customer';
    return {
      ...{ now: NOW, counts: COUNTS, next: null },
      groups: isGrouped ? [{ key: '4', name: 'Horta Nova Biobank', firstDue: NOW, ...COUNTS }] : [],
      items: [
        item(1460, { warnings: WARNED }),
        item(
          1452,
          { margin: 'paused', inCharge: { id: 9, name: 'Mateo Larrazabal' }, pausedSince: NOW - 90 * MINUTE },
          {
            ...{ state: 'paused', dueAt: null, note: 'paused: no access', left: 10 * MINUTE, target: 'restoration' },
          },
        ),
      ],
    };
  });
});
afterEach(cleanup);
const row = async (number: string) => within((await screen.findByText(number)).closest('tr') as HTMLElement);

it('says what is left and of what, who was told, and what stands still for how long', async () => {
  house.open(<ClocksAtWorkRoom />);
  const due = await row('WO-11460');
  expect(due.getByText('5 min of 30 min left')).toBeDefined();
  expect(due.getByText(/at 25 %: Inês Teixeira, Mateo Larrazabal/)).toBeDefined();
  expect(due.getByText(/unanswered/)).toBeDefined();
  expect(due.getByText('nobody in particular')).toBeDefined();
  const waits = await row('WO-11452');
  expect(waits.getByText('paused: no access, 10 min of 30 min left')).toBeDefined();
  expect(waits.getByText('stands still for 1 h 30 min')).toBeDefined();
  expect(waits.queryByRole('button', { name: 'I see to it' })).toBeNull();
});

it('a warning is answered where it stands', async () => {
  house.answer(acknowledgeWarnings, () => ({ acknowledged: 2 }));
  const { user } = house.open(<ClocksAtWorkRoom />);
  await user.click((await row('WO-11460')).getByRole('button', { name: 'I see to it' }));
  await waitFor(() => expect(house.told.map((t) => t.path)).toEqual(['/api/orders/1460/warnings/acknowledge']));
});

it('is handed over to one of the house; what is refused stands at its field and keeps what was typed', async () => {
  const { user } = house.open(<ClocksAtWorkRoom />);
  await user.click((await row('WO-11452')).getByRole('button', { name: 'Hand over…' }));
  const dialog = within(await screen.findByRole('dialog'));
  expect(dialog.getByText(/Mateo Larrazabal has it in hand now/)).toBeDefined();
  // Nobody was chosen: nothing is sent.
  await user.click(dialog.getByRole('button', { name: 'Hand it over' }));
  expect(await dialog.findByText(/✕ Choose one of those offered/)).toBeDefined();
  expect(house.told).toEqual([]);
  house.answer(handOver, () => refusal('personId', 'Inês Teixeira has it in hand already; choose somebody else.'));
  await user.type(dialog.getByRole('combobox', { name: 'Hand it to' }), 'inês');
  await user.click(await screen.findByRole('option', { name: /Inês Teixeira/ }));
  await user.type(dialog.getByLabelText('What they need to know (may stay empty)'), 'key at the gate');
  await user.click(dialog.getByRole('button', { name: 'Hand it over' }));
  expect(await dialog.findByText(/✕ Inês Teixeira has it in hand already/)).toBeDefined();
  expect(dialog.getByLabelText('What they need to know (may stay empty)')).toHaveProperty('value', 'key at the gate');
  house.answer(handOver, () => ({ done: true }));
  await user.click(dialog.getByRole('button', { name: 'Hand it over' }));
  await dialogClosed();
  expect(house.told.at(-1)).toMatchObject({
    path: '/api/orders/1452/hand-over',
    body: { personId: 7, text: 'key at the gate' },
  });
});

it('is put together as wanted, one group alone, and told apart by margin and hand', async () => {
  const { user } = house.open(<ClocksAtWorkRoom />);
  await row('WO-11460');
  await user.selectOptions(screen.getByLabelText('Put together'), 'by customer');
  await user.click(await screen.findByRole('button', { name: 'Horta Nova Biobank' }));
  await waitFor(() => expect(Object.fromEntries(asked.at(-1) ?? [])).toMatchObject({ by: 'customer', of: '4' }));
  await user.selectOptions(screen.getByLabelText('Margin'), 'running short');
  await user.click(screen.getByLabelText('what I have in hand'));
  await waitFor(() =>
    expect(Object.fromEntries(asked.at(-1) ?? [])).toMatchObject({
      by: 'customer',
      of: '4',
      margin: 'short',
      mine: 'yes',
    }),
  );
  // Other groups are another question.
  await user.selectOptions(screen.getByLabelText('Put together'), 'as one list');
  await waitFor(() => expect(asked.at(-1)?.get('of')).toBeNull());
});
