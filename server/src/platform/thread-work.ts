// Work with the database on a thread: connections of the thread's own, and what ends the work otherwise, as values.
import { errnoOf, openDatabase, type Database } from './database.ts';
import { CutShort, Refused } from './refuse.ts';
import type { Answered, Ended } from './threads.ts';

const CONNECTIONS = 3;
let open: { url: string; database: Database } | null = null;

/** A process that serves another database (as tests do) changes over. */
async function databaseOf(url: string): Promise<Database> {
  if (open?.url === url) return open.database;
  const before = open;
  open = { url, database: openDatabase(url, CONNECTIONS) };
  await before?.database.close().catch(() => undefined);
  return open.database;
}

/** The first of an error's causes that has a code: the database's own error, below what tells of the query. */
function codeOf(error: unknown): unknown {
  for (let e: unknown = error; typeof e === 'object' && e !== null; e = (e as { cause?: unknown }).cause) {
    const { code } = e as { code?: unknown };
    if (typeof code === 'string') return code;
  }
  return undefined;
}

function endOf(error: unknown): Ended {
  if (error instanceof Refused) return { refusals: error.refusals };
  if (error instanceof CutShort) return { cutShort: error.message };
  const message = error instanceof Error ? (error.stack ?? error.message) : String(error);
  return { fault: { message, code: codeOf(error), errno: errnoOf(error) ?? undefined } };
}

export async function answered<T>(url: string, work: (database: Database) => Promise<T>): Promise<Answered<T>> {
  try {
    return { value: await work(await databaseOf(url)) };
  } catch (error) {
    return endOf(error);
  }
}
