// The demo's repairs: past ones and those open right now, with verdicts and clocks by the core's own rules.
import { decideEntitlement, sayVerdict } from '#core/entitlement/index.ts';
import type { AssetId } from '#core/ids.ts';
import type { Effort, OrderAct, OrderEvent } from '#core/orders/index.ts';
import { strictestPromises, type Priority, type ServiceLevel } from '#core/service-levels/index.ts';
import { asZone, DAY, localDateAt, MINUTE, type Instant } from '#core/time/index.ts';
import { calendarBook, type CalendarBook } from '#server/calendars/index.ts';
import type { Tx } from '#server/platform/database.ts';
import { serviceLevel } from '#server/tables.ts';
import { raiseMany, type NewOrder } from '#server/orders/index.ts';
import { coversOf, sayPromises, type CoverSubject } from '#server/entitlement/index.ts';
import { at, HISTORY_DAYS, recorder, technicianFor, type Recorder } from './orders.ts';
import { findingsOf } from './findings.ts';
import { seeded, type Random } from './random.ts';
import type { DemoAsset } from './register.ts';
import { FAULTS, type ClassKey } from './scenario.ts';
import { COLD, STERILE } from './scenario-agreements.ts';

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
  readonly record: Recorder;
};

function eventsOf(plan: RepairPlan, now: Instant, lineId: number): OrderEvent[] {
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
  add(course.restored === null ? null : course.restored - 1, { kind: 'found', lineId, ...findingsOf(plan.title) });
  add(course.restored, { kind: 'restored' });
  add(course.done, {
    ...{ kind: 'done', text: '', effort: effortOf(plan) },
    // A few were finished by a manager with something missing.
    ...(startedAt % 17 === 0 && { anyway: 'the record of the circuit stays with the customer’s own engineer' }),
  });
  return events.sort((a, b) => a.at - b.at);
}

/** Hours, parts and other cost of a finished repair; the same for the same repair. Money in minor units. */
function effortOf(plan: RepairPlan): Effort {
  const random = seeded(plan.startedAt % 2_147_483_647);
  return {
    fault: findingsOf(plan.title).fault ?? plan.title.toLowerCase(),
    labourMinutes: random.whole(2, 16) * 15,
    partsCost: random.chance(0.6) ? random.whole(20, 900) * 100 : 0,
    otherCost: random.chance(0.3) ? random.whole(10, 120) * 100 : 0,
  };
}

function judged(plan: RepairPlan, judge: Judge): NewOrder {
  const zone = asZone(plan.asset.zone);
  const subject = judge.subjects.get(plan.asset.id) as CoverSubject;
  const verdict = decideEntitlement(
    { asset: subject.asset, on: localDateAt(zone, plan.startedAt), kind: 'repair', cause: 'wear' },
    subject.coversOn(localDateAt(zone, plan.startedAt)),
  );
  const promises = strictestPromises(
    judge.levels.filter((l) => verdict.serviceLevelIds.includes(l.id)),
    plan.priority,
    plan.startedAt,
    judge.book.timeOf,
  );
  return {
    kind: 'repair',
    title: plan.title,
    priority: plan.priority,
    customerId: subject.customerId,
    agreementId: verdict.agreementId,
    zone,
    depotId: subject.place.depot?.value ?? null,
    startedAt: plan.startedAt,
    inChargeId: judge.record(eventsOf(plan, judge.now, 0), plan.technician, plan.asset.zone)[0]?.by ?? null,
    lines: [
      {
        assetId: plan.asset.id,
        visitId: null,
        minutes: null,
        verdict: {
          verdict,
          sentence: sayVerdict(verdict),
          promise: sayPromises(promises, plan.startedAt, zone, judge.book),
        },
        promises,
        coverCause: 'wear',
        asksFindings: true,
        tasks: [],
      },
    ],
    withForms: false,
    events: (_, [lineId = 0]) => judge.record(eventsOf(plan, judge.now, lineId), plan.technician, plan.asset.zone),
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
  const took = random.between(0.2, 1.3);
  const restored = arrived + (cold ? 240 : 1500) * slow * took;
  const pause = random.chance(0.12)
    ? {
        from: told + 5,
        to: told + 5 + random.between(60, 600),
        reason: random.pick(['no access', 'customer asked for a later date'] as const),
      }
    : undefined;
  const shift = pause ? pause.to - pause.from : 0;
  const puttingAway = random.between(10, 60);
  // What took longest was begun, and finished once a part had come.
  if (!pause && took > 1.05) {
    const [from, to] = [arrived + (restored - arrived) * 0.3, arrived + (restored - arrived) * 0.8];
    return { told, arrived, restored, done: restored + puttingAway, pause: { from, to, reason: 'waiting for parts' } };
  }
  return {
    told,
    arrived: arrived + shift,
    restored: restored + shift,
    done: restored + shift + puttingAway,
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
      pledge: serviceLevel.pledge,
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
    record: await recorder(tx),
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
  await raiseMany(
    tx,
    plans.map((p) => judged(p, judge)),
    judge.book,
    judge.now,
  );
  return plans.length;
}

/** What is open right now, so that the morning list has something of everything. Minutes count back from now. */
export async function writeOpenRepairs(
  tx: Tx,
  random: Random,
  assets: readonly DemoAsset[],
  judge: Judge,
): Promise<number> {
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
  await raiseMany(
    tx,
    plans.map((p) => judged(p, judge)),
    judge.book,
    judge.now,
  );
  return plans.length;
}
