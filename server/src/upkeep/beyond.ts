// Visits beyond a counted right, told before they are raised: decided in the order of their due dates, as the run will decide them.
import { and, eq, gt, inArray, isNull, lte, or } from 'drizzle-orm';
import type { LocalDate } from '#core/time/index.ts';
import type { VisitKey } from '#core/upkeep/index.ts';
import { agreement } from '../agreements/tables.ts';
import { asset } from '../assets/tables.ts';
import { type BeyondRight, visitVerdicts } from '../entitlement/index.ts';
import { allowance } from '../entitlement/tables.ts';
import type { Db } from '../platform/database.ts';
import { visitKey } from './owed.ts';
import { plannedVisit, schedule, visit } from './tables.ts';

const ORDINALS = new Intl.PluralRules('en-GB', { type: 'ordinal' });
const ENDINGS: Readonly<Record<string, string>> = { one: 'st', two: 'nd', few: 'rd' };

/** "6th of 5: chargeable". */
export const sayBeyond = ({ nth, granted }: BeyondRight): string =>
  `${nth}${ENDINGS[ORDINALS.select(nth)] ?? 'th'} of ${granted}: chargeable`;

export type Beyond = {
  /** By visit: the how-manieth of how many it would be. */
  readonly said: ReadonlyMap<string, string>;
  /** Visits that draw on what is counted, in the order in which they do: by due date. */
  readonly counted: readonly VisitKey[];
};
export const NONE_BEYOND: Beyond = { said: new Map(), counted: [] };

/** Customers whose visits are counted by an agreement. */
async function countingCustomers(db: Db): Promise<number[]> {
  const rows = await db
    .selectDistinct({ id: agreement.customerId })
    .from(allowance)
    .innerJoin(agreement, eq(agreement.id, allowance.agreementId))
    .where(eq(allowance.unit, 'visits'));
  return rows.map((r) => r.id);
}

/**
 * Which of the visits to be raised by a date lie beyond a counted right. Only where something is counted: visits under the
 * agreements of a customer, or free visits of a machine’s warranty. What is held draws nothing.
 */
export async function beyondRights(
  db: Db,
  { to, today }: { readonly to: LocalDate; readonly today: LocalDate },
): Promise<Beyond> {
  const counting = await countingCustomers(db);
  const p = plannedVisit;
  const counted = or(
    gt(asset.warrantyVisits, 0),
    counting.length === 0 ? undefined : inArray(asset.customerId, counting as never[]),
  );
  const rows = await db
    .select({
      scheduleId: p.scheduleId,
      nominal: p.nominal,
      part: p.part,
      due: p.due,
      assetId: schedule.assetId,
      state: visit.state,
      until: visit.holdUntil,
    })
    .from(p)
    .innerJoin(schedule, eq(schedule.id, p.scheduleId))
    .innerJoin(asset, eq(asset.id, schedule.assetId))
    .leftJoin(visit, and(eq(visit.scheduleId, p.scheduleId), eq(visit.nominal, p.nominal), eq(visit.part, p.part)))
    .where(
      and(
        lte(p.raiseOn, to),
        isNull(p.absorbedBy),
        counted,
        or(isNull(visit.id), inArray(visit.state, ['held', 'accepted'])),
      ),
    );
  const drawing = rows.filter((r) => r.state !== 'held' || (r.until !== null && r.until <= today));
  if (drawing.length === 0) return NONE_BEYOND;
  const decided = await visitVerdicts(db, drawing, 'look');
  const said = new Map(
    drawing.flatMap((r, i) => {
      const beyond = decided[i]?.beyond;
      return beyond ? [[visitKey(r.scheduleId, r.nominal, r.part), sayBeyond(beyond)] as const] : [];
    }),
  );
  const inOrder = [...drawing].sort((a, b) => (a.due < b.due ? -1 : a.due > b.due ? 1 : 0));
  return { said, counted: inOrder.map(({ scheduleId, nominal, part }) => ({ scheduleId, nominal, part })) };
}
