// A document as a file: OASIS UBL 2.1, Invoice or CreditNote, with the business terms of EN 16931-1.
import Builder from 'fast-xml-builder';
import type { DocumentPage } from '#api/documents.ts';
import { decimalsOf, fixedPoint } from '#core/money.ts';
import type { Party } from '#core/settle/index.ts';

const amountIn = (minor: number, currency: string): string => fixedPoint(minor, decimalsOf(currency));

type Node = { readonly [name: string]: unknown };

function partyOf({ name, address, country, taxNumber }: Party): Node {
  return {
    'cac:Party': {
      'cac:PartyName': { 'cbc:Name': name },
      'cac:PostalAddress': {
        ...(address !== '' && { 'cbc:StreetName': address.split('\n').join(', ') }),
        ...(country !== '' && { 'cac:Country': { 'cbc:IdentificationCode': country } }),
      },
      ...(taxNumber !== '' && {
        'cac:PartyTaxScheme': { 'cbc:CompanyID': taxNumber, 'cac:TaxScheme': { 'cbc:ID': 'VAT' } },
      }),
      'cac:PartyLegalEntity': { 'cbc:RegistrationName': name },
    },
  };
}

/** Why nothing is taxed (BT-120), by category. */
const EXEMPT: Readonly<Record<string, string>> = { E: 'Exempt from tax', AE: 'Reverse charge' };

/** Amounts below zero stand on a quantity below zero: a price is never negative (BR-27). */
function lineOf(line: DocumentPage['lines'][number], page: DocumentPage): Node {
  const { currency, kind } = page;
  const sign = line.list < 0 ? -1 : 1;
  const amount = (minor: number) => ({ '@currencyID': currency, '#text': amountIn(minor, currency) });
  const quantity = { '@unitCode': line.unit, '#text': fixedPoint(sign * line.quantity, 3) };
  return {
    'cbc:ID': line.position,
    [kind === 'invoice' ? 'cbc:InvoicedQuantity' : 'cbc:CreditedQuantity']: quantity,
    'cbc:LineExtensionAmount': amount(line.net),
    ...(line.off !== 0 && {
      'cac:AllowanceCharge': {
        'cbc:ChargeIndicator': 'false',
        'cbc:AllowanceChargeReason': line.offBecause || 'discount',
        'cbc:Amount': amount(line.off),
      },
    }),
    'cac:Item': {
      'cbc:Name': line.text,
      'cac:ClassifiedTaxCategory': {
        'cbc:ID': line.category,
        'cbc:Percent': fixedPoint(line.hundredths, 2),
        'cac:TaxScheme': { 'cbc:ID': 'VAT' },
      },
    },
    'cac:Price': {
      'cbc:PriceAmount': amount(Math.abs(line.list)),
      'cbc:BaseQuantity': { '@unitCode': line.unit, '#text': fixedPoint(Math.abs(line.quantity), 3) },
    },
  };
}

function headOf(page: DocumentPage): Node {
  const isInvoice = page.kind === 'invoice';
  return {
    'cbc:CustomizationID': 'urn:cen.eu:en16931:2017',
    'cbc:ID': page.number ?? 'DRAFT',
    'cbc:IssueDate': page.issuedOn ?? '',
    ...(isInvoice && page.dueOn !== null && { 'cbc:DueDate': page.dueOn }),
    // UNTDID 1001: commercial invoice, credit note.
    [isInvoice ? 'cbc:InvoiceTypeCode' : 'cbc:CreditNoteTypeCode']: isInvoice ? '380' : '381',
    ...(page.reason !== '' && { 'cbc:Note': page.reason }),
    'cbc:DocumentCurrencyCode': page.currency,
    ...(page.reference !== '' && { 'cac:OrderReference': { 'cbc:ID': page.reference } }),
    ...(page.of && { 'cac:BillingReference': { 'cac:InvoiceDocumentReference': { 'cbc:ID': page.of.number } } }),
  };
}

function totalsIn({ currency, taxes, tax, withoutTax, withTax, paid, left }: DocumentPage): Node {
  const amount = (minor: number) => ({ '@currencyID': currency, '#text': amountIn(minor, currency) });
  return {
    'cac:TaxTotal': {
      'cbc:TaxAmount': amount(tax),
      'cac:TaxSubtotal': taxes.map((t) => ({
        'cbc:TaxableAmount': amount(t.taxable),
        'cbc:TaxAmount': amount(t.tax),
        'cac:TaxCategory': {
          ...{ 'cbc:ID': t.category, 'cbc:Percent': fixedPoint(t.hundredths, 2) },
          ...(EXEMPT[t.category] && { 'cbc:TaxExemptionReason': EXEMPT[t.category] }),
          'cac:TaxScheme': { 'cbc:ID': 'VAT' },
        },
      })),
    },
    'cac:LegalMonetaryTotal': {
      'cbc:LineExtensionAmount': amount(withoutTax),
      'cbc:TaxExclusiveAmount': amount(withoutTax),
      'cbc:TaxInclusiveAmount': amount(withTax),
      ...(paid > 0 && { 'cbc:PrepaidAmount': amount(paid) }),
      'cbc:PayableAmount': amount(left),
    },
  };
}

const NAMESPACE = 'urn:oasis:names:specification:ubl:schema:xsd';

/** The file of an issued document; its parties stand as they did when it was issued. */
export function ublOf(page: DocumentPage): string {
  if (page.seller === null || page.buyer === null) throw new Error('only what is issued has parties');
  const root = page.kind === 'invoice' ? 'Invoice' : 'CreditNote';
  const pays = page.kind === 'invoice' && page.account !== '';
  return new Builder({
    ignoreAttributes: false,
    attributeNamePrefix: '@',
    format: true,
    suppressEmptyNode: true,
  }).build({
    '?xml': { '@version': '1.0', '@encoding': 'UTF-8' },
    [root]: {
      '@xmlns': `${NAMESPACE}:${root}-2`,
      '@xmlns:cac': `${NAMESPACE}:CommonAggregateComponents-2`,
      '@xmlns:cbc': `${NAMESPACE}:CommonBasicComponents-2`,
      ...headOf(page),
      'cac:AccountingSupplierParty': partyOf(page.seller),
      'cac:AccountingCustomerParty': partyOf(page.buyer),
      // UNTDID 4461: credit transfer.
      ...(pays && {
        'cac:PaymentMeans': {
          'cbc:PaymentMeansCode': '30',
          'cbc:PaymentID': page.number,
          'cac:PayeeFinancialAccount': { 'cbc:ID': page.account.replace(/\s/g, '') },
        },
      }),
      ...totalsIn(page),
      [`cac:${root}Line`]: page.lines.map((line) => lineOf(line, page)),
    },
  });
}
