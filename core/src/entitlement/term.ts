// A stretch of days.
import type { LocalDate } from '../time/index.ts';

/** Includes both days; an open end is null. */
export type Term = { readonly from: LocalDate; readonly to: LocalDate | null };
