// Work with the database on a thread: connections of the thread's own, and what ends the work otherwise, as values.
import { codeOf, errnoOf, openDatabase, type Database } from './database.ts';
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

function endOf(error: unknown): Ended {
  if (error instanceof Refused) return { refusals: error.refusals };
  if (error instanceof CutShort) return { cutShort: error.message };
  const message = error instanceof Error ? (error.stack ?? error.message) : String(error);
  return { fault: { message, code: codeOf(error), errno: errnoOf(error) } };
}

export async function answered<T>(url: string, work: (database: Database) => Promise<T>): Promise<Answered<T>> {
  try {
    return { value: await work(await databaseOf(url)) };
  } catch (error) {
    return endOf(error);
  }
}
