// What goes over to the machine that is swapped in: coverage lines and schedules that name the old one, from the day of the swap on.
import { and, eq, gte, inArray, isNull, ne, or } from 'drizzle-orm';
import { OPEN_STAGES } from '#core/orders/index.ts';
import type { AssetId, ScheduleId } from '#core/ids.ts';
import { addDays, type LocalDate } from '#core/time/index.ts';
import type { Db, Tx } from '../platform/database.ts';
import { jobPlan } from '../catalogue/tables.ts';
import { agreement, coverageLine } from '../agreements/tables.ts';
import { schedule, visit } from '../upkeep/tables.ts';
import { orderLine, workOrder } from '../orders/tables.ts';

/** Lines and schedules that still hold on the day or begin later, and the orders that are open on the old machine. */
export async function goingOver(db: Db, id: AssetId, on: LocalDate) {
  const [lines, schedules, orders] = await Promise.all([
    db
      .select({ line: coverageLine, agreement })
      .from(coverageLine)
      .innerJoin(agreement, eq(agreement.id, coverageLine.agreementId))
      .where(
        and(
          eq(coverageLine.assetId, id),
          ne(agreement.stage, 'ended'),
          or(isNull(coverageLine.termTo), gte(coverageLine.termTo, on)),
        ),
      ),
    db
      .select({ schedule, agreement, jobPlan: jobPlan.name })
      .from(schedule)
      .innerJoin(agreement, eq(agreement.id, schedule.agreementId))
      .innerJoin(jobPlan, eq(jobPlan.id, schedule.jobPlanId))
      .where(
        and(
          eq(schedule.assetId, id),
          ne(agreement.stage, 'ended'),
          or(isNull(schedule.holdsTo), gte(schedule.holdsTo, on)),
        ),
      ),
    db
      .select({ id: workOrder.id, title: workOrder.title })
      .from(orderLine)
      .innerJoin(workOrder, eq(workOrder.id, orderLine.orderId))
      .where(and(eq(orderLine.assetId, id), inArray(workOrder.stage, [...OPEN_STAGES])))
      .limit(50),
  ]);
  return { lines, schedules, orders };
}

type GoingOver = Pick<Awaited<ReturnType<typeof goingOver>>, 'lines' | 'schedules'>;

/**
 * Splits each by the day: what held before stays with the old machine, so that any past day answers as it was. A draft, and what
 * begins on the day or later, names the new machine as a whole. Visits that were raised or held for the day and later keep their
 * identity under the new schedule, so that none is raised twice.
 */
export async function handOver(tx: Tx, { lines, schedules }: GoingOver, to: AssetId, on: LocalDate): Promise<void> {
  const dayBefore = addDays(on, -1);
  for (const { line, agreement: of } of lines) {
    const held = of.stage !== 'draft' && line.termFrom < on;
    await tx.db
      .update(coverageLine)
      .set(held ? { termTo: dayBefore } : { assetId: to })
      .where(eq(coverageLine.id, line.id));
    const { id: _, ...kept } = line;
    if (held) await tx.db.insert(coverageLine).values({ ...kept, assetId: to, termFrom: on, rootId: null });
  }
  for (const { schedule: row, agreement: of } of schedules) {
    const owed = of.stage !== 'draft' && (row.holdsFrom ?? row.anchor) < on;
    await tx.db
      .update(schedule)
      .set(owed ? { holdsTo: dayBefore } : { assetId: to })
      .where(eq(schedule.id, row.id));
    let heldUnder: ScheduleId = row.id;
    if (owed) {
      const { id: _, ...kept } = row;
      const [made] = await tx.db
        .insert(schedule)
        .values({ ...kept, assetId: to, holdsFrom: on })
        .$returningId();
      heldUnder = made?.id as ScheduleId;
      await tx.db
        .update(visit)
        .set({ scheduleId: heldUnder })
        .where(and(eq(visit.scheduleId, row.id), gte(visit.nominal, on)));
    }
    await tx.db
      .update(visit)
      .set({ assetId: to })
      .where(and(eq(visit.scheduleId, heldUnder), gte(visit.nominal, on), eq(visit.state, 'held')));
  }
}
