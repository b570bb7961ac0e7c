// Parts that technicians ask for their vans, beside any order: carried there, or declined with a reason.
import { group } from 'd3-array';
import { and, asc, desc, eq, gte, inArray, or, sql } from 'drizzle-orm';
import type { BodyOf } from '#api/contract.ts';
import type { FieldDays } from '#api/field.ts';
import type { sendVanAsk, VanAskOut } from '#api/vans.ts';
import type { PartId, PersonId, VanAskId } from '#core/ids.ts';
import { availableIn, sayAmount } from '#core/stores/index.ts';
import { DAY, instant, type Instant } from '#core/time/index.ts';
import type { Database, Db, Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { refuse } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import type { Told, Write } from '../platform/writing.ts';
import { noteArrivals } from './arrivals.ts';
import { appendMoves, carried } from './ledger.ts';
import { once } from './moving.ts';
import { ownVan } from './own-van.ts';
import { part, stock, store } from './tables.ts';
import { vanAsk } from './van-tables.ts';

type Wanted = { readonly partId: PartId; readonly thousandths: number; readonly text: string };

/** Asks for a part for one's own van. Refused: nobody's van, and a part that is not. */
export async function askForVan(
  tx: Tx,
  told: Told,
  who: Person,
  { partId, thousandths, text }: Wanted,
  { key, at }: { readonly key: string; readonly at: Instant },
): Promise<void> {
  const van = await ownVan(tx, who);
  const [known] = await tx.db.select({ name: part.name, unit: part.unit }).from(part).where(eq(part.id, partId));
  if (!known) refuse('not-found', 'That part does not exist; choose another.', 'partId');
  await tx.db.insert(vanAsk).values({
    ...{ storeId: van.id, personId: who.id, partId, thousandths, text, at },
    ...{ state: 'asked', requestKey: key },
  });
  told({ subject: 'store', id: van.id, text: `${sayAmount(thousandths, known.unit)} of ${known.name} asked for` });
}

const SHOWN_FOR = 7 * DAY;
const MOST = 100;

/** What somebody asked for and has not, and what was said to it lately. */
export async function asksOf(db: Db, who: PersonId, now: Instant): Promise<NonNullable<FieldDays['van']>['asked']> {
  const rows = await db
    .select({ ask: vanAsk, part })
    .from(vanAsk)
    .innerJoin(part, eq(part.id, vanAsk.partId))
    .where(
      and(eq(vanAsk.personId, who), or(eq(vanAsk.state, 'asked'), gte(vanAsk.answeredAt, instant(now - SHOWN_FOR)))),
    )
    .orderBy(desc(vanAsk.id))
    .limit(MOST);
  return rows.map(({ ask: a, part: p }) => ({
    ...{ id: a.id, partId: p.id, number: p.number, name: p.name, unit: p.unit, thousandths: a.thousandths },
    ...{ state: a.state, answer: a.answer },
  }));
}

/** What waits for an answer, with where some of it is free. */
export async function openAsks(db: Db): Promise<{ items: VanAskOut[]; more: boolean }> {
  const rows = await db
    .select({ ask: vanAsk, part, van: store.name, who: person.name })
    .from(vanAsk)
    .innerJoin(part, eq(part.id, vanAsk.partId))
    .innerJoin(store, eq(store.id, vanAsk.storeId))
    .innerJoin(person, eq(person.id, vanAsk.personId))
    .where(eq(vanAsk.state, 'asked'))
    .orderBy(asc(vanAsk.id))
    .limit(MOST + 1);
  const shown = rows.slice(0, MOST);
  const parts = [...new Set(shown.map((r) => r.part.id))];
  const held =
    parts.length === 0
      ? []
      : await db
          .select({ stock, name: store.name })
          .from(stock)
          .innerJoin(store, and(eq(store.id, stock.storeId), eq(store.kind, 'depot'), eq(store.retired, false)))
          .where(and(inArray(stock.partId, parts), sql`${stock.onHand} > 0`));
  const free = group(
    held.map((h) => ({ partId: h.stock.partId, id: h.stock.storeId, name: h.name, free: availableIn(h.stock) })),
    (h) => h.partId,
  );
  return {
    more: rows.length > MOST,
    items: shown.map(({ ask: a, part: p, van, who }) => ({
      ...{ id: a.id, van: { id: a.storeId, name: van }, who, at: a.at, thousandths: a.thousandths, text: a.text },
      part: { id: p.id, number: p.number, name: p.name, unit: p.unit, serialTracked: p.serialTracked },
      from: (free.get(p.id) ?? [])
        .filter((f) => f.free > 0)
        .sort((x, y) => y.free - x.free)
        .map(({ id, name, free: n }) => ({ id, name, free: n })),
    })),
  };
}

async function mustWait(tx: Tx, id: VanAskId) {
  const [ask] = await tx.db.select().from(vanAsk).where(eq(vanAsk.id, id)).for('update');
  if (!ask) refuse('not-found', 'Nobody asked for that.');
  if (ask.state !== 'asked') refuse('conflict', `It is ${ask.state} already.`);
  return ask;
}

/** Carries it into the van, in one act: as much as is said. */
export const sendAsk = (
  database: Database,
  write: Write,
  who: Person,
  id: VanAskId,
  { requestKey, fromId, thousandths, serials }: BodyOf<typeof sendVanAsk>,
  now: Instant,
): Promise<unknown> => {
  const body = { requestKey, text: 'asked for', vanAsk: id, fromId, thousandths, serials };
  return once(database, write, body, { kind: 'transfer', personId: who.id, at: now }, async (tx, told, act) => {
    const ask = await mustWait(tx, id);
    const line = { partId: ask.partId, thousandths, serials, field: '' };
    const made = await appendMoves(tx, act, carried(fromId, ask.storeId, line));
    await noteArrivals(tx, made.id, [ask.storeId], who, now);
    await tx.db.update(vanAsk).set({ state: 'sent', answeredAt: now }).where(eq(vanAsk.id, id));
    told({ subject: 'store', id: ask.storeId, text: 'what was asked for was put in' });
    return made.id;
  });
};

export const declineAsk = (write: Write, id: VanAskId, text: string, now: Instant): Promise<void> =>
  write(async (tx, told) => {
    const ask = await mustWait(tx, id);
    await tx.db.update(vanAsk).set({ state: 'declined', answer: text, answeredAt: now }).where(eq(vanAsk.id, id));
    told({ subject: 'store', id: ask.storeId, text: `what was asked for does not come: ${text}` });
  });
