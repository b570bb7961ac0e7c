// Asset rows with their threads, for lists, agreements and the finder.
import { eq, inArray } from 'drizzle-orm';
import type { AssetRow } from '#api/register.ts';
import type { AssetId } from '#core/ids.ts';
import { decideEntitlement } from '#core/entitlement/index.ts';
import { type Instant, type LocalDate } from '#core/time/index.ts';
import type { Db } from '../platform/database.ts';
import { assetClass } from '../catalogue/tables.ts';
import { customer } from '../customers/tables.ts';
import { asset } from './tables.ts';
import { coversOf, type CoverSubject } from '../entitlement/index.ts';
import { threadStretch, type Lane } from '../platform/lanes.ts';
import { ribbonsOf } from './ribbons.ts';

export function coverNow(subject: CoverSubject | undefined, on: LocalDate): string {
  if (!subject) return 'no cover';
  const verdict = decideEntitlement(
    { asset: subject.assetOn(on), on, kind: 'repair', cause: 'wear' },
    subject.coversOn(on),
  );
  const taken = verdict.considered.find((c) => c.taken);
  if (taken) return taken.label;
  const believed = verdict.considered.find((c) => c.reason.includes('draft') || c.reason.includes('suspended'));
  return believed
    ? `no cover: ${believed.label} is ${believed.reason.includes('draft') ? 'a draft' : 'suspended'}`
    : 'no cover';
}

/** Rows with threads for the given assets, in the order of `ids`. */
export async function assetRows(
  db: Db,
  lanes: readonly Lane[],
  ids: readonly AssetId[],
  today: LocalDate,
  now: Instant,
): Promise<AssetRow[]> {
  if (ids.length === 0) return [];
  const rows = await db
    .select({
      id: asset.id,
      tag: asset.tag,
      serial: asset.serial,
      className: assetClass.name,
      maker: asset.maker,
      model: asset.model,
      customerName: customer.name,
      state: asset.state,
    })
    .from(asset)
    .innerJoin(assetClass, eq(assetClass.id, asset.classId))
    .innerJoin(customer, eq(customer.id, asset.customerId))
    .where(inArray(asset.id, [...ids]));
  const subjects = await coversOf(db, ids);
  const ribbons = await ribbonsOf(db, lanes, subjects, threadStretch(today, now));
  const byId = new Map(rows.map((r) => [r.id, r]));
  return ids.flatMap((id) => {
    const row = byId.get(id);
    const subject = subjects.get(id);
    return row
      ? [
          {
            ...row,
            place: subject?.place.label ?? 'no place',
            coverNow: coverNow(subject, today),
            ribbon: ribbons.get(id) ?? { cover: [], care: [], trouble: [] },
          },
        ]
      : [];
  });
}
