// What orders come to, of many at a time: everything their charges follow from, and the charges, by core's one function.
import { and, asc, eq, inArray, sql } from 'drizzle-orm';
import type { AgreementId, AssetId, CustomerId, OrderId, VisitId } from '#core/ids.ts';
import type { RateCard, Worked } from '#core/labour/index.ts';
import { heldOf, leftOf, type OrderEvent } from '#core/orders/index.ts';
import { comesTo, type Charge, type ChargedLine, type Done, type TaxRate } from '#core/settle/index.ts';
import { orderEvent, orderLine, workOrder, type StoredVerdict } from '../orders/tables.ts';
import type { Db } from '../platform/database.ts';
import { person } from '../platform/tables.ts';
import { cardsOf } from '../labour/index.ts';
import { timeEntry, timeEntryLine, timePiece } from '../labour/tables.ts';
import { usedOn } from '../stores/index.ts';
import { othersOn } from './others.ts';
import type { taxesOf } from './taxes.ts';

/** Pieces of orders' time as they were entered, with whose they are; no more columns than are shown, of orders with many. */
const piecesOn = (db: Db, ids: readonly OrderId[]) =>
  db
    .select({
      orderId: timePiece.orderId,
      lineId: timePiece.orderLineId,
      personId: timePiece.personId,
      craftId: timePiece.craftId,
      kind: timePiece.kind,
      hours: timePiece.hours,
      day: timePiece.day,
      minutes: timePiece.minutes,
      entryId: timeEntry.id,
      entryDay: timeEntry.day,
      fromAt: timeEntry.fromAt,
      toAt: timeEntry.toAt,
      text: timeEntry.text,
      name: person.name,
      craftNow: person.craftId,
    })
    .from(timePiece)
    .innerJoin(timeEntry, eq(timeEntry.id, timePiece.entryId))
    .innerJoin(person, eq(person.id, timePiece.personId))
    .where(inArray(timePiece.orderId, [...ids]))
    .orderBy(asc(timeEntry.day), asc(timeEntry.fromAt), asc(timePiece.id));
export type Piece = Awaited<ReturnType<typeof piecesOn>>[number];

/** What was driven for each line. */
const drivenOn = (db: Db, ids: readonly OrderId[]) =>
  db
    .select({
      orderId: orderLine.orderId,
      lineId: timeEntryLine.orderLineId,
      kilometres: sql<string>`sum(${timeEntryLine.kilometres})`,
    })
    .from(timeEntryLine)
    .innerJoin(orderLine, eq(orderLine.id, timeEntryLine.orderLineId))
    .where(inArray(orderLine.orderId, [...ids]))
    .groupBy(timeEntryLine.orderLineId);

// Entered before the person had a craft: theirs of now.
const workedOf = ({ lineId, personId, craftId, craftNow, kind, hours, day, minutes }: Piece): Worked => ({
  lineId,
  personId,
  craftId: craftId ?? craftNow,
  kind,
  hours,
  day,
  minutes,
});

const OURS = { share: 100, by: 'our own fleet', discount: 0 };
/** Internal work is borne by the provider, whatever it is. */
const OWN_COST: ChargedLine['verdict'] = {
  elements: { labour: OURS, parts: OURS, consumables: OURS, travel: OURS },
  surcharge: null,
};

type Used = Awaited<ReturnType<typeof usedOn>>;
type Others = Awaited<ReturnType<typeof othersOn>>;
export type Taxes = Awaited<ReturnType<typeof taxesOf>>;

export type OrderLineOf = {
  readonly id: number;
  readonly assetId: AssetId | null;
  readonly verdict: StoredVerdict | null;
  readonly visitId: VisitId | null;
  readonly visitPrice: number | null;
};

/** An order with all that its charges follow from. */
export type Charged = {
  readonly order: {
    readonly id: OrderId;
    readonly kind: (typeof workOrder.$inferSelect)['kind'];
    readonly stage: (typeof workOrder.$inferSelect)['stage'];
    readonly customerId: CustomerId;
    readonly agreementId: AgreementId | null;
    readonly internal: boolean;
    readonly zone: (typeof workOrder.$inferSelect)['zone'];
    readonly doneAt: (typeof workOrder.$inferSelect)['doneAt'];
    readonly customerReference: string;
  };
  readonly card: RateCard | null;
  readonly lines: readonly OrderLineOf[];
  readonly pieces: readonly Piece[];
  readonly used: Used;
  readonly others: Others;
  readonly driven: readonly { readonly lineId: number; readonly kilometres: number }[];
  readonly done: Done;
  readonly charges: readonly Charge[];
};

const ORDER = {
  ...{ id: workOrder.id, kind: workOrder.kind, stage: workOrder.stage, customerId: workOrder.customerId },
  ...{ agreementId: workOrder.agreementId, internal: workOrder.internal, zone: workOrder.zone },
  ...{ doneAt: workOrder.doneAt, customerReference: workOrder.customerReference, cardId: workOrder.rateCardId },
};

/** Everything of each by its order. */
function byOrder<T extends { readonly orderId: OrderId }>(rows: readonly T[]): (id: OrderId) => T[] {
  const held = new Map<OrderId, T[]>();
  for (const row of rows) {
    const own = held.get(row.orderId);
    if (own) own.push(row);
    else held.set(row.orderId, [row]);
  }
  return (id) => held.get(id) ?? [];
}

/** As the rules want what was used and spent. */
function doneOf(of: Pick<Charged, 'pieces' | 'used' | 'others' | 'driven' | 'lines'>, comings: number): Done {
  return {
    driven: of.driven,
    worked: of.pieces.map(workedOf),
    parts: of.used.map(({ used: u, part }) => ({
      ...{ id: u.id, lineId: u.orderLineId, number: part.number, name: part.name, thousandths: u.thousandths },
      ...{ unitPrice: u.unitPrice, unitCost: u.unitCost, consumable: part.consumable },
    })),
    others: of.others.map(({ cost: c }) => ({
      ...{ id: c.id, lineId: c.orderLineId, cost: c.cost, price: c.price, oursBecause: c.oursBecause },
    })),
    visits: of.lines.flatMap((l) => (l.visitPrice === null ? [] : [{ lineId: l.id, price: l.visitPrice }])),
    comings,
  };
}

type Happened = Pick<OrderEvent, 'act' | 'at' | 'recordedAt'>;

/** Which of an order's lines were worked on, and how often somebody came. */
function wentOf(happened: readonly Happened[]) {
  const left = leftOf(heldOf(happened).lines);
  return { left, comings: happened.filter((e) => e.act.kind === 'arrived').length };
}

/** Orders that do not exist are left out; as many questions for many as for one. */
export async function chargedOf(db: Db, ids: readonly OrderId[]): Promise<Charged[]> {
  if (ids.length === 0) return [];
  const among = [...ids];
  const [orders, lines, events, pieces, used, others, driven] = await Promise.all([
    db.select(ORDER).from(workOrder).where(inArray(workOrder.id, among)).orderBy(asc(workOrder.id)),
    db
      .select({
        ...{ orderId: orderLine.orderId, id: orderLine.id, assetId: orderLine.assetId },
        ...{ verdict: orderLine.verdict, visitId: orderLine.visitId, visitPrice: orderLine.visitPrice },
      })
      .from(orderLine)
      .where(inArray(orderLine.orderId, among))
      .orderBy(asc(orderLine.id)),
    db
      .select({
        ...{ orderId: orderEvent.orderId, act: orderEvent.act, at: orderEvent.at },
        recordedAt: orderEvent.recordedAt,
      })
      .from(orderEvent)
      .where(and(inArray(orderEvent.orderId, among)))
      .orderBy(asc(orderEvent.id)),
    piecesOn(db, among),
    usedOn(db, among),
    othersOn(db, among),
    drivenOn(db, among),
  ]);
  const cardOf = await cardsOf(
    db,
    orders.map((o) => o.cardId),
  );
  const [linesOf, eventsOf, piecesOf, drivenOf] = [byOrder(lines), byOrder(events), byOrder(pieces), byOrder(driven)];
  const usedOf = byOrder(used.map((u) => ({ orderId: u.used.orderId, u })));
  const othersOf = byOrder(others.map((o) => ({ orderId: o.cost.orderId, o })));
  return orders.map(({ cardId, ...order }): Charged => {
    const card = cardOf(cardId);
    const { left, comings } = wentOf(eventsOf(order.id));
    const facts = {
      lines: linesOf(order.id),
      pieces: piecesOf(order.id),
      used: usedOf(order.id).map(({ u }) => u),
      others: othersOf(order.id).map(({ o }) => o),
      driven: drivenOf(order.id).map((r) => ({ lineId: r.lineId as number, kilometres: Number(r.kilometres) })),
    };
    const done = doneOf(facts, comings);
    const charged = facts.lines.map((l): ChargedLine => ({
      ...{ id: l.id, attended: !left.has(l.id) },
      verdict: order.internal ? OWN_COST : (l.verdict?.verdict ?? null),
    }));
    return { ...facts, order, card, done, charges: comesTo(done, card, charged) };
  });
}

/** The tax of each charge: of parts and other costs their own, of the rest the standard one; null: there is none. */
export function rateOfCharge(taxes: Taxes, { used, others }: Pick<Charged, 'used' | 'others'>) {
  const standard = taxes.find((t) => t.isStandard === true) ?? null;
  const byId = new Map(taxes.map((t) => [t.id as number, t]));
  const ofPart = new Map(used.map((u) => [u.used.id as number, u.part.taxId]));
  const ofOther = new Map(others.map((o) => [o.cost.id as number, o.cost.taxId]));
  return ({ what, of }: Charge): TaxRate | null => {
    const id = of === null ? null : ((what === 'other' ? ofOther : ofPart).get(of) ?? null);
    const tax = (id === null ? undefined : byId.get(id)) ?? standard;
    return tax && { category: tax.category, hundredths: tax.hundredths };
  };
}
