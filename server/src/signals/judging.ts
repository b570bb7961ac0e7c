// Judging readings by rules, and time by itself: alerts start and end, orders are raised or joined and told.
import { and, asc, desc, eq, gt, inArray, isNull, lt } from 'drizzle-orm';
import type { AlertId, AssetId, OrderId } from '#core/ids.ts';
import { OPEN_STAGES, type OrderAct } from '#core/orders/index.ts';
import {
  advance,
  dueAt,
  sayExcess,
  seriesRule,
  watchedFrom,
  type Happened,
  type Sample,
  type WatchState,
} from '#core/signals/index.ts';
import { asZone, instant, type Instant } from '#core/time/index.ts';
import { raiseCallIn, recordActIn } from '../orders/index.ts';
import { workOrder } from '../orders/tables.ts';
import { isTaken, type Tx } from '../platform/database.ts';
import { Refused } from '../platform/refuse.ts';
import { firstRead, samplesAfter } from './series.ts';
import { alert, ruleCheckpoint } from './tables.ts';
import { keepStandings, LATE_MS, type Standing, type Turn } from './watch.ts';
import type { Rule } from './watched.ts';

type Started = Extract<Happened, { kind: 'started' }>;
type Ended = Extract<Happened, { kind: 'ended' }>;
type Alert = typeof alert.$inferSelect;

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

/** Tells an order of an alert; an act of the house, recorded once however often it is found. */
async function tellOrder(
  tx: Tx,
  order: { id: OrderId; startedAt: Instant },
  act: Extract<OrderAct, { kind: 'alert joined' | 'alert ended' }>,
  told: 'joined' | 'ended' | 'withdrawn',
  at: Instant,
  now: Instant,
): Promise<void> {
  const own = at < order.startedAt ? order.startedAt : soonest(at, now);
  await recordActIn(tx, order.id, { at: own, act, requestKey: `${told}-alert-${act.alertId}`, who: null }, now);
}

/** What an order refuses concerns nothing else that is written with it. */
async function unlessRefused(
  { connection }: Tx,
  work: () => Promise<void>,
  refused: (why: string) => Promise<void> = () => Promise.resolve(),
): Promise<void> {
  await connection.query('SAVEPOINT one_order');
  try {
    await work();
  } catch (error) {
    if (!(error instanceof Refused)) throw error;
    await connection.query('ROLLBACK TO SAVEPOINT one_order');
    await refused(error.message);
  }
}

/** Tells the order of an alert how it ended, where it has one. */
async function tellEnd(
  tx: Tx,
  of: Pick<Alert, 'id' | 'orderId'>,
  text: string,
  told: 'ended' | 'withdrawn',
  at: Instant,
  now: Instant,
) {
  if (of.orderId === null) return;
  const [order] = await tx.db
    .select({ id: workOrder.id, startedAt: workOrder.startedAt })
    .from(workOrder)
    .where(eq(workOrder.id, of.orderId));
  if (!order) return;
  await unlessRefused(tx, () => tellOrder(tx, order, { kind: 'alert ended', alertId: of.id, text }, told, at, now));
}

const sameAlert = (rule: Rule, assetId: AssetId, from: Instant) =>
  and(eq(alert.ruleId, rule.id), eq(alert.assetId, assetId), eq(alert.startedAt, from));

/** Ends an alert and says so on its order. */
async function ended(tx: Tx, rule: Rule, assetId: AssetId, turn: Ended, now: Instant): Promise<void> {
  const [row] = await tx.db
    .select()
    .from(alert)
    .where(sameAlert(rule, assetId, turn.from))
    .for('update');
  if (!row || row.endedAt === turn.at) return;
  await tx.db
    .update(alert)
    .set({ endedAt: turn.at, normalSince: turn.normalSince, ...(turn.worst !== null && { worst: turn.worst }) })
    .where(eq(alert.id, row.id));
  const how = turn.normalSince === null ? 'not watched any more' : 'normal again';
  const worst = turn.worst === null ? '' : `; at its worst ${sayExcess(rule, turn.worst)}`;
  await tellEnd(tx, row, `${rule.name}: ${how}${worst}`, 'ended', turn.at, now);
}

/** Nothing is watched by that rule there any more: what goes on ends with that, and where it stands is forgotten. */
export async function stopWatching(turn: Turn, rule: Rule, assetId: AssetId, now: Instant): Promise<void> {
  const [open] = await turn.tx.db
    .select({ from: alert.startedAt })
    .from(alert)
    .where(and(eq(alert.ruleId, rule.id), eq(alert.assetId, assetId), isNull(alert.endedAt)));
  if (open) {
    const at = open.from > now ? open.from : now;
    await ended(turn.tx, rule, assetId, { kind: 'ended', from: open.from, at, normalSince: null, worst: null }, now);
  }
  turn.drop(rule.id, assetId);
}

/** False: it stood already. */
async function started(tx: Tx, rule: Rule, assetId: AssetId, turn: Started, now: Instant): Promise<boolean> {
  const alertId = await tx.db
    .insert(alert)
    .values({ ruleId: rule.id, assetId, startedAt: turn.from, since: turn.since, worst: turn.worst })
    .$returningId()
    .then(
      ([made]) => made?.id as AlertId,
      (error: unknown) => {
        if (isTaken(error)) return null;
        throw error;
      },
    );
  if (alertId === null) return false;
  const open = await openOrderOf(tx, rule, assetId);
  const text = `${rule.name}: ${sayExcess(rule, turn.worst)}`;
  if (open !== null) {
    await tellOrder(tx, open, { kind: 'alert joined', alertId, text }, 'joined', turn.from, now);
    await tx.db.update(alert).set({ orderId: open.id, joined: 1 }).where(eq(alert.id, alertId));
    return true;
  }
  await unlessRefused(
    tx,
    async () => {
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
    },
    // The alert stands all the same, and says why nobody was sent.
    async (why) => {
      await tx.db
        .update(alert)
        .set({ noOrder: why.slice(0, 300) })
        .where(eq(alert.id, alertId));
    },
  );
  return true;
}

async function happen(tx: Tx, rule: Rule, assetId: AssetId, all: readonly Happened[], now: Instant): Promise<number> {
  let alerts = 0;
  for (const turn of all)
    if (turn.kind === 'ended') await ended(tx, rule, assetId, turn, now);
    else alerts += (await started(tx, rule, assetId, turn, now)) ? 1 : 0;
  return alerts;
}

const activeFrom = ({ phase }: WatchState): Instant | null =>
  phase.kind === 'active' || phase.kind === 'returning' ? phase.from : null;

async function noteWorst(tx: Tx, rule: Rule, assetId: AssetId, before: WatchState, state: WatchState): Promise<void> {
  const from = activeFrom(state);
  if (from !== null && (state.worst !== before.worst || activeFrom(before) !== from))
    await tx.db
      .update(alert)
      .set({ worst: state.worst })
      .where(sameAlert(rule, assetId, from));
}

/** What is written at once: that somebody else would not find it out from the readings, or not in time. */
const mustBeKept = ({ kept, dueAt: due }: Standing): boolean =>
  kept === null || (due !== null && (kept.dueAt === null || due < kept.dueAt));

type Going = {
  readonly rule: Rule;
  readonly assetId: AssetId;
  readonly samples: readonly Sample[];
  readonly until: Instant;
};

/** Goes on with some rules and machines, from where they stand or, where they never were, from their first reading; gives how many alerts started. */
export async function goOn(turn: Turn, all: readonly Going[], now: Instant): Promise<number> {
  const { tx } = turn;
  const toKeep: { ruleId: Rule['id']; assetId: AssetId; standing: Standing }[] = [];
  let alerts = 0;
  for (const { rule, assetId, samples, until } of all) {
    const before = turn.standing(rule.id, assetId);
    const begun = before?.state ?? watchedFrom(samples[0]?.at ?? until);
    const watched = seriesRule(rule);
    const { state, happened } = advance(watched, begun, samples, until, turn.masksOf(assetId));
    const { kept, checkpointAt } = before ?? { kept: null, checkpointAt: null };
    const standing: Standing = { state, dueAt: dueAt(watched, state), kept, checkpointAt };
    alerts += await happen(tx, rule, assetId, happened, now);
    await noteWorst(tx, rule, assetId, begun, state);
    if (happened.length > 0 || mustBeKept(standing)) toKeep.push({ ruleId: rule.id, assetId, standing });
    else turn.put(rule.id, assetId, standing);
  }
  await keepStandings(turn, toKeep);
  return alerts;
}

/** From where something read at an instant has to be judged again: the newest checkpoint before; else where the series begins. */
async function stoodBefore(
  tx: Tx,
  rule: Rule,
  assetId: AssetId,
  from: Instant,
): Promise<{ readonly state: WatchState; readonly after: Instant } | null> {
  const [checkpoint] = await tx.db
    .select({ state: ruleCheckpoint.state })
    .from(ruleCheckpoint)
    .where(and(eq(ruleCheckpoint.ruleId, rule.id), eq(ruleCheckpoint.assetId, assetId), lt(ruleCheckpoint.at, from)))
    .orderBy(desc(ruleCheckpoint.at))
    .limit(1);
  if (checkpoint) return { state: checkpoint.state, after: checkpoint.state.upTo };
  const earliest = instant(from - LATE_MS);
  const since = rule.watchedSince !== null && rule.watchedSince > earliest ? rule.watchedSince : earliest;
  const first = await firstRead(tx.db, { assetId, channel: rule.channel, after: instant(since - 1) });
  return first === null ? null : { state: watchedFrom(first), after: instant(first - 1) };
}

/** Alerts that readings no longer speak for are withdrawn, not deleted; their orders stay and say so. */
async function withdraw(tx: Tx, rule: Rule, gone: readonly Alert[], now: Instant): Promise<void> {
  for (const of of gone) {
    await tx.db
      .update(alert)
      .set({ withdrawnAt: now, ...(of.endedAt === null && { endedAt: of.startedAt > now ? of.startedAt : now }) })
      .where(eq(alert.id, of.id));
    await tellEnd(
      tx,
      of,
      `${rule.name}: withdrawn, for what was told late shows that there was none`,
      'withdrawn',
      now,
      now,
    );
  }
}

/**
 * Judges a rule and a machine again from some instant on, for something was told late: alerts that follow now are raised, those that no
 * longer do are withdrawn, the others begin and end as they do now. Gives how many started.
 */
export async function judgeAgain(
  turn: Turn,
  rule: Rule,
  assetId: AssetId,
  from: Instant,
  now: Instant,
): Promise<number> {
  const { tx } = turn;
  const standing = turn.standing(rule.id, assetId);
  if (from < now - LATE_MS) return 0;
  const stood = await stoodBefore(tx, rule, assetId, from);
  if (!stood) return 0;
  const { state: begun, after } = stood;
  const read =
    (await samplesAfter(tx.db, [{ assetId, channel: rule.channel, after }])).get(assetId)?.get(rule.channel) ?? [];
  const last = read.at(-1)?.at ?? begun.upTo;
  const until = standing && standing.state.upTo > last ? standing.state.upTo : last;
  const watched = seriesRule(rule);
  const { state, happened } = advance(watched, begun, read, until, turn.masksOf(assetId));
  const known = await tx.db
    .select()
    .from(alert)
    .where(and(eq(alert.ruleId, rule.id), eq(alert.assetId, assetId), gt(alert.startedAt, after)))
    .orderBy(asc(alert.startedAt))
    .for('update');
  const follows = new Set(happened.flatMap((t) => (t.kind === 'started' ? [t.from] : [])));
  await withdraw(
    tx,
    rule,
    known.filter((a) => a.withdrawnAt === null && !follows.has(a.startedAt)),
    now,
  );
  // What goes on is open, though it was found to have ended, or withdrawn.
  for (const of of known.filter((a) => follows.has(a.startedAt)))
    if (of.withdrawnAt !== null || activeFrom(state) === of.startedAt)
      await tx.db.update(alert).set({ withdrawnAt: null, endedAt: null, normalSince: null }).where(eq(alert.id, of.id));
  const running = activeFrom(state);
  if (running !== null && running <= after)
    await tx.db
      .update(alert)
      .set({ endedAt: null, normalSince: null })
      .where(sameAlert(rule, assetId, running));
  const alerts = await happen(tx, rule, assetId, happened, now);
  await noteWorst(tx, rule, assetId, { ...state, worst: null }, state);
  await tx.db
    .delete(ruleCheckpoint)
    .where(and(eq(ruleCheckpoint.ruleId, rule.id), eq(ruleCheckpoint.assetId, assetId), gt(ruleCheckpoint.at, after)));
  await keepStandings(turn, [
    {
      ...{ ruleId: rule.id, assetId },
      standing: { state, dueAt: dueAt(watched, state), kept: standing?.kept ?? null, checkpointAt: null },
    },
  ]);
  return alerts;
}
