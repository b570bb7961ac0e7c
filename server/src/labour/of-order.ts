// What the time of an order comes to: its entries, and the charges by line, person, kind and hours kind.
import { and, asc, eq, inArray } from 'drizzle-orm';
import type { OrderLabour } from '#api/labour.ts';
import type { OrderId } from '#core/ids.ts';
import { labourCharges, weekOf, withoutRate, type Worked } from '#core/labour/index.ts';
import { seesMoney, type Role } from '#core/people.ts';
import type { Db } from '../platform/database.ts';
import { person } from '../platform/tables.ts';
import { standardCard } from './cards.ts';
import { craft, timeEntry, timePiece, timeSheet } from './tables.ts';

/** Refused: nothing; an order without time has none. Money is left out for those who do not see it. */
export async function readLabour(db: Db, id: OrderId, role: Role): Promise<OrderLabour> {
  const [pieces, card, crafts] = await Promise.all([
    db
      .select({ piece: timePiece, entry: timeEntry, name: person.name, craftNow: person.craftId })
      .from(timePiece)
      .innerJoin(timeEntry, eq(timeEntry.id, timePiece.entryId))
      .innerJoin(person, eq(person.id, timePiece.personId))
      .where(eq(timePiece.orderId, id))
      .orderBy(asc(timeEntry.day), asc(timeEntry.fromAt), asc(timePiece.id)),
    standardCard(db),
    db.select({ id: craft.id, name: craft.name }).from(craft),
  ]);
  const people = [...new Set(pieces.map((p) => p.piece.personId))];
  const sheets =
    people.length === 0
      ? []
      : await db
          .select()
          .from(timeSheet)
          .where(
            and(
              inArray(timeSheet.personId, people),
              inArray(timeSheet.week, [...new Set(pieces.map((p) => weekOf(p.entry.day)))]),
            ),
          );
  const names = new Map(pieces.map((p) => [p.piece.personId as number, p.name]));
  // Entered before the person had a craft: theirs of now.
  const worked = pieces.map(({ piece: p, craftNow }): Worked => ({
    ...{ lineId: p.orderLineId, personId: p.personId, craftId: p.craftId ?? craftNow },
    ...{ kind: p.kind, hours: p.hours, day: p.day, minutes: p.minutes },
  }));
  const money = seesMoney(role);
  return {
    currency: card?.currency ?? 'EUR',
    card: card?.name ?? null,
    charges: (card ? labourCharges(worked, card) : []).map(({ personId, craftId, costRate: _, ...c }) => ({
      ...c,
      person: { id: personId, name: names.get(personId) ?? '' },
      craft: crafts.find((k) => k.id === craftId)?.name ?? null,
      ...(!money && { salesRate: null, cost: null, list: null }),
    })),
    withoutRate: (card ? withoutRate(worked, card) : []).map(({ personId, day }) => ({
      person: names.get(personId) ?? '',
      day,
    })),
    entries: pieces.map(({ piece, entry, name }) => ({
      id: entry.id,
      person: { id: piece.personId, name },
      ...{ day: piece.day, kind: piece.kind, lineId: piece.orderLineId, minutes: piece.minutes, text: entry.text },
      span: entry.fromAt && entry.toAt && { from: entry.fromAt, to: entry.toAt },
      state:
        sheets.find((s) => s.personId === piece.personId && s.week === weekOf(entry.day))?.state ?? ('open' as const),
    })),
  };
}
