// Crafts and rate cards, and the card that holds where nothing else is agreed.
import { and, asc, count, eq, inArray, isNotNull, ne, or } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type * as contracts from '#api/labour.ts';
import type { CraftId, CustomerId, RateCardId } from '#core/ids.ts';
import { checkRateCard, type RateCard } from '#core/labour/index.ts';
import type { Currency } from '#core/money.ts';
import type { Db, Tx } from '../platform/database.ts';
import { Refused, refuse, stale } from '../platform/refuse.ts';
import { writeNamed, type Write } from '../platform/writing.ts';
import { customer } from '../customers/tables.ts';
import { craft, heldCardId, rateCard } from './tables.ts';

/** Customers that are named where it is said with whom a card is agreed. */
const NAMED = 100;

export async function readRates(db: Db) {
  const [crafts, cards, agreed, named] = await Promise.all([
    db.select().from(craft).orderBy(asc(craft.name)).limit(500),
    db.select().from(rateCard).orderBy(asc(rateCard.name)).limit(500),
    db
      .select({ id: customer.rateCardId, count: count() })
      .from(customer)
      .where(isNotNull(customer.rateCardId))
      .groupBy(customer.rateCardId),
    db
      .select({ id: customer.rateCardId, name: customer.name })
      .from(customer)
      .where(isNotNull(customer.rateCardId))
      .orderBy(asc(customer.name))
      .limit(NAMED),
  ]);
  return {
    crafts,
    cards: cards.map(({ card, isStandard, ...row }) => ({
      ...{ ...row, isStandard: isStandard === true, ...cardOut(card) },
      agreedWith: {
        names: named.filter((c) => c.id === row.id).map((c) => c.name),
        count: agreed.find((c) => c.id === row.id)?.count ?? 0,
      },
    })),
  };
}

const cardOut = ({ rates, surcharges, billing, night, callOut, travel }: Omit<RateCard, 'name' | 'currency'>) => ({
  rates: rates.map((r) => ({ ...r })),
  surcharges: { ...surcharges },
  billing: { ...billing },
  night: night && { ...night },
  ...{ callOut, travel },
});

const cardOf = (row: typeof rateCard.$inferSelect | undefined): RateCard | null =>
  row ? { name: row.name, currency: row.currency, ...row.card } : null;

/** The standard card; null while there is none: then time costs nothing yet. */
export async function standardCard(db: Db): Promise<RateCard | null> {
  const [row] = await db.select().from(rateCard).where(eq(rateCard.isStandard, true));
  return cardOf(row);
}

/** Cards by their ids; null, and one that is none, is the standard one. */
export async function cardsOf(
  db: Db,
  ids: readonly (RateCardId | null)[],
): Promise<(id: RateCardId | null) => RateCard | null> {
  const wanted = [...new Set(ids.flatMap((id) => id ?? []))];
  const rows = await db
    .select()
    .from(rateCard)
    .where(or(eq(rateCard.isStandard, true), wanted.length === 0 ? undefined : inArray(rateCard.id, wanted)));
  const standard = cardOf(rows.find((r) => r.isStandard === true));
  return (id) => (id === null ? null : cardOf(rows.find((r) => r.id === id))) ?? standard;
}

/** The card that holds for a customer; for nobody in particular the standard one. */
export async function cardFor(db: Db, id: CustomerId | null): Promise<RateCard | null> {
  const [owner] = id === null ? [] : await db.select({ cardId: heldCardId }).from(customer).where(eq(customer.id, id));
  const cardId = owner?.cardId ?? null;
  return (await cardsOf(db, [cardId]))(cardId);
}

type CardBody = Asked<typeof contracts.addRateCard>['body'];

/** Refused: what the core refuses, crafts that do not exist, and a currency other than that of the other cards. */
async function columnsOf(tx: Tx, own: RateCardId | null, { name, currency, isStandard, ...rest }: CardBody) {
  const [other] = await tx.db
    .select({ name: rateCard.name, currency: rateCard.currency })
    .from(rateCard)
    .where(and(ne(rateCard.currency, currency as Currency), own === null ? undefined : ne(rateCard.id, own)))
    .limit(1);
  // What an order comes to is one sum, of time by one card and of parts by the parts list.
  if (other)
    refuse('conflict', `“${other.name}” is in ${other.currency}; all rate cards are in one currency.`, 'currency');
  const card: RateCard = { name, currency: currency as Currency, ...rest };
  const found = checkRateCard(card);
  if (found.length > 0) throw new Refused(found);
  const ids = [...new Set(rest.rates.map((r) => r.craftId))];
  const known = await tx.db.select({ id: craft.id }).from(craft).where(inArray(craft.id, ids));
  rest.rates.forEach(({ craftId }, i) => {
    if (!known.some((k) => k.id === craftId))
      refuse('not-found', 'That craft does not exist; choose another.', `rates.${i}.craftId`);
  });
  return { name, currency: card.currency, isStandard: isStandard ? true : null, card: rest };
}

/** Only one card is the standard: the other is it no more. */
async function beOnlyStandard(tx: Tx, id: RateCardId | null, isStandard: boolean | null): Promise<void> {
  if (isStandard !== true) return;
  await tx.db
    .update(rateCard)
    .set({ isStandard: null })
    .where(and(eq(rateCard.isStandard, true), id === null ? undefined : ne(rateCard.id, id)));
}

export const addRateCard = (write: Write, body: CardBody) =>
  writeNamed(write, 'rate card', `added ${body.name}`, async (tx) => {
    const columns = await columnsOf(tx, null, body);
    await beOnlyStandard(tx, null, columns.isStandard);
    const [row] = await tx.db.insert(rateCard).values(columns).$returningId();
    return { id: row?.id as number };
  });

/** Refused: a card changed since it was read, and taking the standard away from the only one that is. */
export const changeRateCard = (write: Write, id: RateCardId, { version, ...body }: CardBody & { version: number }) =>
  writeNamed(write, 'rate card', `changed ${body.name}`, async (tx) => {
    const [row] = await tx.db.select().from(rateCard).where(eq(rateCard.id, id)).for('update');
    if (!row) refuse('not-found', 'That rate card does not exist.');
    if (row.version !== version) stale(row);
    const columns = await columnsOf(tx, id, body);
    if (row.isStandard === true && columns.isStandard === null)
      refuse('conflict', 'This is the standard card; make another one the standard instead.', 'isStandard');
    await beOnlyStandard(tx, id, columns.isStandard);
    await tx.db
      .update(rateCard)
      .set({ ...columns, version: version + 1 })
      .where(eq(rateCard.id, id));
    return { id };
  });

export const addCraft = (write: Write, name: string) =>
  writeNamed(write, 'craft', `added ${name}`, async (tx) => {
    const [row] = await tx.db.insert(craft).values({ name }).$returningId();
    return { id: row?.id as number };
  });

export const changeCraft = (write: Write, id: CraftId, { name, version }: { name: string; version: number }) =>
  writeNamed(write, 'craft', `changed to ${name}`, async (tx) => {
    const [row] = await tx.db.select().from(craft).where(eq(craft.id, id)).for('update');
    if (!row) refuse('not-found', 'That craft does not exist.');
    if (row.version !== version) stale(row);
    await tx.db
      .update(craft)
      .set({ name, version: version + 1 })
      .where(eq(craft.id, id));
    return { id };
  });
