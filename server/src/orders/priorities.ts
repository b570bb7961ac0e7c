// What relies on a priority: it cannot be left out of the list while it does.
import { inArray } from 'drizzle-orm';
import { OPEN_STAGES } from '#core/orders/index.ts';
import type { Priority } from '#core/service-levels/index.ts';
import type { Db } from '../platform/database.ts';
import { serviceLevel } from '../service-levels/tables.ts';
import { alertRule } from '../signals/tables.ts';
import { workOrder } from './tables.ts';

/** Each priority that something relies on, with the first that does. */
export async function prioritiesInUse(db: Db): Promise<ReadonlyMap<Priority, string>> {
  const [levels, rules, orders] = await Promise.all([
    db.select({ name: serviceLevel.name, targets: serviceLevel.targets }).from(serviceLevel),
    db.select({ name: alertRule.name, priority: alertRule.priority }).from(alertRule),
    db
      .selectDistinct({ priority: workOrder.priority })
      .from(workOrder)
      .where(inArray(workOrder.stage, [...OPEN_STAGES])),
  ]);
  const used = new Map<Priority, string>();
  const note = (priority: Priority, by: string): void => void (used.has(priority) || used.set(priority, by));
  for (const { name, targets } of levels)
    for (const p of Object.keys(targets)) note(Number(p) as Priority, `the service level ${name}`);
  for (const { name, priority } of rules) note(priority, `the alert rule ${name}`);
  for (const { priority } of orders) note(priority, 'open orders');
  return used;
}
