// The finder's index: which words each thing is known by. Kept in the transaction of every change, and rebuilt from the tables at any time.
import { eq } from 'drizzle-orm';
import type { PoolConnection } from 'mysql2/promise';
import type { FoundKind } from '#api/finder.ts';
import { gramsOf } from '#core/finder.ts';
import { bulkInsert, type Database, type Tx } from './database.ts';
import { type FinderSource, type Known, type Renamed } from './finder-source.ts';
import { findPosting } from './tables.ts';

/**
 * Ids of the given words; new ones are added to the vocabulary with their letter groups. A word that somebody else added meanwhile
 * is not in this transaction's snapshot: after the insert it is read under lock, as it stands now.
 */
async function wordIds(connection: PoolConnection, words: readonly string[]): Promise<Map<string, number>> {
  const ids = new Map<string, number>();
  const look = async (list: readonly string[], lock = ''): Promise<void> => {
    for (let i = 0; i < list.length; i += 5000) {
      const [rows] = await connection.query(`SELECT id, word FROM find_word WHERE word IN (?) ${lock}`, [
        list.slice(i, i + 5000),
      ]);
      for (const row of rows as { id: number; word: string }[]) ids.set(row.word, row.id);
    }
  };
  await look(words);
  const fresh = words.filter((w) => !ids.has(w)).sort();
  if (fresh.length === 0) return ids;
  await bulkInsert(
    connection,
    'find_word',
    ['word'],
    fresh.map((w) => [w]),
    'ON DUPLICATE KEY UPDATE word = VALUES(word)',
  );
  await look(fresh, 'LOCK IN SHARE MODE');
  const grams = fresh
    .flatMap((w) => gramsOf(w).map((g) => [g, ids.get(w)] as const))
    .sort((a, b) => (a[0] < b[0] ? -1 : 1));
  if (grams.length > 0)
    await bulkInsert(connection, 'find_gram', ['gram', 'word_id'], grams, 'ON DUPLICATE KEY UPDATE gram = gram');
  return ids;
}

async function writePostings(tx: Tx, kind: FoundKind, known: readonly Known[]): Promise<void> {
  const wordsById = known.map((k) => ({ id: k.id, words: new Set(k.by.flatMap((b) => b.words)) }));
  const ids = await wordIds(tx.connection, [...new Set(wordsById.flatMap((k) => [...k.words]))]);
  const rows = wordsById.flatMap((k) => [...k.words].map((w) => [ids.get(w) as number, kind, k.id] as const));
  rows.sort((a, b) => a[0] - b[0] || a[2] - b[2]);
  if (rows.length > 0)
    await bulkInsert(
      tx.connection,
      'find_posting',
      ['word_id', 'kind', 'subject_id'],
      rows,
      'ON DUPLICATE KEY UPDATE kind = kind',
    );
}

async function replace(tx: Tx, kind: FoundKind, known: readonly Known[]): Promise<void> {
  if (known.length === 0) return;
  await tx.connection.query('DELETE FROM find_posting WHERE kind = ? AND subject_id IN (?)', [
    kind,
    known.map((k) => k.id),
  ]);
  await writePostings(tx, kind, known);
}

const BATCH = 2500;

async function inBatches<T>(ids: readonly T[], work: (batch: readonly T[]) => Promise<void>): Promise<void> {
  for (let i = 0; i < ids.length; i += BATCH) await work(ids.slice(i, i + BATCH));
}

/** Keeps what these things are known by. */
export const keepFound = (tx: Tx, source: FinderSource, ids: readonly number[]): Promise<void> =>
  inBatches(ids, async (batch) => replace(tx, source.kind, await source.knownOf(tx.db, batch)));

/** Keeps new things, of which nothing is held yet. */
export const keepNewlyFound = (tx: Tx, source: FinderSource, ids: readonly number[]): Promise<void> =>
  inBatches(ids, async (batch) => writePostings(tx, source.kind, await source.knownOf(tx.db, batch)));

/** Keeps what is known by the name of customers or places that were renamed, in every room. */
export async function keepRenamed(tx: Tx, sources: readonly FinderSource[], renamed: Renamed): Promise<void> {
  for (const source of sources) if (source.under) await keepFound(tx, source, await source.under(tx.db, renamed));
}

const WALKED = 4000;

/** Builds the index anew from the tables, in batches with a transaction each. */
export async function rebuildFinder(database: Database, sources: readonly FinderSource[]): Promise<void> {
  for (const table of ['find_posting', 'find_gram', 'find_word'])
    await database.pool.query('TRUNCATE TABLE ??', [table]);
  for (const source of sources) await indexAllOf(database, source);
}

async function indexAllOf(database: Database, source: FinderSource): Promise<void> {
  for (let after = 0; ;) {
    const ids = await source.page(database.db, after, WALKED);
    const last = ids[ids.length - 1];
    if (last === undefined) return;
    await database.transact(async (tx) => writePostings(tx, source.kind, await source.knownOf(database.db, ids)));
    after = last;
  }
}

/** Indexes once what is there from before the index knew things of its kind. */
export async function ensureFinder(database: Database, sources: readonly FinderSource[]): Promise<void> {
  for (const source of sources) {
    const [indexed] = await database.db
      .select({ id: findPosting.subjectId })
      .from(findPosting)
      .where(eq(findPosting.kind, source.kind))
      .limit(1);
    if (!indexed) await indexAllOf(database, source);
  }
}
