// What past visits really took, beside what is contracted for them.
import { and, desc, eq, inArray, isNotNull } from 'drizzle-orm';
import type { JobPlanId } from '#core/ids.ts';
import { spreadOf } from '#core/orders/index.ts';
import { orderLine } from '../orders/tables.ts';
import type { Db } from '../platform/database.ts';
import { schedule, visit } from './tables.ts';

/** Schedules and visits that are looked at: the latest say enough. */
const SCHEDULES = 300;
const VISITS = 1000;

/** Minutes of labour of the latest visits of a job plan whose effort was told. */
export async function readTook(db: Db, jobPlanId: JobPlanId) {
  const own = await db
    .select({ id: schedule.id })
    .from(schedule)
    .where(eq(schedule.jobPlanId, jobPlanId))
    .orderBy(desc(schedule.id))
    .limit(SCHEDULES);
  if (own.length === 0) return { took: null };
  const rows = await db
    .select({ minutes: orderLine.labourMinutes })
    .from(visit)
    .innerJoin(orderLine, and(eq(orderLine.orderId, visit.orderId), eq(orderLine.visitId, visit.id)))
    .where(
      and(
        inArray(
          visit.scheduleId,
          own.map((s) => s.id),
        ),
        eq(visit.jobPlanId, jobPlanId),
        isNotNull(orderLine.labourMinutes),
      ),
    )
    .orderBy(desc(visit.id))
    .limit(VISITS);
  return { took: spreadOf(rows.flatMap((r) => r.minutes ?? [])) };
}
