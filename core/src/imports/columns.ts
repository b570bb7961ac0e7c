// Importing tables: the kinds of file, their fields, how a file's columns are mapped to them, and dates in the chosen order.
import { parseLocalDate, type LocalDate } from '../time/index.ts';

export const IMPORT_KINDS = [
  'assets',
  'customers',
  'contacts',
  'locations',
  'meters',
  'readings',
  'agreements',
  'absences',
  'travel times',
] as const;
export type ImportKind = (typeof IMPORT_KINDS)[number];
export const IMPORT_STATES = ['read', 'running', 'done', 'cancelled', 'failed', 'undone'] as const;
export type ImportState = (typeof IMPORT_STATES)[number];
export const DELIMITERS = [',', ';', '\t'] as const;
export type Delimiter = (typeof DELIMITERS)[number];
export const DATE_FORMATS = ['yyyy-mm-dd', 'dd/mm/yyyy', 'mm/dd/yyyy'] as const;
export type DateFormat = (typeof DATE_FORMATS)[number];
export const ENCODINGS = ['utf-8', 'windows-1252'] as const;
export type Encoding = (typeof ENCODINGS)[number];
/** What names the machine a row is about. With both, a row whose two do not fit together is refused. */
export const ASSET_KEYS = ['tag and serial', 'tag', 'maker and serial'] as const;
export type AssetKey = (typeof ASSET_KEYS)[number];

export type ImportSettings = {
  readonly encoding: Encoding;
  readonly delimiter: Delimiter;
  /** Chosen by a person; without it a file with dates that are not ISO is not read. */
  readonly dateFormat: DateFormat;
  readonly key: AssetKey;
  /** For each field the column it is read from, counted from 0; a field left out is not touched. */
  readonly mapping: Readonly<Record<string, number>>;
};

export type ImportField = { readonly name: string; readonly label: string; readonly needed: boolean };
const field = (name: string, label: string, needed = false): ImportField => ({ name, label, needed });

export const IMPORT_FIELDS: Readonly<Record<ImportKind, readonly ImportField[]>> = {
  assets: [
    field('customer', 'Customer'),
    field('location_path', 'Place, from the top: Site > Floor 1 > Lab 4'),
    field('address', 'Address of the place'),
    field('latitude', 'Latitude of the site'),
    field('longitude', 'Longitude of the site'),
    field('zone', 'Time zone of the place'),
    field('class', 'Class'),
    field('maker', 'Maker'),
    field('model', 'Model'),
    field('serial', 'Serial number'),
    field('tag', 'Tag'),
    field('owner', 'Owner: customer or own fleet'),
    field('commissioned', 'Commissioned'),
    field('warranty_until', 'Warranty until'),
    field('parent_tag', 'Tag of the asset it is part of'),
  ],
  customers: [
    field('name', 'Name', true),
    field('service_address', 'Service address'),
    field('credit_days', 'Days to pay'),
    field('credit_limit', 'Credit limit'),
  ],
  contacts: [
    field('customer', 'Customer', true),
    field('name', 'Name', true),
    field('role', 'Role'),
    field('email', 'E-mail'),
    field('phone', 'Phone'),
    field('preferred', 'Told by: e-mail, phone or text message'),
  ],
  locations: [
    field('path', 'Place, from the top: Site > Floor 1 > Lab 4', true),
    field('customer', 'Customer who may use it'),
    field('address', 'Address'),
    field('zone', 'Time zone'),
    field('latitude', 'Latitude'),
    field('longitude', 'Longitude'),
    field('access_note', 'Access notes'),
  ],
  meters: [field('tag', 'Tag', true), field('meter', 'Meter', true), field('unit', 'Unit', true)],
  readings: [
    field('tag', 'Tag', true),
    field('meter', 'Meter', true),
    field('date', 'Date', true),
    field('value', 'Reading', true),
  ],
  agreements: [
    field('number', 'Number of the agreement', true),
    field('customer', 'Customer', true),
    field('name', 'Name of the agreement', true),
    field('from', 'Runs from', true),
    field('to', 'Runs to; empty: open-ended'),
    field('notice_days', 'Notice, days before the end'),
    field('renewal', 'At the end: renews by itself, ends or to be renegotiated'),
    field('renewal_months', 'Renewed for, months'),
    field('cost_centre', 'Cost centre'),
    field('currency', 'Currency'),
    field('price', 'Price of the whole'),
    field('billed_per', 'Billed per: month, quarter, half-year, year or visit'),
    field('billed', 'Billed: in advance or in arrears'),
    field('reminder', 'Reminder'),
    field('tag', 'Covers the asset with this tag'),
    field('place', 'Covers everything below this place: Site > Floor 1'),
    field('class', 'Covers this class at the customer'),
    field('line_from', 'Covered from'),
    field('line_to', 'Covered to'),
    field('labour', 'Labour borne, %'),
    field('parts', 'Parts borne, %'),
    field('consumables', 'Consumables borne, %'),
    field('travel', 'Travel borne, %'),
    field('kinds', 'Work included, such as preventive + repair'),
    field('service_level', 'Service level'),
    field('line_price', 'Price of the line'),
  ],
  absences: [
    field('person', 'Person: name or e-mail', true),
    field('kind', 'Kind: leave, sick or training', true),
    field('from', 'First day', true),
    field('to', 'Last day', true),
    field('note', 'Note'),
  ],
  'travel times': [
    field('from', 'From: a depot, or a site by its path', true),
    field('to', 'To: a depot, or a site by its path', true),
    field('minutes', 'Minutes', true),
  ],
};

/** The fields that hold dates, whatever the kind of file. */
export const IMPORT_DATES: readonly string[] = [
  'commissioned',
  'warranty_until',
  'date',
  'from',
  'to',
  'line_from',
  'line_to',
];

const plainHead = (text: string): string =>
  text
    .normalize('NFD')
    .replace(/[\u0300-\u036f]/g, '')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, ' ')
    .trim();

/** The columns whose heads say a field's name or label; the rest is left to be mapped by hand. */
export function guessMapping(kind: ImportKind, head: readonly string[]): Record<string, number> {
  const heads = head.map(plainHead);
  const mapping: Record<string, number> = {};
  for (const { name, label } of IMPORT_FIELDS[kind]) {
    const wanted = [plainHead(name), plainHead(label), plainHead(label.split(/[,:]/)[0] as string)];
    const at = heads.findIndex((h, i) => wanted.includes(h) && !Object.values(mapping).includes(i));
    if (at >= 0) mapping[name] = at;
  }
  return mapping;
}

/** What keeps a mapping from being used: fields that are needed, columns taken twice, columns that are not there. */
export function checkMapping(kind: ImportKind, settings: ImportSettings, columns: number): string[] {
  const { mapping, key } = settings;
  const fields = IMPORT_FIELDS[kind];
  const keyFields =
    key === 'tag' ? ['tag'] : key === 'maker and serial' ? ['maker', 'serial'] : ['tag', 'maker', 'serial'];
  const needed = [...fields.filter((f) => f.needed).map((f) => f.name), ...(kind === 'assets' ? keyFields : [])];
  const labelOf = (name: string): string => fields.find((f) => f.name === name)?.label ?? name;
  const missing = needed.filter((name) => mapping[name] === undefined);
  const unknown = Object.keys(mapping).filter((name) => !fields.some((f) => f.name === name));
  const outside = Object.entries(mapping).filter(([, at]) => at < 0 || at >= columns);
  const twice = Object.values(mapping).filter((at, i, all) => all.indexOf(at) !== i);
  return [
    ...(missing.length > 0 ? [`Choose the column for: ${missing.map(labelOf).join(', ')}.`] : []),
    ...(unknown.length > 0 ? [`Not fields of this kind: ${unknown.join(', ')}.`] : []),
    ...(outside.length > 0
      ? [`The file has no column for: ${outside.map(([name]) => labelOf(name)).join(', ')}.`]
      : []),
    ...(twice.length > 0 ? ['One column is used for two fields; choose another for one of them.'] : []),
  ];
}

/** A date in the chosen order; null when it is none. ISO dates are read whatever was chosen, as they cannot be mistaken. */
export function readImportDate(text: string, format: DateFormat): LocalDate | null {
  const iso = parseLocalDate(text);
  if (iso || format === 'yyyy-mm-dd') return iso;
  const found = /^(\d{1,2})[/.-](\d{1,2})[/.-](\d{4})$/.exec(text);
  if (!found) return null;
  const [day, month] = format === 'dd/mm/yyyy' ? [found[1], found[2]] : [found[2], found[1]];
  return parseLocalDate(`${found[3]}-${(month as string).padStart(2, '0')}-${(day as string).padStart(2, '0')}`);
}

/** An example in the chosen order, for words that say what would be right. */
export function exampleDate(format: DateFormat): string {
  return format === 'yyyy-mm-dd' ? '2023-02-28' : format === 'dd/mm/yyyy' ? '28/02/2023' : '02/28/2023';
}

/**
 * Whether a column of dates cannot be read without being told their order. A column that holds ISO dates is in ISO: what is
 * written otherwise in it is a wrong row, named as such.
 */
export function needsDateFormat(values: readonly string[]): boolean {
  const dated = values.filter((v) => v !== '');
  return !dated.some((v) => parseLocalDate(v) !== null) && dated.some((v) => /^\d{1,2}[/.-]\d{1,2}[/.-]\d{4}$/.test(v));
}
