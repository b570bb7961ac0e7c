// What happens to alerts by itself, without a reading: delays end, machines fall silent. Several servers do it beside each other.
import { and, asc, eq, gt, isNotNull, isNull, lte, ne, sql } from 'drizzle-orm';
import type { FastifyBaseLogger } from 'fastify';
import { postReadings } from '#api/signals.ts';
import type { AssetId } from '#core/ids.ts';
import { dueAt, seriesRule, watchedFrom } from '#core/signals/index.ts';
import { instant, MINUTE, type Instant } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { instantText } from '../platform/columns.ts';
import { bulkInsert, type Database, type Tx } from '../platform/database.ts';
import type { House } from '../platform/http.ts';
import { Refused } from '../platform/refuse.ts';
import { keepGoing } from '../platform/keep-going.ts';
import { announce } from '../platform/live.ts';
import type { Going } from '../room.ts';
import { goOn, stopWatching } from './judging.ts';
import { alertRule, device, ruleState } from './tables.ts';
import { rulesOf } from './watched.ts';

const EVERY_MS = 2000;
const BEGIN_EVERY_MS = 60_000;
const AT_ONCE = 50;
/** What was read up to an instant may be on its way for so long. */
const GRACE_MS = 3000;

/** What cannot go on, for its order is refused, is tried again so much later. */
const AGAIN_MS = 10 * MINUTE;

type Which = Pick<typeof ruleState.$inferSelect, 'ruleId' | 'assetId'>;
const only = ({ ruleId, assetId }: Which) => and(eq(ruleState.ruleId, ruleId), eq(ruleState.assetId, assetId));

/** Goes on with one rule and machine, or leaves it where that is watched by a nearer rule or no more. False: somebody else has it. */
async function goOnWith(tx: Tx, which: Which, upTo: Instant, now: Instant): Promise<boolean> {
  const [held] = await tx.db.select().from(ruleState).where(only(which)).for('update', { skipLocked: true });
  if (!held || held.dueAt === null || held.dueAt > upTo) return false;
  const [[rule], [machine]] = await Promise.all([
    tx.db.select().from(alertRule).where(eq(alertRule.id, which.ruleId)),
    tx.db
      .select({ id: asset.id, classId: asset.classId, model: asset.model, state: asset.state })
      .from(asset)
      .where(eq(asset.id, which.assetId)),
  ]);
  const isWatched = machine && (await rulesOf(tx.db, [machine]))(machine.id).some((r) => r.id === which.ruleId);
  if (rule && isWatched) await goOn(tx, rule, which.assetId, held, [], upTo, now);
  else {
    if (rule) await stopWatching(tx, rule, which.assetId, now);
    await tx.db.delete(ruleState).where(only(which));
  }
  await announce(tx, postReadings);
  return true;
}

/**
 * Lets time go on for some of those for which something is due, each by itself; gives for how many it did. One whose order is refused
 * keeps nobody else from going on.
 */
export async function letTimeGoOn(
  database: Pick<Database, 'transact' | 'db'>,
  now: Instant,
  refused: (error: Refused) => void = () => undefined,
): Promise<number> {
  const upTo = instant(now - GRACE_MS);
  const due = await database.db
    .select({ ruleId: ruleState.ruleId, assetId: ruleState.assetId })
    .from(ruleState)
    .where(and(isNotNull(ruleState.dueAt), lte(ruleState.dueAt, upTo)))
    .orderBy(asc(ruleState.dueAt))
    .limit(AT_ONCE);
  let done = 0;
  for (const which of due)
    try {
      if (await database.transact((tx) => goOnWith(tx, which, upTo, now))) done += 1;
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      refused(error);
      await database.transact((tx) =>
        tx.db
          .update(ruleState)
          .set({ dueAt: instant(now + AGAIN_MS) })
          .where(only(which)),
      );
      done += 1;
    }
  return done;
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
  let nextBegin = 0;
  return keepGoing(
    async () => {
      if (Date.now() >= nextBegin) {
        nextBegin = Date.now() + BEGIN_EVERY_MS;
        await beginWatchingAll(database, readNow());
      }
      return letTimeGoOn(database, readNow(), (error) => log.warn({ why: error.message }, 'an alert raised no order'));
    },
    EVERY_MS,
    (error) => log.warn({ error }, 'time did not go on for alerts; tried again'),
  );
}
