// The database: the pool, the one owner of begin, commit, rollback and release, and bulk inserts.
import { drizzle, type MySql2Database } from 'drizzle-orm/mysql2';
import { migrate } from 'drizzle-orm/mysql2/migrator';
import { createPool, type Pool, type PoolConnection, type ResultSetHeader } from 'mysql2/promise';
import { fileURLToPath } from 'node:url';

export type Db = MySql2Database;

/** An open transaction: Drizzle for domain code, the bare connection for bulk inserts. */
export type Tx = { readonly db: Db; readonly connection: PoolConnection };

export type Database = {
  readonly pool: Pool;
  readonly db: Db;
  /**
   * Runs `work` in a transaction; on deadlock, lock time-out or certification conflict the whole of it runs again. What is read in it is
   * as it was when the first was read; `reading: 'the latest'`: as it has been committed by then, for work that takes its locks one by one.
   */
  transact<T>(work: (tx: Tx) => Promise<T>, reading?: 'the latest'): Promise<T>;
  close(): Promise<void>;
};

/** 1213 deadlock (and Galera certification conflict), 1205 lock wait time-out, 1020 record changed since last read. */
const RETRYABLE = new Set([1213, 1205, 1020]);
const MAX_TRIES = 6;

/** What a transaction read before it locked it was changed meanwhile: done again, as where the database finds so itself. */
export class ReadTooEarly extends Error {
  readonly errno = 1020;
}

type Cause = {
  readonly errno?: unknown;
  readonly code?: unknown;
  readonly message?: unknown;
  readonly sqlMessage?: unknown;
};

/** An error and what caused it, one after the other: the database's own error lies below what tells of the query. */
function* causesOf(error: unknown): Generator<Cause> {
  for (let e: unknown = error; typeof e === 'object' && e !== null; e = (e as { cause?: unknown }).cause) yield e;
}

export function errnoOf(error: unknown): number | null {
  for (const { errno } of causesOf(error)) if (typeof errno === 'number') return errno;
  return null;
}

export function codeOf(error: unknown): string | null {
  for (const { code } of causesOf(error)) if (typeof code === 'string') return code;
  return null;
}

/** A unique key already holds the value (1062). */
export function isTaken(error: unknown): boolean {
  return errnoOf(error) === 1062;
}

/** The name of the unique key that holds the value; null: it is no such error. */
export function takenKey(error: unknown): string | null {
  for (const { errno, sqlMessage } of causesOf(error))
    if (errno === 1062)
      return /for key '(?:.*\.)?(.+)'$/.exec(typeof sqlMessage === 'string' ? sqlMessage : '')?.[1] ?? '';
  return null;
}

const GONE = new Set([
  'ECONNREFUSED',
  'ECONNRESET',
  'EPIPE',
  'ETIMEDOUT',
  'PROTOCOL_CONNECTION_LOST',
  'PROTOCOL_SEQUENCE_TIMEOUT',
  'ER_SERVER_SHUTDOWN',
  'ER_CON_COUNT_ERROR',
  'ER_CONNECTION_KILLED',
]);

/** The database does not answer: down, starting again, or out of connections. */
export function isDatabaseGone(error: unknown): boolean {
  for (const { code, message } of causesOf(error)) {
    if (typeof code === 'string' && GONE.has(code)) return true;
    if (typeof message === 'string' && /connection is in closed state|Pool is closed/.test(message)) return true;
  }
  return false;
}

const pause = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));

export function openDatabase(url: string, connections = 12): Database {
  const pool = createPool({
    uri: url,
    connectionLimit: connections,
    dateStrings: true,
    timezone: 'Z',
    charset: 'utf8mb4',
    supportBigNumbers: true,
    decimalNumbers: true,
    // A stack kept for each statement costs a tenth of an act; what fails is told with its statement.
    trace: false,
  });
  const over = (client: Pool | PoolConnection): Db => drizzle(client as Pool, { casing: 'snake_case' });
  const db = over(pool);

  // What is made over a connection is kept with it: working out the names of all columns anew costs more than many a query.
  const made = new WeakMap<object, Tx>();
  const txOver = (given: PoolConnection): Tx => {
    const known = made.get(given.connection);
    if (known) return known;
    const tx = { db: over(given), connection: given };
    made.set(given.connection, tx);
    return tx;
  };

  async function once<T>(work: (tx: Tx) => Promise<T>, reading: 'the latest' | undefined): Promise<T> {
    const tx = txOver(await pool.getConnection());
    const { connection } = tx;
    try {
      if (reading) await connection.query('SET TRANSACTION ISOLATION LEVEL READ COMMITTED');
      await connection.beginTransaction();
      const result = await work(tx);
      await connection.commit();
      return result;
    } catch (error) {
      await connection.rollback().catch(() => connection.destroy());
      throw error;
    } finally {
      connection.release();
    }
  }

  return {
    pool,
    db,
    async transact(work, reading) {
      for (let attempt = 1; ; attempt += 1) {
        try {
          return await once(work, reading);
        } catch (error) {
          const errno = errnoOf(error);
          if (errno === null || !RETRYABLE.has(errno) || attempt >= MAX_TRIES) throw error;
          await pause(2 ** attempt * 8 * (0.5 + Math.random()));
        }
      }
    },
    close: () => pool.end(),
  };
}

export async function migrateDatabase(
  database: Database,
  folder = fileURLToPath(new URL('../../migrations', import.meta.url)),
): Promise<void> {
  await migrate(database.db, { migrationsFolder: folder });
}

/** A statement whose text is worked out once for each connection: for what nearly every request asks. */
export function prepared<T extends object>(make: (db: Db) => T): (db: Db) => T {
  const known = new WeakMap<Db, T>();
  return (db) => {
    const made = known.get(db) ?? make(db);
    known.set(db, made);
    return made;
  };
}

/** Rows as the driver has them, each a list of its columns: for reading many at once. The text is the program’s own; values stand apart. */
export async function bareRows(db: Db, text: string, values: readonly unknown[]): Promise<unknown[][]> {
  const { $client: client } = db as Db & { readonly $client: Pool };
  const [rows] = await client.query({ sql: text, values: [...values], rowsAsArray: true });
  return rows as unknown as unknown[][];
}

const ROWS_PER_INSERT = 1000;

/** Multi-row INSERTs of plain driver values, in bounded statements; gives the first id when the table counts its own. */
export async function bulkInsert(
  connection: PoolConnection,
  table: string,
  columns: readonly string[],
  rows: readonly (readonly unknown[])[],
  onDuplicate = '',
): Promise<number[]> {
  const firstIds: number[] = [];
  for (let i = 0; i < rows.length; i += ROWS_PER_INSERT) {
    const slice = rows.slice(i, i + ROWS_PER_INSERT);
    const [result] = await connection.query<ResultSetHeader>(`INSERT INTO ?? (??) VALUES ? ${onDuplicate}`, [
      table,
      columns,
      slice,
    ]);
    firstIds.push(result.insertId);
  }
  return firstIds;
}

/** Ids of rows inserted by one `bulkInsert`, read from the first ids: consecutive within a statement, in steps of `auto_increment_increment`. */
export async function insertedIds(
  connection: PoolConnection,
  firstIds: readonly number[],
  count: number,
): Promise<number[]> {
  // Of one row the first id is its own.
  if (count <= 1) return firstIds.slice(0, count);
  const [rows] = await connection.query('SELECT @@auto_increment_increment AS step');
  const step = Number((rows as { step: number }[])[0]?.step ?? 1);
  return Array.from(
    { length: count },
    (_, i) => (firstIds[Math.floor(i / ROWS_PER_INSERT)] as number) + (i % ROWS_PER_INSERT) * step,
  );
}

/** Text as it is, inside a LIKE pattern. */
export const escapeLike = (text: string): string => text.replace(/[\\%_]/g, (c) => `\\${c}`);
