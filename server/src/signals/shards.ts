// Which server watches which machines: each shard is leased to one of them. What a server remembers of a shard counts as long as the
// row says that it holds it, was taken no more often since, and the epoch is the one it remembers; all are read under a lock, in the
// transaction that relies on them.
import { and, eq, gte, inArray, isNull, lt, notInArray, or, sql } from 'drizzle-orm';
import type { AssetId } from '#core/ids.ts';
import { DAY, instant } from '#core/time/index.ts';
import type { Db, Tx } from '../platform/database.ts';
import { signalShard, watchServer } from './tables.ts';

export const SHARDS = 64;
export const ALL_SHARDS: readonly number[] = Array.from({ length: SHARDS }, (_, i) => i);
/** Whoever holds it listens to the broker. */
export const BROKER_SHARD = SHARDS;
export const shardOf = (id: AssetId): number => id % SHARDS;

/** After a crash others wait so long; who is alive renews much sooner. */
const LEASE_MS = 6000;
export const RENEW_EVERY_MS = 2000;
/** Leases run by the servers' own clocks, not by the instant a demo is told to stand at. */
const realNow = () => instant(Date.now());
const until = () => instant(Date.now() + LEASE_MS);

export type Lease = {
  readonly id: number;
  readonly holder: string | null;
  readonly epoch: number;
  readonly taken: number;
};

const isAlive = (db: Db) =>
  db.select({ id: watchServer.id }).from(watchServer).where(gte(watchServer.until, realNow()));

/** Takes those of some shards that nobody holds any more; where somebody does, nothing is locked. */
export async function claim(db: Db, me: string, ids: readonly number[]): Promise<void> {
  const isFree = and(
    inArray(signalShard.id, [...ids]),
    or(isNull(signalShard.holder), notInArray(signalShard.holder, isAlive(db))),
  );
  const free = await db.select({ id: signalShard.id }).from(signalShard).where(isFree);
  if (free.length === 0) return;
  // Its own row first: what it holds is held from the beginning.
  await renew(db, me);
  await db
    .update(signalShard)
    .set({ holder: me, taken: sql`${signalShard.taken} + 1` })
    .where(
      and(
        isFree,
        inArray(
          signalShard.id,
          free.map((f) => f.id),
        ),
      ),
    );
}

/** Goes on holding what is held; gives what that is. */
export async function renew(db: Db, me: string): Promise<number[]> {
  await db
    .insert(watchServer)
    .values({ id: me, until: until() })
    .onDuplicateKeyUpdate({ set: { until: until() } });
  return (await db.select({ id: signalShard.id }).from(signalShard).where(eq(signalShard.holder, me))).map((r) => r.id);
}

/** Lets go of all that is held, so that others need not wait. */
export const release = async (db: Db, me: string): Promise<void> => {
  await db.update(signalShard).set({ holder: null }).where(eq(signalShard.holder, me));
  await db.delete(watchServer).where(or(eq(watchServer.id, me), lt(watchServer.until, instant(Date.now() - DAY))));
};

/** Some shards as they are; nobody can take them, and no rule changes, before the transaction has ended. */
export async function lockShards(tx: Tx, ids: readonly number[]): Promise<Lease[]> {
  const [rows] = (await tx.db.execute(
    sql`select id, holder, epoch, taken from signal_shard where id in (${sql.join(
      [...ids].sort((a, b) => a - b).map((id) => sql`${id}`),
      sql`, `,
    )}) order by id lock in share mode`,
  )) as unknown as [Lease[]];
  return rows;
}

/** What is remembered of any machine counts no more: rules, or whose devices they are, have changed. In the transaction that changes it. */
export const forgetWatched = async (tx: Tx): Promise<void> => {
  await tx.db.update(signalShard).set({ epoch: sql`${signalShard.epoch} + 1` });
};
