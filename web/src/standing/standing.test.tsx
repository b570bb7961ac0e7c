// @vitest-environment jsdom
// Standing: each figure with what stands behind it, over a period that is always said; nothing is called perfect that is not.
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import {
  readStanding,
  readStandingBefore,
  readStandingTotal,
  readStandingCourse,
  standingDetail,
  type StandingCourse,
  type StandingRow,
} from '#api/standing.ts';
import { readAdjustments } from '#api/standing-months.ts';
import type { LocalDate } from '#core/time/index.ts';
import { refusal, testHouse, type TestHouse } from '../shell/testing.tsx';
import { StandingRoom } from './standing.tsx';

const NOW = Date.UTC(2026, 10, 24, 9, 20);
const row = (id: number, over: Partial<StandingRow> = {}): StandingRow => ({
  ...{ id, label: 'Full care', detail: `AG-200${id}`, customer: 'Alvorim', met: 9, missed: 1, attainment: 0.9 },
  ...{ owed: 4, inWindow: 3, declined: 0, compliance: 0.75 },
  agreed: null,
  ...over,
});
const TOTAL = { met: 19_999, missed: 1, attainment: 19_999 / 20_000, owed: 8, inWindow: 8, declined: 0, compliance: 1 };
const BEFORE = { ...TOTAL, from: '2026-05-24', to: '2026-08-23', attainment: 0.9 };
const COURSE: StandingCourse = {
  months: [
    { month: '2026-10-01' as LocalDate, isClosed: true, ...TOTAL },
    { month: '2026-11-01' as LocalDate, isClosed: false, ...TOTAL, met: 0, missed: 0, attainment: null },
  ],
  causes: [
    { cause: 'came late', target: 'arrival', priority: 1, missed: 2 },
    { cause: null, target: 'restoration', priority: 2, missed: 1 },
    { cause: 'came late', target: 'restoration', priority: 1, missed: 3 },
  ],
};
const CLOCK = {
  ...{ orderId: 1012, assetId: 61, tag: 'Q0104', target: 'response', state: 'missed', promisedMinutes: 30 },
  ...{ warnPercent: 25, measure: 'elapsed time', startedAt: NOW - 7_200_000, dueAt: NOW - 5_400_000 },
  ...{ stoppedAt: NOW - 3_600_000, left: null, over: 1_800_000, note: null, zone: 'Europe/Lisbon' },
};
const VISIT = {
  ...{ scheduleId: 5, label: 'Quarterly care', nominal: '2026-11-03', due: '2026-11-03', windowFrom: '2026-10-29' },
  ...{ windowTo: '2026-11-10', completedOn: '2026-11-12', state: 'outside window', orderId: 1013 },
};
const PLEDGE = {
  ...{ serviceLevel: 'Cold storage', attainment: 0.9, tiers: [{ below: 9500, credit: 500 }], cap: 1000, credit: 500 },
  ...{ fee: 250_000, amount: 12_500, currency: 'EUR', availability: null },
  upkeep: { target: 9500, share: 0.9 },
  forecast: { toCome: 12, next: { below: 9000, credit: 1000, misses: 2 } },
};

let house: TestHouse;
let asked: URLSearchParams[];
beforeEach(() => {
  asked = [];
  house = testHouse(NOW, 'manager');
  house.answer(readStanding, ({ query }) => {
    asked.push(query);
    const first = query.get('after') === null;
    return {
      items: first ? [row(1), row(2, { met: 0, missed: 0, attainment: null, compliance: null, owed: 0 })] : [row(3)],
      ...{
        total: TOTAL,
        next: first ? '0-2' : null,
        from: query.get('from'),
        to: query.get('to'),
        now: NOW,
      },
    };
  });
  house.answer(standingDetail, () => ({ clocks: [CLOCK], visits: [VISIT], onlyAmiss: false, pledges: [PLEDGE] }));
  house.answer(readStandingTotal, () => ({ total: TOTAL, before: BEFORE }));
  house.answer(readStandingBefore, () => ({ attainment: { 1: 0.95 } }));
  house.answer(readStandingCourse, () => COURSE);
  house.answer(readAdjustments, () => ({ items: [], isCut: false }));
});
afterEach(cleanup);
const press = (name: string | RegExp): HTMLElement => screen.getByRole('button', { name });
const period = (n = -1): (string | null | undefined)[] => [asked.at(n)?.get('from'), asked.at(n)?.get('to')];

describe('standing', () => {
  it('is of the last three months until told otherwise, and one miss in twenty thousand is not all', async () => {
    house.open(<StandingRoom />);
    expect(await screen.findByText('promises met, 19999 of 20000')).toBeDefined();
    expect(period()).toEqual(['2026-08-24', '2026-11-23']);
    expect(screen.getByText('99.9 %')).toBeDefined();
    expect(screen.getByText('100 %')).toBeDefined();
  });

  it('tells why promises were missed, the most first, and what was still open', async () => {
    house.open(<StandingRoom />);
    const causes = within(await screen.findByRole('region', { name: 'Why promises were missed' }));
    expect(causes.getAllByRole('row').map((r) => r.textContent)).toEqual([
      '5came late restoration 3, arrival 2',
      '1not done yet restoration 1',
    ]);
    expect(await screen.findByText('+10.0 points')).toBeDefined();
    expect(screen.getByText('−5.0')).toBeDefined();
  });

  it('says where no promise fell due instead of a share', async () => {
    house.open(<StandingRoom />);
    const empty = await screen.findByRole('row', { name: /AG-2002/ });
    expect(within(empty).getByText('no promise fell due')).toBeDefined();
    expect(within(empty).queryByText(/%/)).toBeNull();
  });

  it('unfolds to the clocks, visits and pledges behind a figure, the late ones marked', async () => {
    const { user } = house.open(<StandingRoom />);
    await user.click(await screen.findByRole('button', { name: 'Unfold AG-2001' }));
    expect(await screen.findByRole('heading', { name: 'Clocks, 9 met and 1 missed' })).toBeDefined();
    expect(screen.getByRole('link', { name: 'WO-11012' }).getAttribute('href')).toBe('/orders/1012/clocks');
    expect(screen.getByText(/✕ outside window, done Thu 12 Nov 2026/)).toBeDefined();
    const pledged = within(screen.getByRole('region', { name: 'What was pledged' }));
    expect(pledged.getByText('EUR 125.00')).toBeDefined();
    expect(pledged.getByText(/5 % of the fee for the period, 2,500\.00/)).toBeDefined();
    expect(pledged.getByText('none agreed')).toBeDefined();
    expect(pledged.getByText(/✕ 90/)).toBeDefined();
    expect(pledged.getByText('2 more misses of some 12 to come cost 10 %')).toBeDefined();
  });

  it('of another period is asked for by a button, typed days or by asset, from the first page again', async () => {
    const { user } = house.open(<StandingRoom />);
    await user.click(await screen.findByRole('button', { name: 'Next' }));
    expect(await screen.findByRole('row', { name: /AG-2003/ })).toBeDefined();
    await user.click(press('this year'));
    await waitFor(() => expect(period()).toEqual(['2026-01-01', '2026-12-31']));
    expect(asked.at(-1)?.get('after')).toBeNull();
    await user.selectOptions(screen.getByLabelText('For each'), 'asset');
    await waitFor(() => expect(asked.at(-1)?.get('by')).toBe('asset'));
    expect(period()).toEqual(['2026-01-01', '2026-12-31']);
    const from = screen.getByLabelText(/^From/);
    await user.clear(from);
    await user.type(from, '1 mar');
    await user.tab();
    await waitFor(() => expect(period()).toEqual(['2026-03-01', '2026-12-31']));
    expect((await screen.findByRole('link', { name: 'CSV' })).getAttribute('href')).toBe(
      '/api/standing.csv?from=2026-03-01&to=2026-12-31&by=asset',
    );
  });

  it('asks nothing of the server while a day cannot be read, and says how it is written', async () => {
    const { user } = house.open(<StandingRoom />);
    await screen.findByText('99.9 %');
    const from = screen.getByLabelText(/^From/);
    await user.clear(from);
    await user.type(from, 'soon');
    await user.tab();
    expect(await screen.findByText(/Write it as 17 Mar 2026 or 17.3.2026\./)).toBeDefined();
    expect(asked.some((q) => q.get('from') === 'soon')).toBe(false);
  });

  it('of a period in which nothing fell due says so, and a refusal is said as it is', async () => {
    house.answer(readStanding, ({ query }) => ({
      ...{ items: [], next: null, from: query.get('from'), to: query.get('to'), now: NOW },
    }));
    const { user } = house.open(<StandingRoom />);
    expect(await screen.findByText(/Nothing fell due from Mon 24 Aug 2026 to Mon 23 Nov 2026\./)).toBeDefined();
    house.answer(readStanding, () => refusal('to', 'A period is at most three years long.'));
    await user.click(press('this year'));
    expect((await screen.findByRole('alert')).textContent).toContain('A period is at most three years long.');
  });
});
