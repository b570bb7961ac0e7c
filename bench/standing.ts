// Standing at load: pages of every grouping over several periods, what stands behind a row, clocks derived by core, sums taken anew.
import { STANDING_BY } from '#api/standing.ts';
import { workingTimeOf, weekdaysOpen, ELAPSED_TIME } from '#core/calendars/index.ts';
import { deriveClocks, type ClockEvent, type GivenPromises } from '#core/service-levels/index.ts';
import { asZone, instant, MINUTE } from '#core/time/index.ts';
import { buildApp } from '#server/app.ts';
import type { Database } from '#server/platform/database.ts';
import { ROOMS } from '#server/rooms.ts';
import { sumMonths } from '#server/standing/index.ts';
import { percentile, serverConfig, signIn, spread, spreadId, timed, type Caller } from './calls.ts';
import { sized } from './size.ts';
import { memoryOf, rounded, secondsOf } from './stopwatch.ts';
import { inWorld, NOW, type World } from './world.ts';

const CLOCKS = sized(1_000_000, 2_000);
const ASKED = sized(40, 2);
const DETAILS = sized(200, 4);
const DERIVED = sized(1_000_000, 2_000);

const YEAR = "due_on > '2025-11-24' AND due_on <= '2026-11-24'";

/**
 * Copies what happened until there are enough clocks due in twelve months: each copy is an order of its own, of another machine, on
 * another day. Written by the database itself.
 */
async function fill({ pool }: Database): Promise<number> {
  const one = async <T>(text: string): Promise<T> => ((await pool.query(text)) as unknown as [[T]])[0][0];
  const { n } = await one<{ n: number }>(`SELECT COUNT(*) AS n FROM clock WHERE ${YEAR}`);
  const { orders, lines, machines } = await one<{ orders: number; lines: number; machines: number }>(
    'SELECT (SELECT MAX(id) FROM work_order) AS orders, (SELECT MAX(id) FROM order_line) AS `lines`, (SELECT MAX(id) FROM asset) AS machines',
  );
  await pool.query('CREATE TABLE copied (id INT UNSIGNED PRIMARY KEY)');
  await pool.query(`INSERT INTO copied SELECT DISTINCT order_id FROM clock WHERE ${YEAR}`);
  await pool.query('CREATE TABLE under_agreement (customer_id INT UNSIGNED PRIMARY KEY, agreement_id INT UNSIGNED)');
  await pool.query('INSERT INTO under_agreement SELECT customer_id, MIN(id) FROM agreement GROUP BY customer_id');
  const columnsOf = async (table: string): Promise<string[]> =>
    ((await pool.query(`SHOW COLUMNS FROM ${table}`)) as unknown as [{ Field: string }[]])[0].map((c) => c.Field);
  const [ofOrder, ofLine, ofClock] = await Promise.all(['work_order', 'order_line', 'clock'].map(columnsOf));
  const copying = (
    columns: readonly string[] | undefined,
    from: string,
    other: Readonly<Record<string, string>>,
  ): string => (columns ?? []).map((c) => other[c] ?? `${from}.${c}`).join(', ');
  let held = n;
  for (let k = 1; held < CLOCKS; k += 1) {
    const days = `${(k * 11) % 29} DAY`;
    const machine = `1 + ((l.asset_id + ${k * 7919}) % ${machines})`;
    const order = `w.id + ${k * orders}`;
    const line = `l.id + ${k * lines}`;
    await pool.query(
      `INSERT INTO work_order (${ofOrder?.join(', ')}) SELECT ${copying(ofOrder, 'w', { id: order, request_key: 'NULL' })}
       FROM work_order w JOIN copied o ON o.id = w.id`,
    );
    await pool.query(
      `INSERT INTO order_line (${ofLine?.join(', ')}) SELECT ${copying(ofLine, 'l', { id: line, order_id: `l.order_id + ${k * orders}`, asset_id: machine, visit_id: 'NULL' })}
       FROM order_line l JOIN copied o ON o.id = l.order_id WHERE l.asset_id IS NOT NULL`,
    );
    const own: Record<string, string> = {
      id: 'NULL',
      order_line_id: line,
      order_id: `c.order_id + ${k * orders}`,
      asset_id: 'a.id',
      customer_id: 'a.customer_id',
      site_id: 'l.site_id',
      agreement_id: 'u.agreement_id',
      due_on: `IF(c.due_on - INTERVAL ${days} > '2025-11-24', c.due_on - INTERVAL ${days}, c.due_on)`,
    };
    await pool.query(
      `INSERT INTO clock (${ofClock?.join(', ')}) SELECT ${copying(ofClock, 'c', own)}
       FROM clock c JOIN order_line l ON l.id = c.order_line_id JOIN asset a ON a.id = ${machine}
         LEFT JOIN under_agreement u ON u.customer_id = a.customer_id
       WHERE c.order_id <= ${orders} AND c.${YEAR.replace('AND due_on', 'AND c.due_on')}`,
    );
    held = (await one<{ n: number }>(`SELECT COUNT(*) AS n FROM clock WHERE ${YEAR}`)).n;
  }
  await pool.query('DROP TABLE copied, under_agreement');
  await pool.query('ANALYZE TABLE clock, visit, work_order, order_line');
  return held;
}

const PERIODS = [
  ['2026-08-24', '2026-11-23'],
  ['2025-11-24', '2026-11-23'],
  ['2026-01-01', '2026-11-24'],
  ['2026-10-01', '2026-10-31'],
  ['2026-01-17', '2026-10-09'],
] as const;

const asking = (from: string, to: string, rest: string): string => `from=${from}&to=${to}&${rest}`;

/** Every grouping over every period, the first page and the one after it. */
async function pages(call: Caller) {
  const each: Record<string, ReturnType<typeof spread>> = {};
  const all: number[] = [];
  for (const by of STANDING_BY)
    for (const [from, to] of PERIODS) {
      const first = await call<{ next: string | null }>('GET', `/api/standing?${asking(from, to, `by=${by}`)}`);
      const second = first.next === null ? '' : `&after=${first.next}`;
      const taken = await timed(ASKED, (i) =>
        call('GET', `/api/standing?${asking(from, to, `by=${by}${i % 2 ? second : ''}`)}`),
      );
      each[`${by} ${from} to ${to}`] = spread(taken);
      all.push(...taken);
    }
  const [from, to] = PERIODS[1];
  const inAll = await timed(ASKED, () => call('GET', `/api/standing/total?from=${from}&to=${to}`));
  return { ...spread(all), wanted: 'p95 ≤ 150 ms for any grouping', inAllWithThePeriodBefore: spread(inAll), each };
}

async function details(call: Caller, figures: World['figures']) {
  const each: Record<string, ReturnType<typeof spread>> = {};
  const all: number[] = [];
  const ask = async (name: string, work: (i: number) => Promise<unknown>): Promise<void> => {
    const taken = await timed(DETAILS, work);
    each[name] = spread(taken);
    all.push(...taken);
  };
  const [from, to] = PERIODS[1];
  for (const [by, of] of [
    ['asset', figures.assets ?? 1],
    ['agreement', figures.agreements ?? 1],
    ['customer', figures.customers ?? 1],
  ] as const)
    await ask(by, (i) => call('GET', `/api/standing/detail?${asking(from, to, `by=${by}&id=${spreadId(i, of)}`)}`));
  await ask('asset, its course', (i) =>
    call('GET', `/api/standing/course?${asking(from, to, `by=asset&id=${spreadId(i, figures.assets ?? 1)}`)}`),
  );
  // The sites with most to explain have most of everything; what had no place has none below it.
  const { items } = await call<{ items: { id: number }[] }>('GET', `/api/standing?${asking(from, to, 'by=site')}`);
  const sites = items.filter((s) => s.id > 0);
  if (sites.length > 0)
    await ask('places of a site', (i) =>
      call('GET', `/api/standing/places/${sites[i % sites.length]?.id}?from=${from}&to=${to}`),
    );
  const house = await timed(ASKED, () => call('GET', `/api/standing/course?${asking(from, to, 'by=all')}`));
  return { ...spread(all), wanted: 'p95 ≤ 60 ms', each, courseOfTheHouse: spread(house) };
}

const OFFICE = workingTimeOf({
  ...{ name: 'Office', zone: asZone('Europe/Lisbon'), weekly: weekdaysOpen(8 * 60, 18 * 60) },
  ...{ closed: [], extraOpen: [] },
});

/** Clocks of an order as most are: three promises, told, there, waiting once, mended. */
function deriveMany(times: number): number {
  const given = (minutes: number, isWorking: boolean): NonNullable<GivenPromises['arrival']> => ({
    promise: isWorking ? { minutes, measure: 'working', calendarId: 1 as never } : { minutes, measure: 'elapsed' },
    pauses: ['no access'],
    serviceLevelId: 1 as never,
  });
  const promises: GivenPromises = {
    response: given(30, false),
    arrival: given(480, true),
    restoration: given(960, true),
  };
  const start = Date.UTC(2026, 0, 5, 9);
  let missed = 0;
  for (let i = 0; i < times / 3; i += 1) {
    const at = (minutes: number) => instant(start + (((i * 37) % 400_000) + minutes) * MINUTE);
    const events: ClockEvent[] = [
      { kind: 'told', at: at(10 + (i % 40)) },
      { kind: 'arrived', at: at(200 + (i % 2000)) },
      { kind: 'paused', at: at(2300), reason: 'no access' },
      { kind: 'resumed', at: at(2500) },
      { kind: 'restored', at: at(2600 + (i % 3000)) },
    ];
    const timeOf = (p: { measure: string }) => (p.measure === 'elapsed' ? ELAPSED_TIME : OFFICE);
    for (const c of deriveClocks(at(0), events, promises, timeOf, NOW)) if (c.state === 'missed') missed += 1;
  }
  return missed;
}

/** Every sum taken anew, one month of them, and one aggregate over the same rows; each three times in turn, for a machine is not equally fast. */
async function sums({ database }: World) {
  const { pool } = database;
  const [whole, oneMonth, aggregate]: [number[], number[], number[]] = [[], [], []];
  for (let turn = 0; turn < sized(3, 1); turn += 1) {
    await pool.query('DELETE FROM standing_month');
    await pool.query('TRUNCATE standing_sum');
    whole.push(await secondsOf(() => sumMonths(database, NOW)));
    await pool.query("UPDATE standing_month SET changes = changes + 1 WHERE month = '2026-09-01'");
    oneMonth.push(await secondsOf(() => sumMonths(database, NOW)));
    await pool.query(
      'CREATE TABLE bare_sum (asset_id INT UNSIGNED, month DATE, met INT, missed INT, PRIMARY KEY (asset_id, month))',
    );
    aggregate.push(
      await secondsOf(() =>
        pool.query(`INSERT INTO bare_sum
          SELECT asset_id, due_on - INTERVAL DAYOFMONTH(due_on) - 1 DAY, SUM(state = 'met'), SUM(state <> 'met') FROM clock
          WHERE state IN ('met', 'missed', 'running') AND due_on IS NOT NULL GROUP BY 1, 2`),
      ),
    );
    await pool.query('DROP TABLE bare_sum');
  }
  const middle = (taken: number[]): number => percentile(taken, 0.5);
  return { whole: middle(whole), oneMonth: middle(oneMonth), aggregate: middle(aggregate) };
}

async function measureIn(world: World): Promise<unknown> {
  const { database, url, figures, loadSeconds } = world;
  const clocks = await fill(database);
  const derivedSeconds = await secondsOf(() => deriveMany(DERIVED));
  const { whole, oneMonth, aggregate } = await sums(world);
  const deriving = (clocks / DERIVED) * derivedSeconds;
  const app = await buildApp(serverConfig(url), database, ROOMS);
  try {
    const call = await signIn(app);
    let asked: { pages: Awaited<ReturnType<typeof pages>>; details: Awaited<ReturnType<typeof details>> } | null = null;
    const memory = await memoryOf(async () => {
      asked = { pages: await pages(call), details: await details(call, figures) };
    });
    const bare = await timed(sized(20, 2), () =>
      database.pool.query(
        `SELECT agreement_id, SUM(state = 'met'), SUM(state = 'missed') FROM clock
         WHERE state IN ('met', 'missed') AND due_on BETWEEN '2025-11-24' AND '2026-11-23' GROUP BY 1`,
      ),
    );
    const done = asked as unknown as { pages: { p95Ms: number } };
    return {
      bench: 'standing',
      world: { ...figures, clocksOfTheYear: clocks },
      worldLoadSeconds: rounded(loadSeconds),
      ...done,
      derivingByCore: { clocks: DERIVED, perSecond: Math.round(DERIVED / derivedSeconds), wanted: '≥ 200,000/s' },
      summing: {
        ...{ wholeSeconds: rounded(whole), oneMonthSeconds: rounded(oneMonth), aggregateSeconds: rounded(aggregate) },
        derivingSeconds: rounded(deriving),
        ratio: rounded((whole + deriving) / (aggregate + deriving)),
        wanted: '≤ 1.5 × one SQL aggregate over the same rows and the derivation',
      },
      memoryMiB: { most: memory, wanted: '≤ 1024' },
      reference: { what: 'the year grouped by agreement in one statement, without sums', ...spread(bare) },
      pageToReference: rounded(done.pages.p95Ms / percentile(bare, 0.5)),
    };
  } finally {
    await app.close();
  }
}

export const measure = (): Promise<unknown> => inWorld(measureIn);
