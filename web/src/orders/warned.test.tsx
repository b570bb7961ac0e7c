// @vitest-environment jsdom
// Who was warned, with the order: what is said of each step, and the answer where it may be given.
import { cleanup, screen } from '@testing-library/react';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { acknowledgeWarnings, readWarnings } from '#api/clocks.ts';
import { refusal, testHouse, type TestHouse } from '../shell/testing.tsx';
import { WarnedOfOrder } from './warned.tsx';

const NOW = Date.UTC(2026, 10, 24, 9, 20);
const STEP = {
  ...{ percent: 25, at: NOW - 300_000, told: ['Inês Teixeira', 'Duarte Moura'], acknowledged: null },
  ...{ target: 'restoration', tag: 'Q0318' },
};
const order = (lines: number) => ({ id: 7, lines: Array.from({ length: lines }, () => ({})) }) as never;

let house: TestHouse;
let answered: object;
let pressed: number;
beforeEach(() => {
  [answered, pressed] = [{ items: [STEP], mayAnswer: true, now: NOW }, 0];
  house = testHouse(NOW, 'technician');
  house.answer(readWarnings, () => answered);
  house.answer(acknowledgeWarnings, () => {
    pressed += 1;
    answered = { items: [{ ...STEP, acknowledged: { at: NOW, by: 'Duarte Moura' } }], mayAnswer: false, now: NOW };
    return { acknowledged: 1 };
  });
});
afterEach(cleanup);

it('says whom and when, and who sees to it once somebody answered', async () => {
  const { user } = house.open(<WarnedOfOrder order={order(1)} />);
  expect((await screen.findByRole('listitem')).textContent).toBe(
    'restoration at 25 %: Inês Teixeira, Duarte Moura warned 09:15, unanswered',
  );
  await user.click(screen.getByRole('button', { name: 'I see to it' }));
  expect(await screen.findByText('Duarte Moura sees to it')).toBeDefined();
  expect(screen.queryByRole('button')).toBeNull();
  expect(pressed).toBe(1);
});

it('names the machine where there are several, and leaves out steps that a later one spoke for', async () => {
  answered = {
    items: [
      { ...STEP, percent: 50, told: [] },
      { ...STEP, percent: 0 },
    ],
    mayAnswer: false,
    now: NOW,
  };
  house.open(<WarnedOfOrder order={order(2)} />);
  expect((await screen.findAllByRole('listitem')).map((li) => li.textContent)).toEqual([
    'restoration of Q0318 missed: Inês Teixeira, Duarte Moura warned 09:15, unanswered',
  ]);
  expect(screen.queryByRole('button')).toBeNull();
});

it('keeps the answer to be given again where it was refused', async () => {
  house.answer(acknowledgeWarnings, () => refusal('', 'Whoever was warned says that they see to it.'));
  const { user } = house.open(<WarnedOfOrder order={order(1)} />);
  await user.click(await screen.findByRole('button', { name: 'I see to it' }));
  expect(await screen.findByText(/Whoever was warned says/)).toBeDefined();
  expect(screen.getByRole('button', { name: 'I see to it' })).toBeDefined();
});
