// Standing by SQL: the same counting rules as the core's, grouped by the database; a test holds the two together. Whole months that are
// summed are taken from their sums, closed ones as they were closed; only days at a period's ends are counted when they are asked for.
import { sql, type SQL } from 'drizzle-orm';
import { group } from 'd3-array';
import type { Counts, Days, Pieces, Summed, Thirds } from '#core/standing/index.ts';
import type { LocationId } from '#core/ids.ts';
import type { Instant, LocalDate } from '#core/time/index.ts';
import { instantText } from '../platform/columns.ts';
import type { Db } from '../platform/database.ts';
import type { SummedFor } from './tables.ts';

/** When it is counted: a running promise that is past due is missed, a window that is over was missed. */
export type CountedAt = { readonly now: Instant; readonly today: LocalDate };
type Counting = Days & { readonly isClosed: boolean };

type Counted = {
  /** Whether each third of a month has rows of its own, by its number. */
  readonly byThird?: boolean;
  readonly days: Counting;
  readonly at: CountedAt;
  /** Only these; null: all. */
  readonly only: readonly number[] | null;
  /** Only what is held against us. */
  readonly amiss: boolean;
  /** Only what was counted at a site. */
  readonly site?: LocationId;
};

/** What is counted for: what is summed, and places as they are in the tree, whose counts are never summed. */
type CountedFor = SummedFor | 'place';

/** Columns of promises and of counts of closed months that name a subject. */
export const OF_CLOCK: Readonly<Record<SummedFor, SQL>> = {
  ...{ asset: sql`c.asset_id`, site: sql`c.site_id`, agreement: sql`c.agreement_id` },
  ...{ customer: sql`c.customer_id`, depot: sql`c.depot_id`, all: sql`0` },
};
const OF_VISIT: typeof OF_CLOCK = {
  ...{ asset: sql`v.asset_id`, site: sql`v.site_id`, agreement: sql`v.agreement_id` },
  ...{ customer: sql`g.customer_id`, depot: sql`v.depot_id`, all: sql`0` },
};

/** Where a subject is read: its column, and what is joined for it. */
type Read = { readonly column: SQL; readonly join?: SQL };
const ofClock = (of: CountedFor): Read =>
  of === 'place'
    ? { column: sql`l.place_id`, join: sql`join order_line l on l.id = c.order_line_id` }
    : { column: OF_CLOCK[of] };
/** Where the machine of a visit stood is said by the line of its order; one without an order is of the site. */
const LINE_OF_VISIT = sql`l.order_id = v.order_id and l.visit_id = v.id`;
function ofVisit(of: CountedFor): Read {
  if (of === 'place')
    return { column: sql`coalesce(l.place_id, v.site_id)`, join: sql`left join order_line l on ${LINE_OF_VISIT}` };
  return { column: OF_VISIT[of], ...(of === 'customer' && { join: sql`join agreement g on g.id = v.agreement_id` }) };
}
const ofClosed = (of: CountedFor): Read =>
  of === 'place'
    ? {
        column: sql`coalesce(p.place_id, l.place_id, c.site_id)`,
        join: sql`left join order_line p on c.thing <> 'visit' and p.id = c.thing_id
          left join order_line l on c.thing = 'visit' and l.order_id = c.order_id and l.visit_id = c.thing_id`,
      }
    : { column: OF_CLOCK[of] };

export const listed = (values: readonly (number | string)[]): SQL =>
  sql.join(
    values.map((v) => sql`${v}`),
    sql`, `,
  );
/** Those named; 0 stands for those that have none. */
const among = (column: SQL, only: readonly number[] | null): SQL =>
  only === null
    ? sql``
    : sql`and (${column} in (${listed(only)}) ${only.includes(0) ? sql`or ${column} is null` : sql``})`;
const isIn = (column: SQL, { from, to }: Days): SQL => sql`${column} between ${from} and ${to}`;

/** Promises that count: those that are decided, and those that run and are past due. */
export const countedClocks = (days: Days, { now }: CountedAt, states = sql`'met', 'missed', 'running'`): SQL =>
  sql`c.state in (${states}) and ${isIn(sql`c.due_on`, days)} and (c.state <> 'running' or c.due_at < ${instantText(now)})`;

const IN_WINDOW = sql`(v.state = 'raised' and coalesce(v.completed_on between v.window_from and v.window_to, 0))`;

/** What a visit counts as, once its window is over. */
export const VISIT_COUNTED_AS = sql`case when v.state = 'declined' then 'declined' when ${IN_WINDOW} then 'in window' else 'out of window' end`;

/** In which third of its month a day lies: core’s thirdOf. */
const thirdIn = (day: SQL): SQL =>
  sql`case when dayofmonth(${day}) <= 10 then 1 when dayofmonth(${day}) <= 20 then 2 else 3 end`;

/** What rows are grouped by, beside their subject. */
const grouping = (day: SQL, byThird = false): { readonly column: SQL; readonly by: SQL } =>
  byThird ? { column: sql`, ${thirdIn(day)} third`, by: sql`1, third` } : { column: sql``, by: sql`1` };

/** How often something is so; faster than a sum of it, which would be of decimals. */
const times = (isSo: SQL): SQL => sql`count(${isSo} or null)`;

const atSite = (column: SQL, site: LocationId | undefined): SQL =>
  site === undefined ? sql`` : sql`and ${column} = ${site}`;

function ofOpenDays(of: CountedFor, { days, at, only, amiss, byThird, site }: Counted): SQL[] {
  const [clocks, visits] = [ofClock(of), ofVisit(of)];
  const [clocksBy, visitsBy] = [grouping(sql`c.due_on`, byThird), grouping(sql`v.window_to`, byThird)];
  const states = amiss ? sql`'missed', 'running'` : undefined;
  const late = amiss ? sql`and v.state = 'raised' and not ${IN_WINDOW}` : sql``;
  return [
    sql`select coalesce(${clocks.column}, 0) subject, ${times(sql`c.state = 'met'`)} met, ${times(sql`c.state <> 'met'`)} missed,
      0 owed, 0 in_window, 0 declined ${clocksBy.column} from clock c ${clocks.join ?? sql``}
      where ${countedClocks(days, at, states)} ${among(clocks.column, only)} ${atSite(sql`c.site_id`, site)} group by ${clocksBy.by}`,
    sql`select coalesce(${visits.column}, 0), 0, 0, ${times(sql`v.state = 'raised'`)}, ${times(IN_WINDOW)},
      ${times(sql`v.state = 'declined'`)} ${visitsBy.column} from visit v ${visits.join ?? sql``}
      where v.state in ('raised', 'declined') and ${isIn(sql`v.window_to`, days)} and v.window_to < ${at.today} ${late}
      ${among(visits.column, only)} ${atSite(sql`v.site_id`, site)} group by ${visitsBy.by}`,
  ];
}

function ofClosedDays(of: CountedFor, { days, only, amiss, byThird, site }: Counted): SQL[] {
  const { column, join } = ofClosed(of);
  const by = grouping(sql`c.on_day`, byThird);
  const as = (kinds: SQL): SQL => times(sql`c.counted_as in (${kinds})`);
  const some = amiss ? sql`and c.counted_as in ('missed', 'out of window')` : sql``;
  return [
    sql`select coalesce(${column}, 0) subject, ${as(sql`'met'`)} met, ${as(sql`'missed'`)} missed,
      ${as(sql`'in window', 'out of window'`)} owed, ${as(sql`'in window'`)} in_window, ${as(sql`'declined'`)} declined ${by.column}
      from closed_count c ${join ?? sql``} where ${isIn(sql`c.on_day`, days)} ${some} ${among(column, only)}
      ${atSite(sql`c.site_id`, site)} group by ${by.by}`,
  ];
}

const FIGURES = ['met', 'missed', 'owed', 'in_window', 'declined'] as const;
const eachFigure = (of: (figure: (typeof FIGURES)[number]) => string): SQL => sql.raw(FIGURES.map(of).join(', '));
/** Added up as doubles, in which whole numbers of this size are exact: in decimals it takes twice as long. */
export const added = (figures: string): string => `sum(cast(${figures} as double))`;
const SUMS = eachFigure((n) => `${added(n)} ${n}`);
const TAKEN_OFF = eachFigure((n) => `-${n} ${n}`);
const IS_ANY = sql`met + missed + owed + declined > 0`;

/** What is counted in stretches of days, as rows of subject and figures; one subject may have several. */
export const countedIn = (of: CountedFor, counted: Counted): SQL =>
  sql.join((counted.days.isClosed ? ofClosedDays : ofOpenDays)(of, counted), sql` union all `);

/** What is kept of a figure to the end of so many thirds. */
const TO_THIRD: Readonly<Record<Thirds, string | null>> = { 0: null, 1: '10', 2: '20', 3: '' };

/** Sums of thirds of a month that follow each other. */
function betweenThirds(after: Thirds, upTo: Thirds): SQL {
  const [less, whole] = [TO_THIRD[after], TO_THIRD[upTo] ?? ''];
  return eachFigure((n) => `${n}${whole}${less === null ? '' : ` - ${n}${less}`} ${n}`);
}

/** What sums keep of a month: each figure as a whole, to the 10th and to the 20th. */
const KEPT = ['', '10', '20'].flatMap((to) => FIGURES.map((n) => `${n}${to}`));
export const eachSummed = (of: (column: string) => string): SQL => sql.raw(KEPT.map(of).join(', '));
export const SUMMED_COLUMNS = eachSummed((n) => n);

/** What is to be kept of days of a month: rows of a subject and its figures, in the columns’ order. */
export function summedRows(of: SummedFor, days: Counting, at: CountedAt): SQL {
  const to = (third: number) => eachFigure((n) => `${added(`if(third <= ${third}, ${n}, 0)`)} ${n}${third}0`);
  return sql`select * from (select subject, ${SUMS}, ${to(1)}, ${to(2)} from (
      ${countedIn(of, { days, at, only: null, amiss: of === 'asset', byThird: true })}) x group by subject) y where ${IS_ANY}`;
}

type Narrowed = { readonly only?: readonly number[] | null; readonly amiss?: boolean };

/** Every row of a period, from sums and from days. */
function rowsOf(of: SummedFor, { sums, days }: Pieces, at: CountedAt, narrowed: Narrowed = {}): SQL | null {
  const { only = null, amiss = false } = narrowed;
  const parts = days.map((d) => {
    const counted = countedIn(of, { days: d, at, only, amiss });
    return d.isTakenOff ? sql`(select subject, ${TAKEN_OFF} from (${counted}) t)` : sql`(${counted})`;
  });
  // Sums of the same kind are taken at one go: quarters, whole months, and the same thirds of a month.
  for (const own of group(sums, (s) => `${s.months} ${s.after} ${s.upTo}`).values()) {
    const [{ months, after, upTo }] = own as [Summed];
    parts.push(
      sql`(select subject_id subject, ${betweenThirds(after, upTo)} from standing_sum where summed_for = ${of} and months = ${months}
        and month in (${listed(own.map((s) => s.month))}) ${amiss ? sql`and amiss > 0` : sql``}
        ${among(sql`subject_id`, only)})`,
    );
  }
  return parts.length === 0 ? null : sql.join(parts, sql` union all `);
}

type Row = Readonly<Record<'subject' | 'met' | 'missed' | 'owed' | 'in_window' | 'declined', string | number>>;
const figuresIn = (r: Omit<Row, 'subject'>): Counts => ({
  ...{ met: Number(r.met), missed: Number(r.missed), owed: Number(r.owed) },
  ...{ inWindow: Number(r.in_window), declined: Number(r.declined) },
});

/** Rows of subjects and figures, added up for each subject. */
async function addedUp(db: Db, rows: SQL): Promise<Map<number, Counts>> {
  const [found] = (await db.execute(
    sql`select * from (select subject, ${SUMS} from (${rows}) x group by subject) y where ${IS_ANY}`,
  )) as unknown as [Row[]];
  return new Map(found.map((r) => [Number(r.subject), figuresIn(r)]));
}

/** What counts for some subjects over a period, by their ids; those with nothing are left out. */
export async function figuresOf(
  db: Db,
  of: SummedFor,
  pieces: Pieces,
  at: CountedAt,
  only: readonly number[],
): Promise<Map<number, Counts>> {
  const rows = only.length === 0 ? null : rowsOf(of, pieces, at, { only });
  if (rows === null) return new Map();
  return addedUp(db, rows);
}

/** What counts at each place of a site over a period, by their ids: where machines stood, from days and not from sums. */
export async function figuresOfPlaces(
  db: Db,
  { days }: Pieces,
  at: CountedAt,
  site: LocationId,
): Promise<Map<number, Counts>> {
  const rows = days.map((d) => sql`(${countedIn('place', { days: d, at, only: null, amiss: false, site })})`);
  return addedUp(db, sql.join(rows, sql` union all `));
}

/** What was summed of one subject, month by month. */
export async function sumsByMonth(
  db: Db,
  of: SummedFor,
  id: number,
  months: readonly LocalDate[],
): Promise<ReadonlyMap<LocalDate, Counts>> {
  if (months.length === 0) return new Map();
  const [rows] = (await db.execute(sql`
    select month, met, missed, owed, in_window, declined from standing_sum
    where summed_for = ${of} and months = 1 and subject_id = ${id} and month in (${listed(months)})`)) as unknown as [
    (Omit<Row, 'subject'> & { month: LocalDate })[],
  ];
  return new Map(rows.map((r) => [r.month, figuresIn(r)]));
}

/** Where a list goes on. */
export type Told = { readonly amiss: number; readonly id: number };

/** Which subjects are meant, by the column of their ids. */
export type Within = (subject: SQL) => SQL;
export const EVERYBODY: Within = () => sql`true`;

type Page = { readonly after: Told | null; readonly limit: number; readonly within: Within };

/** Promises missed and visits out of window. */
const AMISS = sql`missed + owed - in_window`;

/** What stands behind the last that was told. */
const behind = (amiss: SQL, after: Told | null): SQL =>
  after ? sql`and (${amiss} < ${after.amiss} or (${amiss} = ${after.amiss} and subject > ${after.id}))` : sql``;

/** Subjects with what counts for them, those with most held against us first, then by their ids; `after` is the last that was told. */
export async function pageOf(
  db: Db,
  of: SummedFor,
  pieces: Pieces,
  at: CountedAt,
  { after, limit, within }: Page,
): Promise<{ readonly id: number; readonly figures: Counts }[]> {
  const rows = rowsOf(of, pieces, at);
  if (rows === null) return [];
  const [found] = (await db.execute(sql`
    select * from (select subject, ${SUMS} from (${rows}) x where ${within(sql`subject`)} group by subject) y
    where ${IS_ANY} ${behind(AMISS, after)} order by ${AMISS} desc, subject limit ${limit}`)) as unknown as [Row[]];
  return found.map((r) => ({ id: Number(r.subject), figures: figuresIn(r) }));
}

/** Subjects with something held against us, the most first; `after` is the last that was told. */
export async function amissFirst(
  db: Db,
  of: SummedFor,
  pieces: Pieces,
  at: CountedAt,
  { after, limit, within }: Page,
): Promise<number[]> {
  const rows = rowsOf(of, pieces, at, { amiss: true });
  if (rows === null) return [];
  // A sum holds all that was owed, also where only some of it was late.
  const [found] = (await db.execute(sql`
    select subject from (
      select subject, ${sql.raw(added('missed + owed - in_window'))} amiss from (${rows}) x where ${within(sql`subject`)} group by subject) y
    where amiss > 0 ${behind(sql`amiss`, after)} order by amiss desc, subject limit ${limit}`)) as unknown as [
    { subject: string | number }[],
  ];
  return found.map((r) => Number(r.subject));
}

/** The next machines after an id for which anything was counted, whatever it is: by their own indexes, not from sums. */
export async function nextMachines(
  db: Db,
  { days }: Pieces,
  at: CountedAt,
  { after, limit, within }: { readonly after: number; readonly limit: number; readonly within: Within },
): Promise<number[]> {
  const next = (id: SQL): SQL => sql`${id} > ${after} and ${within(id)}`;
  const parts = days.flatMap((d) =>
    d.isClosed
      ? [
          sql`(select distinct c.asset_id id from closed_count c where ${isIn(sql`c.on_day`, d)} and ${next(sql`c.asset_id`)}
            order by 1 limit ${limit})`,
        ]
      : [
          sql`(select distinct c.asset_id id from clock c where ${countedClocks(d, at)} and ${next(sql`c.asset_id`)}
            order by 1 limit ${limit})`,
          sql`(select distinct v.asset_id id from visit v where v.state in ('raised', 'declined')
            and ${isIn(sql`v.window_to`, d)} and v.window_to < ${at.today} and ${next(sql`v.asset_id`)} order by 1 limit ${limit})`,
        ],
  );
  const [found] = (await db.execute(
    sql`select distinct id from (${sql.join(parts, sql` union all `)}) y order by id limit ${limit}`,
  )) as unknown as [{ id: string | number }[]];
  return found.map((r) => Number(r.id));
}
