// What an order comes to: time, travel, parts and other costs with what is behind each, who bears them, and the tax of the rest.
import { and, asc, eq, inArray, sql } from 'drizzle-orm';
import type { OrderCharges } from '#api/settle.ts';
import type { OrderId, PersonId } from '#core/ids.ts';
import { weekOf, withoutRate, type RateCard, type SheetState, type Worked } from '#core/labour/index.ts';
import { heldOf, leftOf } from '#core/orders/index.ts';
import { MANAGERS, seesMoney, type Role } from '#core/people.ts';
import { comesTo, totalOf, totalsOf, type Charge, type ChargedLine, type TaxRate } from '#core/settle/index.ts';
import type { LocalDate } from '#core/time/index.ts';
import { offer } from '../offers/tables.ts';
import { orderEvent, orderLine, workOrder } from '../orders/tables.ts';
import type { Db } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import { cardsOf } from '../labour/index.ts';
import { craft, timeEntry, timeEntryLine, timePiece, timeSheet } from '../labour/tables.ts';
import { usedOn } from '../stores/index.ts';
import { othersOn } from './others.ts';
import { paymentsOf } from './kept-payments.ts';
import { taxesOf } from './taxes.ts';

/** Pieces of the order's time as they were entered, with whose they are; no more columns than are shown, of orders with many. */
const piecesOf = (db: Db, id: OrderId) =>
  db
    .select({
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
    .where(eq(timePiece.orderId, id))
    .orderBy(asc(timeEntry.day), asc(timeEntry.fromAt), asc(timePiece.id));
type Pieces = Awaited<ReturnType<typeof piecesOf>>;

/** What was driven for each line of the order. */
const drivenOf = async (db: Db, id: OrderId) => {
  const rows = await db
    .select({ lineId: timeEntryLine.orderLineId, kilometres: sql<string>`sum(${timeEntryLine.kilometres})` })
    .from(timeEntryLine)
    .innerJoin(orderLine, eq(orderLine.id, timeEntryLine.orderLineId))
    .where(eq(orderLine.orderId, id))
    .groupBy(timeEntryLine.orderLineId);
  return rows.map((r) => ({ lineId: r.lineId as number, kilometres: Number(r.kilometres) }));
};
type Driven = Awaited<ReturnType<typeof drivenOf>>;

/** The sheets that pieces stand on, by person and week. */
async function sheetsOf(db: Db, pieces: Pieces): Promise<(personId: PersonId, day: LocalDate) => SheetState> {
  const people = [...new Set(pieces.map((p) => p.personId))];
  const weeks = [...new Set(pieces.map((p) => weekOf(p.entryDay)))];
  const sheets =
    people.length === 0
      ? []
      : await db
          .select()
          .from(timeSheet)
          .where(and(inArray(timeSheet.personId, people), inArray(timeSheet.week, weeks)));
  const known = new Map(sheets.map((s) => [`${s.personId} ${s.week}`, s.state]));
  return (personId, day) => known.get(`${personId} ${weekOf(day)}`) ?? 'open';
}

// Entered before the person had a craft: theirs of now.
const workedOf = ({ lineId, personId, craftId, craftNow, kind, hours, day, minutes }: Pieces[number]): Worked => ({
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

/** Its lines with what was decided of them, its rate card, and how often somebody came: no more of an order than that is read. */
async function chargedLines(db: Db, id: OrderId) {
  const [[order], lines, happened] = await Promise.all([
    db
      .select({ internal: workOrder.internal, cardId: workOrder.rateCardId })
      .from(workOrder)
      .where(eq(workOrder.id, id)),
    db
      .select({ id: orderLine.id, verdict: orderLine.verdict })
      .from(orderLine)
      .where(eq(orderLine.orderId, id))
      .orderBy(asc(orderLine.id)),
    db
      .select({ act: orderEvent.act, at: orderEvent.at, recordedAt: orderEvent.recordedAt })
      .from(orderEvent)
      .where(eq(orderEvent.orderId, id))
      .orderBy(asc(orderEvent.id)),
  ]);
  if (!order) refuse('not-found', 'That work order does not exist.');
  const left = leftOf(heldOf(happened).lines);
  return {
    ...{ internal: order.internal, cardId: order.cardId },
    lines: lines.map((l): ChargedLine => ({
      ...{ id: l.id, attended: !left.has(l.id) },
      verdict: order.internal ? OWN_COST : (l.verdict?.verdict ?? null),
    })),
    comings: happened.filter((e) => e.act.kind === 'arrived').length,
  };
}

type Names = {
  readonly people: ReadonlyMap<number, string>;
  readonly crafts: ReadonlyMap<number, string>;
  readonly parts: ReadonlyMap<number, string>;
  readonly others: ReadonlyMap<number, string>;
  /** Of each line, in words. */
  readonly driven: ReadonlyMap<number, string>;
};

/** What the part is, what the other cost was for, how far it was. */
function textOf({ of, what, lineId }: Charge, names: Names): string | null {
  if (what === 'kilometres') return names.driven.get(lineId) ?? null;
  return of === null ? null : ((what === 'other' ? names.others : names.parts).get(of) ?? null);
}

/** Written out: an order may have hundreds. */
function shown(charge: Charge, names: Names, money: boolean): OrderCharges['charges'][number] {
  const { labour, what } = charge;
  const craftId = labour?.craftId ?? null;
  return {
    lineId: charge.lineId,
    what,
    by: charge.by,
    text: textOf(charge, names),
    person: labour && { id: labour.personId, name: names.people.get(labour.personId) ?? '' },
    craft: craftId === null ? null : (names.crafts.get(craftId) ?? null),
    hours: labour?.hours ?? null,
    minutes: labour?.minutes ?? null,
    billed: labour?.billed ?? null,
    salesRate: money ? (labour?.salesRate ?? null) : null,
    cost: money ? charge.cost : null,
    list: money ? charge.list : null,
    borne: money ? charge.borne : null,
    discount: money ? charge.discount : null,
    pay: money ? charge.pay : null,
  };
}

type Taxes = Awaited<ReturnType<typeof taxesOf>>;
type Used = Awaited<ReturnType<typeof usedOn>>;
type Others = Awaited<ReturnType<typeof othersOn>>;

/** The tax of the customer's amount: of parts and other costs their own, of the rest the standard one. An estimate until it is billed. */
function taxOf(charges: readonly Charge[], taxes: Taxes, used: Used, others: Others): OrderCharges['tax'] {
  const standard = taxes.find((t) => t.isStandard === true);
  if (!standard) return null;
  const byId = new Map(taxes.map((t) => [t.id as number, t]));
  const taxOfPart = new Map(used.map((u) => [u.used.id as number, u.part.taxId]));
  const taxOfOther = new Map(others.map((o) => [o.cost.id as number, o.cost.taxId]));
  const rateOf = ({ what, of }: Charge): TaxRate => {
    const id = of === null ? null : ((what === 'other' ? taxOfOther : taxOfPart).get(of) ?? null);
    return (id === null ? undefined : byId.get(id)) ?? standard;
  };
  const totals = totalsOf(charges.map((c) => ({ amount: c.pay, rate: rateOf(c) })));
  return {
    rows: totals.rows.map(({ category, hundredths, taxable, tax: due }) => ({
      name: taxes.find((t) => t.category === category && t.hundredths === hundredths)?.name ?? '',
      ...{ hundredths, taxable, tax: due },
    })),
    withTax: totals.withTax,
  };
}

const entryOut = (pieces: Pieces, stateOf: (personId: PersonId, day: LocalDate) => SheetState) =>
  pieces.map((p) => ({
    id: p.entryId,
    person: { id: p.personId, name: p.name },
    day: p.day,
    kind: p.kind,
    lineId: p.lineId,
    minutes: p.minutes,
    text: p.text,
    span: p.fromAt && p.toAt && { from: p.fromAt, to: p.toAt },
    state: stateOf(p.personId, p.entryDay),
  }));

const partOut = ({ used, part, who, storeName }: Used[number]): OrderCharges['parts'][number] => ({
  ...{ id: used.id, version: used.version, lineId: used.orderLineId, thousandths: used.thousandths },
  part: { id: part.id, number: part.number, name: part.name, unit: part.unit, serialTracked: part.serialTracked },
  ...{ serial: used.serial ?? '', orderId: used.orderId },
  store: used.storeId !== null && storeName !== null ? { id: used.storeId, name: storeName } : null,
  ...{ who, at: used.at },
});

const otherOut = ({ cost: c, who }: Others[number], money: boolean): OrderCharges['others'][number] => ({
  ...{ id: c.id, version: c.version, lineId: c.orderLineId, day: c.day, text: c.text, taxId: c.taxId },
  ...{ oursBecause: c.oursBecause, receiptId: c.receiptId, who },
  ...(money ? { cost: c.cost, price: c.price } : { cost: null, price: null }),
});

/** As the rules want what was used and spent. */
const doneOf = (pieces: Pieces, used: Used, others: Others, comings: number, driven: Driven) => ({
  driven,
  worked: pieces.map(workedOf),
  parts: used.map(({ used: u, part }) => ({
    ...{ id: u.id, lineId: u.orderLineId, number: part.number, name: part.name, thousandths: u.thousandths },
    ...{ unitPrice: u.unitPrice, unitCost: u.unitCost, consumable: part.consumable },
  })),
  others: others.map(({ cost: c }) => ({
    ...{ id: c.id, lineId: c.orderLineId, cost: c.cost, price: c.price, oursBecause: c.oursBecause },
  })),
  comings,
});

/** How much more the customer’s amount is than they were offered; not said where it was in another currency. */
const beyondOf = (accepted: { withoutTax: number; currency: string }, card: RateCard | null, pay: number) =>
  accepted.currency === (card?.currency ?? 'EUR') ? pay - accepted.withoutTax : null;

/** What an order comes to. Money is left out for those who do not see it, margin for all but managers. */
export async function chargesOf(db: Db, id: OrderId, role: Role): Promise<OrderCharges> {
  const [pieces, crafts, used, others, taxes, driven, { lines, comings, internal, cardId }, [accepted], payments] =
    await Promise.all([
      piecesOf(db, id),
      db.select({ id: craft.id, name: craft.name }).from(craft),
      usedOn(db, id),
      othersOn(db, id),
      taxesOf(db),
      drivenOf(db, id),
      chargedLines(db, id),
      db
        .select({ id: offer.id, withoutTax: offer.withoutTax, currency: offer.currency })
        .from(offer)
        .where(eq(offer.orderId, id))
        .limit(1),
      paymentsOf(db, id),
    ]);
  const [stateOf, cardOf] = await Promise.all([sheetsOf(db, pieces), cardsOf(db, [cardId])]);
  const card = cardOf(cardId);
  const names: Names = {
    people: new Map(pieces.map((p) => [p.personId as number, p.name])),
    crafts: new Map(crafts.map((c) => [c.id as number, c.name])),
    parts: new Map(used.map(({ used: u, part }) => [u.id as number, `${part.number} ${part.name}`])),
    others: new Map(others.map(({ cost: c }) => [c.id as number, c.text])),
    driven: new Map(driven.map((d) => [d.lineId, `${d.kilometres} km`])),
  };
  const done = doneOf(pieces, used, others, comings, driven);
  const charges = comesTo(done, card, lines);
  const total = totalOf(charges);
  const money = seesMoney(role);
  return {
    currency: card?.currency ?? 'EUR',
    card: card?.name ?? null,
    internal,
    charges: charges.map((c) => shown(c, names, money)),
    tax: money ? taxOf(charges, taxes, used, others) : null,
    offered: money && accepted ? { ...accepted, beyond: beyondOf(accepted, card, total.pay) } : null,
    margin: (MANAGERS as readonly Role[]).includes(role) ? total.pay - total.cost : null,
    withoutRate: (card ? withoutRate(done.worked, card) : []).map(({ personId, day }) => ({
      person: names.people.get(personId) ?? '',
      day,
    })),
    entries: entryOut(pieces, stateOf),
    parts: used.map(partOut),
    others: others.map((o) => otherOut(o, money)),
    payments: payments.map(({ payment: p, who }) => ({
      ...{ id: p.id, way: p.way, state: p.state, amount: money ? p.amount : null, currency: p.currency },
      ...{ receipt: p.receipt, who, at: p.at },
    })),
  };
}
