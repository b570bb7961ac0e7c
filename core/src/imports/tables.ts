// Importing customers, contacts, places, meters and readings: what each row creates or changes, and what is wrong with it.
import { parseZone, startOfDay, type Instant, type LocalDate, type Zone } from '../time/index.ts';
import { WAYS_TO_TELL, type WayToTell } from '../customers.ts';
import { namesOf, SEPARATOR } from './rows.ts';
import { planReading, type MeterReading } from '../meters.ts';
import { MAX_DEPTH } from '../places/index.ts';
import { exampleDate, IMPORT_FIELDS, readImportDate, type DateFormat, type ImportKind } from './columns.ts';

export type TableRow = { readonly line: number; readonly cells: Readonly<Record<string, string>> };
export type TableRemark = { readonly line: number; readonly column: string; readonly message: string };

type Planned<C, U> = {
  readonly creates: readonly (C & { readonly line: number })[];
  readonly updates: readonly (U & { readonly line: number })[];
  readonly unchanged: number;
  readonly bad: readonly TableRemark[];
};

/** Reads cells of one row; the first word on a wrong one is kept, with what would be right. */
export class Cells {
  readonly bad: TableRemark[] = [];
  constructor(private readonly row: TableRow) {}
  refuse(column: string, message: string): void {
    this.bad.push({ line: this.row.line, column, message });
  }
  text(column: string, most = 120): string | null {
    const value = this.row.cells[column] ?? '';
    if (value.length > most) this.refuse(column, `This is longer than ${most} characters; shorten it.`);
    return value === '' ? null : value;
  }
  needed(kind: ImportKind, column: string, most = 120): string {
    const value = this.text(column, most);
    const label = IMPORT_FIELDS[kind].find((f) => f.name === column)?.label ?? column;
    if (value === null) this.refuse(column, `${label} is missing; every row needs it.`);
    return value ?? '';
  }
  number(column: string, least: number, most: number, decimals: number): number | null {
    const typed = this.text(column);
    if (typed === null) return null;
    const plain = typed.replace(',', '.');
    const value = Number(plain);
    const places = plain.split('.')[1]?.length ?? 0;
    if (!/^[+-]?\d+(\.\d+)?$/.test(plain) || value < least || value > most || places > decimals) {
      this.refuse(
        column,
        `“${typed}” is not right here; write a number from ${least} to ${most}${decimals === 0 ? ' without decimals' : ''}.`,
      );
      return null;
    }
    return value;
  }
  date(column: string, format: DateFormat): LocalDate | null {
    const typed = this.text(column, 20);
    const date = typed === null ? null : readImportDate(typed, format);
    if (typed !== null && date === null)
      this.refuse(column, `“${typed}” is not a date; write it as ${format}, such as ${exampleDate(format)}.`);
    return date;
  }
  oneOf<T extends string>(column: string, choices: readonly T[]): T | null {
    const typed = this.text(column);
    const found = typed === null ? null : choices.find((c) => c.toLowerCase() === typed.toLowerCase());
    if (typed !== null && !found)
      this.refuse(column, `“${typed}” is not known here; write one of: ${choices.join(', ')}.`);
    return found ?? null;
  }
  zone(column: string): Zone | null {
    const typed = this.text(column, 60);
    if (typed === null) return null;
    const zone = parseZone(typed);
    if (!zone) this.refuse(column, `“${typed}” is not a known time zone; use a name such as Europe/Lisbon.`);
    return zone;
  }
}

type Changes = Readonly<Record<string, string | number | null>>;

/** What a row says differently; an empty cell says nothing. */
function differing(said: Changes, held: Readonly<Record<string, unknown>>): Changes {
  return Object.fromEntries(Object.entries(said).filter(([key, value]) => value !== null && held[key] !== value));
}

export function plan<C, U>(
  rows: readonly TableRow[],
  one: (
    row: TableRow,
    cells: Cells,
    twice: (key: string, column: string, what: string) => void,
  ) => { create: C } | { update: U } | 'unchanged' | null,
): Planned<C, U> {
  const creates: (C & { line: number })[] = [];
  const updates: (U & { line: number })[] = [];
  const bad: TableRemark[] = [];
  const lineOf = new Map<string, number>();
  let unchanged = 0;
  for (const row of rows) {
    const cells = new Cells(row);
    const result = one(row, cells, (key, column, what) => {
      const earlier = lineOf.get(key);
      if (earlier !== undefined) cells.refuse(column, `${what} stands on line ${earlier} already.`);
      else lineOf.set(key, row.line);
    });
    if (cells.bad.length > 0) bad.push(...cells.bad);
    else if (result === 'unchanged') unchanged += 1;
    else if (result && 'create' in result) creates.push({ ...result.create, line: row.line });
    else if (result) updates.push({ ...result.update, line: row.line });
  }
  return { creates, updates, unchanged, bad };
}

export type HeldRow<I> = { readonly id: I; readonly version: number } & Readonly<Record<string, unknown>>;
export type PlannedChange<I> = { readonly id: I; readonly version: number; readonly changes: Changes };
type Decision<C, I> = { create: C } | { update: PlannedChange<I> } | 'unchanged';

export function createOrChange<C, I>(held: HeldRow<I> | undefined, said: Changes, create: C): Decision<C, I> {
  if (!held) return { create };
  const changes = differing(said, held);
  return Object.keys(changes).length === 0 ? 'unchanged' : { update: { id: held.id, version: held.version, changes } };
}

export type NewCustomer = {
  readonly name: string;
  readonly serviceAddress: string | null;
  readonly creditDays: number | null;
  /** Minor units. */
  readonly creditLimit: number | null;
};

/** Customers by name. Refused per row: no name, a name twice in the file, days or limits that are no numbers. */
export function planCustomers<I>(rows: readonly TableRow[], held: ReadonlyMap<string, HeldRow<I>>) {
  return plan<NewCustomer, PlannedChange<I>>(rows, (_, cells, twice) => {
    const name = cells.needed('customers', 'name');
    const limit = cells.number('credit_limit', 0, 100_000_000, 2);
    const said = {
      serviceAddress: cells.text('service_address', 300),
      creditDays: cells.number('credit_days', 0, 365, 0),
      creditLimit: limit === null ? null : Math.round(limit * 100),
    };
    twice(name.toLowerCase(), 'name', `“${name}”`);
    return createOrChange(held.get(name.toLowerCase()), said, { name, ...said });
  });
}

export type NewContact = {
  readonly customer: string;
  readonly name: string;
  readonly role: string | null;
  readonly email: string | null;
  readonly phone: string | null;
  readonly preferred: WayToTell;
};

/** Contacts by customer and name (`"customer|name"`, lower case). Refused per row: an unknown customer, a broken e-mail address, an unknown way to be told. */
export function planContacts<I>(
  rows: readonly TableRow[],
  customers: ReadonlySet<string>,
  held: ReadonlyMap<string, HeldRow<I>>,
) {
  return plan<NewContact, PlannedChange<I>>(rows, (_, cells, twice) => {
    const customer = cells.needed('contacts', 'customer');
    const name = cells.needed('contacts', 'name');
    const email = cells.text('email', 200);
    const typed = cells.text('preferred');
    const preferred = WAYS_TO_TELL.find((w) => w === typed?.toLowerCase());
    if (customer !== '' && !customers.has(customer.toLowerCase()))
      cells.refuse('customer', `There is no customer “${customer}”; import the customers first, or correct the name.`);
    if (email !== null && !/^[^\s@]+@[^\s@]+\.[^\s@]+$/.test(email))
      cells.refuse('email', `“${email}” is not an e-mail address; write one such as name@example.org.`);
    if (typed !== null && !preferred)
      cells.refuse('preferred', `“${typed}” is not known; write ${WAYS_TO_TELL.join(', ')}.`);
    const said = { role: cells.text('role'), email, phone: cells.text('phone', 60), preferred: preferred ?? null };
    const key = `${customer}|${name}`.toLowerCase();
    twice(key, 'name', `“${name}” of ${customer}`);
    return createOrChange(held.get(key), said, { customer, name, ...said, preferred: preferred ?? 'e-mail' });
  });
}

export type NewPlace = {
  readonly path: string;
  readonly customer: string | null;
  readonly address: string | null;
  readonly zone: Zone | null;
  readonly latitude: number | null;
  readonly longitude: number | null;
  readonly accessNote: string | null;
};

/** Places by path; the places above a new one are made with it. Refused per row: more than 12 levels, half a position, unknown zones or customers. */
export function planPlaces<I>(
  rows: readonly TableRow[],
  customers: ReadonlySet<string>,
  held: ReadonlyMap<string, HeldRow<I>>,
) {
  return plan<NewPlace, PlannedChange<I>>(rows, (_, cells, twice) => {
    const names = namesOf(cells.needed('locations', 'path', 760));
    const path = names.join(SEPARATOR);
    if (names.length > MAX_DEPTH)
      cells.refuse('path', `The path has ${names.length} levels; at most ${MAX_DEPTH} are kept.`);
    if (names.some((n) => n.length > 120)) cells.refuse('path', 'A place’s name is at most 120 characters.');
    const customer = cells.text('customer');
    if (customer !== null && !customers.has(customer.toLowerCase()))
      cells.refuse('customer', `There is no customer “${customer}”; import the customers first, or correct the name.`);
    const said = {
      address: cells.text('address', 300),
      zone: cells.zone('zone'),
      latitude: cells.number('latitude', -90, 90, 12),
      longitude: cells.number('longitude', -180, 180, 12),
      accessNote: cells.text('access_note', 1000),
    };
    if ((said.latitude === null) !== (said.longitude === null))
      cells.refuse(said.latitude === null ? 'latitude' : 'longitude', 'Give both latitude and longitude, or neither.');
    twice(path, 'path', `“${path}”`);
    return createOrChange(held.get(path), said, { path, customer, ...said });
  });
}

export type NewMeter<A> = { readonly assetId: A; readonly name: string; readonly unit: string };

/** Meters by tag and name (`"tag|name"`, lower case). Refused per row: an unknown tag, another unit than the meter has. */
export function planMeters<A>(
  rows: readonly TableRow[],
  assets: ReadonlyMap<string, A>,
  held: ReadonlyMap<string, { readonly unit: string }>,
) {
  return plan<NewMeter<A>, never>(rows, (_, cells, twice) => {
    const tag = cells.needed('meters', 'tag');
    const name = cells.needed('meters', 'meter', 60);
    const unit = cells.needed('meters', 'unit', 20);
    const assetId = assets.get(tag);
    if (tag !== '' && assetId === undefined)
      cells.refuse('tag', `No asset has the tag “${tag}”; register it first, or correct the tag.`);
    const key = `${tag}|${name}`.toLowerCase();
    const known = held.get(key);
    if (known && known.unit !== unit)
      cells.refuse('unit', `${name} of ${tag} counts in ${known.unit}; an import does not change the unit.`);
    twice(key, 'meter', `${name} of ${tag}`);
    return known ? 'unchanged' : assetId === undefined ? null : { create: { assetId, name, unit } };
  });
}

export type NewReading<M> = { readonly meterId: M; readonly at: Instant; readonly value: number };
export type HeldMeter<M> = { readonly id: M; readonly zone: Zone; readonly readings: readonly MeterReading[] };

/**
 * Readings by tag and meter, each at noon of its date in the asset’s zone; rows of one meter may come in any order. Refused
 * per row: an unknown meter, an impossible or future date, a reading before the last one held or lower than the one before
 * it: an import never guesses whether a meter was replaced. The same reading again changes nothing.
 */
export function planReadings<M>(
  rows: readonly TableRow[],
  held: ReadonlyMap<string, HeldMeter<M>>,
  format: DateFormat,
  now: Instant,
) {
  const dated = new Map<TableRow, LocalDate | null>(rows.map((r) => [r, readImportDate(r.cells.date ?? '', format)]));
  const inOrder = [...rows].sort((a, b) => ((dated.get(a) ?? '') < (dated.get(b) ?? '') ? -1 : 1));
  const taken = new Map<M, MeterReading[]>();
  const planned = plan<NewReading<M>, never>(inOrder, (row, cells) => {
    const tag = cells.needed('readings', 'tag');
    const name = cells.needed('readings', 'meter', 60);
    const typed = cells.needed('readings', 'date');
    const value = cells.number('value', 0, 1e12, 6);
    if (value === null && cells.bad.length === 0) cells.refuse('value', 'The reading is missing; write a number.');
    const known = held.get(`${tag}|${name}`.toLowerCase());
    if (!known && tag !== '' && name !== '')
      cells.refuse('meter', `${tag} has no meter “${name}”; import the meters first, or correct the name.`);
    const date = dated.get(row) ?? null;
    if (date === null && typed !== '')
      cells.refuse('date', `“${typed}” is not a date; write it as ${format}, such as ${exampleDate(format)}.`);
    if (!known || date === null || value === null) return null;
    const at = (startOfDay(known.zone, date) + 12 * 3_600_000) as Instant;
    const before = [...known.readings, ...(taken.get(known.id) ?? [])];
    if (before.some((r) => r.at === at && r.value === value)) return 'unchanged';
    const decision = planReading(before, { at, value }, now, null);
    if (!decision.ok) {
      for (const r of decision.refusals) cells.refuse(r.field === 'at' ? 'date' : 'value', r.message);
      return null;
    }
    taken.set(known.id, [...(taken.get(known.id) ?? []), { at, value }]);
    return { create: { meterId: known.id, at, value } };
  });
  return { ...planned, bad: [...planned.bad].sort((a, b) => a.line - b.line) };
}
