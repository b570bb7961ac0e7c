// Accepting an offer: the order that comes of it, once, with its machines, minutes, parts, words and files.
import { and, eq, inArray } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import { offerNumber, type acceptOffer } from '#api/offers.ts';
import type { AssetId, OfferId, OrderId } from '#core/ids.ts';
import { sayMoney } from '#core/money.ts';
import { checkOfferAct } from '#core/offers/index.ts';
import { carryFiles } from '../assets/index.ts';
import type { PlanToDo } from '../catalogue/index.ts';
import { raiseFromCall, recordActIn } from '../orders/index.ts';
import { workOrder } from '../orders/tables.ts';
import { keepAudit } from '../platform/audit.ts';
import type { Database, Db } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { announce } from '../platform/live.ts';
import { refuse, Refused } from '../platform/refuse.ts';
import { part } from '../stores/tables.ts';
import { lockFor } from './acts.ts';
import type { When } from './queries.ts';
import { offer } from './tables.ts';

type Held = typeof offer.$inferSelect;

/** What is to be done on each machine, as it was offered: its minutes, its parts of the parts list, and the rest as tasks. */
function plansOf(
  { id, title, lines, assetIds }: Held,
  parts: ReadonlyMap<number, Pick<typeof part.$inferSelect, 'number' | 'name'>>,
): Map<AssetId | null, PlanToDo> {
  const machines: readonly (AssetId | null)[] = assetIds.length > 0 ? assetIds : [null];
  return new Map(
    machines.map((machine, i) => {
      // What is of no machine is done with the first.
      const own = lines.filter((l) => l.assetId === machine || (i === 0 && l.assetId === null));
      const work = own.filter((l) => l.kind === 'work');
      const minutes = work.reduce((sum, l) => sum + l.quantity, 0);
      const planned = own.flatMap((l) =>
        l.kind === 'part' && l.partId !== null
          ? [
              {
                ...{ partId: l.partId, unit: l.unit, thousandths: l.quantity },
                ...{ number: parts.get(l.partId)?.number ?? '', name: parts.get(l.partId)?.name ?? l.text },
              },
            ]
          : [],
      );
      return [
        machine,
        {
          ...{ id: 0 as PlanToDo['id'], name: title, minutes },
          tasks: work.map((l) => ({ text: l.text.slice(0, 200), mandatory: true })),
          kept: {
            name: `${offerNumber(id)} ${title}`,
            version: 1,
            minutes,
            crew: 1,
            skills: [],
            safety: '',
            parts: planned,
            formIds: [],
          },
        },
      ];
    }),
  );
}

/** What stays to be known of the offer on its order: its words, what it was offered for, and parts that are to be purchased. */
function noteOf(row: Held, by: string): string {
  const bought = row.lines.filter((l) => l.kind === 'part' && l.partId === null);
  return [
    `${offerNumber(row.id)} accepted by ${by}: ${sayMoney({ minor: row.withoutTax, currency: row.currency })} without tax.`,
    ...(bought.length > 0
      ? [
          `To be purchased: ${bought.map((l) => [l.text, l.supplier && `from ${l.supplier}`].filter((x) => x).join(' ')).join('; ')}.`,
        ]
      : []),
    row.text,
  ]
    .filter((x) => x !== '')
    .join('\n')
    .slice(0, 3500);
}

/** The order of an offer that was accepted by the same request. */
async function acceptedBefore(db: Db, id: OfferId, requestKey: string): Promise<OrderId | null> {
  const [row] = await db
    .select({ id: workOrder.id })
    .from(offer)
    .innerJoin(workOrder, eq(workOrder.id, offer.orderId))
    .where(and(eq(offer.id, id), eq(workOrder.requestKey, requestKey)));
  return row?.id ?? null;
}

/**
 * Accepts an offer: its order is raised with its machines, minutes, parts, words and files. A repeated request key gives the order
 * again. Refused: an offer that does not hold, or was accepted already, and whatever a call is refused for.
 */
export async function acceptOfferOf(
  database: Database,
  who: Person,
  id: OfferId,
  body: Asked<typeof acceptOffer>['body'],
  when: When,
): Promise<{ orderId: OrderId }> {
  try {
    return { orderId: await raiseOffered(database, who, id, body, when) };
  } catch (error) {
    // Sent twice, perhaps at once: the first one's order.
    const before = error instanceof Refused ? await acceptedBefore(database.db, id, body.requestKey) : null;
    if (before === null) throw error;
    return { orderId: before };
  }
}

async function raiseOffered(
  database: Database,
  who: Person,
  id: OfferId,
  { requestKey, by, ...asked }: Asked<typeof acceptOffer>['body'],
  when: When,
): Promise<OrderId> {
  const [row] = await database.db.select().from(offer).where(eq(offer.id, id));
  if (!row) refuse('not-found', 'That offer does not exist.');
  const refused = checkOfferAct('accept', row, when.today);
  if (refused) throw new Refused([refused]);
  if (row.assetIds.length === 0 && row.locationId === null)
    refuse('missing', 'It names neither a machine nor a place to go to: begin another offer from it that does.');
  const partIds = row.lines.flatMap((l) => l.partId ?? []);
  const parts = partIds.length === 0 ? [] : await database.db.select().from(part).where(inArray(part.id, partIds));
  return raiseFromCall(
    database,
    {
      ...{ kind: row.kind, title: row.title, cause: 'unknown', priority: asked.priority },
      ...{
        assetIds: [...row.assetIds],
        locationId: row.locationId,
        customerId: row.customerId,
        callerId: row.contactId,
      },
      ...{
        customerReference: asked.customerReference,
        wishedOn: asked.wishedOn,
        overTermsReason: asked.overTermsReason,
      },
      ...{ startedAt: when.now, fallbackZone: who.zone, requestKey, who: who.id, role: who.role },
      raisedText: `offer ${offerNumber(id)} accepted: ${row.title}`,
      plans: plansOf(row, new Map(parts.map((p) => [p.id as number, p]))),
    },
    when.now,
    async (tx, order) => {
      await lockFor(tx, 'accept', id, when);
      await recordActIn(
        tx,
        order,
        { at: when.now, requestKey: `offer-${id}`, who: who.id, act: { kind: 'note', text: noteOf(row, by) } },
        when.now,
      );
      await carryFiles(tx, { subject: 'offer', id }, order);
      await tx.db
        .update(offer)
        .set({ state: 'accepted', decision: by, decidedAt: when.now, orderId: order, version: row.version + 1 })
        .where(eq(offer.id, id));
      await keepAudit(tx, who, 'offer', id, `${offerNumber(id)} accepted by ${by}`);
      await announce(tx, { touches: ['offers', 'register'] });
    },
  );
}
