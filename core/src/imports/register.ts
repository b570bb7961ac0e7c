// Register import: decides, row by row, what a register file creates and what is wrong with the rows that cannot load.
// Dry run and confirmation use the same plan.
import type { LocalDate } from '../time/index.ts';
import {
  readRow,
  SEPARATOR,
  type Parsed,
  type PlannedAsset,
  type RegisterColumn,
  type RegisterRow,
  type Remark,
} from './rows.ts';
import type { AssetKey } from './columns.ts';
import {
  UPDATED_FIELDS,
  type HeldAsset,
  type HeldRegister,
  type ImportOptions,
  type ImportPlan,
  type PlannedCustomer,
  type PlannedLocation,
  type PlannedShare,
  type PlannedUpdate,
  type UpdatedField,
} from './plan.ts';

const PLAIN: ImportOptions = { dateFormat: 'yyyy-mm-dd', key: 'tag and serial' };

/** Maker and serial together name a machine; case and spaces around do not count. */
export function serialKey(maker: string, serial: string): string {
  return `${maker.trim().toLowerCase()}|${serial.trim().toLowerCase()}`;
}

type Draft = {
  customers: Map<string, PlannedCustomer>;
  classes: Set<string>;
  locations: Map<string, PlannedLocation & { line: number }>;
  shares: Map<string, PlannedShare>;
  sharedRoots: Set<string>;
  assets: PlannedAsset[];
  bad: Remark[];
  notes: Remark[];
};

/** The value a path's nodes give on the way up, from the file's new locations and from those held. */
function zoneAbove(draft: Draft, held: HeldRegister, names: readonly string[]): string | null {
  for (let depth = names.length; depth > 0; depth -= 1) {
    const path = names.slice(0, depth).join(SEPARATOR);
    const zone = draft.locations.get(path)?.zone ?? held.locations.get(path)?.zone ?? null;
    if (zone !== null) return zone;
  }
  return null;
}

function planPlace(draft: Draft, held: HeldRegister, parsed: Parsed): void {
  const { names, asset } = parsed;
  const leaf = names.join(SEPARATOR);
  const known = held.locations.get(leaf) ?? draft.locations.get(leaf);
  const note = (column: RegisterColumn, message: string) => draft.notes.push({ line: asset.line, column, message });
  if (known) {
    if (parsed.address && known.address && known.address !== parsed.address) {
      note('address', `“${leaf}” keeps the address “${known.address}”; this row says “${parsed.address}”.`);
    }
    const zone = zoneAbove(draft, held, names);
    if (parsed.zone && zone && zone !== parsed.zone)
      note('zone', `“${leaf}” keeps the zone ${zone}; this row says ${parsed.zone}.`);
  }
  names.forEach((name, i) => {
    const path = names.slice(0, i + 1).join(SEPARATOR);
    if (draft.locations.has(path) || held.locations.has(path)) return;
    const isLeaf = i === names.length - 1;
    const above = zoneAbove(draft, held, names.slice(0, i));
    // Zone and coordinates are put as high as they hold; the street stays with the place the row names.
    draft.locations.set(path, {
      line: asset.line,
      path,
      name,
      parentPath: i === 0 ? null : names.slice(0, i).join(SEPARATOR),
      address: isLeaf ? parsed.address : null,
      zone: i === 0 || (isLeaf && above !== parsed.zone) ? parsed.zone : null,
      latitude: i === 0 ? parsed.latitude : null,
      longitude: i === 0 ? parsed.longitude : null,
    });
  });
  planShare(draft, held, names, asset.customer);
}

/** The first customer of a site gets the whole of it; others get the place they stand at. */
function planShare(draft: Draft, held: HeldRegister, names: readonly string[], customer: string): void {
  const paths = names.map((_, i) => names.slice(0, i + 1).join(SEPARATOR));
  const mayUse = paths.some(
    (path) => draft.shares.has(`${customer}|${path}`) || held.locations.get(path)?.customers.has(customer),
  );
  if (mayUse) return;
  const root = paths[0] as string;
  const rootTaken = draft.sharedRoots.has(root) || (held.locations.get(root)?.customers.size ?? 0) > 0;
  const path = rootTaken ? (paths[paths.length - 1] as string) : root;
  draft.shares.set(`${customer}|${path}`, { customer, path });
  draft.sharedRoots.add(root);
}

/** Rows whose parent is not to be had, and rows below such rows, until nothing more falls. */
function dropOrphans(
  rows: Parsed[],
  held: HeldRegister,
  bad: (line: number, column: RegisterColumn, message: string) => void,
): Parsed[] {
  let kept = rows;
  for (;;) {
    const tags = new Set(kept.map((r) => r.asset.tag));
    const orphans = kept.filter(
      (r) => r.asset.parentTag !== null && !tags.has(r.asset.parentTag) && !held.tags.has(r.asset.parentTag),
    );
    if (orphans.length === 0) return kept;
    for (const { asset } of orphans) {
      bad(
        asset.line,
        'parent_tag',
        `No asset with the tag “${asset.parentTag}” loads from this file or stands in the register; correct the tag or leave it empty.`,
      );
    }
    kept = kept.filter((r) => !orphans.includes(r));
  }
}

function loopLines(rows: readonly Parsed[]): Set<number> {
  const parentOf = new Map(rows.map((r) => [r.asset.tag, r.asset.parentTag]));
  const inLoop = (tag: string): boolean => {
    const seen = new Set<string>();
    for (let next: string | null | undefined = tag; next; next = parentOf.get(next)) {
      if (seen.has(next)) return next === tag;
      seen.add(next);
    }
    return false;
  };
  return new Set(rows.filter((r) => inLoop(r.asset.tag)).map((r) => r.asset.line));
}

/** The asset of the register a row is about, as the chosen key says. */
function heldBy(key: AssetKey, asset: PlannedAsset, held: HeldRegister): HeldAsset | undefined {
  const bySerial = held.serials.get(serialKey(asset.maker, asset.serial));
  switch (key) {
    case 'tag':
      return held.tags.get(asset.tag);
    case 'maker and serial':
      return bySerial === undefined ? undefined : held.tags.get(bySerial);
    case 'tag and serial':
      return bySerial === asset.tag ? held.tags.get(asset.tag) : undefined;
  }
}

const FIELD_CELLS: Readonly<Record<UpdatedField, RegisterColumn>> = {
  tag: 'tag',
  maker: 'maker',
  serial: 'serial',
  className: 'class',
  model: 'model',
  owner: 'owner',
  commissioned: 'commissioned',
  warrantyUntil: 'warranty_until',
  locationPath: 'location_path',
  parentTag: 'parent_tag',
};

function changesOf(row: RegisterRow, { asset }: Parsed, known: HeldAsset): PlannedUpdate['changes'] {
  const changes: Partial<Record<UpdatedField, string>> = {};
  for (const field of UPDATED_FIELDS) {
    const said = asset[field];
    if (row.cells[FIELD_CELLS[field]] === '' || said === null || said === '') continue;
    const same = field === 'className' ? said.toLowerCase() === known.className.toLowerCase() : said === known[field];
    if (!same) changes[field] = said;
  }
  return changes;
}

/** Classes to be made, each once whatever its case. */
function newClassesOf(named: ReadonlySet<string>, held: HeldRegister): string[] {
  const made = new Map<string, string>();
  for (const name of named) {
    const plain = name.toLowerCase();
    if (!held.classes?.has(plain) && !made.has(plain)) made.set(plain, name);
  }
  return [...made.values()];
}

type Bad = (line: number, column: RegisterColumn, message: string) => void;

/** On which line of the file each serial and tag stood first. */
type Seen = { readonly serials: Map<string, number>; readonly tags: Map<string, number> };

/** Refuses what stands against the register or an earlier line; `known` is the asset the row updates. */
function checkIdentity(parsed: Parsed, known: HeldAsset | undefined, held: HeldRegister, seen: Seen, bad: Bad): void {
  const { asset } = parsed;
  const key = serialKey(asset.maker, asset.serial);
  const sameSerial = asset.serial === '' ? undefined : held.serials.get(key);
  const sameTag = asset.tag === '' ? undefined : held.tags.get(asset.tag);
  if (!known) for (const { column, message } of parsed.missing) bad(asset.line, column, message);
  if (sameSerial !== undefined && sameSerial !== known?.tag)
    bad(
      asset.line,
      'serial',
      `${asset.maker} ${asset.serial} is in the register already, as tag ${sameSerial}; correct the serial or the tag.`,
    );
  else if (asset.serial !== '' && seen.serials.has(key))
    bad(
      asset.line,
      'serial',
      `The serial ${asset.serial} of ${asset.maker} stands on line ${seen.serials.get(key)} already; each machine has its own.`,
    );
  if (sameTag && sameTag.tag !== known?.tag)
    bad(
      asset.line,
      'tag',
      `The tag ${asset.tag} belongs to ${sameTag.maker} ${sameTag.serial}; give this machine another.`,
    );
  else if (asset.tag !== '' && seen.tags.has(asset.tag))
    bad(
      asset.line,
      'tag',
      `The tag ${asset.tag} stands on line ${seen.tags.get(asset.tag)} already; each machine has its own.`,
    );
  if (known && asset.customer !== '' && known.customer !== asset.customer)
    bad(
      asset.line,
      'customer',
      `${known.tag} belongs to ${known.customer} in the register; an import does not change the customer.`,
    );
  if (
    known &&
    asset.warrantyUntil &&
    !asset.commissioned &&
    known.commissioned &&
    asset.warrantyUntil < known.commissioned
  )
    bad(
      asset.line,
      'warranty_until',
      `The warranty ends (${asset.warrantyUntil}) before the asset was commissioned (${known.commissioned}).`,
    );
}

/** Draws a new asset into the plan with the customer, class and places it needs. */
function planFresh(draft: Draft, held: HeldRegister, parsed: Parsed, customerOfTag: ReadonlyMap<string, string>): void {
  const { asset } = parsed;
  if (!held.customers.has(asset.customer))
    draft.customers.set(asset.customer, {
      name: asset.customer,
      serviceAddress: draft.customers.get(asset.customer)?.serviceAddress ?? parsed.address,
    });
  draft.classes.add(asset.className);
  if (parsed.names.length > 0) planPlace(draft, held, parsed);
  const parentCustomer = asset.parentTag === null ? undefined : customerOfTag.get(asset.parentTag);
  if (parentCustomer !== undefined && parentCustomer !== asset.customer) {
    draft.notes.push({
      line: asset.line,
      column: 'parent_tag',
      message: `Its parent ${asset.parentTag} belongs to ${parentCustomer}; check that this is meant.`,
    });
  }
  draft.assets.push(asset);
}

/** Draws an update into the plan; one whose parent does not exist is refused and left out. */
function planUpdate(
  draft: Draft,
  held: HeldRegister,
  { parsed, update }: { readonly parsed: Parsed; readonly update: PlannedUpdate },
  customerOfTag: ReadonlyMap<string, string>,
  bad: Bad,
): PlannedUpdate[] {
  const { changes } = update;
  const customer = held.tags.get(update.tag)?.customer ?? parsed.asset.customer;
  if (changes.parentTag !== undefined && !held.tags.has(changes.parentTag) && !customerOfTag.has(changes.parentTag)) {
    bad(
      update.line,
      'parent_tag',
      `No asset with the tag “${changes.parentTag}” loads from this file or stands in the register; correct the tag or leave it empty.`,
    );
    return [];
  }
  if (changes.className !== undefined) draft.classes.add(changes.className);
  if (changes.locationPath !== undefined) planPlace(draft, held, { ...parsed, asset: { ...parsed.asset, customer } });
  return [update];
}

/**
 * Plans an import. Good rows load even when others are bad; a bad row names its line, column and remedy. An asset that the
 * chosen key finds in the register is updated where the row says something else; the same file again changes nothing.
 * Refused per row: missing names, unknown zones, impossible or future dates, serials or tags taken by another asset
 * (in the register or on an earlier line), parents that do not exist or form a loop.
 */
export function planImport(
  rows: readonly RegisterRow[],
  held: HeldRegister,
  today: LocalDate,
  options: ImportOptions = PLAIN,
): ImportPlan {
  const draft: Draft = {
    customers: new Map(),
    classes: new Set(),
    locations: new Map(),
    shares: new Map(),
    sharedRoots: new Set(),
    assets: [],
    bad: [],
    notes: [],
  };
  const badLines = new Set<number>();
  const bad = (line: number, column: RegisterColumn, message: string): void => {
    badLines.add(line);
    draft.bad.push({ line, column, message });
  };
  const seen: Seen = { serials: new Map(), tags: new Map() };
  const fresh: Parsed[] = [];
  const updated: { parsed: Parsed; update: PlannedUpdate }[] = [];
  let alreadyHeld = 0;
  for (const row of rows) {
    const parsed = readRow(row, today, options.dateFormat, (column, message) => bad(row.line, column, message));
    const { asset } = parsed;
    const known = heldBy(options.key, asset, held);
    checkIdentity(parsed, known, held, seen, bad);
    if (badLines.has(row.line)) continue;
    if (asset.serial !== '') seen.serials.set(serialKey(asset.maker, asset.serial), row.line);
    if (asset.tag !== '') seen.tags.set(asset.tag, row.line);
    if (!known) {
      fresh.push(parsed);
      continue;
    }
    const changes = changesOf(row, parsed, known);
    if (Object.keys(changes).length === 0) alreadyHeld += 1;
    else updated.push({ parsed, update: { line: row.line, tag: known.tag, changes } });
  }
  const loops = loopLines(fresh);
  for (const { asset } of fresh.filter((r) => loops.has(r.asset.line)))
    bad(asset.line, 'parent_tag', 'The parents form a loop; an asset cannot stand below itself.');
  const good = dropOrphans(
    fresh.filter((r) => !loops.has(r.asset.line)),
    held,
    bad,
  );
  const customerOfTag = new Map([
    ...[...held.tags].map(([tag, a]) => [tag, a.customer] as const),
    ...good.map((r) => [r.asset.tag, r.asset.customer] as const),
  ]);
  for (const parsed of good) planFresh(draft, held, parsed, customerOfTag);
  const updates = updated.flatMap((changed) => planUpdate(draft, held, changed, customerOfTag, bad));
  return {
    customers: [...draft.customers.values()],
    updates,
    classes: [...draft.classes],
    newClasses: newClassesOf(draft.classes, held),
    shares: [...draft.shares.values()],
    locations: [...draft.locations.values()],
    assets: draft.assets,
    alreadyHeld,
    bad: draft.bad.sort((a, b) => a.line - b.line),
    notes: draft.notes,
  };
}
