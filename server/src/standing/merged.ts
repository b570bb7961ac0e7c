// Where two places become one, what was counted at the one that goes counts at the kept one; closed months stay as they are.
import { eq } from 'drizzle-orm';
import { clock, orderLine } from '../orders/tables.ts';
import type { PlaceMerged } from '../platform/place-merged.ts';
import { visit } from '../upkeep/tables.ts';
import { changedEverywhere } from './summing.ts';

export const placesFollow: PlaceMerged = async (tx, { gone, kept }) => {
  await tx.db.update(orderLine).set({ placeId: kept }).where(eq(orderLine.placeId, gone));
  let sites = 0;
  for (const table of [orderLine, clock, visit] as const) {
    const [{ affectedRows }] = await tx.db.update(table).set({ siteId: kept }).where(eq(table.siteId, gone));
    sites += affectedRows;
  }
  if (sites > 0) await changedEverywhere(tx);
};
