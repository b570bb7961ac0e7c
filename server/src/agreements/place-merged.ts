// Coverage of a place that was merged into another reaches that one.
import { eq } from 'drizzle-orm';
import type { PlaceMerged } from '../platform/place-merged.ts';
import { coverageLine } from './tables.ts';

export const coverageFollows: PlaceMerged = async (tx, { gone, kept }) => {
  await tx.db.update(coverageLine).set({ locationId: kept }).where(eq(coverageLine.locationId, gone));
};
