// @vitest-environment jsdom
// Months of standing: closed by who may, with a reason where something is open; what was found since; and the correction of what was told.
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { correctOrder, previewCorrection, readClockHistory } from '#api/corrections.ts';
import { closeStandingMonth, readAdjustments, readStandingMonths } from '#api/standing-months.ts';
import { dialogClosed, refusal, testHouse, type TestHouse } from '../shell/testing.tsx';
import { ClockHistory } from './history.tsx';
import { MonthsRoom } from './months.tsx';

const NOW = Date.UTC(2026, 10, 24, 9, 20);
const month = (name: string, over: object = {}) => ({
  ...{ month: `2026-${name}-01`, met: 9, missed: 1, owed: 4, inWindow: 3, adjustments: 0 },
  ...{ closedAt: null, closedBy: null, reason: '' },
  ...over,
});
const CLOSED = {
  closedAt: NOW - 86_400_000 * 50,
  closedBy: 'Carmen Rioboo',
  reason: 'told the customers',
  adjustments: 1,
};
const FOUND = {
  ...{ id: 1, month: '2026-09-01', foundAt: NOW, thing: 'arrival', before: 'missed', after: 'met', orderId: 1421 },
  ...{ tag: 'Q0318', agreement: 'AG-2019', customer: 'Nudo Genomics' },
};

let house: TestHouse;
const begin = (role: 'manager' | 'coordinator', next: object | null): void => {
  house = testHouse(NOW, role);
  house.answer(readStandingMonths, () => ({ months: [month('10'), month('09', CLOSED)], next }));
  house.answer(readAdjustments, () => ({ items: [FOUND], isCut: false }));
};
afterEach(cleanup);

describe('months', () => {
  it('are closed with a reason where something is open; what is refused is said at its field', async () => {
    begin('manager', { month: '2026-10-01', whyNot: null, open: 2 });
    const sent: unknown[] = [];
    house.answer(closeStandingMonth, ({ body }) => {
      sent.push(body);
      return sent.length === 1 ? refusal('reason', 'Say why it is closed in spite of that.') : { done: true };
    });
    const { user } = house.open(<MonthsRoom />);
    await user.click(await screen.findByRole('button', { name: 'Close Oct 2026…' }));
    const dialog = within(await screen.findByRole('dialog', { name: 'Close Oct 2026' }));
    expect(dialog.getByText(/2 promises of it are past due and still open/)).toBeDefined();
    await user.click(dialog.getByRole('button', { name: 'Close Oct 2026' }));
    expect(await dialog.findByText(/✕ Say why it is closed in spite of that\./)).toBeDefined();
    await user.type(dialog.getByLabelText('Why it is closed in spite of that'), 'told them');
    await user.click(dialog.getByRole('button', { name: 'Close Oct 2026' }));
    await dialogClosed();
    expect(sent.at(-1)).toEqual({ month: '2026-10-01', reason: 'told them' });
  });

  it('that cannot be closed yet say why, and who may not close sees no button', async () => {
    begin('manager', { month: '2026-11-01', whyNot: 'Nov 2026 is not over everywhere.', open: 0 });
    house.open(<MonthsRoom />);
    expect((await screen.findByRole('button', { name: 'Close Nov 2026…' })).hasAttribute('disabled')).toBe(true);
    expect(screen.getByText('Nov 2026 is not over everywhere.')).toBeDefined();
    cleanup();
    begin('coordinator', { month: '2026-10-01', whyNot: null, open: 0 });
    house.open(<MonthsRoom />);
    await screen.findByRole('row', { name: /^Oct 2026/ });
    expect(screen.queryByRole('button', { name: /^Close/ })).toBeNull();
  });

  it('say who closed them, and what was found since, with the order it is of', async () => {
    begin('coordinator', null);
    house.open(<MonthsRoom />);
    expect((await screen.findByRole('row', { name: /^Sep 2026/ })).textContent).toContain(
      'by Carmen Rioboo told the customers1',
    );
    const found = within(await screen.findByRole('table', { name: 'Adjustments' }));
    expect(found.getByRole('link', { name: 'WO-11421' }).getAttribute('href')).toBe('/orders/1421/clocks');
    expect(found.getByRole('row', { name: /Q0318/ }).textContent).toContain('missedmet');
  });
});

describe('a correction', () => {
  const STEP = {
    ...{ id: 7, text: 'on site', who: 'Samir Haddou', at: NOW - 7_200_000, recordedAt: NOW - 600_000 },
    ...{ corrected: null, canCorrect: true },
    effects: [
      {
        ...{ target: 'arrival', tag: 'Q0318', before: { state: 'running', dueAt: NOW - 8_000_000, over: 0 } },
        after: { state: 'missed', dueAt: NOW - 8_000_000, over: 800_000 },
      },
    ],
  };
  const TAKEN_BACK = {
    ...STEP,
    id: 8,
    text: 'paused: no access',
    corrected: { to: null },
    canCorrect: false,
    effects: [],
  };
  const clockOf = (state: string) => ({
    ...{ orderId: 1421, assetId: 61, tag: 'Q0318', target: 'arrival', state, promisedMinutes: 240, warnPercent: 25 },
    ...{ measure: 'elapsed time', startedAt: NOW - 9_000_000, dueAt: NOW - 8_000_000, stoppedAt: NOW - 8_100_000 },
    ...{ left: 0, over: null, note: null, zone: 'Europe/Lisbon' },
  });
  let closed: string[];
  beforeEach(() => {
    closed = [];
  });
  const openHistory = (role: 'manager' | 'coordinator') => {
    house = testHouse(NOW, role);
    house.answer(readClockHistory, () => ({ now: NOW, zone: 'Europe/Lisbon', items: [STEP, TAKEN_BACK] }));
    house.answer(previewCorrection, () => ({
      clocksBefore: [clockOf('missed')],
      clocksAfter: [clockOf('met')],
      closedMonths: closed,
    }));
    return house.open(<ClockHistory id="1421" />);
  };

  it('shows what was told late and what it made of the clocks, and what it would make of them', async () => {
    const sent: unknown[] = [];
    const { user } = openHistory('coordinator');
    house.answer(correctOrder, ({ body }) => {
      sent.push(body);
      return { done: true };
    });
    expect((await screen.findByRole('row', { name: /On site/i })).textContent).toContain('1 h 50 min later');
    expect(screen.getByText(/missed by 13 min/)).toBeDefined();
    expect(screen.getByText('taken back')).toBeDefined();
    expect(screen.queryByRole('button', { name: 'Correct: paused: no access' })).toBeNull();
    await user.click(screen.getByRole('button', { name: 'Correct: on site' }));
    const dialog = within(await screen.findByRole('dialog', { name: 'Correct' }));
    expect(dialog.getByRole('button', { name: 'Correct it' }).hasAttribute('disabled')).toBe(true);
    await user.click(dialog.getByLabelText('It never happened'));
    expect(await dialog.findByText('Clocks then')).toBeDefined();
    await user.type(dialog.getByLabelText('Why'), 'another order');
    await user.click(dialog.getByRole('button', { name: 'Correct it' }));
    await dialogClosed();
    expect(sent).toMatchObject([{ eventId: 7, to: null, text: 'another order' }]);
  });

  it('of a closed month is offered to a manager only', async () => {
    closed = ['2026-10-01'];
    for (const role of ['coordinator', 'manager'] as const) {
      const { user } = openHistory(role);
      await user.click(await screen.findByRole('button', { name: 'Correct: on site' }));
      const dialog = within(await screen.findByRole('dialog', { name: 'Correct' }));
      await user.click(dialog.getByLabelText('It never happened'));
      await dialog.findByText(role === 'manager' ? /its figures stay/ : /a manager corrects it/);
      await waitFor(() =>
        expect(dialog.getByRole('button', { name: 'Correct it' }).hasAttribute('disabled')).toBe(
          role === 'coordinator',
        ),
      );
      cleanup();
    }
  });
});
