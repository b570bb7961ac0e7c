// Reference data of the demo: calendars of the two offices, their service levels, and job plans.
import Holidays from 'date-holidays';
import { weekdaysOpen } from '#core/calendars/index.ts';
import type { TargetPromise } from '#core/service-levels/index.ts';
import { type LocalDate } from '#core/time/index.ts';
import { asId, type CalendarId } from '#core/ids.ts';
import { bulkInsert, insertedIds, type Tx } from '#server/platform/database.ts';
import { LISBON, MADRID, type ClassKey, type DemoZone } from './scenario.ts';
import { CARE, DEPOTS, skillOf, SKILLS, YEARLY_CARE, type Care } from './scenario-agreements.ts';

type Levels = Readonly<Record<'cold' | 'sterile' | 'standard', number>>;
export type DemoReference = {
  readonly calendars: Readonly<Record<DemoZone, number>>;
  readonly depots: Readonly<Record<DemoZone, number>>;
  readonly levels: Readonly<Record<DemoZone, Levels>>;
  readonly jobPlans: Readonly<Partial<Record<ClassKey, number>>>;
  /** Of the ultra-low freezers; it includes the quarterly one. */
  readonly yearlyPlan: number;
  /** What a class suggests beside its own job plan. */
  readonly alsoSuggested: Readonly<Partial<Record<ClassKey, number>>>;
};

function publicHolidays(country: string, region: string | null, year: number): { date: string; name: string }[] {
  const source = region ? new Holidays(country, region) : new Holidays(country);
  const days = new Map<string, string>();
  for (let y = year - 2; y <= year + 2; y += 1)
    for (const day of source.getHolidays(y, 'en')) if (day.type === 'public') days.set(day.date.slice(0, 10), day.name);
  return [...days].sort().map(([date, name]) => ({ date, name }));
}

/** The service levels of one office: name, targets, pauses, and what is pledged beside them. */
function levelsOf(town: string, calendarId: number) {
  const hours = (n: number): TargetPromise => ({
    measure: 'working',
    minutes: n * 60,
    calendarId: asId<CalendarId>(calendarId),
  });
  const elapsed = (minutes: number): TargetPromise => ({ measure: 'elapsed', minutes });
  return [
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
        warnings: [
          { percent: 50, inCharge: true, technician: false, people: [] },
          { percent: 25, inCharge: true, technician: true, people: [] },
          { percent: 0, inCharge: true, technician: true, people: [] },
        ],
        upkeep: { target: 9500 },
        availability: { target: 9980, calendarId: null },
        tiers: [
          { below: 9500, credit: 500 },
          { below: 9000, credit: 1000 },
          { below: 8000, credit: 1500 },
        ],
        cap: 1500,
      },
    ],
    [
      `Sterilisers, ${town}`,
      {
        1: { response: hours(2), arrival: hours(9), workaround: hours(22), restoration: hours(27) },
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
}

type Skills = ReadonlyMap<string, number>;

async function writeDepots({ connection }: Tx): Promise<{ depots: DemoReference['depots']; skills: Skills }> {
  const skillIds = await insertedIds(
    connection,
    await bulkInsert(
      connection,
      'skill',
      ['name'],
      SKILLS.map((name) => [name]),
    ),
    SKILLS.length,
  );
  const skills = new Map<string, number>(SKILLS.map((name, i) => [name, skillIds[i] as number]));
  const ids = await insertedIds(
    connection,
    await bulkInsert(
      connection,
      'depot',
      ['name', 'latitude', 'longitude'],
      DEPOTS.map(({ name, at }) => [name, ...at]),
    ),
    DEPOTS.length,
  );
  const capacity = DEPOTS.flatMap(({ hours }, i) =>
    Object.entries(hours).map(([name, h]) => [ids[i], skills.get(name), h * 60]),
  );
  await bulkInsert(connection, 'depot_capacity', ['depot_id', 'skill_id', 'weekly_minutes'], capacity);
  return { depots: Object.fromEntries(DEPOTS.map(({ zone }, i) => [zone, ids[i]])) as DemoReference['depots'], skills };
}

/** A job plan for each class that is kept, the yearly one of the freezers, one that takes no time, and one that is suggested but scheduled nowhere yet. */
async function writeJobPlans(
  { connection }: Tx,
  skills: Skills,
): Promise<Pick<DemoReference, 'jobPlans' | 'yearlyPlan' | 'alsoSuggested'>> {
  const keys = Object.keys(CARE) as ClassKey[];
  const row = (
    { plan, minutes, tasks }: Pick<Care, 'plan' | 'minutes' | 'tasks'>,
    skill: (typeof SKILLS)[number] | null,
  ) => [
    plan,
    minutes,
    skill && skills.get(skill),
    JSON.stringify(tasks.map((t) => ({ text: t.replace(/^\?\s*/, ''), mandatory: !t.startsWith('?') }))),
  ];
  const timeless = { plan: 'Cold room controller check', minutes: 0, tasks: ['Read the fault log'] };
  const calibration = {
    plan: 'Incubator gas calibration',
    minutes: 45,
    tasks: ['Measure CO₂ against the reference', 'Set the sensor', '? Change the sensor'],
  };
  const rows = [
    ...keys.map((k) => row(CARE[k] as Care, skillOf(k))),
    row(YEARLY_CARE, skillOf('ulf')),
    row(timeless, null),
    row(calibration, skillOf('inc')),
  ];
  const ids = await insertedIds(
    connection,
    await bulkInsert(connection, 'job_plan', ['name', 'minutes', 'skill_id', 'tasks'], rows),
    rows.length,
  );
  const jobPlans = Object.fromEntries(keys.map((k, i) => [k, ids[i]])) as DemoReference['jobPlans'];
  const yearlyPlan = ids[keys.length] as number;
  // Opening the circuit of a freezer once a year also needs somebody for its controller.
  const controller = skills.get('Electrical');
  await connection.query('UPDATE job_plan SET also_skill_ids = ? WHERE id = ?', [
    JSON.stringify([controller]),
    yearlyPlan,
  ]);
  await bulkInsert(connection, 'job_plan_includes', ['larger_id', 'smaller_id'], [[yearlyPlan, jobPlans.ulf]]);
  return { jobPlans, yearlyPlan, alsoSuggested: { ulf: yearlyPlan, inc: ids[keys.length + 2] } };
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
    const rows = levelsOf(name.split(' ')[0] ?? name, id as number);
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
  const { depots, skills } = await writeDepots(tx);
  return { calendars, levels, depots, ...(await writeJobPlans(tx, skills)) };
}
