// @vitest-environment jsdom
// Adding a schedule: in words, by choices, by phases, with wishes; what stands in the form is what is sent.
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { addSchedules } from '#api/agreements/index.ts';
import { readCustomer } from '#api/customers.ts';
import { readCatalogue } from '#api/catalogue.ts';
import { readTook } from '#api/schedules.ts';
import { readReference } from '#api/setup.ts';
import { workingDaysOf } from '#core/calendars/index.ts';
import { parseRule } from '#core/recurrence/index.ts';
import { sayDate, type LocalDate } from '#core/time/index.ts';
import { previewVisits } from '#core/upkeep/index.ts';
import { testHouse, type TestHouse } from '../shell/testing.tsx';
import { ScheduleForm } from './schedule-form.tsx';
import { FIRST_PHASES } from '../upkeep/editor/phases.tsx';
import { CALENDAR, CUSTOMER, NOW, PAGE, REFERENCE } from './testing.ts';

let house: TestHouse;
const onDone = vi.fn();
beforeEach(() => {
  onDone.mockClear();
  house = testHouse(NOW);
  house.answer(readReference, () => REFERENCE);
  house.answer(readCustomer, () => CUSTOMER);
  house.answer(readTook, () => ({ took: { count: 41, mean: 105, deviation: 9, least: 60, median: 100, most: 180 } }));
});
afterEach(cleanup);

const press = (name: string | RegExp): HTMLElement => screen.getByRole('button', { name });
const field = (label: string | RegExp): HTMLInputElement => screen.getByLabelText(label);
const body = (n = 0): unknown => house.told[n]?.body;
const isDone = () => waitFor(() => expect(onDone).toHaveBeenCalledOnce());

const DRAFT = Object.assign({}, PAGE, { stage: 'draft' });

describe('a schedule that counts a meter', () => {
  it('offers the meters that classes have, and says where none is called so', async () => {
    house.answer(addSchedules, () => ({ added: 12 }));
    const meters = [{ name: 'Sterilising cycles', unit: 'cycles', channel: null }];
    house.answer(readCatalogue, () => ({
      models: [],
      classes: [
        { id: 1, meters },
        { id: 2, meters },
      ],
    }));
    const { user } = house.open(<ScheduleForm agreement={DRAFT} onDone={onDone} />);
    const rule = await screen.findByLabelText('How often');
    await user.clear(rule);
    await user.type(rule, 'every 500 cycles or 3 months, whichever first');
    const meter = await screen.findByLabelText('Which meter is counted');
    expect(within(meter).getAllByRole('option')).toHaveLength(2);
    expect(screen.getByText(/Machines without such a meter yield no date/)).toBeDefined();
    await user.selectOptions(meter, 'Sterilising cycles');
    expect(screen.queryByText(/Machines without such a meter/)).toBeNull();
    expect(field('How often').value).toContain('500 Sterilising cycles');
    await user.click(press('Add the schedule'));
    await isDone();
    expect(body()).toMatchObject({ cadence: { meter: { meter: 'Sterilising cycles', every: 500 } } });
  });
});

describe('a schedule', () => {
  it('shows the visits that core works out for what is typed, and is sent as it stands', async () => {
    house.answer(addSchedules, () => ({ added: 12 }));
    const { user } = house.open(<ScheduleForm agreement={DRAFT} onDone={onDone} />);
    await user.selectOptions(await screen.findByLabelText('Site calendar'), 'Ribeira service hours');
    await user.click(press('choose it part by part'));
    await user.selectOptions(field('On'), 'a day of the month');
    await user.clear(field('Day'));
    await user.type(field('Day'), '8');
    expect(field('How often').value).toBe('Every 3 months on day 8');
    await user.selectOptions(field('On closed days'), 'preceding');
    const rule = parseRule('FREQ=MONTHLY;INTERVAL=3;BYMONTHDAY=8');
    if (!rule.ok) throw new Error('the rule of this test');
    const visits = previewVisits(
      { kind: 'rule', rule: rule.value, anchor: '2026-01-01' as LocalDate },
      { convention: 'preceding', earlyDays: 7, lateDays: 7, lead: 21, leadUnit: 'calendar days', weekday: null },
      workingDaysOf({ ...CALENDAR, zone: CALENDAR.zone as never, closed: CALENDAR.closed as never }),
      '2026-01-01' as LocalDate,
      6,
    ).filter((v) => v.nominal <= '2026-12-31');
    const rows = within(screen.getByRole('table')).getAllByRole('row').slice(1);
    expect(rows.map((r) => within(r).getAllByRole('cell')[0]?.textContent)).toEqual(visits.map((v) => sayDate(v.due)));
    await user.click(press('Add the schedule'));
    await isDone();
    expect(body()).toMatchObject({
      ...{ assetIds: 'all covered', jobPlanId: 5, anchor: '2026-01-01', convention: 'preceding', calendarId: 3 },
      cadence: { kind: 'rule', rule: expect.stringMatching(/BYMONTHDAY=8/) as string },
      ...{ earlyDays: 7, lateDays: 7, lead: 21 },
    });
  });

  it('in words is said back with its RFC 5545 text; what is not understood is refused at its field and sent as typed', async () => {
    house.answer(addSchedules, () => ({ added: 1 }));
    const { user } = house.open(<ScheduleForm agreement={DRAFT} onDone={onDone} />);
    const often = await screen.findByLabelText('How often');
    await user.clear(often);
    await user.type(often, 'last blue day');
    expect(screen.getByText(/^✕ “last”|“blue” is not understood/)).toBeDefined();
    expect(screen.queryByRole('table')).toBeNull();
    await user.clear(often);
    await user.type(often, 'last working day of the quarter');
    expect(screen.getByText('FREQ=MONTHLY;BYMONTH=3,6,9,12;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-1')).toBeDefined();
    expect(within(screen.getByRole('table')).getAllByRole('row').length).toBe(5);
    await user.clear(often);
    await user.type(often, 'FREQ=WEEKLY;BYDAY=TU');
    await user.tab();
    expect((often as HTMLInputElement).value).toBe('Every week on Tuesday');
    expect(screen.getByText(/windows of the visits due on .* overlap/)).toBeDefined();
    await user.click(press('12 months after the last one'));
    await user.click(press('Add the schedule'));
    await isDone();
    expect(body()).toMatchObject({
      cadence: { kind: 'since service', time: { count: 12, unit: 'month' }, meter: null },
    });
  });

  it('by phases, with wishes: what stands in the form is what is sent', async () => {
    house.answer(addSchedules, () => ({ added: 1 }));
    const { user } = house.open(<ScheduleForm agreement={DRAFT} onDone={onDone} />);
    await user.selectOptions(await screen.findByLabelText('Visits come'), 'by phases');
    const [from] = screen.getAllByLabelText<HTMLInputElement>('From');
    await user.clear(from as HTMLInputElement);
    await user.type(from as HTMLInputElement, '1 Jun');
    expect(screen.getByText(/^Summer \(1 Jun to 30 Sep\): every week on Monday; Winter/)).toBeDefined();
    await user.clear(from as HTMLInputElement);
    await user.type(from as HTMLInputElement, '1 Oct');
    expect(screen.getAllByText(/both hold 1 Oct|Summer/).length).toBeGreaterThan(0);
    await user.clear(from as HTMLInputElement);
    await user.type(from as HTMLInputElement, '1 Jun');
    await user.selectOptions(field('Wanted weekday'), 'Thursday');
    await user.type(field('Wanted at'), '7.30');
    await user.click(screen.getByLabelText('The customer is asked before it is raised'));
    await user.type(field('Reminder, shown in the run and on the order'), 'key at the porter');
    await user.click(screen.getByLabelText(/Hours are contracted/));
    await user.clear(field('Hours a year'));
    await user.type(field('Hours a year'), '12.5');
    await user.type(field('Visits a year'), '10');
    // Beside what is contracted: what was really needed, and what the rule gives.
    expect(await screen.findByText(/Contracted: 1 h 15 min a visit\..*took 1 h 40 min at the median/)).toBeDefined();
    expect(screen.getByText(/The rule gives \d+ visits in a year; 10 are contracted\./)).toBeDefined();
    await user.clear(field('Aug'));
    await user.type(field('Aug'), '0');
    await user.click(press('Add the schedule'));
    await isDone();
    const [summer] = FIRST_PHASES.phases;
    expect(body()).toMatchObject({
      cadence: { kind: 'phases', phases: [{ ...summer, from: { month: 6, day: 1 } }, FIRST_PHASES.phases[1]] },
      ...{ weekday: 4, timeOfDay: 450, needsYes: true, reminder: 'key at the porter' },
      hours: { totalMinutes: 750, factors: [1, 1, 1, 1, 1, 1, 1, 0, 1, 1, 1, 1], visits: 10 },
    });
  });
});
