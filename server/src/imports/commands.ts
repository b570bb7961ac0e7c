// What is done with an import: handed in, mapped, begun, stopped, undone. Reading a file happens on a thread.
import { desc, eq } from 'drizzle-orm';
import type { ImportPage } from '#api/imports.ts';
import type { ImportId, PersonId } from '#core/ids.ts';
import { checkMapping, type ImportKind, type ImportSettings } from '#core/imports/index.ts';
import { localDateAt, type Instant, type Zone } from '#core/time/index.ts';
import { keepContent } from '../platform/content.ts';
import type { Db } from '../platform/database.ts';
import { leaveJob } from '../platform/jobs.ts';
import { refuse } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import type { Write } from '../platform/writing.ts';
import { LOADING } from './jobs.ts';
import type { Run } from './plan.ts';
import { onThread } from './pool.ts';
import { importMapping, importRun } from './tables.ts';
import type { LookAsk, Looked } from './thread.ts';
import { undo } from './undo.ts';

/** What every act on an import has at hand. */
export type Acting = {
  readonly db: Db;
  readonly url: string;
  readonly who: { readonly id: PersonId; readonly name: string; readonly zone: Zone };
  readonly now: Instant;
  readonly write: Write;
};

const NOTHING = { created: {}, updated: 0, unchanged: 0, refused: 0 };
const RAN = 'This import runs or ran already; hand the file in again.';

const sent = (tally: Run['tally']) => ({ ...tally, created: { ...tally.created } });

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

async function runOf(db: Db, id: ImportId): Promise<{ run: Run; who: string | null }> {
  const [row] = await db
    .select({ run: importRun, who: person.name })
    .from(importRun)
    .leftJoin(person, eq(person.id, importRun.personId))
    .where(eq(importRun.id, id));
  return row ?? refuse('not-found', 'That import does not exist.');
}

const look = ({ url, now, who }: Omit<Acting, 'write'>, ask: Omit<LookAsk, 'url' | 'now' | 'zone'>): Promise<Looked> =>
  onThread('look', { ...ask, now, zone: who.zone, url });

const lookAgain = (acting: Omit<Acting, 'write'>, run: Run): Promise<Looked> =>
  look(acting, { file: run.sha256, kind: run.kind, settings: run.settings, plans: false });

export async function readImport(asking: Omit<Acting, 'write'>, id: ImportId): Promise<ImportPage> {
  const { run, who } = await runOf(asking.db, id);
  return pageOf(run, who, await lookAgain(asking, run));
}

export async function latestImports(db: Db) {
  const rows = await db
    .select({ run: importRun, who: person.name })
    .from(importRun)
    .leftJoin(person, eq(person.id, importRun.personId))
    .orderBy(desc(importRun.id))
    .limit(20);
  return rows.map(({ run, who }) => ({ ...run, tally: sent(run.tally), who }));
}

export async function handIn(
  acting: Acting,
  bytes: Buffer,
  {
    kind,
    name: fileName,
    encoding = 'utf-8',
  }: { kind: ImportKind; name: string; encoding?: ImportSettings['encoding'] },
): Promise<ImportPage> {
  const looked = await look(acting, { file: bytes, kind, settings: { encoding }, plans: true });
  const run = await acting.write(async (tx, told) => {
    const values = {
      kind,
      settings: looked.settings,
      fileName,
      sha256: await keepContent(tx, bytes, 'text/csv'),
      state: 'read' as const,
      rows: looked.rows,
      tally: looked.plan?.tally ?? NOTHING,
      createdAt: acting.now,
      personId: acting.who.id,
    };
    const [made] = await tx.db.insert(importRun).values(values).$returningId();
    told({ subject: 'import', id: made?.id as number, text: `handed in ${fileName}` });
    return { ...values, id: made?.id as ImportId, rowsDone: 0, problem: null };
  });
  return pageOf(run, acting.who.name, looked);
}

export async function mapColumns(acting: Acting, id: ImportId, settings: ImportSettings): Promise<ImportPage> {
  const { run, who } = await runOf(acting.db, id);
  if (run.state !== 'read') refuse('wrong-stage', RAN);
  const asked = { ...run, settings };
  const looked = await look(acting, { file: run.sha256, kind: run.kind, settings, plans: true });
  if (looked.needsDateFormat)
    refuse(
      'missing',
      'The file has dates such as 03/04/2024, which can be read two ways. Choose the order of day and month.',
      'dateFormat',
    );
  const wrong = checkMapping(run.kind, settings, looked.head.length);
  if (wrong.length > 0) refuse('malformed', wrong.join(' '), 'mapping');
  await acting.write(async (tx, told) => {
    const [locked] = await tx.db
      .select({ state: importRun.state })
      .from(importRun)
      .where(eq(importRun.id, run.id))
      .for('update');
    if (locked?.state !== 'read') refuse('wrong-stage', RAN);
    await tx.db
      .update(importRun)
      .set({ settings, tally: looked.plan?.tally ?? NOTHING })
      .where(eq(importRun.id, run.id));
    await tx.db
      .insert(importMapping)
      .values({ kind: run.kind, head: looked.headKey, settings })
      .onDuplicateKeyUpdate({ set: { settings } });
    told({ subject: 'import', id: run.id, text: 'mapped its columns' });
  });
  return pageOf(asked, who, looked);
}

export async function beginLoading(acting: Acting, id: ImportId): Promise<void> {
  const { run } = await runOf(acting.db, id);
  if (!(await lookAgain(acting, run)).isReadable)
    refuse('not-ready', 'Say how the columns and dates are read first; the dry run then shows what will load.');
  await acting.write(async (tx, told) => {
    const [locked] = await tx.db.select().from(importRun).where(eq(importRun.id, run.id)).for('update');
    if (locked?.state === 'running') return;
    if (locked?.state !== 'read' && locked?.state !== 'cancelled')
      refuse('wrong-stage', `This import is ${locked?.state}; hand the file in again.`);
    await tx.db.update(importRun).set({ state: 'running', problem: null }).where(eq(importRun.id, run.id));
    await leaveJob(tx, LOADING, { id: run.id });
    told({ subject: 'import', id: run.id, text: `began to load ${run.fileName}` });
  });
}

export const stop = ({ write }: Acting, id: ImportId): Promise<void> =>
  write(async (tx, told) => {
    const [locked] = await tx.db.select().from(importRun).where(eq(importRun.id, id)).for('update');
    if (!locked) refuse('not-found', 'That import does not exist.');
    if (locked.state !== 'running') refuse('wrong-stage', `This import is ${locked.state}; there is nothing to stop.`);
    await tx.db.update(importRun).set({ state: 'cancelled' }).where(eq(importRun.id, id));
    told({ subject: 'import', id, text: 'stopped' });
  });

export const takeBack = ({ write, who, now }: Acting, id: ImportId): Promise<void> =>
  write(async (tx, told) => {
    const [locked] = await tx.db.select().from(importRun).where(eq(importRun.id, id)).for('update');
    if (!locked) refuse('not-found', 'That import does not exist.');
    if (!['done', 'cancelled', 'failed'].includes(locked.state))
      refuse('wrong-stage', `This import is ${locked.state}; there is nothing to undo.`);
    await undo(tx, locked.id, { id: who.id, now, today: localDateAt(who.zone, now) });
    await tx.db.update(importRun).set({ state: 'undone' }).where(eq(importRun.id, locked.id));
    told({ subject: 'import', id: locked.id, text: `undid ${locked.fileName}` });
  });

/** What is wrong in the file, all of it. */
export async function remarksOf({ db, url, now, who }: Omit<Acting, 'write'>, id: ImportId) {
  const { run } = await runOf(db, id);
  return onThread('remarks', { url, id: run.id, now, zone: who.zone });
}
