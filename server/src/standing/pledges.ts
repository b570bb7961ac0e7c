// What an agreement's service levels pledged over a period and what came of it: credits for missed promises, and availability.
import { and, between, eq, gt, inArray, isNotNull, isNull, lt, ne, or, sql } from 'drizzle-orm';
import type { PledgeOut } from '#api/standing.ts';
import { ELAPSED_TIME } from '#core/calendars/index.ts';
import { holdsOn } from '#core/entitlement/index.ts';
import type { AgreementId, AssetId, OrderId, ServiceLevelId } from '#core/ids.ts';
import { creditAmount, creditOf, type Pledge } from '#core/service-levels/index.ts';
import {
  attainmentOf,
  attainmentShare,
  availabilityOf,
  complianceShare,
  downtimeWithin,
  forecastOf,
  NOTHING_COUNTED,
  type Attainment,
  type CountedClock,
  type Days,
  type Outage,
} from '#core/standing/index.ts';
import { addDays, type Instant } from '#core/time/index.ts';
import { feeOf } from '../agreements/index.ts';
import { calendarBook, type CalendarBook } from '../calendars/index.ts';
import type { Db } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { serviceLevel } from '../service-levels/tables.ts';
import { asset } from '../assets/tables.ts';
import { agreement, coverageLine } from '../agreements/tables.ts';
import { clock, orderLine, workOrder } from '../orders/tables.ts';
import { serviceLevelsOf, reachOf } from '../entitlement/index.ts';
import { instantsOf, type AskedPeriod } from './period.ts';
import { figuresIn } from './queries.ts';

function groupedBy<K, T>(rows: readonly T[], keyOf: (row: T) => K): Map<K, T[]> {
  const groups = new Map<K, T[]>();
  for (const row of rows) {
    const known = groups.get(keyOf(row));
    if (known) known.push(row);
    else groups.set(keyOf(row), [row]);
  }
  return groups;
}

/** Clocks that fell due in the period, by the service level that gave them. */
async function clocksByLevel(db: Db, id: AgreementId, { from, to }: Days) {
  const rows = await db
    .select({
      state: clock.state,
      dueAt: clock.dueAt,
      dueOn: clock.dueOn,
      target: clock.target,
      promises: orderLine.promises,
    })
    .from(clock)
    .innerJoin(orderLine, eq(orderLine.id, clock.orderLineId))
    .where(and(eq(clock.agreementId, id), between(clock.dueOn, from, to)));
  return groupedBy(rows, (r) => r.promises[r.target]?.serviceLevelId ?? null);
}

/** Times down that are listed, the longest first. */
const DOWNTIME_SHOWN = 50;

/** The priority of a machine that is down. */
export const DOWN = 1;

/** Back in use; or the order that goes on with it, which began when this one did, says when. */
export const upAgainAt = sql<Instant | null>`coalesce(${workOrder.restoredAt}, ${workOrder.handedOnAt})`.mapWith(
  workOrder.restoredAt,
);

type Down = Outage & { readonly assetId: AssetId; readonly tag: string; readonly orderId: OrderId };

/** When each machine was down: from the call or alert of a repair to its restoration. */
async function outagesOf(
  db: Db,
  id: AgreementId,
  { from, to }: { from: Instant; to: Instant },
): Promise<Map<AssetId, Down[]>> {
  const rows = await db
    .select({ assetId: asset.id, tag: asset.tag, orderId: workOrder.id, from: workOrder.startedAt, to: upAgainAt })
    .from(workOrder)
    .innerJoin(orderLine, eq(orderLine.orderId, workOrder.id))
    .innerJoin(asset, eq(asset.id, orderLine.assetId))
    .where(
      and(
        eq(workOrder.agreementId, id),
        eq(workOrder.kind, 'repair'),
        // What works poorly or can wait is not down.
        eq(workOrder.priority, DOWN),
        ne(workOrder.stage, 'called off'),
        eq(orderLine.off, false),
        lt(workOrder.startedAt, to),
        or(isNull(upAgainAt), gt(upAgainAt, from)),
      ),
    );
  return groupedBy(rows, (r) => r.assetId);
}

function availability(
  { target, calendarId }: NonNullable<Pledge['availability']>,
  machines: ReadonlySet<AssetId>,
  outages: ReadonlyMap<AssetId, Down[]>,
  book: CalendarBook,
  { from, to }: { from: Instant; to: Instant },
): PledgeOut['availability'] {
  const service = calendarId === null ? ELAPSED_TIME : book.workingTime(calendarId);
  const down = [...outages].reduce(
    (sum, [id, own]) => (machines.has(id) ? sum + downtimeWithin(own, service, from, to) : sum),
    0,
  );
  const downtime = [...outages.values()].flat().flatMap((o) => {
    const ms = downtimeWithin([o], service, from, to);
    return machines.has(o.assetId) && ms > 0
      ? [{ tag: o.tag, orderId: o.orderId, from: o.from, to: o.to, downMinutes: Math.round(ms / 60_000) }]
      : [];
  });
  return {
    target,
    downtime: downtime
      .toSorted((a, b) => b.downMinutes - a.downMinutes || a.orderId - b.orderId)
      .slice(0, DOWNTIME_SHOWN),
    share: availabilityOf(machines.size, service.between(from, to), down),
    downMinutes: Math.round(down / 60_000),
    machines: machines.size,
    measure: calendarId === null ? 'around the clock' : book.calendarOf(calendarId).name,
  };
}

/** Which of the agreements have a service level that pledges something; the others are not asked further. */
export async function pledging(db: Db, ids: readonly AgreementId[]): Promise<Set<AgreementId>> {
  if (ids.length === 0) return new Set();
  const rows = await db
    .selectDistinct({ id: coverageLine.agreementId })
    .from(coverageLine)
    .innerJoin(serviceLevel, eq(serviceLevel.id, coverageLine.serviceLevelId))
    .where(and(inArray(coverageLine.agreementId, [...ids]), isNotNull(serviceLevel.pledge)));
  return new Set(rows.map((r) => r.id));
}

/** What is to come in a period that goes on, and how many more misses the next tier is away. */
function forecastIn(
  kept: Attainment,
  clocks: readonly CountedClock[],
  { tiers }: Pledge,
  { from, to }: { readonly from: Instant; readonly to: Instant },
  now: Instant,
): PledgeOut['forecast'] {
  const known = clocks.filter((c) => c.state === 'running' && (c.dueAt ?? 0) >= now).length;
  const passed = Math.max(0, (now - from) / (to - from));
  const { toCome, tiers: open } = forecastOf(kept, passed, known, tiers);
  const [next] = open;
  return { toCome, next: next ? { ...next.tier, misses: next.misses } : null };
}

export async function pledgesOf(db: Db, id: AgreementId, period: AskedPeriod): Promise<PledgeOut[]> {
  const [row] = await db.select().from(agreement).where(eq(agreement.id, id));
  if (!row) refuse('not-found', 'That agreement does not exist.', 'agreement');
  // Of a period that goes on, what holds today.
  const on = period.to < period.today ? period.to : period.today;
  const reach = await reachOf(db, id, row.customerId, (l) => holdsOn({ from: l.termFrom, to: l.termTo }, on));
  const machinesOf = new Map<ServiceLevelId, Set<AssetId>>();
  for (const { line, assetIds } of reach)
    if (line.serviceLevelId !== null)
      machinesOf.set(line.serviceLevelId, new Set([...(machinesOf.get(line.serviceLevelId) ?? []), ...assetIds]));
  const levels = (await serviceLevelsOf(db, [...machinesOf.keys()], on)).filter((l) => l.pledge);
  if (levels.length === 0) return [];
  const all = instantsOf(period);
  // Nothing can have been down in days to come.
  const span = { from: all.from, to: all.to < period.now ? all.to : period.now };
  const [clocks, outages, fee, book, figures] = await Promise.all([
    clocksByLevel(db, id, period),
    outagesOf(db, id, span),
    feeOf(db, row, period.from, period.to),
    calendarBook(db),
    figuresIn(db, 'agreement', [id], period),
  ]);
  const upkeepShare = complianceShare(figures.get(id) ?? NOTHING_COUNTED);
  const counted = { from: period.from, to: addDays(period.to, 1) };
  return levels.flatMap((level): PledgeOut[] => {
    const pledge = level.pledge;
    if (!pledge || (pledge.tiers.length === 0 && pledge.availability === null && pledge.upkeep === null)) return [];
    const own = clocks.get(level.id) ?? [];
    const kept = attainmentOf(own, counted, period.now);
    const share = attainmentShare(kept);
    const credit = creditOf(pledge, share);
    return [
      {
        serviceLevel: level.name,
        attainment: share,
        tiers: [...pledge.tiers],
        cap: pledge.cap,
        credit,
        forecast:
          all.to > period.now && pledge.tiers.length > 0 ? forecastIn(kept, own, pledge, all, period.now) : null,
        fee,
        amount: creditAmount(fee, credit),
        currency: row.currency,
        upkeep: pledge.upkeep && { target: pledge.upkeep.target, share: upkeepShare },
        availability:
          pledge.availability && span.from < span.to
            ? availability(pledge.availability, machinesOf.get(level.id) ?? new Set(), outages, book, span)
            : null,
      },
    ];
  });
}
