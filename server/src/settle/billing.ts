// Everything that is to be billed to some customers up to a day, brought together into documents: looked at and written by one function.
import { group } from 'd3-array';
import { and, asc, eq, gt, inArray, lte, sql } from 'drizzle-orm';
import type { AgreementId, AssetId, BillingRunId, CustomerId, DocumentId, OrderId, PersonId } from '#core/ids.ts';
import {
  billableFee,
  billableOf,
  documentsOf,
  netOf,
  paidBefore,
  whyOff,
  type Billable,
  type DraftDocument,
  type Fee,
  type PaidBefore,
  type TaxRate,
} from '#core/settle/index.ts';
import type { Language } from '#core/telling.ts';
import type { Instant, LocalDate } from '#core/time/index.ts';
import { contact } from '../customers/tables.ts';
import { workOrder } from '../orders/tables.ts';
import { instantText } from '../platform/columns.ts';
import { bulkInsert, insertedIds, type Db, type Tx } from '../platform/database.ts';
import { billingOf, settleSettings, type Billing } from './billing-settings.ts';
import { tagsOf } from './names.ts';
import {
  chargePayer,
  documentPaid,
  LONGEST_REASON,
  LONGEST_TEXT,
  orderApproval,
  orderCharge,
} from './document-tables.ts';
import { feesOf, payersOfFees, type AgreementFees } from './fee-facts.ts';
import { settleFinished } from './settled.ts';
import { orderPayment } from './tables.ts';
import { taxesOf } from './taxes.ts';
import { dateIn, wordsIn, type Words } from './words.ts';

export type Wanted = {
  readonly upTo: LocalDate;
  readonly takesOrders: boolean;
  readonly takesFees: boolean;
  /** Of this order only. */
  readonly orderId?: OrderId | undefined;
  /** As of when promises are kept or missed. */
  readonly now: Instant;
};
export type Left = {
  readonly customerId: CustomerId;
  readonly orderId: OrderId | null;
  readonly agreementId: AgreementId | null;
  readonly reason: string;
};
export type Gathered = {
  readonly documents: readonly (DraftDocument & {
    readonly language: Language;
    readonly paid: readonly PaidBefore[];
  })[];
  readonly silent: readonly Billable[];
  readonly left: readonly Left[];
};

/** Customers with something approved that is not billed yet, or with agreements: some, after one of them. */
export async function nextPayers(db: Db, after: CustomerId, wanted: Wanted, most: number): Promise<CustomerId[]> {
  const { billsFrom } = await settleSettings(db);
  const [ofOrders, ofFees] = await Promise.all([
    wanted.takesOrders
      ? db
          .selectDistinct({ id: chargePayer.customerId })
          .from(chargePayer)
          .where(
            and(eq(chargePayer.state, 'open'), gt(chargePayer.customerId, after), lte(chargePayer.doneOn, wanted.upTo)),
          )
          .orderBy(asc(chargePayer.customerId))
          .limit(most)
      : [],
    wanted.takesFees && billsFrom !== null ? payersOfFees(db, after, billsFrom, most) : [],
  ]);
  return [...new Set([...ofOrders, ...ofFees].map((r) => r.id))].toSorted((a, b) => a - b).slice(0, most);
}

const openCharges = (db: Db, customers: readonly CustomerId[], { upTo, orderId }: Wanted) =>
  db
    .select({
      payer: chargePayer,
      charge: orderCharge,
      currency: orderApproval.currency,
      reference: workOrder.customerReference,
    })
    .from(chargePayer)
    .innerJoin(orderCharge, eq(orderCharge.id, chargePayer.chargeId))
    .innerJoin(orderApproval, eq(orderApproval.orderId, chargePayer.orderId))
    .innerJoin(workOrder, eq(workOrder.id, chargePayer.orderId))
    .where(
      and(
        eq(chargePayer.state, 'open'),
        eq(orderApproval.state, 'approved'),
        inArray(chargePayer.customerId, [...customers]),
        lte(chargePayer.doneOn, upTo),
        orderId === undefined ? undefined : eq(chargePayer.orderId, orderId),
      ),
    )
    .orderBy(asc(chargePayer.customerId), asc(chargePayer.orderId), asc(chargePayer.chargeId));
type OpenCharge = Awaited<ReturnType<typeof openCharges>>[number];

/** A charge in the words of a document: what it is, whose, and at which machine. */
function sayCharge({ charge }: Pick<OpenCharge, 'charge'>, tags: ReadonlyMap<AssetId, string>, words: Words): string {
  const { what, labour } = charge.derivation;
  const hours = labour ? words(`hours.${labour.hours}`) : '';
  const tag = charge.assetId === null ? undefined : tags.get(charge.assetId);
  const named = [charge.text, hours].filter((part) => part !== '').join(', ');
  return `${words(what)}${named === '' ? '' : `: ${named}`}${tag ? ` ${words('at', { machine: tag })}` : ''}`;
}

function sayOff({ charge, payer }: OpenCharge, words: Words): string {
  const who = charge.bearer ?? words('us');
  return whyOff(charge, payer.minor)
    .map((why) => words(why, { who }))
    .join(', ');
}

/** As much as the line of a document holds. */
const approvedOf = (
  { charge, payer, currency, reference }: OpenCharge,
  said: { text: string; off: string },
  rate: TaxRate,
) => ({
  ...{ id: charge.id, orderId: charge.orderId, agreementId: charge.agreementId, assetId: charge.assetId, rate },
  ...{
    doneOn: payer.doneOn,
    coming: charge.derivation.coming ?? null,
    currency,
    quantity: charge.quantity,
    unit: charge.unit,
    list: charge.list,
    reference,
  },
  ...{ text: said.text.slice(0, LONGEST_TEXT), offBecause: said.off.slice(0, LONGEST_REASON) },
});

function sayFee(fee: Fee, words: Words, language: Language): string {
  const label = fee.key === 'whole' ? words('whole') : fee.label;
  const values = { label, from: dateIn(language, fee.from), to: dateIn(language, fee.to) };
  if (fee.promises) {
    const { met, missed } = fee.promises;
    const kept = { ...values, met: `${met}`, all: `${met + missed}` };
    return words(fee.times > 0 ? 'promises difference' : 'promises', kept);
  }
  if (fee.times > 0) return words('fee difference', values);
  const part =
    fee.of > 1 && fee.held < fee.of ? ` (${words('fee part', { held: `${fee.held}`, of: `${fee.of}` })})` : '';
  return `${words('fee', values)}${part}`;
}

/** Who is written to, and in what language. */
async function languagesOf(db: Db, ids: readonly NonNullable<Billing['contactId']>[]) {
  if (ids.length === 0) return new Map<number, Language>();
  const rows = await db
    .select({ id: contact.id, language: contact.language })
    .from(contact)
    .where(inArray(contact.id, [...ids]));
  return new Map(rows.map((r) => [r.id as number, r.language]));
}

const NO_TAX = 'there is no tax for it: name the standard one in Setup';

/** A customer as they are billed: their language, and the tax of everything they buy, where it has one. */
type Payer = {
  readonly id: CustomerId;
  readonly language: Language;
  readonly words: Words;
  readonly rate: TaxRate | null;
};
type ToBill = { readonly billables: readonly Billable[]; readonly left: readonly Left[] };

function ordersOf(payer: Payer, rows: readonly OpenCharge[], tags: ReadonlyMap<AssetId, string>): ToBill {
  const left: Left[] = [];
  const billables = rows.flatMap((row): Billable[] => {
    const { taxCategory: category, taxHundredths: hundredths } = row.charge;
    const rate = payer.rate ?? (category === null || hundredths === null ? null : { category, hundredths });
    if (rate) {
      const said = { text: sayCharge(row, tags, payer.words), off: sayOff(row, payer.words) };
      return [billableOf(approvedOf(row, said, rate), row.payer)];
    }
    left.push({ customerId: payer.id, orderId: row.payer.orderId, agreementId: null, reason: NO_TAX });
    return [];
  });
  return { billables, left };
}

function agreementsOf(payer: Payer, all: readonly AgreementFees[], standard: TaxRate | null): ToBill {
  const left: Left[] = [];
  const billables = all.flatMap(({ id, currency, fees, remark }): Billable[] => {
    const leave = (reason: string): void =>
      void left.push({ customerId: payer.id, orderId: null, agreementId: id, reason });
    if (remark !== null) leave(remark);
    const rate = payer.rate ?? standard;
    if (rate)
      return fees.map((fee) =>
        billableFee(fee, {
          ...{ customerId: payer.id, currency, agreementId: id, rate },
          text: sayFee(fee, payer.words, payer.language).slice(0, LONGEST_TEXT),
        }),
      );
    if (fees.length > 0) leave(NO_TAX);
    return [];
  });
  return { billables, left };
}

/** What cards paid for orders, by whose they are, less what stands on a document already. */
async function paidOnSite(db: Db, ids: readonly OrderId[]): Promise<Map<CustomerId, PaidBefore[]>> {
  if (ids.length === 0) return new Map();
  const [cards, used] = await Promise.all([
    db
      .select({
        ...{ orderId: orderPayment.orderId, customerId: workOrder.customerId },
        minor: sql<string>`sum(${orderPayment.amount})`,
      })
      .from(orderPayment)
      .innerJoin(workOrder, eq(workOrder.id, orderPayment.orderId))
      .where(and(inArray(orderPayment.orderId, [...ids]), eq(orderPayment.state, 'paid')))
      .groupBy(orderPayment.orderId, workOrder.customerId)
      .orderBy(asc(orderPayment.orderId)),
    db
      .select({ orderId: documentPaid.orderId, minor: sql<string>`sum(${documentPaid.minor})` })
      .from(documentPaid)
      .where(inArray(documentPaid.orderId, [...ids]))
      .groupBy(documentPaid.orderId),
  ]);
  const usedOf = new Map(used.map((u) => [u.orderId, Number(u.minor)]));
  const left = cards.map((c) => ({ ...c, minor: Number(c.minor) - (usedOf.get(c.orderId) ?? 0) }));
  return new Map(
    [...group(left, (c) => c.customerId)].map(([id, own]) => [
      id,
      own.filter((c) => c.minor > 0).map(({ orderId, minor }) => ({ orderId, minor })),
    ]),
  );
}

const rateOf = (tax: { readonly category: TaxRate['category']; readonly hundredths: number } | undefined) =>
  tax ? { category: tax.category, hundredths: tax.hundredths } : null;

/** The documents of some customers, and what cannot be billed with its reason. Nothing is written. */
export async function gather(db: Db, customers: readonly CustomerId[], wanted: Wanted): Promise<Gathered> {
  const { billsFrom } = await settleSettings(db);
  const [wishOf, taxes, charges, agreements] = await Promise.all([
    billingOf(db, customers),
    taxesOf(db),
    wanted.takesOrders ? openCharges(db, customers, wanted) : [],
    wanted.takesFees && billsFrom !== null ? feesOf(db, customers, billsFrom, wanted.upTo, wanted.now) : [],
  ]);
  const [paid, tags, languages] = await Promise.all([
    paidOnSite(db, [...new Set(charges.map((c) => c.payer.orderId))]),
    tagsOf(db, [...new Set(charges.flatMap((c) => c.charge.assetId ?? []))]),
    languagesOf(db, [...new Set(customers.flatMap((id) => wishOf(id).contactId ?? []))]),
  ]);
  const chargesOf = group(charges, (c) => c.payer.customerId);
  const feesByPayer = group(agreements, (a) => a.customerId);
  const standard = rateOf(taxes.find((t) => t.isStandard === true));
  const all = customers.map((id) => {
    const wish = wishOf(id);
    const language = languages.get(wish.contactId ?? 0) ?? 'en';
    const rate = rateOf(taxes.find((t) => t.id === wish.taxId));
    const payer: Payer = { id, language, words: wordsIn(language), rate };
    const parts = [
      ordersOf(payer, chargesOf.get(id) ?? [], tags),
      agreementsOf(payer, feesByPayer.get(id) ?? [], standard),
    ];
    const { documents, silent } = documentsOf(
      parts.flatMap((p) => p.billables),
      wish,
    );
    let open = paid.get(id) ?? [];
    const withPaid = documents.map((d) => {
      const taken = paidBefore(d, open);
      open = open.map((p) => ({ ...p, minor: p.minor - (taken.find((t) => t.orderId === p.orderId)?.minor ?? 0) }));
      return { ...d, language, paid: taken };
    });
    return { documents: withPaid, silent, left: parts.flatMap((p) => p.left) };
  });
  return {
    documents: all.flatMap((a) => a.documents),
    silent: all.flatMap((a) => a.silent),
    left: all.flatMap((a) => a.left),
  };
}

const DOCUMENT_COLUMNS = [
  ...['kind', 'state', 'customer_id', 'currency', 'about', 'without_tax', 'tax', 'with_tax', 'customer_reference'],
  ...['language', 'run_id', 'person_id', 'made_at', 'reason', 'account', 'paid'],
];
const LINE_COLUMNS = [
  ...['document_id', 'position', 'source_key', 'order_id', 'agreement_id', 'asset_id', 'charge_id', 'day', 'text'],
  ...['quantity', 'unit', 'list', 'off', 'net', 'off_because', 'tax_category', 'tax_hundredths'],
  ...['fee_key', 'fee_from', 'fee_to'],
];

const referencesOf = (lines: DraftDocument['lines']): string =>
  [...new Set(lines.map((l) => l.reference.trim()).filter((r) => r !== ''))].join(', ').slice(0, 200);

/**
 * Writes what was gathered as drafts, in the transaction it was gathered in, and gives their ids. What somebody else billed meanwhile
 * is refused by its key: the whole transaction is done anew.
 */
export async function writeDrafts(
  tx: Tx,
  { documents, silent }: Gathered,
  by: { readonly personId: PersonId; readonly runId: BillingRunId | null; readonly now: Instant },
): Promise<DocumentId[]> {
  const at = instantText(by.now);
  const first = await bulkInsert(
    tx.connection,
    'document',
    DOCUMENT_COLUMNS,
    documents.map((d) => [
      ...[d.kind, 'draft', d.customerId, d.currency, d.about, d.totals.withoutTax, d.totals.tax, d.totals.withTax],
      ...[referencesOf(d.lines), d.language, by.runId, by.personId, at, '', ''],
      d.paid.reduce((sum, p) => sum + p.minor, 0),
    ]),
  );
  const ids = await insertedIds(tx.connection, first, documents.length);
  const lines = documents.flatMap((d, i) => d.lines.map((line) => ({ line, id: ids[i] as number })));
  await bulkInsert(
    tx.connection,
    'document_line',
    LINE_COLUMNS,
    lines.map(({ line: l, id }) => [
      ...[id, l.position, l.key, l.orderId, l.agreementId, l.assetId, l.chargeId, l.day, l.text, l.quantity, l.unit],
      ...[l.list, l.off, netOf(l), l.offBecause, l.rate.category, l.rate.hundredths],
      ...[l.fee?.key ?? null, l.fee?.from ?? null, l.fee?.to ?? null],
    ]),
  );
  await bulkInsert(
    tx.connection,
    'document_tax',
    ['document_id', 'category', 'hundredths', 'taxable', 'tax'],
    documents.flatMap((d, i) => d.totals.rows.map((r) => [ids[i], r.category, r.hundredths, r.taxable, r.tax])),
  );
  await bulkInsert(
    tx.connection,
    'document_paid',
    ['document_id', 'order_id', 'minor'],
    documents.flatMap((d, i) => d.paid.map((p) => [ids[i], p.orderId, p.minor])),
  );
  const billed = lines.map(({ line }) => line);
  await setPayers(tx, billed, 'billed');
  await setPayers(tx, silent, 'silent');
  const orders = [...new Set([...billed, ...silent].flatMap((l) => l.orderId ?? []))];
  await settleFinished(tx, orders, by.personId, by.now);
  return ids as DocumentId[];
}

async function setPayers(tx: Tx, of: readonly Billable[], state: 'billed' | 'silent'): Promise<void> {
  const byCustomer = new Map<CustomerId, number[]>();
  for (const { customerId, chargeId } of of)
    if (chargeId !== null) byCustomer.set(customerId, [...(byCustomer.get(customerId) ?? []), chargeId]);
  for (const [customerId, charges] of byCustomer)
    for (let i = 0; i < charges.length; i += 1000)
      await tx.db
        .update(chargePayer)
        .set({ state })
        .where(
          and(
            eq(chargePayer.customerId, customerId),
            inArray(chargePayer.chargeId, charges.slice(i, i + 1000) as never[]),
          ),
        );
}

/** Locks what is open of some customers, so that nobody else bills it meanwhile; before anything is read. */
export const holdOpen = async (tx: Tx, customers: readonly CustomerId[]): Promise<void> =>
  void (await tx.db
    .select({ id: chargePayer.chargeId })
    .from(chargePayer)
    .where(and(inArray(chargePayer.customerId, [...customers]), eq(chargePayer.state, 'open')))
    .for('update'));
