// Upkeep: 20,000 schedules, 12 months ahead, computed by the core and committed; reference: the same rows by plain multi-row INSERT in one transaction.
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { aSchedule } from '#core/a-schedule.ts';
import { workingDaysOf } from '#core/calendars/index.ts';
import { asId, type PersonId } from '#core/ids.ts';
import { addDays, asLocalDate, asZone, instant, type LocalDate } from '#core/time/index.ts';
import { proposeVisits } from '#core/upkeep/index.ts';
import {
  bulkInsert,
  insertedIds,
  migrateDatabase,
  openDatabase,
  type Database,
  type Tx,
} from '#server/platform/database.ts';
import { beginRun, onUpkeepThread, runOf } from '#server/upkeep/index.ts';
import { freePort, startDatabase } from '../commands/mariadb.ts';
import { sized } from './size.ts';
import { longestWaitOf, memoryOf, rounded, secondsOf } from './stopwatch.ts';

/** As the demo’s scale: 250 schedules to each step, 100,000 at 400. */
const SCHEDULES = sized(Number(process.env.STAVOK_BENCH_SCALE ?? '80') * 250, 50);
const TODAY = asLocalDate('2026-11-24');
const RULES = [
  'FREQ=MONTHLY;INTERVAL=3;BYDAY=1TU',
  'FREQ=MONTHLY;INTERVAL=3;BYDAY=2WE',
  'FREQ=MONTHLY;INTERVAL=6;BYMONTHDAY=15',
  'FREQ=YEARLY;BYMONTH=3;BYDAY=1MO',
];
/** Of what is common: quarterly, monthly, every fortnight, weekly. */
const EXPANDED = [
  'FREQ=MONTHLY;INTERVAL=3;BYDAY=1TU',
  'FREQ=MONTHLY;BYMONTHDAY=15',
  'FREQ=WEEKLY;INTERVAL=2;BYDAY=WE',
  'FREQ=WEEKLY;BYDAY=MO',
];
const COPIED = ['visit', 'work_order', 'order_line', 'order_event', 'order_task'] as const;

type Ground = {
  readonly customerId: number;
  readonly classId: number;
  readonly placeId: number;
  readonly calendarId: number;
  readonly planId: number;
  readonly agreementId: number;
};

/** One customer with one site, one agreement over all of it, and what its schedules point at. */
async function makeGround({ connection }: Tx): Promise<Ground> {
  const one = async (table: string, columns: string[], row: unknown[]): Promise<number> =>
    (await insertedIds(connection, await bulkInsert(connection, table, columns, [row]), 1))[0] as number;
  const customerId = await one('customer', ['name'], ['Load']);
  const classId = await one('asset_class', ['name'], ['Ultra-low freezer']);
  const placeId = await one(
    'location',
    ['name', 'zone', 'path', 'full_name'],
    ['Site', 'Europe/Lisbon', '/1/', 'Site'],
  );
  const calendarId = await one(
    'calendar',
    ['name', 'zone', 'weekly', 'closed', 'extra_open'],
    [
      'Hours',
      'Europe/Lisbon',
      JSON.stringify([1, 2, 3, 4, 5, 6, 7].map((d) => (d <= 5 ? [{ from: 540, to: 1080 }] : []))),
      '[]',
      '[]',
    ],
  );
  const planId = await one(
    'job_plan',
    ['name', 'minutes', 'tasks'],
    [
      'Care',
      90,
      JSON.stringify([
        { text: 'Clean filter', mandatory: true },
        { text: 'Test the alarm', mandatory: true },
      ]),
    ],
  );
  const agreementId = await one(
    'agreement',
    ['number', 'customer_id', 'name', 'stage', 'term_from', 'term_to', 'notice_days', 'reminder'],
    ['AG-1', customerId, 'All', 'in force', '2026-11-24', '2028-12-31', 0, ''],
  );
  await one(
    'coverage_line',
    ['agreement_id', 'location_id', 'term_from', 'labour', 'parts', 'travel', 'kinds', 'excluded_causes'],
    [agreementId, placeId, '2026-11-24', 100, 100, 100, '["preventive"]', '[]'],
  );
  return { customerId, classId, placeId, calendarId, planId, agreementId };
}

async function makeWorld(database: Database): Promise<void> {
  await database.transact(async (tx) => {
    const { connection } = tx;
    const { customerId, classId, placeId, calendarId, planId, agreementId } = await makeGround(tx);
    const assets = Array.from({ length: SCHEDULES }, (_, i) => [
      customerId,
      placeId,
      classId,
      'Tindrel',
      'ULF-720',
      `S${i}`,
      `T${i}`,
      `s${i}`,
      'customer',
      'in service',
    ]);
    const ids = await insertedIds(
      connection,
      await bulkInsert(
        connection,
        'asset',
        ['customer_id', 'location_id', 'class_id', 'maker', 'model', 'serial', 'tag', 'serial_plain', 'owner', 'state'],
        assets,
      ),
      SCHEDULES,
    );
    await bulkInsert(
      connection,
      'schedule',
      [
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
      ],
      ids.map((id, i) => [
        agreementId,
        id,
        planId,
        JSON.stringify({ kind: 'rule', rule: RULES[i % RULES.length] }),
        '[]',
        '2026-11-24',
        'following',
        calendarId,
        7,
        7,
        21,
        'calendar days',
      ]),
    );
  });
}

async function columnsOf(database: Database, table: string): Promise<string[]> {
  const [rows] = await database.pool.query(
    'SELECT column_name AS name FROM information_schema.columns WHERE table_schema = DATABASE() AND table_name = ? ORDER BY ordinal_position',
    [table],
  );
  return (rows as { name: string }[]).map((r) => r.name);
}

/** The very rows the run wrote, into tables of the same shape and indexes, by plain multi-row INSERT in one transaction. */
async function insertReference(database: Database): Promise<{ rows: number; seconds: number }> {
  const copies: { table: string; columns: string[]; rows: unknown[][] }[] = [];
  for (const table of COPIED) {
    await database.pool.query('CREATE TABLE ?? LIKE ??', [`copy_${table}`, table]);
    const columns = await columnsOf(database, table);
    const [rows] = await database.pool.query('SELECT * FROM ?? ORDER BY id', [table]);
    copies.push({
      table: `copy_${table}`,
      columns,
      rows: (rows as Record<string, unknown>[]).map((r) =>
        columns.map((c) => (typeof r[c] === 'object' && r[c] !== null ? JSON.stringify(r[c]) : r[c])),
      ),
    });
  }
  const seconds = await secondsOf(() =>
    database.transact(async ({ connection }) => {
      for (const copy of copies) await bulkInsert(connection, copy.table, copy.columns, copy.rows);
    }),
  );
  return { rows: copies.reduce((n, c) => n + c.rows.length, 0), seconds };
}

/** Visits a second that the core's rules give of schedules that are loaded: each with its window, its day and when it is raised. */
async function expansionPerSecond(): Promise<number> {
  const hours = [{ from: 540, to: 1080 }];
  const weekly = [1, 2, 3, 4, 5, 6, 7].map((d) => (d <= 5 ? hours : []));
  const workingDays = workingDaysOf({
    name: 'Hours',
    zone: asZone('Europe/Lisbon'),
    weekly,
    closed: [],
    extraOpen: [],
  });
  const term = { from: TODAY, to: null };
  const schedules = Array.from({ length: sized(8000, 50) }, (_, i) =>
    aSchedule(workingDays, {
      rule: EXPANDED[i % EXPANDED.length] as string,
      anchor: TODAY,
      convention: 'following',
      agreementTerm: term,
      lineTerms: [term],
    }),
  );
  const expand = (): number =>
    schedules.reduce((sum, schedule) => sum + proposeVisits(schedule, addDays(TODAY, 400)).visits.length, 0);
  // Once before, as a server that has planned today has.
  let visits = expand();
  const seconds = await secondsOf(() => {
    visits = expand();
  });
  return visits / seconds;
}

export async function measure(): Promise<unknown> {
  const folder = await mkdtemp(join(tmpdir(), 'stv-'));
  const private_ = await startDatabase(folder, await freePort(), 'lasting');
  const database = openDatabase(private_.url, 4);
  try {
    await migrateDatabase(database);
    await makeWorld(database);
    const to = addDays(TODAY, 365);
    const who = {
      id: asId<PersonId>(0),
      name: 'bench',
      email: '',
      role: 'administrator',
      zone: asZone('Europe/Lisbon'),
    } as const;
    const { url } = private_;
    const now = instant(Date.parse(`${TODAY}T09:00:00Z`));
    const preview = (day: LocalDate) =>
      onUpkeepThread('preview', { url, to: day, today: TODAY, scope: {}, page: { limit: 200 } });
    const plan = () => onUpkeepThread('plan', { url, today: TODAY, whole: true });
    // Once before it is measured: the thread begins.
    await onUpkeepThread('plan', { url, today: TODAY });
    await database.pool.query('DELETE FROM planned_visit');
    await database.pool.query('DELETE FROM schedule_outlook');
    const waits = { planning: 0, preview: 0, commit: 0 };
    const fromNothingSeconds = await secondsOf(async () => {
      waits.planning = await longestWaitOf(plan);
    });
    const planAgainSeconds = await secondsOf(plan);
    let proposed = 0;
    const previewSeconds = await secondsOf(async () => {
      waits.preview = await longestWaitOf(async () => {
        proposed = (await preview(to)).counts.proposed;
      });
    });
    const run = async (): Promise<number> => {
      const begin = { to, scope: {}, only: null, seen: null };
      const id = await beginRun(database, begin, who, now, TODAY);
      await onUpkeepThread('raise', { url, id, who });
      return (await runOf(database.db, id)).raised;
    };
    let raised = 0;
    let memoryMiB = 0;
    const commitSeconds = await secondsOf(async () => {
      waits.commit = await longestWaitOf(async () => {
        memoryMiB = await memoryOf(async () => {
          raised = await run();
        });
      });
    });
    const reference = await insertReference(database);
    return {
      bench: 'upkeep',
      schedules: SCHEDULES,
      visits: proposed,
      raised,
      raisedAgain: await run(),
      rowsWritten: reference.rows,
      planFromNothingSeconds: rounded(fromNothingSeconds),
      planAgainSeconds: rounded(planAgainSeconds),
      previewSeconds: rounded(previewSeconds),
      commitSeconds: rounded(commitSeconds),
      expansionVisitsPerSecond: rounded(await expansionPerSecond()),
      memoryMiBAtMost: memoryMiB,
      othersWaitMsAtMost: waits,
      commitIncludes: 'working every visit out once more, deciding cover, writing in batches of one transaction each',
      reference: 'the same rows by plain multi-row INSERT in one transaction, same tables and indexes, same run',
      referenceSeconds: rounded(reference.seconds),
      ratio: rounded(commitSeconds / reference.seconds),
      wanted: '≤ 2',
    };
  } finally {
    await database.close();
    await private_.stop();
    await rm(folder, { recursive: true, force: true });
  }
}
