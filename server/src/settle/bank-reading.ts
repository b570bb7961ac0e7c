// A bank's file as it comes: a statement (camt.053, XML) or a list (CSV) told apart by how it begins. Run on a thread.
import { parse } from 'csv-parse/sync';
import { XMLParser } from 'fast-xml-parser';
import type { Currency } from '#core/money.ts';
import { refusal, type Refusal } from '#core/refusal.ts';
import { readBankList, readStatement, type BankRead, type Element } from '#core/settle/index.ts';

/** Amounts in a list that names no currency. */
const USUAL = 'EUR' as Currency;

const xml = new XMLParser({
  ...{ ignoreAttributes: false, attributeNamePrefix: '@', removeNSPrefix: true },
  ...{ parseTagValue: false, parseAttributeValue: false, trimValues: true },
});

function delimiterOf(text: string): string {
  const [head = ''] = text.split(/\r?\n/, 1);
  return [';', '\t', ','].find((d) => head.includes(d)) ?? ',';
}

/** Refused: a file that declares entities of its own, XML that does not close, text that is no CSV. */
export function readBankFile(given: string): { readonly value: BankRead } | { readonly refusals: readonly Refusal[] } {
  const text = given.replace(/^\uFEFF/, '');
  if (!text.trimStart().startsWith('<'))
    try {
      const records: string[][] = parse(text, {
        delimiter: delimiterOf(text),
        relax_column_count: true,
        relax_quotes: true,
      });
      return { value: readBankList(records, USUAL) };
    } catch (error) {
      return {
        refusals: [refusal('malformed', `The file cannot be read as CSV: ${(error as Error).message}`, 'text')],
      };
    }
  if (/<!DOCTYPE|<!ENTITY/i.test(text))
    return { refusals: [refusal('unsupported', 'A statement declares no entities of its own.', 'text')] };
  try {
    return { value: readStatement(xml.parse(text, true) as Element) };
  } catch (error) {
    return { refusals: [refusal('malformed', `The file cannot be read as XML: ${(error as Error).message}`, 'text')] };
  }
}
