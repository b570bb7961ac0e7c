// Purchase orders as they are shown: lists by what is open, one with its lines, for whom each is and what came.
import { and, asc, desc, eq, inArray, lt, min, sql } from 'drizzle-orm';
import { group } from 'd3-array';
import type { Asked } from '#api/contract.ts';
import type { listPurchases, PurchasePage, PurchaseRow } from '#api/purchases.ts';
import type { PurchaseId } from '#core/ids.ts';
import { seesMoney, type Role } from '#core/people.ts';
import { priceOf, totalOfPurchase } from '#core/stores/index.ts';
import { localDateAt, type Instant, type Zone } from '#core/time/index.ts';
import type { Db } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { namesOfPeople } from '../platform/people.ts';
import { person } from '../platform/tables.ts';
import { partSupplier, purchase, purchaseFor, purchaseLine, supplier } from './purchase-tables.ts';
import { storeSettings } from './settings.ts';
import { part, partNeed, stockMove, store, storeAct } from './tables.ts';

/** In whole minor units; each line is rounded by itself, as on its paper. */
const amount = sql<string>`sum(round(${purchaseLine.thousandths} * ${purchaseLine.unitPrice} / 1000))`;

export async function purchasesShown(
  db: Db,
  { show, supplier: of, after, limit = 60 }: Asked<typeof listPurchases>['query'],
  { role, zone }: { readonly role: Role; readonly zone: Zone },
  now: Instant,
) {
  const { approvalLimit } = await storeSettings(db);
  const rows = await db
    .select({
      ...{ order: purchase, supplier: supplier.name, store: store.name, total: amount },
      ...{ lines: sql<number>`count(${purchaseLine.id})` },
      promisedOn: min(sql`if(${purchaseLine.toCome} > 0, ${purchaseLine.promisedOn}, null)`),
    })
    .from(purchase)
    .innerJoin(supplier, eq(supplier.id, purchase.supplierId))
    .innerJoin(store, eq(store.id, purchase.storeId))
    .leftJoin(purchaseLine, eq(purchaseLine.purchaseId, purchase.id))
    .where(
      and(
        show === 'open' ? inArray(purchase.stage, ['draft', 'sent']) : undefined,
        of === undefined ? undefined : eq(purchase.supplierId, of),
        after === undefined ? undefined : lt(purchase.id, Number(after) as PurchaseId),
      ),
    )
    .groupBy(purchase.id)
    .orderBy(desc(purchase.id))
    .limit(limit + 1);
  const shown = rows.slice(0, limit);
  const today = localDateAt(zone, now);
  return {
    items: shown.map(({ order, total, ...r }): PurchaseRow => {
      const promisedOn = (r.promisedOn as PurchaseRow['promisedOn']) ?? null;
      const minor = Number(total ?? 0);
      return {
        ...{ id: order.id, supplier: { id: order.supplierId, name: r.supplier } },
        ...{ store: { id: order.storeId, name: r.store }, stage: order.stage, lines: Number(r.lines) },
        ...{ total: seesMoney(role) ? minor : null, createdAt: order.createdAt, sentAt: order.sentAt, promisedOn },
        late: order.stage === 'sent' && promisedOn !== null && promisedOn < today,
        needsApproval:
          order.stage === 'draft' && approvalLimit !== null && minor > approvalLimit && order.approvedBy === null,
      };
    }),
    next: rows.length > limit ? `${shown.at(-1)?.order.id}` : null,
  };
}

const linesShown = (db: Db, id: PurchaseId) =>
  db
    .select({ line: purchaseLine, part, theirNumber: partSupplier.number })
    .from(purchaseLine)
    .innerJoin(purchase, eq(purchase.id, purchaseLine.purchaseId))
    .innerJoin(part, eq(part.id, purchaseLine.partId))
    .leftJoin(
      partSupplier,
      and(eq(partSupplier.partId, purchaseLine.partId), eq(partSupplier.supplierId, purchase.supplierId)),
    )
    .where(eq(purchaseLine.purchaseId, id))
    .orderBy(asc(part.number));

const forWhom = (db: Db, id: PurchaseId) =>
  db
    .select({
      lineId: purchaseFor.lineId,
      needId: purchaseFor.needId,
      thousandths: purchaseFor.thousandths,
      orderId: partNeed.orderId,
    })
    .from(purchaseFor)
    .innerJoin(purchaseLine, eq(purchaseLine.id, purchaseFor.lineId))
    .innerJoin(partNeed, eq(partNeed.id, purchaseFor.needId))
    .where(eq(purchaseLine.purchaseId, id))
    .orderBy(asc(purchaseFor.needId));

async function deliveriesOn(db: Db, id: PurchaseId): Promise<PurchasePage['deliveries']> {
  const rows = await db
    .select({ act: storeAct, by: person.name, number: part.number, thousandths: stockMove.thousandths })
    .from(storeAct)
    .leftJoin(person, eq(person.id, storeAct.personId))
    .leftJoin(stockMove, eq(stockMove.actId, storeAct.id))
    .leftJoin(part, eq(part.id, stockMove.partId))
    .where(eq(storeAct.purchaseId, id))
    .orderBy(desc(storeAct.id), asc(stockMove.id));
  return [...group(rows, (r) => r.act.id).values()].map((own) => {
    const [{ act, by }] = own as [(typeof rows)[number]];
    return {
      ...{ at: act.at, by, text: act.text },
      parts: own.flatMap(({ number, thousandths }) => (number && thousandths ? [{ number, thousandths }] : [])),
    };
  });
}

export async function purchaseShown(db: Db, id: PurchaseId, role: Role): Promise<PurchasePage> {
  const [[row], lines, whom, deliveries, { approvalLimit }] = await Promise.all([
    db
      .select({ order: purchase, supplier, store: store.name })
      .from(purchase)
      .innerJoin(supplier, eq(supplier.id, purchase.supplierId))
      .innerJoin(store, eq(store.id, purchase.storeId))
      .where(eq(purchase.id, id)),
    linesShown(db, id),
    forWhom(db, id),
    deliveriesOn(db, id),
    storeSettings(db),
  ]);
  if (!row) refuse('not-found', 'That purchase order does not exist.');
  const { order, supplier: from } = row;
  const people = await namesOfPeople(db, [order.createdBy, order.approvedBy]);
  const nameOf = (of: typeof order.approvedBy): string | null => people.get(of) ?? null;
  const money = seesMoney(role);
  const { total } = totalOfPurchase(lines.map((l) => l.line));
  const of = group(whom, (w) => w.lineId);
  return {
    ...{ id, version: order.version, stage: order.stage, note: order.note },
    store: { id: order.storeId, name: row.store },
    supplier: { id: from.id, name: from.name, email: from.email, leadDays: from.leadDays },
    ...{ createdBy: nameOf(order.createdBy), createdAt: order.createdAt },
    approved: order.approvedAt === null ? null : { by: nameOf(order.approvedBy), at: order.approvedAt },
    sent: order.sentAt === null ? null : { at: order.sentAt, to: order.sentTo },
    lines: lines.map(({ line: l, part: p, theirNumber }) => ({
      ...{ id: l.id, version: l.version, thousandths: l.thousandths, received: l.received, refused: l.refused },
      part: { id: p.id, name: p.name, number: p.number, unit: p.unit, serialTracked: p.serialTracked },
      ...{ theirNumber: theirNumber ?? '', toCome: l.toCome, promisedOn: l.promisedOn, short: l.short },
      unitPrice: money ? l.unitPrice : null,
      amount: money && l.unitPrice !== null ? priceOf(l.thousandths, l.unitPrice) : null,
      variance: money ? l.variance : null,
      for: (of.get(l.id) ?? []).map(({ needId, orderId, thousandths }) => ({ needId, orderId, thousandths })),
    })),
    total: money ? total : null,
    needsApproval:
      order.stage === 'draft' && approvalLimit !== null && total > approvalLimit && order.approvedAt === null,
    deliveries,
  };
}
