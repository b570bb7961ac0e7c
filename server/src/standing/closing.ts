// Closing a month: what counted in it is kept as it was, and what turns out otherwise later is told beside the month in which it is found.
import { and, between, desc, eq, isNotNull, sql, type SQL } from 'drizzle-orm';
import { closeStandingMonth } from '#api/standing-months.ts';
import { closeStanding, daysOfMonth, type CountedAs } from '#core/standing/index.ts';
import type { Instant, LocalDate } from '#core/time/index.ts';
import type { PersonId } from '#core/ids.ts';
import type { Database, Db, Tx } from '../platform/database.ts';
import { announce } from '../platform/live.ts';
import { accept, refuse } from '../platform/refuse.ts';
import type { Write } from '../platform/writing.ts';
import { clock } from '../orders/tables.ts';
import { countedClocks, VISIT_COUNTED_AS, type CountedAt } from './counting.ts';
import { numberOfMonth, todayAnywhere } from './period.ts';
import { firstMonth, writeSums } from './summing.ts';
import { adjustment, standingMonth, type closedCount } from './tables.ts';

/** Everything that counts in a month as it is known now: what it is, on which day, as what, and whose. */
function truthOf(month: LocalDate, at: CountedAt): SQL {
  const days = daysOfMonth(month);
  return sql`
    select c.target thing, c.order_line_id thing_id, c.due_on on_day, if(c.state = 'met', 'met', 'missed') counted_as, c.miss_cause,
      c.order_id, c.asset_id, c.agreement_id, c.customer_id, c.site_id, c.depot_id
    from clock c where ${countedClocks(days, at)}
    union all
    select 'visit', v.id, v.window_to, ${VISIT_COUNTED_AS}, null,
      v.order_id, v.asset_id, v.agreement_id, g.customer_id, v.site_id, v.depot_id
    from visit v join agreement g on g.id = v.agreement_id
    where v.state in ('raised', 'declined') and v.window_to between ${days.from} and ${days.to}`;
}

const WHOSE = ['order_id', 'asset_id', 'agreement_id', 'customer_id', 'site_id', 'depot_id'] as const;
const whoseOf = (from: string): SQL => sql.raw(WHOSE.map((column) => `${from}.${column}`).join(', '));

/** What of a month was told last: as it was closed, or by the newest adjustment; null: nothing any more. */
const toldOf = (month: LocalDate): SQL => sql`
  select c.thing, c.thing_id, c.counted_as, 0 position, ${whoseOf('c')} from closed_count c
  where c.month = ${month} and not exists (
    select 1 from adjustment j where j.month = c.month and j.thing = c.thing and j.thing_id = c.thing_id)
  union all
  select j.thing, j.thing_id, j.after, j.position + 1, ${whoseOf('j')} from adjustment j
  where j.month = ${month} and j.position = (
    select max(k.position) from adjustment k where k.month = j.month and k.thing = j.thing and k.thing_id = j.thing_id)`;

type Whose = Pick<
  typeof closedCount.$inferSelect,
  'orderId' | 'assetId' | 'agreementId' | 'customerId' | 'siteId' | 'depotId'
>;
type Differing = Pick<typeof closedCount.$inferSelect, 'thing' | 'thingId'> & {
  readonly position: number;
  readonly told: (Whose & { readonly as: CountedAs }) | null;
  readonly true: (Whose & { readonly as: CountedAs }) | null;
};

type Row = Readonly<Record<string, string | number | null>>;
const whoseIn = (row: Row, prefix: string): Whose =>
  Object.fromEntries(
    WHOSE.map((column) => [
      column.replace(/_(.)/, (_, letter: string) => letter.toUpperCase()),
      row[`${prefix}_${column}`] ?? null,
    ]),
  ) as unknown as Whose;

const named = (from: string, prefix: string): SQL =>
  sql.raw(['counted_as', ...WHOSE].map((column) => `${from}.${column} ${prefix}_${column}`).join(', '));

/** What counts otherwise than it was told, or for somebody else. */
async function differing(tx: Tx, month: LocalDate, at: CountedAt): Promise<Differing[]> {
  const [told, truth] = [toldOf(month), truthOf(month, at)];
  const onThing = sql`told.thing = truth.thing and told.thing_id = truth.thing_id`;
  const columns = sql`${named('told', 'told')}, ${named('truth', 'true')}`;
  const [rows] = (await tx.db.execute(sql`
    select told.thing, told.thing_id, told.position, ${columns}
    from (${told}) told left join (${truth}) truth on ${onThing}
    where not (told.counted_as <=> truth.counted_as and (told.counted_as is null or (told.asset_id = truth.asset_id
      and told.customer_id = truth.customer_id and told.agreement_id <=> truth.agreement_id)))
    union all
    select truth.thing, truth.thing_id, 0, ${columns}
    from (${truth}) truth left join (${told}) told on ${onThing} where told.thing is null`)) as unknown as [Row[]];
  return rows.map((r) => ({
    ...{ thing: r.thing as Differing['thing'], thingId: Number(r.thing_id), position: Number(r.position) },
    told: r.told_counted_as === null ? null : { as: r.told_counted_as as CountedAs, ...whoseIn(r, 'told') },
    true: r.true_counted_as === null ? null : { as: r.true_counted_as as CountedAs, ...whoseIn(r, 'true') },
  }));
}

const isSameSubject = (a: Whose, b: Whose): boolean =>
  a.assetId === b.assetId && a.customerId === b.customerId && a.agreementId === b.agreementId;

/** The lines that put one right: one, or two where it counts for somebody else. */
function linesOf({
  told,
  true: so,
  ...of
}: Differing): Pick<
  typeof adjustment.$inferInsert,
  'thing' | 'thingId' | 'position' | 'before' | 'after' | keyof Whose
>[] {
  const line = (whose: Whose & { as?: CountedAs }, before: CountedAs | null, after: CountedAs | null, later = 0) => {
    const { as: _, ...subject } = whose;
    return { thing: of.thing, thingId: of.thingId, position: of.position + later, before, after, ...subject };
  };
  if (told && so && !isSameSubject(told, so)) return [line(told, told.as, null), line(so, null, so.as, 1)];
  const whose = so ?? told;
  return whose ? [line(whose, told?.as ?? null, so?.as ?? null)] : [];
}

/** Tells what counts otherwise in closed months since they were looked at last; gives the number of adjustments. */
export async function adjustClosed(database: Database, now: Instant): Promise<number> {
  const today = todayAnywhere(now);
  const months = await database.db
    .select({ month: standingMonth.month })
    .from(standingMonth)
    .where(sql`${standingMonth.closedAt} is not null and ${standingMonth.adjusted} <> ${standingMonth.changes}`)
    .orderBy(standingMonth.month);
  let told = 0;
  for (const { month } of months)
    told += await database.transact(async (tx) => {
      const [row] = await tx.db.select().from(standingMonth).where(eq(standingMonth.month, month)).for('update');
      if (!row || row.adjusted === row.changes) return 0;
      const lines = (await differing(tx, month, { now, today })).flatMap(linesOf);
      if (lines.length > 0) {
        await tx.db.insert(adjustment).values(lines.map((l) => ({ ...l, month, foundOn: today, foundAt: now })));
        await announce(tx, closeStandingMonth, []);
      }
      await tx.db.update(standingMonth).set({ adjusted: row.changes }).where(eq(standingMonth.month, month));
      return lines.length;
    }, 'the latest');
  return told;
}

/** Promises of a month that are past due and still open: they count as missed, and how late they come is not known yet. */
export async function openIn(db: Db, month: LocalDate): Promise<number> {
  const { from, to } = daysOfMonth(month);
  return db.$count(clock, and(eq(clock.state, 'running'), between(clock.dueOn, from, to)));
}

/** The last month that is closed; null: none. */
export async function lastClosed(db: Db): Promise<LocalDate | null> {
  const [row] = await db
    .select({ month: standingMonth.month })
    .from(standingMonth)
    .where(isNotNull(standingMonth.closedAt))
    .orderBy(desc(standingMonth.month))
    .limit(1);
  return row?.month ?? null;
}

/**
 * Closes a month: everything that counts in it is kept as it is, with its sums. Refused: what core refuses, and a house in which
 * nothing was ever promised.
 */
export const closeMonth = (
  write: Write,
  { month, reason }: { readonly month: LocalDate; readonly reason: string },
  who: PersonId,
  now: Instant,
): Promise<void> =>
  write(async (tx, told) => {
    await tx.db.execute(
      sql`insert into standing_month (month) values (${month}) on duplicate key update month = month`,
    );
    const [row] = await tx.db.select().from(standingMonth).where(eq(standingMonth.month, month)).for('update');
    const first = await firstMonth(tx.db);
    if (!row || first === null) refuse('not-found', 'Nothing was promised yet.', 'month');
    const today = todayAnywhere(now);
    const open = await openIn(tx.db, month);
    accept(closeStanding(month, { lastClosed: await lastClosed(tx.db), first, today, open, reason }));
    const at = { now, today };
    await tx.db.execute(sql`
      insert into closed_count (month, thing, thing_id, on_day, counted_as, miss_cause, ${sql.raw(WHOSE.join(', '))})
      select ${month}, t.* from (${truthOf(month, at)}) t`);
    const { changes, summed } = row;
    await writeSums(tx, month, { isAnew: summed !== null, isClosed: true, thirds: 3, changes, at });
    await tx.db
      .update(standingMonth)
      .set({ closedAt: now, closedBy: who, reason, summed: changes, thirds: 3, adjusted: changes })
      .where(eq(standingMonth.month, month));
    told({
      subject: 'standing month',
      id: numberOfMonth(month),
      text: `closed ${month.slice(0, 7)}`,
    });
  }, 'the latest');
