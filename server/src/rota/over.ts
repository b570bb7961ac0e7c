// An order that is over needs nobody any more: its appointments to come leave the rota, one that is under way ends now.
import { and, asc, eq, gt, inArray, notInArray } from 'drizzle-orm';
import type { OrderId } from '#core/ids.ts';
import { FINISHED_STAGES } from '#core/orders/index.ts';
import { atStep, STEP_MINUTES } from '#core/rota/index.ts';
import { instant, MINUTE, type Instant } from '#core/time/index.ts';
import { workOrder } from '../orders/tables.ts';
import type { Tx } from '../platform/database.ts';
import { whenOrders } from '../platform/order-life.ts';
import { goersOf } from './days.ts';
import { removeAppointments } from './removing.ts';
import { giveBackSteps, takeSteps } from './steps.ts';
import { appointment, appointmentOrder } from './tables.ts';

async function endNow(tx: Tx, of: typeof appointment.$inferSelect, now: Instant): Promise<void> {
  const to = instant(Math.max(atStep(now), of.fromAt + STEP_MINUTES * MINUTE));
  if (to >= of.toAt) return;
  const people = (await goersOf(tx.db, [of.id])).get(of.id) ?? [];
  await giveBackSteps(tx, [of.id]);
  await tx.db
    .update(appointment)
    .set({ toAt: to, version: of.version + 1 })
    .where(eq(appointment.id, of.id));
  await takeSteps(tx, [{ id: of.id, people, span: { from: of.fromAt, to }, overlaps: true }]);
}

/** One that serves others that are not over stays as it is. */
async function letGo(tx: Tx, id: OrderId, now: Instant): Promise<void> {
  const rows = await tx.db
    .select({ appointment })
    .from(appointmentOrder)
    .innerJoin(appointment, eq(appointment.id, appointmentOrder.appointmentId))
    .where(and(eq(appointmentOrder.orderId, id), gt(appointment.toAt, now)))
    .orderBy(asc(appointment.id));
  if (rows.length === 0) return;
  const needed = await tx.db
    .select({ id: appointmentOrder.appointmentId })
    .from(appointmentOrder)
    .innerJoin(workOrder, eq(workOrder.id, appointmentOrder.orderId))
    .where(
      and(
        inArray(
          appointmentOrder.appointmentId,
          rows.map((r) => r.appointment.id),
        ),
        notInArray(workOrder.stage, [...FINISHED_STAGES]),
      ),
    );
  const free = rows.map((r) => r.appointment).filter((a) => !needed.some((n) => n.id === a.id));
  await removeAppointments(
    tx,
    free.filter((a) => a.fromAt >= now).map((a) => a.id),
  );
  for (const a of free.filter((x) => x.fromAt < now)) await endNow(tx, a, now);
}

export const lettingGo = (): void => whenOrders({ over: letGo });
