// The demo's parts list and taxes, and what of the parts was used on repairs of the last weeks.
import { and, asc, eq, gte, inArray } from 'drizzle-orm';
import { DAY, instant, type Instant } from '#core/time/index.ts';
import { bulkInsert, type Tx } from '#server/platform/database.ts';
import { instantText, orderLine, part, workOrder } from '#server/tables.ts';
import type { Random } from './random.ts';

const WEEKS = 8;

/** Number, name, unit, list price and cost in cents, kept as. */
const PARTS: readonly (readonly [string, string, string, number, number, '' | 'consumable' | 'serial'])[] = [
  ['TN-GS-720', 'Door gasket ULF-720', 'piece', 18_900, 9_800, ''],
  ['TN-GS-540', 'Door gasket ULF-540', 'piece', 16_900, 8_700, ''],
  ['TN-SR-110', 'Start relay', 'piece', 6_450, 2_900, ''],
  ['TN-PR-400', 'Chamber probe', 'piece', 11_200, 5_400, ''],
  ['TN-CM-K2', 'Compressor, second stage', 'piece', 189_000, 121_000, 'serial'],
  ['TN-CT-55', 'Controller', 'piece', 64_000, 38_500, 'serial'],
  ['TN-BT-12', 'Alarm battery 12 V', 'piece', 3_900, 1_500, ''],
  ['PL-FN-410', 'Circulation fan PLF-410', 'piece', 14_300, 7_600, ''],
  ['PL-PS-24', 'Power supply 24 V', 'piece', 17_800, 9_100, ''],
  ['ST-SL-150', 'Door seal STC-150', 'piece', 32_500, 17_200, ''],
  ['ST-LM-08', 'Lock motor', 'piece', 28_400, 15_600, ''],
  ['ST-VP-20', 'Vacuum pump', 'piece', 142_000, 96_000, 'serial'],
  ['ST-AF-02', 'Air filter, sterile', 'piece', 5_900, 2_450, 'consumable'],
  ['ST-DS-05', 'Descaler', 'litre', 1_850, 640, 'consumable'],
  ['WD-DH-03', 'Dosing hose', 'metre', 1_240, 390, ''],
  ['WD-SA-01', 'Spray arm', 'piece', 9_800, 4_700, ''],
  ['BS-HF-14', 'Main filter', 'piece', 46_000, 27_500, ''],
  ['BS-LP-02', 'Lamp', 'piece', 2_900, 1_050, 'consumable'],
  ['IN-GH-06', 'Gas hose', 'metre', 1_650, 520, ''],
  ['IN-SN-CO2', 'Carbon dioxide sensor', 'piece', 38_500, 22_000, 'serial'],
  ['CF-DB-09', 'Drive belt', 'piece', 4_800, 1_900, ''],
  ['CF-LL-02', 'Lid lock', 'piece', 15_700, 8_300, ''],
  ['WP-MB-80', 'Membrane', 'piece', 54_000, 31_000, ''],
  ['WP-FC-10', 'Filter cartridge', 'piece', 2_650, 900, 'consumable'],
  ['CR-DH-15', 'Defrost heater', 'piece', 8_900, 4_100, ''],
  ['GE-GR-01', 'Grease', 'gram', 12, 4, 'consumable'],
  ['GE-RF-404', 'Refrigerant', 'kilogram', 9_400, 5_200, 'consumable'],
  ['GE-CL-20', 'Hose clamp', 'piece', 280, 90, 'consumable'],
  ['WD-SA-02', 'Spray arm, steel', 'piece', 11_400, 5_600, ''],
];

/** What each fault is put right with; several where more is needed. */
const USED: Readonly<Record<string, readonly (readonly [number: string, thousandths: number])[]>> = {
  'start relay worn': [['TN-SR-110', 1000]],
  'gasket torn': [
    ['TN-GS-720', 1000],
    ['GE-GR-01', 15_000],
  ],
  'probe broken': [['TN-PR-400', 1000]],
  'fan bearing worn': [['PL-FN-410', 1000]],
  'battery flat': [['TN-BT-12', 1000]],
  'power supply failed': [['PL-PS-24', 1000]],
  'air filter blocked': [['ST-AF-02', 2000]],
  'lock motor worn': [['ST-LM-08', 1000]],
  'pump valve leaks': [['ST-DS-05', 1500]],
  'door seal worn': [['ST-SL-150', 1000]],
  'dosing hose worn': [['WD-DH-03', 2500]],
  'filter loaded': [['BS-HF-14', 1000]],
  'lamp failed': [['BS-LP-02', 1000]],
  'gas hose leaks': [['IN-GH-06', 1200]],
  'drive belt worn': [['CF-DB-09', 1000]],
  'lid lock worn': [['CF-LL-02', 1000]],
  'membrane exhausted': [
    ['WP-MB-80', 1000],
    ['WP-FC-10', 2000],
  ],
  'hose clamp loose': [['GE-CL-20', 2000]],
  'defrost heater failed': [['CR-DH-15', 1000]],
};

/** Makers of dear parts make good what fails within two years. */
const WARRANTY_MONTHS = 24;
/** What may be taken instead of what. */
const INSTEAD: readonly (readonly [number: string, other: string])[] = [['WD-SA-01', 'WD-SA-02']];

export async function writePartsList({ db, connection }: Tx): Promise<void> {
  await bulkInsert(
    connection,
    'tax',
    ['name', 'category', 'hundredths', 'is_standard'],
    [
      ['Standard', 'S', 2300, 1],
      ['Reduced', 'S', 600, null],
      ['Exempt', 'E', 0, null],
    ],
  );
  await bulkInsert(
    connection,
    'part',
    ['number', 'name', 'unit', 'list_price', 'cost', 'consumable', 'serial_tracked', 'warranty_months'],
    PARTS.map(([number, name, unit, list, cost, kept]) => [
      ...[number, name, unit, list, cost],
      ...[kept === 'consumable' ? 1 : 0, kept === 'serial' ? 1 : 0, kept === 'serial' ? WARRANTY_MONTHS : 0],
    ]),
  );
  const ids = new Map((await db.select({ id: part.id, number: part.number }).from(part)).map((p) => [p.number, p.id]));
  await bulkInsert(
    connection,
    'part_alternative',
    ['part_id', 'other_id'],
    INSTEAD.map(([number, other]) => [ids.get(number), ids.get(other)]),
  );
}

/** Parts behind the faults of repairs done in the last weeks, and a toll now and then. */
export async function writeUsed(tx: Tx, random: Random, now: Instant): Promise<number> {
  const parts = new Map((await tx.db.select().from(part)).map((p) => [p.number, p]));
  const done = await tx.db
    .select({ line: orderLine, order: workOrder })
    .from(orderLine)
    .innerJoin(workOrder, eq(workOrder.id, orderLine.orderId))
    .where(
      and(
        inArray(workOrder.stage, ['done', 'settled']),
        eq(workOrder.kind, 'repair'),
        gte(workOrder.doneAt, instant(now - WEEKS * 7 * DAY)),
      ),
    )
    .orderBy(asc(orderLine.id));
  const rows = done.flatMap(({ line, order }) =>
    (USED[line.fault ?? ''] ?? []).flatMap(([number, thousandths]) => {
      const p = parts.get(number);
      const at = instantText(order.doneAt as Instant);
      return p ? [[order.id, line.id, p.id, thousandths, p.listPrice, p.cost, order.technicianId, at]] : [];
    }),
  );
  await bulkInsert(
    tx.connection,
    'used_part',
    ['order_id', 'order_line_id', 'part_id', 'thousandths', 'unit_price', 'unit_cost', 'person_id', 'at'],
    rows,
  );
  const tolls = done.filter(() => random.chance(0.3));
  await bulkInsert(
    tx.connection,
    'other_cost',
    ['order_id', 'order_line_id', 'day', 'text', 'cost', 'price', 'person_id', 'at'],
    tolls.map(({ line, order }) => {
      const price = random.whole(4, 38) * 50;
      const at = instantText(order.doneAt as Instant);
      return [order.id, line.id, at.slice(0, 10), 'Toll and parking', price, price, order.technicianId, at];
    }),
  );
  return rows.length;
}
