// What a customer's statement on paper says: every promise, visit, pledge and credit of a period, and what was found since months were closed.
import { and, asc, between, eq, inArray, lt } from 'drizzle-orm';
import { orderNumber } from '#api/shapes.ts';
import type { PledgeOut } from '#api/standing.ts';
import type { CustomerId } from '#core/ids.ts';
import type { MissCause } from '#core/standing/index.ts';
import type { Target } from '#core/service-levels/index.ts';
import { showVisit } from '#core/upkeep/index.ts';
import type { Instant, LocalDate, Zone } from '#core/time/index.ts';
import { agreement } from '../agreements/tables.ts';
import { asset } from '../assets/tables.ts';
import { calendarBook } from '../calendars/index.ts';
import { jobPlan } from '../catalogue/tables.ts';
import { customer } from '../customers/tables.ts';
import { showClock } from '../orders/index.ts';
import { clock } from '../orders/tables.ts';
import type { Db } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { settleSettings } from '../settle/index.ts';
import { visit } from '../upkeep/tables.ts';
import { adjustmentsOf } from './months.ts';
import { pledgesOf } from './pledges.ts';
import type { AskedPeriod } from './period.ts';
import { standingTotal } from './queries.ts';

/** More do not fit on paper that anybody reads; the data file has all. */
const MOST_PROMISES = 2000;
const MOST_VISITS = 2000;

export type StatedPromise = {
  readonly order: string;
  readonly tag: string;
  readonly agreement: string;
  readonly target: Target;
  readonly priority: number;
  readonly zone: Zone;
  readonly startedAt: Instant;
  readonly dueAt: Instant | null;
  readonly stoppedAt: Instant | null;
  readonly state: string;
  readonly over: number;
  readonly cause: MissCause | null;
};
export type StatedVisit = {
  readonly tag: string;
  readonly work: string;
  readonly order: string;
  readonly due: LocalDate;
  readonly windowFrom: LocalDate;
  readonly windowTo: LocalDate;
  readonly completedOn: LocalDate | null;
  readonly state: string;
};
export type StatementFacts = {
  readonly customer: string;
  readonly seller: string;
  readonly from: LocalDate;
  readonly to: LocalDate;
  readonly zone: Zone;
  readonly asOf: Instant;
  readonly total: Awaited<ReturnType<typeof standingTotal>>;
  readonly pledges: readonly { readonly agreement: string; readonly pledge: PledgeOut }[];
  readonly promises: readonly StatedPromise[];
  readonly visits: readonly StatedVisit[];
  readonly found: Awaited<ReturnType<typeof adjustmentsOf>>;
};

async function promisesIn(db: Db, id: CustomerId, { from, to, now }: AskedPeriod): Promise<StatedPromise[]> {
  const book = await calendarBook(db);
  const rows = await db
    .select({ clock, tag: asset.tag, agreement: agreement.number })
    .from(clock)
    .innerJoin(asset, eq(asset.id, clock.assetId))
    .leftJoin(agreement, eq(agreement.id, clock.agreementId))
    .where(
      and(eq(clock.customerId, id), between(clock.dueOn, from, to), inArray(clock.state, ['met', 'missed', 'running'])),
    )
    .orderBy(asc(clock.dueOn), asc(clock.orderId), asc(clock.id))
    .limit(MOST_PROMISES + 1);
  if (rows.length > MOST_PROMISES)
    refuse(
      'too-large',
      `More than ${MOST_PROMISES} promises fell due: choose a shorter period, or take the data file.`,
      'to',
    );
  return rows.flatMap((row): StatedPromise[] => {
    const { state, over } = showClock(row, book, now);
    const { orderId, target, priority, zone, startedAt, dueAt, stoppedAt, missCause } = row.clock;
    // What runs and is not due yet did not fall due.
    if (state !== 'met' && state !== 'missed') return [];
    return [
      {
        ...{ order: orderNumber(orderId), tag: row.tag, agreement: row.agreement ?? '', target, priority, zone },
        ...{ startedAt, dueAt, stoppedAt, state, over: over ?? 0, cause: missCause },
      },
    ];
  });
}

async function visitsIn(db: Db, id: CustomerId, { from, to, today }: AskedPeriod): Promise<StatedVisit[]> {
  const rows = await db
    .select({ visit, tag: asset.tag, work: jobPlan.name })
    .from(visit)
    .innerJoin(agreement, eq(agreement.id, visit.agreementId))
    .innerJoin(asset, eq(asset.id, visit.assetId))
    .innerJoin(jobPlan, eq(jobPlan.id, visit.jobPlanId))
    .where(
      and(
        eq(agreement.customerId, id),
        between(visit.windowTo, from, to),
        lt(visit.windowTo, today),
        inArray(visit.state, ['raised', 'declined']),
      ),
    )
    .orderBy(asc(visit.windowTo), asc(visit.id))
    .limit(MOST_VISITS + 1);
  if (rows.length > MOST_VISITS)
    refuse('too-large', `More than ${MOST_VISITS} visits were owed: choose a shorter period.`, 'to');
  return rows.map(({ visit: v, tag, work }) => ({
    ...{ tag, work, order: v.orderId === null ? '' : orderNumber(v.orderId), due: v.due },
    ...{ windowFrom: v.windowFrom, windowTo: v.windowTo, completedOn: v.completedOn },
    state: v.state === 'declined' ? 'declined by you' : showVisit(v as Parameters<typeof showVisit>[0], today),
  }));
}

/** Costs are no part of it. Refused: a customer that does not exist, more than fits on paper. */
export async function statementFacts(db: Db, id: CustomerId, period: AskedPeriod): Promise<StatementFacts> {
  const [whose] = await db.select({ name: customer.name }).from(customer).where(eq(customer.id, id));
  if (!whose) refuse('not-found', 'That customer does not exist; choose another.', 'customer');
  const [promises, visits, total, found, own, { seller }] = await Promise.all([
    promisesIn(db, id, period),
    visitsIn(db, id, period),
    standingTotal(db, period, { of: 'customer', id }),
    adjustmentsOf(db, period, id),
    db
      .selectDistinct({ id: agreement.id, number: agreement.number, name: agreement.name })
      .from(agreement)
      .where(eq(agreement.customerId, id))
      .orderBy(asc(agreement.number)),
    settleSettings(db),
  ]);
  const pledges: { agreement: string; pledge: PledgeOut }[] = [];
  for (const a of own)
    for (const pledge of await pledgesOf(db, a.id, period))
      pledges.push({ agreement: `${a.number} ${a.name}`, pledge });
  return {
    ...{ customer: whose.name, seller: seller?.name ?? '', from: period.from, to: period.to, zone: period.zone },
    ...{ asOf: period.now, total, pledges, promises, visits, found },
  };
}
