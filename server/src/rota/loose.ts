// Which orders are loose: open, and nobody is planned for them from now on.
import { and, eq, gt, gte, inArray, isNotNull, isNull, lt, lte, not, notExists, or, sql, type SQL } from 'drizzle-orm';
import type { Instant, LocalDate } from '#core/time/index.ts';
import { workOrder } from '../orders/tables.ts';
import type { Db } from '../platform/database.ts';
import { appointment, appointmentOrder } from './tables.ts';

/** Nobody is planned for it from now on. */
export const isLoose = (db: Db, now: Instant) =>
  and(
    inArray(workOrder.stage, ['raised', 'planned', 'sent']),
    notExists(
      db
        .select({ one: sql`1` })
        .from(appointmentOrder)
        .innerJoin(appointment, eq(appointment.id, appointmentOrder.appointmentId))
        .where(and(eq(appointmentOrder.orderId, workOrder.id), gt(appointment.toAt, now))),
    ),
  );

/** It waits for parts, and the house plans such work all the same. */
const isPlannedAnyway = sql`(coalesce(${workOrder.waitingFor}, '') = 'waiting for parts'
  and exists (select 1 from store_setting s where s.plan_waiting))`;

export type LooseKind = 'ready' | 'late' | 'waiting';
/** Ready: nothing is waited for and its time has not gone by; late: its time has. */
export function isOfKind(which: LooseKind, today: LocalDate): SQL | undefined {
  if (which === 'waiting') return and(isNotNull(workOrder.waitingFor), not(isPlannedAnyway));
  const isPast = lt(workOrder.nextDue, today);
  return and(
    or(isNull(workOrder.waitingFor), isPlannedAnyway),
    which === 'late' ? isPast : or(isNull(workOrder.nextDue), gte(workOrder.nextDue, today)),
  );
}

/** How far before its due day upkeep is put into a plan by itself. */
const AHEAD = sql`interval 14 day`;
/** Ready, and due soon enough to be put into a plan of days up to one by itself. */
export const isReady = (today: LocalDate, to: LocalDate): SQL | undefined =>
  and(isOfKind('ready', today), or(isNull(workOrder.nextDue), lte(workOrder.nextDue, sql`date_add(${to}, ${AHEAD})`)));
