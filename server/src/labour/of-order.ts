// What the time of an order comes to: its entries, and the charges by line, person, kind and hours kind.
import { and, asc, eq, inArray } from 'drizzle-orm';
import type { OrderLabour } from '#api/labour.ts';
import type { OrderId, PersonId } from '#core/ids.ts';
import {
  comesTo,
  weekOf,
  withoutRate,
  type Charge,
  type ChargedLine,
  type SheetState,
  type Worked,
} from '#core/labour/index.ts';
import { stateOfOrder } from '#core/orders/index.ts';
import { seesMoney, type Role } from '#core/people.ts';
import type { LocalDate } from '#core/time/index.ts';
import { loadOrder } from '../orders/index.ts';
import type { Db } from '../platform/database.ts';
import { accept } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import { standardCard } from './cards.ts';
import { craft, timeEntry, timePiece, timeSheet } from './tables.ts';

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

/** Its lines with what was decided of them, and how often somebody came. */
async function chargedLines(db: Db, id: OrderId): Promise<{ lines: ChargedLine[]; comings: number }> {
  const { events, facts, lines } = await loadOrder(db, id, 'look');
  const { left } = accept(stateOfOrder(facts, events));
  return {
    lines: lines.map((l) => ({ id: l.id, verdict: l.verdict?.verdict ?? null, attended: !left.has(l.id) })),
    comings: events.filter((e) => e.act.kind === 'arrived').length,
  };
}

const shown = (
  charge: Charge,
  names: ReadonlyMap<number, string>,
  crafts: ReadonlyMap<number, string>,
  money: boolean,
) => {
  const { lineId, what, by, labour, cost, list, borne, discount, pay } = charge;
  return {
    ...{ lineId, what, by },
    person: labour && { id: labour.personId, name: names.get(labour.personId) ?? '' },
    craft: (labour?.craftId && crafts.get(labour.craftId)) ?? null,
    hours: labour?.hours ?? null,
    minutes: labour?.minutes ?? null,
    billed: labour?.billed ?? null,
    ...(money
      ? { salesRate: labour?.salesRate ?? null, cost, list, borne, discount, pay }
      : { salesRate: null, cost: null, list: null, borne: null, discount: null, pay: null }),
  };
};

/** What the time of an order comes to; without time, nobody came. Money is left out for those who do not see it. */
export async function readLabour(db: Db, id: OrderId, role: Role): Promise<OrderLabour> {
  const [pieces, card, crafts, { lines, comings }] = await Promise.all([
    piecesOf(db, id),
    standardCard(db),
    db.select({ id: craft.id, name: craft.name }).from(craft),
    chargedLines(db, id),
  ]);
  const stateOf = await sheetsOf(db, pieces);
  const names = new Map(pieces.map((p) => [p.piece.personId as number, p.name]));
  const craftNames = new Map(crafts.map((c) => [c.id as number, c.name]));
  const worked = pieces.map(workedOf);
  const charges = card ? comesTo(worked, card, lines, comings) : [];
  return {
    currency: card?.currency ?? 'EUR',
    card: card?.name ?? null,
    charges: charges.map((c) => shown(c, names, craftNames, seesMoney(role))),
    withoutRate: (card ? withoutRate(worked, card) : []).map(({ personId, day }) => ({
      person: names.get(personId) ?? '',
      day,
    })),
    entries: pieces.map(({ piece, entry, name }) => ({
      id: entry.id,
      person: { id: piece.personId, name },
      ...{ day: piece.day, kind: piece.kind, lineId: piece.orderLineId, minutes: piece.minutes, text: entry.text },
      span: entry.fromAt && entry.toAt && { from: entry.fromAt, to: entry.toAt },
      state: stateOf(piece.personId, entry.day),
    })),
  };
}
