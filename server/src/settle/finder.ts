// Invoices, credit notes and claims are found by their numbers alone: what is on them is found by its own words.
import { and, eq, inArray } from 'drizzle-orm';
import { claimNumber } from '#api/claims.ts';
import type { ClaimId, DocumentId } from '#core/ids.ts';
import { sayAmountOf } from '#core/money.ts';
import { OFFICE } from '#core/people.ts';
import { DOCUMENT_KINDS } from '#core/settle/index.ts';
import { sayDate } from '#core/time/index.ts';
import { customer } from '../customers/tables.ts';
import { workOrder } from '../orders/tables.ts';
import type { FinderSource } from '../platform/finder-source.ts';
import { claim } from './claim-tables.ts';
import { document } from './document-tables.ts';

/** Nothing of them is in the index of words. */
const BY_NUMBER = { shownTo: OFFICE, knownOf: async () => [], page: async () => [] } as const;
const PLAIN = { state: null, under: null, ribbon: null } as const;
const LARGEST_NUMBER = 4_294_967_295;

export const documentsFound: FinderSource = {
  ...BY_NUMBER,
  kind: 'document',
  async called(db, asked) {
    const number = Number(/\d+$/.exec(asked.trim())?.[0] ?? NaN);
    if (!(number <= LARGEST_NUMBER)) return [];
    const rows = await db
      .select({ id: document.id, text: document.numberText })
      .from(document)
      .where(and(inArray(document.kind, [...DOCUMENT_KINDS]), eq(document.number, number)));
    return rows.filter((r) => r.text?.toLowerCase() === asked.trim().toLowerCase()).map((r) => r.id);
  },
  async show(db, ids) {
    const rows = await db
      .select({ of: document, customer: customer.name })
      .from(document)
      .innerJoin(customer, eq(customer.id, document.customerId))
      .where(inArray(document.id, ids as DocumentId[]));
    return rows.map(({ of, customer: name }) => ({
      ...{ id: of.id, mark: of.numberText ?? '', ...PLAIN },
      title: `${of.currency} ${sayAmountOf(of.withTax, of.currency)}`,
      beside: `${of.kind}, ${name}${of.issuedOn ? `, ${sayDate(of.issuedOn)}` : ''}`,
    }));
  },
};

export const claimsFound: FinderSource = {
  ...BY_NUMBER,
  kind: 'claim',
  async called(_db, asked) {
    const number = Number(/^cl-?(\d{1,9})$/i.exec(asked.trim())?.[1] ?? 0);
    return number > 0 ? [number] : [];
  },
  async show(db, ids) {
    const rows = await db
      .select({ of: claim, title: workOrder.title })
      .from(claim)
      .innerJoin(workOrder, eq(workOrder.id, claim.orderId))
      .where(inArray(claim.id, ids as ClaimId[]));
    return rows.map(({ of, title }) => ({
      ...{ id: of.id, mark: claimNumber(of.id), ...PLAIN },
      ...{ title: `${of.maker}: ${title}`, beside: `claim, ${of.state}` },
    }));
  },
};
