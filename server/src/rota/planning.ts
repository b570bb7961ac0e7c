// A rota worked out by the house: what is asked is loaded, planned in steps on a thread, and kept until somebody accepts parts of it.
import { and, asc, eq, inArray, isNull } from 'drizzle-orm';
import { proposePlan } from '#api/rota-plans.ts';
import type { AppointmentId, OrderId, PersonId, RotaPlanId } from '#core/ids.ts';
import {
  costAsItStands,
  daysOfPlanned,
  planInSteps,
  weightOf,
  whyLeft,
  type Cost,
  type Job,
  type PersonDay,
  type Planned,
  type PlanRules,
  type Roads,
  type StandingCrew,
} from '#core/rota/index.ts';
import { addDays, asZone, instant, localDateAt, MINUTE, type Instant, type LocalDate } from '#core/time/index.ts';
import { workOrder } from '../orders/tables.ts';
import type { Database, Db } from '../platform/database.ts';
import { announce } from '../platform/live.ts';
import { daysOf, ordersOfAppointments, spanOfAll, whoGoes, type Goes, type Kept } from './days.ts';
import { isLoose, isReady } from './loose.ts';
import { crewsBetween } from './crews.ts';
import { roadsOf } from './roads.ts';
import { rotaPlan, type PlanAsk, type PlanItem, type PlanResult } from './tables.ts';
import { around, promisesOf, together, workOf, type OrderWork } from './work.ts';

/** Nothing is planned to begin sooner: somebody has to hear of it first. */
const NOTICE_MINUTES = 10;
/** More in a plan takes too long. */
const MOST_LOOSE = 700;
const SEED = 1;
const UTC = asZone('UTC');

/** What is put in or moved: some orders, and the appointment they have now. */
type Task = { readonly job: Job; readonly orders: readonly OrderWork[]; readonly kept: Kept | null };

type Problem = {
  readonly people: readonly Goes[];
  readonly days: readonly PersonDay[];
  readonly tasks: readonly Task[];
  readonly crews: readonly StandingCrew[];
};

function jobOf(orders: readonly OrderWork[], kept: Kept | null, stands: Job['stands'] = null): Job {
  const [first] = orders as [OrderWork];
  const people = kept ? 1 : first.crew;
  const work = together(orders, people);
  return {
    ...work,
    ...(kept && { minutes: (kept.toAt - kept.fromAt) / MINUTE }),
    orderId: first.orderId,
    people,
    weight: orders.reduce((sum, o) => sum + weightOf(o.priority), 0),
    promises: orders.flatMap(promisesOf),
    told: kept?.toldFrom && kept.toldTo ? { from: kept.toldFrom, to: kept.toldTo } : null,
    wanted: new Set(orders.flatMap((o) => [...o.preferred])),
    stands,
  };
}

/** What customers were told of stays unless asked; what is fixed, under way, or done by several always does. */
function mayMove(a: Kept, orders: readonly OrderWork[], { moves, movesTold }: PlanAsk, now: Instant): boolean {
  return (
    moves &&
    !a.fixed &&
    (movesTold || a.toldFrom === null) &&
    a.personIds.length === 1 &&
    a.fromAt > now + NOTICE_MINUTES * MINUTE &&
    orders.length > 0 &&
    orders.every((o) => o.stage === 'planned' || o.stage === 'sent')
  );
}

async function looseIds(
  db: Db,
  { depotId, orders, from, days }: PlanAsk,
  today: LocalDate,
  now: Instant,
): Promise<OrderId[]> {
  const rows = await db
    .select({ id: workOrder.id })
    .from(workOrder)
    .where(
      and(
        isLoose(db, now),
        ...(orders
          ? [inArray(workOrder.id, [...orders])]
          : [isReady(today, addDays(from, days)), depotId === null ? undefined : eq(workOrder.depotId, depotId)]),
      ),
    )
    .orderBy(isNull(workOrder.nextDue), asc(workOrder.nextDue), asc(workOrder.id))
    .limit(MOST_LOOSE);
  return rows.map((r) => r.id);
}

async function problemOf(db: Db, ask: PlanAsk, now: Instant): Promise<Problem> {
  const people = await whoGoes(db, { depot: ask.depotId ?? undefined });
  const to = addDays(ask.from, ask.days - 1);
  const { days, appointments } = await daysOf(db, people, ask.from, to, now);
  const served = await ordersOfAppointments(
    db,
    appointments.map((a) => a.id),
  );
  const loose = await looseIds(db, ask, localDateAt(people[0]?.zone ?? UTC, now), now);
  const all = [...new Set([...loose, ...[...served.values()].flat()])];
  const work = await workOf(db, all, people.length === 0 ? around(now, ask.days) : spanOfAll(people, ask.from, to));
  const ordersOf = (id: AppointmentId): OrderWork[] =>
    (served.get(id) ?? []).flatMap((orderId) => work.get(orderId) ?? []);
  const placeOf = new Map(days.map((d, at) => [`${d.personId} ${d.date}`, at]));
  const zoneOf = new Map(people.map((p) => [p.id, p.zone]));
  const moving = appointments.flatMap((kept): { kept: Kept; day: number }[] => {
    const [leads] = kept.personIds;
    const zone = leads && zoneOf.get(leads);
    const day = zone && placeOf.get(`${leads} ${localDateAt(zone, kept.fromAt)}`);
    return day !== undefined && mayMove(kept, ordersOf(kept.id), ask, now) ? [{ kept, day }] : [];
  });
  const isMoving = new Set(moving.map(({ kept }) => kept.id as number));
  const put = loose.flatMap((id) => work.get(id) ?? []);
  return {
    people,
    days: days.map((d) => ({ ...d, taken: d.taken.filter((t) => !isMoving.has(t.id)) })),
    tasks: [
      ...moving.map(({ kept, day }): Task => {
        const orders = ordersOf(kept.id);
        return { kept, orders, job: jobOf(orders, kept, { day, from: kept.fromAt }) };
      }),
      ...put.map((o): Task => ({ kept: null, orders: [o], job: jobOf([o], null) })),
    ],
    crews: await crewsBetween(db, ask.from, to),
  };
}

/** Where what may move lies now, as the counts ask for it. */
const standing = ({ tasks }: Problem): Planned[] =>
  tasks.flatMap(({ kept, job: { stands } }, job): Planned[] =>
    kept && stands ? [{ job, day: stands.day, span: { from: kept.fromAt, to: kept.toAt } }] : [],
  );

const isMissed = (job: Job, { span }: Planned): boolean =>
  job.promises.some((p) => (p.stopsAt === 'arrival' ? span.from : span.to) > p.dueAt);

function itemsOf({ tasks, days }: Problem, planned: readonly Planned[]): PlanItem[] {
  return planned.flatMap((p): PlanItem[] => {
    const { job, kept, orders } = tasks[p.job] as Task;
    const [personId, ...others] = daysOfPlanned(p).map((d) => (days[d] as PersonDay).personId) as [
      PersonId,
      ...PersonId[],
    ];
    const was = kept && { personId: kept.personIds[0] as PersonId, from: kept.fromAt, to: kept.toAt };
    if (was && was.personId === personId && was.from === p.span.from) return [];
    return [
      {
        ...{ key: p.job, personId, others, from: p.span.from, to: p.span.to, missed: isMissed(job, p) },
        ...{ orders: orders.map((o) => o.orderId), titles: orders.map((o) => o.title) },
        moves: kept && was ? { id: kept.id, version: kept.version, was } : null,
      },
    ];
  });
}

function loadOf({ people, days, tasks }: Problem, before: readonly Planned[], after: readonly Planned[]) {
  const minutes = (of: PersonId, planned: readonly Planned[]): number => {
    const stays = days.filter((d) => d.personId === of).flatMap((d) => d.taken);
    const own = planned.filter((p) => daysOfPlanned(p).some((d) => days[d]?.personId === of));
    return (
      stays.reduce((sum, t) => sum + (t.span.to - t.span.from) / MINUTE, 0) +
      own.reduce((sum, p) => sum + ((tasks[p.job] as Task).job.minutes ?? 0), 0)
    );
  };
  return people.map((p) => ({ personId: p.id, before: minutes(p.id, before), after: minutes(p.id, after) }));
}

type Solved = { readonly planned: readonly Planned[]; readonly left: readonly number[]; readonly cost: Cost };

async function solve(
  { days, tasks, crews }: Problem,
  given: { readonly roads: Roads; readonly now: Instant; readonly rules: PlanRules },
  say: (share: number) => Promise<void>,
): Promise<Solved> {
  const steps = planInSteps({ days, crews, jobs: tasks.map((t) => t.job), seed: SEED, ...given });
  let step = steps.next();
  while (!step.done) {
    await say(step.value);
    step = steps.next();
  }
  return step.value;
}

/** Plans what was asked, and says how far it is as it goes. What stands moves only where that makes the whole better. */
export async function workOut(
  db: Db,
  ask: PlanAsk,
  now: Instant,
  say: (share: number) => Promise<void>,
): Promise<PlanResult> {
  const problem = await problemOf(db, ask, now);
  const { days, tasks } = problem;
  const jobs = tasks.map((t) => t.job);
  const roads = await roadsOf(db);
  const stands = standing(problem);
  const given = { roads, rules: ask.rules, now: instant(now + NOTICE_MINUTES * MINUTE) };
  const best = await solve(problem, given, say);
  return {
    items: itemsOf(problem, best.planned),
    left: best.left.flatMap((j) => {
      const { orders, job } = tasks[j] as Task;
      return orders.map((o) => ({ orderId: o.orderId, title: o.title, why: whyLeft(job, days, roads) }));
    }),
    planned: { before: stands.length, after: best.planned.length },
    before: costAsItStands({ days, jobs, roads }, stands),
    after: best.cost,
    load: loadOf(problem, stands, best.planned),
  };
}

const SAID_STEP = 5;

/** Works out a plan that was asked for and keeps it. One that is gone or ready already is left alone. */
export async function keepWorkedOut(database: Database, id: RotaPlanId, now: Instant): Promise<string> {
  const { db } = database;
  const [row] = await db.select().from(rotaPlan).where(eq(rotaPlan.id, id));
  if (row?.state !== 'working') return 'nothing to do';
  let said = 0;
  const result = await workOut(db, row.ask, now, async (share) => {
    const percent = Math.floor(share * 100);
    if (percent < said + SAID_STEP) return;
    said = percent;
    await db.update(rotaPlan).set({ progress: percent }).where(eq(rotaPlan.id, id));
  });
  await database.transact(async (tx) => {
    await tx.db
      .update(rotaPlan)
      .set({ state: 'ready', progress: 100, result })
      .where(and(eq(rotaPlan.id, id), eq(rotaPlan.state, 'working')));
    await announce(tx, proposePlan, [{ subject: 'rota plan', id }]);
  });
  return `${result.items.length} proposals, ${result.left.length} left`;
}
