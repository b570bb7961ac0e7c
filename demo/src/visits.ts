// The demo's visits: done in time, late or not at all, with the orders they were raised as.
import { and, eq, inArray } from 'drizzle-orm';
import { asId, type DepotId, type VisitId } from '#core/ids.ts';
import type { OrderAct, OrderEvent } from '#core/orders/index.ts';
import { group } from 'd3-array';
import type { WorkingDays } from '#core/calendars/index.ts';
import {
  addInterval,
  cadenceOf,
  previewVisits,
  visitDays,
  type ServiceCadence,
  type VisitDays,
  type VisitName,
} from '#core/upkeep/index.ts';
import {
  addDays,
  asZone,
  DAY,
  HOUR,
  MINUTE,
  sayDate,
  startOfDay,
  toDayNumber,
  type Instant,
  type Zone,
  type LocalDate,
} from '#core/time/index.ts';
import { decideEntitlement, sayVerdict } from '#core/entitlement/index.ts';
import { calendarBook } from '#server/calendars/index.ts';
import { coversOf, type CoverSubject } from '#server/entitlement/index.ts';
import { raiseMany, type NewOrder } from '#server/orders/index.ts';
import { bulkInsert, insertedIds, type Tx } from '#server/platform/database.ts';
import { agreement, jobPlan, schedule, type StoredVerdict } from '#server/tables.ts';
import { at, HISTORY_DAYS, recorder, technicianFor, ticked } from './orders.ts';
import type { Random } from './random.ts';
import type { DemoReference } from './reference.ts';
import type { DemoZone } from './scenario.ts';
import { YEARLY_CARE } from './scenario-agreements.ts';
import type { DemoAsset } from './register.ts';

/** Of the past only the days of a visit are needed, and what identifies it. */
type PastVisit = VisitDays & VisitName;

type Outcome = { readonly completedOn: LocalDate | null; readonly state: 'raised' | 'declined' | 'absorbed' };

/** Mostly in time; some late, some never, a few declined by the customer. Windows still open may be done already. */
function outcomeOf(random: Random, visit: VisitDays, today: LocalDate): Outcome {
  const luck = random.next();
  const within = (from: LocalDate, to: LocalDate): LocalDate =>
    addDays(from, random.whole(0, Math.max(0, (Date.parse(to) - Date.parse(from)) / DAY)));
  if (visit.windowFrom >= today) return { completedOn: null, state: 'raised' };
  if (luck < 0.02) return { completedOn: null, state: 'declined' };
  const planned =
    luck < 0.9
      ? within(visit.windowFrom, visit.windowTo)
      : luck < 0.965
        ? addDays(visit.windowTo, random.whole(1, 9))
        : null;
  return { completedOn: planned !== null && planned < today ? planned : null, state: 'raised' };
}

/** Everything that fell due for raising up to a few days ago has been raised; the rest waits for today's run. */
const RUN_AGO_DAYS = 4;

const schedulesOf = (tx: Tx, assets: readonly DemoAsset[]) =>
  tx.db
    .select({ schedule, agreement, plan: jobPlan })
    .from(schedule)
    .innerJoin(agreement, eq(agreement.id, schedule.agreementId))
    .innerJoin(jobPlan, eq(jobPlan.id, schedule.jobPlanId))
    .where(
      and(
        inArray(agreement.stage, ['in force', 'ended', 'suspended']),
        inArray(
          schedule.assetId,
          assets.map((a) => a.id),
        ),
      ),
    )
    .orderBy(schedule.id);

type ScheduleRow = Awaited<ReturnType<typeof schedulesOf>>[number];
type Chosen = {
  readonly row: ScheduleRow;
  readonly visit: PastVisit;
  readonly outcome: Outcome;
  readonly asset: DemoAsset;
};

/** What happened on the order of a visit. */
/** Some machines take longer than planned, by the quarter of an hour; without drawing anything at random. */
function tookOf({ schedule: { id }, plan: { minutes } }: Chosen['row']): number {
  return Math.max(15, Math.round((minutes * (1.08 + 0.25 * Math.sin(id * 7))) / 15) * 15);
}

function happenedOn(
  random: Random,
  { row, visit, outcome }: Chosen,
  technician: string,
  raised: Instant,
  zone: Zone,
  now: Instant,
  today: LocalDate,
): OrderEvent[] {
  const event = (when: number, act: OrderAct): OrderEvent => ({
    at: at(Math.max(when, raised)),
    recordedAt: at(Math.max(when, raised)),
    act,
  });
  const events: OrderEvent[] = [event(raised, { kind: 'raised', text: `upkeep due ${sayDate(visit.due)}` })];
  if (outcome.completedOn !== null) {
    const day = startOfDay(zone, outcome.completedOn) + random.between(9, 14) * HOUR;
    events.push(
      event(day - 5 * DAY, { kind: 'planned', technician, date: outcome.completedOn }),
      event(day - 2 * DAY, { kind: 'sent' }),
      event(day, { kind: 'arrived' }),
      event(Math.min(day + row.plan.minutes * MINUTE, now - MINUTE), {
        kind: 'done',
        text: '',
        effort: { fault: null, labourMinutes: tookOf(row), partsCost: null, otherCost: null },
      }),
    );
  } else if (visit.windowFrom <= addDays(today, 10) && random.chance(0.6)) {
    events.push(
      event(now - 2 * DAY, {
        kind: 'planned',
        technician,
        date: visit.due < today ? addDays(today, random.whole(1, 4)) : visit.due,
      }),
    );
  }
  return events;
}

/** About how often a machine reaches its units, for those whose history is only counted. */
const UNITS_PER_DAY: Readonly<Record<string, number>> = { 'Rotor runs': 11, 'Sterilising cycles': 6 };

/** Visits of a schedule that counts from its last service: each from the day the one before was done, until one is open. */
function chooseServices(
  random: Random,
  { schedule: s, agreement: { termFrom } }: ScheduleRow,
  { since, time, meter }: ServiceCadence,
  workingDays: WorkingDays,
  today: LocalDate,
  raisedUpTo: LocalDate,
): { visit: PastVisit; outcome: Outcome }[] {
  const terms = { ...s, lead: s.leadDays };
  const byMeter = meter && Math.round((meter.every / (UNITS_PER_DAY[meter.meter] ?? 10)) * random.between(0.9, 1.3));
  const chosen: { visit: PastVisit; outcome: Outcome }[] = [];
  let served = since;
  for (let part = 1; part < 30; part += 1) {
    const timed = time && addInterval(served, time);
    const counted = byMeter === null ? null : addDays(served, byMeter);
    const first = [timed, counted].filter((d) => d !== null).sort()[0] as LocalDate;
    const date = first < termFrom ? termFrom : first;
    const days = visitDays(terms, workingDays, toDayNumber(date), null);
    if (!days || days.raise > raisedUpTo) break;
    const visit = { nominal: since, part, ...days };
    const outcome = outcomeOf(random, visit, today);
    chosen.push({ visit, outcome });
    if (outcome.state === 'raised' && outcome.completedOn === null) break;
    served = outcome.completedOn ?? days.due;
  }
  return chosen;
}

const apart = (a: PastVisit, b: PastVisit): number => Math.abs(toDayNumber(a.planned) - toDayNumber(b.planned));

/** Smaller visits that fall close to a larger one of the same machine were done with it. */
function absorbed(chosen: readonly Chosen[]): Map<Chosen, Chosen> {
  const found = new Map<Chosen, Chosen>();
  const larger = chosen.filter((c) => c.row.plan.name === YEARLY_CARE.plan && c.outcome.state === 'raised');
  const byAsset = group(larger, (c) => c.asset.id);
  for (const small of chosen) {
    const span = small.row.schedule.absorbDays;
    if (span === null) continue;
    const by = byAsset
      .get(small.asset.id)
      ?.find((l) => l.row.agreement.id === small.row.agreement.id && apart(l.visit, small.visit) <= span);
    if (by) found.set(small, by);
  }
  return found;
}

/** The visits of the past as the run would have raised them, each with how it ended. */
async function chooseVisits(tx: Tx, random: Random, assets: readonly DemoAsset[], today: LocalDate): Promise<Chosen[]> {
  const book = await calendarBook(tx.db);
  const byId = new Map(assets.map((a) => [a.id, a]));
  const from = addDays(today, -HISTORY_DAYS);
  const chosen: Chosen[] = [];
  for (const row of await schedulesOf(tx, assets)) {
    const cadence = cadenceOf(row.schedule, () => row.plan.minutes);
    const asset = byId.get(row.schedule.assetId);
    if (!asset || row.plan.minutes === 0) continue;
    const stopped = row.agreement.stage === 'suspended' ? addDays(today, -25) : addDays(today, -RUN_AGO_DAYS);
    const days = book.workingDays(row.schedule.calendarId);
    if (cadence.kind === 'since service') {
      const services = chooseServices(random, row, cadence, days, today, stopped);
      for (const one of services) chosen.push({ row, asset, ...one });
      continue;
    }
    const start = [from, row.agreement.termFrom, row.schedule.anchor].reduce((a, b) => (a > b ? a : b));
    const visits = previewVisits(cadence, { ...row.schedule, lead: row.schedule.leadDays }, days, start, 80).filter(
      (v) => v.raise <= stopped && (row.agreement.termTo === null || v.nominal <= row.agreement.termTo),
    );
    for (const visit of visits)
      chosen.push({ row, visit: { ...visit, part: 1 }, outcome: outcomeOf(random, visit, today), asset });
  }
  return chosen;
}

async function insertVisits(
  tx: Tx,
  chosen: readonly Chosen[],
  absorbedBy: (i: number) => number | null = () => null,
): Promise<number[]> {
  return insertedIds(
    tx.connection,
    await bulkInsert(
      tx.connection,
      'visit',
      [
        'schedule_id',
        'nominal',
        'part',
        'asset_id',
        'agreement_id',
        'job_plan_id',
        'due',
        'planned',
        'window_from',
        'window_to',
        'state',
        'completed_on',
        'absorbed_by',
      ],
      chosen.map(({ row, visit: v, outcome }, i) => [
        row.schedule.id,
        v.nominal,
        v.part,
        row.schedule.assetId,
        row.agreement.id,
        row.plan.id,
        v.due,
        v.due,
        v.windowFrom,
        v.windowTo,
        outcome.state,
        outcome.completedOn,
        absorbedBy(i),
      ]),
    ),
    chosen.length,
  );
}

/** Who bears it, as it would have been decided when it was raised. */
function coverOfVisit(subject: CoverSubject | undefined, on: LocalDate): StoredVerdict | null {
  if (!subject) return null;
  const verdict = decideEntitlement(
    { asset: subject.asset, on, kind: 'preventive', cause: 'wear' },
    subject.coversOn(on),
  );
  return { verdict, sentence: sayVerdict(verdict), promise: '' };
}

export async function writeVisits(
  tx: Tx,
  random: Random,
  assets: readonly DemoAsset[],
  depots: DemoReference['depots'],
  now: Instant,
  today: LocalDate,
): Promise<number> {
  const all = await chooseVisits(tx, random, assets, today);
  const withLarger = absorbed(all);
  const chosen = all.filter((c) => !withLarger.has(c));
  const ids = await insertVisits(tx, chosen);
  const idOf = new Map(chosen.map((c, i) => [c, ids[i] as number]));
  const larger = [...withLarger.values()];
  // They name the larger one, and were done when it was.
  const small = [...withLarger].map(([one, by]): Chosen => ({ ...one, outcome: { ...by.outcome, state: 'absorbed' } }));
  await insertVisits(tx, small, (i) => idOf.get(larger[i] as Chosen) ?? null);
  const record = await recorder(tx);
  const subjects = await coversOf(
    tx.db,
    assets.map((a) => a.id),
  );
  const orders = chosen.flatMap((one, i): NewOrder[] => {
    const { row, visit, outcome, asset } = one;
    if (outcome.state !== 'raised') return [];
    const zone = asZone(asset.zone);
    const raised = at(Math.min(now - HOUR, startOfDay(zone, visit.raise) + 9 * HOUR));
    const technician = technicianFor(random, asset.zone);
    const events = happenedOn(random, one, technician, raised, zone, now, today);
    return [
      {
        kind: 'preventive',
        title: row.plan.name,
        priority: 4,
        customerId: asset.customerId,
        agreementId: row.agreement.id,
        zone,
        depotId: asId<DepotId>(depots[asset.zone as DemoZone]),
        startedAt: raised,
        lines: [
          {
            assetId: asset.id,
            visitId: ids[i] as VisitId,
            dueOn: visit.due,
            minutes: row.plan.minutes,
            verdict: coverOfVisit(subjects.get(asset.id), visit.due),
            promises: {},
            tasks: row.plan.tasks,
          },
        ],
        withForms: false,
        events: (tasks) => record(ticked(events, tasks), technician, asset.zone),
      },
    ];
  });
  await raiseMany(tx, orders, null, now);
  return orders.length;
}
