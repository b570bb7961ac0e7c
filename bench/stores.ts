// Stock at load: twenty thousand parts in two hundred stores with five million moves; where a part is, parts taken by sixteen at once,
// a day's picking list, and everything looked through for what runs low.
import { randomUUID } from 'node:crypto';
import type { Connection, Pool, RowDataPacket } from 'mysql2/promise';
import { buildApp } from '#server/app.ts';
import { ROOMS } from '#server/rooms.ts';
import { keepProposals } from '#server/stores/index.ts';
import { percentile, serverConfig, signIn, spread, timed, type Caller } from './calls.ts';
import { sized } from './size.ts';
import { rounded, secondsOf } from './stopwatch.ts';
import { inWorld, NOW, type World } from './world.ts';

const PARTS = sized(20_000, 40);
const STORES = sized(200, 4);
/** In how many stores each part lies. */
const SPREAD = sized(20, 2);
const MOVES = sized(5_000_000, 400);
const AT_ONCE = 16;
const ISSUES = sized(3000, 24);
const HOT = 8;
const PICKED = sized(300, 3);
const DAY = '2026-11-24';

/** Statements of plain figures, for which the database's own numbers are the quickest source. */
const LOAD: readonly string[] = [
  `INSERT INTO part (number, name, unit, list_price, cost)
   SELECT CONCAT('LOAD-', seq), CONCAT('Part ', seq), 'piece', 1000 + seq % 900, 500 + seq % 400 FROM seq_1_to_${PARTS}`,
  `INSERT INTO store (name, kind, depot_id)
   SELECT CONCAT('Load store ', seq), 'depot', (SELECT MIN(id) FROM depot) FROM seq_1_to_${STORES}`,
  `INSERT INTO store_act (kind, text, at) VALUES ('receipt', 'load', '2026-06-01 08:00:00')`,
  `SET @part = (SELECT MIN(id) FROM part WHERE number LIKE 'LOAD-%'), @store = (SELECT MIN(id) FROM store WHERE name LIKE 'Load store %'),
   @act = (SELECT MAX(id) FROM store_act)`,
  `INSERT INTO stock_move (act_id, store_id, part_id, kind, thousandths, money, unit_price)
   SELECT @act, @store + ((seq % ${PARTS}) * 7 + FLOOR(seq / ${PARTS}) % ${SPREAD} * ${STORES / SPREAD}) % ${STORES},
     @part + seq % ${PARTS}, 'receipt', 1000, 500 + seq % ${PARTS} % 400, 500 + seq % ${PARTS} % 400 FROM seq_1_to_${MOVES}`,
  `INSERT INTO stock (store_id, part_id, on_hand, reserved, value, average, last_price)
   SELECT store_id, part_id, SUM(thousandths), 0, SUM(money), MAX(unit_price) * 10000, MAX(unit_price)
   FROM stock_move WHERE act_id = @act GROUP BY store_id, part_id`,
  `INSERT INTO shelf (store_id, part_id, bin, minimum, maximum)
   SELECT store_id, part_id, CONCAT('B', part_id % 90), IF(part_id % 50 = 0, on_hand + 1000, 1000), on_hand + 9000
   FROM stock WHERE store_id >= @store`,
];

const rowsOf = async <T>(at: Pool | Connection, text: string): Promise<T[]> => {
  const [rows] = await at.query<RowDataPacket[]>(text);
  return rows as unknown as T[];
};

async function load({ pool }: World['database']): Promise<number> {
  return secondsOf(async () => {
    const connection = await pool.getConnection();
    for (const text of LOAD) await connection.query(text);
    connection.release();
  });
}

/** Needs of orders planned for the day, each held in one store; gives that store. */
async function hold({ pool }: World['database']): Promise<number> {
  const [first] = await rowsOf<{ id: number }>(pool, "SELECT MIN(id) AS id FROM store WHERE name LIKE 'Load store %'");
  const at = first?.id ?? 0;
  const lines = `SELECT MIN(l.id) AS line, l.order_id FROM order_line l JOIN work_order o ON o.id = l.order_id
    WHERE o.stage IN ('raised', 'planned') GROUP BY l.order_id LIMIT ${PICKED}`;
  const connection = await pool.getConnection();
  await connection.query('SET @n = 0');
  await connection.query(
    `INSERT INTO part_need (order_id, order_line_id, part_id, wanted, held, open, asked_at)
     SELECT t.order_id, t.line, s.part_id, 1000, 1000, 0, '2026-11-20 08:00:00' FROM (${lines}) t
     JOIN (SELECT part_id, ROW_NUMBER() OVER (ORDER BY part_id) AS nth FROM stock WHERE store_id = ${at} LIMIT 2) s`,
  );
  await connection.query(
    `INSERT INTO stock_hold (need_id, store_id, part_id, thousandths)
     SELECT id, ${at}, part_id, 1000 FROM part_need WHERE part_id >= (SELECT MIN(id) FROM part WHERE number LIKE 'LOAD-%')`,
  );
  await connection.query(
    `UPDATE stock s JOIN (SELECT part_id, SUM(thousandths) AS held FROM stock_hold WHERE store_id = ${at} GROUP BY part_id) h
     ON h.part_id = s.part_id SET s.reserved = h.held, s.on_hand = s.on_hand + h.held WHERE s.store_id = ${at}`,
  );
  await connection.query(
    `UPDATE work_order SET planned_for = '${DAY}' WHERE id IN (SELECT order_id FROM part_need WHERE held > 0)`,
  );
  connection.release();
  return at;
}

/** Parts of a few numbers are used by sixteen at once; what is left must be what was there less what went. */
async function issues(call: Caller, { pool }: World['database']) {
  const lines = await rowsOf<{ id: number; order_id: number }>(
    pool,
    `SELECT l.id, l.order_id FROM order_line l JOIN work_order o ON o.id = l.order_id WHERE o.stage IN ('raised', 'planned')
     ORDER BY l.id LIMIT 200`,
  );
  const hot = await rowsOf<{ part_id: number; store_id: number }>(
    pool,
    `SELECT part_id, store_id FROM stock WHERE reserved = 0 AND part_id >= (SELECT MIN(id) FROM part WHERE number LIKE 'LOAD-%')
     ORDER BY part_id DESC LIMIT ${HOT}`,
  );
  const which = hot.map((h) => `(${h.store_id}, ${h.part_id})`).join(', ');
  await pool.query(`UPDATE stock SET on_hand = on_hand + 1000000000 WHERE (store_id, part_id) IN (${which})`);
  const onHand = async (): Promise<number> =>
    Number(
      (
        await rowsOf<{ n: string }>(pool, `SELECT SUM(on_hand) AS n FROM stock WHERE (store_id, part_id) IN (${which})`)
      )[0]?.n,
    );
  const before = await onHand();
  const ms: number[] = [];
  let next = 0;
  const taking = async (): Promise<void> => {
    for (let i = next++; i < ISSUES; i = next++) {
      const [of, line] = [hot[i % hot.length], lines[i % lines.length]];
      const begun = performance.now();
      await call('POST', `/api/orders/${line?.order_id}/parts`, {
        ...{
          requestKey: randomUUID(),
          lineId: line?.id,
          partId: of?.part_id,
          storeId: of?.store_id,
          thousandths: 1000,
        },
      });
      ms.push(performance.now() - begun);
    }
  };
  const seconds = await secondsOf(() => Promise.all(Array.from({ length: AT_ONCE }, taking)));
  const [below] = await rowsOf<{ n: number }>(
    pool,
    'SELECT COUNT(*) AS n FROM stock WHERE on_hand < reserved OR on_hand < 0',
  );
  return {
    ...{ atOnce: AT_ONCE, parts: HOT, taken: ISSUES, aSecond: rounded(ISSUES / seconds), ...spread(ms) },
    ...{
      negative: below?.n ?? 0,
      lost: (before - (await onHand())) / 1000 - ISSUES,
      wanted: '≥ 200 a second, 0 negative, 0 lost',
    },
  };
}

/** Rows of three columns changed one by one by as many at once, committed in the same way. */
async function reference({ pool }: World['database']) {
  await pool.query('CREATE TABLE measured (id INT PRIMARY KEY, n BIGINT NOT NULL)');
  await pool.query(`INSERT INTO measured SELECT seq, 0 FROM seq_1_to_${AT_ONCE}`);
  let next = 0;
  const changing = async (_: unknown, id: number): Promise<void> => {
    while (next++ < ISSUES) await pool.execute('UPDATE measured SET n = n + 1 WHERE id = ?', [id + 1]);
  };
  const seconds = await secondsOf(() => Promise.all(Array.from({ length: AT_ONCE }, changing)));
  return rounded(ISSUES / seconds);
}

async function measureIn({ database, url, figures, loadSeconds, writeOut }: World): Promise<unknown> {
  const { pool } = database;
  const stockSeconds = await load(database);
  const at = await hold(database);
  const restSeconds = await secondsOf(writeOut);
  const app = await buildApp(serverConfig(url), database, ROOMS);
  try {
    const call = await signIn(app);
    const [first] = await rowsOf<{ id: number }>(pool, "SELECT MIN(id) AS id FROM part WHERE number LIKE 'LOAD-%'");
    const from = first?.id ?? 0;
    const asked = sized(300, 3);
    const bare = await timed(asked, (i) =>
      pool.execute('SELECT * FROM part WHERE id = ?', [from + ((i * 193) % PARTS)]),
    );
    const where = await timed(asked, (i) => call('GET', `/api/parts/${from + ((i * 193) % PARTS)}/stock`));
    const picking = await timed(sized(40, 2), () => call('GET', `/api/stores/${at}/picking?day=${DAY}`));
    const lines = (await call<{ rows: unknown[] }>('GET', `/api/stores/${at}/picking?day=${DAY}`)).rows.length;
    const updates = await reference(database);
    const taken = await issues(call, database);
    const lows = { found: 0 };
    const low = await secondsOf(async () => void (lows.found = await keepProposals(database, NOW)));
    return {
      bench: 'stores',
      world: { ...figures, parts: PARTS, stores: STORES, moves: MOVES },
      ...{ worldLoadSeconds: rounded(loadSeconds), stockLoadSeconds: rounded(stockSeconds) },
      writtenOutSeconds: rounded(restSeconds),
      availability: { ...spread(where), wanted: 'p95 ≤ 30 ms' },
      picking: { orders: PICKED, lines, ...spread(picking), wanted: '≤ 300 ms' },
      issues: taken,
      runsLow: { ...lows, seconds: rounded(low), wanted: '≤ 5 s over all' },
      reference: { what: 'one part by primary key, mysql2 execute', ...spread(bare) },
      updateReference: { what: 'rows of two columns changed and committed by as many at once', aSecond: updates },
      issuesToUpdates: rounded(taken.aSecond / updates),
      availabilityToReference: rounded(percentile(where, 0.95) / percentile(bare, 0.95)),
    };
  } finally {
    await app.close();
  }
}

export const measure = (): Promise<unknown> => inWorld(measureIn, sized(4, 1));
