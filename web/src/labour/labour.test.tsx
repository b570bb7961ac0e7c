// @vitest-environment jsdom
// Hours on screen: what is typed is sent as minutes of the day, refusals stand at their field, and the week says what it leaves open.
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import {
  actOnSheet,
  addEntry,
  addRateCard,
  changeEntry,
  counterEntry,
  findLines,
  listSheets,
  readRates,
  readWeek,
  type EntryOut,
  type WeekSheet,
} from '#api/labour.ts';
import { readMonth } from '#api/labour-month.ts';
import { readReference } from '#api/setup.ts';
import { type TestHouse, dialogClosed, refusal, testHouse } from '../shell/testing.tsx';
import { EntryDialog } from './entry-dialog.tsx';
import { MonthRoom } from './month.tsx';
import { HoursRoom } from './hours.tsx';
import { Rates } from './rates.tsx';

const NOW = Date.UTC(2026, 10, 24, 9, 20, 30);
const LINES = [31, 32].map((lineId) => ({
  ...{ lineId, orderId: lineId + 100, title: 'Fan noisy', tag: `Q0${lineId}`, customer: 'Norvela' },
}));
const ENTRY: EntryOut = {
  ...{
    id: 5,
    version: 2,
    day: '2026-11-23' as never,
    kind: 'work',
    from: 540,
    to: 660,
    minutes: 120,
    hours: null,
    kilometres: 0,
  },
  span: { from: Date.UTC(2026, 10, 23, 9) as never, to: Date.UTC(2026, 10, 23, 11) as never },
  ...{ text: 'compressor', overlapReason: null, counters: null, counteredBy: null, reason: null },
  lines: [{ lineId: 31, orderId: 131, title: 'Fan noisy', tag: 'Q031', minutes: 120, share: 1 }],
  byHours: [{ hours: 'normal', minutes: 120 }],
};
const day = (n: number) => `2026-11-${23 + n}` as never;
const WEEK: WeekSheet = {
  ...{ person: { id: 21, name: 'Ilse Verhagen' }, craft: 'Technician', zone: 'Europe/Lisbon', calendar: 'Ribeira' },
  ...{ week: day(0), today: day(1), state: 'open', reason: null, by: null, overlaps: [], entries: [ENTRY] },
  days: Array.from({ length: 7 }, (_, i) => ({
    ...{ day: day(i), open: i < 5 ? 540 : 0, entered: i === 0 ? 120 : 0, overtime: 0 },
    gapMinutes: i === 0 ? 420 : i < 5 ? 540 : 0,
    gaps: i === 0 ? [{ from: Date.UTC(2026, 10, 23, 11) as never, to: Date.UTC(2026, 10, 23, 18) as never }] : [],
  })),
};

let house: TestHouse;
let week: WeekSheet;
beforeEach(() => {
  week = WEEK;
  house = testHouse(NOW);
  house.answer(findLines, () => ({ items: LINES, more: false }));
  house.answer(addEntry, () => ({ id: 9 }));
  house.answer(readWeek, () => week);
  house.answer(listSheets, () => ({ week: day(0), items: [] }));
});
afterEach(cleanup);

const press = (name: string | RegExp): HTMLElement => screen.getByRole('button', { name });
const field = (label: string | RegExp): HTMLInputElement => screen.getByLabelText(label);
const sent = () => house.told.at(-1)?.body;

describe('entering time', () => {
  const open = (onClose = () => undefined) =>
    house.open(<EntryDialog personId={21} day="2026-11-23" entry={null} onClose={onClose} />).user;
  const choose = async (user: ReturnType<typeof open>, label: RegExp, name: RegExp) => {
    await user.click(await screen.findByRole('combobox', { name: label }));
    await user.click(await screen.findByRole('option', { name }));
  };

  it('takes times as they are typed, for an order that was found', async () => {
    const user = open();
    await user.type(await screen.findByLabelText('From'), '9');
    await user.type(field('To'), '1130');
    await choose(user, /^For the order/, /WO-10131/);
    await user.click(press('Enter time'));
    await waitFor(() => expect(house.told).toHaveLength(1));
    expect(sent()).toMatchObject({ personId: 21, day: '2026-11-23', kind: 'work', from: 540, to: 690, minutes: null });
    expect(sent()).toMatchObject({ lines: [{ lineId: 31, share: 1 }] });
  });

  it('takes a sum in hours, over several orders with their shares', async () => {
    const user = open();
    await user.type(await screen.findByLabelText(/sum, h/), '2.5');
    await user.selectOptions(field('Hours'), 'night');
    await choose(user, /^For the order/, /WO-10131/);
    await choose(user, /^And for the order/, /WO-10132/);
    const [first] = screen.getAllByLabelText<HTMLInputElement>('Share');
    await user.clear(first as HTMLInputElement);
    await user.type(first as HTMLInputElement, '3');
    await user.click(press('Enter time'));
    await waitFor(() => expect(house.told).toHaveLength(1));
    expect(sent()).toMatchObject({ minutes: 150, hours: 'night', from: null, to: null });
    expect((sent() as { lines: object[] }).lines).toEqual([
      { lineId: 31, share: 3 },
      { lineId: 32, share: 1 },
    ]);
  });

  it('without an order, or with a time that is none, is not sent', async () => {
    const user = open();
    await user.type(await screen.findByLabelText('From'), 'noon');
    await user.click(press('Enter time'));
    expect(await screen.findByText(/Choose the order it was for/)).toBeDefined();
    expect(screen.getByText(/A time such as 07:30/)).toBeDefined();
    expect(house.told).toEqual([]);
  });

  it('that overlaps asks why both stand, and loses nothing typed', async () => {
    house.answer(addEntry, ({ body }) =>
      (body as { overlapReason: string | null }).overlapReason
        ? { id: 9 }
        : refusal('overlapReason', 'From 09:00 to 10:00 is entered already.', { status: 409 }),
    );
    const user = open();
    await user.type(await screen.findByLabelText('From'), '9');
    await user.type(field('To'), '10');
    await user.type(field(/What was done/), 'second machine');
    await choose(user, /^For the order/, /WO-10131/);
    await user.click(press('Enter time'));
    const why = await screen.findByLabelText('Why both stand');
    expect(screen.getByText(/is entered already/)).toBeDefined();
    await user.type(why, 'both in one room');
    await user.click(press('Enter time'));
    await waitFor(() => expect(house.told).toHaveLength(2));
    expect(sent()).toMatchObject({ overlapReason: 'both in one room', text: 'second machine', from: 540, to: 600 });
  });

  it('changes an entry under the version that was read', async () => {
    house.answer(changeEntry, () => ({ done: true }));
    const { user } = house.open(<EntryDialog personId={21} day="2026-11-23" entry={ENTRY} onClose={() => undefined} />);
    const to = await screen.findByLabelText<HTMLInputElement>('To');
    expect(to.value).toBe('11:00');
    await user.clear(to);
    await user.type(to, '11:30');
    await user.click(press('Change the entry'));
    await waitFor(() => expect(house.told).toHaveLength(1));
    expect(house.told[0]?.path).toBe('/api/time/5');
    expect(sent()).toMatchObject({
      version: 2,
      from: 540,
      to: 690,
      text: 'compressor',
      lines: [{ lineId: 31, share: 1 }],
    });
  });
});

describe('a week', () => {
  it('has orders as rows, and says what of the open time is left', async () => {
    house.open(<HoursRoom />);
    const row = await screen.findByRole('row', { name: /WO-10131 Fan noisy Q031/ });
    expect(
      within(row)
        .getAllByRole('cell')
        .map((c) => c.textContent),
    ).toEqual([expect.stringContaining('WO-10131'), ...['2:00', '', '', '', '', '', '', '2:00']]);
    expect(screen.getByRole('row', { name: /^Open, without an entry/ }).textContent).toContain('7:00');
    expect(screen.getByText(/Nothing is entered on 23 Nov 11:00–18:00/)).toBeDefined();
  });

  it('is handed in by a press; what is refused is said', async () => {
    house.answer(actOnSheet, () => refusal(null, 'The sheet is approved already.', { status: 409 }));
    const { user } = house.open(<HoursRoom />);
    await user.click(await screen.findByRole('button', { name: 'Hand in' }));
    expect(sent()).toEqual({ act: 'hand in', reason: '' });
    expect(await screen.findByText(/approved already/)).toBeDefined();
  });

  it('that was handed in is approved, or sent back with what is to be put right', async () => {
    week = { ...WEEK, state: 'handed in', by: 'Ilse Verhagen' };
    house.answer(actOnSheet, () => ({ state: 'sent back' }));
    const { user } = house.open(<HoursRoom />);
    expect(await screen.findByRole('button', { name: 'Approve' })).toBeDefined();
    expect(screen.queryByRole('button', { name: 'Enter time…' })).toBeNull();
    await user.click(press('Send back…'));
    await user.click(await screen.findByRole('button', { name: 'Send the week back' }));
    expect(await screen.findByText(/Say why/)).toBeDefined();
    await user.type(field('What is to be put right'), 'Friday is missing');
    await user.click(press('Send the week back'));
    await dialogClosed();
    expect(sent()).toEqual({ act: 'send back', reason: 'Friday is missing' });
  });

  it('that is approved has its entries taken back, each once', async () => {
    week = { ...WEEK, state: 'approved', by: 'Rui Caldeira' };
    house.answer(counterEntry, () => ({ id: 12 }));
    const { user } = house.open(<HoursRoom />);
    await user.click(await screen.findByRole('button', { name: 'take back…' }));
    await user.type(await screen.findByLabelText('Why'), 'wrong order');
    await user.click(press('Take the entry back'));
    await dialogClosed();
    expect(house.told[0]).toMatchObject({ path: '/api/time/5/counter', body: { reason: 'wrong order' } });
  });
});

describe('everybody’s month', () => {
  it('has each one’s hours and cost with their sum, and goes to the month before', async () => {
    const item = (id: number, name: string, work: number, cost: number) => ({
      ...{ person: { id, name }, craft: 'Technician', work, travel: 30, waiting: 0, cost, withoutRate: id === 22 },
      ...{ normal: work, outside: 30, night: 0, holiday: 0 },
    });
    house.answer(readMonth, ({ query }) => ({
      ...{ month: query.get('month'), currency: 'EUR', card: 'Standard' },
      items:
        query.get('month') === '2026-11' ? [item(21, 'Ilse Verhagen', 600, 35_700), item(22, 'Rui Sem', 60, 0)] : [],
    }));
    const { user } = house.open(<MonthRoom />);
    expect(await screen.findByText('12:00 hours at EUR 357.00 by Standard.')).toBeDefined();
    const row = screen.getByRole('row', { name: /Ilse Verhagen/ });
    expect(row.textContent).toContain('10:30');
    expect(screen.getByRole('row', { name: /Rui Sem/ }).textContent).toContain('some without a rate');
    expect(press('the month before')).toBeDefined();
    await user.click(press('the month before'));
  });
});

describe('rates', () => {
  it('of a new card begin with every craft, and are sent in whole cents', async () => {
    house = testHouse(NOW, 'manager');
    house.answer(readReference, () => ({ today: '2026-11-24' }));
    house.answer(readRates, () => ({ crafts: [{ id: 3, version: 1, name: 'Technician' }], cards: [] }));
    house.answer(addRateCard, () => ({ id: 1 }));
    const { user } = house.open(<Rates />);
    await user.click(await screen.findByRole('button', { name: 'Add a rate card' }));
    await user.type(field('Name'), 'Standard');
    for (const [label, amount] of [
      ['Costs, EUR', '34'],
      ['Sold for, EUR', '75.50'],
    ] as const) {
      await user.clear(field(label));
      await user.type(field(label), amount);
    }
    await user.selectOptions(field('Travel is sold'), 'flat');
    await user.clear(field('for, EUR'));
    await user.type(field('for, EUR'), '42');
    await user.click(press('Save the rate card'));
    await waitFor(() => expect(house.told).toHaveLength(1));
    expect(sent()).toMatchObject({
      ...{
        name: 'Standard',
        currency: 'EUR',
        isStandard: true,
        night: { from: 1320, to: 360 },
      },
      rates: [{ craftId: 3, from: '2026-01-01', cost: 3400, sales: 7550 }],
      surcharges: { night: { sales: 150, cost: 100 } },
      travel: { by: 'flat', price: 4200 },
    });
  });
});
