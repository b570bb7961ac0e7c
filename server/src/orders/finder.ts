// What the finder knows orders by: the titles of repairs; those of visits say no more than their job plan. Numbers are looked up as they are.
import { eq, inArray } from 'drizzle-orm';
import { orderNumber, orderOfNumber } from '#api/shapes.ts';
import type { OrderId } from '#core/ids.ts';
import { customer } from '../customers/tables.ts';
import { keepFound } from '../platform/finder-index.ts';
import { idsBehind, shown, type FinderSource } from '../platform/finder-source.ts';
import type { Tx } from '../platform/database.ts';
import { workOrder } from './tables.ts';

export const ordersFound: FinderSource = {
  kind: 'order',
  async knownOf(db, ids) {
    const rows = await db
      .select({ id: workOrder.id, kind: workOrder.kind, title: workOrder.title })
      .from(workOrder)
      .where(inArray(workOrder.id, ids as OrderId[]));
    return rows.map((r) => ({ id: r.id, by: r.kind === 'preventive' ? [] : [shown(r.title)] }));
  },
  page: (db, after, limit) => idsBehind(db, workOrder.id, after, limit),
  async called(_db, asked) {
    const id = orderOfNumber(asked);
    return id === null ? [] : [id];
  },
  async show(db, ids) {
    const rows = await db
      .select({ id: workOrder.id, title: workOrder.title, customer: customer.name, stage: workOrder.stage })
      .from(workOrder)
      .innerJoin(customer, eq(customer.id, workOrder.customerId))
      .where(inArray(workOrder.id, ids as OrderId[]));
    return rows.map((r) => ({
      id: r.id,
      mark: '',
      title: `${orderNumber(r.id)} ${r.title}`,
      beside: `${r.customer}, ${r.stage}`,
      state: null,
      under: null,
      ribbon: null,
    }));
  },
};

export const indexOrders = (tx: Tx, ids: readonly OrderId[]): Promise<void> => keepFound(tx, ordersFound, ids);
