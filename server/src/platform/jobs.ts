// Jobs: what is done beside requests. Rows claimed with a lease and a fencing number; any server may die, and another goes on.
import { and, asc, eq, inArray, isNull, lt, lte, or } from 'drizzle-orm';
import { waitAfter } from '#core/jobs.ts';
import { instant, type Instant } from '#core/time/index.ts';
import { bulkInsert, type Database, type Db, type Tx } from './database.ts';
import { instantText } from './columns.ts';
import { Refused } from './refuse.ts';
import { job } from './tables.ts';

/** What a job gets to work with. */
export type Working = {
  readonly id: number;
  /** Grows with every claim: whoever was overtaken finds another number and writes nothing more. */
  readonly fence: number;
  readonly now: Instant;
  /** Aborted when this server stops or the lease is lost. */
  readonly signal: AbortSignal;
  /** Says how far it is; renews the lease. */
  progress(text: string): Promise<void>;
};

export type JobKind<Stand = unknown> = {
  readonly kind: string;
  /** What it does, in words for whoever looks after the installation. */
  readonly says: string;
  /** Begun by itself, by one server of several: five fields of minute, hour, day, month, weekday (UTC), and the same in words. */
  readonly every?: { readonly cron: string; readonly says: string };
  /** Begun also when a server starts. */
  readonly atStart?: boolean;
  /** Carries it out, and says what came of it in a few words. */
  run(stand: Stand, ask: unknown, working: Working): Promise<string>;
  /** Told when it is laid aside for good. */
  died?(stand: Stand, ask: unknown, reason: string): Promise<void>;
};

/** Leaves a job in the transaction of the change that needs it, and gives its id. The same kind and key are done once. */
export async function leaveJob(
  tx: Pick<Tx, 'connection'>,
  kind: string,
  ask: object,
  { key = null, at = instant(Date.now()) }: { readonly key?: string | null; readonly at?: Instant } = {},
): Promise<number> {
  const row = [kind, key, JSON.stringify(ask), 'waiting', instantText(at), instantText(instant(Date.now()))];
  const columns = ['kind', 'job_key', 'ask', 'state', 'due_at', 'created_at'];
  const [id] = await bulkInsert(tx.connection, 'job', columns, [row], 'ON DUPLICATE KEY UPDATE kind = kind');
  return id ?? 0;
}

/** What was to be done is done already: nobody needs to take it up any more. */
export const forgetJob = async (db: Db, id: number): Promise<void> =>
  void (await db.delete(job).where(and(eq(job.id, id), eq(job.state, 'waiting'))));

export const LEASE_MS = 60_000;
const RENEW_EVERY_MS = LEASE_MS / 4;
const LOOK_EVERY_MS = 1000;
/** How many of a kind one server does at a time, and of all kinds together. */
const RUNNERS = 3;

export type Claim = {
  readonly id: number;
  readonly kind: string;
  readonly ask: unknown;
  readonly fence: number;
  readonly tries: number;
};

/** Takes up a job of these kinds that is due and that nobody works on; whoever had it before is fenced off. */
export async function claimJob(database: Database, kinds: readonly string[]): Promise<Claim | null> {
  if (kinds.length === 0) return null;
  return database.transact(async (tx) => {
    const at = instant(Date.now());
    const [row] = await tx.db
      .select()
      .from(job)
      .where(
        and(
          inArray(job.state, ['waiting', 'running']),
          lte(job.dueAt, at),
          inArray(job.kind, [...kinds]),
          or(isNull(job.leaseUntil), lt(job.leaseUntil, at)),
        ),
      )
      .orderBy(asc(job.dueAt), asc(job.id))
      .limit(1)
      .for('update', { skipLocked: true });
    if (!row) return null;
    const fence = row.fence + 1;
    await tx.db
      .update(job)
      .set({ state: 'running', leaseUntil: instant(at + LEASE_MS), fence, startedAt: at })
      .where(eq(job.id, row.id));
    return { id: row.id, kind: row.kind, ask: row.ask, fence, tries: row.tries };
  });
}

const mine = ({ id, fence }: Pick<Claim, 'id' | 'fence'>) =>
  and(eq(job.id, id), eq(job.fence, fence), eq(job.state, 'running'));

/** Locks the claim in a transaction that writes for it; false when somebody else has taken it up meanwhile. */
export async function holdClaim(tx: Tx, claim: Pick<Claim, 'id' | 'fence'>): Promise<boolean> {
  const [held] = await tx.db.select({ id: job.id }).from(job).where(mine(claim)).for('update');
  return held !== undefined;
}

const reasonOf = (error: unknown): string =>
  (error instanceof Error ? error.message : String(error)).slice(0, 500) || 'It failed without a word.';

/** Writes down what came of a try: tried again later, or dead with its reason. A refusal is not tried again: it would be refused again. */
async function failed(db: Db, claim: Claim, error: unknown, chance: number): Promise<'again' | 'dead'> {
  const tries = claim.tries + 1;
  const wait = error instanceof Refused ? null : waitAfter(tries, chance);
  const now = Date.now();
  await db
    .update(job)
    .set({
      tries,
      leaseUntil: null,
      problem: reasonOf(error),
      ...(wait === null
        ? { state: 'dead' as const, endedAt: instant(now) }
        : { state: 'waiting' as const, dueAt: instant(now + wait) }),
    })
    .where(mine(claim));
  return wait === null ? 'dead' : 'again';
}

export type JobWorker = { wake(): void; stop(): Promise<void> };

type Log = { error(fields: object, message: string): void };

type Carrying<Stand> = {
  readonly database: Database;
  readonly stand: Stand;
  readonly readNow: () => Instant;
  readonly log: Log;
  /** The server ends. */
  readonly stopping: AbortSignal;
};

/** Carries out one claimed job: its lease renewed while it runs, its end written only while the claim is ours. */
async function carryOut<Stand>(
  claim: Claim,
  kind: JobKind<Stand>,
  { database: { db }, stand, readNow, log, stopping }: Carrying<Stand>,
): Promise<void> {
  const ending = new AbortController();
  const signal = AbortSignal.any([stopping, ending.signal]);
  const renew = async (more: { progress?: string } = {}): Promise<void> => {
    const [held] = await db
      .update(job)
      .set({ leaseUntil: instant(Date.now() + LEASE_MS), ...more })
      .where(mine(claim));
    if (held.affectedRows === 0) ending.abort();
  };
  const renewing = setInterval(
    () => void renew().catch((error: unknown) => log.error({ err: error }, 'lease')),
    RENEW_EVERY_MS,
  );
  try {
    const progress = (text: string): Promise<void> => renew({ progress: text.slice(0, 200) });
    const working = { id: claim.id, fence: claim.fence, now: readNow(), signal, progress };
    const came = await kind.run(stand, claim.ask, working);
    await db
      .update(job)
      .set({
        state: 'done',
        leaseUntil: null,
        endedAt: instant(Date.now()),
        progress: came.slice(0, 200),
        problem: null,
      })
      .where(mine(claim));
  } catch (error) {
    // Cut short by our own end: the next server goes on at once.
    if (stopping.aborted)
      return void (await db.update(job).set({ state: 'waiting', leaseUntil: null }).where(mine(claim)));
    if (ending.signal.aborted) return;
    if (!(error instanceof Refused)) log.error({ err: error, job: claim.id, kind: claim.kind }, 'job failed');
    if ((await failed(db, claim, error, Math.random())) === 'dead')
      await kind.died?.(stand, claim.ask, reasonOf(error));
  } finally {
    clearInterval(renewing);
  }
}

/** Carries out jobs of these kinds, each kind one at a time. `stand` is what jobs work with; `readNow` the house's clock. */
export function startJobs<Stand>(
  database: Database,
  kinds: readonly JobKind<Stand>[],
  stand: Stand,
  readNow: () => Instant,
  log: Log,
): JobWorker {
  const stopping = new AbortController();
  const underWay = new Map<string, Promise<void>>();
  const kindOf = new Map(kinds.map((k) => [k.kind, k]));
  const carrying = { database, stand, readNow, log, stopping: stopping.signal };

  let looking = false;
  let again = false;
  async function look(): Promise<void> {
    while (!stopping.signal.aborted && underWay.size < RUNNERS) {
      const claim = await claimJob(
        database,
        kinds.map((k) => k.kind).filter((k) => !underWay.has(k)),
      );
      if (!claim) return;
      underWay.set(
        claim.kind,
        carryOut(claim, kindOf.get(claim.kind) as JobKind<Stand>, carrying)
          .catch((error: unknown) => log.error({ err: error, job: claim.id }, 'job'))
          .finally(() => {
            underWay.delete(claim.kind);
            wake();
          }),
      );
    }
  }
  function wake(): void {
    if (stopping.signal.aborted) return;
    if (looking) return void (again = true);
    looking = true;
    look()
      .catch((error: unknown) => log.error({ err: error }, 'jobs'))
      .finally(() => {
        looking = false;
        if (again) {
          again = false;
          wake();
        }
      });
  }
  const timer = setInterval(wake, LOOK_EVERY_MS);
  wake();
  return {
    wake,
    async stop() {
      stopping.abort();
      clearInterval(timer);
      await Promise.all(underWay.values());
    },
  };
}
