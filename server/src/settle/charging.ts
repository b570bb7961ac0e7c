// What orders come to, of many at a time: everything their charges follow from, and the charges, by core's one function.
import { and, asc, eq, inArray, ne } from 'drizzle-orm';
import type { AgreementId, AssetId, CustomerId, OrderId, VisitId } from '#core/ids.ts';
import type { RateCard, Worked } from '#core/labour/index.ts';
import { asCorrected, heldOf, leftOf, type OrderEvent } from '#core/orders/index.ts';
import {
  comesTo,
  comesToByComing,
  comingOf,
  comingsOf,
  type Charge,
  type ChargedComing,
  type ChargedLine,
  type Coming,
  type DoneByComing,
  type DoneWhen,
  type Planned,
  type TaxRate,
} from '#core/settle/index.ts';
import { localDateAt, type Zone } from '#core/time/index.ts';
import { orderEvent, orderLine, workOrder, type StoredVerdict } from '../orders/tables.ts';
import type { Db } from '../platform/database.ts';
import { person } from '../platform/tables.ts';
import { cardsOf } from '../labour/index.ts';
import { timeEntry, timeEntryLine, timePiece } from '../labour/tables.ts';
import { appointment, appointmentOrder } from '../rota/tables.ts';
import { usedOn } from '../stores/index.ts';
import { customerBilling } from './document-tables.ts';
import { othersOn } from './others.ts';
import type { taxesOf } from './taxes.ts';

/** Appointments of orders, for those that are billed by them. */
async function plannedOn(db: Db, ids: readonly OrderId[]): Promise<(id: OrderId) => Planned[]> {
  if (ids.length === 0) return () => [];
  const rows = await db
    .select({
      ...{ orderId: appointmentOrder.orderId, from: appointment.fromAt, to: appointment.toAt, zone: appointment.zone },
    })
    .from(appointmentOrder)
    .innerJoin(appointment, eq(appointment.id, appointmentOrder.appointmentId))
    .where(inArray(appointmentOrder.orderId, [...ids]))
    .orderBy(asc(appointment.fromAt), asc(appointment.id));
  return byOrder(rows.map(({ orderId, from, to, zone }) => ({ orderId, from, to, on: localDateAt(zone, from) })));
}

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

/** What was driven for each line, way by way. */
const drivenOn = (db: Db, ids: readonly OrderId[]) =>
  db
    .select({
      ...{ orderId: orderLine.orderId, lineId: timeEntryLine.orderLineId, kilometres: timeEntryLine.kilometres },
      ...{ entryDay: timeEntry.day, toAt: timeEntry.toAt },
    })
    .from(timeEntryLine)
    .innerJoin(orderLine, eq(orderLine.id, timeEntryLine.orderLineId))
    .innerJoin(timeEntry, eq(timeEntry.id, timeEntryLine.entryId))
    .where(and(inArray(orderLine.orderId, [...ids]), ne(timeEntryLine.kilometres, 0)))
    .orderBy(asc(timeEntryLine.orderLineId), asc(timeEntry.day), asc(timeEntry.id));
type Way = Awaited<ReturnType<typeof drivenOn>>[number];

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
  readonly ways: readonly Way[];
  readonly done: DoneByComing;
  /** The appointments that were kept, where the order is billed by appointment; else null. */
  readonly comings: readonly Coming[] | null;
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

/** Kilometres of each line and coming, counter-entries taken off. */
function drivenBy(ways: readonly Way[], comingBy: (when: DoneWhen) => number): DoneByComing['driven'] {
  const sums = new Map<string, { lineId: number; coming: number; kilometres: number }>();
  for (const { lineId, kilometres, entryDay, toAt } of ways) {
    const coming = comingBy(whenWorked({ entryDay, toAt }));
    const own = sums.get(`${lineId} ${coming}`);
    if (own) own.kilometres += kilometres;
    else sums.set(`${lineId} ${coming}`, { lineId, coming, kilometres });
  }
  return [...sums.values()];
}

/** When each thing was done: its day, and until when, where that is known. */
const whenWorked = (p: Pick<Piece, 'entryDay' | 'toAt'>): DoneWhen => ({ on: p.entryDay, until: p.toAt });
const whenUsed = ({ used: u }: Pick<Used[number], 'used'>, zone: Zone): DoneWhen => ({
  on: localDateAt(zone, u.at),
  until: u.at,
});
const whenSpent = ({ cost: c }: Pick<Others[number], 'cost'>): DoneWhen => ({ on: c.day, until: null });

type Facts = Pick<Charged, 'pieces' | 'used' | 'others' | 'ways' | 'lines'>;

const wasDone = (of: Facts, zone: Zone): DoneWhen[] => [
  ...of.pieces.map(whenWorked),
  ...of.used.map((u) => whenUsed(u, zone)),
  ...of.others.map(whenSpent),
];

/** As the rules want what was used and spent. */
function doneOf(of: Facts, arrivals: number, comings: readonly Coming[] | null, zone: Zone): DoneByComing {
  const comingBy = (when: DoneWhen): number => (comings === null ? 0 : comingOf(comings, when));
  return {
    driven: drivenBy(of.ways, comingBy),
    worked: of.pieces.map((p) => ({ ...workedOf(p), coming: comingBy(whenWorked(p)) })),
    parts: of.used.map(({ used: u, part }) => ({
      coming: comingBy(whenUsed({ used: u }, zone)),
      ...{ id: u.id, lineId: u.orderLineId, number: part.number, name: part.name, thousandths: u.thousandths },
      ...{ unitPrice: u.unitPrice, unitCost: u.unitCost, consumable: part.consumable },
    })),
    others: of.others.map(({ cost: c }) => ({
      coming: comingBy(whenSpent({ cost: c })),
      ...{ id: c.id, lineId: c.orderLineId, cost: c.cost, price: c.price, oursBecause: c.oursBecause },
    })),
    visits: of.lines.flatMap((l) => (l.visitPrice === null ? [] : [{ lineId: l.id, price: l.visitPrice }])),
    comings: comings?.length ?? arrivals,
  };
}

type Happened = Pick<OrderEvent, 'act' | 'at' | 'recordedAt'>;

/** Which of an order's lines were left, and when somebody arrived. */
function wentOf(happened: readonly Happened[], zone: Zone) {
  const came = happened.filter((e) => e.act.kind === 'arrived').map(({ at }) => ({ at, on: localDateAt(zone, at) }));
  return { left: leftOf(heldOf(happened).lines), arrivals: came.toSorted((a, b) => a.at - b.at) };
}

/** Orders that do not exist are left out; as many questions for many as for one. */
export async function chargedOf(db: Db, ids: readonly OrderId[]): Promise<Charged[]> {
  if (ids.length === 0) return [];
  const among = [...ids];
  const [orders, lines, events, pieces, used, others, driven] = await Promise.all([
    db
      .select({ ...ORDER, grouping: customerBilling.grouping })
      .from(workOrder)
      .leftJoin(customerBilling, eq(customerBilling.customerId, workOrder.customerId))
      .where(inArray(workOrder.id, among))
      .orderBy(asc(workOrder.id)),
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
        ...{ id: orderEvent.id, orderId: orderEvent.orderId, act: orderEvent.act, at: orderEvent.at },
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
  const plannedOf = await plannedOn(
    db,
    orders.filter((o) => o.grouping === 'appointment').map((o) => o.id),
  );
  const [linesOf, eventsOf, piecesOf, waysOf] = [byOrder(lines), byOrder(events), byOrder(pieces), byOrder(driven)];
  const usedOf = byOrder(used.map((u) => ({ orderId: u.used.orderId, u })));
  const othersOf = byOrder(others.map((o) => ({ orderId: o.cost.orderId, o })));
  return orders.map(({ cardId, grouping, ...order }): Charged => {
    const card = cardOf(cardId);
    const { left, arrivals } = wentOf(asCorrected(eventsOf(order.id)), order.zone);
    const facts = {
      lines: linesOf(order.id),
      pieces: piecesOf(order.id),
      used: usedOf(order.id).map(({ u }) => u),
      others: othersOf(order.id).map(({ o }) => o),
      ways: waysOf(order.id),
    };
    const comings =
      grouping === 'appointment' ? comingsOf(plannedOf(order.id), arrivals, wasDone(facts, order.zone)) : null;
    const done = doneOf(facts, arrivals.length, comings, order.zone);
    const charged = facts.lines.map((l): ChargedLine => ({
      ...{ id: l.id, attended: !left.has(l.id) },
      verdict: order.internal ? OWN_COST : (l.verdict?.verdict ?? null),
    }));
    const charges = (comings === null ? comesTo : comesToByComing)(done, card, charged);
    return { ...facts, order, card, done, comings, charges };
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

/** How far was driven for a charge; not for one of anything else. */
export const kilometresOf = (
  { what, lineId, coming }: Pick<Charge, 'what' | 'lineId' | 'coming'>,
  driven: DoneByComing['driven'],
): number | undefined =>
  what === 'kilometres'
    ? driven.find((d) => d.lineId === lineId && (coming === undefined || d.coming === coming))?.kilometres
    : undefined;

/** Which appointment a charge belongs to, from 1, and its day; of one nobody came to, the day it was done. Null: not billed by appointment. */
export function comingNamed({ coming }: Pick<Charge, 'coming'>, { comings, order }: Charged): ChargedComing | null {
  if (comings === null || coming === undefined) return null;
  const on = comings[coming]?.on ?? (order.doneAt === null ? undefined : localDateAt(order.zone, order.doneAt));
  return on === undefined ? null : { nth: coming + 1, on };
}
