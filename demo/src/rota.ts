// The demo's rota: where the nine technicians start and what they may do, who is away, who goes together, and the appointments of the
// last weeks and the coming days, laid out as a busy dispatcher does by hand: each where it goes first, nobody's way looked at.
import { and, asc, eq, gte, inArray, isNotNull, isNull } from 'drizzle-orm';
import { asId, type AppointmentId, type DepotId, type OrderId, type PersonId } from '#core/ids.ts';
import { atStep, firstThatGoes, inSteps, type PersonDay, type Taken } from '#core/rota/index.ts';
import {
  addDays,
  DAY,
  instant,
  localDateAt,
  MINUTE,
  startOfDay,
  weekdayOf,
  type Instant,
  type InstantSpan,
  type LocalDate,
  type Zone,
} from '#core/time/index.ts';
import type { Database, Tx } from '#server/platform/database.ts';
import { bookIn, daysOf, takeSteps, travelChanged, whoGoes, workOf, type OrderWork } from '#server/rota/index.ts';
import {
  absence,
  appointment,
  appointmentOrder,
  appointmentPerson,
  crew,
  crewMember,
  depot,
  location,
  person,
  personSkill,
  skill,
  technician,
  travelTime,
  workOrder,
} from '#server/tables.ts';
import type { DemoReference } from './reference.ts';
import type { DemoZone } from './scenario.ts';
import type { SKILLS } from './scenario-agreements.ts';

type Skill = (typeof SKILLS)[number];
/** Days until a certificate lapses; null: never. */
type Holds = Partial<Record<Skill, number | null>>;
type Of = {
  readonly holds: Holds;
  readonly speaks: readonly string[];
  readonly home?: { readonly text: string; readonly at: readonly [number, number] };
};

/** Everybody knows electrics; some a certificate that is about to lapse. */
const TECHNICIANS: Readonly<Record<string, Of>> = {
  'Renata Valdês': {
    holds: { 'Refrigerant handling': 700, 'Pressure equipment': 400, Electrical: null },
    speaks: ['pt', 'es'],
  },
  'Mikael Okonjo': { holds: { 'Refrigerant handling': 240, Electrical: null }, speaks: ['en', 'pt'] },
  'Anouk Brandel': {
    holds: { 'Biosafety certification': 500, Electrical: null, 'Refrigerant handling': 90 },
    speaks: ['pt', 'fr'],
    home: { text: 'Travessa do Farol 3, Areal', at: [41.81, -8.86] },
  },
  'Tomás Quintela': {
    holds: { 'Refrigerant handling': 800, 'Pressure equipment': 12, Electrical: null },
    speaks: ['es'],
  },
  'Ewa Zielonka': {
    holds: { 'Biosafety certification': 330, 'Refrigerant handling': 510, Electrical: null },
    speaks: ['pl', 'pt'],
  },
  'Samir Haddou': { holds: { 'Refrigerant handling': 150, Electrical: null }, speaks: ['es', 'ar', 'fr'] },
  'Leire Goikoetxea': {
    holds: { 'Refrigerant handling': 610, 'Pressure equipment': 270, Electrical: null },
    speaks: ['es', 'eu'],
    home: { text: 'Rúa da Ponte 9, Valdoro', at: [42.05, -8.63] },
  },
  'Duarte Moura': { holds: { Electrical: null, 'Refrigerant handling': -20 }, speaks: ['pt'] },
  'Ilse Verhagen': {
    holds: { 'Pressure equipment': 460, 'Refrigerant handling': 360, Electrical: null },
    speaks: ['nl', 'pt', 'en'],
  },
};

/** Before anything happens: who they are for the rota. */
export async function writeTechnicians(tx: Tx, { depots }: DemoReference, today: LocalDate): Promise<void> {
  const { db } = tx;
  const skills = new Map((await db.select().from(skill)).map((s) => [s.name, s.id]));
  const people = await db.select().from(person).where(eq(person.role, 'technician')).orderBy(asc(person.id));
  for (const [i, { id, name, zone }] of people.entries()) {
    const of = TECHNICIANS[name];
    if (!of) continue;
    await db.insert(technician).values({
      ...{ personId: id, depotId: asId<DepotId>(depots[zone as DemoZone]), startsFrom: of.home ? 'home' : 'depot' },
      ...{ home: of.home?.text ?? '', latitude: of.home?.at[0] ?? null, longitude: of.home?.at[1] ?? null },
      ...{ van: `Van ${i + 1}`, speaks: [...of.speaks] },
    });
    await db.insert(personSkill).values(
      Object.entries(of.holds).map(([held, days]) => ({
        ...{ personId: id, skillId: skills.get(held) as never },
        until: days === null ? null : addDays(today, days),
      })),
    );
  }
  const idOf = (name: string): PersonId => people.find((p) => p.name === name)?.id as PersonId;
  const whole = (name: string, from: LocalDate, days: number) => {
    const zone = people.find((p) => p.name === name)?.zone as Zone;
    return { fromAt: startOfDay(zone, from), toAt: startOfDay(zone, addDays(from, days)) };
  };
  const [desk] = await db.select().from(person).where(eq(person.role, 'dispatcher')).orderBy(asc(person.id));
  const by = desk?.id as PersonId;
  const monday = addDays(today, 8 - weekdayOf(today));
  await db.insert(absence).values([
    {
      personId: idOf('Anouk Brandel'),
      kind: 'sick',
      state: 'agreed',
      ...whole('Anouk Brandel', today, 2),
      text: 'called in at seven',
      askedBy: by,
      decidedBy: by,
    },
    {
      personId: idOf('Samir Haddou'),
      kind: 'leave',
      state: 'agreed',
      ...whole('Samir Haddou', monday, 5),
      text: '',
      askedBy: idOf('Samir Haddou'),
      decidedBy: by,
    },
    {
      personId: idOf('Duarte Moura'),
      kind: 'training',
      state: 'agreed',
      ...whole('Duarte Moura', addDays(today, 2), 1),
      text: 'refrigerants, to renew the certificate',
      askedBy: by,
      decidedBy: by,
    },
    {
      personId: idOf('Mikael Okonjo'),
      kind: 'leave',
      state: 'asked',
      ...whole('Mikael Okonjo', addDays(monday, 3), 2),
      text: 'moving house',
      askedBy: idOf('Mikael Okonjo'),
    },
  ]);
  const [made] = await db
    .insert(crew)
    .values({ name: 'Validation', fromDay: addDays(today, -200) })
    .$returningId();
  if (made)
    await db.insert(crewMember).values([
      { crewId: made.id, personId: idOf('Ilse Verhagen'), position: 0 },
      { crewId: made.id, personId: idOf('Renata Valdês'), position: 1 },
    ]);
}

type ToWrite = {
  readonly span: InstantSpan;
  readonly people: readonly PersonId[];
  readonly of: Pick<OrderWork, 'locationId' | 'zone' | 'orderId'>;
  readonly sentAt: Instant | null;
  readonly told: InstantSpan | null;
  /** Long past ones hold nobody any more. */
  readonly takes: boolean;
};

async function write(tx: Tx, all: readonly ToWrite[]): Promise<void> {
  if (all.length === 0) return;
  const { db } = tx;
  const made = await db
    .insert(appointment)
    .values(
      all.map(({ span, of, sentAt, told }) => ({
        ...{ locationId: of.locationId, zone: of.zone, fromAt: span.from, toAt: span.to, sentAt },
        ...{ toldFrom: told?.from ?? null, toldTo: told?.to ?? null },
      })),
    )
    .$returningId();
  const idOf = (i: number): AppointmentId => made[i]?.id as AppointmentId;
  await db.insert(appointmentOrder).values(all.map(({ of }, i) => ({ appointmentId: idOf(i), orderId: of.orderId })));
  await db
    .insert(appointmentPerson)
    .values(
      all.flatMap(({ people }, i) =>
        people.map((personId, position) => ({ appointmentId: idOf(i), personId, position })),
      ),
    );
  await takeSteps(
    tx,
    all.flatMap(({ takes, people, span }, i) => (takes ? [{ id: idOf(i), people, span, overlaps: true }] : [])),
  );
}

const WEEKS = 4;

/** Where somebody was in the last weeks, as the orders tell. */
async function pastOf(tx: Tx, now: Instant): Promise<ToWrite[]> {
  const rows = await tx.db
    .select()
    .from(workOrder)
    .where(and(gte(workOrder.doneAt, instant(now - WEEKS * 7 * DAY)), isNotNull(workOrder.technicianId)))
    .orderBy(asc(workOrder.id));
  const work = await workOf(
    tx.db,
    rows.map((r) => r.id),
    { from: now, to: now },
  );
  return rows.flatMap((order): ToWrite[] => {
    const of = work.get(order.id);
    if (!of || !order.doneAt || !order.technicianId) return [];
    const to = atStep(order.doneAt);
    const from = instant(to - inSteps(Math.max(30, of.work.minutes)) * MINUTE);
    const sentAt = instant(Math.max(order.startedAt, from - 16 * 60 * MINUTE));
    return [{ of, span: { from, to }, people: [order.technicianId], sentAt, told: null, takes: false }];
  });
}

const DAYS_AHEAD = 9;

type Planned = {
  readonly id: OrderId;
  readonly technicianId: PersonId | null;
  readonly plannedFor: LocalDate | null;
  readonly stage: string;
};

/** What is open and has somebody's name, each put where it goes first in their day, or on the next on which it does. */
async function comingOf(tx: Tx, now: Instant, today: LocalDate): Promise<ToWrite[]> {
  const open: Planned[] = await tx.db
    .select({
      id: workOrder.id,
      technicianId: workOrder.technicianId,
      plannedFor: workOrder.plannedFor,
      stage: workOrder.stage,
    })
    .from(workOrder)
    .where(and(inArray(workOrder.stage, ['planned', 'sent', 'on site']), isNotNull(workOrder.technicianId)))
    .orderBy(asc(workOrder.id));
  const people = await whoGoes(tx.db);
  const { days } = await daysOf(tx.db, people, today, addDays(today, DAYS_AHEAD), now);
  const work = await workOf(
    tx.db,
    open.map((o) => o.id),
    { from: instant(now - DAY), to: instant(now + (DAYS_AHEAD + 2) * DAY) },
  );
  const held = new Map<PersonDay, PersonDay>(days.map((d) => [d, d]));
  const found: ToWrite[] = [];
  // Those who are there come first: they cannot be anywhere else.
  for (const o of [...open].sort((a, b) => (a.stage === 'on site' ? 0 : 1) - (b.stage === 'on site' ? 0 : 1))) {
    const of = work.get(o.id);
    const goes = people.find((p) => p.id === o.technicianId);
    if (!of || !goes) continue;
    const isThere = o.stage === 'on site';
    for (const day of days) {
      const wanted = isThere || o.plannedFor === null || o.plannedFor < today ? today : o.plannedFor;
      if (day.personId !== goes.id || day.date < wanted || day.date > addDays(wanted, isThere ? 0 : 3)) continue;
      const own = held.get(day) as PersonDay;
      const span = isThere
        ? thereNow(now, of.work.minutes, own.taken)
        : firstThatGoes(own, { ...of.work, window: null }, instant(Math.max(now, startOfDay(goes.zone, day.date))));
      if (!span) continue;
      const isSoon = day.date <= addDays(today, 1);
      const taken: Taken = { id: o.id, span, spot: of.work.spot };
      held.set(day, { ...own, taken: [...own.taken, taken].sort((a, b) => a.span.from - b.span.from) });
      found.push({
        ...{ of, span, people: [goes.id], takes: true },
        sentAt: isThere || o.stage === 'sent' ? instant(now - 14 * 60 * MINUTE) : null,
        told: isSoon && localDateAt(goes.zone, span.from) === day.date && o.id % 2 === 0 ? hourFrom(span.from) : null,
      });
      break;
    }
  }
  return found;
}

const hourFrom = (from: Instant): InstantSpan => ({ from, to: instant(from + 60 * MINUTE) });

/** Somebody who is there began a while ago and has some way to go; after who is there before them. */
function thereNow(now: Instant, minutes: number, taken: readonly Taken[]): InstantSpan | null {
  if (taken.length > 0) return null;
  const from = atStep(now - Math.min(75, minutes / 2) * MINUTE);
  return { from, to: instant(from + Math.max(60, inSteps(minutes)) * MINUTE) };
}

const PLANNED_BY_HAND = 44;

/** Loose upkeep that a dispatcher gave out in the order it came, to whoever was next on the list, on the first day that came to mind. */
async function giveOut(tx: Tx, now: Instant, today: LocalDate): Promise<void> {
  const open = await tx.db
    .select({ id: workOrder.id, nextDue: workOrder.nextDue })
    .from(workOrder)
    .where(
      and(
        eq(workOrder.stage, 'raised'),
        eq(workOrder.kind, 'preventive'),
        isNull(workOrder.waitingFor),
        gte(workOrder.nextDue, today),
      ),
    )
    .orderBy(asc(workOrder.id))
    .limit(PLANNED_BY_HAND);
  const [desk] = await tx.db.select().from(person).where(eq(person.role, 'dispatcher')).orderBy(asc(person.id));
  const people = await whoGoes(tx.db);
  const sick = people.find((p) => p.name === 'Anouk Brandel');
  const ids = open.map((o) => o.id);
  const work = await workOf(tx.db, ids, { from: instant(now - DAY), to: instant(now + 12 * DAY) });
  for (const [i, id] of ids.entries()) {
    const of = work.get(id);
    if (!of) continue;
    const own = people.filter((p) => p.depotId === of.depotId && p !== sick);
    // The first few were given to her who called in sick this morning.
    const goes = i < 3 && sick ? sick : own[i % Math.max(1, own.length)];
    if (!goes) continue;
    for (let ahead = i < 3 ? 0 : i % 5; ahead < 7; ahead += 1) {
      const date = addDays(today, ahead);
      const { days } = await daysOf(tx.db, [goes], date, date, now);
      const [day] = days;
      if (!day) break;
      const free = goes === sick ? { ...day, absences: [] } : day;
      const from = instant(Math.max(now + 30 * MINUTE, startOfDay(goes.zone, date)));
      const span = firstThatGoes(free, { ...of.work, window: null }, from);
      if (!span) continue;
      if (goes === sick)
        await write(tx, [
          {
            of,
            span,
            people: [goes.id],
            takes: true,
            sentAt: instant(now - 15 * 60 * MINUTE),
            told: hourFrom(span.from),
          },
        ]);
      else
        await bookIn(
          tx,
          {
            ...{ orders: [id], people: [goes.id], from: span.from, minutes: null, anyway: true, overlapReason: '' },
            ...{ told: null, fixed: false, requestKey: null, requestContent: null },
          },
          { id: desk?.id as PersonId },
          now,
        );
      break;
    }
  }
}

/** Ways that somebody measured: over the pass, and over the bridge that is always full. */
const MEASURED = [
  ['Ribeira', 'Serra Institute', 95],
  ['Pedralonga', 'Hospital do Miño', 20],
] as const;

async function writeTravelTimes(tx: Tx): Promise<void> {
  const [depots, sites] = await Promise.all([
    tx.db.select({ id: depot.id, name: depot.name }).from(depot),
    tx.db
      .select({ id: location.id, name: location.fullName })
      .from(location)
      .where(
        inArray(
          location.fullName,
          MEASURED.map(([, site]) => site),
        ),
      )
      .orderBy(asc(location.id)),
  ]);
  const rows = MEASURED.flatMap(([from, to, minutes]) => {
    const [begins, ends] = [depots.find((d) => d.name === from), sites.find((s) => s.name === to)];
    return begins && ends ? [{ fromSpot: `depot ${begins.id}`, toSpot: `place ${ends.id}`, minutes }] : [];
  });
  if (rows.length === 0) return;
  await tx.db.insert(travelTime).values(rows);
  await travelChanged(tx);
}

/** The appointments of the last weeks and of the coming days. */
export async function writeAppointments(database: Database, now: Instant, today: LocalDate): Promise<void> {
  await database.transact(async (tx) => {
    await writeTravelTimes(tx);
    await write(tx, await pastOf(tx, now));
    await write(tx, await comingOf(tx, now, today));
    await giveOut(tx, now, today);
  });
}
