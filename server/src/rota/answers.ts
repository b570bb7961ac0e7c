// What whoever goes says to an appointment: that they take it, or why not, and that they come later.
import { group } from 'd3-array';
import { and, asc, eq, exists, gte, inArray, isNotNull, or, sql } from 'drizzle-orm';
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

/** Appointments to come that somebody does not take, or said they come later to: the dispatcher has to do something. */
export async function saidOf(db: Db, from: Instant): Promise<{ items: SaidOfAppointment[]; more: boolean }> {
  const no = db
    .select({ id: appointmentAnswer.appointmentId, text: appointmentAnswer.text, who: person.name })
    .from(appointmentAnswer)
    .innerJoin(person, eq(person.id, appointmentAnswer.personId))
    .innerJoin(
      appointment,
      and(eq(appointment.id, appointmentAnswer.appointmentId), eq(appointment.version, appointmentAnswer.version)),
    )
    .where(and(eq(appointmentAnswer.accepted, false), gte(appointment.toAt, from)))
    .orderBy(asc(appointment.fromAt))
    .limit(SHOWN + 1);
  const [refused, rows] = await Promise.all([
    no,
    db
      .select({ of: appointment })
      .from(appointment)
      .where(
        and(
          gte(appointment.toAt, from),
          or(
            isNotNull(appointment.lateMinutes),
            exists(
              db
                .select({ one: sql`1` })
                .from(appointmentAnswer)
                .where(
                  and(
                    eq(appointmentAnswer.appointmentId, appointment.id),
                    eq(appointmentAnswer.version, appointment.version),
                    eq(appointmentAnswer.accepted, false),
                  ),
                ),
            ),
          ),
        ),
      )
      .orderBy(asc(appointment.fromAt))
      .limit(SHOWN + 1),
  ]);
  const about = rows.map((r) => r.of.id);
  const titles =
    about.length === 0
      ? []
      : await db
          .select({ id: appointmentOrder.appointmentId, title: workOrder.title, who: workOrder.technician })
          .from(appointmentOrder)
          .innerJoin(workOrder, eq(workOrder.id, appointmentOrder.orderId))
          .where(inArray(appointmentOrder.appointmentId, about));
  const of = new Map(titles.map((t) => [t.id, t]));
  const items = rows.slice(0, SHOWN).flatMap(({ of: a }): SaidOfAppointment[] => {
    const [title, who] = [of.get(a.id)?.title ?? '', of.get(a.id)?.who ?? ''];
    const shared = { id: a.id, from: a.fromAt, zone: a.zone, title };
    const nos = refused.filter((r) => r.id === a.id).map((r) => ({ ...shared, who: r.who, text: r.text, late: null }));
    return [...nos, ...(a.lateMinutes === null ? [] : [{ ...shared, who, text: a.lateText, late: a.lateMinutes }])];
  });
  return { items, more: rows.length > SHOWN };
}
