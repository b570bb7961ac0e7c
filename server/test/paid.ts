// Payments in tests: one as it is typed, and everything about money, to see that a refusal changed nothing.
import { randomUUID } from 'node:crypto';
import { asc } from 'drizzle-orm';
import { allocation, document, incomingPayment } from '../src/tables.ts';
import type { TestHouse } from './house.ts';

export const paymentOf = (customerId: number, over: object) => ({
  ...{ requestKey: randomUUID(), customerId, minor: 10_00, currency: 'EUR', bookedOn: '2026-11-23' },
  ...{ text: '', parts: [], ...over },
});

export async function moneyOf({ database: { db } }: TestHouse) {
  return [
    await db
      .select({ id: document.id, unpaid: document.unpaid, due: document.openDue })
      .from(document)
      .orderBy(asc(document.id)),
    await db.select().from(incomingPayment).orderBy(asc(incomingPayment.id)),
    await db.select().from(allocation).orderBy(asc(allocation.id)),
  ];
}
