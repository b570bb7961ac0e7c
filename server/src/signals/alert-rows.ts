// The journal: alerts with where their machines stand, who answered them, and what holds them back.
import { and, count, desc, eq, gt, inArray, isNotNull, isNull, like, lt, or, type SQL } from 'drizzle-orm';
import type { AlertList, AlertOut } from '#api/signals.ts';
import type { AlertRuleId, AssetId } from '#core/ids.ts';
import { CHATTERING, crowdedIn, sayExcess } from '#core/signals/index.ts';
import { instant, MINUTE, type Instant } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { customer } from '../customers/tables.ts';
import { escapeLike, type Db } from '../platform/database.ts';
import { person } from '../platform/tables.ts';
import { placesOf } from '../places/index.ts';
import { location } from '../places/tables.ts';
import { goesOn } from './going-on.ts';
import { behind, pageOf } from './newest-first.ts';
import { alert, alertRule, alertShelf } from './tables.ts';

/** Somebody is to answer: it was told, and nobody has. Also when it is gone by now. */
const isToAnswer = and(isNotNull(alert.toldAt), isNull(alert.acknowledgedAt), isNull(alert.withdrawnAt));
const LISTS: Readonly<Record<AlertList, SQL | undefined>> = {
  'to answer': isToAnswer,
  active: goesOn,
  'held back': and(goesOn, isNull(alert.toldAt)),
  'no order': and(goesOn, isNotNull(alert.toldAt), isNull(alert.orderId)),
  all: undefined,
};

/** Shelves that hold back some pairs of rule and machine at an instant. */
async function shelvesOf(db: Db, assetIds: readonly AssetId[], now: Instant) {
  if (assetIds.length === 0) return () => null;
  const rows = await db
    .select({ shelf: alertShelf, by: person.name })
    .from(alertShelf)
    .innerJoin(person, eq(person.id, alertShelf.personId))
    .where(and(inArray(alertShelf.assetId, [...assetIds]), gt(alertShelf.until, now)));
  return (ruleId: AlertRuleId, assetId: AssetId): AlertOut['shelf'] => {
    const found = rows.find((r) => r.shelf.ruleId === ruleId && r.shelf.assetId === assetId);
    return found ? { id: found.shelf.id, until: found.shelf.until, reason: found.shelf.reason, by: found.by } : null;
  };
}

/** Of some alerts those that started while their rule and machine chattered. */
async function chatteringOf(
  db: Db,
  alerts: readonly (typeof alert.$inferSelect)[],
): Promise<(of: typeof alert.$inferSelect) => boolean> {
  if (alerts.length === 0) return () => false;
  const times = alerts.map((a) => a.startedAt);
  const rows = await db
    .select({ ruleId: alert.ruleId, assetId: alert.assetId, at: alert.startedAt })
    .from(alert)
    .where(
      and(
        inArray(alert.assetId, [...new Set(alerts.map((a) => a.assetId))]),
        gt(alert.startedAt, instant(Math.min(...times) - 5 * MINUTE)),
        lt(alert.startedAt, instant(Math.max(...times) + 5 * MINUTE)),
      ),
    );
  return ({ ruleId, assetId, startedAt }) => {
    const starts = rows.filter((r) => r.ruleId === ruleId && r.assetId === assetId).map((r) => r.at);
    return crowdedIn(starts, CHATTERING).some(({ from, to }) => from <= startedAt && startedAt < to);
  };
}

/** Alerts as they are listed; `where` says which, the newest first. */
export async function alertRows(
  db: Db,
  where: SQL | undefined,
  order: readonly SQL[],
  limit: number,
  now: Instant,
): Promise<AlertOut[]> {
  const rows = await db
    .select({
      ...{ alert, rule: alertRule, tag: asset.tag, model: asset.model, customer: customer.name },
      ...{ locationId: asset.locationId, path: location.path, by: person.name },
    })
    .from(alert)
    .innerJoin(alertRule, eq(alertRule.id, alert.ruleId))
    .innerJoin(asset, eq(asset.id, alert.assetId))
    .innerJoin(customer, eq(customer.id, asset.customerId))
    .leftJoin(location, eq(location.id, asset.locationId))
    .leftJoin(person, eq(person.id, alert.acknowledgedBy))
    .where(where)
    .orderBy(...order)
    .limit(limit);
  const [places, shelfOf, chatters] = await Promise.all([
    placesOf(
      db,
      rows.map((r) => ({ id: r.locationId, path: r.path })),
    ),
    shelvesOf(db, [...new Set(rows.map((r) => r.alert.assetId))], now),
    chatteringOf(
      db,
      rows.map((r) => r.alert),
    ),
  ]);
  return rows.map(({ alert: a, rule, by, locationId, ...machine }) => ({
    ...{
      id: a.id,
      rule: rule.name,
      assetId: a.assetId,
      tag: machine.tag,
      model: machine.model,
      customer: machine.customer,
    },
    place: places.of(locationId).label,
    ...{ text: sayExcess(a.ruleThen ?? rule, a.worst), channel: (a.ruleThen ?? rule).channel, priority: rule.priority },
    ...{ startedAt: a.startedAt, endedAt: a.endedAt, orderId: a.orderId, joined: a.joined === 1 },
    ...{ toldAt: a.toldAt, heldBy: a.heldBy, withdrawn: a.withdrawnAt !== null, flooded: a.floodId !== null },
    acknowledged: a.acknowledgedAt === null ? null : { at: a.acknowledgedAt, by: by ?? 'somebody who left' },
    ...{ shelf: shelfOf(a.ruleId, a.assetId), chatters: chatters(a), noOrder: a.noOrder },
    asks: rule.askFirst && a.orderId === null && a.endedAt === null && a.toldAt !== null,
  }));
}

export type JournalAsk = {
  readonly list?: AlertList;
  readonly search?: string;
  readonly rule?: AlertRuleId;
  readonly asset?: AssetId;
  readonly after?: string;
  readonly limit?: number;
};

const USUAL = 50;

/** One page of the journal. */
export async function journalPage(
  db: Db,
  ask: JournalAsk,
  now: Instant,
): Promise<{ items: AlertOut[]; next: string | null }> {
  const limit = ask.limit ?? USUAL;
  const words = ask.search?.trim() ? `%${escapeLike(ask.search.trim())}%` : null;
  const rows = await alertRows(
    db,
    and(
      LISTS[ask.list ?? 'all'],
      ask.rule ? eq(alert.ruleId, ask.rule) : undefined,
      ask.asset ? eq(alert.assetId, ask.asset) : undefined,
      words === null
        ? undefined
        : or(like(alertRule.name, words), like(asset.tag, words), like(asset.model, words), like(customer.name, words)),
      behind(ask.after, alert.startedAt, alert.id),
    ),
    [desc(alert.startedAt), desc(alert.id)],
    limit + 1,
    now,
  );
  return pageOf(rows, limit, (a) => ({ id: a.id, at: a.startedAt }));
}

/** How many stand in each list. */
export async function journalCounts(db: Db) {
  const of = async (list: AlertList): Promise<number> =>
    (await db.select({ n: count() }).from(alert).where(LISTS[list]))[0]?.n ?? 0;
  const [toAnswer, active, heldBack, noOrder] = await Promise.all([
    of('to answer'),
    of('active'),
    of('held back'),
    of('no order'),
  ]);
  return { toAnswer, active, heldBack, noOrder };
}
