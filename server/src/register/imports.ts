// Imports: a file is handed in, mapped, looked through in a dry run, loaded step by step by whichever server is alive, and undone as a whole.
import { createHash } from 'node:crypto';
import { and, asc, desc, eq, isNull, lt, or } from 'drizzle-orm';
import fp from 'fastify-plugin';
import * as contracts from '#api/imports.ts';
import { REMARKS_SHOWN, type ImportPage } from '#api/imports.ts';
import { previewImport, runImport } from '#api/register.ts';
import type { ImportId } from '#core/ids.ts';
import {
  checkMapping,
  guessMapping,
  IMPORT_FIELDS,
  needsDateFormat,
  planImport,
  type ImportKind,
  type ImportSettings,
} from '#core/register/index.ts';
import { instant, localDateAt, type Instant } from '#core/time/index.ts';
import { note } from '../platform/audit.ts';
import { sendCsv } from '../platform/csv.ts';
import type { Db } from '../platform/database.ts';
import { serve, type House, type Person } from '../platform/http.ts';
import { announce } from '../platform/live.ts';
import { Refused, refuse } from '../platform/refuse.ts';
import { importMapping, importRun, person } from '../platform/tables/index.ts';
import { writing } from '../platform/writing.ts';
import { keepContent, readContent } from './files.ts';
import {
  hangChildren,
  importRegister,
  loadHeld,
  previewRegister,
  registerRows,
  writeAssets,
  writeGround,
  writeUpdates,
  type Origin,
} from './import-assets.ts';
import { delimiterOf, mapped, readTable, textOf, type FileTable } from './import-file.ts';
import { inSteps, ONE_STEP, prepareTable, type Prepared } from './import-tables.ts';
import { undo } from './import-undo.ts';

const WRITERS = ['coordinator', 'manager', 'administrator'] as const;
type Run = typeof importRun.$inferSelect;
/** How a file is to be read. */
type Asked = Pick<Run, 'kind' | 'settings'>;
const NOTHING = { created: {}, updated: 0, unchanged: 0, refused: 0 };
const DATE_FIELDS = ['commissioned', 'warranty_until', 'date'];

const headKey = (head: readonly string[]): string =>
  createHash('sha256').update(head.join('\u001f').toLowerCase()).digest('hex');

async function fileOf(db: Db, run: Pick<Run, 'sha256' | 'settings'>): Promise<FileTable> {
  const bytes = await readContent(db, run.sha256);
  return readTable(textOf(bytes, run.settings.encoding), run.settings.delimiter);
}

async function prepareAssets(db: Db, file: FileTable, run: Asked, now: Instant, zone: string): Promise<Prepared> {
  const rows = registerRows(mapped(file, 'assets', run.settings));
  const { dateFormat, key } = run.settings;
  const plan = planImport(rows, await loadHeld(db, rows), localDateAt(zone as never, now), { dateFormat, key });
  const only = { ...plan, customers: [], classes: [], locations: [], shares: [], assets: [], updates: [] };
  const small = plan.assets.length + plan.updates.length <= ONE_STEP;
  const steps: Prepared['steps'] = small
    ? [
        {
          rows: plan.assets.length + plan.updates.length,
          write: async (tx, origin) => {
            await writeGround(tx, plan, origin);
            await writeAssets(tx, plan, origin);
            await hangChildren(tx, plan);
            await writeUpdates(tx, plan, origin);
          },
        },
      ]
    : [
        { rows: 0, write: (tx, origin) => writeGround(tx, plan, origin) },
        ...inSteps(plan.assets).map((assets) => ({
          rows: assets.length,
          write: (tx: Parameters<typeof writeAssets>[0], origin: Origin) =>
            writeAssets(tx, { ...only, assets }, origin),
        })),
        ...inSteps(plan.assets.filter((a) => a.parentTag !== null)).map((assets) => ({
          rows: 0,
          write: (tx: Parameters<typeof writeAssets>[0]) => hangChildren(tx, { ...only, assets }),
        })),
        ...inSteps(plan.updates).map((updates) => ({
          rows: updates.length,
          write: (tx: Parameters<typeof writeAssets>[0], origin: Origin) =>
            writeUpdates(tx, { ...only, updates }, origin),
        })),
      ];
  return {
    created: {
      customers: plan.customers.length,
      classes: plan.classes.length,
      places: plan.locations.length,
      assets: plan.assets.length,
    },
    updated: plan.updates.length,
    unchanged: plan.alreadyHeld,
    bad: plan.bad,
    notes: plan.notes,
    steps: plan.assets.length + plan.updates.length === 0 ? [] : steps,
  };
}

/** The plan of a file against the register as it stands; dry run and loading stand on it. */
function prepare(db: Db, file: FileTable, run: Asked, now: Instant, zone: string): Promise<Prepared> {
  if (run.kind === 'assets') return prepareAssets(db, file, run, now, zone);
  return prepareTable(db, run.kind, mapped(file, run.kind, run.settings), run.settings, now, zone);
}

const tallyOf = (prepared: Prepared) => ({
  created: Object.fromEntries(Object.entries(prepared.created).filter(([, n]) => n > 0)),
  updated: prepared.updated,
  unchanged: prepared.unchanged,
  refused: new Set(prepared.bad.map((b) => b.line)).size,
});

function datesUnclear(kind: ImportKind, file: FileTable, settings: ImportSettings): boolean {
  const columns = IMPORT_FIELDS[kind].flatMap((f) =>
    DATE_FIELDS.includes(f.name) && settings.mapping[f.name] !== undefined ? [settings.mapping[f.name] as number] : [],
  );
  return (
    settings.dateFormat === 'yyyy-mm-dd' &&
    columns.some((c) => needsDateFormat(file.records.map((r) => r.cells[c] ?? '')))
  );
}

/** Whether the file can be planned at all: its columns are mapped and its dates are clear. */
function isReadable({ kind, settings }: Asked, file: FileTable): boolean {
  return checkMapping(kind, settings, file.head.length).length === 0 && !datesUnclear(kind, file, settings);
}

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

const LEASE_MS = 60_000;
const LOOK_EVERY_MS = 1000;

/** Takes up running imports nobody works on, and carries them out. Any server may die: the next plans the file anew, and what is written counts as held. */
function startWorker(house: House, failed: (error: unknown) => void): { wake(): void; stop(): Promise<void> } {
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
