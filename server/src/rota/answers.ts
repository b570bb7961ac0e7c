// What whoever goes says to an appointment: that they take it, or why not, and that they come later.
import { eq } from 'drizzle-orm';
import type { AppointmentId, PersonId } from '#core/ids.ts';
import { instant, MINUTE, type Instant } from '#core/time/index.ts';
import { tellOnSite } from '../orders/index.ts';
import { bulkInsert, type Tx } from '../platform/database.ts';
import { instantText } from '../platform/columns.ts';
import { refuse } from '../platform/refuse.ts';
import type { Told } from '../platform/writing.ts';
import { holdAppointment, type KeptAppointment } from './booking.ts';
import { COMES_LATER } from './messages.ts';
import { clockAt } from './say.ts';
import { appointment } from './tables.ts';

type Who = { readonly id: PersonId; readonly name: string };

/** Under lock. Refused: one that is not theirs, or not any more. */
async function own(tx: Tx, who: Who, id: AppointmentId): Promise<KeptAppointment> {
  const row = await holdAppointment(tx, id);
  if (!row.people.includes(who.id))
    refuse('not-allowed', 'Somebody else goes there now; the office has changed it.', 'appointmentId');
  return row;
}

/** Taken, or not and why. Said again, the last counts; an appointment that is moved afterwards asks again. */
export async function answerIn(
  tx: Tx,
  told: Told,
  who: Who,
  said: {
    readonly appointmentId: AppointmentId;
    readonly version: number;
    readonly accepted: boolean;
    readonly text: string;
  },
  at: Instant,
): Promise<void> {
  const { appointmentId: id, accepted, text } = said;
  const row = await own(tx, who, id);
  if (row.version !== said.version)
    refuse('stale', 'It was moved meanwhile; look at it as it is now, and say it again.', 'version');
  if (!accepted && text === '') refuse('missing', 'Say why not.', 'text');
  await bulkInsert(
    tx.connection,
    'appointment_answer',
    ['appointment_id', 'person_id', 'version', 'accepted', 'text', 'at'],
    [[id, who.id, row.version, accepted ? 1 : 0, text, instantText(at)]],
    'ON DUPLICATE KEY UPDATE version = VALUES(version), accepted = VALUES(accepted), text = VALUES(text), at = VALUES(at)',
  );
  told({ subject: 'appointment', id, text: accepted ? 'accepted' : `not accepted: ${text}` });
}

/** So many minutes later than planned: kept for whoever looks at the rota, told to those who wait on site. */
export async function sayLateIn(
  tx: Tx,
  told: Told,
  who: Who,
  said: { readonly appointmentId: AppointmentId; readonly minutes: number; readonly text: string },
  at: Instant,
  now: Instant,
): Promise<void> {
  const { appointmentId: id, minutes, text } = said;
  const row = await own(tx, who, id);
  // What is told late is overtaken by what was said after it.
  if (row.lateAt !== null && row.lateAt > at) return;
  await tx.db
    .update(appointment)
    .set({ lateMinutes: minutes, lateAt: at, lateText: text })
    .where(eq(appointment.id, id));
  const expected = instant(row.fromAt + minutes * MINUTE);
  if (expected > now)
    for (const orderId of row.orderIds)
      await tellOnSite(
        tx,
        orderId,
        COMES_LATER,
        {
          of: `${id} ${minutes} ${at}`,
          values: { technician: who.name, time: clockAt(expected, row.zone), text },
        },
        now,
      );
  told({ subject: 'appointment', id, text: `${minutes} min later${text === '' ? '' : `: ${text}`}` });
}
