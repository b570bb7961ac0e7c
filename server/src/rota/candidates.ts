// Who can go for an order, today and on the next days: each with their earliest time and what speaks for them, and who cannot and why.
import { and, desc, eq, inArray, isNotNull } from 'drizzle-orm';
import type { CandidatesOut } from '#api/rota.ts';
import type { OrderId, PersonId } from '#core/ids.ts';
import {
  betweenOf,
  candidatesFor,
  sayFor,
  sayTravel,
  type Against,
  type For,
  type PersonDay,
  type Promised,
  type Roads,
} from '#core/rota/index.ts';
import {
  addDays,
  instant,
  localDateAt,
  MINUTE,
  startOfDay,
  type Instant,
  type LocalDate,
  type Zone,
} from '#core/time/index.ts';
import { orderLine, workOrder } from '../orders/tables.ts';
import type { Db } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { daysOf, whoGoes, type Goes } from './days.ts';
import { roadsOf } from './roads.ts';
import { around, workOf, type OrderWork } from './work.ts';

const DAYS = 3;

/** Who finished work at these machines last, and when. */
async function lastThere(db: Db, { assetIds, orderId }: OrderWork): Promise<Promised['lastThere']> {
  if (assetIds.length === 0) return null;
  const [row] = await db
    .select({ personId: workOrder.technicianId, at: workOrder.doneAt, id: workOrder.id })
    .from(orderLine)
    .innerJoin(workOrder, eq(workOrder.id, orderLine.orderId))
    .where(
      and(
        inArray(orderLine.assetId, [...assetIds]),
        eq(orderLine.off, false),
        isNotNull(workOrder.doneAt),
        isNotNull(workOrder.technicianId),
      ),
    )
    .orderBy(desc(workOrder.doneAt))
    .limit(1);
  return row && row.id !== orderId ? { personId: row.personId as PersonId, at: row.at as Instant } : null;
}

/** The first of what was promised that going can still keep. */
export function dueOf({ clocks }: OrderWork, minutes: number): Instant | null {
  const ends = clocks.map(({ dueAt, stopsAt }) => dueAt - (stopsAt === 'end' ? minutes * MINUTE : 0));
  return ends.length === 0 ? null : instant(Math.min(...ends));
}

const bindsIn = ({ reasons }: { readonly reasons: readonly Against[] }): boolean => reasons.some((r) => r.binds);

const show = (of: For, p: Goes, day: PersonDay, work: OrderWork['work'], roads: Roads) => ({
  ...{ personId: of.personId, name: p.name, depot: p.depot, from: of.span.from, to: of.span.to },
  ...{ margin: of.margin, addedTravel: of.addedTravel, reasons: sayFor(of) },
  travel: sayTravel(betweenOf(day, work.spot, of.span, roads).there),
});

type Asked = { readonly from: LocalDate; readonly days: number; readonly minutes: number };
type At = { readonly now: Instant; readonly zone: Zone };

/** Of several days the one on which somebody goes best; who cannot at all with what speaks against it. */
export async function candidatesOf(
  db: Db,
  of: OrderWork,
  people: readonly Goes[],
  { from, days, minutes }: Asked,
  at: At,
): Promise<Pick<CandidatesOut, 'can' | 'cannot'>> {
  const work = { ...of.work, minutes };
  const [{ days: all }, last, roads] = await Promise.all([
    daysOf(db, people, from, addDays(from, days - 1), at.now),
    lastThere(db, of),
    roadsOf(db),
  ]);
  const promised = { dueAt: dueOf(of, minutes), preferred: of.preferred, lastThere: last };
  const { can, cannot } = candidatesFor(all, work, promised, at.now, roads);
  const personOf = new Map(people.map((p) => [p.id, p]));
  const dayOf = (p: Goes, span: For['span']) =>
    all.find((d) => d.personId === p.id && d.date === localDateAt(p.zone, span.from)) as PersonDay;
  const goes = new Set<PersonId>();
  const best = can.flatMap((c) => {
    const p = personOf.get(c.personId);
    if (!p || goes.has(c.personId)) return [];
    goes.add(c.personId);
    return [show(c, p, dayOf(p, c.span), work, roads)];
  });
  const least = new Map<PersonId, (typeof cannot)[number]>();
  for (const c of cannot) {
    const held = least.get(c.personId);
    // The first day on which something binds says most; where none does, the first of all.
    if (!goes.has(c.personId) && (!held || (!bindsIn(held) && bindsIn(c)))) least.set(c.personId, c);
  }
  return {
    can: best,
    cannot: [...least.values()].map(({ personId, reasons }) => ({
      ...{ personId, name: personOf.get(personId)?.name ?? '', depot: personOf.get(personId)?.depot ?? null },
      reasons: (bindsIn({ reasons }) ? reasons.filter((r) => r.binds) : reasons).map((r) => ({ ...r })),
    })),
  };
}

export async function readCandidates(
  db: Db,
  id: OrderId,
  asked: { readonly [K in keyof Asked]?: Asked[K] | undefined },
  at: At,
): Promise<CandidatesOut> {
  const from = asked.from ?? localDateAt(at.zone, at.now);
  const days = asked.days ?? DAYS;
  const found = (await workOf(db, [id], around(startOfDay(at.zone, from), days + 1))).get(id);
  const of = found ?? refuse('not-found', 'That work order does not exist.');
  const minutes = asked.minutes ?? of.work.minutes;
  const people = await whoGoes(db);
  const { can, cannot } = await candidatesOf(db, of, people, { from, minutes, days }, at);
  return { ...{ now: at.now, zone: of.zone, title: of.title, minutes, crew: of.crew }, can, cannot };
}
