// Every row of every table, as one number a table: whether anything was written.
import type { RowDataPacket } from 'mysql2/promise';
import type { TestHouse } from './house.ts';

/** What goes on beside requests: sessions, the plan with its jobs and notices, and figures that are worked out. */
const PLAN = ['planned_visit', 'plan_state', 'schedule_outlook'];
const FIGURES = ['store_figure', 'dead_stock', 'reorder_proposal'];
/** Finished orders are looked at, and runs bill, beside requests. */
const BILLING = [
  'order_look',
  'order_mark',
  'credit_mark',
  'billing_run',
  'billing_run_left',
  'document',
  'document_line',
  'document_tax',
];
const BESIDES = [
  'session',
  'sign_in_try',
  '__drizzle_migrations',
  'job',
  'change_notice',
  'outbox',
  // Which server watches which machines.
  ...['signal_shard', 'watch_server'],
  // Reports are drawn a little after an order is done.
  ...['attachment', 'file_content', 'file_chunk'],
  ...PLAN,
  ...FIGURES,
  ...BILLING,
];

/** What left the house without how far its handing over is, which goes on beside requests too. */
const LEFT = 'SELECT COALESCE(SUM(CRC32(CONCAT_WS(0x1f, id, out_key, subject, body))), 0) AS checksum FROM outbox';

/** Files that people attached. */
const ATTACHED = `SELECT COALESCE(SUM(CRC32(CONCAT_WS(0x1f, id, subject, subject_id, name, sha256))), 0) AS checksum
  FROM attachment WHERE name NOT LIKE '%report%.pdf'`;

/** Everything that is kept, by table. */
export async function kept({ database: { pool } }: TestHouse): Promise<Map<string, number>> {
  const [tables] = await pool.query<RowDataPacket[]>('SHOW TABLES');
  const names = tables.map((t) => String(Object.values(t)[0])).filter((t) => !BESIDES.includes(t));
  const [sums] = await pool.query<RowDataPacket[]>(`CHECKSUM TABLE ${names.map((n) => `\`${n}\``).join(', ')}`);
  const [[left]] = await pool.query<RowDataPacket[]>(LEFT);
  const [[attached]] = await pool.query<RowDataPacket[]>(ATTACHED);
  return new Map([
    ...sums.map((s) => [String(s.Table).split('.')[1] as string, Number(s.Checksum)] as const),
    ['outbox', Number(left?.checksum)],
    ['attachment', Number(attached?.checksum)],
  ]);
}
export const changed = (before: Map<string, number>, after: Map<string, number>): string[] =>
  [...after].filter(([table, sum]) => before.get(table) !== sum).map(([table]) => table);
