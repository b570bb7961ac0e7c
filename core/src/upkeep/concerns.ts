// What is allowed in a schedule but seldom meant, said while it is written.
import { daysBetween, sayDate, type LocalDate } from '../time/index.ts';
import type { Cadence } from './cadence.ts';
import type { PreviewedVisit } from './propose.ts';

const isEndless = (cadence: Cadence): boolean =>
  cadence.kind !== 'rule' || (cadence.rule.count === null && cadence.rule.until === null);

/**
 * What somebody should look at twice, in words: windows that overlap, visits raised before the one before is due, an absorb span
 * that reaches the next visit from both sides, visits without an end, another number of visits in a year than is contracted.
 * `visits`: the next ones, in order.
 * Source: settled questions, Upkeep (warn when twice the span reaches the interval).
 */
export function concernsOf(
  cadence: Cadence,
  visits: readonly PreviewedVisit[],
  absorbDays: number | null,
  termTo: LocalDate | null,
  { contracted, inYear }: { readonly contracted: number | null; readonly inYear: number } = {
    contracted: null,
    inYear: 0,
  },
): string[] {
  const pairs = visits.slice(1).map((next, i) => [visits[i] as PreviewedVisit, next] as const);
  const overlap = pairs.find(([one, next]) => next.windowFrom <= one.windowTo);
  const early = pairs.find(([one, next]) => next.raise <= one.due);
  const close = absorbDays === null ? undefined : pairs.find(([a, b]) => daysBetween(a.due, b.due) <= 2 * absorbDays);
  return [
    overlap &&
      `The windows of the visits due on ${sayDate(overlap[0].due)} and ${sayDate(overlap[1].due)} overlap: one visit could count for either.`,
    early && `The visit due on ${sayDate(early[1].due)} is raised before the one of ${sayDate(early[0].due)} is due.`,
    close &&
      `Larger visits absorb within ${absorbDays} days to either side: none may be left between ${sayDate(close[0].due)} and ${sayDate(close[1].due)}.`,
    contracted !== null &&
      contracted !== inYear &&
      `The rule gives ${inYear} ${inYear === 1 ? 'visit' : 'visits'} in a year; ${contracted} are contracted.`,
    termTo === null &&
      isEndless(cadence) &&
      'Neither the rule nor the agreement ends: visits go on until somebody ends them.',
  ].filter((text) => typeof text === 'string');
}
