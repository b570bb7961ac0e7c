// The head of an order, field by field: what somebody else changed meanwhile stands, and of the same field it is asked.
import { eq } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type { changeHead } from '#api/calls.ts';
import type { OrderId } from '#core/ids.ts';
import { refuse } from '../platform/refuse.ts';
import type { Write } from '../platform/writing.ts';
import { contactOf } from './calls.ts';
import { indexOrders } from './finder.ts';
import { workOrder } from './tables.ts';

const NAMES = {
  title: 'the title',
  contactId: 'the contact on site',
  customerReference: 'the customer’s own number',
  wishedOn: 'the wished day',
} as const;
type Field = keyof typeof NAMES;

export const changeHeadOf = (write: Write, id: OrderId, body: Asked<typeof changeHead>['body']): Promise<void> =>
  write(async (tx, told) => {
    const [row] = await tx.db.select().from(workOrder).where(eq(workOrder.id, id)).for('update');
    if (!row) refuse('not-found', 'That work order does not exist.');
    const fields = (Object.keys(NAMES) as Field[]).filter((f) => body[f] !== undefined);
    for (const field of fields) {
      const asked = body[field] as { from: unknown; to: unknown };
      if (row[field] !== asked.from && row[field] !== asked.to)
        refuse(
          'stale',
          `Somebody changed ${NAMES[field]} meanwhile: it is “${field === 'contactId' ? 'another contact' : (row[field] ?? 'empty')}” now. Look at it and decide again.`,
          field,
        );
    }
    if (body.contactId) await contactOf(tx.db, body.contactId.to, row.customerId, 'contactId');
    const changed = Object.fromEntries(
      fields.flatMap((f) => ((body[f] as { to: unknown }).to === row[f] ? [] : [[f, (body[f] as { to: unknown }).to]])),
    );
    if (Object.keys(changed).length === 0) return;
    await tx.db
      .update(workOrder)
      .set({ ...changed, version: row.version + 1 })
      .where(eq(workOrder.id, id));
    if ('title' in changed) await indexOrders(tx, [id]);
    const names = (Object.keys(changed) as Field[]).map((f) => NAMES[f]);
    told({ subject: 'order', id, text: `changed ${names.join(', ')}` });
  });
