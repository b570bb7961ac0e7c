// @vitest-environment jsdom
// A schedule's visits: what is asked of each is what is sent, what is refused stays typed, and what lapses is told.
import { cleanup, screen, within } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { changeSeries, readSeries, type SeriesVisit } from '#api/schedules.ts';
import { type TestHouse, dialogClosed, refusal, testHouse } from '../shell/testing.tsx';
import { SeriesOf } from './series.tsx';

const visit = (nominal: string, over: object = {}): SeriesVisit =>
  ({
    ...{ nominal, part: 1, planned: nominal, due: nominal, windowFrom: nominal, windowTo: nominal, raise: nominal },
    ...{ minutes: 90, crew: 1, changed: null, state: 'to come', orderId: null },
    ...over,
  }) as unknown as SeriesVisit;
const SERIES = {
  ...{ id: 7, version: 3, asset: { id: 9, tag: 'Q0107', model: 'ULF-720' }, agreement: { id: 4, name: 'AG-2004' } },
  ...{ customer: 'Alvorim', jobPlan: 'Quarterly care', sentence: 'Every other week on Tuesday', isSeries: true },
  ...{ today: '2026-11-24', turns: [], nothing: null, isDraft: false, ofLine: null },
  ...{ currency: 'EUR', terms: { visitPrice: 18_500 } },
  visits: [
    visit('2026-10-06', { state: 'done', orderId: 12 }),
    visit('2026-12-01'),
    visit('2026-12-15', { state: 'left out', changed: 'left out: closed' }),
  ],
};

let house: TestHouse;
beforeEach(() => {
  house = testHouse(Date.UTC(2026, 10, 24, 9, 20));
  house.answer(readSeries, () => SERIES);
});
afterEach(cleanup);
const rowOf = (day: RegExp): Promise<HTMLElement> => screen.findByRole('row', { name: day });
const press = (name: string): HTMLElement => screen.getByRole('button', { name });

describe('the visits of a schedule', () => {
  it('what is done is shown when asked for; only what is to come can be changed', async () => {
    const { user } = house.open(<SeriesOf id="7" />);
    expect(
      within(await rowOf(/1 Dec 2026/))
        .getAllByRole('button')
        .map((b) => b.textContent),
    ).toEqual(['move…', 'leave out…', 'from here on…']);
    expect(
      within(await rowOf(/left out: closed/))
        .getAllByRole('button')
        .map((b) => b.textContent),
    ).toEqual(['as the rule says']);
    expect(screen.queryByRole('row', { name: /6 Oct 2026/ })).toBeNull();
    await user.click(press('Show what is done'));
    expect(within(await rowOf(/6 Oct 2026/)).queryAllByRole('button')).toEqual([]);
  });

  it('a refused move keeps what was typed; done, it is sent with the version that was read', async () => {
    house.answer(changeSeries, () => refusal('change.to', 'Another visit of this schedule is planned for that day.'));
    const { user } = house.open(<SeriesOf id="7" />);
    await user.click(within(await rowOf(/1 Dec 2026/)).getByRole('button', { name: 'move…' }));
    const field = screen.getByLabelText('To');
    await user.clear(field);
    await user.type(field, '3 dec 2026');
    await user.click(press('Move the visit'));
    expect(await screen.findByText(/Another visit of this schedule is planned/)).toBeDefined();
    house.answer(changeSeries, () => ({ version: 4, lapsed: [] }));
    await user.click(press('Move the visit'));
    await dialogClosed();
    const change = { kind: 'move', nominal: '2026-12-01', to: '2026-12-03', agreed: false };
    expect(house.told.map((t) => t.body)).toEqual([
      { version: 3, change },
      { version: 3, change },
    ]);
  });

  it('from here on: another weekday, or an end with its reason; what lapses is told', async () => {
    house.answer(changeSeries, () => ({ version: 4, lapsed: ['2026-12-15'] }));
    const { user } = house.open(<SeriesOf id="7" />);
    await user.click(within(await rowOf(/1 Dec 2026/)).getByRole('button', { name: 'from here on…' }));
    await user.selectOptions(screen.getByLabelText('Weekday'), 'Thursday');
    await user.click(press('Change this and all later visits'));
    expect((await screen.findByRole('status')).textContent).toContain('1 change of later visits no longer applies');
    expect(house.told[0]?.body).toEqual({
      version: 3,
      change: { kind: 'from here on', turn: { kind: 'weekday', from: '2026-12-01', now: 4 } },
    });
    await user.click(within(await rowOf(/1 Dec 2026/)).getByRole('button', { name: 'from here on…' }));
    await user.click(screen.getByLabelText('no more visits'));
    await user.click(press('Change this and all later visits'));
    expect(await screen.findByText(/Say why\./)).toBeDefined();
    expect(house.told).toHaveLength(1);
  });
});
