// What somebody's calendar shows of the rota: their appointments and when they are away.
import { and, asc, eq, gt, lt } from 'drizzle-orm';
import type { OrderId, PersonId } from '#core/ids.ts';
import { sayAbsence } from '#core/rota/index.ts';
import type { InstantSpan, Zone } from '#core/time/index.ts';
import { person } from '../platform/tables.ts';
import type { Db } from '../platform/database.ts';
import { appointmentsOf } from './days.ts';
import { ordersShown } from './shown.ts';
import { absence } from './tables.ts';

export type AgendaEntry = {
  readonly uid: string;
  readonly span: InstantSpan;
  readonly zone: Zone;
  /** Counts up when it is moved: calendars take the newer. */
  readonly version: number;
  readonly title: string;
  readonly where: string;
  readonly lines: readonly string[];
  /** Not sent yet: it may still move. */
  readonly isTentative: boolean;
  readonly orderIds: readonly OrderId[];
};

/** The appointments of a person in a span, each in the zone of its place, and their absences that were agreed to. */
export async function agendaOf(db: Db, id: PersonId, span: InstantSpan): Promise<AgendaEntry[]> {
  const [kept, orders, away] = await Promise.all([
    appointmentsOf(db, [id], span),
    ordersShown(db, span, id),
    db
      .select({ absence, zone: person.zone })
      .from(absence)
      .innerJoin(person, eq(person.id, absence.personId))
      .where(
        and(
          eq(absence.personId, id),
          eq(absence.state, 'agreed'),
          lt(absence.fromAt, span.to),
          gt(absence.toAt, span.from),
        ),
      )
      .orderBy(asc(absence.fromAt)),
  ]);
  return [
    ...kept.map((a): AgendaEntry => {
      const own = (orders.get(a.id) ?? []).map((o) => o.shown);
      const [first] = own;
      const tags = own.map((o) => o.tag).filter((tag) => tag !== '');
      return {
        ...{
          uid: `appointment-${a.id}@stavok`,
          span: { from: a.fromAt, to: a.toAt },
          zone: a.zone,
          version: a.version,
        },
        title: [...new Set(own.map((o) => o.title))].join('; ') || 'An appointment',
        where: first ? `${first.place}, ${first.customer}` : '',
        lines: [
          ...(tags.length > 0 ? [`At ${tags.join(', ')}.`] : []),
          ...(a.personIds.length > 1 ? [`${a.personIds.length} people go.`] : []),
        ],
        isTentative: a.sentAt === null,
        orderIds: own.map((o) => o.orderId as OrderId),
      };
    }),
    ...away.map(({ absence: a, zone }): AgendaEntry => ({
      ...{ uid: `absence-${a.id}@stavok`, span: { from: a.fromAt, to: a.toAt }, zone, version: a.version },
      ...{ title: `Away: ${sayAbsence(a.kind)}`, where: '', lines: [], isTentative: false, orderIds: [] },
    })),
  ];
}
