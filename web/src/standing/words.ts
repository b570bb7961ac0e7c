// Words of standing.
import { SHORT_MONTHS } from '#core/time/index.ts';

/** "Oct 2026", of a month by its first day. */
export const sayMonth = (month: string): string =>
  `${SHORT_MONTHS[Number(month.slice(5, 7)) - 1] ?? ''} ${month.slice(0, 4)}`;
