// What happens to alerts by itself, without a reading: delays end, machines fall silent. Several servers do it beside each other.
import { and, asc, eq, gt, inArray, isNotNull, isNull, lte, sql } from 'drizzle-orm';
import type { FastifyBaseLogger } from 'fastify';
import { postReadings } from '#api/signals.ts';
import type { AssetId } from '#core/ids.ts';
import { dueAt, seriesRule, watchedFrom } from '#core/signals/index.ts';
import { instant, type Instant } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { instantText } from '../platform/columns.ts';
import { bulkInsert, type Database, type Tx } from '../platform/database.ts';
import type { House } from '../platform/http.ts';
import { keepGoing } from '../platform/keep-going.ts';
import { announce } from '../platform/live.ts';
import type { Going } from '../room.ts';
import { goOn } from './judging.ts';
import { alertRule, device, ruleState } from './tables.ts';
import { rulesOf } from './watched.ts';

const EVERY_MS = 2000;
const BEGIN_EVERY_MS = 60_000;
const AT_ONCE = 50;
/** What was read up to an instant may be on its way for so long. */
const GRACE_MS = 3000;

/** Lets time go on for some of those for which something is due; gives how many there were. */
export async function letTimeGoOn(database: Pick<Database, 'transact'>, now: Instant): Promise<number> {
  return database.transact(async (tx) => {
    const upTo = instant(now - GRACE_MS);
    const due = await tx.db
      .select()
      .from(ruleState)
      .where(and(isNotNull(ruleState.dueAt), lte(ruleState.dueAt, upTo)))
      .orderBy(asc(ruleState.dueAt))
      .limit(AT_ONCE)
      .for('update', { skipLocked: true });
    if (due.length === 0) return 0;
    const rules = new Map(
      (
        await tx.db
          .select()
          .from(alertRule)
          .where(inArray(alertRule.id, [...new Set(due.map((d) => d.ruleId))]))
      ).map((r) => [r.id, r]),
    );
    for (const held of due) {
      const rule = rules.get(held.ruleId);
      if (rule) await goOn(tx, rule, held.assetId, held, [], upTo, now);
      else
        await tx.db
          .delete(ruleState)
          .where(and(eq(ruleState.ruleId, held.ruleId), eq(ruleState.assetId, held.assetId)));
    }
    await announce(tx, postReadings);
    return due.length;
  });
}

const SILENT = sql`json_value(${alertRule.condition}, '$.kind') = 'silence'`;

const MACHINES_AT_ONCE = 1000;

/** Begins to watch for silence the machines that have a device and said nothing yet: some, after one of them. Gives the last; null: that was all. */
export async function beginWatching(tx: Tx, after: AssetId, now: Instant): Promise<AssetId | null> {
  const machines = await tx.db
    .selectDistinct({ id: asset.id, classId: asset.classId, model: asset.model })
    .from(device)
    .innerJoin(asset, eq(asset.id, device.assetId))
    .innerJoin(alertRule, and(eq(alertRule.assetClassId, asset.classId), SILENT))
    .leftJoin(ruleState, and(eq(ruleState.ruleId, alertRule.id), eq(ruleState.assetId, asset.id)))
    .where(and(isNull(ruleState.ruleId), gt(asset.id, after)))
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
      return letTimeGoOn(database, readNow());
    },
    EVERY_MS,
    (error) => log.warn({ error }, 'time did not go on for alerts; tried again'),
  );
}
