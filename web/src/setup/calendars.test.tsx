// @vitest-environment jsdom
// Calendars: hours of their own on one day, another calendar that begins with what one has, and the year that comes of what is typed.
import { cleanup, screen, within } from '@testing-library/react';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { previewCalendar } from '#api/calendar-effect.ts';
import * as setup from '#api/setup.ts';
import { testHouse, type TestHouse } from '../shell/testing.tsx';
import { Calendars } from './calendars.tsx';

const HOURS = {
  ...{ name: 'Ribeira service hours', zone: 'Europe/Lisbon' },
  weekly: [1, 2, 3, 4, 5, 6, 7].map((d) => (d < 6 ? [{ from: 540, to: 1080 }] : [])),
  closed: [{ date: '2026-12-25', name: 'Christmas' }],
  extraOpen: [],
};
const CALENDAR = { ...HOURS, id: 3, version: 2, heldUntil: [] };

let house: TestHouse;
let sent: unknown[];
beforeEach(() => {
  sent = [];
  house = testHouse(Date.UTC(2026, 10, 24, 9, 20), 'administrator');
  house.answer(setup.readReference, () => ({
    ...{ today: '2026-11-24', zone: 'Europe/Lisbon', calendars: [CALENDAR], serviceLevels: [], jobPlans: [] },
    ...{
      classes: [],
      technicians: [],
      depots: [],
      skills: [],
      managers: [],
      people: [],
      priorities: ['down', 'poor', 'can wait', 'any time'],
    },
  }));
  for (const contract of [setup.addCalendar, setup.changeCalendar] as const)
    house.answer(contract, ({ body }) => {
      sent.push(body);
      return { done: true, id: 9 };
    });
});
afterEach(cleanup);

const year = (n = 2026) => within(screen.getByRole('region', { name: `The year ${n}` }));

it('a day with hours of its own is kept, and the year that is drawn follows what is typed', async () => {
  const { user } = house.open(<Calendars />);
  await user.click(await screen.findByRole('button', { name: 'change' }));
  // 261 weekdays of nine hours, less Christmas, a Friday.
  expect(year().getByText(/2,340 h open on 260 days/)).toBeDefined();
  await user.type(screen.getByLabelText('On this day'), '28.11.2026');
  await user.type(screen.getByLabelText('Open'), '10 to 12');
  await user.tab();
  expect(screen.getByText(/Write it as 09:00-18:00\./)).toBeDefined();
  expect(screen.getByRole('button', { name: 'Add these hours' }).hasAttribute('disabled')).toBe(true);
  await user.clear(screen.getByLabelText('Open'));
  await user.type(screen.getByLabelText('Open'), '10:00-12:00');
  await user.type(screen.getByLabelText('What for'), 'Inspection');
  await user.click(screen.getByRole('button', { name: 'Add these hours' }));
  expect(year().getByText(/2,342 h open on 261 days/)).toBeDefined();
  await user.click(screen.getByRole('button', { name: 'The year after' }));
  expect(year(2027).getByText(/No holiday of 2027 is kept yet/)).toBeDefined();
  await user.click(screen.getByRole('button', { name: 'Save the calendar' }));
  await screen.findByRole('button', { name: 'Add a calendar' });
  expect(sent).toMatchObject([
    {
      version: 2,
      holdsFrom: null,
      extraOpen: [{ date: '2026-11-28', name: 'Inspection', spans: [{ from: 600, to: 720 }] }],
    },
  ]);
});

it('a copy begins with what the other has, under a name of its own, and changes nothing of it', async () => {
  const { user } = house.open(<Calendars />);
  await user.click(await screen.findByRole('button', { name: 'copy' }));
  expect(screen.getByLabelText('Name')).toHaveProperty('value', 'Ribeira service hours, copy');
  await user.click(screen.getByRole('button', { name: 'Save the calendar' }));
  await screen.findByRole('button', { name: 'Add a calendar' });
  expect(sent).toEqual([{ ...HOURS, name: 'Ribeira service hours, copy' }]);
});

it('what it would change is looked at before it is saved, and asked again once something else is typed', async () => {
  const looked: unknown[] = [];
  house.answer(previewCalendar, ({ body }) => {
    looked.push(body);
    return {
      from: '2026-11-24',
      clocks: {
        ...{ orders: 812, looked: 500, later: 2, earlier: 0, missedMore: 0, missedLess: 1 },
        changed: [
          {
            ...{ orderId: 1449, title: 'Fan noisy', tag: 'Q0119', target: 'arrival', zone: 'Europe/Lisbon' },
            ...{ dueBefore: Date.UTC(2026, 10, 24, 8), dueAfter: Date.UTC(2026, 10, 25, 9, 30) },
            ...{ missedBefore: true, missedAfter: false },
          },
        ],
      },
      visits: {
        ...{ closes: ['2026-12-07'], opens: [], schedules: 40, looked: 40, moves: 1 },
        moved: [{ scheduleId: 5, tag: 'Q0101', work: 'Quarterly care', before: '2026-12-07', after: '2026-12-09' }],
      },
    };
  });
  const { user } = house.open(<Calendars />);
  await user.click(await screen.findByRole('button', { name: 'change' }));
  await user.click(screen.getByRole('button', { name: 'See what it would change' }));
  const effect = within(screen.getByRole('region', { name: 'What it would change' }));
  expect(await effect.findByText('2 due later, 1 no longer missed')).toBeDefined();
  expect(effect.getByText(/of 812 orders that count by it; the 500 due first were looked at/)).toBeDefined();
  expect(effect.getByText('no longer missed')).toBeDefined();
  expect(effect.getByText('1 visit would move')).toBeDefined();
  expect(effect.getByText(/closes on Mon 7 Dec 2026/)).toBeDefined();
  await user.type(screen.getByLabelText('Name'), ', winter');
  // It was of something else: it is gone until it is asked for again.
  expect(effect.queryByText('1 visit would move')).toBeNull();
  await user.click(screen.getByRole('button', { name: 'See what it would change' }));
  expect(await effect.findByText('1 visit would move')).toBeDefined();
  expect(looked).toMatchObject([
    { name: 'Ribeira service hours' },
    { name: 'Ribeira service hours, winter', version: 2 },
  ]);
  expect(sent).toEqual([]);
});
