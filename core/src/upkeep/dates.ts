// The days of one visit: when it is due, when it counts as in time, when it is raised, and the day it is planned for.
import type { WorkingDayConvention, WorkingDays } from '../calendars/index.ts';
import { refusal, type Refusal } from '../refusal.ts';
import { fromDayNumber, weekdayOfDayNumber, type DayNumber, type LocalDate, type Weekday } from '../time/index.ts';

export const LEAD_UNITS = ['calendar days', 'working days'] as const;
export type LeadUnit = (typeof LEAD_UNITS)[number];

export type DateTerms = {
  readonly convention: WorkingDayConvention;
  /** Days before and after the due date at which the visit still counts as in time. */
  readonly earlyDays: number;
  readonly lateDays: number;
  readonly lead: number;
  readonly leadUnit: LeadUnit;
  /** Visits are planned for this weekday where an open one lies inside their window; null: for the due date. */
  readonly weekday: Weekday | null;
};

export type VisitDays = {
  readonly due: LocalDate;
  readonly windowFrom: LocalDate;
  /** Includes this day. */
  readonly windowTo: LocalDate;
  /** The day it is to be done: the due date, until a person chose another. */
  readonly planned: LocalDate;
  readonly raise: LocalDate;
};

/** A day that a person chose: `agreed` with the customer moves due date and window too. */
export type ChosenDay = { readonly day: DayNumber; readonly agreed: boolean };

/** The open day of the wanted weekday nearest to the due date, inside the window and within two weeks; of two the earlier; none: the due date. */
function preferredDay(terms: DateTerms, { days }: WorkingDays, due: DayNumber): DayNumber {
  if (terms.weekday === null) return due;
  const ahead = (terms.weekday - weekdayOfDayNumber(due) + 7) % 7;
  if (ahead === 0) return due;
  const near = [ahead - 14, ahead - 7, ahead, ahead + 7]
    .filter((n) => n >= -terms.earlyDays && n <= terms.lateDays && days.isOpen(due + n))
    .sort((a, b) => Math.abs(a) - Math.abs(b) || a - b);
  return due + (near[0] ?? 0);
}

/**
 * The days of a visit on a day of its series. The convention moves the day over closed days; a day that a person chose stays
 * where it is; a wanted weekday chooses the day planned. The raise date counts from the day planned. Null: the calendar has no working day within ten years.
 * Source: domain, Recurrence (due date, window, raise date); settled questions, One visit or from here on.
 */
export function visitDays(
  terms: DateTerms,
  workingDays: WorkingDays,
  day: DayNumber,
  chosen: ChosenDay | null,
): VisitDays | null {
  const { days } = workingDays;
  const due = chosen?.agreed ? chosen.day : days.move(day, terms.convention);
  if (due === null) return null;
  const planned = chosen?.day ?? preferredDay(terms, workingDays, due);
  const raise =
    terms.leadUnit === 'working days' && terms.lead > 0 ? days.add(planned, -terms.lead) : planned - terms.lead;
  if (raise === null) return null;
  return {
    due: fromDayNumber(due),
    windowFrom: fromDayNumber(due - terms.earlyDays),
    windowTo: fromDayNumber(due + terms.lateDays),
    planned: fromDayNumber(planned),
    raise: fromDayNumber(raise),
  };
}

/** How far a raise date lies before the day planned, at most. */
export const leadReachOf = ({ lead, leadUnit }: DateTerms): number =>
  leadUnit === 'working days' ? lead * 3 + 30 : lead;

const MOST_DAYS = 180;

/** Limits of a schedule’s days, in whole days from 0 to 180; anything else is refused at its field. */
export function checkDays(terms: DateTerms): Refusal[] {
  const found: Refusal[] = [];
  const whole = (n: number): boolean => Number.isInteger(n) && n >= 0 && n <= MOST_DAYS;
  if (!whole(terms.earlyDays)) found.push(refusal('invalid', 'Days early: a whole number from 0 to 180.', 'earlyDays'));
  if (!whole(terms.lateDays)) found.push(refusal('invalid', 'Days late: a whole number from 0 to 180.', 'lateDays'));
  if (!whole(terms.lead)) found.push(refusal('invalid', 'Lead time: a whole number of days from 0 to 180.', 'lead'));
  return found;
}
