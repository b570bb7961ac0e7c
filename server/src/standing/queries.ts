// Standing by SQL: the same counting rules as the core's, grouped by the database. A test holds the two together.
import { and, asc, eq, gt, gte, isNotNull, lt, or, sql } from 'drizzle-orm';
import type { StandingRow } from '#api/standing.ts';
import type { AgreementId, AssetId } from '#core/ids.ts';
import { attainmentShare, complianceShare } from '#core/standing/index.ts';
import { addDays, startOfDay, type Instant, type LocalDate, type Zone } from '#core/time/index.ts';
import type { Db } from '../platform/database.ts';
import { customer } from '../customers/tables.ts';
import { asset } from '../assets/tables.ts';
import { agreement } from '../agreements/tables.ts';
import { visit } from '../upkeep/tables.ts';
import { clock } from '../orders/tables.ts';
import { instantText } from '../platform/columns.ts';

/** Both days included, as people say it. */
export type AskedPeriod = {
  readonly from: LocalDate;
  readonly to: LocalDate;
  readonly zone: Zone;
  readonly now: Instant;
  readonly today: LocalDate;
};

export const instantsOf = (p: AskedPeriod): { from: Instant; to: Instant } => ({
  from: startOfDay(p.zone, p.from),
  to: startOfDay(p.zone, addDays(p.to, 1)),
});

function counts(db: Db, key: 'assetId' | 'agreementId', p: AskedPeriod) {
  const { from, to } = instantsOf(p);
  const clocks = db
    .select({
      id: sql<number>`${clock[key]}`.as('clock_id'),
      met: sql<number>`sum(${clock.state} = 'met')`.as('met'),
      missed:
        sql<number>`sum(${clock.state} = 'missed' or (${clock.state} = 'running' and ${clock.dueAt} < ${instantText(p.now)}))`.as(
          'missed',
        ),
    })
    .from(clock)
    .where(and(isNotNull(clock[key]), gte(clock.dueAt, from), lt(clock.dueAt, to)))
    .groupBy(clock[key])
    .as('clocks');
  const visits = db
    .select({
      id: sql<number>`${visit[key]}`.as('visit_id'),
      owed: sql<number>`sum(${visit.state} = 'raised')`.as('owed'),
      inWindow:
        sql<number>`sum(${visit.state} = 'raised' and ${visit.completedOn} between ${visit.windowFrom} and ${visit.windowTo})`.as(
          'in_window',
        ),
      declined: sql<number>`sum(${visit.state} = 'declined')`.as('declined'),
    })
    .from(visit)
    .where(and(gte(visit.windowTo, p.from), lt(visit.windowTo, addDays(p.to, 1)), lt(visit.windowTo, p.today)))
    .groupBy(visit[key])
    .as('visits');
  return { clocks, visits };
}

type Counted = {
  id: number;
  label: string;
  detail: string;
  customer: string;
  met: number | null;
  missed: number | null;
  owed: number | null;
  inWindow: number | null;
  declined: number | null;
};

function showRow(r: Counted): StandingRow {
  const n = {
    met: Number(r.met ?? 0),
    missed: Number(r.missed ?? 0),
    owed: Number(r.owed ?? 0),
    inWindow: Number(r.inWindow ?? 0),
    declined: Number(r.declined ?? 0),
  };
  return {
    id: r.id,
    label: r.label,
    detail: r.detail,
    customer: r.customer,
    ...n,
    attainment: attainmentShare(n),
    compliance: complianceShare(n),
  };
}

/** One row for each agreement or asset with a promise or a visit in the period, by id. */
export async function standingRows(
  db: Db,
  by: 'agreement' | 'asset',
  p: AskedPeriod,
  after: number,
  limit: number,
): Promise<StandingRow[]> {
  const { clocks, visits } = counts(db, by === 'asset' ? 'assetId' : 'agreementId', p);
  const figures = {
    met: clocks.met,
    missed: clocks.missed,
    owed: visits.owed,
    inWindow: visits.inWindow,
    declined: visits.declined,
  };
  const any = or(isNotNull(clocks.id), gt(sql`${visits.owed} + ${visits.declined}`, 0));
  if (by === 'asset') {
    const rows = await db
      .select({ id: asset.id, tag: asset.tag, model: asset.model, customer: customer.name, ...figures })
      .from(asset)
      .innerJoin(customer, eq(customer.id, asset.customerId))
      .leftJoin(clocks, eq(clocks.id, asset.id))
      .leftJoin(visits, eq(visits.id, asset.id))
      .where(and(gt(asset.id, after as AssetId), any))
      .orderBy(asc(asset.id))
      .limit(limit);
    return rows.map((r) => showRow({ ...r, label: r.model, detail: r.tag }));
  }
  const rows = await db
    .select({ id: agreement.id, number: agreement.number, name: agreement.name, customer: customer.name, ...figures })
    .from(agreement)
    .innerJoin(customer, eq(customer.id, agreement.customerId))
    .leftJoin(clocks, eq(clocks.id, agreement.id))
    .leftJoin(visits, eq(visits.id, agreement.id))
    .where(and(gt(agreement.id, after as AgreementId), any))
    .orderBy(asc(agreement.id))
    .limit(limit);
  return rows.map((r) => showRow({ ...r, label: r.name, detail: r.number }));
}

/** The period as a whole; clocks without an agreement count too. */
export async function standingTotal(db: Db, p: AskedPeriod) {
  const { from, to } = instantsOf(p);
  const [[clocks], [visits]] = await Promise.all([
    db
      .select({
        met: sql<number>`coalesce(sum(${clock.state} = 'met'), 0)`,
        missed: sql<number>`coalesce(sum(${clock.state} = 'missed' or (${clock.state} = 'running' and ${clock.dueAt} < ${instantText(p.now)})), 0)`,
      })
      .from(clock)
      .where(and(gte(clock.dueAt, from), lt(clock.dueAt, to))),
    db
      .select({
        owed: sql<number>`coalesce(sum(${visit.state} = 'raised'), 0)`,
        inWindow: sql<number>`coalesce(sum(${visit.state} = 'raised' and ${visit.completedOn} between ${visit.windowFrom} and ${visit.windowTo}), 0)`,
      })
      .from(visit)
      .where(and(gte(visit.windowTo, p.from), lt(visit.windowTo, addDays(p.to, 1)), lt(visit.windowTo, p.today))),
  ]);
  const n = {
    met: Number(clocks?.met ?? 0),
    missed: Number(clocks?.missed ?? 0),
    owed: Number(visits?.owed ?? 0),
    inWindow: Number(visits?.inWindow ?? 0),
  };
  return { ...n, attainment: attainmentShare(n), compliance: complianceShare({ ...n, declined: 0 }) };
}
