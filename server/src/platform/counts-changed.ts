// Days whose promises or visits count otherwise now: rooms that keep sums of them hear of it in the transaction in which it happens.
import type { LocalDate } from '#core/time/index.ts';
import type { Tx } from './database.ts';

type Listener = {
  readonly changedOn: (tx: Tx, days: readonly LocalDate[], today: LocalDate) => Promise<void>;
  /** Places hang elsewhere in their tree: whatever is summed by them is another sum. */
  readonly treeChanged: (tx: Tx) => Promise<void>;
};

const listening: Listener[] = [];

/** Said by a room once, where it is loaded. */
export const whenCountsChange = (listener: Listener): void => void listening.push(listener);

/** Said at the end of what changes them, for it may wait for others who do the same; today anywhere. */
export async function countsChanged(tx: Tx, days: readonly LocalDate[], today: LocalDate): Promise<void> {
  if (days.length === 0) return;
  for (const { changedOn } of listening) await changedOn(tx, days, today);
}

export async function countsMoved(tx: Tx): Promise<void> {
  for (const { treeChanged } of listening) await treeChanged(tx);
}
