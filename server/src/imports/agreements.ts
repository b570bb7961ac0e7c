// Importing agreements: what the register holds of what the file names, and writing the core’s plan as drafts.
import { eq, inArray } from 'drizzle-orm';
import { noticeDate, placeKey, planAgreements, type NewAgreement } from '#core/agreements/index.ts';
import type { AgreementId, AssetClassId, AssetId, CustomerId, LocationId, ServiceLevelId } from '#core/ids.ts';
import { namesOf, SEPARATOR, type ImportSettings, type TableRow } from '#core/imports/index.ts';
import { bulkInsert, insertedIds, type Db, type Tx } from '../platform/database.ts';
import { serviceLevel } from '../service-levels/tables.ts';
import { assetClass } from '../catalogue/tables.ts';
import { customer } from '../customers/tables.ts';
import { location, locationShare } from '../places/tables.ts';
import { asset } from '../assets/tables.ts';
import { agreement } from '../agreements/tables.ts';
import { instantText } from '../platform/columns.ts';
import type { Origin } from './assets.ts';
import { chunked } from './held.ts';
import { inSteps, wordsIn, type Prepared } from './steps.ts';
import { indexAgreements } from '../agreements/index.ts';

type Planned = NewAgreement<CustomerId, AssetId, LocationId, AssetClassId, ServiceLevelId>;

const lower = <V>(rows: readonly { readonly key: string; readonly value: V }[]): Map<string, V> =>
  new Map(rows.map((r) => [r.key.toLowerCase(), r.value]));

/** Places with the customers that may use them: those of the place itself or of any above it. */
async function placesNamed(db: Db, rows: readonly TableRow[]) {
  const names = [...new Set(wordsIn(rows, 'place').map((path) => namesOf(path).join(SEPARATOR)))];
  const found = await chunked(names, (list) =>
    db
      .select({ id: location.id, fullName: location.fullName, path: location.path })
      .from(location)
      .where(inArray(location.fullName, list)),
  );
  const way = (path: string): LocationId[] =>
    path.split('/').flatMap((x) => (x === '' ? [] : [Number(x) as LocationId]));
  const shares = await chunked([...new Set(found.flatMap((l) => way(l.path)))], (ids) =>
    db
      .select({ id: locationShare.locationId, customerId: locationShare.customerId })
      .from(locationShare)
      .where(inArray(locationShare.locationId, ids)),
  );
  return new Map(
    found.map((l) => {
      const ids = new Set(way(l.path));
      const customerIds = new Set(shares.filter((s) => ids.has(s.id)).map((s) => s.customerId));
      return [placeKey(l.fullName), { id: l.id, customerIds }] as const;
    }),
  );
}

async function heldFor(db: Db, rows: readonly TableRow[]) {
  const customers = await chunked(wordsIn(rows, 'customer'), (list) =>
    db.select({ key: customer.name, value: customer.id }).from(customer).where(inArray(customer.name, list)),
  );
  const numbers = await chunked(wordsIn(rows, 'number'), (list) =>
    db.select({ number: agreement.number }).from(agreement).where(inArray(agreement.number, list)),
  );
  const assets = await chunked(wordsIn(rows, 'tag'), (list) =>
    db
      .select({ tag: asset.tag, id: asset.id, customerId: asset.customerId })
      .from(asset)
      .where(inArray(asset.tag, list)),
  );
  const [classes, levels] = await Promise.all([
    db.select({ key: assetClass.name, value: assetClass.id }).from(assetClass).limit(5000),
    db.select({ key: serviceLevel.name, value: serviceLevel.id }).from(serviceLevel).limit(5000),
  ]);
  return {
    customers: lower(customers),
    numbers: new Set(numbers.map((n) => n.number.toLowerCase())),
    assets: lower(assets.map(({ tag, ...value }) => ({ key: tag, value }))),
    places: await placesNamed(db, rows),
    classes: lower(classes),
    serviceLevels: lower(levels),
  };
}

const HEADER_COLUMNS = [
  'number',
  'customer_id',
  'name',
  'term_from',
  'term_to',
  'notice_days',
  'notice_by',
  'renewal_mode',
  'renewal_months',
  'cost_centre',
  'currency',
  'price_minor',
  'billing_per',
  'billing_timing',
  'reminder',
  'import_id',
];
const LINE_COLUMNS = [
  'agreement_id',
  'asset_id',
  'location_id',
  'asset_class_id',
  'term_from',
  'term_to',
  'labour',
  'parts',
  'consumables',
  'travel',
  'kinds',
  'excluded_causes',
  'service_level_id',
  'price_minor',
];

async function writeDrafts(tx: Tx, plans: readonly Planned[], { importId, who, now }: Origin): Promise<void> {
  const ids = await insertedIds(
    tx.connection,
    await bulkInsert(
      tx.connection,
      'agreement',
      HEADER_COLUMNS,
      plans.map((a) => [
        a.number,
        a.customerId,
        a.name,
        a.term.from,
        a.term.to,
        a.noticeDays,
        noticeDate(a.term.to, a.noticeDays),
        a.renewalMode,
        a.renewalMonths,
        a.costCentre,
        a.currency,
        a.priceMinor,
        a.billingPer,
        a.billingTiming,
        a.reminder,
        importId,
      ]),
    ),
    plans.length,
  );
  const lines = plans.flatMap((a, i) =>
    a.lines.map((l) => [
      ids[i],
      l.reach.kind === 'asset' ? l.reach.assetId : null,
      l.reach.kind === 'location' ? l.reach.locationId : null,
      l.reach.kind === 'class' ? l.reach.assetClassId : null,
      l.term.from,
      l.term.to,
      l.labour,
      l.parts,
      l.consumables,
      l.travel,
      JSON.stringify(l.kinds),
      '[]',
      l.serviceLevelId,
      l.priceMinor,
    ]),
  );
  if (lines.length > 0) await bulkInsert(tx.connection, 'coverage_line', LINE_COLUMNS, lines);
  const at = instantText(now);
  await bulkInsert(
    tx.connection,
    'agreement_event',
    ['agreement_id', 'at', 'person_id', 'text'],
    plans.map((_, i) => [ids[i], at, who.id, 'draft written by an import']),
  );
  await indexAgreements(tx, ids as AgreementId[]);
}

export async function prepareAgreements(
  db: Db,
  rows: readonly TableRow[],
  settings: ImportSettings,
): Promise<Prepared> {
  const plan = planAgreements(rows, await heldFor(db, rows), settings.dateFormat);
  return {
    created: {
      agreements: plan.creates.length,
      'coverage lines': plan.creates.reduce((n, a) => n + a.lines.length, 0),
    },
    updated: 0,
    unchanged: plan.unchanged,
    bad: plan.bad,
    notes: [],
    steps: inSteps(plan.creates).map((slice) => ({
      rows: slice.length,
      write: (tx: Tx, origin: Origin) => writeDrafts(tx, slice, origin),
    })),
  };
}

/** Whether the import's agreements are drafts still, as it left them; the first that is not is named. */
export async function changedSince(tx: Tx, importId: number): Promise<{ name: string }[]> {
  const [rows] = await tx.connection.query(
    `SELECT a.number AS name FROM agreement a LEFT JOIN schedule s ON s.agreement_id = a.id
     WHERE a.import_id = ? AND (a.stage <> 'draft' OR a.version <> 1 OR s.id IS NOT NULL) LIMIT 6`,
    [importId],
  );
  return rows as { name: string }[];
}

export async function removeDrafts(tx: Tx, importId: number): Promise<void> {
  await tx.connection.query(
    "DELETE p FROM find_posting p JOIN agreement a ON a.id = p.subject_id WHERE p.kind = 'agreement' AND a.import_id = ?",
    [importId],
  );
  for (const table of ['coverage_line', 'agreement_event', 'allowance', 'agreement_contact'])
    await tx.connection.query('DELETE x FROM ?? x JOIN agreement a ON a.id = x.agreement_id WHERE a.import_id = ?', [
      table,
      importId,
    ]);
  await tx.db.delete(agreement).where(eq(agreement.importId, importId as never));
}
