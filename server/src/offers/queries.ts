// Reading offers: the list with their age, and one with what it comes to.
import { and, desc, eq, gte, inArray, lt, or } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type { listOffers, OfferPage, OfferRow } from '#api/offers.ts';
import type { AssetId, OfferId } from '#core/ids.ts';
import { amountOfLine, standingOf, totalsOfOffer } from '#core/offers/index.ts';
import { DAY, type Instant, type LocalDate } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { contact, customer } from '../customers/tables.ts';
import { location } from '../places/tables.ts';
import type { Db } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import { offer, type KeptOfferLine } from './tables.ts';

export type When = { readonly now: Instant; readonly today: LocalDate };
type Held = typeof offer.$inferSelect;
const PAGE = 40;

/** What the lines come to, by the tax each had when it was written. */
export const totalsOfKept = (lines: readonly KeptOfferLine[]) =>
  totalsOfOffer(lines, (line) => (line as KeptOfferLine).rate);

const rowOf = (held: Held, owner: string, { now, today }: When): OfferRow => ({
  ...{ id: held.id, title: held.title, customer: { id: held.customerId, name: owner }, currency: held.currency },
  ...{ withoutTax: held.withoutTax, validUntil: held.validUntil, createdAt: held.createdAt, sentAt: held.sentAt },
  standing: standingOf(held.state, held.validUntil, today),
  age: Math.max(0, Math.floor((now - (held.sentAt ?? held.createdAt)) / DAY)),
  orderId: held.orderId,
});

function shown(show: Asked<typeof listOffers>['query']['show'], today: LocalDate) {
  const holds = and(eq(offer.state, 'sent'), gte(offer.validUntil, today));
  if (show === 'all') return undefined;
  if (show === 'sent') return holds;
  if (show === 'lapsed') return and(eq(offer.state, 'sent'), lt(offer.validUntil, today));
  return show === undefined || show === 'open' ? or(eq(offer.state, 'draft'), holds) : eq(offer.state, show);
}

export async function listOffersOf(
  db: Db,
  { show, customer: owner, order, after, limit = PAGE }: Asked<typeof listOffers>['query'],
  when: When,
) {
  const rows = await db
    .select({ held: offer, owner: customer.name })
    .from(offer)
    .innerJoin(customer, eq(customer.id, offer.customerId))
    .where(
      and(
        shown(show, when.today),
        owner ? eq(offer.customerId, owner) : undefined,
        order ? or(eq(offer.orderId, order), eq(offer.fromOrderId, order)) : undefined,
        after ? lt(offer.id, Number(after) as OfferId) : undefined,
      ),
    )
    .orderBy(desc(offer.id))
    .limit(limit + 1);
  const items = rows.slice(0, limit).map(({ held, owner: name }) => rowOf(held, name, when));
  return { items, next: rows.length > limit ? String(items.at(-1)?.id) : null, now: when.now };
}

/** Machines as they are shown, in the order asked for. */
export async function machinesOf(db: Db, ids: readonly AssetId[]): Promise<OfferPage['machines']> {
  if (ids.length === 0) return [];
  const found = await db
    .select({ id: asset.id, tag: asset.tag, model: asset.model, place: location.name })
    .from(asset)
    .leftJoin(location, eq(location.id, asset.locationId))
    .where(inArray(asset.id, [...ids]));
  const rows = new Map(found.map((row) => [row.id, row]));
  return ids.flatMap((id) => {
    const row = rows.get(id);
    return row ? [{ id, tag: row.tag, model: row.model, place: row.place ?? '' }] : [];
  });
}

export async function readOfferOf(db: Db, id: OfferId, when: When): Promise<OfferPage> {
  const [found] = await db
    .select({
      ...{ held: offer, owner: customer.name, overSince: customer.overSince, who: person.name },
      contact: { id: contact.id, name: contact.name, email: contact.email },
      place: { id: location.id, name: location.name },
    })
    .from(offer)
    .innerJoin(customer, eq(customer.id, offer.customerId))
    .leftJoin(contact, eq(contact.id, offer.contactId))
    .leftJoin(location, eq(location.id, offer.locationId))
    .leftJoin(person, eq(person.id, offer.personId))
    .where(eq(offer.id, id));
  if (!found) refuse('not-found', 'That offer does not exist.');
  const { held, owner, overSince, who, contact: to, place } = found;
  const { rows, list, off, cost, withoutTax, tax, withTax } = totalsOfKept(held.lines);
  return {
    ...rowOf(held, owner, when),
    ...{
      version: held.version,
      overSince,
      kind: held.kind,
      text: held.text,
      contact: to,
      place,
      who,
      sentTo: held.sentTo,
    },
    machines: await machinesOf(db, held.assetIds),
    lines: held.lines.map(({ rate: _rate, ...line }) => ({ ...line, ...amountOfLine(line) })),
    totals: { ...{ list, off, cost, withoutTax, tax, withTax }, rows: rows.map((row) => ({ ...row })) },
    ...{ decidedAt: held.decidedAt, decision: held.decision },
    ...{ fromOrderId: held.fromOrderId, fromMailId: held.fromMailId },
  };
}
