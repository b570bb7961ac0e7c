// Calendars that change from a day on: what was until then stays, whatever changes later; nothing that is over changes by accident.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  addDays,
  asLocalDate,
  asZone,
  fromDayNumber,
  instant,
  MINUTE,
  startOfDay,
  toDayNumber,
  type LocalDate,
} from '../time/index.ts';
import { changedCalendar, closedDaysOf, dayLookup, openingOn, weekdaysOpen, type Calendar } from './calendar.ts';
import { workingTimeOf } from './working-time.ts';

const d = asLocalDate;
const LISBON = asZone('Europe/Lisbon');
const TODAY = d('2026-11-24');
const office: Calendar = {
  ...{ name: 'Office', zone: LISBON, weekly: weekdaysOpen(9 * 60, 18 * 60), closed: [], extraOpen: [] },
};
const span = fc
  .record({ from: fc.integer({ min: 0, max: 1439 }), to: fc.integer({ min: 0, max: 1440 }) })
  .filter((s) => s.from !== s.to);
const day = fc.integer({ min: toDayNumber(d('2026-01-01')), max: toDayNumber(d('2027-12-31')) }).map(fromDayNumber);
const opening = fc.record({
  weekly: fc.array(fc.array(span, { maxLength: 2 }), { minLength: 7, maxLength: 7 }),
  closed: fc.uniqueArray(fc.record({ date: day, name: fc.constant('shut') }), {
    maxLength: 6,
    selector: (x) => x.date,
  }),
  extraOpen: fc.uniqueArray(
    fc.record({ date: day, name: fc.constant('open'), spans: fc.array(span, { minLength: 1, maxLength: 1 }) }),
    { maxLength: 4, selector: (x) => x.date },
  ),
});
/** Without days from before it holds, which are refused. */
const asOf = (
  from: LocalDate,
  { weekly, closed, extraOpen }: Pick<Calendar, 'weekly' | 'closed' | 'extraOpen'>,
): Calendar => ({
  ...{ ...office, weekly },
  closed: closed.filter((x) => x.date >= from),
  extraOpen: extraOpen.filter((x) => x.date >= from),
});
const spansOn = (c: Calendar, on: LocalDate) => dayLookup(c).spansOn(toDayNumber(on));

describe('a calendar changed from a day on', () => {
  it('is on each day what it was last made from that day or before', () => {
    fc.assert(
      fc.property(
        opening,
        fc.array(fc.record({ from: day, next: opening }), { maxLength: 5 }),
        fc.array(day, { maxLength: 8 }),
        (first, changes, asked) => {
          let calendar: Calendar = { ...office, ...first };
          const made: { from: LocalDate; calendar: Calendar }[] = [{ from: d('2000-01-01'), calendar }];
          for (const { from, next } of changes) {
            const changed = changedCalendar(calendar, asOf(from, next), { from, today: TODAY });
            if (!changed.ok) {
              expect(from <= (made.at(-1) as (typeof made)[0]).from).toBe(true);
              continue;
            }
            calendar = changed.value;
            made.push({ from, calendar: asOf(from, next) });
          }
          for (const on of [...asked, ...made.flatMap(({ from }) => [from, addDays(from, -1)])]) {
            const holding = made.findLast((m) => m.from <= on) ?? made[0];
            expect(spansOn(calendar, on)).toEqual(spansOn(holding?.calendar as Calendar, on));
            expect(openingOn(calendar, on).weekly).toEqual(holding?.calendar.weekly);
          }
          for (const { date } of closedDaysOf(calendar))
            expect(made.findLast((m) => m.from <= date)?.calendar.closed.some((c) => c.date === date)).toBe(true);
        },
      ),
    );
  });

  it('counts working time over the change as the sum of both sides', () => {
    fc.assert(
      fc.property(
        opening,
        opening,
        fc.integer({ min: 0, max: 500_000 }),
        fc.integer({ min: 0, max: 90_000 }),
        (a, b, start, length) => {
          const from = d('2026-09-01');
          const changed = changedCalendar({ ...office, ...a }, asOf(from, b), { from, today: TODAY });
          if (!changed.ok) throw new Error('it is the first change');
          const border = startOfDay(LISBON, from);
          const [x, y] = [instant(startOfDay(LISBON, d('2026-03-01')) + start * MINUTE)].flatMap((t) => [
            t,
            instant(t + length * MINUTE),
          ]) as [never, never];
          const both = workingTimeOf(changed.value);
          expect(both.between(x, y)).toBe(
            x < border && y > border ? both.between(x, border) + both.between(border, y) : both.between(x, y),
          );
          // Days well before and well after are the one’s and the other’s alone; a night before the change may run into it.
          if (y < border - 1440 * MINUTE)
            expect(both.between(x, y)).toBe(workingTimeOf({ ...office, ...a }).between(x, y));
          if (x > border + 1440 * MINUTE) expect(both.between(x, y)).toBe(workingTimeOf(asOf(from, b)).between(x, y));
        },
      ),
    );
  });

  const later: Calendar = { ...office, weekly: weekdaysOpen(8 * 60, 17 * 60) };
  it.each([
    [
      'other hours without a day',
      later,
      null,
      'holdsFrom',
      'That would change 23 Nov 2026, which is over; say from which day on it holds.',
    ],
    [
      'a holiday that is over',
      { ...office, closed: [{ date: d('2026-10-05'), name: 'Republic' }] },
      null,
      'holdsFrom',
      'That would change 5 Oct 2026, which is over; say from which day on it holds.',
    ],
    [
      'another zone',
      { ...office, zone: asZone('Europe/Madrid') },
      d('2026-12-01'),
      'zone',
      'A calendar keeps its time zone; copy it, and change that of the copy.',
    ],
  ] as const)('refuses %s', (_, next, from, field, message) => {
    const answer = changedCalendar(office, next, { from, today: TODAY });
    expect(answer.ok || answer.refusals[0]).toMatchObject({ field, message });
  });

  it('takes holidays to come, and a name, without a day; then versions follow each other', () => {
    const holidays = { ...office, name: 'Desk', closed: [{ date: d('2026-12-25'), name: 'Christmas' }] };
    const named = changedCalendar(office, holidays, { from: null, today: TODAY });
    expect(named.ok && [named.value.past, named.value.name]).toEqual([[], 'Desk']);
    const summer = changedCalendar(office, later, { from: d('2026-06-01'), today: TODAY });
    if (!summer.ok) throw new Error('it is the first change');
    expect(changedCalendar(summer.value, office, { from: d('2026-06-01'), today: TODAY })).toMatchObject({
      refusals: [{ message: 'Its newest version holds from 1 Jun 2026; give a later day.' }],
    });
    expect(changedCalendar(summer.value, office, { from: d('2026-06-02'), today: TODAY }).ok).toBe(true);
  });
});
