// Live updates: committed changes leave notices; every server reads them and tells its open screens which views to fetch again.
import { and, gt, gte, lt, max } from 'drizzle-orm';
import type { Thing } from '#api/contract.ts';
import { instant } from '#core/time/index.ts';
import { instantText } from './columns.ts';
import { bulkInsert, type Database, type Tx } from './database.ts';
import { change, type ChangedSubject } from './tables.ts';

/** A contract, or what does the same by itself. */
export type Touching = { readonly touches?: readonly Thing[] };

/** Leaves a notice in the transaction of the change; with `subjects`, it concerns nothing else. */
export async function announce(
  tx: Tx,
  { touches: tags = [] }: Touching,
  subjects: readonly ChangedSubject[] | null = null,
): Promise<void> {
  if (tags.length === 0) return;
  const named = subjects && subjects.length <= MOST_SUBJECTS ? [...subjects] : null;
  await bulkInsert(
    tx.connection,
    'change_notice',
    ['at', 'tags', 'subjects'],
    [[instantText(instant(Date.now())), JSON.stringify(tags), named && JSON.stringify(named)]],
  );
}

/** A notice of more concerns anything. */
const MOST_SUBJECTS = 2000;

export type Live = { subscribe(listener: (tags: string[]) => void): () => void; stop(): Promise<void> };

const POLL_MS = 400;
/** Ids are given out before commit: notices of slow transactions may appear behind newer ones for this long. */
export const OVERLAP_IDS = 200;
export const KEEP_MS = 3_600_000;

export function startLive(database: Database, failed: (error: unknown) => void): Live {
  const listeners = new Set<(tags: string[]) => void>();
  const seen = new Set<number>();
  let newest: number | null = null;
  let lastSweep = 0;
  let stopped = false;
  let timer: NodeJS.Timeout | null = null;

  async function poll(): Promise<void> {
    newest ??= (await database.db.select({ id: max(change.id) }).from(change))[0]?.id ?? 0;
    // Subjects are for those who work on them: of a long run there are thousands.
    const rows = await database.db
      .select({ id: change.id, tags: change.tags })
      .from(change)
      .where(and(gt(change.id, newest - OVERLAP_IDS), gte(change.at, instant(Date.now() - 60_000))))
      .limit(1000);
    const fresh = rows.filter((row) => !seen.has(row.id) && row.id > (newest as number) - OVERLAP_IDS);
    for (const row of fresh) seen.add(row.id);
    newest = Math.max(newest, ...rows.map((r) => r.id));
    for (const id of seen) if (id < newest - 2 * OVERLAP_IDS) seen.delete(id);
    const tags = [...new Set(fresh.flatMap((row) => row.tags))];
    if (tags.length > 0) for (const listener of listeners) listener(tags);
    if (Date.now() - lastSweep > KEEP_MS / 4) {
      lastSweep = Date.now();
      await database.db.delete(change).where(lt(change.at, instant(Date.now() - KEEP_MS)));
    }
  }
  let running: Promise<void> = Promise.resolve();
  const tick = (): void => {
    running = poll()
      .catch(failed)
      .finally(() => {
        if (!stopped) timer = setTimeout(tick, POLL_MS);
      });
  };
  tick();
  return {
    subscribe(listener) {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    async stop() {
      stopped = true;
      if (timer) clearTimeout(timer);
      await running;
    },
  };
}
