// The demo's history: visits done in time, late or not at all; repairs with their events and clocks, all by the core's own rules.
import { eq, inArray } from 'drizzle-orm';
import { decideEntitlement, sayVerdict } from '#core/entitlement/index.ts';
import type { AssetId } from '#core/ids.ts';
import { clockEventsOf, type OrderAct, type OrderEvent } from '#core/orders/index.ts';
import { parseRule } from '#core/recurrence/index.ts';
import { deriveClocks, strictestPromises, type Priority, type ServiceLevel } from '#core/service-levels/index.ts';
import { previewVisits, type Visit } from '#core/upkeep/index.ts';
import {
  addDays,
  asZone,
  DAY,
  HOUR,
  instant,
  localDateAt,
  MINUTE,
  sayDate,
  startOfDay,
  type Instant,
  type LocalDate,
  type Zone,
} from '#core/time/index.ts';
import { calendarBook, type CalendarBook } from '#server/platform/calendar-book.ts';
import { bulkInsert, insertedIds, type Tx } from '#server/platform/database.ts';
import { agreement, instantText, jobPlan, person, schedule, serviceLevel } from '#server/platform/tables/index.ts';
import { coversOf, sayPromises, type CoverSubject } from '#server/entitlement/index.ts';
import type { Random } from './random.ts';
import type { DemoAsset } from './register.ts';
import { COLD, FAULTS, PEOPLE, STERILE, type ClassKey } from './scenario.ts';

const at = (ms: number): Instant => instant(Math.round(ms / 1000) * 1000);

function technicianFor(random: Random, zone: string): string {
  return random.pick(PEOPLE.filter((p) => p.role === 'technician' && p.zone === zone)).name;
}

type WrittenOrder = {
  readonly kind: 'preventive' | 'repair';
  readonly title: string;
  readonly priority: Priority;
  readonly customerId: number;
  readonly agreementId: number | null;
  readonly visitId: number | null;
  readonly zone: Zone;
  readonly assetId: AssetId;
  readonly startedAt: Instant;
  readonly minutes: number | null;
  readonly stored: unknown;
  readonly promises: unknown;
  readonly events: readonly OrderEvent[];
  readonly tasks: readonly { text: string; mandatory: boolean }[];
  readonly clocks: (ids: { order: number; line: number }) => unknown[][];
};

function stateOf(events: readonly OrderEvent[]): {
  stage: string;
  plannedFor: LocalDate | null;
  technician: string | null;
  pausedSince: Instant | null;
  restoredAt: Instant | null;
  doneAt: Instant | null;
} {
  const state = {
    stage: 'raised',
    plannedFor: null as LocalDate | null,
    technician: null as string | null,
    pausedSince: null as Instant | null,
    restoredAt: null as Instant | null,
    doneAt: null as Instant | null,
  };
  for (const { act, at: when } of events) {
    if (act.kind === 'planned')
      Object.assign(state, { stage: 'planned', plannedFor: act.date, technician: act.technician });
    else if (act.kind === 'sent') state.stage = 'sent';
    else if (act.kind === 'told') state.technician = act.technician;
    else if (act.kind === 'arrived') state.stage = 'on site';
    else if (act.kind === 'paused') state.pausedSince = when;
    else if (act.kind === 'resumed') state.pausedSince = null;
    else if (act.kind === 'restored') Object.assign(state, { restoredAt: when, pausedSince: null });
    else if (act.kind === 'done') Object.assign(state, { stage: 'done', doneAt: when });
  }
  return state;
}

/** Who records what: dispatchers plan and tell, technicians do the rest, coordinators raise. */
function recorderOf(act: OrderAct, technician: string | null, zone: string): string | null {
  const desk = (role: 'coordinator' | 'dispatcher'): string =>
    (PEOPLE.find((p) => p.role === role && p.zone === zone) ?? PEOPLE[0])?.name ?? '';
  if (act.kind === 'raised') return desk('coordinator');
  return act.kind === 'planned' || act.kind === 'sent' || act.kind === 'told' ? desk('dispatcher') : technician;
}

async function writeOrders(tx: Tx, orders: readonly WrittenOrder[]): Promise<void> {
  const { connection } = tx;
  const people = new Map(
    (await tx.db.select({ id: person.id, name: person.name }).from(person)).map((p) => [p.name, p.id]),
  );
  const stamp = (t: Instant | null): string | null => (t === null ? null : instantText(t));
  const ids = await insertedIds(
    connection,
    await bulkInsert(
      connection,
      'work_order',
      [
        'kind',
        'stage',
        'priority',
        'title',
        'customer_id',
        'agreement_id',
        'visit_id',
        'zone',
        'started_at',
        'planned_for',
        'technician',
        'paused_since',
        'restored_at',
        'done_at',
        'minutes',
      ],
      orders.map((o) => {
        const s = stateOf(o.events);
        return [
          o.kind,
          s.stage,
          o.priority,
          o.title,
          o.customerId,
          o.agreementId,
          o.visitId,
          o.zone,
          instantText(o.startedAt),
          s.plannedFor,
          s.technician,
          stamp(s.pausedSince),
          stamp(s.restoredAt),
          stamp(s.doneAt),
          o.minutes,
        ];
      }),
    ),
    orders.length,
  );
  const lines = await insertedIds(
    connection,
    await bulkInsert(
      connection,
      'order_line',
      ['order_id', 'asset_id', 'verdict', 'promises'],
      orders.map((o, i) => [
        ids[i],
        o.assetId,
        o.stored === null ? null : JSON.stringify(o.stored),
        JSON.stringify(o.promises),
      ]),
    ),
    orders.length,
  );
  const taskRows = orders.flatMap((o, i) =>
    o.tasks.map((t, position) => [ids[i], position, t.text, t.mandatory ? 1 : 0]),
  );
  const taskIds = await insertedIds(
    connection,
    await bulkInsert(connection, 'order_task', ['order_id', 'position', 'text', 'mandatory'], taskRows),
    taskRows.length,
  );
  let task = 0;
  const eventRows = orders.flatMap((o, i) => {
    const own = o.tasks.map(() => taskIds[task++] as number);
    const done = o.events.find((e) => e.act.kind === 'done');
    const ticked: OrderEvent[] = done
      ? own.map((taskId) => ({
          at: done.at,
          recordedAt: done.recordedAt,
          act: { kind: 'task', taskId, outcome: 'done', text: '' },
        }))
      : [];
    const { technician } = stateOf(o.events);
    return [...o.events.filter((e) => e !== done), ...ticked, ...(done ? [done] : [])].map((e) => [
      ids[i],
      instantText(e.at),
      instantText(e.recordedAt),
      people.get(recorderOf(e.act, technician, o.zone) ?? '') ?? null,
      JSON.stringify(e.act),
    ]);
  });
  await bulkInsert(connection, 'order_event', ['order_id', 'at', 'recorded_at', 'person_id', 'act'], eventRows);
  const clocks = orders.flatMap((o, i) => o.clocks({ order: ids[i] as number, line: lines[i] as number }));
  await bulkInsert(
    connection,
    'clock',
    [
      'order_line_id',
      'order_id',
      'asset_id',
      'customer_id',
      'agreement_id',
      'zone',
      'target',
      'state',
      'promised_minutes',
      'calendar_id',
      'started_at',
      'due_at',
      'stopped_at',
      'left_ms',
      'note',
    ],
    clocks,
  );
  await connection.query(
    'UPDATE visit v JOIN work_order o ON o.visit_id = v.id SET v.order_id = o.id WHERE v.order_id IS NULL',
  );
}

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
const HISTORY_DAYS = 550;

export async function writeVisits(
  tx: Tx,
  random: Random,
  assets: readonly DemoAsset[],
  now: Instant,
  today: LocalDate,
): Promise<number> {
  const book = await calendarBook(tx.db);
  const byId = new Map(assets.map((a) => [a.id, a]));
  const rows = await tx.db
    .select({ schedule, agreement, plan: jobPlan })
    .from(schedule)
    .innerJoin(agreement, eq(agreement.id, schedule.agreementId))
    .innerJoin(jobPlan, eq(jobPlan.id, schedule.jobPlanId))
    .where(inArray(agreement.stage, ['in force', 'ended', 'suspended']));
  const from = addDays(today, -HISTORY_DAYS);
  const chosen: { row: (typeof rows)[number]; visit: Visit; outcome: Outcome; asset: DemoAsset }[] = [];
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
  const ids = await insertedIds(
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
  const orders = chosen.flatMap(({ row, visit, outcome, asset }, i): WrittenOrder[] => {
    if (outcome.state === 'declined') return [];
    const zone = asZone(asset.zone);
    const raised = at(Math.min(now - HOUR, startOfDay(zone, visit.raise) + 9 * HOUR));
    const event = (when: number, act: OrderAct): OrderEvent => ({
      at: at(Math.max(when, raised)),
      recordedAt: at(Math.max(when, raised)),
      act,
    });
    const technician = technicianFor(random, asset.zone);
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
    return [
      {
        kind: 'preventive',
        title: row.plan.name,
        priority: 4,
        customerId: asset.customerId,
        agreementId: row.agreement.id,
        visitId: ids[i] as number,
        zone,
        assetId: asset.id,
        startedAt: raised,
        minutes: row.plan.minutes,
        stored: null,
        promises: {},
        events,
        tasks: row.plan.tasks,
        clocks: () => [],
      },
    ];
  });
  await writeOrders(tx, orders);
  return orders.length;
}

/** An order's course in minutes from its start; null has not happened yet. */
export type Course = {
  readonly told: number | null;
  readonly arrived: number | null;
  readonly restored: number | null;
  readonly done: number | null;
  readonly pause?: {
    readonly from: number;
    readonly to: number | null;
    readonly reason: 'no access' | 'customer asked for a later date' | 'waiting for parts';
  };
};
export type RepairPlan = {
  readonly asset: DemoAsset;
  readonly title: string;
  readonly priority: Priority;
  readonly startedAt: Instant;
  readonly course: Course;
  readonly technician: string;
  readonly raisedText: string;
};

type Judge = {
  readonly book: CalendarBook;
  readonly levels: readonly ServiceLevel[];
  readonly subjects: ReadonlyMap<AssetId, CoverSubject>;
  readonly now: Instant;
};

function eventsOf(plan: RepairPlan, now: Instant): OrderEvent[] {
  const { course, startedAt, technician } = plan;
  const events: OrderEvent[] = [
    { at: startedAt, recordedAt: startedAt, act: { kind: 'raised', text: plan.raisedText } },
  ];
  const add = (minutes: number | null, act: OrderAct): void => {
    const when = minutes === null ? null : at(startedAt + minutes * MINUTE);
    if (when !== null && when <= now) events.push({ at: when, recordedAt: when, act });
  };
  add(course.told, { kind: 'told', technician });
  if (course.told !== null) {
    const zone = asZone(plan.asset.zone);
    add(course.told + 1, {
      kind: 'planned',
      technician,
      date: localDateAt(zone, at(startedAt + (course.arrived ?? course.told + 300) * MINUTE)),
    });
    add(course.told + 4, { kind: 'sent' });
  }
  if (course.pause) {
    add(course.pause.from, { kind: 'paused', reason: course.pause.reason, text: '' });
    add(course.pause.to, { kind: 'resumed' });
  }
  add(course.arrived, { kind: 'arrived' });
  add(course.restored, { kind: 'restored' });
  add(course.done, { kind: 'done', text: '' });
  return events.sort((a, b) => a.at - b.at);
}

function judged(plan: RepairPlan, judge: Judge): WrittenOrder {
  const zone = asZone(plan.asset.zone);
  const subject = judge.subjects.get(plan.asset.id) as CoverSubject;
  const verdict = decideEntitlement(
    { asset: subject.asset, on: localDateAt(zone, plan.startedAt), kind: 'repair', cause: 'wear' },
    subject.covers,
  );
  const promises = strictestPromises(
    judge.levels.filter((l) => verdict.serviceLevelIds.includes(l.id)),
    plan.priority,
    plan.startedAt,
    judge.book.timeOf,
  );
  const events = eventsOf(plan, judge.now);
  const clocks = deriveClocks(plan.startedAt, clockEventsOf(events), promises, judge.book.timeOf, judge.now);
  const stamp = (t: Instant | null): string | null => (t === null ? null : instantText(t));
  return {
    kind: 'repair',
    title: plan.title,
    priority: plan.priority,
    customerId: subject.customerId,
    agreementId: verdict.agreementId,
    visitId: null,
    zone,
    assetId: plan.asset.id,
    startedAt: plan.startedAt,
    minutes: null,
    tasks: [],
    events,
    promises,
    stored: {
      verdict,
      sentence: sayVerdict(verdict),
      promise: sayPromises(promises, plan.startedAt, zone, judge.book),
    },
    clocks: ({ order, line }) =>
      clocks.map((c) => {
        const { promise } = c.given;
        const open = c.state === 'missed' && c.stoppedAt === null;
        return [
          line,
          order,
          plan.asset.id,
          subject.customerId,
          verdict.agreementId,
          zone,
          c.target,
          open ? 'running' : c.state,
          promise.minutes,
          promise.measure === 'working' ? promise.calendarId : null,
          instantText(c.startedAt),
          'dueAt' in c ? stamp(c.dueAt) : null,
          'stoppedAt' in c ? stamp(c.stoppedAt) : null,
          'left' in c ? c.left : null,
          c.state === 'paused' ? `paused: ${c.reason}` : c.state === 'void' ? c.why : null,
        ];
      }),
  };
}

const priorityOf = (random: Random, key: ClassKey): Priority =>
  COLD.includes(key)
    ? random.chance(0.7)
      ? 1
      : 2
    : STERILE.includes(key)
      ? random.chance(0.4)
        ? 1
        : 2
      : random.chance(0.15)
        ? 1
        : random.chance(0.7)
          ? 2
          : 3;

/** How long things took: usually well inside what such machines are promised, sometimes not. */
function courseOf(random: Random, key: ClassKey): Course {
  const cold = COLD.includes(key);
  const slow = random.chance(0.09) ? random.between(3, 7) : random.between(0.2, 0.95);
  const told = (cold ? 22 : 95) * slow * random.between(0.5, 1.1);
  const arrived = told + (cold ? 150 : 1300) * slow * random.between(0.4, 1.1);
  const restored = arrived + (cold ? 240 : 1500) * slow * random.between(0.2, 1.3);
  const pause = random.chance(0.12)
    ? {
        from: told + 5,
        to: told + 5 + random.between(60, 600),
        reason: random.pick(['no access', 'customer asked for a later date'] as const),
      }
    : undefined;
  const shift = pause ? pause.to - pause.from : 0;
  return {
    told,
    arrived: arrived + shift,
    restored: restored + shift,
    done: restored + shift + random.between(10, 60),
    ...(pause && { pause }),
  };
}

/** Loads what repairs are judged by: covers of every asset as they stand, service levels, calendars. */
export async function judgeOf(tx: Tx, assets: readonly DemoAsset[], now: Instant): Promise<Judge> {
  const levels = await tx.db
    .select({
      id: serviceLevel.id,
      name: serviceLevel.name,
      targets: serviceLevel.targets,
      pauses: serviceLevel.pauses,
    })
    .from(serviceLevel)
    .orderBy(serviceLevel.id);
  return {
    book: await calendarBook(tx.db),
    levels,
    subjects: await coversOf(
      tx.db,
      assets.map((a) => a.id),
    ),
    now,
  };
}

export async function writeRepairs(
  tx: Tx,
  random: Random,
  assets: readonly DemoAsset[],
  judge: Judge,
): Promise<number> {
  const { now } = judge;
  const plans: RepairPlan[] = [];
  for (const asset of assets) {
    const faults = FAULTS[asset.classKey];
    if (!faults) continue;
    for (let n = 0; n < 3; n += 1) {
      if (!random.chance(0.32)) continue;
      const earliest = Math.max(now - HISTORY_DAYS * DAY, Date.parse(asset.commissioned) + 10 * DAY);
      const startedAt = at(random.between(earliest, now - 6 * DAY));
      if (startedAt < earliest) continue;
      plans.push({
        asset,
        title: random.pick(faults),
        priority: priorityOf(random, asset.classKey),
        startedAt,
        course: courseOf(random, asset.classKey),
        technician: technicianFor(random, asset.zone),
        raisedText: 'call',
      });
    }
  }
  plans.sort((a, b) => a.startedAt - b.startedAt);
  await writeOrders(
    tx,
    plans.map((p) => judged(p, judge)),
  );
  return plans.length;
}

/** What is open right now, so that the morning list has something of everything. Minutes count back from now. */
export async function writeOpenRepairs(
  tx: Tx,
  random: Random,
  assets: readonly DemoAsset[],
  judge: Judge,
): Promise<void> {
  const usable = assets.filter(
    (a) => !['Pontal Marine Station', 'Damiro Food Testing', 'Serra Veterinary Institute'].includes(a.customer),
  );
  const taken = new Set<number>();
  const one = (key: ClassKey, customer?: string): DemoAsset => {
    const found = usable.filter(
      (a) => a.classKey === key && !taken.has(a.id) && (!customer || a.customer === customer),
    );
    const asset = random.pick(found);
    taken.add(asset.id);
    return asset;
  };
  const none: Course = { told: null, arrived: null, restored: null, done: null };
  const open: [DemoAsset, string, Priority, number, Course][] = [
    [
      usable.filter((a) => a.classKey === 'ulf' && a.customer === 'Horta Nova Biobank').at(-2) as DemoAsset,
      'Chamber warming up',
      1,
      745,
      { ...none, told: 20, arrived: 190 },
    ],
    [one('plf', 'Costabela Blood Centre'), 'Fan noisy', 1, 610, { ...none, told: 18, arrived: 200 }],
    [one('stc', 'Alvorim Hospitals'), 'Vacuum not reached', 1, 500, { ...none, told: 60, arrived: 300 }],
    [one('vr', 'Encosta Vaccine Depot'), 'Door does not close', 1, 22, none],
    [
      one('stc', 'Alvorim Hospitals'),
      'Door does not lock',
      2,
      1500,
      { ...none, told: 70, pause: { from: 900, to: null, reason: 'no access' } },
    ],
    [one('ulf', 'Costabela Blood Centre'), 'Compressor relay clicks', 1, 95, { ...none, told: 12 }],
    [one('wd', 'Alvorim Hospitals'), 'Dosing alarm', 2, 2900, { ...none, told: 100, arrived: 1700 }],
    [one('inc', 'Fontelo Fertility Clinic'), 'Gas alarm', 1, 130, { ...none, told: 25 }],
    [one('cf', 'Costabela Blood Centre'), 'Imbalance error', 2, 1450, { ...none, told: 200 }],
    [one('wpu', 'Lameira Dialysis'), 'Conductivity too high', 2, 260, none],
    [
      assets.find((a) => a.customer === 'Pontal Marine Station' && a.classKey === 'ulf') as DemoAsset,
      'Controller shows a probe fault',
      1,
      180,
      { ...none, told: 30 },
    ],
    [
      assets.find((a) => a.customer === 'Damiro Food Testing' && a.classKey === 'stc') as DemoAsset,
      'Stops in the drying phase',
      1,
      320,
      { ...none, told: 90 },
    ],
  ];
  const plans = open.map(([asset, title, priority, minutesAgo, course]): RepairPlan => ({
    asset,
    title,
    priority,
    startedAt: at(judge.now - minutesAgo * MINUTE),
    course,
    technician: technicianFor(random, asset.zone),
    raisedText: `call: ${title.toLowerCase()}`,
  }));
  await writeOrders(
    tx,
    plans.map((p) => judged(p, judge)),
  );
}
