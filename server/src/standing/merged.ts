// Where two places become one, what was counted at the one that goes counts at the kept one.
import { eq } from 'drizzle-orm';
import { clock, orderLine } from '../orders/tables.ts';
import type { PlaceMerged } from '../platform/place-merged.ts';
import { adjustment, closedCount } from './tables.ts';

export const placesFollow: PlaceMerged = async (tx, { gone, kept }) => {
  for (const table of [orderLine, clock, closedCount, adjustment] as const)
    await tx.db.update(table).set({ placeId: kept }).where(eq(table.placeId, gone));
};
