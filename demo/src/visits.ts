// The demo's visits: done in time, late or not at all, with the orders they were raised as.
import { and, eq, inArray } from 'drizzle-orm';
import type { VisitId } from '#core/ids.ts';
import type { OrderAct, OrderEvent } from '#core/orders/index.ts';
import { parseRule } from '#core/recurrence/index.ts';
import { previewVisits, type Visit } from '#core/upkeep/index.ts';
import {
  addDays,
  asZone,
  DAY,
  HOUR,
  MINUTE,
  sayDate,
  startOfDay,
  type Instant,
  type Zone,
  type LocalDate,
} from '#core/time/index.ts';
import { calendarBook } from '#server/calendars/index.ts';
import { raiseMany, type NewOrder } from '#server/orders/index.ts';
import { bulkInsert, insertedIds, type Tx } from '#server/platform/database.ts';
import { agreement, jobPlan, schedule } from '#server/tables.ts';
import { at, HISTORY_DAYS, recorder, technicianFor, ticked } from './orders.ts';
import type { Random } from './random.ts';
import type { DemoAsset } from './register.ts';

type Outcome = { readonly completedOn: LocalDate | null; readonly state: 'raised' | 'declined' };

/** Mostly in time; some late, some never, a few declined by the customer. Windows still open may be done already. */
function outcomeOf(random: Random, visit: Visit, today: LocalDate): Outcome {
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
  readonly visit: Visit;
  readonly outcome: Outcome;
  readonly asset: DemoAsset;
};

/** What happened on the order of a visit. */
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
      event(Math.min(day + row.plan.minutes * MINUTE, now - MINUTE), { kind: 'done', text: '' }),
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

/** The visits of the past as the run would have raised them, each with how it ended. */
async function chooseVisits(tx: Tx, random: Random, assets: readonly DemoAsset[], today: LocalDate): Promise<Chosen[]> {
  const book = await calendarBook(tx.db);
  const byId = new Map(assets.map((a) => [a.id, a]));
  const rows = await schedulesOf(tx, assets);
  const from = addDays(today, -HISTORY_DAYS);
  const chosen: Chosen[] = [];
  for (const row of rows) {
    const rule = parseRule(row.schedule.rule);
    const asset = byId.get(row.schedule.assetId);
    if (!rule.ok || !asset || row.plan.minutes === 0) continue;
    const { anchor, convention, earlyDays, lateDays, leadDays, leadUnit, calendarId } = row.schedule;
    const start = [from, row.agreement.termFrom, anchor].reduce((a, b) => (a > b ? a : b));
    const stopped = row.agreement.stage === 'suspended' ? addDays(today, -25) : addDays(today, -RUN_AGO_DAYS);
    const visits = previewVisits(
      { rule: rule.value, anchor, convention, earlyDays, lateDays, lead: leadDays, leadUnit },
      book.workingDays(calendarId),
      start,
      80,
    ).filter((v) => v.raise <= stopped && (row.agreement.termTo === null || v.nominal <= row.agreement.termTo));
    for (const visit of visits) chosen.push({ row, visit, outcome: outcomeOf(random, visit, today), asset });
  }
  return chosen;
}

async function insertVisits(tx: Tx, chosen: readonly Chosen[]): Promise<number[]> {
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
        'due',
        'window_from',
        'window_to',
        'state',
        'completed_on',
      ],
      chosen.map(({ row, visit: v, outcome }) => [
        row.schedule.id,
        v.nominal,
        1,
        row.schedule.assetId,
        row.agreement.id,
        v.due,
        v.windowFrom,
        v.windowTo,
        outcome.state,
        outcome.completedOn,
      ]),
    ),
    chosen.length,
  );
}

export async function writeVisits(
  tx: Tx,
  random: Random,
  assets: readonly DemoAsset[],
  now: Instant,
  today: LocalDate,
): Promise<number> {
  const chosen = await chooseVisits(tx, random, assets, today);
  const ids = await insertVisits(tx, chosen);
  const record = await recorder(tx);
  const orders = chosen.flatMap((one, i): NewOrder[] => {
    const { row, visit, outcome, asset } = one;
    if (outcome.state === 'declined') return [];
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
        visitId: ids[i] as VisitId,
        zone,
        assetId: asset.id,
        startedAt: raised,
        minutes: row.plan.minutes,
        verdict: null,
        promises: {},
        tasks: row.plan.tasks,
        withForms: false,
        events: (tasks) => record(ticked(events, tasks), technician, asset.zone),
      },
    ];
  });
  await raiseMany(tx, orders, null, now);
  return orders.length;
}
