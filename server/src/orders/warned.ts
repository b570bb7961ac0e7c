// Who was warned of promises, and who answered that they see to it.
import { asc, eq, inArray } from 'drizzle-orm';
import type { Answer } from '#api/contract.ts';
import type { readWarnings } from '#api/clocks.ts';
import type { OrderId, PersonId } from '#core/ids.ts';
import { OFFICE } from '#core/people.ts';
import type { Instant } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import type { Db } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { person } from '../platform/tables.ts';
import { clockWarning, orderLine } from './tables.ts';

/** Names of people, by their ids. */
export async function namesOf(db: Db, ids: readonly PersonId[]): Promise<ReadonlyMap<PersonId, string>> {
  if (ids.length === 0) return new Map();
  const rows = await db
    .select({ id: person.id, name: person.name })
    .from(person)
    .where(inArray(person.id, [...new Set(ids)]));
  return new Map(rows.map((p) => [p.id, p.name]));
}

/** The warnings of some orders’ promises, in the order in which they came. */
export async function warned(db: Db, ids: readonly OrderId[]) {
  if (ids.length === 0) return [];
  const rows = await db
    .select()
    .from(clockWarning)
    .where(inArray(clockWarning.orderId, [...ids]))
    .orderBy(asc(clockWarning.at));
  const names = await namesOf(
    db,
    rows.flatMap((r) => [...r.told, ...(r.acknowledgedBy === null ? [] : [r.acknowledgedBy])]),
  );
  const nameOf = (id: PersonId): string => names.get(id) ?? '';
  return rows.map(({ orderLineId, target, percent, at, told, acknowledgedAt, acknowledgedBy }) => ({
    ...{ orderLineId, target, percent, at, told: told.map(nameOf), toldIds: told },
    acknowledged:
      acknowledgedAt === null || acknowledgedBy === null ? null : { at: acknowledgedAt, by: nameOf(acknowledgedBy) },
  }));
}

/** Who may answer: whoever was warned, and the office. */
export const mayAnswer = (
  { id, role }: Person,
  warnings: readonly { readonly toldIds: readonly PersonId[] }[],
): boolean => OFFICE.some((r) => r === role) || warnings.some((w) => w.toldIds.includes(id));

export async function warningsOfOrder(
  db: Db,
  who: Person,
  id: OrderId,
  now: Instant,
): Promise<Answer<typeof readWarnings>> {
  const [all, lines] = await Promise.all([
    warned(db, [id]),
    db
      .select({ id: orderLine.id, tag: asset.tag })
      .from(orderLine)
      .innerJoin(asset, eq(asset.id, orderLine.assetId))
      .where(eq(orderLine.orderId, id)),
  ]);
  return {
    items: all.map(({ orderLineId, toldIds: _, ...w }) => ({
      ...w,
      tag: lines.find((l) => l.id === orderLineId)?.tag ?? '',
    })),
    mayAnswer: mayAnswer(who, all) && all.some((w) => w.acknowledged === null),
    now,
  };
}
