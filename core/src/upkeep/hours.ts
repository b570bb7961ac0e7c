// Contracted hours of a year, placed on its visits by month factors so that their sum is kept to the minute.
import { refusal, type Refusal } from '../refusal.ts';
import { shareOut } from '../share-out.ts';
import { addMonths, type LocalDate } from '../time/index.ts';
import type { MonthFactors } from './cadence.ts';

/** What is contracted for each agreement year, in minutes of work, how the months share it, and how many visits that is meant to be. */
export type YearHours = {
  readonly totalMinutes: number;
  readonly factors: MonthFactors;
  /** Null or unsaid: as many as the rule gives. */
  readonly visits?: number | null | undefined;
};

/** Factors are counted in thousandths: 1.25 is exact. */
const THOUSANDTHS = 1000;
const MOST_FACTOR = 1000;
const MOST_MINUTES = 10_000_000;
const MOST_VISITS = 1000;

/** The factor of a date’s month; a month without one counts 1. */
export const factorOn = (factors: MonthFactors, date: LocalDate): number => factors[Number(date.slice(5, 7)) - 1] ?? 1;

/** Refused: factors below zero or above 1,000 or with more than three decimals, all of them zero; hours that are no whole minutes or none; a number of visits that is none. */
export function checkHours({ totalMinutes, factors, visits = null }: YearHours): Refusal[] {
  const found: Refusal[] = [];
  if (!(Number.isInteger(totalMinutes) && totalMinutes >= 1 && totalMinutes <= MOST_MINUTES))
    found.push(
      refusal('invalid', 'Contracted hours of a year: more than none, in whole minutes.', 'hours.totalMinutes'),
    );
  if (visits !== null && !(Number.isInteger(visits) && visits >= 1 && visits <= MOST_VISITS))
    found.push(refusal('invalid', 'Contracted visits of a year: a whole number from 1 to 1,000.', 'hours.visits'));
  factors.forEach((factor, i) => {
    if (factor === null) return;
    const thousandths = factor * THOUSANDTHS;
    if (!(factor >= 0 && factor <= MOST_FACTOR && Math.abs(thousandths - Math.round(thousandths)) < 1e-6))
      found.push(
        refusal('invalid', 'A month factor is a number from 0 to 1,000, to three decimals.', `hours.factors.${i}`),
      );
  });
  if (Array.from({ length: 12 }, (_, i) => factors[i] ?? 1).every((f) => f === 0))
    found.push(
      refusal(
        'invalid',
        'Every month has the factor 0; no hours could be placed. Give at least one more than 0.',
        'hours.factors',
      ),
    );
  return found;
}

/**
 * Minutes of each visit: H·fᵢ/Σf in whole minutes with the sum exactly H, by largest remainder; of equal remainders the earlier
 * visit gets the minute. Where every visit has the factor 0 nothing can be placed: all get 0.
 * Source: domain, Seasonal duration; settled questions, Upkeep.
 */
export function placeHours(totalMinutes: number, factors: readonly number[]): number[] {
  return shareOut(
    totalMinutes,
    factors.map((f) => Math.round(f * THOUSANDTHS)),
  );
}

/** Minutes on site for each of a crew, rounded up; travel is added once, not divided. */
export const onSiteMinutes = (minutes: number, crew: number): number => Math.ceil(minutes / crew);

/** The agreement year a date lies in: years run from the first day of the term. */
export function agreementYear(
  termFrom: LocalDate,
  on: LocalDate,
): { readonly from: LocalDate; readonly behind: LocalDate } {
  let years = Number(on.slice(0, 4)) - Number(termFrom.slice(0, 4));
  if (addMonths(termFrom, years * 12) > on) years -= 1;
  return { from: addMonths(termFrom, years * 12), behind: addMonths(termFrom, (years + 1) * 12) };
}
