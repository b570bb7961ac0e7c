// How dispatch went, month by month: what orders say of it by the order's depot and who did them, what time says by the person's.
import { group, sum } from 'd3-array';
import { and, between, eq, sql, type SQL } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type { DispatchFigures, FiguresRow, readFigureTrend } from '#api/rota-figures.ts';
import type { DepotId, PersonId } from '#core/ids.ts';
import { OFFICE } from '#core/people.ts';
import { addDays, addMonths, type LocalDate } from '#core/time/index.ts';
import { depot } from '../depots/tables.ts';
import { overtimeOf, timeSums } from '../labour/index.ts';
import { orderCourse } from '../orders/tables.ts';
import type { Db } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { refuse } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import { technician } from './tables.ts';

const firstOf = (month: string): LocalDate => `${month}-01` as LocalDate;
const lastOf = (month: string): LocalDate => addDays(addMonths(firstOf(month), 1), -1);
const monthsBefore = (month: string, n: number): string => addMonths(firstOf(month), -n).slice(0, 7);

/** Who has gone out or does: whoever is named by what was done, with the depot they are of now. */
type Goer = typeof person.$inferSelect & { readonly depotId: DepotId | null };

async function goers(db: Db, id: PersonId | undefined): Promise<Goer[]> {
  const rows = await db
    .select({ person, depotId: technician.depotId })
    .from(person)
    .leftJoin(technician, eq(technician.personId, person.id))
    .where(and(eq(person.role, 'technician'), id && eq(person.id, id)))
    .orderBy(person.name, person.id);
  return rows.map((r) => ({ ...r.person, depotId: r.depotId }));
}

const isTrue = (column: SQL): SQL<string> => sql<string>`coalesce(sum(${column}), 0)`;

type Counted = Pick<DispatchFigures, 'done' | 'repairs' | 'inTime' | 'firstGo'>;
const COUNTS = {
  done: sql<number>`count(*)`,
  repairs: isTrue(sql`${orderCourse.kind} = 'repair'`),
  due: sql<number>`count(${orderCourse.inTime})`,
  inTime: isTrue(sql`${orderCourse.inTime}`),
  atFirstGo: isTrue(sql`${orderCourse.atFirstGo}`),
};
type CountRow = { done: number; repairs: string; due: number; inTime: string; atFirstGo: string };

function counted(rows: readonly CountRow[]): Counted {
  const of = (key: keyof CountRow): number => sum(rows, (r) => Number(r[key]));
  return {
    ...{ done: of('done'), repairs: of('repairs') },
    inTime: { of: of('due'), kept: of('inTime') },
    firstGo: { of: of('done'), kept: of('atFirstGo') },
  };
}

type Medians = Pick<DispatchFigures, 'told' | 'sent'>;
const UNKNOWN: Medians = { told: null, sent: null };
const medianOf = (column: SQL, by: SQL): SQL<string | null> => sql`median(${column}) over (partition by ${by})`;

/** The medians of repairs by whatever parts them, by its values; worked out by the database, for there may be many thousands. */
async function medians(db: Db, by: SQL, where: SQL | undefined): Promise<Map<string, Medians>> {
  const rows = await db
    .selectDistinct({
      of: sql<string>`coalesce(${by}, '')`,
      told: medianOf(sql`${orderCourse.toldMinutes}`, by),
      sent: medianOf(sql`${orderCourse.sentMinutes}`, by),
    })
    .from(orderCourse)
    .where(and(where, eq(orderCourse.kind, 'repair')));
  const minutes = (text: string | null): number | null => (text === null ? null : Math.round(Number(text)));
  return new Map(rows.map((r) => [String(r.of), { told: minutes(r.told), sent: minutes(r.sent) }]));
}

type Timed = Pick<DispatchFigures, 'entered' | 'travel' | 'overtime'>;

async function timeIn(db: Db, people: readonly Goer[], month: string): Promise<ReadonlyMap<PersonId, Timed>> {
  const [from, to] = [firstOf(month), lastOf(month)];
  const ids = people.map((p) => p.id);
  const [sums, overtime] = await Promise.all([timeSums(db, ids, from, to), overtimeOf(db, people, from, to)]);
  const of = new Map(sums.map((s) => [s.personId, s]));
  return new Map(
    ids.map((id) => [
      id,
      { entered: of.get(id)?.all ?? 0, travel: of.get(id)?.travel ?? 0, overtime: overtime.get(id) ?? 0 },
    ]),
  );
}

const addedUp = (times: readonly (Timed | undefined)[]): Timed => ({
  entered: sum(times, (t) => t?.entered ?? 0),
  travel: sum(times, (t) => t?.travel ?? 0),
  overtime: sum(times, (t) => t?.overtime ?? 0),
});

type Whose = { readonly depot?: DepotId | null; readonly person?: PersonId };
type OfMonth = (of: Whose) => DispatchFigures;

/** The figures of everybody in a month, to be asked for one after the other. */
async function figuresIn(db: Db, people: readonly Goer[], month: string, only: SQL | undefined): Promise<OfMonth> {
  const where = and(between(orderCourse.doneOn, firstOf(month), lastOf(month)), only);
  const [rows, house, byDepot, byPerson, times] = await Promise.all([
    db
      .select({ depotId: orderCourse.depotId, technicianId: orderCourse.technicianId, ...COUNTS })
      .from(orderCourse)
      .where(where)
      .groupBy(orderCourse.depotId, orderCourse.technicianId),
    medians(db, sql`''`, where),
    medians(db, sql`${orderCourse.depotId}`, where),
    medians(db, sql`${orderCourse.technicianId}`, where),
    timeIn(db, people, month),
  ]);
  return ({ depot: of, person: id }) => {
    const isOf = (r: (typeof rows)[number]): boolean =>
      id !== undefined ? r.technicianId === id : of === undefined || r.depotId === of;
    const told =
      id !== undefined ? byPerson.get(`${id}`) : of === undefined ? house.get('') : byDepot.get(`${of ?? ''}`);
    const who = people.filter((p) => (id !== undefined ? p.id === id : of === undefined || p.depotId === of));
    return { ...counted(rows.filter(isOf)), ...(told ?? UNKNOWN), ...addedUp(who.map((p) => times.get(p.id))) };
  };
}

const isOffice = (who: Person): boolean => (OFFICE as readonly string[]).includes(who.role);
const isSomething = ({ done, entered }: DispatchFigures): boolean => done > 0 || entered !== 0;

/** The house, each depot with its people; to whoever goes out only their own row. */
export async function readFiguresOf(
  db: Db,
  who: Person,
  month: string,
): Promise<{ month: string; rows: FiguresRow[] }> {
  const own = isOffice(who) ? undefined : who.id;
  const only = own && eq(orderCourse.technicianId, own);
  const [people, depots] = await Promise.all([goers(db, own), db.select().from(depot).orderBy(depot.name)]);
  const [now, before] = await Promise.all([
    figuresIn(db, people, month, only),
    figuresIn(db, people, monthsBefore(month, 1), only),
  ]);
  const row = (kind: FiguresRow['of']['kind'], id: number | null, name: string, of: Whose): FiguresRow => ({
    ...{ of: { kind, id, name }, now: now(of), before: before(of) },
  });
  const persons = (of: DepotId | null): FiguresRow[] =>
    people
      .filter((p) => p.depotId === of)
      .map((p) => row('person', p.id, p.name, { person: p.id }))
      .filter((r) => isSomething(r.now) || isSomething(r.before) || people.some((p) => p.id === r.of.id && p.active));
  if (own) return { month, rows: people.map((p) => row('person', p.id, p.name, { person: p.id })) };
  return {
    month,
    rows: [
      row('house', null, 'Everybody', {}),
      ...depots.flatMap((d) => [row('depot', d.id, d.name, { depot: d.id }), ...persons(d.id)]),
      ...persons(null),
    ],
  };
}

const MONTHS = 12;

/** One of them over the twelve months that end with one. Refused: others' figures, but to the office. */
export async function readTrendOf(
  db: Db,
  who: Person,
  { month, depot: of, person: id }: Asked<typeof readFigureTrend>['query'],
): Promise<{ months: { month: string; figures: DispatchFigures }[] }> {
  if (!isOffice(who) && id !== who.id) refuse('not-allowed', 'Figures are read by whose they are, and by the office.');
  const people = await goers(db, id);
  const own = people.filter((p) => of === undefined || p.depotId === of);
  const first = firstOf(monthsBefore(month, MONTHS - 1));
  const where = and(
    between(orderCourse.doneOn, first, lastOf(month)),
    id && eq(orderCourse.technicianId, id),
    of && eq(orderCourse.depotId, of),
  );
  const monthOf = sql<string>`date_format(${orderCourse.doneOn}, '%Y-%m')`;
  const [rows, told] = await Promise.all([
    db
      .select({ month: monthOf, ...COUNTS })
      .from(orderCourse)
      .where(where)
      .groupBy(monthOf),
    medians(db, monthOf, where),
  ]);
  const counts = group(rows, (r) => r.month);
  const months: { month: string; figures: DispatchFigures }[] = [];
  for (let n = MONTHS - 1; n >= 0; n -= 1) {
    const then = monthsBefore(month, n);
    // Month by month: working out what lies outside open time keeps nobody else waiting.
    const times = addedUp([...(await timeIn(db, own, then)).values()]);
    months.push({
      month: then,
      figures: { ...counted(counts.get(then) ?? []), ...(told.get(then) ?? UNKNOWN), ...times },
    });
  }
  return { months };
}
