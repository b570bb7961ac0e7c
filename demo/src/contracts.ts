// The demo's reference data and agreements: calendars with public holidays, service levels, job plans, coverage, schedules.
import Holidays from 'date-holidays';
import { eq } from 'drizzle-orm';
import { noticeDate, type Indexation } from '#core/agreements/index.ts';
import { weekdaysOpen } from '#core/calendars/index.ts';
import type { TargetPromise } from '#core/service-levels/index.ts';
import { addDays, addMonths, type Instant, type LocalDate } from '#core/time/index.ts';
import { asId, type CalendarId } from '#core/ids.ts';
import { bulkInsert, insertedIds, type Tx } from '#server/platform/database.ts';
import { agreementNumbering, instantText } from '#server/tables.ts';
import type { DemoAsset, DemoRegister } from './register.ts';
import {
  AGREEMENTS,
  CARE,
  COLD,
  LISBON,
  MADRID,
  REPAIR_DISCOUNT,
  SHARES,
  STERILE,
  type AgreementPlan,
  type ClassKey,
  type DemoZone,
} from './scenario.ts';

type Levels = Readonly<Record<'cold' | 'sterile' | 'standard', number>>;
export type DemoReference = {
  readonly calendars: Readonly<Record<DemoZone, number>>;
  readonly levels: Readonly<Record<DemoZone, Levels>>;
  readonly jobPlans: Readonly<Partial<Record<ClassKey, number>>>;
};

function publicHolidays(country: string, region: string | null, year: number): { date: string; name: string }[] {
  const source = region ? new Holidays(country, region) : new Holidays(country);
  const days = new Map<string, string>();
  for (let y = year - 2; y <= year + 2; y += 1)
    for (const day of source.getHolidays(y, 'en')) if (day.type === 'public') days.set(day.date.slice(0, 10), day.name);
  return [...days].sort().map(([date, name]) => ({ date, name }));
}

export async function writeReference(tx: Tx, today: LocalDate): Promise<DemoReference> {
  const { connection } = tx;
  const year = Number(today.slice(0, 4));
  const calendars = {} as Record<DemoZone, number>;
  const levels = {} as Record<DemoZone, Levels>;
  const offices = [
    [LISBON, 'Ribeira service hours', 'PT', null, 540, 1080],
    [MADRID, 'Pedralonga service hours', 'ES', 'GA', 510, 1050],
  ] as const;
  for (const [zone, name, country, region, from, to] of offices) {
    const closed = publicHolidays(country, region, year);
    const [id] = await insertedIds(
      connection,
      await bulkInsert(
        connection,
        'calendar',
        ['name', 'zone', 'weekly', 'closed', 'extra_open'],
        [[name, zone, JSON.stringify(weekdaysOpen(from, to)), JSON.stringify(closed), '[]']],
      ),
      1,
    );
    calendars[zone] = id as number;
    const hours = (n: number): TargetPromise => ({
      measure: 'working',
      minutes: n * 60,
      calendarId: asId<CalendarId>(id as number),
    });
    const elapsed = (minutes: number): TargetPromise => ({ measure: 'elapsed', minutes });
    const town = name.split(' ')[0];
    const rows = [
      [
        `Cold storage, ${town}`,
        {
          1: { response: elapsed(30), arrival: elapsed(240), restoration: elapsed(720) },
          2: { response: elapsed(120), arrival: hours(9), restoration: hours(18) },
          3: { response: hours(8), restoration: hours(45) },
        },
        ['no access', 'customer asked for a later date'],
        {
          warnPercent: 30,
          availability: { target: 9980, calendarId: null },
          tiers: [
            { below: 9500, credit: 500 },
            { below: 9000, credit: 1000 },
            { below: 8000, credit: 2000 },
          ],
          cap: 1500,
        },
      ],
      [
        `Sterilisers, ${town}`,
        {
          1: { response: hours(2), arrival: hours(9), restoration: hours(27) },
          2: { response: hours(4), arrival: hours(18), restoration: hours(45) },
        },
        ['no access', 'customer asked for a later date', 'waiting for parts'],
      ],
      [
        `Standard, ${town}`,
        {
          1: { response: hours(4), restoration: hours(27) },
          2: { response: hours(8), restoration: hours(45) },
          3: { response: hours(16) },
        },
        ['no access', 'customer asked for a later date', 'waiting for parts'],
      ],
    ] as const;
    const made = await insertedIds(
      connection,
      await bulkInsert(
        connection,
        'service_level',
        ['name', 'targets', 'pauses', 'pledge'],
        rows.map(([n, t, p, pledge]) => [
          n,
          JSON.stringify(t),
          JSON.stringify(p),
          pledge === undefined ? null : JSON.stringify(pledge),
        ]),
      ),
      rows.length,
    );
    levels[zone] = { cold: made[0] as number, sterile: made[1] as number, standard: made[2] as number };
  }
  const keys = Object.keys(CARE) as ClassKey[];
  const plans = await insertedIds(
    connection,
    await bulkInsert(
      connection,
      'job_plan',
      ['name', 'minutes', 'tasks'],
      keys.map((k) => {
        const care = CARE[k] as NonNullable<(typeof CARE)[ClassKey]>;
        return [
          care.plan,
          care.minutes,
          JSON.stringify(care.tasks.map((t) => ({ text: t.replace(/^\?\s*/, ''), mandatory: !t.startsWith('?') }))),
        ];
      }),
    ),
    keys.length,
  );
  await bulkInsert(
    connection,
    'job_plan',
    ['name', 'minutes', 'tasks'],
    [['Cold room controller check', 0, JSON.stringify([{ text: 'Read the fault log', mandatory: true }])]],
  );
  return { calendars, levels, jobPlans: Object.fromEntries(keys.map((k, i) => [k, plans[i]])) };
}

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

export async function writeAgreements(
  tx: Tx,
  register: DemoRegister,
  reference: DemoReference,
  now: Instant,
  today: LocalDate,
  scale: number,
): Promise<DemoAgreement[]> {
  const { connection } = tx;
  const copies = Array.from({ length: scale }, (_, copy) =>
    AGREEMENTS.map((plan) => ({
      ...plan,
      ...(copy > 0 && {
        customer: `${plan.customer} ${copy + 1}`,
        ...(plan.site && { site: `${plan.site} ${copy + 1}` }),
      }),
    })),
  ).flat();
  const byCustomer = new Map<string, DemoAsset[]>();
  for (const asset of register.assets)
    byCustomer.set(asset.customer, [...(byCustomer.get(asset.customer) ?? []), asset]);
  const assetsOf = (plan: AgreementPlan): DemoAsset[] =>
    (byCustomer.get(plan.customer) ?? []).filter(
      (a) => (!plan.site || a.site === plan.site) && (!plan.classes || plan.classes.includes(a.classKey)),
    );
  await tx.db
    .update(agreementNumbering)
    .set({ next: 2001 + copies.length })
    .where(eq(agreementNumbering.id, 1));
  const [people] = await connection.query("SELECT id FROM person WHERE role = 'coordinator' ORDER BY id");
  const managers = (people as { id: number }[]).map((p) => p.id);
  const ids = await insertedIds(
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
      ],
      copies.map((plan, i) => {
        const { from, to } = termOf(plan, today);
        const billed = BILLED[plan.type];
        return [
          `AG-${2001 + i}`,
          register.customers.get(plan.customer),
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
          billed.each * assetsOf(plan).length,
          billed.per,
          billed.timing,
          plan.indexed ? JSON.stringify(indexSince(from)) : null,
        ];
      }),
    ),
    copies.length,
  );
  const lines: unknown[][] = [];
  const schedules: unknown[][] = [];
  const events: unknown[][] = [];
  const made = copies.map((plan, i): DemoAgreement => {
    const id = ids[i] as number;
    const { from, to } = termOf(plan, today);
    const assets = assetsOf(plan);
    const { labour, parts, travel, kinds } = SHARES[plan.type];
    const groups = new Set(assets.map((a) => `${a.zone}|${a.classKey}|${plan.site ? a.siteId : ''}`));
    for (const group of groups) {
      const [zone, key] = group.split('|') as [DemoZone, ClassKey];
      const level = plan.type === 'checks' ? null : reference.levels[zone][levelKind(key)];
      const line = (assetId: number | null, classId: number | null): unknown[] => [
        id,
        assetId,
        null,
        classId,
        from,
        null,
        labour,
        parts,
        travel,
        level,
        JSON.stringify(kinds),
        JSON.stringify(['misuse', 'consumable']),
        null,
      ];
      const repairsAtDiscount = (covered: unknown[]): unknown[] =>
        covered.map((value, column) =>
          column >= 6 && column <= 8
            ? 0
            : column === 10
              ? JSON.stringify(['repair'])
              : column === 12
                ? JSON.stringify([{ element: 'labour', percent: REPAIR_DISCOUNT, kinds: ['repair'] }])
                : value,
        );
      const push = (covered: unknown[]): void => {
        lines.push(covered);
        if (plan.type === 'checks') lines.push(repairsAtDiscount(covered));
      };
      const mixed = new Set(assets.filter((a) => a.classKey === key).map((a) => a.zone)).size > 1;
      // A class is named as a whole where one service level fits all of it; otherwise each machine has its line.
      if (plan.site || mixed)
        for (const a of assets.filter((x) => x.classKey === key && x.zone === zone)) push(line(a.id, null));
      else push(line(null, register.classIds[key]));
    }
    // The provider's own records go back a year and a half; older agreements count from there.
    const oldest = `${addMonths(today, -17).slice(0, 7)}-01` as LocalDate;
    const begun = from > oldest ? from : oldest;
    for (const asset of assets) {
      const care = CARE[asset.classKey];
      const jobPlanId = reference.jobPlans[asset.classKey];
      if (!care || !jobPlanId) continue;
      const anchor = care.rule.startsWith('FREQ=YEARLY;INTERVAL=1')
        ? (`${begun.slice(0, 4)}${asset.commissioned.slice(4)}` as LocalDate)
        : begun;
      schedules.push([
        id,
        asset.id,
        jobPlanId,
        care.rule,
        anchor.endsWith('-02-29') ? `${begun.slice(0, 4)}-02-28` : anchor,
        asset.classKey === 'bsc' ? 'preceding' : 'following',
        reference.calendars[asset.zone as DemoZone],
        care.early,
        care.late,
        care.lead,
        'calendar days',
      ]);
    }
    events.push([id, `${addDays(from, -20)} 10:00:00.000`, 'draft written']);
    if (plan.stage !== 'draft') events.push([id, `${addDays(from, -3)} 15:00:00.000`, 'put in force']);
    if (plan.stage === 'suspended')
      events.push([
        id,
        instantText((now - 25 * 86_400_000) as Instant),
        'in force → suspended: invoices of the spring are unpaid',
      ]);
    if (plan.stage === 'ended' && to)
      events.push([id, `${to} 18:00:00.000`, 'in force → ended: replaced by a new agreement']);
    return { id, plan, from, to, assets };
  });
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
    lines,
  );
  await bulkInsert(
    connection,
    'schedule',
    [
      'agreement_id',
      'asset_id',
      'job_plan_id',
      'rule',
      'anchor',
      'convention',
      'calendar_id',
      'early_days',
      'late_days',
      'lead_days',
      'lead_unit',
    ],
    schedules,
  );
  await bulkInsert(connection, 'agreement_event', ['agreement_id', 'at', 'text'], events);
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
  await bulkInsert(
    tx.connection,
    'schedule',
    [
      'agreement_id',
      'asset_id',
      'job_plan_id',
      'rule',
      'anchor',
      'convention',
      'calendar_id',
      'early_days',
      'late_days',
      'lead_days',
      'lead_unit',
    ],
    [
      [
        held.id,
        room.id,
        planId,
        'FREQ=MONTHLY;BYMONTHDAY=28',
        addMonths(today, -3),
        'following',
        reference.calendars[room.zone as DemoZone],
        3,
        5,
        14,
        'calendar days',
      ],
    ],
  );
}
