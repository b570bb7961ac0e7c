// Making purchase orders of what is to be bought: one for each supplier and store, added to the draft that is there; once for a request.
import { and, asc, eq, inArray } from 'drizzle-orm';
import { group, rollup, sum as added } from 'd3-array';
import type { BodyOf } from '#api/contract.ts';
import type * as contracts from '#api/purchases.ts';
import type { NeedId, PurchaseId, PurchaseLineId, StoreId, SupplierId } from '#core/ids.ts';
import { inPacks, sayQuantity } from '#core/stores/index.ts';
import type { Instant } from '#core/time/index.ts';
import { isTaken, type Database, type Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { refuse } from '../platform/refuse.ts';
import { contentOf, mustBeSame } from '../platform/request-key.ts';
import type { Write } from '../platform/writing.ts';
import { changed } from './purchases.ts';
import { purchase, purchaseAsked, purchaseFor, purchaseLine, supplier } from './purchase-tables.ts';
import { offersOf } from './suppliers.ts';
import { part, partNeed, store } from './tables.ts';

type Asked = BodyOf<typeof contracts.buy>['lines'][number];

/** Refused: suppliers and stores that are not, or take nothing more; parts that are not; quantities that are no whole packs. */
async function mustBeBuyable(tx: Tx, lines: readonly Asked[]) {
  const idsOf = <T>(of: (l: Asked) => T): T[] => [...new Set(lines.map(of))];
  // Held: of two who buy of one supplier at once, the second adds to the draft of the first.
  const suppliers = await tx.db
    .select()
    .from(supplier)
    .where(
      inArray(
        supplier.id,
        idsOf((l) => l.supplierId),
      ),
    )
    .orderBy(asc(supplier.id))
    .for('update');
  const stores = await tx.db
    .select()
    .from(store)
    .where(
      inArray(
        store.id,
        idsOf((l) => l.storeId),
      ),
    );
  const parts = await tx.db
    .select()
    .from(part)
    .where(
      inArray(
        part.id,
        idsOf((l) => l.partId),
      ),
    );
  const offers = await offersOf(
    tx,
    parts.map((p) => p.id),
  );
  for (const [i, l] of lines.entries()) {
    const [of, to, what] = [
      suppliers.find((s) => s.id === l.supplierId),
      stores.find((s) => s.id === l.storeId),
      parts.find((p) => p.id === l.partId),
    ];
    const at = (field: string): string => `lines.${i}.${field}`;
    if (!of || of.retired) refuse('not-found', 'Nothing is bought of that supplier; choose another.', at('supplierId'));
    if (!to || to.retired || to.kind === 'quarantine')
      refuse('not-found', 'Nothing is delivered to that store; choose another.', at('storeId'));
    if (!what) refuse('not-found', 'That part does not exist; choose another.', at('partId'));
    const pack = offers.get(l.partId)?.find((o) => o.supplierId === l.supplierId)?.pack;
    if (pack !== undefined && l.thousandths % pack !== 0) {
      const more = sayQuantity(inPacks(l.thousandths, pack));
      refuse('invalid', `${of.name} sells it in packs of ${sayQuantity(pack)}: order ${more}.`, at('thousandths'));
    }
  }
  return { suppliers, offers };
}

/** What of needs is open and not bought yet, under lock. */
async function unboughtOf(tx: Tx, ids: readonly NeedId[]): Promise<Map<NeedId, number>> {
  if (ids.length === 0) return new Map();
  const needs = await tx.db
    .select()
    .from(partNeed)
    .where(inArray(partNeed.id, [...ids]))
    .orderBy(asc(partNeed.id))
    .for('update');
  const bought = await tx.db
    .select()
    .from(purchaseFor)
    .where(inArray(purchaseFor.needId, [...ids]))
    .for('update');
  const coming = rollup(
    bought,
    (all) => added(all, (b) => b.thousandths),
    (b) => b.needId,
  );
  return new Map(needs.map((n) => [n.id, Math.max(0, n.open - (coming.get(n.id) ?? 0))]));
}

async function draftFor(
  tx: Tx,
  who: Person,
  supplierId: SupplierId,
  storeId: StoreId,
  now: Instant,
): Promise<{ readonly id: PurchaseId; readonly isNew: boolean }> {
  const [there] = await tx.db
    .select({ id: purchase.id })
    .from(purchase)
    .where(and(eq(purchase.supplierId, supplierId), eq(purchase.storeId, storeId), eq(purchase.stage, 'draft')))
    .orderBy(asc(purchase.id))
    .limit(1)
    .for('update');
  if (there) return { id: there.id, isNew: false };
  const values = { supplierId, storeId, stage: 'draft' as const, createdBy: who.id, createdAt: now };
  const [made] = await tx.db.insert(purchase).values(values).$returningId();
  return { id: made?.id as PurchaseId, isNew: true };
}

/** Adds so much of a part to a draft; what stands on it already grows. */
async function addToDraft(
  tx: Tx,
  id: PurchaseId,
  line: Asked,
  unitPrice: number | null,
  unbought: Map<NeedId, number>,
): Promise<void> {
  const { partId, thousandths, needs } = line;
  const [there] = await tx.db
    .select()
    .from(purchaseLine)
    .where(and(eq(purchaseLine.purchaseId, id), eq(purchaseLine.partId, partId)))
    .for('update');
  let lineId = there?.id;
  if (there)
    await tx.db
      .update(purchaseLine)
      .set({
        ...{ thousandths: there.thousandths + thousandths, toCome: there.toCome + thousandths },
        version: there.version + 1,
      })
      .where(eq(purchaseLine.id, there.id));
  else {
    const values = { purchaseId: id, partId, thousandths, toCome: thousandths, unitPrice };
    const [made] = await tx.db.insert(purchaseLine).values(values).$returningId();
    lineId = made?.id as PurchaseLineId;
  }
  for (const { needId, thousandths: wanted } of needs) {
    const left = Math.min(wanted, unbought.get(needId) ?? 0);
    if (left === 0 || lineId === undefined) continue;
    unbought.set(needId, (unbought.get(needId) ?? 0) - left);
    const isFor = { lineId, needId, thousandths: left };
    const [before] = await tx.db
      .select()
      .from(purchaseFor)
      .where(and(eq(purchaseFor.lineId, lineId), eq(purchaseFor.needId, needId)));
    if (before)
      await tx.db
        .update(purchaseFor)
        .set({ thousandths: before.thousandths + left })
        .where(and(eq(purchaseFor.lineId, lineId), eq(purchaseFor.needId, needId)));
    else await tx.db.insert(purchaseFor).values(isFor);
  }
}

/** Refused: needs that somebody else bought for meanwhile, or that are met by now. */
function mustBeOpen(lines: readonly Asked[], unbought: ReadonlyMap<NeedId, number>): void {
  for (const [i, { needs }] of lines.entries())
    if (needs.length > 0 && needs.every((n) => (unbought.get(n.needId) ?? 0) === 0))
      refuse('conflict', 'It was ordered, or found, meanwhile; look at the list again.', `lines.${i}.needs`);
}

/** Makes purchase orders of what is to be bought; the same request again gives the same ones. */
export async function buyAll(
  database: Database,
  write: Write,
  who: Person,
  { requestKey, lines }: BodyOf<typeof contracts.buy>,
  now: Instant,
): Promise<{ ids: PurchaseId[] }> {
  const requestContent = contentOf({ lines });
  const sentBefore = async (tx: Pick<Tx, 'db'>): Promise<PurchaseId[] | null> => {
    const [sent] = await tx.db.select().from(purchaseAsked).where(eq(purchaseAsked.requestKey, requestKey));
    if (!sent) return null;
    mustBeSame(sent.requestContent, requestContent);
    return sent.purchases;
  };
  const before = await sentBefore(database);
  if (before) return { ids: before };
  try {
    return await write(async (tx, told) => {
      const { suppliers, offers } = await mustBeBuyable(tx, lines);
      const unbought = await unboughtOf(
        tx,
        lines.flatMap((l) => l.needs.map((n) => n.needId)),
      );
      mustBeOpen(lines, unbought);
      const ids: PurchaseId[] = [];
      for (const [, own] of group(lines, (l) => `${l.supplierId} ${l.storeId}`)) {
        const [{ supplierId, storeId }] = own as [Asked];
        const { id, isNew } = await draftFor(tx, who, supplierId, storeId, now);
        for (const line of own) {
          const price = offers.get(line.partId)?.find((o) => o.supplierId === supplierId)?.unitPrice ?? null;
          await addToDraft(tx, id, line, price, unbought);
        }
        await changed(tx, id);
        ids.push(id);
        const of = suppliers.find((s) => s.id === supplierId)?.name;
        const text = isNew ? `to be bought of ${of}` : `more to be bought of ${of}`;
        told({ subject: 'purchase', id, text: `${own.length} ${own.length === 1 ? 'part' : 'parts'} ${text}` });
      }
      await tx.db.insert(purchaseAsked).values({ requestKey, requestContent, purchases: ids });
      return { ids };
    });
  } catch (error) {
    const sent = isTaken(error) ? await sentBefore(database) : null;
    if (sent === null) throw error;
    return { ids: sent };
  }
}
