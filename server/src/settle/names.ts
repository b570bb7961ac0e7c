// What things are called on orders and documents: charges by whose work, which part, how far; machines and customers by their ids.
import { inArray } from 'drizzle-orm';
import type { AssetId, CustomerId } from '#core/ids.ts';
import type { Charge } from '#core/settle/index.ts';
import { asset } from '../assets/tables.ts';
import { customer } from '../customers/tables.ts';
import type { Db } from '../platform/database.ts';
import { craft } from '../labour/tables.ts';
import { kilometresOf, type Charged } from './charging.ts';

type Named = Pick<Charge, 'labour' | 'what' | 'of' | 'lineId' | 'coming'>;

/** The part, the craft, or what another cost was for; without the machine. */
export async function chargeNamer(db: Db): Promise<(charge: Named, of: Charged) => string> {
  const crafts = new Map((await db.select({ id: craft.id, name: craft.name }).from(craft)).map((c) => [c.id, c.name]));
  return (charge, { used, others, done }) => {
    const { labour, what, of } = charge;
    if (labour) return (labour.craftId === null ? '' : (crafts.get(labour.craftId) ?? '')).slice(0, 300);
    if (what === 'kilometres') return `${kilometresOf(charge, done.driven) ?? 0} km`;
    if (what === 'other') return others.find((o) => o.cost.id === of)?.cost.text ?? '';
    const use = used.find((u) => u.used.id === of);
    return use ? `${use.part.number} ${use.part.name}` : '';
  };
}

export async function tagsOf(db: Db, ids: readonly AssetId[]): Promise<Map<AssetId, string>> {
  if (ids.length === 0) return new Map();
  const rows = await db
    .select({ id: asset.id, tag: asset.tag })
    .from(asset)
    .where(inArray(asset.id, [...ids]));
  return new Map(rows.map((r) => [r.id, r.tag]));
}

/** Of those that exist. */
export async function customerNames(db: Db, ids: readonly CustomerId[]): Promise<Map<CustomerId, string>> {
  if (ids.length === 0) return new Map();
  const rows = await db
    .select({ id: customer.id, name: customer.name })
    .from(customer)
    .where(inArray(customer.id, [...new Set(ids)]));
  return new Map(rows.map((r) => [r.id, r.name]));
}
