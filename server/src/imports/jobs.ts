// Loading an import, as a job: on a thread, step by step. Any server may die: the next plans the file anew, and what is written counts as held.
import { and, eq } from 'drizzle-orm';
import * as v from 'valibot';
import { cancelImport } from '#api/imports.ts';
import { idOf } from '#api/shapes.ts';
import type { ImportId } from '#core/ids.ts';
import { jobKind } from '../platform/job-kind.ts';
import { announce } from '../platform/live.ts';
import { onThread } from './pool.ts';
import { importRun } from './tables.ts';

export const LOADING = 'import';

export const loadingImports = jobKind({
  kind: LOADING,
  says: 'Load an import file',
  ask: v.object({ id: idOf<ImportId>() }),
  async run({ config }, { id }, { id: job, fence, now, signal }) {
    const ask = { url: config.databaseUrl, id, claim: { id: job, fence }, now };
    const rows = await onThread('carryOut', ask, signal);
    return rows === null ? 'stopped' : `${rows} rows`;
  },
  async died({ database }, { id }, reason) {
    await database.transact(async (tx) => {
      await tx.db
        .update(importRun)
        .set({ state: 'failed', problem: reason })
        .where(and(eq(importRun.id, id), eq(importRun.state, 'running')));
      await announce(tx, cancelImport);
    });
  },
});
