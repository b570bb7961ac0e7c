// Register import, one row at a time: the columns, and everything about a row that can be judged without the others.
import { parseZone, type LocalDate } from '../time/index.ts';
import { MAX_DEPTH } from '../places/index.ts';
import { exampleDate, readImportDate, type DateFormat } from './columns.ts';

export const REGISTER_COLUMNS = [
  'customer',
  'location_path',
  'address',
  'latitude',
  'longitude',
  'zone',
  'class',
  'maker',
  'model',
  'serial',
  'tag',
  'owner',
  'commissioned',
  'warranty_until',
  'parent_tag',
] as const;
export type RegisterColumn = (typeof REGISTER_COLUMNS)[number];
export type RegisterRow = { readonly line: number; readonly cells: Readonly<Record<RegisterColumn, string>> };

export type Remark = { readonly line: number; readonly column: RegisterColumn; readonly message: string };

export type PlannedAsset = {
  readonly line: number;
  readonly customer: string;
  readonly locationPath: string | null;
  readonly className: string;
  readonly maker: string;
  readonly model: string;
  readonly serial: string;
  readonly tag: string;
  readonly owner: 'customer' | 'own fleet';
  readonly commissioned: LocalDate | null;
  readonly warrantyUntil: LocalDate | null;
  readonly parentTag: string | null;
};

/** Between the names of a location's path, as written and shown. */
export const SEPARATOR = ' > ';

/** Splits a typed path into its names; empty when there is none. */
export function namesOf(path: string): string[] {
  return path
    .split('>')
    .map((name) => name.trim())
    .filter((name) => name !== '');
}

function coordinate(text: string, limit: number): number | null | 'wrong' {
  if (text === '') return null;
  const value = Number(text);
  return /^[+-]?\d{1,3}(\.\d+)?$/.test(text) && Math.abs(value) <= limit ? value : 'wrong';
}

function dateCell(
  row: RegisterRow,
  column: 'commissioned' | 'warranty_until',
  format: DateFormat,
  bad: (column: RegisterColumn, message: string) => void,
): LocalDate | null {
  const typed = row.cells[column];
  if (typed === '') return null;
  const date = readImportDate(typed, format);
  if (!date) bad(column, `“${typed}” is not a date; write it as ${format}, such as ${exampleDate(format)}.`);
  return date;
}

export type Parsed = {
  asset: PlannedAsset;
  names: string[];
  zone: string | null;
  latitude: number | null;
  longitude: number | null;
  address: string | null;
  /** What a new asset would need and the row does not say; one that is held already has it. */
  missing: readonly Remark[];
};

/** Reads one row on its own: everything that can be judged without the others. */
export function readRow(
  row: RegisterRow,
  today: LocalDate,
  format: DateFormat,
  bad: (column: RegisterColumn, message: string) => void,
): Parsed {
  const { cells } = row;
  const missing: Remark[] = [];
  const needed = (column: RegisterColumn, what: string): string => {
    if (cells[column] === '')
      missing.push({ line: row.line, column, message: `${what} is missing; every asset needs one.` });
    else if (cells[column].length > 120) bad(column, `${what} is longer than 120 characters; shorten it.`);
    return cells[column];
  };
  const zone = cells.zone === '' ? null : parseZone(cells.zone);
  if (cells.zone !== '' && !zone)
    bad('zone', `“${cells.zone}” is not a known time zone; use a name such as Europe/Lisbon.`);
  const latitude = coordinate(cells.latitude, 90);
  if (latitude === 'wrong')
    bad('latitude', `“${cells.latitude}” is not a latitude; write degrees from -90 to 90 with a point.`);
  const longitude = coordinate(cells.longitude, 180);
  if (longitude === 'wrong')
    bad('longitude', `“${cells.longitude}” is not a longitude; write degrees from -180 to 180 with a point.`);
  if ((cells.latitude === '') !== (cells.longitude === ''))
    bad(
      cells.latitude === '' ? 'latitude' : 'longitude',
      'A position has both: give latitude and longitude, or neither.',
    );
  const owner = cells.owner === '' || cells.owner === 'customer' ? 'customer' : 'own fleet';
  if (cells.owner !== '' && cells.owner !== 'customer' && cells.owner !== 'own fleet') {
    bad('owner', `“${cells.owner}” is not an owner; write “customer” or “own fleet”.`);
  }
  const commissioned = dateCell(row, 'commissioned', format, bad);
  if (commissioned && commissioned > today)
    bad('commissioned', `${commissioned} lies in the future; an asset is registered once it is installed.`);
  const warrantyUntil = dateCell(row, 'warranty_until', format, bad);
  if (commissioned && warrantyUntil && warrantyUntil < commissioned)
    bad('warranty_until', `The warranty ends (${warrantyUntil}) before the asset was commissioned (${commissioned}).`);
  let names = namesOf(cells.location_path);
  // A machine without a place but with an address stands at a site of its own, named by that address.
  if (names.length === 0 && cells.address !== '') names = [cells.address.replaceAll('>', '-')];
  if (names.length > MAX_DEPTH)
    bad('location_path', `The path has ${names.length} levels; at most ${MAX_DEPTH} are kept.`);
  if (names.some((name) => name.length > 120)) bad('location_path', 'A location’s name is at most 120 characters.');
  const asset: PlannedAsset = {
    line: row.line,
    customer: needed('customer', 'The customer'),
    locationPath: names.length > 0 ? names.join(SEPARATOR) : null,
    className: needed('class', 'The class'),
    maker: needed('maker', 'The maker'),
    model: needed('model', 'The model'),
    serial: needed('serial', 'The serial number'),
    tag: needed('tag', 'The tag'),
    owner,
    commissioned,
    warrantyUntil,
    parentTag: cells.parent_tag === '' ? null : cells.parent_tag,
  };
  return {
    asset,
    names,
    zone,
    latitude: latitude === 'wrong' ? null : latitude,
    longitude: longitude === 'wrong' ? null : longitude,
    address: cells.address === '' ? null : cells.address,
    missing,
  };
}

/** Checks the file's head line: every column is there, under its own name, once. */
export function checkColumns(head: readonly string[]): string[] {
  const missing = REGISTER_COLUMNS.filter((c) => !head.includes(c));
  const strange = head.filter((c) => !REGISTER_COLUMNS.includes(c as RegisterColumn));
  const twice = REGISTER_COLUMNS.filter((c) => head.filter((h) => h === c).length > 1);
  return [
    ...(missing.length > 0 ? [`Columns missing: ${missing.join(', ')}.`] : []),
    ...(strange.length > 0 ? [`Columns not known: ${strange.map((s) => `“${s}”`).join(', ')}.`] : []),
    ...(twice.length > 0 ? [`Columns given twice: ${twice.join(', ')}.`] : []),
  ];
}
