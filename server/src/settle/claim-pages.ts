// Claims to makers as they are read: the list by stage, and one with its lines, its evidence and what was done with it.
import { and, asc, desc, eq, gt, isNull, like, sql } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type { ClaimList, ClaimPage, ClaimRow, listClaims } from '#api/claims.ts';
import type { ClaimId, OrderId } from '#core/ids.ts';
import { claimBy, gapsOf, type ClaimState } from '#core/settle/index.ts';
import type { LocalDate } from '#core/time/index.ts';
import { asset, attachment } from '../assets/tables.ts';
import { customer } from '../customers/tables.ts';
import { orderLine, workOrder, type StoredVerdict } from '../orders/tables.ts';
import { countUpTo } from '../platform/count-up-to.ts';
import type { Db } from '../platform/database.ts';
import { keyset } from '../platform/keyset.ts';
import { refuse } from '../platform/refuse.ts';
import { fileContent, person } from '../platform/tables.ts';
import { claim, claimLine, claimMaker, claimStep } from './claim-tables.ts';
import { orderCharge } from './document-tables.ts';
import { COUNTED } from './look-pages.ts';
import { incomingPayment } from './paid-tables.ts';

const PAGE = 60;
/** Payments that are offered as a maker's. */
const OFFERED = 20;

export const countClaims = (db: Db, state: ClaimState): Promise<number> =>
  countUpTo(db, claim, eq(claim.state, state), COUNTED);

const selected = {
  of: claim,
  title: workOrder.title,
  customer: { id: customer.id, name: customer.name },
  days: claimMaker.days,
};
type Selected = {
  of: typeof claim.$inferSelect;
  title: string;
  customer: { id: number; name: string };
  days: number | null;
};
const rowOut = ({ of, title, customer: whose, days }: Selected): ClaimRow => ({
  ...{ id: of.id, state: of.state, maker: of.maker, customer: whose, order: { id: of.orderId, title } },
  ...{ doneOn: of.doneOn, currency: of.currency, asked: of.asked, accepted: of.accepted },
  ...{ by: claimBy(of.doneOn, days), sentOn: of.sentOn },
});

export async function readClaims(db: Db, query: Asked<typeof listClaims>['query']): Promise<ClaimList> {
  // What waits longest comes first; of what is closed the newest.
  const page = keyset(claim.doneOn, claim.id, { down: query.state === 'closed', after: query.after, hasEmpty: false });
  const filters = and(eq(claim.state, query.state), query.maker ? eq(claim.maker, query.maker) : undefined);
  const [rows, sums, toSend, sent, answered] = await Promise.all([
    db
      .select(selected)
      .from(claim)
      .innerJoin(workOrder, eq(workOrder.id, claim.orderId))
      .innerJoin(customer, eq(customer.id, workOrder.customerId))
      .leftJoin(claimMaker, eq(claimMaker.name, claim.maker))
      .where(and(filters, page.behind))
      .orderBy(...page.order)
      .limit(PAGE + 1),
    db
      .select({
        currency: claim.currency,
        asked: sql<string>`sum(${claim.asked})`,
        accepted: sql<string>`coalesce(sum(${claim.accepted}), 0)`,
      })
      .from(claim)
      .where(filters)
      .groupBy(claim.currency),
    countClaims(db, 'to send'),
    countClaims(db, 'sent'),
    countClaims(db, 'answered'),
  ]);
  const shown = rows.slice(0, PAGE);
  const last = shown.at(-1)?.of;
  return {
    items: shown.map(rowOut),
    next: rows.length > PAGE && last ? page.markOf(last.doneOn, last.id) : null,
    counts: { 'to send': toSend, sent, answered },
    sums: sums.map((s) => ({ currency: s.currency, asked: Number(s.asked), accepted: Number(s.accepted) })),
  };
}

const linesOf = (db: Db, id: ClaimId) =>
  db
    .select({ of: claimLine, charge: orderCharge, machine: asset })
    .from(claimLine)
    .innerJoin(orderCharge, eq(orderCharge.id, claimLine.chargeId))
    .leftJoin(asset, eq(asset.id, orderCharge.assetId))
    .where(eq(claimLine.claimId, id))
    .orderBy(asc(claimLine.chargeId));

/** Photos and papers of an order. */
export const evidenceOf = (db: Db, orderId: OrderId) =>
  db
    .select({
      ...{ id: attachment.id, name: attachment.name, sha256: attachment.sha256 },
      type: fileContent.mediaType,
    })
    .from(attachment)
    .innerJoin(fileContent, eq(fileContent.sha256, attachment.sha256))
    .where(and(eq(attachment.subject, 'order'), eq(attachment.subjectId, orderId)))
    .orderBy(asc(attachment.id));

export const isPhoto = ({ type }: { readonly type: string }): boolean => type.startsWith('image/');
const isPaper = ({ type }: { readonly type: string }): boolean => type === 'application/pdf';

/** Payments that wait and that nobody said to be a customer’s, those of the very amount first. */
const paymentsFor = (db: Db, { currency, accepted, maker }: typeof claim.$inferSelect) =>
  db
    .select({
      ...{ id: incomingPayment.id, bookedOn: incomingPayment.bookedOn, payer: incomingPayment.payer },
      ...{ text: incomingPayment.text, left: incomingPayment.left },
    })
    .from(incomingPayment)
    .where(
      and(
        eq(incomingPayment.state, 'open'),
        eq(incomingPayment.currency, currency),
        isNull(incomingPayment.customerId),
        gt(incomingPayment.left, 0),
      ),
    )
    .orderBy(
      desc(like(incomingPayment.payer, `${maker.slice(0, 20).replaceAll(/[%_\\]/g, '')}%`)),
      asc(sql`abs(${incomingPayment.left} - ${accepted ?? 0})`),
      desc(incomingPayment.bookedOn),
    )
    .limit(OFFERED);

/** The warranties that were decided to bear it, with why. */
const warrantyWords = (verdicts: readonly (StoredVerdict | null)[]): string[] => [
  ...new Set(
    verdicts.flatMap((v) =>
      (v?.verdict.considered ?? [])
        .filter((c) => c.taken && c.agreementId === null)
        .map((c) => (c.reason === '' ? c.label : `${c.label}: ${c.reason}`)),
    ),
  ),
];

export async function readClaimOf(db: Db, id: ClaimId, today: LocalDate): Promise<ClaimPage> {
  const [found] = await db
    .select({ ...selected, mail: claimMaker.mail, makerVersion: claimMaker.version })
    .from(claim)
    .innerJoin(workOrder, eq(workOrder.id, claim.orderId))
    .innerJoin(customer, eq(customer.id, workOrder.customerId))
    .leftJoin(claimMaker, eq(claimMaker.name, claim.maker))
    .where(eq(claim.id, id));
  if (!found) refuse('not-found', 'That claim does not exist; its approval may have been taken back.');
  const { of } = found;
  const [lines, files, findings, steps, payments] = await Promise.all([
    linesOf(db, id),
    evidenceOf(db, of.orderId),
    db
      .select({ id: orderLine.id, fault: orderLine.fault, remedy: orderLine.remedy, verdict: orderLine.verdict })
      .from(orderLine)
      .where(eq(orderLine.orderId, of.orderId)),
    db
      .select({ what: claimStep.what, text: claimStep.text, who: person.name, at: claimStep.at })
      .from(claimStep)
      .innerJoin(person, eq(person.id, claimStep.personId))
      .where(eq(claimStep.claimId, id))
      .orderBy(asc(claimStep.id)),
    of.state === 'answered' ? paymentsFor(db, of) : [],
  ]);
  const own = rowOut(found);
  const machines = new Map(lines.flatMap((l) => (l.machine ? [[l.charge.orderLineId, l.machine] as const] : [])));
  const silent = findings.filter((f) => machines.has(f.id) && !(f.fault && f.remedy));
  const photos = files.filter(isPhoto);
  const reports = files.filter(isPaper);
  return {
    ...own,
    ...{ version: of.version, theirNumber: of.theirNumber, hasPaper: of.paper !== null, steps, payments },
    terms: { mail: found.mail ?? '', days: found.days, version: found.makerVersion },
    lines: lines.map(({ of: l, charge, machine: m }) => ({
      ...{ chargeId: l.chargeId, element: charge.element, text: charge.text || charge.derivation.what },
      machine: m && { id: m.id, tag: m.tag, model: m.model, serial: m.serial ?? '' },
      ...{ borne: l.borne, asked: l.asked, accepted: l.accepted, why: l.why },
    })),
    gaps:
      of.state === 'to send'
        ? gapsOf(
            {
              withoutSerial: [...new Set([...machines.values()].filter((m) => !m.serial).map((m) => m.tag))],
              withoutFindings: silent.map((f) => machines.get(f.id)?.tag ?? ''),
              ...{ photos: photos.length, hasReport: reports.length > 0, by: own.by },
            },
            today,
          )
        : [],
    because: warrantyWords(findings.filter((f) => machines.has(f.id)).map((f) => f.verdict)),
    photos: photos.map(({ id: fileId, name }) => ({ id: fileId, name })),
    reports: reports.map(({ id: fileId, name }) => ({ id: fileId, name })),
  };
}

/** The paper as it was sent last; null: it was not. */
export async function sentPaper(db: Db, id: ClaimId): Promise<string | null> {
  const [row] = await db.select({ paper: claim.paper }).from(claim).where(eq(claim.id, id));
  return row?.paper ?? null;
}
