// Imports: a file is handed in, mapped, looked through in a dry run, loaded by a worker, and undone as a whole.
import { desc, eq } from 'drizzle-orm';
import fp from 'fastify-plugin';
import * as contracts from '#api/imports.ts';
import type { ImportPage } from '#api/imports.ts';
import { previewImport, runImport } from '#api/register.ts';
import type { ImportId } from '#core/ids.ts';
import { checkMapping } from '#core/imports/index.ts';
import { localDateAt, type Instant } from '#core/time/index.ts';
import { sendCsv } from '../platform/csv.ts';
import type { Db } from '../platform/database.ts';
import { serve, type House } from '../platform/http.ts';
import { refuse } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import { importMapping, importRun } from './tables.ts';

import { keepContent } from '../assets/index.ts';
import type { Run } from './plan.ts';
import { onThread } from './pool.ts';
import type { LookAsk, Looked } from './thread.ts';
import { undo } from './undo.ts';
import { leaveJob } from '../platform/jobs.ts';
import { LOADING } from './jobs.ts';

const NOTHING = { created: {}, updated: 0, unchanged: 0, refused: 0 };

function pageOf(run: Run, who: string | null, looked: Looked): ImportPage {
  const { plan } = looked;
  return {
    id: run.id,
    kind: run.kind,
    fileName: run.fileName,
    state: run.state,
    rows: run.rows,
    rowsDone: run.rowsDone,
    settings: { ...run.settings, mapping: { ...run.settings.mapping } },
    remembered: looked.remembered,
    head: [...looked.head],
    sample: looked.sample.map((cells) => [...cells]),
    needsDateFormat: looked.needsDateFormat,
    tally: plan ? sent(plan.tally) : sent(run.tally),
    bad: plan ? [...plan.bad] : [],
    badTotal: plan?.badTotal ?? 0,
    notes: plan ? [...plan.notes] : [],
    notesTotal: plan?.notesTotal ?? 0,
    problem: run.problem,
    createdAt: run.createdAt,
    who,
  };
}

const sent = (tally: Run['tally']) => ({ ...tally, created: { ...tally.created } });

async function runOf(db: Db, id: ImportId): Promise<{ run: Run; who: string | null }> {
  const [row] = await db
    .select({ run: importRun, who: person.name })
    .from(importRun)
    .leftJoin(person, eq(person.id, importRun.personId))
    .where(eq(importRun.id, id));
  return row ?? refuse('not-found', 'That import does not exist.');
}

export const importRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { database } = house;
    const { db } = database;

    const { databaseUrl: url } = house.config;
    const look = (ask: Omit<LookAsk, 'url'>): Promise<Looked> => onThread('look', { ...ask, url });

    serve(app, house, previewImport, ({ body, now, who }) =>
      onThread('whole', { url, text: body.text, today: localDateAt(who.zone, now), load: null }),
    );
    serve(app, house, runImport, ({ body, now, who }) =>
      onThread('whole', {
        url,
        text: body.text,
        today: localDateAt(who.zone, now),
        load: { who, fileName: body.fileName, now },
      }),
    );

    serve(app, house, contracts.beginImport, async ({ query, body, who, now, write }) => {
      const bytes = body as Buffer;
      const { kind, name: fileName, encoding = 'utf-8' } = query;
      const looked = await look({ file: bytes, kind, settings: { encoding }, plans: true, now, zone: who.zone });
      const run = await write(async (tx, told) => {
        const values = {
          kind,
          settings: looked.settings,
          fileName,
          sha256: await keepContent(tx, bytes, 'text/csv'),
          state: 'read' as const,
          rows: looked.rows,
          tally: looked.plan?.tally ?? NOTHING,
          createdAt: now,
          personId: who.id,
        };
        const [made] = await tx.db.insert(importRun).values(values).$returningId();
        told({ subject: 'import', id: made?.id as number, text: `handed in ${fileName}` });
        return { ...values, id: made?.id as ImportId, rowsDone: 0, problem: null };
      });
      return pageOf(run, who.name, looked);
    });

    serve(app, house, contracts.setImport, async ({ params, body, who, now, write }) => {
      const { run, who: by } = await runOf(db, params.id);
      if (run.state !== 'read') refuse('wrong-stage', 'This import runs or ran already; hand the file in again.');
      const asked = { ...run, settings: body };
      const looked = await look({ ...asked, file: run.sha256, plans: true, now, zone: who.zone });
      if (looked.needsDateFormat)
        refuse(
          'missing',
          'The file has dates such as 03/04/2024, which can be read two ways. Choose the order of day and month.',
          'dateFormat',
        );
      const wrong = checkMapping(run.kind, body, looked.head.length);
      if (wrong.length > 0) refuse('malformed', wrong.join(' '), 'mapping');
      await write(async (tx, told) => {
        const [locked] = await tx.db
          .select({ state: importRun.state })
          .from(importRun)
          .where(eq(importRun.id, run.id))
          .for('update');
        if (locked?.state !== 'read') refuse('wrong-stage', 'This import runs or ran already; hand the file in again.');
        await tx.db
          .update(importRun)
          .set({ settings: body, tally: looked.plan?.tally ?? NOTHING })
          .where(eq(importRun.id, run.id));
        await tx.db
          .insert(importMapping)
          .values({ kind: run.kind, head: looked.headKey, settings: body })
          .onDuplicateKeyUpdate({ set: { settings: body } });
        told({ subject: 'import', id: run.id, text: 'mapped its columns' });
      });
      return pageOf(asked, by, looked);
    });

    const lookAgain = (run: Run, now: Instant, zone: string): Promise<Looked> =>
      look({ file: run.sha256, kind: run.kind, settings: run.settings, plans: false, now, zone });

    serve(app, house, contracts.readImport, async ({ params, now, who: asks }) => {
      const { run, who } = await runOf(db, params.id);
      return pageOf(run, who, await lookAgain(run, now, asks.zone));
    });

    serve(app, house, contracts.startImport, async ({ params, who, now, write }) => {
      const { run } = await runOf(db, params.id);
      if (!(await lookAgain(run, now, who.zone)).isReadable)
        refuse('not-ready', 'Say how the columns and dates are read first; the dry run then shows what will load.');
      await write(async (tx, told) => {
        const [locked] = await tx.db.select().from(importRun).where(eq(importRun.id, run.id)).for('update');
        if (locked?.state === 'running') return;
        if (locked?.state !== 'read' && locked?.state !== 'cancelled')
          refuse('wrong-stage', `This import is ${locked?.state}; hand the file in again.`);
        await tx.db.update(importRun).set({ state: 'running', problem: null }).where(eq(importRun.id, run.id));
        await leaveJob(tx, LOADING, { id: run.id });
        told({ subject: 'import', id: run.id, text: `began to load ${run.fileName}` });
      });
      house.ring();
      return { done: true as const };
    });
    serve(app, house, contracts.cancelImport, ({ params, write }) =>
      write(async (tx, told) => {
        const [locked] = await tx.db.select().from(importRun).where(eq(importRun.id, params.id)).for('update');
        if (!locked) refuse('not-found', 'That import does not exist.');
        if (locked.state !== 'running')
          refuse('wrong-stage', `This import is ${locked.state}; there is nothing to stop.`);
        await tx.db.update(importRun).set({ state: 'cancelled' }).where(eq(importRun.id, params.id));
        told({ subject: 'import', id: params.id, text: 'stopped' });
        return { done: true as const };
      }),
    );
    serve(app, house, contracts.undoImport, ({ params, write, who, now }) =>
      write(async (tx, told) => {
        const [locked] = await tx.db.select().from(importRun).where(eq(importRun.id, params.id)).for('update');
        if (!locked) refuse('not-found', 'That import does not exist.');
        if (!['done', 'cancelled', 'failed'].includes(locked.state))
          refuse('wrong-stage', `This import is ${locked.state}; there is nothing to undo.`);
        await undo(tx, locked.id, { id: who.id, now, today: localDateAt(who.zone, now) });
        await tx.db.update(importRun).set({ state: 'undone' }).where(eq(importRun.id, locked.id));
        told({
          subject: 'import',
          id: locked.id,
          text: `undid ${locked.fileName}`,
        });
        return { done: true as const };
      }),
    );
    serve(app, house, contracts.listImports, async () => ({
      items: (
        await db
          .select({ run: importRun, who: person.name })
          .from(importRun)
          .leftJoin(person, eq(person.id, importRun.personId))
          .orderBy(desc(importRun.id))
          .limit(20)
      ).map(({ run, who }) => ({ ...run, tally: { ...run.tally, created: { ...run.tally.created } }, who })),
    }));
    serve(app, house, contracts.importRemarksCsv, async ({ params, reply, now, who }): Promise<never> => {
      const { run } = await runOf(db, params.id);
      const bad = await onThread('remarks', { url, id: run.id, now, zone: who.zone });
      async function* rows() {
        yield await Promise.resolve(bad.map((b) => [b.line, b.column, b.message]));
      }
      return sendCsv(reply, `import-${run.id}-remarks.csv`, ['line', 'column', 'what would be right'], rows());
    });
  },
  { name: 'stavok-import-routes', dependencies: ['stavok-authentication'] },
);
