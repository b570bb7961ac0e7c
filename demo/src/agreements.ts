// Agreements of the demo: their headers, coverage, schedules, rights and how they came about.
import { eq } from 'drizzle-orm';
import { asId } from '#core/ids.ts';
import { noticeDate, type Indexation } from '#core/agreements/index.ts';
import { addDays, addMonths, type Instant, type LocalDate } from '#core/time/index.ts';
import { bulkInsert, insertedIds, type Tx } from '#server/platform/database.ts';
import { agreementNumbering, instantText, type TermColumns } from '#server/tables.ts';
import type { DemoAsset, DemoRegister } from './register.ts';
import { type ClassKey, type DemoZone } from './scenario.ts';
import {
  AGREEMENTS,
  CARE,
  COLD,
  DEPOTS,
  REPAIR_DISCOUNT,
  SHARES,
  STERILE,
  YEARLY_CARE,
  type AgreementPlan,
  type Care,
} from './scenario-agreements.ts';

import type { DemoReference } from './reference.ts';

export type DemoAgreement = {
  readonly id: number;
  readonly plan: AgreementPlan;
  readonly from: LocalDate;
  readonly to: LocalDate | null;
  readonly assets: readonly DemoAsset[];
};

/** Terms start on the first of a month; a few end soon, so that notice dates fall into the next weeks. */
export function termOf(plan: AgreementPlan, today: LocalDate): { from: LocalDate; to: LocalDate | null } {
  const from = `${addMonths(today, -plan.startedMonthsAgo).slice(0, 7)}-01` as LocalDate;
  return { from, to: plan.months === null ? null : addDays(addMonths(from, plan.months), -1) };
}

/** What a machine costs for a billing period, in cents, by kind of agreement. */
const BILLED: Record<AgreementPlan['type'], { each: number; per: string; timing: string }> = {
  full: { each: 187_50, per: 'quarter', timing: 'in advance' },
  shared: { each: 118_00, per: 'quarter', timing: 'in advance' },
  checks: { each: 31_20, per: 'month', timing: 'in arrears' },
  uptime: { each: 296_00, per: 'quarter', timing: 'in advance' },
};

/** A fifth of the price is fixed; the rest follows an index that rose a little each year. */
const indexSince = (from: LocalDate): Indexation => ({
  fixedPercent: 20,
  base: 100_00,
  values: [
    { from: addMonths(from, 12), hundredths: 103_40 },
    { from: addMonths(from, 24), hundredths: 105_90 },
  ],
});

const levelKind = (key: ClassKey): 'cold' | 'sterile' | 'standard' =>
  COLD.includes(key) ? 'cold' : STERILE.includes(key) ? 'sterile' : 'standard';

/** A fifth of a machine's agreements names classes; where one service level does not fit all of a class, each machine has its line. */
function linesOf(
  id: number,
  { plan, from, assets }: Omit<DemoAgreement, 'id'>,
  register: DemoRegister,
  levels: DemoReference['levels'],
): unknown[][] {
  const { labour, parts, travel, kinds } = SHARES[plan.type];
  const groups = new Set(assets.map((a) => `${a.zone}|${a.classKey}|${plan.site ? a.siteId : ''}`));
  return [...groups].flatMap((group) => {
    const [zone, key] = group.split('|') as [DemoZone, ClassKey];
    const level = plan.type === 'checks' ? null : levels[zone][levelKind(key)];
    const line = (assetId: number | null, classId: number | null): unknown[][] => {
      const given = (shares: readonly number[], of: readonly string[], discounts: readonly object[] | null) => [
        ...[id, assetId, null, classId, from, null, ...shares, level],
        JSON.stringify(of),
        JSON.stringify(['misuse', 'consumable']),
        discounts && JSON.stringify(discounts),
      ];
      const cheaper = { element: 'labour', percent: REPAIR_DISCOUNT, kinds: ['repair'] };
      return [
        given([labour, parts, travel], kinds, null),
        ...(plan.type === 'checks' ? [given([0, 0, 0], ['repair'], [cheaper])] : []),
      ];
    };
    const same = assets.filter((a) => a.classKey === key);
    const isMixed = new Set(same.map((a) => a.zone)).size > 1;
    return plan.site || isMixed
      ? same.filter((a) => a.zone === zone).flatMap((a) => line(a.id, null))
      : line(null, register.classIds[key]);
  });
}

/** By zone and class: what their schedules are made from. */
type Patterns = ReadonlyMap<string, number>;

/** The water units of a depot go by the same phases of the year, under every agreement. */
async function writePatterns({ connection }: Tx, reference: DemoReference, classId: number): Promise<Patterns> {
  const { cadence, early, late, lead } = CARE.wpu as Care;
  const termsIn = (zone: DemoZone): Omit<TermColumns, 'anchor'> => ({
    ...{ jobPlanId: asId(reference.jobPlans.wpu as number), cadence, crew: 1, technicianId: null, hours: null },
    ...{ convention: 'following', calendarId: asId(reference.calendars[zone]), earlyDays: early, lateDays: late },
    ...{ leadDays: lead, leadUnit: 'calendar days', weekday: null, timeOfDay: null, absorbDays: null },
    ...{ needsYes: false, visitPrice: null, reminder: '' },
  });
  const rows = DEPOTS.map(({ name, zone }) => [`Water units, ${name}`, classId, JSON.stringify(termsIn(zone))]);
  const ids = await insertedIds(
    connection,
    await bulkInsert(connection, 'visit_pattern', ['name', 'class_id', 'terms'], rows),
    rows.length,
  );
  return new Map(DEPOTS.map(({ zone }, i) => [`${zone}/wpu`, ids[i] as number]));
}

function schedulesOf(
  id: number,
  { plan, from, assets }: Omit<DemoAgreement, 'id'>,
  reference: DemoReference,
  patterns: Patterns,
  today: LocalDate,
): unknown[][] {
  // The provider's own records go back a year and a half; older agreements count from there.
  const oldest = `${addMonths(today, -17).slice(0, 7)}-01` as LocalDate;
  const begun = from > oldest ? from : oldest;
  return assets.flatMap((asset) => {
    const care = CARE[asset.classKey];
    const jobPlanId = reference.jobPlans[asset.classKey];
    if (!care || !jobPlanId) return [];
    const anchor =
      asset.classKey === 'bsc' ? (`${begun.slice(0, 4)}${asset.commissioned.slice(4)}` as LocalDate) : begun;
    // What counts from the last service was served before the agreement began, each machine at a time of its own.
    const counted = addMonths(anchor, -(1 + (asset.id % 9)));
    const patternOf = (planId: number): number | null =>
      planId === jobPlanId ? (patterns.get(`${asset.zone}/${asset.classKey}`) ?? null) : null;
    const scheduled = (planId: number, { cadence, early, late, lead, absorbDays }: Care): unknown[] => [
      id,
      asset.id,
      planId,
      JSON.stringify(cadence),
      '[]',
      cadence.kind === 'since service' ? counted : anchor.endsWith('-02-29') ? `${begun.slice(0, 4)}-02-28` : anchor,
      asset.classKey === 'bsc' ? 'preceding' : 'following',
      reference.calendars[asset.zone as DemoZone],
      early,
      late,
      lead,
      'calendar days',
      absorbDays ?? null,
      patternOf(planId),
      plan.type === 'checks' && patternOf(planId) === null ? CHECK_PRICE : null,
    ];
    return [
      scheduled(jobPlanId, care),
      ...(asset.classKey === 'ulf' ? [scheduled(reference.yearlyPlan, YEARLY_CARE)] : []),
    ];
  });
}

function eventsOf(id: number, { plan, from, to }: Omit<DemoAgreement, 'id'>, now: Instant): unknown[][] {
  const events: unknown[][] = [[id, `${addDays(from, -20)} 10:00:00.000`, 'draft written']];
  if (plan.stage !== 'draft') events.push([id, `${addDays(from, -3)} 15:00:00.000`, 'put in force']);
  if (plan.stage === 'suspended')
    events.push([
      id,
      instantText((now - 25 * 86_400_000) as Instant),
      'in force → suspended: invoices of the spring are unpaid',
    ]);
  if (plan.stage === 'ended' && to)
    events.push([id, `${to} 18:00:00.000`, 'in force → ended: replaced by a new agreement']);
  return events;
}

/** The plans of the scenario, once for each copy of its customers. */
const plansOf = (scale: number): AgreementPlan[] =>
  Array.from({ length: scale }, (_, copy) =>
    AGREEMENTS.map((plan) => ({
      ...plan,
      ...(copy > 0 && {
        customer: `${plan.customer} ${copy + 1}`,
        ...(plan.site && { site: `${plan.site} ${copy + 1}` }),
      }),
    })),
  ).flat();

const SCHEDULE_COLUMNS = [
  'agreement_id',
  'asset_id',
  'job_plan_id',
  'cadence',
  'turns',
  'anchor',
  'convention',
  'calendar_id',
  'early_days',
  'late_days',
  'lead_days',
  'lead_unit',
  'absorb_days',
  'pattern_id',
  'visit_price',
];
/** What a visit is billed where an agreement has checks only, in cents. */
const CHECK_PRICE = 14_500;

/** Numbers, terms, prices and managers. Ids in the order of the plans. */
async function writeHeaders(
  tx: Tx,
  plans: readonly Omit<DemoAgreement, 'id'>[],
  customers: DemoRegister['customers'],
): Promise<number[]> {
  const { connection } = tx;
  await tx.db
    .update(agreementNumbering)
    .set({ next: 2001 + plans.length })
    .where(eq(agreementNumbering.id, 1));
  const [people] = await connection.query("SELECT id FROM person WHERE role = 'coordinator' ORDER BY id");
  const managers = (people as { id: number }[]).map((p) => p.id);
  return insertedIds(
    connection,
    await bulkInsert(
      connection,
      'agreement',
      [
        'number',
        'customer_id',
        'name',
        'stage',
        'term_from',
        'term_to',
        'notice_days',
        'notice_by',
        'reminder',
        'renewal_mode',
        'manager_id',
        'cost_centre',
        'price_minor',
        'billing_per',
        'billing_timing',
        'indexation',
        'sign_off',
      ],
      plans.map(({ plan, from, to, assets }, i) => {
        const billed = BILLED[plan.type];
        return [
          `AG-${2001 + i}`,
          customers.get(plan.customer),
          plan.name,
          plan.stage,
          from,
          to,
          plan.noticeDays,
          noticeDate(to, plan.noticeDays),
          plan.reminder ?? '',
          plan.renews ? 'renews by itself' : to === null ? 'ends' : 'to be renegotiated',
          managers[i % managers.length] ?? null,
          `${plan.type.slice(0, 2).toUpperCase()}-${100 + (i % 24)}`,
          billed.each * assets.length,
          billed.per,
          billed.timing,
          plan.indexed ? JSON.stringify(indexSince(from)) : null,
          // Who is promised uptime also confirms the work.
          plan.type === 'uptime' ? 1 : 0,
        ];
      }),
    ),
    plans.length,
  );
}

export async function writeAgreements(
  tx: Tx,
  register: DemoRegister,
  reference: DemoReference,
  now: Instant,
  today: LocalDate,
  scale: number,
): Promise<DemoAgreement[]> {
  const { connection } = tx;
  const byCustomer = new Map<string, DemoAsset[]>();
  for (const asset of register.assets)
    byCustomer.set(asset.customer, [...(byCustomer.get(asset.customer) ?? []), asset]);
  const plans = plansOf(scale).map((plan) => ({
    plan,
    ...termOf(plan, today),
    assets: (byCustomer.get(plan.customer) ?? []).filter(
      (a) => (!plan.site || a.site === plan.site) && (!plan.classes || plan.classes.includes(a.classKey)),
    ),
  }));
  const ids = await writeHeaders(tx, plans, register.customers);
  const made = plans.map((plan, i): DemoAgreement => ({ id: ids[i] as number, ...plan }));
  await bulkInsert(
    connection,
    'coverage_line',
    [
      'agreement_id',
      'asset_id',
      'location_id',
      'asset_class_id',
      'term_from',
      'term_to',
      'labour',
      'parts',
      'travel',
      'service_level_id',
      'kinds',
      'excluded_causes',
      'discounts',
    ],
    made.flatMap((a) => linesOf(a.id, a, register, reference.levels)),
  );
  const patterns = await writePatterns(tx, reference, register.classIds.wpu);
  await bulkInsert(
    connection,
    'schedule',
    SCHEDULE_COLUMNS,
    made.flatMap((a) => schedulesOf(a.id, a, reference, patterns, today)),
  );
  await bulkInsert(
    connection,
    'agreement_event',
    ['agreement_id', 'at', 'text'],
    made.flatMap((a) => eventsOf(a.id, a, now)),
  );
  const rights = made.flatMap(({ id, plan: { right } }) =>
    right ? [[id, right.unit, right.amount, 'agreement year', right.carriesOver]] : [],
  );
  await bulkInsert(connection, 'allowance', ['agreement_id', 'unit', 'amount', 'period', 'carries_over'], rights);
  await writeZeroDuration(tx, register, reference, made, today);
  return made;
}

/** The trap of every planning run: a schedule whose job plan takes no time. The run names it. */
async function writeZeroDuration(
  tx: Tx,
  register: DemoRegister,
  reference: DemoReference,
  agreements: readonly DemoAgreement[],
  today: LocalDate,
): Promise<void> {
  const room = register.assets.find((a) => a.classKey === 'cold');
  const held = agreements.find((a) => a.assets.some((x) => x.id === room?.id) && a.plan.stage === 'in force');
  const [rows] = await tx.connection.query('SELECT id FROM job_plan WHERE minutes = 0');
  const planId = (rows as { id: number }[])[0]?.id;
  if (!room || !held || !planId) return;
  await bulkInsert(tx.connection, 'schedule', SCHEDULE_COLUMNS, [
    [
      held.id,
      room.id,
      planId,
      JSON.stringify({ kind: 'rule', rule: 'FREQ=MONTHLY;BYMONTHDAY=28' }),
      '[]',
      addMonths(today, -3),
      'following',
      reference.calendars[room.zone as DemoZone],
      3,
      5,
      14,
      'calendar days',
      null,
      null,
      null,
    ],
  ]);
}
