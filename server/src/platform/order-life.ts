// What happens to orders that other rooms keep something for: they hear of it in the transaction in which it happens.
import type { OrderId, OrderLineId } from '#core/ids.ts';
import type { KeptPlan } from '#core/orders/index.ts';
import type { Instant } from '#core/time/index.ts';
import type { Tx } from './database.ts';

export type RaisedLine = {
  readonly orderId: OrderId;
  readonly lineId: OrderLineId;
  readonly plan: KeptPlan | null;
  /** The order whose rest it does. */
  readonly followsId: OrderId | null;
};

type Listener = {
  /** Orders that are open have these lines now. */
  readonly raised?: (tx: Tx, lines: readonly RaisedLine[], now: Instant) => Promise<void>;
  /** Who goes, or when, is another now. */
  readonly planned?: (tx: Tx, id: OrderId, now: Instant) => Promise<void>;
  /** What these come to may be another sum now: time, parts, costs, or who bears them. */
  readonly charged?: (tx: Tx, ids: readonly OrderId[]) => Promise<void>;
  /** Who bears finished work is to be decided again; refused by whoever has settled it. */
  readonly decidedAgain?: (tx: Tx, id: OrderId) => Promise<void>;
  /** Done or called off: whoever holds something for it lets go. */
  readonly over?: (tx: Tx, id: OrderId, now: Instant) => Promise<void>;
};

const listening: Listener[] = [];

/** Said by a room once, where it is loaded. */
export const whenOrders = (listener: Listener): void => void listening.push(listener);

export async function ordersRaised(tx: Tx, lines: readonly RaisedLine[], now: Instant): Promise<void> {
  for (const { raised } of listening) await raised?.(tx, lines, now);
}

export async function orderIsPlanned(tx: Tx, id: OrderId, now: Instant): Promise<void> {
  for (const { planned } of listening) await planned?.(tx, id, now);
}

export async function orderIsOver(tx: Tx, id: OrderId, now: Instant): Promise<void> {
  for (const { over } of listening) await over?.(tx, id, now);
}

export async function ordersCharged(tx: Tx, ids: readonly OrderId[]): Promise<void> {
  for (const { charged } of listening) await charged?.(tx, ids);
}

export async function orderIsDecidedAgain(tx: Tx, id: OrderId): Promise<void> {
  for (const { decidedAgain } of listening) await decidedAgain?.(tx, id);
}
