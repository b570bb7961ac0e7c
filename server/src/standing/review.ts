// The review of an agreement over a period: what stands behind its renewal, its price and the machines it covers.
import { asc, eq, inArray } from 'drizzle-orm';
import type { ReviewPage } from '#api/review.ts';
import { holdsOn } from '#core/entitlement/index.ts';
import type { AgreementId, AssetId } from '#core/ids.ts';
import { MANAGERS, type Role } from '#core/people.ts';
import { shareEvenly } from '#core/share-out.ts';
import { isInTrouble, periodBefore, proposalsFor, type ReviewedMachine } from '#core/standing/index.ts';
import { agreement } from '../agreements/tables.ts';
import { asset } from '../assets/tables.ts';
import { customer } from '../customers/tables.ts';
import { reachOf } from '../entitlement/index.ts';
import { placesOf } from '../places/index.ts';
import { location } from '../places/tables.ts';
import type { Db } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { agreementCost } from '../settle/index.ts';
import { courseOf, type Subject } from './course.ts';
import { instantsOf, type AskedPeriod } from './period.ts';
import { pledgesOf } from './pledges.ts';
import { standingTotal } from './queries.ts';
import { failuresOf } from './reliability.ts';

/** So many machines in trouble are told; the rest is a matter of the register. */
const TROUBLED_SHOWN = 50;
const HUNDREDTHS = 10_000;

/** The machines it covers on the last day of the period, or today while it goes on. */
async function machinesOf(db: Db, row: typeof agreement.$inferSelect, { to, today }: AskedPeriod) {
  const on = to < today ? to : today;
  const reach = await reachOf(db, row.id, row.customerId, (l) => holdsOn({ from: l.termFrom, to: l.termTo }, on));
  const ids = [...new Set(reach.flatMap((r) => r.assetIds))];
  if (ids.length === 0) return [];
  return db
    .select({
      ...{ id: asset.id, tag: asset.tag, model: asset.model, commissioned: asset.commissioned },
      ...{ locationId: asset.locationId, path: location.path },
    })
    .from(asset)
    .leftJoin(location, eq(location.id, asset.locationId))
    .where(inArray(asset.id, ids))
    .orderBy(asc(asset.tag));
}

/** Refused: an agreement that is not there, or a draft still. Money is for those who see margins. */
export async function reviewOf(
  db: Db,
  { role }: { readonly role: Role },
  id: AgreementId,
  period: AskedPeriod,
): Promise<ReviewPage> {
  const [row] = await db.select().from(agreement).where(eq(agreement.id, id));
  if (!row || row.stage === 'draft') refuse('not-found', 'That agreement does not exist, or is a draft still.');
  const seesMargins = (MANAGERS as readonly Role[]).includes(role);
  const subject: Subject = { of: 'agreement', id };
  const earlier = periodBefore(period);
  const span = instantsOf(period);
  const [[payer], machines, total, before, course, pledges, money] = await Promise.all([
    db.select({ id: customer.id, name: customer.name }).from(customer).where(eq(customer.id, row.customerId)),
    machinesOf(db, row, period),
    standingTotal(db, period, subject),
    standingTotal(db, { ...period, ...earlier }, subject),
    courseOf(db, subject, period),
    pledgesOf(db, id, period),
    seesMargins ? agreementCost(db, row, period) : null,
  ]);
  const failures = await failuresOf(
    db,
    machines.map((m) => m.id),
    { from: span.from, to: span.to < period.now ? span.to : period.now },
  );
  const shares = money ? shareEvenly(money.earned, machines.length) : [];
  const reviewed = machines.map((m, i): ReviewedMachine & { id: AssetId } => {
    const own = failures.get(m.id) ?? { failures: 0, repeats: 0, downMs: 0 };
    return {
      ...{ id: m.id, tag: m.tag, model: m.model, commissioned: m.commissioned },
      ...{ failures: own.failures, repeats: own.repeats, downMinutes: Math.round(own.downMs / 60_000) },
      cost: money ? (money.byMachine.get(m.id) ?? 0) : null,
      earned: money ? (shares[i] ?? 0) : null,
    };
  });
  const troubled = reviewed
    .filter(isInTrouble)
    .toSorted((a, b) => b.failures - a.failures || b.downMinutes - a.downMinutes || a.id - b.id)
    .slice(0, TROUBLED_SHOWN);
  const places = await placesOf(
    db,
    machines.map((m) => ({ id: m.locationId, path: m.path })),
  );
  const placeOf = new Map(machines.map((m) => [m.id, places.of(m.locationId).label]));
  const tiers = pledges.flatMap((p) => p.tiers.map((t) => t.below));
  const windows = pledges.flatMap((p) => p.upkeep?.target ?? []);
  const proposals = proposalsFor({
    ...{ today: period.today, termTo: row.termTo, noticeBy: row.noticeBy },
    renewsItself: row.renewalMode === 'renews by itself',
    ...{ attainment: total.attainment, compliance: total.compliance },
    attainmentAgreed: tiers.length > 0 ? Math.max(...tiers) / HUNDREDTHS : null,
    complianceAgreed: windows.length > 0 ? Math.max(...windows) / HUNDREDTHS : null,
    misses: course.causes,
    ...{ earned: money?.earned ?? null, cost: money?.cost ?? null, machines: reviewed },
  });
  const tagOf = new Map(reviewed.map((m) => [m.id as number, m.tag]));
  return {
    ...{ id, number: row.number, name: row.name, customer: payer as ReviewPage['customer'], currency: row.currency },
    ...{ from: period.from, to: period.to, now: period.now },
    ...{ termFrom: row.termFrom, termTo: row.termTo, noticeBy: row.noticeBy },
    total,
    before: { ...before, ...earlier },
    ...course,
    pledges,
    money: money && { earned: money.earned, cost: money.cost },
    machines: machines.length,
    troubled: troubled.map((m) => ({ ...m, place: placeOf.get(m.id) ?? '' })),
    proposals: proposals.map(({ kind, machineId, because }) => ({
      ...{ kind, because },
      machine: machineId === null ? null : { id: machineId, tag: tagOf.get(machineId) ?? '' },
    })),
  };
}
