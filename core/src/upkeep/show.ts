// How a visit shows on a time line.
import { sayAmountOf } from '../money.ts';
import type { LocalDate } from '../time/index.ts';

export type ShownVisit = 'planned' | 'in window' | 'outside window' | 'not done';

/** Planned while its window runs (its last day included), then done inside or outside it, or not done. */
export function showVisit(
  visit: { readonly windowFrom: LocalDate; readonly windowTo: LocalDate; readonly completedOn: LocalDate | null },
  today: LocalDate,
): ShownVisit {
  if (visit.completedOn !== null)
    return visit.completedOn >= visit.windowFrom && visit.completedOn <= visit.windowTo
      ? 'in window'
      : 'outside window';
  return visit.windowTo < today ? 'not done' : 'planned';
}

/** How many visits, and what those with a price of their own are billed: “133 visits, EUR 290.00 by the visit”. */
export const sayVisits = (
  visits: number,
  prices: readonly { readonly currency: string; readonly minor: number }[],
): string =>
  [
    `${visits} ${visits === 1 ? 'visit' : 'visits'}`,
    ...prices.map(({ currency, minor }) => `${currency} ${sayAmountOf(minor, currency)} by the visit`),
  ].join(', ');
