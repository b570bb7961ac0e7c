// The thread on which import files are parsed, planned and loaded, so that nobody else waits for it. Run by the pool, with connections of its own.
import { createHash } from 'node:crypto';
import { and, eq } from 'drizzle-orm';
import { REMARKS_SHOWN, beginImport, undoImport } from '#api/imports.ts';
import type { ImportSummary } from '#api/register.ts';
import type { ImportId, PersonId } from '#core/ids.ts';
import {
  guessMapping,
  type Encoding,
  type ImportKind,
  type ImportSettings,
  type TableRemark,
} from '#core/imports/index.ts';
import { type Instant, type LocalDate } from '#core/time/index.ts';
import { keepAudit } from '../platform/audit.ts';
import type { Database } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { holdClaim } from '../platform/jobs.ts';
import { announce } from '../platform/live.ts';
import { answered } from '../platform/thread-work.ts';
import type { Answered } from '../platform/threads.ts';
import { person } from '../platform/tables.ts';
import { importMapping, importRun, type ImportTally } from './tables.ts';
import { readContent } from '../platform/content.ts';
import { importRegister, previewRegister } from './one-step.ts';
import { delimiterOf, readTable, textOf, type FileTable } from './file.ts';
import { datesUnclear, fileOf, isReadable, prepare, tallyOf } from './plan.ts';
import type { Prepared } from './steps.ts';

export type LookAsk = {
  readonly url: string;
  /** The file itself, or the name its content is kept under. */
  readonly file: Uint8Array | string;
  readonly kind: ImportKind;
  /** How it is read; for a file just handed in, the encoding alone: the rest is remembered or guessed. */
  readonly settings: ImportSettings | { readonly encoding: Encoding };
  /** Whether what loading would do is worked out too. */
  readonly plans: boolean;
  readonly now: Instant;
  readonly zone: string;
};
export type Looked = {
  readonly settings: ImportSettings;
  readonly remembered: boolean;
  readonly headKey: string;
  readonly head: readonly string[];
  readonly sample: readonly (readonly string[])[];
  readonly rows: number;
  readonly needsDateFormat: boolean;
  readonly isReadable: boolean;
  readonly plan: LookedPlan | null;
};
export type SharedRemark = TableRemark & { readonly rows: number; readonly lines: number[] };
export type LookedPlan = {
  readonly tally: ImportTally;
  readonly bad: readonly SharedRemark[];
  readonly badTotal: number;
  readonly notes: readonly SharedRemark[];
  readonly notesTotal: number;
};

const SAMPLE_ROWS = 5;

const headKeyOf = (head: readonly string[]): string =>
  createHash('sha256').update(head.join('\u001f').toLowerCase()).digest('hex');

const LINES_NAMED = 6;

/** Equal remarks as one, with the number of rows and the first of their lines. */
function together(remarks: readonly TableRemark[]): SharedRemark[] {
  const shared = new Map<string, { remark: TableRemark; lines: number[]; rows: number }>();
  for (const remark of remarks) {
    const key = `${remark.column}\n${remark.message}`;
    const known = shared.get(key);
    if (!known) shared.set(key, { remark, lines: [remark.line], rows: 1 });
    else {
      known.rows += 1;
      if (known.lines.length < LINES_NAMED) known.lines.push(remark.line);
    }
  }
  return [...shared.values()].map(({ remark, lines, rows }) => ({ ...remark, lines, rows }));
}

function planOf(prepared: Prepared): LookedPlan {
  const [bad, notes] = [together(prepared.bad), together(prepared.notes)];
  return {
    tally: tallyOf(prepared),
    bad: bad.slice(0, REMARKS_SHOWN),
    badTotal: bad.length,
    notes: notes.slice(0, REMARKS_SHOWN),
    notesTotal: notes.length,
  };
}

async function settingsFor(
  database: Database,
  ask: LookAsk,
  text: string,
): Promise<{ file: FileTable; settings: ImportSettings; remembered: boolean }> {
  if ('delimiter' in ask.settings)
    return { file: readTable(text, ask.settings.delimiter), settings: ask.settings, remembered: false };
  const { encoding } = ask.settings;
  const delimiter = delimiterOf(text);
  const file = readTable(text, delimiter);
  const [known] = await database.db
    .select()
    .from(importMapping)
    .where(and(eq(importMapping.kind, ask.kind), eq(importMapping.head, headKeyOf(file.head))));
  const settings: ImportSettings = known
    ? { ...known.settings, encoding, delimiter }
    : {
        encoding,
        delimiter,
        dateFormat: 'yyyy-mm-dd',
        key: 'tag and serial',
        mapping: guessMapping(ask.kind, file.head),
      };
  return { file, settings, remembered: !!known };
}

/** Reads a file as it is mapped, and works out what loading it would do where it can be planned at all. */
export function look(ask: LookAsk): Promise<Answered<Looked>> {
  return answered(ask.url, async (database) => {
    const bytes = typeof ask.file === 'string' ? await readContent(database.db, ask.file) : Buffer.from(ask.file);
    const text = textOf(bytes, ask.settings.encoding);
    const { file, settings, remembered } = await settingsFor(database, ask, text);
    const asked = { kind: ask.kind, settings };
    const readable = isReadable(asked, file);
    return {
      settings,
      remembered,
      headKey: headKeyOf(file.head),
      head: file.head,
      sample: file.records.slice(0, SAMPLE_ROWS).map((r) => r.cells),
      rows: file.records.length,
      needsDateFormat: datesUnclear(ask.kind, file, settings),
      isReadable: readable,
      plan: ask.plans && readable ? planOf(await prepare(database.db, file, asked, ask.now, ask.zone)) : null,
    };
  });
}

export type RemarksAsk = { readonly url: string; readonly id: ImportId; readonly now: Instant; readonly zone: string };

/** Every row that does not load, with what would be right. */
export function remarks({ url, id, now, zone }: RemarksAsk): Promise<Answered<readonly TableRemark[]>> {
  return answered(url, async ({ db }) => {
    const [run] = await db.select().from(importRun).where(eq(importRun.id, id));
    return run ? (await prepare(db, await fileOf(db, run), run, now, zone)).bad : [];
  });
}

export type CarryOutAsk = {
  readonly url: string;
  readonly id: ImportId;
  readonly claim: { readonly id: number; readonly fence: number };
  readonly now: Instant;
};

/** Loads an import step by step, each a transaction, and gives the rows written; null when it was stopped or overtaken: then nothing more is written. */
export function carryOut({ url, id, claim, now }: CarryOutAsk): Promise<Answered<number | null>> {
  return answered(url, async (database) => {
    const { db } = database;
    const [run] = await db.select().from(importRun).where(eq(importRun.id, id));
    if (!run) return null;
    const [who] = await db
      .select()
      .from(person)
      .where(eq(person.id, run.personId as PersonId));
    const asker = { ...who, id: run.personId } as unknown as Person;
    const origin = { who: asker, now, fileName: run.fileName, importId: run.id };
    const prepared = await prepare(db, await fileOf(db, run), run, now, who?.zone ?? 'UTC');
    const mine = and(eq(importRun.id, id), eq(importRun.state, 'running'));
    let done = run.rowsDone;
    for (const step of prepared.steps) {
      const goesOn = await database.transact(async (tx) => {
        if (!(await holdClaim(tx, claim))) return false;
        const [held] = await tx.db.select({ id: importRun.id }).from(importRun).where(mine).for('update');
        if (!held) return false;
        await step.write(tx, origin);
        await tx.db
          .update(importRun)
          .set({ rowsDone: done + step.rows })
          .where(mine);
        await announce(tx, beginImport);
        return true;
      });
      if (!goesOn) return null;
      done += step.rows;
    }
    return database.transact(async (tx) => {
      if (!(await holdClaim(tx, claim))) return null;
      const [ended] = await tx.db.update(importRun).set({ state: 'done' }).where(mine);
      if (ended.affectedRows === 0) return null;
      await keepAudit(tx, asker, 'import', run.id, `loaded ${run.fileName}: ${done} rows`);
      await announce(tx, undoImport);
      return done;
    });
  });
}

export type WholeAsk = {
  readonly url: string;
  readonly text: string;
  readonly today: LocalDate;
  /** Loads when given; without it the file is only looked through. */
  readonly load: { readonly who: Person; readonly fileName: string; readonly now: Instant } | null;
};

/** A register file of the one-step route. */
export function whole({ url, text, today, load }: WholeAsk): Promise<Answered<ImportSummary>> {
  return answered(url, (database) =>
    load
      ? importRegister(database, load.who, load.fileName, text, load.now, today)
      : previewRegister(database.db, text, today),
  );
}
