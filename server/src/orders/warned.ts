// Who was warned of promises, and who answered that they see to it.
import { asc, eq, inArray } from 'drizzle-orm';
import type { Answer } from '#api/contract.ts';
import type { readWarnings } from '#api/clocks.ts';
import type { OrderId, PersonId } from '#core/ids.ts';
import { isOffice } from '#core/people.ts';
import type { Instant } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import type { Db } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { namesOfPeople } from '../platform/people.ts';
import { refuse } from '../platform/refuse.ts';
import { clockWarning, orderLine, workOrder } from './tables.ts';

/** The warnings of some orders’ promises, in the order in which they came. */
export async function warned(db: Db, ids: readonly OrderId[]) {
  if (ids.length === 0) return [];
  const rows = await db
    .select()
    .from(clockWarning)
    .where(inArray(clockWarning.orderId, [...ids]))
    .orderBy(asc(clockWarning.at));
  const names = await namesOfPeople(
    db,
    rows.flatMap((r) => [...r.told, r.acknowledgedBy]),
  );
  const nameOf = (id: PersonId): string => names.get(id) ?? '';
  return rows.map(({ orderLineId, target, percent, at, told, acknowledgedAt, acknowledgedBy }) => ({
    ...{ orderLineId, target, percent, at, told: told.map(nameOf), toldIds: told },
    acknowledged:
      acknowledgedAt === null || acknowledgedBy === null ? null : { at: acknowledgedAt, by: nameOf(acknowledgedBy) },
  }));
}

/** Who may answer: whoever was warned, and the office. */
const mayAnswer = ({ id, role }: Person, warnings: readonly { readonly toldIds: readonly PersonId[] }[]): boolean =>
  isOffice(role) || warnings.some((w) => w.toldIds.includes(id));

/** Refused: an order that is not there. */
async function mustBeThere(db: Db, id: OrderId): Promise<void> {
  const [order] = await db.select({ id: workOrder.id }).from(workOrder).where(eq(workOrder.id, id));
  if (!order) refuse('not-found', 'That work order does not exist.');
}

/** Refused: an order that is not there, and somebody who was neither warned of it nor is of the office. */
export async function mustMayAnswer(db: Db, who: Person, id: OrderId): Promise<void> {
  await mustBeThere(db, id);
  if (!mayAnswer(who, await warned(db, [id])))
    refuse('not-allowed', 'Whoever was warned says that they see to it, or somebody of the office.');
}

export async function warningsOfOrder(
  db: Db,
  who: Person,
  id: OrderId,
  now: Instant,
): Promise<Answer<typeof readWarnings>> {
  await mustBeThere(db, id);
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
