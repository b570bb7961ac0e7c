// Many approved orders and agreements with prices, for measuring and for tests of billing: written plainly, not lived through.
import { count } from 'drizzle-orm';
import { addDays, type Instant, type LocalDate } from '#core/time/index.ts';
import { bulkInsert, insertedIds, type Database, type Tx } from '#server/platform/database.ts';
import { customer, instantText, person } from '#server/tables.ts';

export type Much = { readonly customers: number; readonly orders: number; readonly agreements: number };

/** Charges of each order: a part of which half is borne, work in full, a toll. Minor units. */
export const CHARGES = [
  { element: 'parts', text: 'GS-720 Door gasket', list: 179_80, borne: 89_90 },
  { element: 'labour', text: 'Technician', list: 112_50, borne: 112_50 },
  { element: 'other', text: 'Toll', list: 15_00, borne: 0 },
] as const;
export const FEE = 310_00;

async function writeRows(tx: Tx, table: string, columns: readonly string[], rows: readonly (readonly unknown[])[]) {
  const first = await bulkInsert(tx.connection, table, columns, rows);
  return insertedIds(tx.connection, first, rows.length);
}

type World = {
  readonly owners: readonly number[];
  readonly from: number;
  readonly at: string;
  readonly today: LocalDate;
};
const ownerOf = ({ owners }: World, i: number): number => owners[i % owners.length] as number;
const sum = (of: (c: (typeof CHARGES)[number]) => number): number => CHARGES.reduce((s, c) => s + of(c), 0);

/** Done, and approved as they stand; gives their ids. */
async function writeOrders(tx: Tx, world: World, orders: number): Promise<number[]> {
  const { at } = world;
  const [who] = await tx.db.select({ id: person.id }).from(person).limit(1);
  const ids = await writeRows(
    tx,
    'work_order',
    ['kind', 'stage', 'priority', 'title', 'customer_id', 'zone', 'started_at', 'done_at', 'customer_reference'],
    Array.from({ length: orders }, (_, i) => [
      ...['repair', 'done', 2, 'Warm', ownerOf(world, i), 'Europe/Lisbon', at, at, ''],
    ]),
  );
  await bulkInsert(
    tx.connection,
    'order_approval',
    [
      'order_id',
      'state',
      'digest',
      'currency',
      'cost',
      'list',
      'borne',
      'discount',
      'goodwill',
      'pay',
      'person_id',
      'at',
    ],
    ids.map((id) => [
      ...[id, 'approved', '', 'EUR', 0, sum((c) => c.list), sum((c) => c.borne), 0, 0, sum((c) => c.list - c.borne)],
      ...[who?.id, at],
    ]),
  );
  return ids;
}

async function writeCharges(tx: Tx, world: World, ids: readonly number[]): Promise<void> {
  const lines = await writeRows(
    tx,
    'order_line',
    ['order_id', 'promises'],
    ids.map((id) => [id, '{}']),
  );
  const derivation = (what: string) => JSON.stringify({ what, labour: null, of: null, by: null, reasons: [] });
  const charges = await writeRows(
    tx,
    'order_charge',
    [
      ...['order_id', 'order_line_id', 'element', 'text', 'quantity', 'unit', 'cost', 'list', 'borne', 'discount'],
      ...['goodwill', 'pay', 'bearer', 'tax_category', 'tax_hundredths', 'derivation'],
    ],
    ids.flatMap((id, i) =>
      CHARGES.map((c) => [
        ...[
          id,
          lines[i],
          c.element,
          c.text,
          1000,
          'C62',
          0,
          c.list,
          c.borne,
          0,
          0,
          c.list - c.borne,
          'AG-1',
          'S',
          2300,
        ],
        derivation(c.element === 'other' ? 'other' : 'part'),
      ]),
    ),
  );
  await bulkInsert(
    tx.connection,
    'charge_payer',
    ['charge_id', 'customer_id', 'order_id', 'done_on', 'minor', 'state'],
    charges.map((charge, i) => {
      const order = Math.floor(i / CHARGES.length);
      const c = CHARGES[i % CHARGES.length] as (typeof CHARGES)[number];
      return [charge, ownerOf(world, order), ids[order], addDays(world.today, -1), c.list - c.borne, 'open'];
    }),
  );
}

const writeAgreements = async (tx: Tx, world: World, agreements: number): Promise<void> =>
  void (await bulkInsert(
    tx.connection,
    'agreement',
    [
      ...['customer_id', 'number', 'name', 'stage', 'term_from', 'term_to', 'reminder', 'currency', 'price_minor'],
      ...['billing_per', 'billing_timing'],
    ],
    Array.from({ length: agreements }, (_, i) => [
      ...[
        ownerOf(world, i),
        `MANY-${world.from + i}`,
        'Full care',
        'in force',
        `${world.today.slice(0, 4)}-01-01`,
        null,
      ],
      ...['', 'EUR', FEE, 'month', 'in advance'],
    ]),
  ));

/** The orders are done and approved on the day before `today`; agreements hold from the first of the year, paid by the month in advance. */
export async function writeToBill(
  database: Pick<Database, 'transact'>,
  { customers, orders, agreements }: Much,
  now: Instant,
  today: LocalDate,
): Promise<void> {
  await database.transact(async (tx) => {
    const [known] = await tx.db.select({ n: count() }).from(customer);
    const from = known?.n ?? 0;
    const owners = await writeRows(
      tx,
      'customer',
      ['name', 'service_address', 'credit_days'],
      Array.from({ length: customers }, (_, i) => [`Payer ${from + i}`, `Street ${i}`, 30]),
    );
    const world: World = { owners, from, at: instantText(now), today };
    await writeCharges(tx, world, await writeOrders(tx, world, orders));
    await writeAgreements(tx, world, agreements);
  });
}
