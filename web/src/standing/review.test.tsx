// @vitest-environment jsdom
// The review of an agreement: proposals with their reasons first, money only where it was sent, and every period that is asked for.
import { cleanup, screen, within } from '@testing-library/react';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { readReview } from '#api/review.ts';
import { testHouse, type TestHouse } from '../shell/testing.tsx';
import { ReviewOf } from './review.tsx';

const NOW = Date.UTC(2026, 10, 24, 9, 20);
const FIGURES = { met: 9, missed: 4, attainment: 9 / 13, owed: 7, inWindow: 5, declined: 0, compliance: 5 / 7 };
const PAGE = {
  ...{ id: 21, number: 'AG-2021', name: 'Full care', customer: { id: 4, name: 'Ostra Diagnostics' }, currency: 'EUR' },
  ...{ from: '2025-11-24', to: '2026-11-23', now: NOW },
  ...{ termFrom: '2026-01-01', termTo: '2026-12-31', noticeBy: '2026-11-16', total: FIGURES, pledges: [], machines: 4 },
  before: { from: '2024-11-24', to: '2025-11-23', ...FIGURES, met: 0, missed: 0, attainment: null },
  ...{ months: [], causes: [{ cause: 'came late', target: 'arrival', priority: 1, missed: 2 }] },
  money: { earned: 100_000, cost: 130_000 },
  troubled: [
    {
      ...{ id: 329, tag: 'Q0329', model: 'PLF-410', place: 'Ostra · Store 1', commissioned: '2014-03-02', failures: 2 },
      ...{ repeats: 1, downMinutes: 300, cost: 90_000, earned: 25_000 },
    },
  ],
  proposals: [
    { kind: 'reprice', machine: null, because: 'it ends on Thu 31 Dec 2026; it cost 130 % of its fees' },
    { kind: 'retire', machine: { id: 329, tag: 'Q0329' }, because: 'it was down twice, is 12 years old' },
  ],
};

let house: TestHouse;
let sent: object;
let asked: URLSearchParams[];
beforeEach(() => {
  [sent, asked] = [PAGE, []];
  house = testHouse(NOW, 'manager');
  house.answer(readReview, ({ query }) => {
    asked.push(query);
    return sent;
  });
});
afterEach(cleanup);

it('says first what the figures speak for, each with its reason', async () => {
  house.open(<ReviewOf id="21" />);
  const proposals = within(await screen.findByRole('region', { name: 'Proposals' }));
  expect(proposals.getAllByRole('listitem').map((li) => li.textContent)).toEqual([
    'Price it anew: it ends on Thu 31 Dec 2026; it cost 130 % of its fees.',
    'Retire Q0329: it was down twice, is 12 years old.',
  ]);
  expect(within(screen.getByRole('region', { name: 'Cost' })).getByText('EUR 300.00')).toBeDefined();
  expect(screen.getByText('no promise fell due')).toBeDefined();
  // A year up to yesterday, unless another is asked for.
  expect(asked.map((q) => Object.fromEntries(q))).toEqual([{ from: '2025-11-24', to: '2026-11-23' }]);
});

it('has no money for whom none was sent, and says so where nothing speaks for a change', async () => {
  sent = { ...PAGE, money: null, proposals: [], troubled: [{ ...PAGE.troubled[0], cost: null, earned: null }] };
  house.open(<ReviewOf id="21" />);
  expect(await screen.findByText(/speak for going on as it is/)).toBeDefined();
  expect(screen.queryByText(/EUR/)).toBeNull();
  expect(screen.queryByText('Share of fees')).toBeNull();
  expect(screen.getByText('Q0329')).toBeDefined();
});

it('is asked for another period, and printed', async () => {
  const print = vi.fn();
  vi.stubGlobal('print', print);
  const { user } = house.open(<ReviewOf id="21" />);
  await screen.findByRole('region', { name: 'Proposals' });
  await user.click(screen.getByRole('button', { name: 'last month' }));
  await vi.waitFor(() =>
    expect(Object.fromEntries(asked.at(-1) ?? [])).toEqual({ from: '2026-10-01', to: '2026-10-31' }),
  );
  await user.click(screen.getByRole('button', { name: 'Print' }));
  expect(print).toHaveBeenCalledOnce();
});
