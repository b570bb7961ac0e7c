// Orders at load: the page, lists with two filters, raising one, booking time, and the totals of an order of forty lines.
import { randomUUID } from 'node:crypto';
import { asId, type OrderId } from '#core/ids.ts';
import { buildApp } from '#server/app.ts';
import type { Database } from '#server/platform/database.ts';
import { ROOMS } from '#server/rooms.ts';
import { chargesOf } from '#server/settle/index.ts';
import { percentile, serverConfig, signIn, spread, spreadId, timed, type Caller } from './calls.ts';
import { sized } from './size.ts';
import { rounded, secondsOf } from './stopwatch.ts';
import { inWorld, type World } from './world.ts';

const ASKED = sized(300, 4);
const LINES = 40;
const ENTRIES_A_LINE = 3;

/** Three entries for each line of an order that is done, as its technician's: written by the database itself. */
async function writeTime({ pool }: Database): Promise<void> {
  const [[people]] = (await pool.query("SELECT MIN(id) AS first FROM person WHERE role = 'technician'")) as unknown as [
    { first: number }[],
  ];
  const from = `FROM order_line l JOIN work_order w ON w.id = l.order_id
    JOIN (SELECT 0 AS k UNION ALL SELECT 1 UNION ALL SELECT 2) n
    WHERE w.done_at IS NOT NULL AND l.id > ? AND l.id <= ?`;
  const whose = `COALESCE(w.technician_id, ${people?.first ?? 1})`;
  const [[last]] = (await pool.query('SELECT MAX(id) AS id FROM order_line')) as unknown as [{ id: number }[]];
  const [[held]] = (await pool.query('SELECT COALESCE(MAX(id), 0) AS id FROM time_entry')) as unknown as [
    { id: number }[],
  ];
  const own = `${held?.id ?? 0} + l.id * ${ENTRIES_A_LINE} + n.k`;
  for (let after = 0; after < (last?.id ?? 0); after += 20_000) {
    const span = [after, after + 20_000];
    await pool.query(
      `INSERT INTO time_entry (id, person_id, day, kind, minutes, text, entered_by, entered_at)
       SELECT ${own}, ${whose}, DATE(w.done_at), IF(n.k = 0, 'travel', 'work'), 20 + n.k * 25, '', ${whose}, w.done_at ${from}`,
      span,
    );
    await pool.query(
      `INSERT INTO time_entry_line (entry_id, position, order_line_id, share) SELECT ${own}, 0, l.id, 1 ${from}`,
      span,
    );
    await pool.query(
      `INSERT INTO time_piece (entry_id, order_id, order_line_id, person_id, craft_id, kind, hours, day, minutes)
       SELECT ${own}, w.id, l.id, ${whose}, 1, IF(n.k = 0, 'travel', 'work'), 'normal', DATE(w.done_at), 20 + n.k * 25 ${from}`,
      span,
    );
  }
}

/** An order of forty machines with time, parts and another cost on each; its id. */
async function wideOrder(database: Database, call: Caller): Promise<OrderId> {
  const [[customer]] = (await database.pool.query(
    'SELECT customer_id AS id FROM asset GROUP BY customer_id ORDER BY COUNT(*) DESC LIMIT 1',
  )) as unknown as [{ id: number }[]];
  const [assets] = (await database.pool.query(
    "SELECT id FROM asset WHERE customer_id = ? AND state = 'in service' ORDER BY id LIMIT ?",
    [customer?.id, LINES],
  )) as unknown as [{ id: number }[]];
  const { id } = await raise(
    call,
    assets.map((a) => a.id),
  );
  const { lines } = await call<{ lines: { id: number }[] }>('GET', `/api/orders/${id}`);
  for (const [i, { id: lineId }] of lines.entries()) {
    await call('POST', `/api/orders/${id}/parts`, {
      ...{ requestKey: randomUUID(), partId: 1 + (i % 5 === 4 ? 6 : i % 4), lineId, thousandths: 1000 * (1 + (i % 3)) },
    });
    await call('POST', `/api/orders/${id}/costs`, {
      ...{ requestKey: randomUUID(), lineId, day: '2026-11-24', text: 'Toll', cost: 450, price: 500 },
    });
    await database.pool.query(
      `INSERT INTO time_piece (entry_id, order_id, order_line_id, person_id, craft_id, kind, hours, day, minutes)
       SELECT e.id, ?, ?, e.person_id, 1, e.kind, 'normal', e.day, e.minutes FROM time_entry e ORDER BY e.id LIMIT ?`,
      [id, lineId, ENTRIES_A_LINE],
    );
  }
  return asId<OrderId>(id);
}

const raise = (call: Caller, assetIds: readonly number[]): Promise<{ id: number }> =>
  call('POST', '/api/orders', {
    ...{
      requestKey: randomUUID(),
      assetIds,
      priority: 2,
      cause: 'wear',
      title: 'Measured',
      overTermsReason: 'measured',
    },
    receivedAt: '2026-11-24T09:00:00Z',
  });

const FILTERS = [
  'show=all&kind=repair&due=late',
  'kind=preventive&technician=none',
  'show=finished&kind=repair&customer=1',
  'depot=1&priority=4',
  'waiting=any&older=2',
  'show=all&technician=5&priority=2',
  'due=week&sort=due&kind=preventive',
  'show=all&older=90&sort=oldest&depot=2',
];

async function measureIn({ database, url, figures, loadSeconds }: World): Promise<unknown> {
  const entrySeconds = await secondsOf(() => writeTime(database));
  const [[counted]] = (await database.pool.query(
    `SELECT (SELECT COUNT(*) FROM work_order) AS orders, (SELECT COUNT(*) FROM time_entry) AS entries`,
  )) as unknown as [{ orders: number; entries: number }[]];
  await database.pool.query('ANALYZE TABLE work_order, order_line, time_entry, time_piece, clock');
  const orders = counted?.orders ?? 1;
  const assets = figures.assets as number;
  const app = await buildApp(serverConfig(url), database, ROOMS);
  try {
    const call = await signIn(app);
    const bare = await timed(ASKED, (i) =>
      database.pool.execute('SELECT * FROM work_order WHERE id = ?', [spreadId(i, orders)]),
    );
    const committed = await timed(ASKED, (i) =>
      database.pool.execute('INSERT INTO order_presence (order_id, person_id, seen_at) VALUES (?, 1, NOW(3))', [i + 1]),
    );
    // As the browser asks: the order and what it comes to at once.
    const pages = await timed(ASKED, (i) =>
      Promise.all(['', '/charges'].map((part) => call('GET', `/api/orders/${spreadId(i, orders)}${part}`))),
    );
    const lists: Record<string, ReturnType<typeof spread>> = {};
    const all: number[] = [];
    for (const filter of FILTERS) {
      const taken = await timed(sized(40, 2), () => call('GET', `/api/orders?${filter}`));
      lists[filter] = spread(taken);
      all.push(...taken);
    }
    const raised = await timed(ASKED, (i) => raise(call, [spreadId(i, assets)]));
    const [people] = (await database.pool.query(
      "SELECT id FROM person WHERE role <> 'technician' AND active = 1 ORDER BY id",
    )) as unknown as [{ id: number }[]];
    const [lines] = (await database.pool.query(
      "SELECT l.id FROM order_line l JOIN work_order w ON w.id = l.order_id WHERE w.stage = 'raised' ORDER BY l.id DESC LIMIT 50",
    )) as unknown as [{ id: number }[]];
    const booked = await timed(ASKED, (i) =>
      call('POST', '/api/time', {
        ...{ requestKey: randomUUID(), personId: people[i % people.length]?.id, kind: 'work', minutes: 15 },
        ...{
          day: `2026-11-${String(2 + (i % 20)).padStart(2, '0')}`,
          lines: [{ lineId: lines[i % lines.length]?.id }],
        },
      }),
    );
    const wide = await wideOrder(database, call);
    const totals = await timed(ASKED, () => chargesOf(database.db, wide, 'manager'));
    return {
      bench: 'orders',
      world: { ...figures, ordersInAll: orders, entriesInAll: counted?.entries },
      worldLoadSeconds: rounded(loadSeconds),
      entriesWrittenSeconds: rounded(entrySeconds),
      orderPage: { asked: ASKED, ...spread(pages), wanted: 'p95 ≤ 60 ms' },
      lists: { ...spread(all), wanted: 'p95 ≤ 150 ms', each: lists },
      raising: { asked: ASKED, ...spread(raised), wanted: 'p95 ≤ 40 ms' },
      booking: { asked: ASKED, ...spread(booked), wanted: 'p95 ≤ 25 ms' },
      totals: { lines: LINES, asked: ASKED, ...spread(totals), wanted: '≤ 15 ms, with their loading' },
      reference: { what: 'one order by primary key, mysql2 execute', ...spread(bare) },
      commitReference: { what: 'one row of three columns, committed', ...spread(committed) },
      orderPageToReference: rounded(percentile(pages, 0.95) / percentile(bare, 0.95)),
    };
  } finally {
    await app.close();
  }
}

export const measure = (): Promise<unknown> => inWorld(measureIn);
