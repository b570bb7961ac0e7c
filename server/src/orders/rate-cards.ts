// The rate card an order is priced by: the one that holds for its customer when it is raised. Another agreed later changes nothing of it.
import { inArray } from 'drizzle-orm';
import type { CustomerId, RateCardId } from '#core/ids.ts';
import { customer } from '../customers/tables.ts';
import { heldCardId } from '../labour/tables.ts';
import type { Tx } from '../platform/database.ts';

export async function cardsHolding(
  tx: Tx,
  customers: readonly CustomerId[],
): Promise<(id: CustomerId) => RateCardId | null> {
  const ids = [...new Set(customers)];
  const rows = await tx.db
    .select({ id: customer.id, cardId: heldCardId })
    .from(customer)
    .where(inArray(customer.id, ids));
  const held = new Map(rows.map((r) => [r.id, r.cardId]));
  return (id) => held.get(id) ?? null;
}
