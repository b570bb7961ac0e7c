// Reading the register: lists, trees, the asset page and the finder.
import { and, asc, count, desc, eq, gt, inArray, like, or, sql, type SQL } from 'drizzle-orm';
import type { AssetPage, AssetRow, Found, TreeNode, VerdictOut } from '#api/register.ts';
import { idOfNumber, orderNumber } from '#api/shapes.ts';
import type { AssetClassId, AssetId, CustomerId, LocationId } from '#core/ids.ts';
import { decideEntitlement, type Verdict } from '#core/entitlement/index.ts';
import { localDateAt, type Instant, type LocalDate, type Zone } from '#core/time/index.ts';
import { calendarBook, type CalendarBook } from '../platform/calendar-book.ts';
import type { Db } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import {
  agreement,
  asset,
  assetClass,
  assetEvent,
  channel,
  customer,
  device,
  location,
  locationShare,
  person,
  workOrder,
  orderLine,
} from '../platform/tables/index.ts';
import { coversOf, takeDecision, type CoverSubject } from '../entitlement/index.ts';
import { clocksOf, visitsOf } from '../orders/index.ts';
import { ribbonsOf, stripStretch, threadStretch } from '../ribbon/index.ts';
import { plainSerial } from './import.ts';

export type AssetFilter = {
  readonly customer?: CustomerId;
  readonly location?: LocationId;
  readonly class?: AssetClassId;
  readonly search?: string;
};

function coverNow(subject: CoverSubject | undefined, on: LocalDate): string {
  if (!subject) return 'no cover';
  const verdict = decideEntitlement({ asset: subject.asset, on, kind: 'repair', cause: 'wear' }, subject.covers);
  const taken = verdict.considered.find((c) => c.taken);
  if (taken) return taken.label;
  const believed = verdict.considered.find((c) => c.reason.includes('draft') || c.reason.includes('suspended'));
  return believed
    ? `no cover: ${believed.label} is ${believed.reason.includes('draft') ? 'a draft' : 'suspended'}`
    : 'no cover';
}

/** Rows with threads for the given assets, in the order of `ids`. */
export async function assetRows(
  db: Db,
  book: CalendarBook,
  ids: readonly AssetId[],
  today: LocalDate,
  now: Instant,
): Promise<AssetRow[]> {
  if (ids.length === 0) return [];
  const rows = await db
    .select({
      id: asset.id,
      tag: asset.tag,
      serial: asset.serial,
      className: assetClass.name,
      maker: asset.maker,
      model: asset.model,
      customerName: customer.name,
      state: asset.state,
    })
    .from(asset)
    .innerJoin(assetClass, eq(assetClass.id, asset.classId))
    .innerJoin(customer, eq(customer.id, asset.customerId))
    .where(inArray(asset.id, [...ids]));
  const subjects = await coversOf(db, ids);
  const ribbons = await ribbonsOf(db, book, subjects, threadStretch(today, now));
  const byId = new Map(rows.map((r) => [r.id, r]));
  return ids.flatMap((id) => {
    const row = byId.get(id);
    const subject = subjects.get(id);
    return row
      ? [
          {
            ...row,
            place: subject?.place.label ?? 'no place',
            coverNow: coverNow(subject, today),
            ribbon: ribbons.get(id) ?? { cover: [], care: [], trouble: [] },
          },
        ]
      : [];
  });
}

async function conditionsOf(db: Db, filter: AssetFilter): Promise<SQL[]> {
  const wanted: SQL[] = [];
  if (filter.customer) wanted.push(eq(asset.customerId, filter.customer));
  if (filter.class) wanted.push(eq(asset.classId, filter.class));
  if (filter.location) {
    const [node] = await db.select({ path: location.path }).from(location).where(eq(location.id, filter.location));
    if (!node) refuse('not-found', 'That place does not exist.', 'location');
    const below = await db
      .select({ id: location.id })
      .from(location)
      .where(like(location.path, `${node.path}%`));
    wanted.push(
      inArray(
        asset.locationId,
        below.map((b) => b.id),
      ),
    );
  }
  if (filter.search?.trim()) {
    const text = escapeLike(filter.search.trim());
    wanted.push(
      or(like(asset.tag, `${text}%`), like(asset.serial, `%${text}%`), like(asset.model, `%${text}%`)) as SQL,
    );
  }
  return wanted;
}

export function escapeLike(text: string): string {
  return text.replace(/[\\%_]/g, (c) => `\\${c}`);
}

export async function listAssets(
  db: Db,
  filter: AssetFilter,
  after: string | undefined,
  limit: number,
  today: LocalDate,
  now: Instant,
) {
  const wanted = await conditionsOf(db, filter);
  const [[counted], ids] = await Promise.all([
    db
      .select({ total: count() })
      .from(asset)
      .where(and(...wanted)),
    db
      .select({ id: asset.id, tag: asset.tag })
      .from(asset)
      .where(and(...wanted, after === undefined ? undefined : gt(asset.tag, after)))
      .orderBy(asc(asset.tag))
      .limit(limit + 1),
  ]);
  const page = ids.slice(0, limit);
  const items = await assetRows(
    db,
    await calendarBook(db),
    page.map((r) => r.id),
    today,
    now,
  );
  const { from, to } = threadStretch(today, now);
  return {
    items,
    next: ids.length > limit ? (page[page.length - 1]?.tag ?? null) : null,
    total: counted?.total ?? 0,
    from,
    to,
    now,
  };
}

export async function listCustomers(db: Db, after: string | undefined, limit: number) {
  const rows = await db
    .select({ id: customer.id, name: customer.name, serviceAddress: customer.serviceAddress })
    .from(customer)
    .where(after === undefined ? undefined : gt(customer.name, after))
    .orderBy(asc(customer.name))
    .limit(limit + 1);
  const page = rows.slice(0, limit);
  const counts =
    page.length === 0
      ? []
      : await db
          .select({ id: asset.customerId, assets: count() })
          .from(asset)
          .where(
            inArray(
              asset.customerId,
              page.map((r) => r.id),
            ),
          )
          .groupBy(asset.customerId);
  const countOf = new Map(counts.map((c) => [c.id, c.assets]));
  return {
    items: page.map((r) => ({ ...r, assets: countOf.get(r.id) ?? 0 })),
    next: rows.length > limit ? (page[page.length - 1]?.name ?? null) : null,
  };
}

const TREE_LIMIT = 5000;

/** The places of a customer: those shared with it and everything below, with its own assets counted at each node. */
export async function readTree(
  db: Db,
  id: CustomerId,
): Promise<{ customer: { id: number; name: string }; nodes: TreeNode[]; withoutPlace: number }> {
  const [owner] = await db.select({ id: customer.id, name: customer.name }).from(customer).where(eq(customer.id, id));
  if (!owner) refuse('not-found', 'That customer does not exist.');
  const shared = await db
    .select({ path: location.path })
    .from(locationShare)
    .innerJoin(location, eq(location.id, locationShare.locationId))
    .where(eq(locationShare.customerId, id))
    .limit(500);
  const above = [
    ...new Set(
      shared.flatMap((s) =>
        s.path
          .split('/')
          .filter((x) => x !== '')
          .map(Number),
      ),
    ),
  ] as LocationId[];
  const pick = {
    id: location.id,
    parentId: location.parentId,
    name: location.name,
    zone: location.zone,
    address: location.address,
    version: location.version,
  };
  const nodes =
    shared.length === 0
      ? []
      : await db
          .select(pick)
          .from(location)
          .where(or(inArray(location.id, above), ...shared.map((s) => like(location.path, `${s.path}%`))))
          .orderBy(asc(location.fullName))
          .limit(TREE_LIMIT);
  const counts = await db
    .select({ id: asset.locationId, assets: count() })
    .from(asset)
    .where(eq(asset.customerId, id))
    .groupBy(asset.locationId);
  const countOf = new Map(counts.map((c) => [c.id, c.assets]));
  return {
    customer: owner,
    nodes: nodes.map((n) => ({ ...n, assets: countOf.get(n.id) ?? 0 })),
    withoutPlace: countOf.get(null) ?? 0,
  };
}

function verdictOut(taken: { verdict: Verdict; sentence: string; promise: string }): VerdictOut {
  return {
    sentence: taken.sentence,
    promise: taken.promise,
    elements: taken.verdict.elements,
    considered: [...taken.verdict.considered],
  };
}

export async function readAsset(db: Db, id: AssetId, now: Instant, reader: Zone): Promise<AssetPage> {
  const [row] = await db
    .select({
      asset,
      className: assetClass.name,
      customerName: customer.name,
      deviceKey: device.deviceKey,
      deviceId: device.id,
    })
    .from(asset)
    .innerJoin(assetClass, eq(assetClass.id, asset.classId))
    .innerJoin(customer, eq(customer.id, asset.customerId))
    .leftJoin(device, eq(device.assetId, asset.id))
    .where(eq(asset.id, id));
  if (!row) refuse('not-found', 'That asset does not exist.');
  const book = await calendarBook(db);
  const subjects = await coversOf(db, [id]);
  const subject = subjects.get(id) as CoverSubject;
  const today = localDateAt(subject.zone ?? reader, now);
  const stretch = stripStretch(today, now);
  const taken = await takeDecision(db, book, subject, {
    at: now,
    kind: 'repair',
    cause: 'unknown',
    priority: 1,
    fallbackZone: reader,
  });
  const agreementIds = [...new Set(subject.covers.flatMap((c) => (c.kind === 'coverage line' ? [c.agreementId] : [])))];
  const [ribbons, parents, children, agreements, orders, clocks, visits, events, readings] = await Promise.all([
    ribbonsOf(db, book, subjects, stretch),
    row.asset.parentId === null
      ? []
      : db.select({ id: asset.id, tag: asset.tag }).from(asset).where(eq(asset.id, row.asset.parentId)),
    db
      .select({ id: asset.id, tag: asset.tag, model: asset.model })
      .from(asset)
      .where(eq(asset.parentId, id))
      .limit(100),
    agreementIds.length === 0
      ? []
      : db
          .select({
            id: agreement.id,
            name: agreement.name,
            stage: agreement.stage,
            from: agreement.termFrom,
            to: agreement.termTo,
          })
          .from(agreement)
          .where(inArray(agreement.id, agreementIds))
          .orderBy(desc(agreement.termFrom)),
    db
      .select({
        id: workOrder.id,
        kind: workOrder.kind,
        stage: workOrder.stage,
        title: workOrder.title,
        startedAt: workOrder.startedAt,
        doneAt: workOrder.doneAt,
        technician: workOrder.technician,
      })
      .from(orderLine)
      .innerJoin(workOrder, eq(workOrder.id, orderLine.orderId))
      .where(eq(orderLine.assetId, id))
      .orderBy(desc(workOrder.startedAt))
      .limit(50),
    clocksOf(db, book, now, { assetId: id }, 50),
    visitsOf(db, today, { assetId: id }, 50),
    db
      .select({ at: assetEvent.at, who: person.name, text: assetEvent.text })
      .from(assetEvent)
      .leftJoin(person, eq(person.id, assetEvent.personId))
      .where(eq(assetEvent.assetId, id))
      .orderBy(desc(assetEvent.at))
      .limit(50),
    row.deviceId === null ? [] : db.select().from(channel).where(eq(channel.deviceId, row.deviceId)).limit(40),
  ]);
  const { place } = subject;
  return {
    ...row.asset,
    className: row.className,
    customer: { id: row.asset.customerId, name: row.customerName },
    deviceKey: row.deviceKey,
    parent: parents[0] ?? null,
    children,
    path: place.path.map((n) => ({ id: n.id, name: n.name })),
    address: place.address,
    zone: place.zone && place.zoneFrom ? { value: place.zone, from: place.zoneFrom } : null,
    ribbon: ribbons.get(id) ?? { cover: [], care: [], trouble: [] },
    ribbonFrom: stretch.from,
    ribbonTo: stretch.to,
    now,
    verdict: verdictOut(taken),
    agreements,
    orders,
    clocks,
    visits,
    events,
    readings: readings.map((r) => ({ channel: r.channel, unit: r.unit, value: r.word ?? String(r.value), at: r.at })),
  };
}

const FOUND_EACH = 6;

/** Everything that answers to a typed fragment, grouped; the best matches of each kind first. */
export async function find(db: Db, q: string, today: LocalDate, now: Instant): Promise<Found> {
  const text = escapeLike(q);
  const plain = plainSerial(q);
  const number = idOfNumber(q);
  const bySerial = plain.length >= 2 ? like(asset.serialPlain, `%${plain}%`) : undefined;
  const [exact, customers, locations, agreements, orders] = await Promise.all([
    db
      .select({ id: asset.id })
      .from(asset)
      .where(or(like(asset.tag, `${text}%`), bySerial, like(asset.model, `${text}%`)))
      .orderBy(sql`${asset.tag} = ${q} desc`, asc(asset.tag))
      .limit(FOUND_EACH),
    db
      .select({ id: customer.id, name: customer.name })
      .from(customer)
      .where(or(like(customer.name, `%${text}%`), like(customer.serviceAddress, `%${text}%`)))
      .orderBy(asc(customer.name))
      .limit(FOUND_EACH),
    db
      .select({ id: location.id, name: location.name, path: location.path, fullName: location.fullName })
      .from(location)
      .where(or(like(location.name, `%${text}%`), like(location.address, `%${text}%`)))
      .orderBy(sql`length(${location.path})`, asc(location.fullName))
      .limit(FOUND_EACH),
    db
      .select({ id: agreement.id, name: agreement.name, customer: customer.name, stage: agreement.stage })
      .from(agreement)
      .innerJoin(customer, eq(customer.id, agreement.customerId))
      .where(
        number?.kind === 'agreement'
          ? sql`${agreement.id} = ${number.id}`
          : or(like(agreement.name, `%${text}%`), like(customer.name, `%${text}%`)),
      )
      .orderBy(desc(agreement.id))
      .limit(FOUND_EACH),
    db
      .select({ id: workOrder.id, title: workOrder.title, customer: customer.name, stage: workOrder.stage })
      .from(workOrder)
      .innerJoin(customer, eq(customer.id, workOrder.customerId))
      .where(number?.kind === 'order' ? sql`${workOrder.id} = ${number.id}` : like(workOrder.title, `%${text}%`))
      .orderBy(desc(workOrder.id))
      .limit(FOUND_EACH),
  ]);
  // A street or a place names everything below it.
  const assetsByPlace =
    locations.length === 0
      ? []
      : await db
          .select({ id: asset.id })
          .from(asset)
          .innerJoin(location, eq(location.id, asset.locationId))
          .where(or(...locations.map((l) => like(location.path, `${l.path}%`))))
          .orderBy(asc(asset.tag))
          .limit(FOUND_EACH);
  const ids = [...new Set([...exact, ...assetsByPlace].map((r) => r.id))].slice(0, FOUND_EACH);
  const [rows, owners] = await Promise.all([
    assetRows(db, await calendarBook(db), ids, today, now),
    locations.length === 0
      ? []
      : db
          .select({ path: location.path, customerId: locationShare.customerId })
          .from(locationShare)
          .innerJoin(location, eq(location.id, locationShare.locationId))
          .where(
            inArray(location.id, [
              ...new Set(
                locations.flatMap((l) =>
                  l.path
                    .split('/')
                    .filter((x) => x !== '')
                    .map((x) => Number(x) as LocationId),
                ),
              ),
            ]),
          ),
  ]);
  const { from, to } = threadStretch(today, now);
  return {
    assets: rows.map((r) => ({
      id: r.id,
      tag: r.tag,
      serial: r.serial,
      model: r.model,
      className: r.className,
      customer: r.customerName,
      place: r.place,
      ribbon: r.ribbon,
    })),
    customers,
    locations: locations.map((l) => ({
      id: l.id,
      name: l.name,
      customerId: owners.find((o) => l.path.startsWith(o.path))?.customerId ?? null,
      path: l.fullName,
    })),
    agreements,
    orders: orders.map((o) => ({ ...o, title: `${orderNumber(o.id)} ${o.title}` })),
    from,
    to,
    now,
  };
}
