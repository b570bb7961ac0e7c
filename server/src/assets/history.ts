// Lines of past work: what finished repairs of like machines took, for whoever quotes the next one.
import { and, desc, eq, isNotNull, like, or, type SQL } from 'drizzle-orm';
import type * as contracts from '#api/assets.ts';
import type { Asked } from '#api/contract.ts';
import { spreadOf } from '#core/orders/index.ts';
import { localDateAt, type Instant, type Zone } from '#core/time/index.ts';
import { orderNumber } from '#api/shapes.ts';
import type { Cell } from '../platform/csv.ts';
import { customer } from '../customers/tables.ts';
import { isTechnician, orderLine, technicianName, workOrder } from '../orders/tables.ts';
import { person } from '../platform/tables.ts';
import { escapeLike, type Db } from '../platform/database.ts';
import { asset } from './tables.ts';

type Query = Asked<typeof contracts.searchHistory>['query'];

async function pastWork(db: Db, query: Query, money: boolean) {
  const wanted: SQL[] = [isNotNull(workOrder.doneAt), eq(workOrder.kind, 'repair'), eq(orderLine.off, false)];
  if (query.class) wanted.push(eq(asset.classId, query.class));
  if (query.model?.trim()) wanted.push(like(asset.model, `${escapeLike(query.model.trim())}%`));
  if (query.fault?.trim()) wanted.push(eq(orderLine.fault, query.fault.trim()));
  for (const word of (query.words ?? '')
    .split(/\s+/)
    .filter((w) => w !== '')
    .slice(0, 6)) {
    const text = `%${escapeLike(word)}%`;
    wanted.push(or(like(workOrder.title, text), like(orderLine.fault, text)) as SQL);
  }
  const lines = await db
    .select({
      orderId: workOrder.id,
      title: workOrder.title,
      fault: orderLine.fault,
      assetId: asset.id,
      tag: asset.tag,
      model: asset.model,
      customer: customer.name,
      doneAt: workOrder.doneAt,
      technician: technicianName,
      labourMinutes: orderLine.labourMinutes,
      partsCost: orderLine.partsCost,
      otherCost: orderLine.otherCost,
    })
    .from(orderLine)
    .innerJoin(workOrder, eq(workOrder.id, orderLine.orderId))
    .innerJoin(asset, eq(asset.id, orderLine.assetId))
    .innerJoin(customer, eq(customer.id, workOrder.customerId))
    .leftJoin(person, isTechnician)
    .where(and(...wanted))
    .orderBy(desc(workOrder.id), orderLine.id)
    .limit(2000);
  return lines.map((l) => ({
    ...l,
    doneAt: l.doneAt as Instant,
    ...(!money && { partsCost: null, otherCost: null }),
  }));
}

/** All that fit, the newest first, as a file’s rows. */
export async function pastWorkRows(db: Db, query: Query, money: boolean, zone: Zone): Promise<Cell[][]> {
  const amount = (minor: number | null): string | null => (minor === null ? null : (minor / 100).toFixed(2));
  return (await pastWork(db, query, money)).map((l) => [
    orderNumber(l.orderId),
    ...[l.title, l.fault, l.tag, l.model, l.customer, localDateAt(zone, l.doneAt), l.technician, l.labourMinutes],
    ...[amount(l.partsCost), amount(l.otherCost)],
  ]);
}
export const PAST_WORK_HEAD = [
  ...['order', 'title', 'fault', 'tag', 'model', 'customer', 'done on', 'technician', 'labour minutes'],
  ...['parts EUR', 'other EUR'],
];

/** `money`: whether whoever asks may see what it cost. */
export async function searchHistory(db: Db, query: Query, money: boolean) {
  const lines = await pastWork(db, query, money);
  const figures = (key: 'labourMinutes' | 'partsCost' | 'otherCost') =>
    spreadOf(lines.flatMap((l) => (l[key] === null ? [] : [l[key]])));
  const faults = new Map<string, number>();
  for (const { fault } of lines) if (fault) faults.set(fault, (faults.get(fault) ?? 0) + 1);
  return {
    total: lines.length,
    items: lines.slice(0, 100),
    spreads: {
      labourMinutes: figures('labourMinutes'),
      partsCost: money ? figures('partsCost') : null,
      otherCost: money ? figures('otherCost') : null,
    },
    faults: [...faults]
      .map(([fault, n]) => ({ fault, count: n }))
      .sort((a, b) => b.count - a.count)
      .slice(0, 12),
  };
}
