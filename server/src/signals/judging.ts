// Judging readings by rules, and time by itself: alerts start and end, orders are raised or joined and told.
import { and, desc, eq, inArray, isNull } from 'drizzle-orm';
import type { AlertId, AssetId, OrderId } from '#core/ids.ts';
import { OPEN_STAGES, type OrderAct } from '#core/orders/index.ts';
import {
  advance,
  asSample,
  dueAt,
  sayExcess,
  seriesRule,
  watchedFrom,
  type Happened,
  type Reading,
  type Sample,
} from '#core/signals/index.ts';
import { asZone, type Instant } from '#core/time/index.ts';
import { raiseCallIn, recordActIn } from '../orders/index.ts';
import { workOrder } from '../orders/tables.ts';
import { isTaken, type Tx } from '../platform/database.ts';
import { alert, ruleState } from './tables.ts';
import type { Rule } from './watched.ts';

type Started = Extract<Happened, { kind: 'started' }>;
type Ended = Extract<Happened, { kind: 'ended' }>;

/** A second alert of the same asset and rule joins the order that is still open; read under its lock, so that it cannot be finished meanwhile. */
async function openOrderOf(tx: Tx, rule: Rule, assetId: AssetId): Promise<{ id: OrderId; startedAt: Instant } | null> {
  const [row] = await tx.db
    .select({ id: workOrder.id, startedAt: workOrder.startedAt })
    .from(alert)
    .innerJoin(workOrder, eq(workOrder.id, alert.orderId))
    .where(and(eq(alert.ruleId, rule.id), eq(alert.assetId, assetId), inArray(workOrder.stage, [...OPEN_STAGES])))
    .orderBy(desc(workOrder.id))
    .limit(1)
    .for('update');
  return row ?? null;
}

/** A machine's clock may go ahead of ours: on its order nothing is told of later than now. */
const soonest = (at: Instant, now: Instant): Instant => (at < now ? at : now);

/** Tells an order of an alert; an act of the house, recorded once however often a pack is sent. */
async function tellOrder(
  tx: Tx,
  order: { id: OrderId; startedAt: Instant },
  act: Extract<OrderAct, { kind: 'alert joined' | 'alert ended' }>,
  at: Instant,
  now: Instant,
): Promise<void> {
  const own = at < order.startedAt ? order.startedAt : soonest(at, now);
  const requestKey = `${act.kind === 'alert joined' ? 'joined' : 'ended'}-alert-${act.alertId}`;
  await recordActIn(tx, order.id, { at: own, act, requestKey, who: null }, now);
}

/** Ends the alert that is active and says so on its order. */
async function ended(tx: Tx, rule: Rule, assetId: AssetId, turn: Ended, now: Instant): Promise<void> {
  const [row] = await tx.db
    .select({ id: alert.id, orderId: workOrder.id, startedAt: workOrder.startedAt })
    .from(alert)
    .leftJoin(workOrder, eq(workOrder.id, alert.orderId))
    .where(and(eq(alert.ruleId, rule.id), eq(alert.assetId, assetId), isNull(alert.endedAt)));
  if (!row) return;
  await tx.db
    .update(alert)
    .set({ endedAt: turn.at, normalSince: turn.normalSince, ...(turn.worst !== null && { worst: turn.worst }) })
    .where(eq(alert.id, row.id));
  if (row.orderId === null || row.startedAt === null) return;
  const how = turn.normalSince === null ? 'not watched any more' : 'normal again';
  const worst = turn.worst === null ? '' : `; at its worst ${sayExcess(rule, turn.worst)}`;
  const order = { id: row.orderId, startedAt: row.startedAt };
  await tellOrder(
    tx,
    order,
    { kind: 'alert ended', alertId: row.id, text: `${rule.name}: ${how}${worst}` },
    turn.at,
    now,
  );
}

/** Nothing is watched by that rule there any more: what went on ends with that. */
export const stopWatching = (tx: Tx, rule: Rule, assetId: AssetId, now: Instant): Promise<void> =>
  ended(tx, rule, assetId, { kind: 'ended', from: now, at: now, normalSince: null, worst: null }, now);

/** False: it stood already. */
async function started(tx: Tx, rule: Rule, assetId: AssetId, turn: Started, now: Instant): Promise<boolean> {
  try {
    const [made] = await tx.db
      .insert(alert)
      .values({ ruleId: rule.id, assetId, startedAt: turn.from, since: turn.since, worst: turn.worst })
      .$returningId();
    const alertId = made?.id as AlertId;
    const open = await openOrderOf(tx, rule, assetId);
    const text = `${rule.name}: ${sayExcess(rule, turn.worst)}`;
    if (open !== null) {
      await tellOrder(tx, open, { kind: 'alert joined', alertId, text }, turn.from, now);
      await tx.db.update(alert).set({ orderId: open.id, joined: 1 }).where(eq(alert.id, alertId));
      return true;
    }
    const orderId = await raiseCallIn(
      tx,
      {
        ...{ kind: 'repair', assetIds: [assetId], priority: rule.priority, cause: 'unknown' },
        startedAt: soonest(turn.from, now),
        ...{ title: rule.name, raisedText: `alert: ${text}`, requestKey: null, who: null, role: null },
        fallbackZone: asZone('UTC'),
      },
      now,
    );
    await tx.db.update(alert).set({ orderId }).where(eq(alert.id, alertId));
    return true;
  } catch (error) {
    if (isTaken(error)) return false;
    throw error;
  }
}

type Held = typeof ruleState.$inferSelect;

/** Goes on with one rule and machine, whose state is held; gives how many alerts started. */
export async function goOn(
  tx: Tx,
  rule: Rule,
  assetId: AssetId,
  held: Pick<Held, 'state'>,
  samples: readonly Sample[],
  until: Instant,
  now: Instant,
): Promise<number> {
  const watched = seriesRule(rule);
  const { state, happened } = advance(watched, held.state, samples, until);
  let alerts = 0;
  for (const turn of happened)
    if (turn.kind === 'ended') await ended(tx, rule, assetId, turn, now);
    else alerts += (await started(tx, rule, assetId, turn, now)) ? 1 : 0;
  if (state.phase.kind === 'active' || state.phase.kind === 'returning')
    await tx.db
      .update(alert)
      .set({ worst: state.worst })
      .where(and(eq(alert.ruleId, rule.id), eq(alert.assetId, assetId), isNull(alert.endedAt)));
  const kept = { lastAt: state.upTo, dueAt: dueAt(watched, state), state };
  await tx.db
    .insert(ruleState)
    .values({ ruleId: rule.id, assetId, ...kept })
    .onDuplicateKeyUpdate({ set: kept });
  return alerts;
}

type Located = Pick<Reading, 'at' | 'value'> & { readonly channel: string };

/** Judges what was read of a machine by its rules. Late readings are held, but a rule that has moved on is not moved back. */
export async function judge(
  tx: Tx,
  rules: readonly Rule[],
  assetId: AssetId,
  readings: readonly Located[],
  now: Instant,
): Promise<number> {
  let alerts = 0;
  for (const rule of rules) {
    const own = readings
      .filter((r) => r.channel === rule.channel)
      .map(asSample)
      .sort((a, b) => a.at - b.at)
      .filter((s, i, all) => s.at !== all[i - 1]?.at);
    const [first, last] = [own[0], own.at(-1)];
    if (!first || !last) continue;
    const [held] = await tx.db
      .select()
      .from(ruleState)
      .where(and(eq(ruleState.assetId, assetId), eq(ruleState.ruleId, rule.id)))
      .for('update');
    const fresh = held ? own.filter((s) => s.at > held.lastAt) : own;
    if (fresh.length > 0)
      alerts += await goOn(tx, rule, assetId, held ?? { state: watchedFrom(first.at) }, fresh, last.at, now);
  }
  return alerts;
}
