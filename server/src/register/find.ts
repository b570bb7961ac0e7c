// The finder: words in any order, fragments and slips, over the index of what each thing is known by.
import { desc, eq, inArray } from 'drizzle-orm';
import type { Found } from '#api/register.ts';
import { orderNumber, orderOfNumber } from '#api/shapes.ts';
import type { AgreementId, AssetId, CustomerId, LocationId, OrderId } from '#core/ids.ts';
import { closeness, gramsOf, questionWords, whatMatched, type KnownBy } from '#core/register/index.ts';
import type { Instant, LocalDate } from '#core/time/index.ts';
import { calendarBook } from '../platform/calendar-book.ts';
import type { Database } from '../platform/database.ts';
import { knownBy } from '../platform/finder-index.ts';
import {
  agreement,
  customer,
  FOUND_KINDS,
  location,
  locationShare,
  workOrder,
  type FoundKind,
} from '../platform/tables/index.ts';
import { threadStretch } from '../ribbon/index.ts';
import { assetRows } from './rows.ts';

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
async function countsOf({ pool }: Database, meanings: readonly Meaning[]): Promise<Map<FoundKind, number[]>> {
  const parts = FOUND_KINDS.flatMap((kind) =>
    meanings.map((meaning, word) => ({ kind, word, ids: [...meaning.keys()] })),
  );
  const [rows] = await pool.query(
    parts
      .map(
        () =>
          '(SELECT ? AS kind, ? AS word, COUNT(*) AS n FROM (SELECT 1 FROM find_posting WHERE kind = ? AND word_id IN (?) LIMIT ?) p)',
      )
      .join(' UNION ALL '),
    parts.flatMap(({ kind, word, ids }) => [kind, word, kind, ids, COUNTED]),
  );
  const counts = new Map<FoundKind, number[]>(FOUND_KINDS.map((kind) => [kind, meanings.map(() => 0)]));
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

/** Which customer a place is shown under: the one it, or the nearest place above it, is shared with. */
async function ownersOf({ db }: Database, paths: readonly string[]): Promise<(path: string) => CustomerId | null> {
  const ids = [...new Set(paths.flatMap((p) => p.split('/').filter((x) => x !== '')))].map(
    (x) => Number(x) as LocationId,
  );
  const shares =
    ids.length === 0
      ? []
      : await db
          .select({ path: location.path, customerId: locationShare.customerId })
          .from(locationShare)
          .innerJoin(location, eq(location.id, locationShare.locationId))
          .where(inArray(locationShare.locationId, ids));
  shares.sort((a, b) => b.path.length - a.path.length);
  return (path) => shares.find((s) => path.startsWith(s.path))?.customerId ?? null;
}

export async function find(database: Database, asked: string, today: LocalDate, now: Instant): Promise<Found> {
  const { db } = database;
  const order = orderOfNumber(asked);
  const [numbered] = await db.select({ id: agreement.id }).from(agreement).where(eq(agreement.number, asked.trim()));
  const words = questionWords(asked);
  const meanings = await Promise.all(words.map((w) => meaningOf(database, w)));
  const understood = words.length > 0 && meanings.every((m) => m.size > 0);
  const counts = understood ? await countsOf(database, meanings) : null;
  const askFor = async <T>(kind: FoundKind): Promise<T[]> =>
    counts ? ((await subjectsOf(database, kind, meanings, counts.get(kind) ?? [], FOUND_EACH)) as T[]) : [];
  const [assetIds, customerIds, locationIds, agreementIds, orderIds] = await Promise.all([
    askFor<AssetId>('asset'),
    askFor<CustomerId>('customer'),
    askFor<LocationId>('location'),
    numbered ? [numbered.id] : askFor<AgreementId>('agreement'),
    order !== null ? [order as OrderId] : askFor<OrderId>('order'),
  ]);
  const inOrder = <R extends { id: number }>(ids: readonly number[], rows: readonly R[]): R[] => {
    const byId = new Map(rows.map((r) => [r.id, r]));
    return ids.flatMap((id) => byId.get(id) ?? []);
  };
  const [assets, customers, locations, agreements, orders, known] = await Promise.all([
    assetRows(db, await calendarBook(db), assetIds, today, now),
    customerIds.length === 0
      ? []
      : db.select({ id: customer.id, name: customer.name }).from(customer).where(inArray(customer.id, customerIds)),
    locationIds.length === 0
      ? []
      : db
          .select({ id: location.id, name: location.name, path: location.path, fullName: location.fullName })
          .from(location)
          .where(inArray(location.id, locationIds)),
    agreementIds.length === 0
      ? []
      : db
          .select({
            id: agreement.id,
            number: agreement.number,
            name: agreement.name,
            customer: customer.name,
            stage: agreement.stage,
          })
          .from(agreement)
          .innerJoin(customer, eq(customer.id, agreement.customerId))
          .where(inArray(agreement.id, agreementIds)),
    orderIds.length === 0
      ? []
      : db
          .select({ id: workOrder.id, title: workOrder.title, customer: customer.name, stage: workOrder.stage })
          .from(workOrder)
          .innerJoin(customer, eq(customer.id, workOrder.customerId))
          .where(inArray(workOrder.id, orderIds))
          .orderBy(desc(workOrder.id)),
    knownBy(db, { assets: assetIds, customers: customerIds, places: locationIds }),
  ]);
  /** What the row does not show and yet answers: "serial ULF720-Q101". */
  const matched = (by: readonly KnownBy[] | undefined): string =>
    whatMatched(words, by ?? [])
      .filter((k) => k.what !== '')
      .map((k) => `${k.what} ${k.value}`)
      .join('; ');
  const ownerOf = await ownersOf(
    database,
    locations.map((l) => l.path),
  );
  const { from, to } = threadStretch(today, now);
  return {
    assets: assets.map((r) => ({
      id: r.id,
      tag: r.tag,
      serial: r.serial,
      model: r.model,
      className: r.className,
      customer: r.customerName,
      place: r.place,
      coverNow: r.coverNow,
      ribbon: r.ribbon,
      matched: matched(known.assets.get(r.id)),
    })),
    customers: inOrder(customerIds, customers).map((c) => ({ ...c, matched: matched(known.customers.get(c.id)) })),
    locations: inOrder(locationIds, locations).map((l) => ({
      id: l.id,
      name: l.name,
      customerId: ownerOf(l.path),
      path: l.fullName,
      matched: matched(known.places.get(l.id)),
    })),
    agreements: inOrder(agreementIds, agreements),
    orders: inOrder(orderIds, orders).map((o) => ({ ...o, title: `${orderNumber(o.id)} ${o.title}` })),
    from,
    to,
    now,
  };
}
