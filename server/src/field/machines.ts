// Machines on site: one that is found there and joins the order, and one that comes off while another goes on in its place.
import { eq } from 'drizzle-orm';
import { addLine } from '#api/calls.ts';
import type { FieldBodyOut } from '#api/field.ts';
import { readLabel } from '#core/assets/index.ts';
import type { AssetId, OrderId } from '#core/ids.ts';
import { localDateAt, type Instant } from '#core/time/index.ts';
import { assetByCode, recordLife, registerAsset, swapAsset } from '../assets/index.ts';
import { asset } from '../assets/tables.ts';
import { addLineIn } from '../orders/index.ts';
import { orderLine } from '../orders/tables.ts';
import type { Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { announce } from '../platform/live.ts';
import { refuse } from '../platform/refuse.ts';
import type { Told } from '../platform/writing.ts';

type Of<K extends FieldBodyOut['kind']> = Extract<FieldBodyOut, { kind: K }>;
type Acting = { readonly who: Person; readonly at: Instant; readonly now: Instant; readonly told: Told };

const mustBeKnown = async (tx: Tx, code: string): Promise<AssetId> =>
  (await assetByCode(tx.db, readLabel(code).code)) ??
  refuse('not-found', `“${code}” is no tag and no serial in the register; look at its plate again.`, 'code');

/** A machine found there joins the order, with its checklist. */
export async function addMachine(
  tx: Tx,
  who: Person,
  { orderId, code, text }: Of<'machine'>,
  { key, now }: { readonly key: string; readonly now: Instant },
): Promise<void> {
  const assetId = await mustBeKnown(tx, code);
  await addLineIn(tx, who.id, orderId, { requestKey: key, assetId, cause: 'unknown', text }, now);
  await announce(tx, addLine, [{ subject: 'order', id: orderId }]);
}

/** Refused: what is not on the order, nor part of what is. */
async function mustBeThere(tx: Tx, orderId: OrderId, id: AssetId) {
  const lines = await tx.db
    .select({ assetId: orderLine.assetId })
    .from(orderLine)
    .where(eq(orderLine.orderId, orderId));
  const on = new Set(lines.map((l) => l.assetId));
  const [row] = await tx.db.select().from(asset).where(eq(asset.id, id)).for('update');
  for (let next = row; next;) {
    if (on.has(next.id)) return row as Row;
    if (next.parentId === null) break;
    [next] = await tx.db.select().from(asset).where(eq(asset.id, next.parentId));
  }
  return refuse('not-found', 'That machine is not on this order, nor part of one that is.', 'assetId');
}

type Row = typeof asset.$inferSelect;

/** One that nobody registered yet: of the same make, and the same customer's. */
async function registered(tx: Tx, old: Row, plate: { tag: string; serial: string }, acting: Acting): Promise<AssetId> {
  const { customerId, classId, maker, model, owner } = old;
  const is = { customerId, classId, maker, model, owner, ...plate, locationId: null, commissioned: null };
  return (await registerAsset(tx, is, acting)).id;
}

/**
 * What comes off goes to the store, what goes on takes its place, cover and schedules; the parts of the old one stay with it, or go over
 * to the new one. All in one, or nothing.
 */
export async function swapOnSite(tx: Tx, acting: Acting, body: Of<'swap'>): Promise<void> {
  const { who, at } = acting;
  const old = await mustBeThere(tx, body.orderId, body.assetId);
  const newAssetId =
    body.fresh === null ? await mustBeKnown(tx, body.code) : await registered(tx, old, body.fresh, acting);
  const on = localDateAt(who.zone, at);
  const parts = body.partsMove
    ? await tx.db.select().from(asset).where(eq(asset.parentId, old.id)).orderBy(asset.id).for('update')
    : [];
  const { text } = body;
  await swapAsset(tx, old.id, { version: old.version, newAssetId, on, oldGoes: 'to store', text }, acting);
  for (const part of parts) {
    const act = { kind: 'moved', locationId: old.locationId, parentId: newAssetId } as const;
    await recordLife(tx, part.id, { version: part.version, act, on, text: 'with what was swapped' }, acting);
  }
}
