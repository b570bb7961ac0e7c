// The finder: words in any order, fragments and slips, over the index of what each thing is known by.
import { FOUND_KINDS, type Found, type FoundKind, type Hit } from '#api/finder.ts';
import { closeness, gramsOf, questionWords, whatMatched } from '#core/finder.ts';
import type { Database } from '../platform/database.ts';
import type { At, FinderSource } from '../platform/finder-source.ts';

const FOUND_EACH = 8;
/** How many words of the vocabulary one asked word may stand for, and how many are looked at to choose them. */
const STANDS_FOR = 60;
const PER_GRAM = 1500;
/** Matches that are ranked; the best of them are shown. */
const RANKED = 120;
/** Words that more things than this answer to are all the same common. */
const COUNTED = 1000;

type Meaning = ReadonlyMap<number, number>;

/** What one asked word may mean: ids of known words with how well they answer. Slips count only where nothing else answers. */
async function meaningOf({ pool }: Database, asked: string): Promise<Meaning> {
  const [beginning] = await pool.query('SELECT id, word FROM find_word WHERE word LIKE ? ORDER BY word LIMIT ?', [
    `${asked}%`,
    STANDS_FOR,
  ]);
  const scored = new Map<number, number>();
  const take = (rows: unknown): void => {
    for (const { id, word } of rows as { id: number; word: string }[]) {
      const score = closeness(asked, word);
      if (score !== null) scored.set(id, score);
    }
  };
  take(beginning);
  const grams = gramsOf(asked);
  if (scored.size < STANDS_FOR && grams.length > 0) {
    // Each letter group gives a bounded list; a word that shares many of them is looked at first.
    const lists = grams.map(() => '(SELECT word_id FROM find_gram WHERE gram = ? LIMIT ?)').join(' UNION ALL ');
    const [close] = await pool.query(
      `SELECT w.id, w.word FROM (SELECT word_id, COUNT(*) AS shared FROM (${lists}) g GROUP BY word_id ORDER BY shared DESC LIMIT ?) c
       JOIN find_word w ON w.id = c.word_id`,
      [...grams.flatMap((g) => [g, PER_GRAM]), STANDS_FOR * 2],
    );
    take(close);
  }
  const best = Math.max(0, ...scored.values());
  return new Map([...scored].filter(([, score]) => best < 0.4 || score >= 0.4).slice(0, STANDS_FOR));
}

/** How many things of each kind answer each asked word, counted up to a bound. */
async function countsOf(
  { pool }: Database,
  kinds: readonly FoundKind[],
  meanings: readonly Meaning[],
): Promise<Map<FoundKind, number[]>> {
  const parts = kinds.flatMap((kind) => meanings.map((meaning, word) => ({ kind, word, ids: [...meaning.keys()] })));
  const [rows] = await pool.query(
    parts
      .map(
        () =>
          '(SELECT ? AS kind, ? AS word, COUNT(*) AS n FROM (SELECT 1 FROM find_posting WHERE kind = ? AND word_id IN (?) LIMIT ?) p)',
      )
      .join(' UNION ALL '),
    parts.flatMap(({ kind, word, ids }) => [kind, word, kind, ids, COUNTED]),
  );
  const counts = new Map<FoundKind, number[]>(kinds.map((kind) => [kind, meanings.map(() => 0)]));
  for (const { kind, word, n } of rows as { kind: FoundKind; word: number; n: number }[])
    (counts.get(kind) as number[])[Number(word)] = Number(n);
  return counts;
}

/** Subjects that answer every asked word, best first; `sizes` says how many answer each. */
async function subjectsOf(
  { pool }: Database,
  kind: FoundKind,
  meanings: readonly Meaning[],
  sizes: readonly number[],
  limit: number,
): Promise<number[]> {
  if (sizes.some((n) => n === 0)) return [];
  const order = meanings.map((_, i) => i).sort((a, b) => (sizes[a] as number) - (sizes[b] as number));
  const [driver, ...others] = order.map((i) => [...(meanings[i] as Meaning).keys()]);
  const [candidates] = await pool.query(
    `SELECT p.subject_id AS id, p.word_id AS word FROM find_posting p WHERE p.kind = ? AND p.word_id IN (?)
     ${others.map(() => 'AND EXISTS (SELECT 1 FROM find_posting q WHERE q.kind = p.kind AND q.subject_id = p.subject_id AND q.word_id IN (?))').join(' ')}
     LIMIT ?`,
    [kind, driver, ...others, RANKED],
  );
  const found = candidates as { id: number; word: number }[];
  const ids = [...new Set(found.map((c) => c.id))];
  if (ids.length === 0) return [];
  // The words that brought them are known; only those of the other asked words are still to be read.
  const [matched] =
    others.length === 0
      ? [[]]
      : await pool.query(
          'SELECT subject_id AS id, word_id AS word FROM find_posting WHERE kind = ? AND subject_id IN (?) AND word_id IN (?)',
          [kind, ids, [...new Set(others.flat())]],
        );
  const best = new Map<number, number[]>(ids.map((id) => [id, meanings.map(() => 0)]));
  for (const { id, word } of [...found, ...(matched as { id: number; word: number }[])])
    meanings.forEach((m, i) => {
      const scores = best.get(id) as number[];
      scores[i] = Math.max(scores[i] as number, m.get(word) ?? 0);
    });
  const scoreOf = (id: number): number => (best.get(id) as number[]).reduce((sum, s) => sum + s, 0);
  return ids.sort((a, b) => scoreOf(b) - scoreOf(a) || a - b).slice(0, limit);
}

/** What the row does not show and yet answers: "serial ULF720-Q101". */
function sayMatched(words: readonly string[], by: Parameters<typeof whatMatched>[1]): string {
  return whatMatched(words, by)
    .filter((k) => k.what !== '')
    .map((k) => `${k.what} ${k.value}`)
    .join('; ');
}

/** Hits of every room, in the order of the kinds. */
export async function find(
  database: Database,
  sources: readonly FinderSource[],
  asked: string,
  at: At,
): Promise<Found['hits']> {
  const { db } = database;
  const words = questionWords(asked);
  const meanings = await Promise.all(words.map((w) => meaningOf(database, w)));
  const understood = words.length > 0 && meanings.every((m) => m.size > 0);
  const kinds = sources.map((s) => s.kind);
  const counts = understood && kinds.length > 0 ? await countsOf(database, kinds, meanings) : null;
  const hitsOf = async (source: FinderSource): Promise<Hit[]> => {
    const called = (await source.called?.(db, asked)) ?? [];
    const ids =
      called.length > 0
        ? called
        : counts
          ? await subjectsOf(database, source.kind, meanings, counts.get(source.kind) ?? [], FOUND_EACH)
          : [];
    if (ids.length === 0) return [];
    const [rows, known] = await Promise.all([source.show(db, ids, at), source.knownOf(db, ids)]);
    const [rowOf, byOf] = [new Map(rows.map((r) => [r.id, r])), new Map(known.map((k) => [k.id, k.by]))];
    return ids.flatMap((id) => {
      const row = rowOf.get(id);
      return row ? [{ ...row, kind: source.kind, matched: sayMatched(words, byOf.get(id) ?? []) }] : [];
    });
  };
  const inOrder = [...sources].sort((a, b) => FOUND_KINDS.indexOf(a.kind) - FOUND_KINDS.indexOf(b.kind));
  return (await Promise.all(inOrder.map(hitsOf))).flat();
}
