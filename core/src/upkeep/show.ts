// How a visit shows on a time line.
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
