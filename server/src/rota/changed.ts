// Whoever was sent an appointment hears at once that it is another now: of a time that moved, and of work that is theirs no more.
import { inArray } from 'drizzle-orm';
import { orderNumber } from '#api/shapes.ts';
import type { AppointmentId, OrderId, PersonId } from '#core/ids.ts';
import { linkTo } from '#core/telling.ts';
import { localDateAt, sayDate, type Instant, type InstantSpan, type Zone } from '#core/time/index.ts';
import { orderSettings } from '../orders/index.ts';
import { workOrder } from '../orders/tables.ts';
import { tellPeople } from '../outbox/index.ts';
import type { Tx } from '../platform/database.ts';
import { person } from '../platform/tables.ts';
import { DAY_CHANGED } from './messages.ts';
import { clockAt } from './say.ts';

const WORDS = {
  en: { moved: 'moved', gone: 'no longer yours' },
  pt: { moved: 'alterado', gone: 'já não é seu' },
} as const;

async function workSaid(tx: Tx, ids: readonly OrderId[]): Promise<string> {
  const rows = await tx.db
    .select({ id: workOrder.id, title: workOrder.title })
    .from(workOrder)
    .where(inArray(workOrder.id, [...ids]));
  return rows.map((o) => `${orderNumber(o.id)} ${o.title}`).join('\n');
}

const whenSaid = (span: InstantSpan, zone: Zone): string =>
  `${sayDate(localDateAt(zone, span.from))}, ${clockAt(span.from, zone)}–${clockAt(span.to, zone)}`;

type Was = {
  readonly id: AppointmentId;
  readonly version: number;
  readonly fromAt: Instant;
  readonly toAt: Instant;
  readonly sentAt: Instant | null;
  readonly people: readonly PersonId[];
  readonly orderIds: readonly OrderId[];
};

/** Told to those who were sent it: `is`, as it stands after the change; null: it was taken out. What was not sent, or is past, concerns nobody. */
export async function tellChanged(
  tx: Tx,
  was: Was,
  is: { readonly span: InstantSpan; readonly people: readonly PersonId[]; readonly version: number } | null,
  now: Instant,
): Promise<void> {
  if (was.sentAt === null || was.toAt <= now) return;
  if (!(await orderSettings(tx.db)).tells.includes('sent')) return;
  const people = await tx.db
    .select({ id: person.id, name: person.name, zone: person.zone, language: person.language })
    .from(person)
    .where(inArray(person.id, [...was.people]));
  const work = await workSaid(tx, was.orderIds);
  for (const p of people) {
    const stays = is?.people.includes(p.id) === true;
    const span = is && stays ? is.span : { from: was.fromAt, to: was.toAt };
    await tellPeople(tx, DAY_CHANGED, [p.id], {
      key: `rota changed ${was.id}.${is?.version ?? was.version + 1} ${p.id}`,
      values: {
        ...{ name: p.name, what: WORDS[p.language][stays ? 'moved' : 'gone'], when: whenSaid(span, p.zone), work },
        link: linkTo(`/rota?from=${localDateAt(p.zone, span.from)}`),
      },
      about: { subject: 'appointment', id: was.id },
      now,
    });
  }
}
