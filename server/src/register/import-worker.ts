// The worker of imports: whichever server is alive takes up a running import and loads it step by step.
import { and, asc, eq, isNull, lt, or } from 'drizzle-orm';
import { instant } from '#core/time/index.ts';
import { note } from '../platform/audit.ts';
import type { House, Person } from '../platform/http.ts';
import { announce } from '../platform/live.ts';
import { Refused } from '../platform/refuse.ts';
import { importRun, person } from '../platform/tables/index.ts';
import type { Origin } from './import-assets.ts';
import { fileOf, prepare, type Run } from './import-plan.ts';

const LEASE_MS = 60_000;
const LOOK_EVERY_MS = 1000;

/** Takes up running imports nobody works on, and carries them out. Any server may die: the next plans the file anew, and what is written counts as held. */
export function startWorker(house: House, failed: (error: unknown) => void): { wake(): void; stop(): Promise<void> } {
  const { database } = house;
  const { db } = database;
  let stopping = false;
  let working: Promise<void> = Promise.resolve();

  async function claim(): Promise<Run | null> {
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
      await tx.db
        .update(importRun)
        .set({ leaseUntil: instant(at + LEASE_MS) })
        .where(eq(importRun.id, row.id));
      return row;
    });
  }

  async function carryOut(run: Run): Promise<void> {
    const [who] = await db
      .select()
      .from(person)
      .where(eq(person.id, run.personId as never));
    const now = house.readNow();
    const asker = { ...who, id: run.personId } as unknown as Person;
    const origin: Origin = { who: asker, now, fileName: run.fileName, importId: run.id };
    const prepared = await prepare(db, await fileOf(db, run), run, now, who?.zone ?? 'UTC');
    let done = run.rowsDone;
    for (const step of prepared.steps) {
      if (stopping) return;
      const goesOn = await database.transact(async (tx) => {
        const [current] = await tx.db
          .select({ state: importRun.state })
          .from(importRun)
          .where(eq(importRun.id, run.id))
          .for('update');
        if (current?.state !== 'running') return false;
        await step.write(tx, origin);
        await tx.db
          .update(importRun)
          .set({ rowsDone: done + step.rows, leaseUntil: instant(Date.now() + LEASE_MS) })
          .where(eq(importRun.id, run.id));
        await announce(tx, 'imports');
        return true;
      });
      if (!goesOn) return;
      done += step.rows;
    }
    await database.transact(async (tx) => {
      await tx.db
        .update(importRun)
        .set({ state: 'done', leaseUntil: null })
        .where(and(eq(importRun.id, run.id), eq(importRun.state, 'running')));
      await note(tx, asker, 'import', run.id, `loaded ${run.fileName}: ${done} rows`);
      await announce(tx, 'imports', 'register', 'setup', 'agreements');
    });
  }

  async function work(): Promise<void> {
    for (let run = await claim(); run && !stopping; run = await claim()) {
      try {
        await carryOut(run);
      } catch (error) {
        const problem =
          error instanceof Refused ? error.message : 'Something went wrong on our side; it has been logged.';
        if (!(error instanceof Refused)) failed(error);
        await database.transact(async (tx) => {
          await tx.db
            .update(importRun)
            .set({ state: 'failed', leaseUntil: null, problem: problem.slice(0, 500) })
            .where(eq(importRun.id, run.id));
          await announce(tx, 'imports', 'register');
        });
      }
    }
  }

  let busy = false;
  const wake = (): void => {
    if (busy || stopping) return;
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
      stopping = true;
      clearInterval(timer);
      await working;
    },
  };
}
