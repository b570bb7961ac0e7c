// Machines of a place that was merged into another stand at that one, and always did.
import { eq } from 'drizzle-orm';
import type { AssetId } from '#core/ids.ts';
import type { PlaceMerged } from '../platform/place-merged.ts';
import { recordFacts } from './facts.ts';
import { asset, assetPastStay } from './tables.ts';

export const assetsFollow: PlaceMerged = async (tx, { gone, kept, goneName, keptName, by, now }) => {
  const [standing, stood] = await Promise.all([
    tx.db.select({ id: asset.id }).from(asset).where(eq(asset.locationId, gone)),
    tx.db.select({ id: assetPastStay.assetId }).from(assetPastStay).where(eq(assetPastStay.locationId, gone)),
  ]);
  const tell = (id: AssetId, text: string) => ({
    assetId: id,
    kind: 'moved' as const,
    fact: { kind: 'place merged' as const, gone, kept },
    at: now,
    text,
  });
  const here = new Set(standing.map((a) => a.id));
  await recordFacts(
    tx,
    [
      ...[...here].map((id) => tell(id, `stands at ${keptName} now: ${goneName} was merged into it`)),
      ...[...new Set(stood.map((a) => a.id))]
        .filter((id) => !here.has(id))
        .map((id) => tell(id, `stood at ${keptName} before: ${goneName} was merged into it`)),
    ],
    { by, now },
  );
};
