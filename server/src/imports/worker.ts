// The worker of imports: whichever server is alive takes up a running import and has it loaded on a thread, step by step.
import { and, asc, eq, isNull, lt, or } from 'drizzle-orm';
import { cancelImport } from '#api/imports.ts';
import type { ImportId } from '#core/ids.ts';
import { instant } from '#core/time/index.ts';
import type { House } from '../platform/http.ts';
import { announce } from '../platform/live.ts';
import { Refused } from '../platform/refuse.ts';
import { importRun } from './tables.ts';
import { onThread } from './pool.ts';

export const LEASE_MS = 60_000;
const RENEW_EVERY_MS = LEASE_MS / 4;
const LOOK_EVERY_MS = 1000;

type Claim = { readonly id: ImportId; readonly fence: number };

/** Takes up a running import that nobody works on: its lease is ours, and whoever had it before is fenced off. */
export async function claimImport({ database }: Pick<House, 'database'>): Promise<Claim | null> {
  return database.transact(async (tx) => {
    const at = instant(Date.now());
    const [row] = await tx.db
      .select()
      .from(importRun)
      .where(and(eq(importRun.state, 'running'), or(isNull(importRun.leaseUntil), lt(importRun.leaseUntil, at))))
      .orderBy(asc(importRun.id))
      .limit(1)
      .for('update', { skipLocked: true });
    if (!row) return null;
    const fence = row.fence + 1;
    await tx.db
      .update(importRun)
      .set({ leaseUntil: instant(at + LEASE_MS), fence })
      .where(eq(importRun.id, row.id));
    return { id: row.id, fence };
  });
}

/** Takes up running imports nobody works on, and carries them out. Any server may die: the next plans the file anew, and what is written counts as held. */
export function startWorker(house: House, failed: (error: unknown) => void): { wake(): void; stop(): Promise<void> } {
  const { database } = house;
  const { db } = database;
  const stopping = new AbortController();
  let working: Promise<void> = Promise.resolve();

  const mine = ({ id, fence }: Claim) =>
    and(eq(importRun.id, id), eq(importRun.fence, fence), eq(importRun.state, 'running'));

  async function carryOut(claim: Claim): Promise<void> {
    // Planning keeps its thread busy for long; the lease is renewed from here.
    const renewing = setInterval(
      () =>
        void db
          .update(importRun)
          .set({ leaseUntil: instant(Date.now() + LEASE_MS) })
          .where(mine(claim))
          .catch(failed),
      RENEW_EVERY_MS,
    );
    try {
      const ask = { ...claim, url: house.config.databaseUrl, leaseMs: LEASE_MS, now: house.readNow() };
      await onThread('carryOut', ask, stopping.signal);
    } catch (error) {
      // Cut short by our own end: the next server goes on at once.
      if (stopping.signal.aborted)
        return void (await db.update(importRun).set({ leaseUntil: null }).where(mine(claim)));
      const problem =
        error instanceof Refused ? error.message : 'Something went wrong on our side; it has been logged.';
      if (!(error instanceof Refused)) failed(error);
      await database.transact(async (tx) => {
        await tx.db
          .update(importRun)
          .set({ state: 'failed', leaseUntil: null, problem: problem.slice(0, 500) })
          .where(mine(claim));
        await announce(tx, cancelImport);
      });
    } finally {
      clearInterval(renewing);
    }
  }

  async function work(): Promise<void> {
    for (let claim = await claimImport(house); claim && !stopping.signal.aborted; claim = await claimImport(house))
      await carryOut(claim);
  }

  let busy = false;
  const wake = (): void => {
    if (busy || stopping.signal.aborted) return;
    busy = true;
    working = work()
      .catch(failed)
      .finally(() => {
        busy = false;
      });
  };
  const timer = setInterval(wake, LOOK_EVERY_MS);
  return {
    wake,
    async stop() {
      stopping.abort();
      clearInterval(timer);
      await working;
    },
  };
}
