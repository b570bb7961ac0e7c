// Finished orders as the office looks through them: the list, and one with its charges, what was said of them and where it is billed.
import { and, asc, eq, sql } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type { listLooks, LookPage } from '#api/billing.ts';
import type { CustomerId, OrderId, PersonId } from '#core/ids.ts';
import { MANAGERS, type Role } from '#core/people.ts';
import type { SettledCharge } from '#core/settle/index.ts';
import { customer } from '../customers/tables.ts';
import { workOrder } from '../orders/tables.ts';
import { countUpTo } from '../platform/count-up-to.ts';
import type { Db } from '../platform/database.ts';
import { keyset } from '../platform/keyset.ts';
import { refuse } from '../platform/refuse.ts';
import { namesOfPeople } from '../platform/people.ts';
import { settleSettings } from './billing-settings.ts';
import { comingNamed } from './charging.ts';
import { chargeNamer, customerNames, tagsOf } from './names.ts';
import { chargePayer, document, documentLine, orderApproval, orderCharge, orderLook } from './document-tables.ts';
import { leavesOut, lookAt, type Looked } from './looks.ts';

const PAGE = 60;
/** Of what waits, no more are counted. */
export const COUNTED = 1000;

const seesCost = (role: Role): boolean => (MANAGERS as readonly Role[]).includes(role);

type State = (typeof orderLook.$inferSelect)['state'];
export const countOf = (db: Db, state: State, isPlain: boolean | null): Promise<number> =>
  countUpTo(
    db,
    orderLook,
    and(eq(orderLook.state, state), isPlain === null ? undefined : eq(orderLook.isPlain, isPlain)),
    COUNTED,
  );

/** What waits for somebody’s judgement: odd orders, and those that want a second person. */
export async function countLooks(db: Db): Promise<number> {
  const [odd, second] = await Promise.all([countOf(db, 'to look at', false), countOf(db, 'second', null)]);
  return odd + second;
}

export async function readLooks(db: Db, role: Role, query: Asked<typeof listLooks>['query']) {
  const { billsFrom } = await settleSettings(db);
  const page = keyset(orderLook.doneOn, orderLook.orderId, { down: false, after: query.after, hasEmpty: false });
  const [rows, odd, plain, second, approved] = await Promise.all([
    db
      .select({ look: orderLook, name: customer.name, title: workOrder.title, kind: workOrder.kind })
      .from(orderLook)
      .innerJoin(customer, eq(customer.id, orderLook.customerId))
      .innerJoin(workOrder, eq(workOrder.id, orderLook.orderId))
      .where(
        and(
          eq(orderLook.state, query.state),
          query.only && eq(orderLook.isPlain, query.only === 'plain'),
          query.odd ? sql`json_contains(${orderLook.odd}, ${JSON.stringify(query.odd)})` : undefined,
          query.customer && eq(orderLook.customerId, query.customer),
          page.behind,
        ),
      )
      .orderBy(...page.order)
      .limit(PAGE + 1),
    countOf(db, 'to look at', false),
    countOf(db, 'to look at', true),
    countOf(db, 'second', null),
    countOf(db, 'approved', null),
  ]);
  const shown = rows.slice(0, PAGE);
  const last = shown.at(-1)?.look;
  return {
    items: shown.map(({ look, name, title, kind }) => ({
      ...{ orderId: look.orderId, kind, title, customer: { id: look.customerId, name }, doneOn: look.doneOn },
      ...{ state: look.state, currency: look.currency, cost: seesCost(role) ? look.cost : null, list: look.list },
      ...{ pay: look.pay, odd: look.odd, digest: look.digest },
    })),
    next: rows.length > PAGE && last ? page.markOf(last.doneOn, last.orderId) : null,
    counts: { odd, plain, second, approved },
    billsFrom,
  };
}

/** Charges as they were approved, each with whether it was billed; null where nothing was approved. */
async function approvedCharges(db: Db, id: OrderId) {
  const [charges, payers] = await Promise.all([
    db.select().from(orderCharge).where(eq(orderCharge.orderId, id)).orderBy(asc(orderCharge.id)),
    db.select().from(chargePayer).where(eq(chargePayer.orderId, id)),
  ]);
  return charges.map((c) => ({ charge: c, payers: payers.filter((p) => p.chargeId === c.id) }));
}

type Shown = LookPage['charges'][number];
type Names = {
  readonly people: ReadonlyMap<CustomerId, string>;
  readonly machine: (lineId: number) => string | null;
  readonly cost: boolean;
};
const named = (names: Names, id: CustomerId) => ({ id, name: names.people.get(id) ?? '' });

const asLooked = (c: SettledCharge, text: string, coming: Shown['coming'], names: Names): Shown => ({
  ...{ lineId: c.lineId, machine: names.machine(c.lineId), element: c.element, what: c.what, text, bearer: c.by },
  ...{ cost: names.cost ? c.cost : null, list: c.list, borne: c.borne, discount: c.discount, goodwill: c.goodwill },
  ...{
    pay: c.pay,
    payers: c.payers.map((p) => ({ customer: named(names, p.customerId), minor: p.minor, state: null })),
  },
  ...{ coming, reasons: [...c.reasons] },
});

type Approved = Awaited<ReturnType<typeof approvedCharges>>[number];
const asApproved = ({ charge: c, payers }: Approved, names: Names): Shown => ({
  ...{ lineId: c.orderLineId, machine: names.machine(c.orderLineId), element: c.element, what: c.derivation.what },
  ...{ text: c.text, bearer: c.bearer, cost: names.cost ? c.cost : null, list: c.list, borne: c.borne },
  ...{ discount: c.discount, goodwill: c.goodwill, pay: c.pay, reasons: [...c.derivation.reasons] },
  coming: c.derivation.coming ?? null,
  payers: payers.map((p) => ({ customer: named(names, p.customerId), minor: p.minor, state: p.state })),
});

async function peopleOf(db: Db, ids: readonly number[]): Promise<(id: number | null) => string> {
  const known = await namesOfPeople(db, ids as PersonId[]);
  return (id) => known.get(id as PersonId | null) ?? '';
}

const documentsOn = (db: Db, id: OrderId) =>
  db
    .selectDistinct({ id: document.id, kind: document.kind, number: document.numberText, withTax: document.withTax })
    .from(documentLine)
    .innerJoin(document, eq(document.id, documentLine.documentId))
    .where(eq(documentLine.orderId, id))
    .orderBy(asc(document.id));

const payersNamed = (look: Looked): CustomerId[] => [
  look.charged.order.customerId,
  ...look.charges.flatMap((c) => c.payers.map((p) => p.customerId)),
  ...look.corrections.flatMap((c) => (c.payers ?? []).map((p) => p.customerId)),
];

/** Approved, it is shown as it was approved; else as it stands. */
export async function readLookOf(db: Db, role: Role, id: OrderId): Promise<LookPage> {
  const [look] = await lookAt(db, [id]);
  if (!look) refuse('not-found', 'That order is not done; there is nothing to look through yet.');
  const { charged, total } = look;
  const [approved, [approval], documents, nameOf, tags, [order]] = await Promise.all([
    approvedCharges(db, id),
    db.select().from(orderApproval).where(eq(orderApproval.orderId, id)),
    documentsOn(db, id),
    chargeNamer(db),
    tagsOf(
      db,
      charged.lines.flatMap((l) => l.assetId ?? []),
    ),
    db.select({ title: workOrder.title }).from(workOrder).where(eq(workOrder.id, id)),
  ]);
  const [people, customers] = await Promise.all([
    peopleOf(db, [
      ...look.corrections.map((c) => c.personId as number),
      ...(approval ? [approval.personId as number, (approval.secondId ?? 0) as number] : []),
    ]),
    customerNames(db, [...payersNamed(look), ...approved.flatMap((a) => a.payers.map((p) => p.customerId))]),
  ]);
  const machineOf = new Map(
    charged.lines.map((l) => [l.id, l.assetId === null ? null : (tags.get(l.assetId) ?? null)]),
  );
  const names: Names = { people: customers, machine: (line) => machineOf.get(line) ?? null, cost: seesCost(role) };
  const sums = approval ?? total;
  return {
    ...{
      orderId: id,
      title: order?.title ?? '',
      customer: named(names, charged.order.customerId),
      doneOn: look.doneOn,
    },
    ...{ state: look.state, currency: look.currency, reference: charged.order.customerReference },
    ...{ odd: [...look.odd], digest: look.digest, sentences: sentencesOf(look) },
    hasCause: charged.lines.some((l) => l.visitId === null),
    charges: approval
      ? approved.map((a) => asApproved(a, names))
      : look.charges.map((c) => asLooked(c, nameOf(c, charged), comingNamed(c, charged), names)),
    total: {
      ...{ cost: names.cost ? sums.cost : null, list: sums.list, borne: sums.borne, discount: sums.discount },
      ...{ goodwill: sums.goodwill, pay: sums.pay, margin: names.cost ? sums.pay - sums.cost : null },
    },
    corrections: look.corrections.map((c) => ({
      ...{ id: c.id, kind: c.kind, percent: c.percent, minor: c.minor, lineId: c.lineId, element: c.element },
      payers: (c.payers ?? []).map((p) => ({ customer: named(names, p.customerId), percent: p.percent })),
      ...{ reason: c.reason, who: people(c.personId), at: c.at },
    })),
    approval: approval
      ? {
          ...{ who: people(approval.personId), at: approval.at },
          second: approval.secondAt === null ? null : { who: people(approval.secondId), at: approval.secondAt },
        }
      : null,
    documents: documents.map((d) => ({ ...d, id: d.id })),
  };
}

/** The decisions of its lines, each once, and which covers left the work out where somebody has to pay for it. */
const sentencesOf = (look: Looked): string[] => {
  const verdicts = look.charged.lines.flatMap((l) => l.verdict ?? []);
  const out = look.odd.includes('excluded')
    ? verdicts.flatMap(({ verdict }) =>
        verdict.considered.filter(leavesOut).map((c) => `Not by ${c.label}: ${c.reason}.`),
      )
    : [];
  return [...new Set([...verdicts.map((v) => v.sentence), ...out])];
};
