// Importing agreements: rows of one number are one agreement, each row a line of its coverage; what each would create, and what is wrong with it.
import type { OrderKind } from '../orders/index.ts';
import { ORDER_KINDS } from '../orders/index.ts';
import { parseCurrency, readAmount, type Currency } from '../money.ts';
import { Cells, namesOf, SEPARATOR, type DateFormat, type TableRemark, type TableRow } from '../imports/index.ts';
import { sayDay, type LocalDate } from '../time/index.ts';
import type { Term } from '../entitlement/index.ts';
import { checkNumber } from './numbering.ts';
import { BILLING_PERIODS, BILLING_TIMINGS, type BillingPer, type BillingTiming } from './price.ts';
import { readTerm } from './readiness.ts';
import { RENEWAL_MODES, type RenewalMode } from './renewal.ts';

/** What the register holds of what the file names; keys in lower case. */
export type HeldForAgreements<C, A, L, K, S> = {
  readonly customers: ReadonlyMap<string, C>;
  readonly numbers: ReadonlySet<string>;
  readonly assets: ReadonlyMap<string, { readonly id: A; readonly customerId: C }>;
  readonly places: ReadonlyMap<string, { readonly id: L; readonly customerIds: ReadonlySet<C> }>;
  readonly classes: ReadonlyMap<string, K>;
  readonly serviceLevels: ReadonlyMap<string, S>;
};

export type NewLine<A, L, K, S> = {
  readonly reach:
    | { readonly kind: 'asset'; readonly assetId: A }
    | { readonly kind: 'location'; readonly locationId: L }
    | { readonly kind: 'class'; readonly assetClassId: K };
  readonly term: Term;
  readonly labour: number;
  readonly parts: number;
  readonly consumables: number;
  readonly travel: number;
  readonly kinds: readonly OrderKind[];
  readonly serviceLevelId: S | null;
  readonly priceMinor: number | null;
};

export type NewAgreement<C, A, L, K, S> = {
  readonly line: number;
  readonly number: string;
  readonly customerId: C;
  readonly name: string;
  readonly term: Term;
  readonly noticeDays: number;
  readonly renewalMode: RenewalMode;
  readonly renewalMonths: number;
  readonly costCentre: string;
  readonly currency: Currency;
  readonly priceMinor: number | null;
  readonly billingPer: BillingPer;
  readonly billingTiming: BillingTiming;
  readonly reminder: string;
  readonly lines: readonly NewLine<A, L, K, S>[];
};

/** Fields of the agreement itself: told once, or told alike on each of its rows. */
const HEADER = [
  'customer',
  'name',
  'from',
  'to',
  'notice_days',
  'renewal',
  'renewal_months',
  'cost_centre',
  'currency',
  'price',
  'billed_per',
  'billed',
  'reminder',
] as const;
const SHARES = ['labour', 'parts', 'consumables', 'travel'] as const;
const REACHES = ['tag', 'place', 'class'] as const;
/** What a line includes when the file does not say. */
const USUAL_KINDS: readonly OrderKind[] = ['preventive', 'repair'];

function amount(cells: Cells, column: string, currency: string): number | null {
  const typed = cells.text(column, 30);
  const minor = typed === null ? null : readAmount(typed, currency);
  if (typed !== null && (minor === null || minor < 0))
    cells.refuse(column, `“${typed}” is no amount here; write it as 1,250.00 or 1250,00.`);
  return minor;
}

function kindsOf(cells: Cells): readonly OrderKind[] {
  const typed = cells.text('kinds');
  if (typed === null) return USUAL_KINDS;
  const words = typed
    .split(/[+/,;]|\band\b/)
    .map((w) => w.trim().toLowerCase())
    .filter((w) => w !== '');
  const strange = words.find((w) => !ORDER_KINDS.some((k) => k === w));
  if (strange !== undefined || words.length === 0)
    cells.refuse(
      'kinds',
      `“${strange ?? typed}” is no kind of work; write one or more of: ${ORDER_KINDS.join(' + ')}.`,
    );
  return ORDER_KINDS.filter((k) => words.includes(k));
}

/** The row's place in the tree as it is looked up: names from the top, joined as the register does. */
export const placeKey = (path: string): string => namesOf(path).join(SEPARATOR).toLowerCase();

/**
 * Plans agreements from rows. Refused per row, with what would be right: unknown customers, assets, places, classes and service
 * levels; a place or asset of another customer; a row that names no or more than one thing it covers, or bears nothing; a header
 * told differently on two rows of one number; dates and amounts that cannot be read. When one row of an agreement is wrong none of
 * it loads: half a coverage would be believed to be whole. A number that is held already changes nothing.
 */
export function planAgreements<C, A, L, K, S>(
  rows: readonly TableRow[],
  held: HeldForAgreements<C, A, L, K, S>,
  format: DateFormat,
): {
  creates: NewAgreement<C, A, L, K, S>[];
  unchanged: number;
  bad: TableRemark[];
} {
  const bad: TableRemark[] = [];
  const byNumber = new Map<string, TableRow[]>();
  let unchanged = 0;
  for (const row of rows) {
    const cells = new Cells(row);
    const typed = cells.needed('agreements', 'number', 40);
    const number = typed === '' ? null : checkNumber(typed);
    if (number && !number.ok) for (const r of number.refusals) cells.refuse('number', r.message);
    bad.push(...cells.bad);
    if (!number?.ok) continue;
    const key = number.value.toLowerCase();
    if (held.numbers.has(key)) unchanged += 1;
    else byNumber.set(key, [...(byNumber.get(key) ?? []), row]);
  }
  const creates: NewAgreement<C, A, L, K, S>[] = [];
  for (const group of byNumber.values()) {
    const readers = group.map((row) => new Cells(row));
    const made = oneAgreement(group, readers, held, format);
    const wrong = readers.flatMap((r) => r.bad);
    if (wrong.length === 0) {
      creates.push(made);
      continue;
    }
    const told = new Set(wrong.map((w) => w.line));
    bad.push(...wrong);
    for (const row of group)
      if (!told.has(row.line))
        bad.push({
          line: row.line,
          column: 'number',
          message: `Not loaded: line ${Math.min(...told)} of the same agreement is wrong, and half of its coverage would be believed to be all.`,
        });
  }
  return { creates, unchanged, bad: bad.sort((a, b) => a.line - b.line) };
}

function oneAgreement<C, A, L, K, S>(
  group: readonly TableRow[],
  readers: readonly Cells[],
  held: HeldForAgreements<C, A, L, K, S>,
  format: DateFormat,
): NewAgreement<C, A, L, K, S> {
  const [first, head] = [group[0] as TableRow, readers[0] as Cells];
  group.forEach((row, i) => {
    for (const column of HEADER) {
      const [told, again] = [first.cells[column] ?? '', row.cells[column] ?? ''];
      if (again !== '' && again !== told)
        readers[i]?.refuse(
          column,
          `Line ${first.line} of the same agreement says “${told}”; say it alike, or leave it empty here.`,
        );
    }
  });
  const owner = head.needed('agreements', 'customer');
  const customerId = held.customers.get(owner.toLowerCase());
  if (owner !== '' && customerId === undefined)
    head.refuse('customer', `There is no customer “${owner}”; import the customers first, or correct the name.`);
  const currencyTyped = head.text('currency', 3);
  const currency = currencyTyped === null ? ('EUR' as Currency) : parseCurrency(currencyTyped);
  if (currency === null) head.refuse('currency', `“${currencyTyped}” is no currency; use three letters, such as EUR.`);
  const term = termOf(head, 'from', 'to', format, null);
  return {
    line: first.line,
    number: (first.cells.number ?? '').trim().replace(/\s+/g, ' '),
    customerId: customerId as C,
    name: head.needed('agreements', 'name'),
    term,
    noticeDays: head.number('notice_days', 0, 730, 0) ?? 0,
    renewalMode: head.oneOf('renewal', RENEWAL_MODES) ?? (term.to === null ? 'ends' : 'to be renegotiated'),
    renewalMonths: head.number('renewal_months', 1, 120, 0) ?? 12,
    costCentre: head.text('cost_centre', 40) ?? '',
    currency: currency ?? ('EUR' as Currency),
    priceMinor: amount(head, 'price', currency ?? 'EUR'),
    billingPer: head.oneOf('billed_per', BILLING_PERIODS) ?? 'month',
    billingTiming: head.oneOf('billed', BILLING_TIMINGS) ?? 'in advance',
    reminder: head.text('reminder', 4000) ?? '',
    lines: readers.flatMap(
      (cells, i) => oneLine(group[i] as TableRow, cells, customerId, term, currency ?? 'EUR', held, format) ?? [],
    ),
  };
}

/** A term from two columns; a line's lies inside its agreement's and runs with it where nothing is said. */
function termOf(cells: Cells, from: string, to: string, format: DateFormat, whole: Term | null): Term {
  if (whole === null) cells.needed('agreements', from, 20);
  const [start, end] = [cells.date(from, format) ?? whole?.from ?? null, cells.date(to, format)];
  if (start === null) return { from: '1970-01-01' as LocalDate, to: null };
  const term = readTerm(start, end);
  if (!term.ok) {
    for (const r of term.refusals) cells.refuse(to, r.message);
    return { from: start, to: null };
  }
  const outside =
    whole !== null &&
    (start < whole.from || (whole.to !== null && (start > whole.to || (end !== null && end > whole.to))));
  if (outside)
    cells.refuse(
      from,
      `The agreement runs from ${sayDay(whole.from)}${whole.to ? ` to ${sayDay(whole.to)}` : ''}; a line lies inside.`,
    );
  return { from: start, to: end };
}

function oneLine<C, A, L, K, S>(
  row: TableRow,
  cells: Cells,
  customerId: C | undefined,
  whole: Term,
  currency: string,
  held: HeldForAgreements<C, A, L, K, S>,
  format: DateFormat,
): NewLine<A, L, K, S> | null {
  const named = REACHES.filter((c) => (row.cells[c] ?? '') !== '');
  const shares = SHARES.map((c) => cells.number(c, 0, 100, 0));
  const levelName = cells.text('service_level');
  const serviceLevelId = levelName === null ? null : held.serviceLevels.get(levelName.toLowerCase());
  if (serviceLevelId === undefined)
    cells.refuse(
      'service_level',
      `There is no service level “${levelName}”; write it in Setup first, or correct the name.`,
    );
  const kinds = kindsOf(cells);
  const priceMinor = amount(cells, 'line_price', currency);
  const term = termOf(cells, 'line_from', 'line_to', format, whole);
  if (named.length === 0 && shares.every((s) => s === null)) return null;
  if (named.length !== 1) {
    cells.refuse(
      named[1] ?? 'tag',
      'A row covers one thing: an asset by its tag, everything below a place, or a class.',
    );
    return null;
  }
  if (shares.every((s) => s === null))
    cells.refuse('labour', 'Say what is borne: give at least one of the shares, 0 if nothing.');
  const reach = reachOf(cells, customerId, held);
  if (!reach) return null;
  const [labour, parts, consumables, travel] = shares.map((s) => s ?? 0) as [number, number, number, number];
  return { reach, term, labour, parts, consumables, travel, kinds, serviceLevelId: serviceLevelId ?? null, priceMinor };
}

function reachOf<C, A, L, K, S>(
  cells: Cells,
  customerId: C | undefined,
  held: HeldForAgreements<C, A, L, K, S>,
): NewLine<A, L, K, S>['reach'] | null {
  const [tag, path, name] = [cells.text('tag'), cells.text('place', 2000), cells.text('class')];
  if (tag !== null) {
    const asset = held.assets.get(tag.toLowerCase());
    if (!asset) cells.refuse('tag', `There is no asset ${tag}; import the assets first, or correct the tag.`);
    else if (customerId !== undefined && asset.customerId !== customerId)
      cells.refuse('tag', `${tag} belongs to another customer; an agreement covers the machines of its own.`);
    return asset ? { kind: 'asset', assetId: asset.id } : null;
  }
  if (path !== null) {
    const place = held.places.get(placeKey(path));
    if (!place) cells.refuse('place', `There is no place “${path}”; import the places first, or correct the path.`);
    else if (customerId !== undefined && !place.customerIds.has(customerId))
      cells.refuse('place', `“${path}” is not a place of this customer; share it with them first.`);
    return place ? { kind: 'location', locationId: place.id } : null;
  }
  const assetClassId = held.classes.get((name ?? '').toLowerCase());
  if (assetClassId === undefined) cells.refuse('class', `There is no class “${name}”; correct the name.`);
  return assetClassId === undefined ? null : { kind: 'class', assetClassId };
}
