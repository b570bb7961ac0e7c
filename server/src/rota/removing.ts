// Appointments that are no more, with everything that hangs on them.
import { inArray } from 'drizzle-orm';
import type { AppointmentId } from '#core/ids.ts';
import type { Tx } from '../platform/database.ts';
import { giveBackSteps } from './steps.ts';
import { appointment, appointmentAnswer, appointmentOrder, appointmentPerson } from './tables.ts';

export async function removeAppointments(tx: Tx, some: readonly AppointmentId[]): Promise<void> {
  const ids = [...some];
  if (ids.length === 0) return;
  await giveBackSteps(tx, ids);
  for (const of of [appointmentPerson, appointmentAnswer, appointmentOrder])
    await tx.db.delete(of).where(inArray(of.appointmentId, ids));
  await tx.db.delete(appointment).where(inArray(appointment.id, ids));
}
