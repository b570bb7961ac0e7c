// What an order comes to: time, travel, parts and other costs with what is behind each, who bears them, and the tax of the rest.
import { and, eq, inArray } from 'drizzle-orm';
import type { OrderCharges } from '#api/settle.ts';
import type { OrderId, PersonId } from '#core/ids.ts';
import { weekOf, withoutRate, type RateCard, type SheetState } from '#core/labour/index.ts';
import { MANAGERS, seesMoney, type Role } from '#core/people.ts';
import { totalOf, totalsOf, type Charge, type TaxRate } from '#core/settle/index.ts';
import type { LocalDate } from '#core/time/index.ts';
import { offer } from '../offers/tables.ts';
import type { Db } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { craft, timeSheet } from '../labour/tables.ts';
import { chargedOf, kilometresOf, rateOfCharge, type Charged, type Taxes } from './charging.ts';
import { paymentsOf } from './kept-payments.ts';
import { taxesOf } from './taxes.ts';

/** The sheets that pieces stand on, by person and week. */
async function sheetsOf(
  db: Db,
  pieces: Charged['pieces'],
): Promise<(personId: PersonId, day: LocalDate) => SheetState> {
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

type Names = {
  readonly people: ReadonlyMap<number, string>;
  readonly crafts: ReadonlyMap<number, string>;
  readonly parts: ReadonlyMap<number, string>;
  readonly others: ReadonlyMap<number, string>;
  readonly kilometres: (charge: Charge) => number | undefined;
};

/** What the part is, what the other cost was for, how far it was. */
function textOf(charge: Charge, names: Names): string | null {
  const { of, what } = charge;
  const kilometres = names.kilometres(charge);
  if (kilometres !== undefined) return `${kilometres} km`;
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

/** The tax of the customer's amount, an estimate until it is billed. */
function taxOf(charged: Charged, taxes: Taxes): OrderCharges['tax'] {
  if (!taxes.some((t) => t.isStandard === true)) return null;
  const rateOf = rateOfCharge(taxes, charged);
  const totals = totalsOf(charged.charges.map((c) => ({ amount: c.pay, rate: rateOf(c) as TaxRate })));
  return {
    rows: totals.rows.map(({ category, hundredths, taxable, tax: due }) => ({
      name: taxes.find((t) => t.category === category && t.hundredths === hundredths)?.name ?? '',
      ...{ hundredths, taxable, tax: due },
    })),
    withTax: totals.withTax,
  };
}

const entryOut = (pieces: Charged['pieces'], stateOf: (personId: PersonId, day: LocalDate) => SheetState) =>
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

const partOut = ({ used, part, who, storeName }: Charged['used'][number]): OrderCharges['parts'][number] => ({
  ...{ id: used.id, version: used.version, lineId: used.orderLineId, thousandths: used.thousandths },
  part: { id: part.id, number: part.number, name: part.name, unit: part.unit, serialTracked: part.serialTracked },
  ...{ serial: used.serial ?? '', orderId: used.orderId },
  store: used.storeId !== null && storeName !== null ? { id: used.storeId, name: storeName } : null,
  ...{ who, at: used.at },
});

const otherOut = ({ cost: c, who }: Charged['others'][number], money: boolean): OrderCharges['others'][number] => ({
  ...{ id: c.id, version: c.version, lineId: c.orderLineId, day: c.day, text: c.text, taxId: c.taxId },
  ...{ oursBecause: c.oursBecause, receiptId: c.receiptId, who },
  ...(money ? { cost: c.cost, price: c.price } : { cost: null, price: null }),
});

/** How much more the customer’s amount is than they were offered; not said where it was in another currency. */
const beyondOf = (accepted: { withoutTax: number; currency: string }, card: RateCard | null, pay: number) =>
  accepted.currency === (card?.currency ?? 'EUR') ? pay - accepted.withoutTax : null;

/** What an order comes to. Money is left out for those who do not see it, margin for all but managers. */
export async function chargesOf(db: Db, id: OrderId, role: Role): Promise<OrderCharges> {
  const [[charged], crafts, taxes, [accepted], payments] = await Promise.all([
    chargedOf(db, [id]),
    db.select({ id: craft.id, name: craft.name }).from(craft),
    taxesOf(db),
    db
      .select({ id: offer.id, withoutTax: offer.withoutTax, currency: offer.currency })
      .from(offer)
      .where(eq(offer.orderId, id))
      .limit(1),
    paymentsOf(db, id),
  ]);
  if (!charged) refuse('not-found', 'That work order does not exist.');
  const { order, card, pieces, used, others, done, charges } = charged;
  const stateOf = await sheetsOf(db, pieces);
  const names: Names = {
    people: new Map(pieces.map((p) => [p.personId as number, p.name])),
    crafts: new Map(crafts.map((c) => [c.id as number, c.name])),
    parts: new Map(used.map(({ used: u, part }) => [u.id as number, `${part.number} ${part.name}`])),
    others: new Map(others.map(({ cost: c }) => [c.id as number, c.text])),
    kilometres: (c) => kilometresOf(c, done.driven),
  };
  const total = totalOf(charges);
  const money = seesMoney(role);
  return {
    currency: card?.currency ?? 'EUR',
    card: card?.name ?? null,
    internal: order.internal,
    charges: charges.map((c) => shown(c, names, money)),
    tax: money ? taxOf(charged, taxes) : null,
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
