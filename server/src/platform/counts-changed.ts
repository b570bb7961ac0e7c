// Days whose promises or visits count otherwise now: rooms that keep sums of them hear of it in the transaction in which it happens.
import type { LocalDate } from '#core/time/index.ts';
import type { Tx } from './database.ts';

type Listener = (tx: Tx, days: readonly LocalDate[], today: LocalDate) => Promise<void>;

const listening: Listener[] = [];

/** Said by a room once, where it is loaded. */
export const whenCountsChange = (listener: Listener): void => void listening.push(listener);

/** Said at the end of what changes them, for it may wait for others who do the same; today anywhere. */
export async function countsChanged(tx: Tx, days: readonly LocalDate[], today: LocalDate): Promise<void> {
  if (days.length === 0) return;
  for (const hear of listening) await hear(tx, days, today);
}
