// When an order is over, done or called off, rooms that hold something for it let go of it, in the transaction that ends it.
import type { OrderId } from '#core/ids.ts';
import type { Instant } from '#core/time/index.ts';
import type { Tx } from './database.ts';

export type OrderOver = (tx: Tx, id: OrderId, now: Instant) => Promise<void>;

const listening: OrderOver[] = [];

/** Said by a room once, where it is loaded. */
export const whenOrderIsOver = (listener: OrderOver): void => void listening.push(listener);

export async function orderIsOver(tx: Tx, id: OrderId, now: Instant): Promise<void> {
  for (const listener of listening) await listener(tx, id, now);
}
