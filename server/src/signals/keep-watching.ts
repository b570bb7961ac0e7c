// What happens to alerts by itself, without a reading: delays end, machines fall silent, and what was told late is judged again. Any of
// several servers does it, each for the shards it holds.
import { and, asc, eq, gt, inArray, isNotNull, isNull, lte, ne, sql } from 'drizzle-orm';
import { group } from 'd3-array';
import type { FastifyBaseLogger } from 'fastify';
import { postReadings } from '#api/signals.ts';
import type { AlertRuleId, AssetId } from '#core/ids.ts';
import { dueAt, isOfParts, seriesRule, watchedFrom } from '#core/signals/index.ts';
import { instant, type Instant } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { instantText } from '../platform/columns.ts';
import { bulkInsert, type Database, type Tx } from '../platform/database.ts';
import type { House } from '../platform/http.ts';
import { keepGoing } from '../platform/keep-going.ts';
import { announce } from '../platform/live.ts';
import type { Going } from '../room.ts';
import { lookAtHeld } from './answering.ts';
import { escalate } from './escalating.ts';
import { goOn, judgeAgain, stopWatching } from './judging.ts';
import { release, RENEW_EVERY_MS, shardOf, SHARDS } from './shards.ts';
import { alert, alertRule, alertShelf, device, ruleState, toJudge } from './tables.ts';
import { takeUp } from './take.ts';
import {
  forgetCheckpoints,
  holdShards,
  inTurn,
  KEEP_EVERY,
  keepStandings,
  laneOf,
  OF_PARTS,
  standingRow,
  watchOf,
  type Turn,
} from './watch.ts';
import { rulesOf, type WatchedMachine } from './watched.ts';

const EVERY_MS = 2000;
const BEGIN_EVERY_MS = 60_000;
const AT_ONCE = 100;
/** What was read up to an instant may be on its way for so long. */
const GRACE_MS = 3000;

type Base = Pick<Database, 'transact' | 'db'>;
type Which = { readonly ruleId: AlertRuleId; readonly assetId: AssetId };

const machinesOf = (tx: Tx, ids: readonly AssetId[]): Promise<WatchedMachine[]> =>
  ids.length === 0
    ? Promise.resolve([])
    : tx.db
        .select({ id: asset.id, classId: asset.classId, model: asset.model, state: asset.state })
        .from(asset)
        .where(inArray(asset.id, [...ids]));

/** Takes up some machines that are this server's, with what was read since; gives them. */
async function taken(turn: Turn, ids: readonly AssetId[], now: Instant) {
  const own = [...new Set(ids)].filter((id) => turn.holds(id));
  const machines = new Map((await machinesOf(turn.tx, own)).map((m) => [m.id, m]));
  await takeUp(turn, own, (id) => machines.get(id), now);
  return machines;
}

/** Goes on with what is due, or leaves it where that is watched by a nearer rule or no more. Gives how many were gone on with. */
async function goOnWith(turn: Turn, due: readonly Which[], upTo: Instant, now: Instant): Promise<number> {
  const machines = await taken(
    turn,
    due.map((d) => d.assetId),
    now,
  );
  const { tx } = turn;
  let [done, happened] = [0, 0];
  for (const { ruleId, assetId } of due) {
    if (!turn.holds(assetId)) continue;
    const [machine, standing] = [machines.get(assetId), await turn.find(ruleId, assetId)];
    done += 1;
    const rule = machine && turn.rulesOf(machine).find((r) => r.id === ruleId);
    if (rule && standing) {
      // Only as far as something happens: what is read of later times is no later than that.
      for (let due = standing.dueAt; due !== null && due <= upTo;) {
        await goOn(turn, [{ rule, assetId, samples: [], until: due }], now);
        due = turn.standing(ruleId, assetId)?.dueAt ?? null;
      }
      const after = turn.standing(ruleId, assetId);
      // The row said that it was due: it is to say when it will be.
      if (after) await keepStandings(turn, [{ ruleId, assetId, standing: after }]);
      happened += 1;
      continue;
    }
    if (!standing) continue;
    const [left] = await tx.db.select().from(alertRule).where(eq(alertRule.id, ruleId));
    if (left) await stopWatching(turn, left, assetId, now);
    turn.drop(ruleId, assetId);
    await tx.db.delete(ruleState).where(standingRow(ruleId, assetId));
    happened += 1;
  }
  if (happened > 0) await announce(tx, postReadings);
  return done;
}

/** What is remembered to be due, beside what the database has. */
function rememberedDue(database: Base, upTo: Instant): Which[] {
  const found: Which[] = [];
  for (const [assetId, own] of watchOf(database as Database).memory.standings)
    for (const [ruleId, { dueAt: due }] of own) if (due !== null && due <= upTo) found.push({ ruleId, assetId });
  return found.slice(0, AT_ONCE);
}

/** Lets time go on for some of those for which something is due; gives for how many it did. */
async function goOnDue(database: Base, now: Instant): Promise<number> {
  const upTo = instant(now - GRACE_MS);
  const mine = [...watchOf(database as Database).held];
  if (mine.length === 0) return 0;
  const rows = await database.db
    .select({ ruleId: ruleState.ruleId, assetId: ruleState.assetId })
    .from(ruleState)
    .where(
      and(
        isNotNull(ruleState.dueAt),
        lte(ruleState.dueAt, upTo),
        mine.length === SHARDS ? undefined : inArray(sql`${ruleState.assetId} % ${SHARDS}`, mine),
      ),
    )
    .orderBy(asc(ruleState.dueAt))
    .limit(AT_ONCE);
  const all = new Map([...rows, ...rememberedDue(database, upTo)].map((w) => [`${w.ruleId}/${w.assetId}`, w]));
  if (all.size === 0) return 0;
  const due = [...all.values()];
  const shards = [...new Set(due.map((d) => shardOf(d.assetId)))];
  return inTurn(database, watchOf(database as Database), shards, now, (turn) => goOnWith(turn, due, upTo, now));
}

/** Judges again what was told late, of machines that are this server's; gives how much that was. */
async function judgeWaiting(database: Base, now: Instant): Promise<number> {
  const watch = watchOf(database as Database);
  if (watch.held.size === 0) await holdShards(database, watch);
  const mine = [...watch.held];
  const rows = await database.db
    .select()
    .from(toJudge)
    .where(inArray(toJudge.shard, mine.length === 0 ? [-1] : mine))
    .orderBy(asc(toJudge.id))
    .limit(AT_ONCE);
  if (rows.length === 0) return 0;
  const shards = [...new Set(rows.map((r) => r.shard))];
  return inTurn(database, watch, shards, now, async (turn) => {
    const own = rows.filter((r) => turn.holds(r.assetId));
    const machines = await taken(
      turn,
      own.map((r) => r.assetId),
      now,
    );
    await turn.tx.db.delete(toJudge).where(inArray(toJudge.id, own.length === 0 ? [0] : own.map((r) => r.id)));
    for (const [assetId, waiting] of group(own, (r) => r.assetId)) {
      const machine = machines.get(assetId);
      for (const rule of machine ? turn.rulesOf(machine) : []) {
        const of = isOfParts(rule) ? OF_PARTS : rule.channel;
        const from = waiting.filter((w) => w.channel === null || w.channel === of).map((w) => w.from);
        if (from.length > 0) await judgeAgain(turn, rule, assetId, instant(Math.min(...from)), now);
      }
    }
    if (own.length > 0) await announce(turn.tx, postReadings);
    return own.length;
  });
}

/** Lets everything go on that does so by itself: what was told late, and what is due. Gives how much it did. */
export async function letTimeGoOn(database: Base, now: Instant): Promise<number> {
  return (await judgeWaiting(database, now)) + (await goOnDue(database, now)) + (await letShelvesEnd(database, now));
}

/** Alerts that were shelved and whose shelf's end has come: those that still go on are told of from then. */
export async function letShelvesEnd(database: Base, now: Instant): Promise<number> {
  const held = await database.db
    .selectDistinct({ assetId: alert.assetId })
    .from(alert)
    .innerJoin(
      alertShelf,
      and(eq(alertShelf.ruleId, alert.ruleId), eq(alertShelf.assetId, alert.assetId), lte(alertShelf.until, now)),
    )
    .where(and(isNull(alert.toldAt), isNull(alert.endedAt), isNull(alert.withdrawnAt), eq(alert.heldBy, 'shelved')))
    .limit(AT_ONCE);
  if (held.length === 0) return 0;
  return database.transact(async (tx) => {
    const told = await lookAtHeld(
      tx,
      held.map((h) => h.assetId),
      now,
    );
    if (told > 0) await announce(tx, postReadings);
    return told;
  }, 'the latest');
}

/** So many are kept at a time: what is read meanwhile waits for no more than that. */
const KEPT_AT_ONCE = 100;
/** So many times before whatever else time brings is looked at again. */
const KEPT_IN_A_ROW = 20;

/** Rules begin together and are kept apart: each after some half to the whole of the time, by its ids. */
const keptAfter = (ruleId: AlertRuleId, assetId: AssetId, most: number): number =>
  most * (0.5 + ((assetId * 31 + ruleId * 7) % 101) / 202);

/** Writes where rules stand that went on since they were kept, some at a time; gives how many if there are more. */
export async function keepRemembered(database: Database, now: Instant, behindMs = KEEP_EVERY): Promise<number> {
  const watch = watchOf(database);
  const all: Which[] = [];
  for (const [assetId, own] of watch.memory.standings)
    for (const [ruleId, { state, kept }] of own)
      if (kept === null || state.upTo - kept.upTo >= keptAfter(ruleId, assetId, behindMs))
        all.push({ assetId, ruleId });
  const lots = [...group(all, (w) => laneOf(shardOf(w.assetId))).values()].flatMap((own) =>
    Array.from({ length: Math.ceil(own.length / KEPT_AT_ONCE) }, (_, i) =>
      own.slice(i * KEPT_AT_ONCE, (i + 1) * KEPT_AT_ONCE),
    ),
  );
  for (const some of lots.slice(0, KEPT_IN_A_ROW))
    await inTurn(database, watch, [...new Set(some.map((w) => shardOf(w.assetId)))], now, async (turn) => {
      const known = some.flatMap((w) => {
        const standing = turn.holds(w.assetId) ? turn.standing(w.ruleId, w.assetId) : null;
        return standing ? [{ ...w, standing }] : [];
      });
      await keepStandings(turn, known);
    });
  return lots.length > KEPT_IN_A_ROW ? all.length : 0;
}

const SILENT = sql`json_value(${alertRule.condition}, '$.kind') = 'silence'`;

const MACHINES_AT_ONCE = 1000;

/** Begins to watch for silence the machines that have a device and said nothing yet: some, after one of them. Gives the last; null: that was all. */
export async function beginWatching(tx: Tx, after: AssetId, now: Instant): Promise<AssetId | null> {
  const machines = await tx.db
    .selectDistinct({ id: asset.id, classId: asset.classId, model: asset.model, state: asset.state })
    .from(device)
    .innerJoin(asset, eq(asset.id, device.assetId))
    .innerJoin(alertRule, and(eq(alertRule.assetClassId, asset.classId), SILENT))
    .leftJoin(ruleState, and(eq(ruleState.ruleId, alertRule.id), eq(ruleState.assetId, asset.id)))
    .where(and(isNull(ruleState.ruleId), gt(asset.id, after), ne(asset.state, 'retired')))
    .orderBy(asc(asset.id))
    .limit(MACHINES_AT_ONCE);
  const rules = await rulesOf(tx.db, machines);
  const rows = machines.flatMap((m) =>
    rules(m.id)
      .filter((r) => r.condition.kind === 'silence')
      .map((rule) => {
        const state = watchedFrom(now);
        const due = dueAt(seriesRule(rule), state);
        return [rule.id, m.id, instantText(now), due && instantText(due), JSON.stringify(state)];
      }),
  );
  const columns = ['rule_id', 'asset_id', 'last_at', 'due_at', 'state'];
  await bulkInsert(tx.connection, 'rule_state', columns, rows, 'ON DUPLICATE KEY UPDATE rule_id = VALUES(rule_id)');
  return machines.length < MACHINES_AT_ONCE ? null : (machines.at(-1)?.id ?? null);
}

async function beginWatchingAll(database: Pick<Database, 'transact'>, now: Instant): Promise<void> {
  for (let after: AssetId | null = 0 as AssetId; after !== null;) {
    const from: AssetId = after;
    after = await database.transact((tx) => beginWatching(tx, from, now));
  }
}

export function keepWatching({ database, readNow }: House, log: FastifyBaseLogger): Going {
  const watch = watchOf(database);
  let nextBegin = 0;
  const going = keepGoing(
    async () => {
      if (Date.now() >= nextBegin) {
        nextBegin = Date.now() + BEGIN_EVERY_MS;
        await beginWatchingAll(database, readNow());
        await forgetCheckpoints(database, readNow());
      }
      const did = (await letTimeGoOn(database, readNow())) + (await escalate(database, readNow()));
      // What is left is kept the next time: that is soon enough.
      await keepRemembered(database, readNow());
      return did;
    },
    EVERY_MS,
    (error) => log.warn({ error }, 'time did not go on for alerts; tried again'),
  );
  const lease = keepGoing(
    async () => {
      await holdShards(database, watch);
      return 0;
    },
    RENEW_EVERY_MS,
    (error) => log.warn({ error }, 'what this server watches was not renewed; tried again'),
  );
  return {
    async stop() {
      await Promise.all([going.stop(), lease.stop()]);
      await Promise.all(watch.lines);
      // Whoever goes on need neither wait nor read again.
      while ((await keepRemembered(database, readNow(), 1).catch(() => 0)) > 0);
      await release(database.db, watch.me).catch(() => undefined);
    },
  };
}
