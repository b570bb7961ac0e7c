// Claims to makers: made with the approval of an order, asked, sent, answered and closed; what they tell the accounts is appended.
import { group } from 'd3-array';
import { and, asc, desc, eq, inArray, sql } from 'drizzle-orm';
import type { BodyOf } from '#api/contract.ts';
import type * as contracts from '#api/claims.ts';
import { claimNumber } from '#api/claims.ts';
import { orderNumber } from '#api/shapes.ts';
import type { ChargeId, ClaimId, IncomingId, OrderId } from '#core/ids.ts';
import { sayAmountOf } from '#core/money.ts';
import {
  acceptedOf,
  answerClaim,
  askedOf,
  askInClaim,
  claimsOf,
  closeClaim,
  giveClaimUp,
  openClaimAgain,
  sendClaim,
  type Claim,
  type ClaimEntry,
} from '#core/settle/index.ts';
import { localDateAt } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { markCredit } from '../customers/index.ts';
import { tellOutside } from '../outbox/index.ts';
import { keepContent } from '../platform/content.ts';
import { bulkInsert, insertedIds, type Tx } from '../platform/database.ts';
import { accept, refuse, stale } from '../platform/refuse.ts';
import { unlessTaken, type Told, type Write } from '../platform/writing.ts';
import { claim, claimEntry, claimLine, claimMaker, claimStep, type CLAIM_STEPS } from './claim-tables.ts';
import { orderApproval, orderCharge, orderLook } from './document-tables.ts';
import { stateOf } from './incoming.ts';
import type { By } from './laying.ts';
import { CLAIMED } from './messages.ts';
import { incomingPayment } from './paid-tables.ts';

/** Claims of orders whose approval stands from now on: one for each maker whose warranty bears something. */
export async function drawClaimsUp(tx: Tx, ids: readonly OrderId[]): Promise<void> {
  if (ids.length === 0) return;
  const rows = await tx.db
    .select({
      ...{ orderId: orderCharge.orderId, chargeId: orderCharge.id, borne: orderCharge.borne },
      ...{ currency: orderApproval.currency, doneOn: orderLook.doneOn },
      maker: sql<string>`coalesce(${asset.maker}, '')`,
    })
    .from(orderCharge)
    .innerJoin(orderApproval, eq(orderApproval.orderId, orderCharge.orderId))
    .innerJoin(orderLook, eq(orderLook.orderId, orderCharge.orderId))
    .leftJoin(asset, eq(asset.id, orderCharge.assetId))
    .where(and(inArray(orderCharge.orderId, [...ids]), eq(orderCharge.bears, 'warranty')))
    .orderBy(asc(orderCharge.orderId), asc(orderCharge.id));
  const drawn = [...group(rows, (r) => r.orderId).values()].flatMap((own) =>
    claimsOf(own).map((made) => ({ made, of: own[0] as (typeof rows)[number] })),
  );
  const first = await bulkInsert(
    tx.connection,
    'claim',
    ['order_id', 'state', 'maker', 'currency', 'done_on', 'asked'],
    drawn.map(({ made, of }) => [of.orderId, made.state, made.maker, of.currency, of.doneOn, askedOf(made)]),
  );
  const claimIds = await insertedIds(tx.connection, first, drawn.length);
  await bulkInsert(
    tx.connection,
    'claim_line',
    ['claim_id', 'charge_id', 'borne', 'asked'],
    drawn.flatMap(({ made }, i) => made.lines.map((l) => [claimIds[i], l.chargeId, l.borne, l.asked])),
  );
}

/** An approval is taken back: its claims go with it. Refused: once the maker was asked. */
export async function dropClaims(tx: Tx, id: OrderId): Promise<void> {
  const rows = await tx.db.select().from(claim).where(eq(claim.orderId, id)).for('update');
  const asked = rows.find((r) => r.state !== 'to send');
  if (asked)
    refuse('conflict', `${claimNumber(asked.id)} for it is ${asked.state}, so what ${orderNumber(id)} came to stays.`);
  if (rows.length === 0) return;
  const ids = rows.map((r) => r.id);
  await tx.db.delete(claimLine).where(inArray(claimLine.claimId, ids));
  await tx.db.delete(claimStep).where(inArray(claimStep.claimId, ids));
  await tx.db.delete(claim).where(inArray(claim.id, ids));
}

type Row = typeof claim.$inferSelect;
type Held = { readonly row: Row; readonly claim: Claim };

/** A claim under lock, as it was seen. Refused: another version. */
async function hold(tx: Tx, id: ClaimId, version: number): Promise<Held> {
  const [row] = await tx.db.select().from(claim).where(eq(claim.id, id)).for('update');
  if (!row) refuse('not-found', 'That claim does not exist; its approval may have been taken back.');
  if (row.version !== version) stale({ id, version: row.version });
  const lines = await tx.db.select().from(claimLine).where(eq(claimLine.claimId, id)).orderBy(asc(claimLine.chargeId));
  return { row, claim: { state: row.state, maker: row.maker, lines } };
}

/** Keeps what became of a claim: its lines, sums and stage, what it told the accounts, and the step in words. */
async function keep(
  tx: Tx,
  told: Told,
  { row }: Held,
  next: Claim,
  by: By,
  more: {
    readonly set?: Partial<Row>;
    readonly entries?: readonly ClaimEntry[];
    readonly incomingId?: IncomingId | null;
    readonly step?: { readonly what: (typeof CLAIM_STEPS)[number]; readonly text: string };
    readonly says: string;
  },
): Promise<void> {
  const { set = {}, entries = [], incomingId = null, step, says } = more;
  const today = localDateAt(by.who.zone, by.now);
  await tx.db
    .insert(claimLine)
    .values(next.lines.map((l) => ({ ...l, claimId: row.id, chargeId: l.chargeId as ChargeId })))
    .onDuplicateKeyUpdate({
      set: {
        asked: sql`values(${sql.identifier('asked')})`,
        accepted: sql`values(${sql.identifier('accepted')})`,
        why: sql`values(${sql.identifier('why')})`,
      },
    });
  await tx.db
    .update(claim)
    .set({
      ...{ state: next.state, maker: next.maker, asked: askedOf(next), version: row.version + 1, ...set },
      accepted: next.lines.every((l) => l.accepted === null) ? null : acceptedOf(next),
    })
    .where(eq(claim.id, row.id));
  if (entries.length > 0)
    await tx.db.insert(claimEntry).values(
      entries.map((e) => ({
        ...{ claimId: row.id, kind: e.kind, maker: next.maker, currency: row.currency, minor: e.minor },
        ...{ incomingId: e.kind === 'payment' ? incomingId : null, on: today, personId: by.who.id, at: by.now },
      })),
    );
  if (step) await tx.db.insert(claimStep).values({ claimId: row.id, ...step, personId: by.who.id, at: by.now });
  told({ subject: 'claim', id: row.id, text: says });
}

export const changeClaimIn = (
  write: Write,
  id: ClaimId,
  { version, ...asked }: BodyOf<typeof contracts.changeClaim>,
  by: By,
): Promise<void> =>
  write(async (tx, told) => {
    const held = await hold(tx, id, version);
    const next = accept(askInClaim(held.claim, asked));
    await keep(tx, told, held, next, by, { says: `asks ${next.maker} for ${askedOf(next)}` });
  });

/** Sends a claim with the paper that was drawn of this very version. Refused: by mail to a maker whose address nobody wrote. */
export const sendClaimIn = (
  write: Write,
  id: ClaimId,
  { version, way, text }: BodyOf<typeof contracts.sendClaim>,
  paper: Buffer,
  by: By,
): Promise<void> =>
  write(async (tx, told) => {
    const held = await hold(tx, id, version);
    const next = accept(sendClaim(held.claim));
    const [to] = await tx.db.select().from(claimMaker).where(eq(claimMaker.name, next.maker));
    if (way === 'mail' && !to?.mail)
      refuse('missing', `Write where claims to ${next.maker} go, or say how it was handed in.`, 'way');
    if (way === 'otherwise' && text.trim() === '')
      refuse('missing', 'Say where it was handed in, such as the page of theirs and its number.', 'text');
    const sha256 = await keepContent(tx, paper, 'application/pdf');
    const number = claimNumber(id);
    const amount = `${held.row.currency} ${sayAmountOf(askedOf(next), held.row.currency)}`;
    if (way === 'mail' && to)
      await tellOutside(
        tx,
        CLAIMED,
        {
          ...{ name: next.maker, personId: null, mail: to.mail, phone: null, prefers: 'mail' },
          ...{ language: 'en', hasBrowser: false },
        },
        {
          key: `claim ${id} ${version}`,
          values: { number, amount, order: orderNumber(held.row.orderId), text: text.trim() },
          ...{ about: { subject: 'claim', id }, paper: { sha256, name: `${number}.pdf` }, now: by.now },
        },
      );
    await keep(tx, told, held, next, by, {
      set: { sentOn: localDateAt(by.who.zone, by.now), paper: sha256 },
      step: { what: 'sent', text: [way === 'mail' ? `to ${to?.mail}` : '', text.trim()].filter(Boolean).join(': ') },
      says: `sent to ${next.maker}`,
    });
  });

export const answerClaimIn = (
  write: Write,
  id: ClaimId,
  { version, theirNumber, lines }: BodyOf<typeof contracts.answerClaim>,
  by: By,
): Promise<void> =>
  write(async (tx, told) => {
    const held = await hold(tx, id, version);
    const { claim: next, entries } = accept(answerClaim(held.claim, lines));
    const amount = sayAmountOf(acceptedOf(next), held.row.currency);
    await keep(tx, told, held, next, by, {
      ...{ set: { theirNumber }, entries },
      step: { what: 'answered', text: [`accepts ${amount}`, theirNumber].filter(Boolean).join(', ') },
      says: `${next.maker} accepts ${amount}`,
    });
  });

/** What is left of a payment after a claim took something of it, or gave it back (below zero). */
async function takeFromPayment(tx: Tx, id: IncomingId, minor: number, currency: string): Promise<void> {
  const [row] = await tx.db.select().from(incomingPayment).where(eq(incomingPayment.id, id)).for('update');
  if (!row || row.state === 'aside' || row.currency !== currency)
    refuse('not-found', 'That payment does not wait to be allocated; choose another.', 'incomingId');
  if (minor > row.left)
    refuse('invalid', `Of that payment only ${sayAmountOf(row.left, currency)} is left.`, 'incomingId');
  const left = row.left - minor;
  await tx.db
    .update(incomingPayment)
    .set({ left, state: stateOf(left), version: row.version + 1 })
    .where(eq(incomingPayment.id, id));
  if (row.customerId !== null) await markCredit(tx, [row.customerId]);
}

export const closeClaimIn = (
  write: Write,
  id: ClaimId,
  { version, way, minor, because, theirNumber, incomingId }: BodyOf<typeof contracts.closeClaim>,
  by: By,
): Promise<void> =>
  write(async (tx, told) => {
    const held = await hold(tx, id, version);
    const { claim: next, entries } = accept(closeClaim(held.claim, { way, minor, because }));
    const { currency, theirNumber: before } = held.row;
    if (way === 'payment' && minor > 0) {
      if (incomingId === null) refuse('missing', 'Say which payment it came by.', 'incomingId');
      await takeFromPayment(tx, incomingId, minor, currency);
    }
    const how =
      way === 'payment' ? `by payment ${incomingId ?? ''}`.trim() : `by their credit note ${theirNumber}`.trim();
    await keep(tx, told, held, next, by, {
      ...{ set: { theirNumber: theirNumber || before }, entries, incomingId },
      step: {
        what: 'closed',
        text: [minor > 0 ? `${sayAmountOf(minor, currency)} ${how}` : 'nothing came', because.trim()]
          .filter(Boolean)
          .join('; '),
      },
      says: `closed: ${sayAmountOf(minor, currency)} came in`,
    });
  });

export const giveClaimUpIn = (
  write: Write,
  id: ClaimId,
  { version, because }: BodyOf<typeof contracts.giveClaimUp>,
  by: By,
): Promise<void> =>
  write(async (tx, told) => {
    const held = await hold(tx, id, version);
    const { claim: next, entries } = accept(giveClaimUp(held.claim, because));
    await keep(tx, told, held, next, by, {
      ...{ entries, step: { what: 'given up', text: because.trim() } },
      says: `given up: ${because.trim()}`,
    });
  });

/** Opened again: what its closing took of a payment is left of that again. */
export const openClaimAgainIn = (
  write: Write,
  id: ClaimId,
  { version, because }: BodyOf<typeof contracts.openClaimAgain>,
  by: By,
): Promise<void> =>
  write(async (tx, told) => {
    const held = await hold(tx, id, version);
    const booked = await tx.db.select().from(claimEntry).where(eq(claimEntry.claimId, id)).orderBy(desc(claimEntry.id));
    const wasSent = held.row.sentOn !== null;
    const { claim: next, entries } = accept(openClaimAgain(held.claim, wasSent, booked));
    const paid = entries.find((e) => e.kind === 'payment');
    const incomingId = paid ? (booked.find((b) => b.kind === 'payment' && b.minor > 0)?.incomingId ?? null) : null;
    if (paid && incomingId !== null) await takeFromPayment(tx, incomingId, paid.minor, held.row.currency);
    await keep(tx, told, held, next, by, {
      ...{ entries, incomingId },
      step: { what: 'opened again', text: because },
      says: `opened again: ${because}`,
    });
  });

/** Where claims to a maker go. `version` null: nobody wrote it before. */
export const changeMakerIn = (
  write: Write,
  { name, mail, days, version }: BodyOf<typeof contracts.changeMaker>,
): Promise<void> =>
  unlessTaken('Somebody else wrote it meanwhile; look again.', 'name', () =>
    write(async (tx, told) => {
      const [row] = await tx.db.select().from(claimMaker).where(eq(claimMaker.name, name)).for('update');
      if ((row?.version ?? null) !== version) stale({ id: row?.id ?? 0, version: row?.version ?? 0 });
      if (row)
        await tx.db
          .update(claimMaker)
          .set({ mail, days, version: row.version + 1 })
          .where(eq(claimMaker.id, row.id));
      else await tx.db.insert(claimMaker).values({ name, mail, days });
      told({ subject: 'maker', id: row?.id ?? 0, text: `claims to ${name}: ${mail}, ${days ?? 'no'} days` });
    }),
  );
