// What whoever goes says to an appointment: that they take it, or why not, and that they come later.
import { group } from 'd3-array';
import { and, asc, eq, gte, inArray, isNotNull } from 'drizzle-orm';
import type { RotaAppointment, SaidOfAppointment } from '#api/rota.ts';
import type { AppointmentId, PersonId } from '#core/ids.ts';
import { instant, MINUTE, type Instant } from '#core/time/index.ts';
import { tellOnSite } from '../orders/index.ts';
import { workOrder } from '../orders/tables.ts';
import { person } from '../platform/tables.ts';
import { bareRows, bulkInsert, type Db, type Tx } from '../platform/database.ts';
import { instantText } from '../platform/columns.ts';
import { refuse } from '../platform/refuse.ts';
import type { Told } from '../platform/writing.ts';
import { holdAppointment, type KeptAppointment } from './booking.ts';
import { COMES_LATER } from './messages.ts';
import { clockAt } from './say.ts';
import { appointment, appointmentAnswer, appointmentOrder } from './tables.ts';

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

const ANSWERS = `SELECT appointment_id, person_id, version, accepted, text FROM appointment_answer WHERE appointment_id IN (?)`;

/** What was said to appointments as they stand. */
export async function answersTo(
  db: Db,
  all: readonly { readonly id: AppointmentId; readonly version: number }[],
): Promise<Map<AppointmentId, RotaAppointment['answers']>> {
  if (all.length === 0) return new Map();
  const rows = (await bareRows(db, ANSWERS, [all.map((a) => a.id)])) as [
    AppointmentId,
    PersonId,
    number,
    number,
    string,
  ][];
  const versions = new Map(all.map((a) => [a.id, a.version]));
  const said = rows.filter(([id, , version]) => versions.get(id) === version);
  return new Map(
    [...group(said, ([id]) => id)].map(([id, own]) => [
      id,
      own.map(([, personId, , accepted, text]) => ({ personId, accepted: accepted === 1, text })),
    ]),
  );
}

const SHOWN = 20;

/** Appointments that are not over and that somebody does not take, as they stand. */
const refusedAppointments = (db: Db, from: Instant) =>
  db
    .select({ of: appointment, who: person.name, text: appointmentAnswer.text })
    .from(appointmentAnswer)
    .innerJoin(person, eq(person.id, appointmentAnswer.personId))
    .innerJoin(
      appointment,
      and(eq(appointment.id, appointmentAnswer.appointmentId), eq(appointment.version, appointmentAnswer.version)),
    )
    .where(and(eq(appointmentAnswer.accepted, false), gte(appointment.toAt, from)))
    .orderBy(asc(appointment.fromAt))
    .limit(SHOWN + 1);

/** Appointments that are not over and to which somebody comes later. */
const lateAppointments = (db: Db, from: Instant) =>
  db
    .select()
    .from(appointment)
    .where(and(gte(appointment.toAt, from), isNotNull(appointment.lateMinutes)))
    .orderBy(asc(appointment.fromAt))
    .limit(SHOWN + 1);

async function ordersNamed(db: Db, ids: readonly AppointmentId[]) {
  if (ids.length === 0) return new Map<AppointmentId, { title: string; who: string | null }>();
  const rows = await db
    .select({ id: appointmentOrder.appointmentId, title: workOrder.title, who: workOrder.technician })
    .from(appointmentOrder)
    .innerJoin(workOrder, eq(workOrder.id, appointmentOrder.orderId))
    .where(inArray(appointmentOrder.appointmentId, [...ids]));
  return new Map(rows.map((r) => [r.id, r]));
}

/** What was said to appointments to come that the dispatcher has to answer to, the first to begin in front. */
export async function saidOf(db: Db, from: Instant): Promise<{ items: SaidOfAppointment[]; more: boolean }> {
  const [refused, late] = await Promise.all([refusedAppointments(db, from), lateAppointments(db, from)]);
  const named = await ordersNamed(db, [...refused.map((r) => r.of.id), ...late.map((a) => a.id)]);
  const about = ({ id, fromAt, zone }: typeof appointment.$inferSelect) => ({
    ...{ id, from: fromAt, zone, title: named.get(id)?.title ?? '' },
  });
  const items = [
    ...refused.map(({ of, who, text }) => ({ ...about(of), who, text, late: null })),
    ...late.map((a) => ({ ...about(a), who: named.get(a.id)?.who ?? '', text: a.lateText, late: a.lateMinutes })),
  ].sort((a, b) => a.from - b.from);
  return { items: items.slice(0, SHOWN), more: items.length > SHOWN };
}
