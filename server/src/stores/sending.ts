// A purchase order leaves: by mail with its paper, or handed over; from then on its days are promised.
import { and, eq, isNull } from 'drizzle-orm';
import type { BodyOf } from '#api/contract.ts';
import { purchaseNumber, type sendPurchase } from '#api/purchases.ts';
import type { PurchaseId } from '#core/ids.ts';
import { againstSending, hereOn } from '#core/stores/index.ts';
import { localDateAt, type Instant } from '#core/time/index.ts';
import { tellOutside } from '../outbox/index.ts';
import { keepContent } from '../platform/content.ts';
import type { Database } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { refuse, Refused, stale } from '../platform/refuse.ts';
import type { Write } from '../platform/writing.ts';
import { drawPurchase } from './jobs.ts';
import { PURCHASE_SENT } from './messages.ts';
import { mustBeIn, purchaseUnderLock } from './purchases.ts';
import { purchaseShown } from './purchase-read.ts';
import { purchase, purchaseLine } from './purchase-tables.ts';
import { storeSettings } from './settings.ts';

/** Drawn before anything is locked, as it stands then: one changed meanwhile is refused. */
export async function sendOf(
  database: Database,
  write: Write,
  who: Person,
  id: PurchaseId,
  { version, byMail }: BodyOf<typeof sendPurchase>,
  now: Instant,
): Promise<void> {
  const page = await purchaseShown(database.db, id, who.role);
  const { supplier, store } = page;
  const promisedOn = hereOn(localDateAt(who.zone, now), supplier.leadDays);
  const paper = byMail
    ? await drawPurchase({ ...page, lines: page.lines.map((l) => ({ ...l, promisedOn: l.promisedOn ?? promisedOn })) })
    : null;
  await write(async (tx, told) => {
    const { order, lines } = await purchaseUnderLock(tx, id);
    mustBeIn(order, ['draft'], 'it is sent once.');
    if (order.version !== version || page.version !== version) stale({ id, version: order.version });
    const { approvalLimit } = await storeSettings(tx.db);
    const against = againstSending(lines, order.approvedBy !== null, approvalLimit);
    if (against.length > 0) throw new Refused(against);
    if (byMail && supplier.email === '')
      refuse('missing', `${supplier.name} has no e-mail address: write one, or hand it over on paper.`, 'byMail');
    if (paper) {
      const sha256 = await keepContent(tx, paper, 'application/pdf');
      const number = purchaseNumber(id);
      await tellOutside(
        tx,
        PURCHASE_SENT,
        { name: supplier.name, mail: supplier.email, phone: null, prefers: 'mail', language: 'en', personId: null },
        {
          ...{ key: `purchase ${id}`, about: { subject: 'purchase', id }, now },
          values: { name: supplier.name, number, store: store.name, who: who.name },
          paper: { sha256, name: `${number}.pdf` },
        },
      );
    }
    await tx.db
      .update(purchaseLine)
      .set({ promisedOn })
      .where(and(eq(purchaseLine.purchaseId, id), isNull(purchaseLine.promisedOn)));
    await tx.db
      .update(purchase)
      .set({ stage: 'sent', sentAt: now, sentTo: byMail ? supplier.email : '', version: version + 1 })
      .where(eq(purchase.id, id));
    told({ subject: 'purchase', id, text: `sent ${purchaseNumber(id)} to ${supplier.name}` });
  });
}
