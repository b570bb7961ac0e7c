// Imports: a file is handed in, mapped, looked through in a dry run, loaded by a worker, and undone as a whole.
import { createHash } from 'node:crypto';
import { and, desc, eq } from 'drizzle-orm';
import fp from 'fastify-plugin';
import * as contracts from '#api/imports.ts';
import { REMARKS_SHOWN, type ImportPage } from '#api/imports.ts';
import { previewImport, runImport } from '#api/register.ts';
import type { ImportId } from '#core/ids.ts';
import { guessMapping, type ImportSettings } from '#core/register/index.ts';
import { localDateAt } from '#core/time/index.ts';
import { sendCsv } from '../platform/csv.ts';
import type { Db } from '../platform/database.ts';
import { serve, type House } from '../platform/http.ts';
import { refuse } from '../platform/refuse.ts';
import { importMapping, importRun, person } from '../platform/tables/index.ts';
import { writing } from '../platform/writing.ts';
import { keepContent } from './files.ts';
import { importRegister, previewRegister } from './import-assets.ts';
import { delimiterOf, readTable, textOf, type FileTable } from './import-file.ts';
import { datesUnclear, fileOf, isReadable, prepare, tallyOf, type Run } from './import-plan.ts';
import type { Prepared } from './import-steps.ts';
import { undo } from './import-undo.ts';
import { startWorker } from './import-worker.ts';

const WRITERS = ['coordinator', 'manager', 'administrator'] as const;
const NOTHING = { created: {}, updated: 0, unchanged: 0, refused: 0 };

const headKey = (head: readonly string[]): string =>
  createHash('sha256').update(head.join('\u001f').toLowerCase()).digest('hex');

async function pageOf(
  db: Db,
  run: Run,
  who: string | null,
  file: FileTable,
  prepared: Prepared | null,
  remembered: boolean,
): Promise<ImportPage> {
  return Promise.resolve({
    id: run.id,
    kind: run.kind,
    fileName: run.fileName,
    state: run.state,
    rows: run.rows,
    rowsDone: run.rowsDone,
    settings: { ...run.settings, mapping: { ...run.settings.mapping } },
    remembered,
    head: [...file.head],
    sample: file.records.slice(0, 5).map((r) => [...r.cells]),
    needsDateFormat: datesUnclear(run.kind, file, run.settings),
    tally: prepared ? tallyOf(prepared) : { ...run.tally, created: { ...run.tally.created } },
    bad: prepared?.bad.slice(0, REMARKS_SHOWN) ?? [],
    badTotal: prepared?.bad.length ?? 0,
    notes: prepared?.notes.slice(0, REMARKS_SHOWN) ?? [],
    notesTotal: prepared?.notes.length ?? 0,
    problem: run.problem,
    createdAt: run.createdAt,
    who,
  });
}

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
    const worker = startWorker(house, (error) => app.log.error({ err: error }, 'import'));
    app.addHook('preClose', () => worker.stop());

    serve(app, house, previewImport, WRITERS, ({ body, now, who }) =>
      previewRegister(db, body.text, localDateAt(who.zone, now)),
    );
    serve(app, house, runImport, WRITERS, ({ body, now, who }) =>
      importRegister(database, who, body.fileName, body.text, now, localDateAt(who.zone, now)),
    );

    serve(app, house, contracts.beginImport, WRITERS, async ({ query, body, who, now }) => {
      const bytes = body as Buffer;
      const encoding = query.encoding ?? 'utf-8';
      const text = textOf(bytes, encoding);
      const delimiter = delimiterOf(text);
      const file = readTable(text, delimiter);
      const [known] = await db
        .select()
        .from(importMapping)
        .where(and(eq(importMapping.kind, query.kind), eq(importMapping.head, headKey(file.head))));
      const settings: ImportSettings = known
        ? { ...known.settings, encoding, delimiter }
        : {
            encoding,
            delimiter,
            dateFormat: 'yyyy-mm-dd',
            key: 'tag and serial',
            mapping: guessMapping(query.kind, file.head),
          };
      const draft = { kind: query.kind, settings };
      const prepared = isReadable(draft, file) ? await prepare(db, file, draft, now, who.zone) : null;
      const run = await writing(house, who, async (tx, told) => {
        const sha256 = await keepContent(tx, bytes, 'text/csv');
        const values = {
          ...draft,
          fileName: query.name,
          sha256,
          state: 'read' as const,
          rows: file.records.length,
          tally: prepared ? tallyOf(prepared) : NOTHING,
          createdAt: now,
          personId: who.id,
        };
        const [made] = await tx.db.insert(importRun).values(values).$returningId();
        told({ subject: 'import', id: made?.id as number, text: `handed in ${query.name}`, tags: ['imports'] });
        return { ...values, id: made?.id as ImportId, rowsDone: 0, leaseUntil: null, problem: null };
      });
      return pageOf(db, run, who.name, file, prepared, !!known);
    });

    serve(app, house, contracts.setImport, WRITERS, async ({ params, body, who, now }) => {
      const { run, who: by } = await runOf(db, params.id);
      if (run.state !== 'read') refuse('wrong-stage', 'This import runs or ran already; hand the file in again.');
      const asked = { ...run, settings: body };
      const file = await fileOf(db, asked);
      if (datesUnclear(run.kind, file, body))
        refuse(
          'missing',
          'The file has dates such as 03/04/2024, which can be read two ways. Choose the order of day and month.',
          'dateFormat',
        );
      const prepared = await prepare(db, file, asked, now, who.zone);
      await writing(house, who, async (tx, told) => {
        await tx.db
          .update(importRun)
          .set({ settings: body, tally: tallyOf(prepared) })
          .where(eq(importRun.id, run.id));
        await tx.db
          .insert(importMapping)
          .values({ kind: run.kind, head: headKey(file.head), settings: body })
          .onDuplicateKeyUpdate({ set: { settings: body } });
        told({ subject: 'import', id: run.id, text: 'mapped its columns', tags: ['imports'] });
      });
      return pageOf(db, asked, by, file, prepared, false);
    });

    serve(app, house, contracts.readImport, WRITERS, async ({ params }) => {
      const { run, who } = await runOf(db, params.id);
      return pageOf(db, run, who, await fileOf(db, run), null, false);
    });

    serve(app, house, contracts.startImport, WRITERS, async ({ params, who }) => {
      const { run } = await runOf(db, params.id);
      if (!isReadable(run, await fileOf(db, run)))
        refuse('not-ready', 'Say how the columns and dates are read first; the dry run then shows what will load.');
      await writing(house, who, async (tx, told) => {
        const [locked] = await tx.db.select().from(importRun).where(eq(importRun.id, run.id)).for('update');
        if (locked?.state === 'running') return;
        if (locked?.state !== 'read' && locked?.state !== 'cancelled')
          refuse('wrong-stage', `This import is ${locked?.state}; hand the file in again.`);
        await tx.db
          .update(importRun)
          .set({ state: 'running', problem: null, leaseUntil: null })
          .where(eq(importRun.id, run.id));
        told({ subject: 'import', id: run.id, text: `began to load ${run.fileName}`, tags: ['imports'] });
      });
      worker.wake();
      return { done: true as const };
    });
    serve(app, house, contracts.cancelImport, WRITERS, ({ params, who }) =>
      writing(house, who, async (tx, told) => {
        const [locked] = await tx.db.select().from(importRun).where(eq(importRun.id, params.id)).for('update');
        if (!locked) refuse('not-found', 'That import does not exist.');
        if (locked.state !== 'running')
          refuse('wrong-stage', `This import is ${locked.state}; there is nothing to stop.`);
        await tx.db.update(importRun).set({ state: 'cancelled', leaseUntil: null }).where(eq(importRun.id, params.id));
        told({ subject: 'import', id: params.id, text: 'stopped', tags: ['imports', 'register'] });
        return { done: true as const };
      }),
    );
    serve(app, house, contracts.undoImport, WRITERS, ({ params, who }) =>
      writing(house, who, async (tx, told) => {
        const [locked] = await tx.db.select().from(importRun).where(eq(importRun.id, params.id)).for('update');
        if (!locked) refuse('not-found', 'That import does not exist.');
        if (!['done', 'cancelled', 'failed'].includes(locked.state))
          refuse('wrong-stage', `This import is ${locked.state}; there is nothing to undo.`);
        await undo(tx, locked.id);
        await tx.db.update(importRun).set({ state: 'undone' }).where(eq(importRun.id, locked.id));
        told({
          subject: 'import',
          id: locked.id,
          text: `undid ${locked.fileName}`,
          tags: ['imports', 'register', 'agreements', 'setup'],
        });
        return { done: true as const };
      }),
    );
    serve(app, house, contracts.listImports, WRITERS, async () => ({
      items: (
        await db
          .select({ run: importRun, who: person.name })
          .from(importRun)
          .leftJoin(person, eq(person.id, importRun.personId))
          .orderBy(desc(importRun.id))
          .limit(20)
      ).map(({ run, who }) => ({ ...run, tally: { ...run.tally, created: { ...run.tally.created } }, who })),
    }));
    serve(app, house, contracts.importRemarksCsv, WRITERS, async ({ params, reply, now, who }): Promise<never> => {
      const { run } = await runOf(db, params.id);
      const prepared = await prepare(db, await fileOf(db, run), run, now, who.zone);
      async function* rows() {
        yield await Promise.resolve(prepared.bad.map((b) => [b.line, b.column, b.message]));
      }
      return sendCsv(reply, `import-${run.id}-remarks.csv`, ['line', 'column', 'what would be right'], rows());
    });
  },
  { name: 'stavok-import-routes', dependencies: ['stavok-authentication'] },
);
