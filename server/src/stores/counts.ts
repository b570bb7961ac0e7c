// Counts: begun for a store or a part of it, counted while work goes on, their differences approved together.
import { and, asc, desc, eq, gt, isNull, like, lt, ne, or, sql } from 'drizzle-orm';
import type { Asked, BodyOf } from '#api/contract.ts';
import type { beginCount, countPart, CountLineOut, CountPage, CountRow, listCounts } from '#api/counts.ts';
import type { CountId, PartId, StoreId } from '#core/ids.ts';
import { seesMoney, type Role } from '#core/people.ts';
import { countAgainst, priceOf, THOUSANDTHS, unitAverage } from '#core/stores/index.ts';
import { DAY, instant, type Instant } from '#core/time/index.ts';
import { bulkInsert, escapeLike, isTaken, takenKey, type Database, type Db, type Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { refuse, stale } from '../platform/refuse.ts';
import { contentOf, mustBeSame } from '../platform/request-key.ts';
import { person } from '../platform/tables.ts';
import type { Write } from '../platform/writing.ts';
import { holdStocks, stockKey } from './ledger.ts';
import { countLine, part, serialUnit, shelf, stock, stockCount, stockMove, store, storeAct } from './tables.ts';
import { ownVan } from './own-van.ts';

const MOST_LINES = 5000;
const TURNOVER_DAYS = 90;
const NEVER_DAYS = 3650;

type Begin = BodyOf<typeof beginCount>;

/** What turns over most and was not counted longest: turnover of the last months times the days since. */
const cycleRank = (storeId: StoreId, now: Instant) => sql`(1 + coalesce((select sum(abs(m.money)) from stock_move m
  join store_act a on a.id = m.act_id where m.store_id = ${storeId} and m.part_id = ${stock.partId} and m.kind = 'issue'
  and a.at >= ${instant(now - TURNOVER_DAYS * DAY)}), 0)) * coalesce((select timestampdiff(day, max(l.counted_at), ${now})
  from count_line l join stock_count c on c.id = l.count_id where c.store_id = ${storeId} and l.part_id = ${stock.partId}
  and c.state = 'approved'), ${NEVER_DAYS})`;

async function partsToCount(tx: Tx, storeId: StoreId, { of, bins, most }: Begin, now: Instant): Promise<PartId[]> {
  const rows = await tx.db
    .select({ id: stock.partId })
    .from(stock)
    .leftJoin(shelf, and(eq(shelf.storeId, stock.storeId), eq(shelf.partId, stock.partId)))
    .where(
      and(
        eq(stock.storeId, storeId),
        or(ne(stock.onHand, 0), sql`${shelf.partId} is not null`),
        of === 'bins' ? like(shelf.bin, `${escapeLike(bins)}%`) : undefined,
      ),
    )
    .orderBy(...(of === 'cycle' ? [desc(cycleRank(storeId, now))] : []), asc(stock.partId))
    .limit(of === 'cycle' ? most : MOST_LINES + 1);
  if (rows.length > MOST_LINES)
    refuse('too-large', `A count has at most ${MOST_LINES} parts: count it bin by bin.`, 'of');
  return rows.map((r) => r.id);
}

const sayWhat = ({ of, bins, most }: Begin): string =>
  of === 'all' ? 'all of it' : of === 'bins' ? `bins ${bins}…` : `${most} that turn over most`;

/** Begins a count; the same request again gives the same one. Refused: nothing to count, a part that another open count has. */
export async function begin(
  database: Database,
  write: Write,
  who: Person,
  storeId: StoreId,
  body: Begin,
  now: Instant,
): Promise<{ id: CountId }> {
  const { requestKey, ...asked } = body;
  const requestContent = contentOf({ store: storeId, ...asked });
  const before = async (): Promise<CountId | null> => {
    const [sent] = await database.db.select().from(stockCount).where(eq(stockCount.requestKey, requestKey));
    if (!sent) return null;
    mustBeSame(sent.requestContent, requestContent);
    return sent.id;
  };
  const sent = await before();
  if (sent !== null) return { id: sent };
  try {
    return await write(async (tx, told) => {
      const [where] = await tx.db.select().from(store).where(eq(store.id, storeId));
      if (!where) refuse('not-found', 'That store does not exist.');
      if (body.of === 'bins' && body.bins === '') refuse('missing', 'Say how the bins begin.', 'bins');
      const parts = await partsToCount(tx, storeId, body, now);
      if (parts.length === 0)
        refuse('not-found', 'Nothing is kept there to count.', body.of === 'bins' ? 'bins' : 'of');
      const values = { storeId, state: 'open' as const, what: sayWhat(body), startedBy: who.id, startedAt: now };
      const [made] = await tx.db
        .insert(stockCount)
        .values({ ...values, requestKey, requestContent })
        .$returningId();
      const id = made?.id as CountId;
      await bulkInsert(
        tx.connection,
        'count_line',
        ['count_id', 'part_id', 'open_at'],
        parts.map((partId) => [id, partId, storeId]),
      );
      told({ subject: 'store', id: storeId, text: `a count of ${where.name} begun: ${values.what}` });
      return { id };
    });
  } catch (error) {
    if (!isTaken(error)) throw error;
    const mine = await before();
    if (mine !== null) return { id: mine };
    if (takenKey(error) === 'count_line_open')
      refuse('conflict', 'Some of it is being counted already: end that count first.', 'of');
    throw error;
  }
}

/** A count that is open, held until the end. */
export async function countUnderLock(tx: Tx, id: CountId): Promise<typeof stockCount.$inferSelect> {
  const [row] = await tx.db.select().from(stockCount).where(eq(stockCount.id, id)).for('update');
  if (!row) refuse('not-found', 'That count does not exist.');
  if (row.state !== 'open') refuse('wrong-stage', `The count is ${row.state}: begin another.`);
  return row;
}

type Found = { readonly thousandths: number; readonly serials: readonly string[] };

/** Compares what was found of a part with what should be there, and keeps it with the count. `since`: what others moved after it, taken out again. */
async function keepFound(
  tx: Tx,
  who: Person,
  line: Pick<typeof countLine.$inferSelect, 'countId' | 'partId' | 'version'>,
  { storeId, found, at, since = 0 }: { storeId: StoreId; found: Found; at: Instant; since?: number },
): Promise<string> {
  const { partId } = line;
  const [known] = await tx.db.select().from(part).where(eq(part.id, partId));
  const { thousandths, serials } = found;
  if (known?.serialTracked && serials.length * THOUSANDTHS !== thousandths)
    refuse('missing', `${known.name} is kept by serial: give one for each that is there.`, 'serials');
  if (!known?.serialTracked && serials.length > 0)
    refuse('unsupported', `${known?.name} is not kept by serial; leave it empty.`, 'serials');
  if (new Set(serials).size < serials.length) refuse('invalid', 'Each serial stands once.', 'serials');
  // Held: what should be there is what is there now, whatever is being moved at the same time.
  const there = (await holdStocks(tx, [{ storeId, partId }])).get(stockKey(storeId, partId));
  const units = known?.serialTracked
    ? await tx.db
        .select({ serial: serialUnit.serial })
        .from(serialUnit)
        .where(and(eq(serialUnit.partId, partId), eq(serialUnit.storeId, storeId)))
    : [];
  const onHand = (there?.onHand ?? 0) - since;
  const against = countAgainst({ onHand, serials: units.map((u) => u.serial) }, { thousandths, serials });
  await tx.db
    .update(countLine)
    .set({
      ...{ expected: onHand, counted: thousandths, missing: [...against.missing], found: [...against.found] },
      ...{ countedBy: who.id, countedAt: at, version: line.version + 1 },
    })
    .where(and(eq(countLine.countId, line.countId), eq(countLine.partId, partId)));
  return known?.number ?? '';
}

export const countOf = (
  write: Write,
  who: Person,
  { id, part: partId }: { readonly id: CountId; readonly part: PartId },
  { version, ...found }: BodyOf<typeof countPart>,
  now: Instant,
): Promise<void> =>
  write(async (tx, told) => {
    const { storeId } = await countUnderLock(tx, id);
    const [line] = await tx.db
      .select()
      .from(countLine)
      .where(and(eq(countLine.countId, id), eq(countLine.partId, partId)))
      .for('update');
    if (!line) refuse('not-found', 'That part is not in this count.');
    if (line.version !== version) stale({ id: partId, version: line.version });
    const number = await keepFound(tx, who, line, { storeId, found, at: now });
    told({ subject: 'count', id, text: `counted ${number}` });
  });

/** What others moved of a part in a store after it was counted there; who counted told their own before. */
async function movedSince(tx: Tx, who: Person, storeId: StoreId, partId: PartId, at: Instant): Promise<number> {
  const [row] = await tx.db
    .select({ sum: sql<string>`coalesce(sum(${stockMove.thousandths}), 0)` })
    .from(stockMove)
    .innerJoin(storeAct, eq(storeAct.id, stockMove.actId))
    .where(
      and(
        ...[eq(stockMove.storeId, storeId), eq(stockMove.partId, partId), gt(storeAct.at, at)],
        or(isNull(storeAct.personId), ne(storeAct.personId, who.id)),
      ),
    );
  return Number(row?.sum ?? 0);
}

/** The open count to which what somebody finds in their van goes: theirs, or a new one. Held until the end. */
async function vanCount(tx: Tx, who: Person, storeId: StoreId, key: string, now: Instant): Promise<CountId> {
  const [own] = await tx.db
    .select({ id: stockCount.id })
    .from(stockCount)
    .where(and(eq(stockCount.storeId, storeId), eq(stockCount.state, 'open'), eq(stockCount.what, FROM_VAN)))
    .orderBy(desc(stockCount.id))
    .limit(1)
    .for('update');
  if (own) return own.id;
  const values = { storeId, state: 'open' as const, what: FROM_VAN, startedBy: who.id, startedAt: now };
  const [made] = await tx.db
    .insert(stockCount)
    .values({ ...values, requestKey: key, requestContent: contentOf({ storeId, key }) })
    .$returningId();
  return made?.id as CountId;
}
const FROM_VAN = 'what was found in the van';

/**
 * What of a part is really in somebody's own van, as they counted it at `at`; the difference is approved with the other counts. A part
 * that is being counted already is counted there.
 */
export const countInVan = (
  write: Write,
  who: Person,
  { partId, ...found }: Found & { readonly partId: PartId },
  { key, at, now }: { readonly key: string; readonly at: Instant; readonly now: Instant },
): Promise<void> =>
  write(async (tx, told) => {
    const van = await ownVan(tx, who);
    const [open] = await tx.db
      .select()
      .from(countLine)
      .where(and(eq(countLine.openAt, van.id), eq(countLine.partId, partId)))
      .for('update');
    const countId = open?.countId ?? (await vanCount(tx, who, van.id, key, now));
    if (!open) {
      const [known] = await tx.db.select({ id: part.id }).from(part).where(eq(part.id, partId));
      if (!known) refuse('not-found', 'That part does not exist; choose another.', 'partId');
      await bulkInsert(
        ...([tx.connection, 'count_line', ['count_id', 'part_id', 'open_at'], [[countId, partId, van.id]]] as const),
      );
    }
    const since = await movedSince(tx, who, van.id, partId, at);
    const line = open ?? { countId, partId, version: 1 };
    const number = await keepFound(tx, who, line, { storeId: van.id, found, at, since });
    told({ subject: 'count', id: countId, text: `counted ${number} in ${van.name}` });
  });

const rowColumns = {
  ...{ count: stockCount, store: store.name, by: person.name },
  lines: sql<number>`(select count(*) from count_line l where l.count_id = ${stockCount.id})`,
  counted: sql<number>`(select count(*) from count_line l where l.count_id = ${stockCount.id} and l.counted is not null)`,
};
const fromCounts = (db: Db) =>
  db
    .select(rowColumns)
    .from(stockCount)
    .innerJoin(store, eq(store.id, stockCount.storeId))
    .leftJoin(person, eq(person.id, stockCount.startedBy))
    .$dynamic();
const rowOf = ({
  count: c,
  store: name,
  by,
  lines,
  counted,
}: Awaited<ReturnType<typeof fromCounts>>[number]): CountRow => ({
  ...{ id: c.id, store: { id: c.storeId, name }, state: c.state, what: c.what },
  ...{ startedBy: by, startedAt: c.startedAt, endedAt: c.endedAt, lines: Number(lines), counted: Number(counted) },
});

export async function countsShown(db: Db, { store: of, after, limit = 60 }: Asked<typeof listCounts>['query']) {
  const rows = await fromCounts(db)
    .where(
      and(
        of === undefined ? undefined : eq(stockCount.storeId, of),
        after === undefined ? undefined : lt(stockCount.id, Number(after) as CountId),
      ),
    )
    .orderBy(desc(stockCount.id))
    .limit(limit + 1);
  return {
    items: rows.slice(0, limit).map(rowOf),
    next: rows.length > limit ? `${rows[limit - 1]?.count.id}` : null,
  };
}

export async function countShown(db: Db, id: CountId, role: Role): Promise<CountPage> {
  const [row] = await fromCounts(db).where(eq(stockCount.id, id));
  if (!row) refuse('not-found', 'That count does not exist.');
  const lines = await db
    .select({
      line: countLine,
      part,
      bin: shelf.bin,
      average: stock.average,
      lastPrice: stock.lastPrice,
      by: person.name,
    })
    .from(countLine)
    .innerJoin(part, eq(part.id, countLine.partId))
    .leftJoin(shelf, and(eq(shelf.storeId, row.count.storeId), eq(shelf.partId, countLine.partId)))
    .leftJoin(stock, and(eq(stock.storeId, row.count.storeId), eq(stock.partId, countLine.partId)))
    .leftJoin(person, eq(person.id, countLine.countedBy))
    .where(eq(countLine.countId, id))
    .orderBy(asc(shelf.bin), asc(part.number))
    .limit(MOST_LINES);
  return {
    ...{ ...rowOf(row), version: row.count.version },
    rows: lines.map(({ line: l, part: p, bin, average, lastPrice, by }): CountLineOut => {
      const worth = average === null ? lastPrice : unitAverage(average);
      const difference = (l.counted ?? 0) - (l.expected ?? 0);
      return {
        part: { id: p.id, name: p.name, number: p.number, unit: p.unit, serialTracked: p.serialTracked },
        ...{ bin: bin ?? '', version: l.version },
        counted:
          l.counted === null || l.expected === null || l.countedAt === null
            ? null
            : {
                ...{ thousandths: l.counted, expected: l.expected, difference, by, at: l.countedAt },
                ...{ missing: l.missing ?? [], found: l.found ?? [] },
                value:
                  seesMoney(role) && worth !== null
                    ? Math.sign(difference) * priceOf(Math.abs(difference), worth)
                    : null,
              },
      };
    }),
  };
}

export const callOffCountOf = (write: Write, who: Person, id: CountId, version: number, now: Instant): Promise<void> =>
  write(async (tx, told) => {
    const row = await countUnderLock(tx, id);
    if (row.version !== version) stale({ id, version: row.version });
    await endCount(tx, row, 'called off', who, now);
    told({ subject: 'count', id, text: 'the count was called off' });
  });

/** Its parts may be counted by others again. */
export async function endCount(
  tx: Tx,
  { id, version }: typeof stockCount.$inferSelect,
  state: 'approved' | 'called off',
  who: Person,
  now: Instant,
): Promise<void> {
  await tx.db
    .update(stockCount)
    .set({ state, endedBy: who.id, endedAt: now, version: version + 1 })
    .where(eq(stockCount.id, id));
  await tx.db.update(countLine).set({ openAt: null }).where(eq(countLine.countId, id));
}
