// Everybody's hours of a month: by kind and hours kind, with their cost by the rates of each day.
import { group, sum } from 'd3-array';
import { asc, between, eq, sql } from 'drizzle-orm';
import type { HoursOfMonth } from '#api/labour-month.ts';
import { costOf, withoutRate, type EntryKind, type HoursKind, type Worked } from '#core/labour/index.ts';
import { addDays, addMonths, type LocalDate } from '#core/time/index.ts';
import type { Db } from '../platform/database.ts';
import { person } from '../platform/tables.ts';
import { standardCard } from './cards.ts';
import { craft, timePiece } from './tables.ts';

/** Days of the person's month. Sums by day, so that each is costed by its own rate. */
export async function readMonth(db: Db, month: string): Promise<HoursOfMonth> {
  const first = `${month}-01` as LocalDate;
  const last = addDays(addMonths(first, 1), -1);
  const craftId = sql<(typeof timePiece.$inferSelect)['craftId']>`coalesce(${timePiece.craftId}, ${person.craftId})`;
  const [rows, card, crafts] = await Promise.all([
    db
      .select({
        personId: person.id,
        name: person.name,
        craftNow: person.craftId,
        craftId,
        kind: timePiece.kind,
        hours: timePiece.hours,
        day: timePiece.day,
        minutes: sql<number>`sum(${timePiece.minutes})`,
      })
      .from(timePiece)
      .innerJoin(person, eq(person.id, timePiece.personId))
      .where(between(timePiece.day, first, last))
      .groupBy(person.id, person.name, person.craftId, craftId, timePiece.kind, timePiece.hours, timePiece.day)
      .orderBy(asc(person.name), asc(person.id)),
    standardCard(db),
    db.select({ id: craft.id, name: craft.name }).from(craft),
  ]);
  const items = [...group(rows, (r) => r.personId).values()].map((own) => {
    const [{ personId, name, craftNow }] = own as [(typeof own)[number]];
    const worked = own.map((r): Worked => ({ ...r, lineId: 0, minutes: Number(r.minutes) }));
    const of = (kind: EntryKind): number =>
      sum(
        worked.filter((w) => w.kind === kind),
        (w) => w.minutes,
      );
    const at = (hours: HoursKind): number =>
      sum(
        worked.filter((w) => w.hours === hours),
        (w) => w.minutes,
      );
    return {
      person: { id: personId, name },
      craft: crafts.find((c) => c.id === craftNow)?.name ?? null,
      ...{ work: of('work'), travel: of('travel'), waiting: of('waiting') },
      ...{ normal: at('normal'), outside: at('outside'), night: at('night'), holiday: at('holiday') },
      cost: card ? costOf(worked, card) : 0,
      withoutRate: card !== null && withoutRate(worked, card).length > 0,
    };
  });
  return { month, currency: card?.currency ?? 'EUR', card: card?.name ?? null, items };
}
