// What an order comes to: time, travel, parts and other costs with what is behind each, who bears them, and the tax of the rest.
import { and, asc, eq, inArray } from 'drizzle-orm';
import type { OrderCharges } from '#api/settle.ts';
import type { OrderId, PersonId } from '#core/ids.ts';
import { weekOf, withoutRate, type SheetState, type Worked } from '#core/labour/index.ts';
import { heldOf, leftOf } from '#core/orders/index.ts';
import { MANAGERS, seesMoney, type Role } from '#core/people.ts';
import { comesTo, totalOf, totalsOf, type Charge, type ChargedLine, type TaxRate } from '#core/settle/index.ts';
import type { LocalDate } from '#core/time/index.ts';
import { orderEvent, orderLine, workOrder } from '../orders/tables.ts';
import type { Db } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import { standardCard } from '../labour/index.ts';
import { craft, timeEntry, timePiece, timeSheet } from '../labour/tables.ts';
import { usedOn } from '../stores/index.ts';
import { othersOn } from './others.ts';
import { taxesOf } from './taxes.ts';

/** Pieces of the order's time as they were entered, with whose they are. */
const piecesOf = (db: Db, id: OrderId) =>
  db
    .select({ piece: timePiece, entry: timeEntry, name: person.name, craftNow: person.craftId })
    .from(timePiece)
    .innerJoin(timeEntry, eq(timeEntry.id, timePiece.entryId))
    .innerJoin(person, eq(person.id, timePiece.personId))
    .where(eq(timePiece.orderId, id))
    .orderBy(asc(timeEntry.day), asc(timeEntry.fromAt), asc(timePiece.id));
type Pieces = Awaited<ReturnType<typeof piecesOf>>;

/** The sheets that pieces stand on, by person and week. */
async function sheetsOf(db: Db, pieces: Pieces): Promise<(personId: PersonId, day: LocalDate) => SheetState> {
  const people = [...new Set(pieces.map((p) => p.piece.personId))];
  const weeks = [...new Set(pieces.map((p) => weekOf(p.entry.day)))];
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
const workedOf = ({ piece: p, craftNow }: Pieces[number]): Worked => ({
  ...{ lineId: p.orderLineId, personId: p.personId, craftId: p.craftId ?? craftNow },
  ...{ kind: p.kind, hours: p.hours, day: p.day, minutes: p.minutes },
});

const OURS = { share: 100, by: 'our own fleet', discount: 0 };
/** Internal work is borne by the provider, whatever it is. */
const OWN_COST: ChargedLine['verdict'] = {
  elements: { labour: OURS, parts: OURS, consumables: OURS, travel: OURS },
  surcharge: null,
};

/** Its lines with what was decided of them, and how often somebody came: no more of an order than that is read. */
async function chargedLines(db: Db, id: OrderId) {
  const [[order], lines, happened] = await Promise.all([
    db.select({ internal: workOrder.internal }).from(workOrder).where(eq(workOrder.id, id)),
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
    internal: order.internal,
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
};

function shown(charge: Charge, names: Names, money: boolean): OrderCharges['charges'][number] {
  const { lineId, what, by, labour, of, cost, list, borne, discount, pay } = charge;
  const text = of === null ? null : ((what === 'other' ? names.others : names.parts).get(of) ?? null);
  return {
    ...{ lineId, what, by, text },
    person: labour && { id: labour.personId, name: names.people.get(labour.personId) ?? '' },
    craft: (labour?.craftId && names.crafts.get(labour.craftId)) ?? null,
    hours: labour?.hours ?? null,
    minutes: labour?.minutes ?? null,
    billed: labour?.billed ?? null,
    ...(money
      ? { salesRate: labour?.salesRate ?? null, cost, list, borne, discount, pay }
      : { salesRate: null, cost: null, list: null, borne: null, discount: null, pay: null }),
  };
}

type Taxes = Awaited<ReturnType<typeof taxesOf>>;
type Used = Awaited<ReturnType<typeof usedOn>>;
type Others = Awaited<ReturnType<typeof othersOn>>;

/** The tax of the customer's amount: of parts and other costs their own, of the rest the standard one. An estimate until it is billed. */
function taxOf(charges: readonly Charge[], taxes: Taxes, used: Used, others: Others): OrderCharges['tax'] {
  const standard = taxes.find((t) => t.isStandard === true);
  if (!standard) return null;
  const own = (id: number | null): (typeof taxes)[number] => taxes.find((t) => t.id === id) ?? standard;
  const taxIdOf = ({ what, of }: Charge): number | null => {
    if (what === 'other') return others.find((o) => o.cost.id === of)?.cost.taxId ?? null;
    return used.find((u) => u.used.id === of)?.part.taxId ?? null;
  };
  const rated = charges.map((c) => ({ amount: c.pay, tax: own(c.of === null ? null : taxIdOf(c)) }));
  const totals = totalsOf(rated.map(({ amount, tax }) => ({ amount, rate: tax as TaxRate })));
  return {
    rows: totals.rows.map(({ category, hundredths, taxable, tax: due }) => ({
      name: taxes.find((t) => t.category === category && t.hundredths === hundredths)?.name ?? '',
      ...{ hundredths, taxable, tax: due },
    })),
    withTax: totals.withTax,
  };
}

const entryOut = (pieces: Pieces, stateOf: (personId: PersonId, day: LocalDate) => SheetState) =>
  pieces.map(({ piece, entry, name }) => ({
    id: entry.id,
    person: { id: piece.personId, name },
    ...{ day: piece.day, kind: piece.kind, lineId: piece.orderLineId, minutes: piece.minutes, text: entry.text },
    span: entry.fromAt && entry.toAt && { from: entry.fromAt, to: entry.toAt },
    state: stateOf(piece.personId, entry.day),
  }));

const partOut = ({ used, part, who }: Used[number]): OrderCharges['parts'][number] => ({
  ...{ id: used.id, version: used.version, lineId: used.orderLineId, thousandths: used.thousandths },
  part: { id: part.id, number: part.number, name: part.name, unit: part.unit, serialTracked: part.serialTracked },
  serial: used.serial ?? '',
  ...{ who, at: used.at },
});

const otherOut = ({ cost: c, who }: Others[number], money: boolean): OrderCharges['others'][number] => ({
  ...{ id: c.id, version: c.version, lineId: c.orderLineId, day: c.day, text: c.text, taxId: c.taxId },
  ...{ oursBecause: c.oursBecause, receiptId: c.receiptId, who },
  ...(money ? { cost: c.cost, price: c.price } : { cost: null, price: null }),
});

/** As the rules want what was used and spent. */
const doneOf = (pieces: Pieces, used: Used, others: Others, comings: number) => ({
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

/** What an order comes to. Money is left out for those who do not see it, margin for all but managers. */
export async function chargesOf(db: Db, id: OrderId, role: Role): Promise<OrderCharges> {
  const [pieces, card, crafts, used, others, taxes, { lines, comings, internal }] = await Promise.all([
    piecesOf(db, id),
    standardCard(db),
    db.select({ id: craft.id, name: craft.name }).from(craft),
    usedOn(db, id),
    othersOn(db, id),
    taxesOf(db),
    chargedLines(db, id),
  ]);
  const stateOf = await sheetsOf(db, pieces);
  const names: Names = {
    people: new Map(pieces.map((p) => [p.piece.personId as number, p.name])),
    crafts: new Map(crafts.map((c) => [c.id as number, c.name])),
    parts: new Map(used.map(({ used: u, part }) => [u.id as number, `${part.number} ${part.name}`])),
    others: new Map(others.map(({ cost: c }) => [c.id as number, c.text])),
  };
  const done = doneOf(pieces, used, others, comings);
  const charges = comesTo(done, card, lines);
  const total = totalOf(charges);
  const money = seesMoney(role);
  return {
    currency: card?.currency ?? 'EUR',
    card: card?.name ?? null,
    internal,
    charges: charges.map((c) => shown(c, names, money)),
    tax: money ? taxOf(charges, taxes, used, others) : null,
    margin: (MANAGERS as readonly Role[]).includes(role) ? total.pay - total.cost : null,
    withoutRate: (card ? withoutRate(done.worked, card) : []).map(({ personId, day }) => ({
      person: names.people.get(personId) ?? '',
      day,
    })),
    entries: entryOut(pieces, stateOf),
    parts: used.map(partOut),
    others: others.map((o) => otherOut(o, money)),
  };
}
