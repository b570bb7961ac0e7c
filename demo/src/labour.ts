// The demo's hours: crafts and what they cost, who has which, the time of the last weeks' work, and the sheets it stands on.
import { and, asc, eq, gte, inArray, isNotNull } from 'drizzle-orm';
import { asId, type CraftId, type PersonId } from '#core/ids.ts';
import {
  divideEntry,
  placeHoursOf,
  readEntry,
  weekOf,
  type Entry,
  type EntryKind,
  type PlaceHours,
  type RateCard,
  type SheetState,
} from '#core/labour/index.ts';
import type { Currency } from '#core/money.ts';
import {
  addDays,
  DAY,
  instant,
  MINUTE,
  toWallTime,
  type Instant,
  type LocalDate,
  type Zone,
} from '#core/time/index.ts';
import { calendarOfRow } from '#server/calendars/index.ts';
import { bulkInsert, insertedIds, type Tx } from '#server/platform/database.ts';
import { instantText } from '#server/platform/columns.ts';
import { calendar, customer, orderLine, person, rateCard, workOrder } from '#server/tables.ts';
import type { DemoReference } from './reference.ts';
import type { DemoZone } from './scenario.ts';

const CRAFTS = ['Technician', 'Senior technician', 'Apprentice'] as const;
/** Cents for an hour: what it costs, and what it is sold for. */
const RATES = [
  [3400, 7500],
  [4100, 9200],
  [1900, 4400],
] as const;
const SENIORS = ['Renata Valdês', 'Tomás Quintela', 'Anouk Brandel'];
const APPRENTICES = ['Duarte Moura'];

/** Time is told of so many weeks. */
const WEEKS = 8;
const TRAVEL_MINUTES = 40;

const cardOf = (ids: readonly CraftId[], today: LocalDate): Omit<RateCard, 'name' | 'currency'> => {
  const thisYear = `${today.slice(0, 4)}-01-01` as LocalDate;
  const lastYear = `${Number(today.slice(0, 4)) - 1}-01-01` as LocalDate;
  return {
    rates: ids.flatMap((craftId, i) => {
      const [cost, sales] = RATES[i] as (typeof RATES)[number];
      return [
        { craftId, from: lastYear, cost: cost - 150, sales: sales - 300 },
        { craftId, from: thisYear, cost, sales },
      ];
    }),
    surcharges: {
      outside: { sales: 125, cost: 100 },
      night: { sales: 150, cost: 125 },
      holiday: { sales: 200, cost: 150 },
    },
    billing: {
      work: { step: 15, minimum: 60 },
      travel: { step: 15, minimum: 0 },
      waiting: { step: 15, minimum: 0 },
    },
    night: { from: 1320, to: 360 },
    callOut: 4500,
    travel: { by: 'time' },
  };
};

/** Crafts, the card that holds, and what each technician is and works by. */
export async function writeRates(tx: Tx, { calendars }: DemoReference, today: LocalDate): Promise<void> {
  const ids = (
    await insertedIds(
      tx.connection,
      await bulkInsert(
        tx.connection,
        'craft',
        ['name'],
        CRAFTS.map((name) => [name]),
      ),
      CRAFTS.length,
    )
  ).map((id) => asId<CraftId>(id));
  await tx.db
    .insert(rateCard)
    .values({ name: 'Marisma standard', currency: 'EUR' as Currency, isStandard: true, card: cardOf(ids, today) });
  await agreeOther(tx, cardOf(ids, today));
  const technicians = await tx.db.select().from(person).where(eq(person.role, 'technician'));
  for (const { id, name, zone } of technicians) {
    const which = SENIORS.includes(name) ? 1 : APPRENTICES.includes(name) ? 2 : 0;
    await tx.db
      .update(person)
      .set({ craftId: ids[which], calendarId: asId(calendars[zone as DemoZone]), showsPrice: which === 1 })
      .where(eq(person.id, id));
  }
}

/** One customer agreed on rates of their own: a tenth less, no call-out, travel by the kilometre. */
async function agreeOther(tx: Tx, standard: Omit<RateCard, 'name' | 'currency'>): Promise<void> {
  const card = {
    ...standard,
    rates: standard.rates.map((r) => ({ ...r, sales: Math.round(r.sales * 0.9) })),
    callOut: 0,
    travel: { by: 'km', price: 62 } as const,
  };
  const [made] = await tx.db
    .insert(rateCard)
    .values({ name: 'Alvorim Hospitals, framework', currency: 'EUR' as Currency, card })
    .$returningId();
  if (made) await tx.db.update(customer).set({ rateCardId: made.id }).where(eq(customer.name, 'Alvorim Hospitals'));
}

type Job = {
  readonly personId: PersonId;
  readonly craftId: CraftId | null;
  readonly zone: Zone;
  readonly orderId: number;
  readonly lineId: number;
  readonly placeZone: Zone;
  readonly title: string;
  readonly doneAt: Instant;
  readonly minutes: number;
};
type Told = { readonly job: Job; readonly entry: Entry };

/** A stretch of somebody's time as they would type it; null where nothing of it is left. */
function typed(kind: EntryKind, from: number, to: number, zone: Zone, now: Instant): Entry | null {
  if (to <= from) return null;
  const [begins, ends] = [toWallTime(zone, instant(from)), toWallTime(zone, instant(to))];
  const times = { day: begins.date, kind, from: begins.minutes, to: ends.minutes, minutes: null, hours: null };
  const entry = readEntry(times, zone, now);
  return entry.ok ? entry.value : null;
}

/** What was done in the last weeks: the work until it was done, the way there before it, as far as nothing else fills that time. */
function oneAfterTheOther(jobs: readonly Job[], now: Instant): Told[] {
  const free = new Map<PersonId, number>();
  return jobs.flatMap((job): Told[] => {
    const since = free.get(job.personId) ?? 0;
    const done = Math.floor(job.doneAt / MINUTE) * MINUTE;
    const begun = Math.max(done - job.minutes * MINUTE, since);
    const left = Math.max(begun - TRAVEL_MINUTES * MINUTE, since);
    free.set(job.personId, Math.max(done, since));
    const entries = [typed('travel', left, begun, job.zone, now), typed('work', begun, done, job.zone, now)];
    return entries.flatMap((entry) => (entry ? [{ job, entry }] : []));
  });
}

async function jobsSince(tx: Tx, from: Instant): Promise<Job[]> {
  const rows = await tx.db
    .select({ order: workOrder, line: orderLine, of: person })
    .from(orderLine)
    .innerJoin(workOrder, eq(workOrder.id, orderLine.orderId))
    .innerJoin(person, eq(person.id, workOrder.technicianId))
    .where(
      and(
        inArray(workOrder.stage, ['done', 'settled']),
        gte(workOrder.doneAt, from),
        isNotNull(orderLine.labourMinutes),
      ),
    )
    .orderBy(asc(workOrder.doneAt), asc(orderLine.id));
  return rows.map(({ order, line, of }) => ({
    ...{ personId: of.id, craftId: of.craftId, zone: of.zone, placeZone: order.zone, title: order.title },
    ...{ orderId: order.id, lineId: line.id, minutes: line.labourMinutes ?? 0 },
    doneAt: order.doneAt as Instant,
  }));
}

/** Weeks long past are approved, the last one was handed in, one of them sent back; this one is open. */
function sheetsOf(told: readonly Told[], today: LocalDate): [PersonId, LocalDate, SheetState, string | null][] {
  const weeks = new Map(
    told.map(({ job, entry }) => [`${job.personId} ${weekOf(entry.day)}`, [job.personId, weekOf(entry.day)] as const]),
  );
  const [last, thisWeek] = [addDays(weekOf(today), -7), weekOf(today)];
  let sentBack = false;
  return [...weeks.values()].flatMap(([id, week]): [PersonId, LocalDate, SheetState, string | null][] => {
    if (week >= thisWeek) return [];
    if (week < last) return [[id, week, 'approved', null]];
    if (sentBack) return [[id, week, 'handed in', null]];
    sentBack = true;
    return [[id, week, 'sent back', 'The travel home on Thursday is missing']];
  });
}

export async function writeTime(tx: Tx, now: Instant, today: LocalDate): Promise<number> {
  const calendars = await tx.db.select().from(calendar);
  const hours = new Map<string, PlaceHours>();
  for (const c of calendars) if (!hours.has(c.zone)) hours.set(c.zone, placeHoursOf(calendarOfRow(c), c.zone));
  const jobs = await jobsSince(tx, instant(now - WEEKS * 7 * DAY));
  const told = oneAfterTheOther(jobs, now);
  const [desk] = await tx.db.select({ id: person.id }).from(person).where(eq(person.role, 'dispatcher')).limit(1);
  const { connection } = tx;
  const ids = await insertedIds(
    connection,
    await bulkInsert(
      connection,
      'time_entry',
      ['person_id', 'day', 'kind', 'from_at', 'to_at', 'minutes', 'text', 'entered_by', 'entered_at'],
      told.map(({ job, entry: e }) => [
        ...[
          job.personId,
          e.day,
          e.kind,
          e.span && instantText(e.span.from),
          e.span && instantText(e.span.to),
          e.minutes,
        ],
        ...['', job.personId, instantText(now)],
      ]),
    ),
    told.length,
  );
  await bulkInsert(
    connection,
    'time_entry_line',
    ['entry_id', 'position', 'order_line_id', 'share'],
    told.map(({ job }, i) => [ids[i], 0, job.lineId, 1]),
  );
  await bulkInsert(
    connection,
    'time_piece',
    ['entry_id', 'order_id', 'order_line_id', 'person_id', 'craft_id', 'kind', 'hours', 'day', 'minutes'],
    told.flatMap(({ job, entry }, i) => {
      const place = hours.get(job.placeZone) ?? placeHoursOf(null, job.placeZone);
      const [pieces = []] = divideEntry(entry, [{ place, night: { from: 1320, to: 360 }, share: 1 }], job.zone);
      return pieces.map((p) => [
        ...[ids[i], job.orderId, job.lineId, job.personId, job.craftId],
        ...[entry.kind, p.hours, p.day, p.minutes],
      ]);
    }),
  );
  await bulkInsert(
    connection,
    'time_sheet',
    ['person_id', 'week', 'state', 'reason', 'by', 'at'],
    sheetsOf(told, today).map(([id, week, state, reason]) => [
      ...[id, week, state, reason, state === 'handed in' ? id : (desk?.id ?? id), instantText(now)],
    ]),
  );
  return told.length;
}
