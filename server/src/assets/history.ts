// Lines of past work: what finished repairs of like machines took, for whoever quotes the next one.
import { and, desc, eq, isNotNull, like, or, type SQL } from 'drizzle-orm';
import type * as contracts from '#api/assets.ts';
import type { Asked } from '#api/contract.ts';
import { spreadOf } from '#core/orders/index.ts';
import type { Instant } from '#core/time/index.ts';
import { customer } from '../customers/tables.ts';
import { orderLine, workOrder } from '../orders/tables.ts';
import { escapeLike, type Db } from '../platform/database.ts';
import { asset } from './tables.ts';

type Query = Asked<typeof contracts.searchHistory>['query'];

/** `money`: whether whoever asks may see what it cost. */
export async function searchHistory(db: Db, query: Query, money: boolean) {
  const wanted: SQL[] = [isNotNull(workOrder.doneAt), eq(workOrder.kind, 'repair')];
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
      technician: workOrder.technician,
      labourMinutes: orderLine.labourMinutes,
      partsCost: orderLine.partsCost,
      otherCost: orderLine.otherCost,
    })
    .from(orderLine)
    .innerJoin(workOrder, eq(workOrder.id, orderLine.orderId))
    .innerJoin(asset, eq(asset.id, orderLine.assetId))
    .innerJoin(customer, eq(customer.id, workOrder.customerId))
    .where(and(...wanted))
    .orderBy(desc(workOrder.id))
    .limit(2000);
  const figures = (key: 'labourMinutes' | 'partsCost' | 'otherCost') =>
    spreadOf(lines.flatMap((l) => (l[key] === null ? [] : [l[key]])));
  const faults = new Map<string, number>();
  for (const { fault } of lines) if (fault) faults.set(fault, (faults.get(fault) ?? 0) + 1);
  return {
    total: lines.length,
    items: lines.slice(0, 100).map((l) => ({
      ...l,
      doneAt: l.doneAt as Instant,
      ...(!money && { partsCost: null, otherCost: null }),
    })),
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
