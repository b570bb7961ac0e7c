// A unit that is kept by serial: what happened to it, one after the other, and where that leaves it.
import { addDays, addMonths, type LocalDate } from '../time/index.ts';
import type { MoveKind } from './stock.ts';

/** What a unit went through: a move of stock, or that it was built in out of no store of ours. */
export type UnitStep = { readonly kind: MoveKind | 'built in'; readonly thousandths: number };

export const UNIT_PLACES = ['in store', 'built in', 'thrown away', 'sent back', 'missing'] as const;
export type UnitPlace = (typeof UNIT_PLACES)[number];

/**
 * Where a unit is after all it went through, the last step deciding: what came in lies in its store, what was taken for an order is built
 * in, what a count did not find is missing. Null: nothing happened to it. Source: domain-work, Stores: each unit is at one place at a time.
 */
export function whereUnitIs(steps: readonly UnitStep[]): UnitPlace | null {
  const last = steps.filter((s) => s.kind !== 'variance').at(-1);
  if (!last) return null;
  switch (last.kind) {
    case 'built in':
    case 'issue':
      return 'built in';
    case 'scrap':
      return 'thrown away';
    case 'to supplier':
      return 'sent back';
    case 'count':
      return last.thousandths < 0 ? 'missing' : 'in store';
    case 'receipt':
    case 'return':
    case 'transfer':
    case 'variance':
      return 'in store';
  }
}

/** The last day on which a part that was built in on a day is warranted; null: the parts list promises nothing. */
export const partWarrantyUntil = (months: number, builtIn: LocalDate): LocalDate | null =>
  months <= 0 ? null : addDays(addMonths(builtIn, months), -1);
