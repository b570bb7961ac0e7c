// The asset page: its data, what it is entitled to, and everything that happened to it.
import { group, sum } from 'd3-array';
import { and, desc, eq, inArray } from 'drizzle-orm';
import type { AssetPage } from '#api/register.ts';
import type { AgreementId, AssetId, DeviceId } from '#core/ids.ts';
import { localDateAt, type Instant, type Zone } from '#core/time/index.ts';
import { calendarBook } from '../calendars/index.ts';
import type { Database, Db } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import { calendar } from '../calendars/tables.ts';
import { assetClass } from '../catalogue/tables.ts';
import { customer } from '../customers/tables.ts';
import { asset, assetEvent } from './tables.ts';
import { agreement } from '../agreements/tables.ts';
import { isTechnician, orderLine, technicianName, workOrder } from '../orders/tables.ts';
import { channel, device } from '../signals/tables.ts';
import { coversOf, takeDecision, type CoverSubject, verdictOutOf } from '../entitlement/index.ts';
import { clocksOf, visitsOf } from '../orders/index.ts';
import { stripStretch, type Lane } from '../platform/lanes.ts';
import { ribbonsOf } from './ribbons.ts';
import { popUpsOf } from '../customers/index.ts';
import { metersOf } from '../meters/index.ts';
import { pulsesOf } from './pulses.ts';

/** Parts of the register around a machine: what it is a part of, its parts, and what happened to it. */
async function aroundOf(db: Db, id: AssetId, parentId: AssetId | null) {
  const [parents, children, events] = await Promise.all([
    parentId === null ? [] : db.select({ id: asset.id, tag: asset.tag }).from(asset).where(eq(asset.id, parentId)),
    db
      .select({ id: asset.id, tag: asset.tag, model: asset.model })
      .from(asset)
      .where(eq(asset.parentId, id))
      .limit(100),
    db
      .select({ at: assetEvent.at, kind: assetEvent.kind, who: person.name, text: assetEvent.text })
      .from(assetEvent)
      .leftJoin(person, eq(person.id, assetEvent.personId))
      .where(eq(assetEvent.assetId, id))
      .orderBy(desc(assetEvent.at), desc(assetEvent.id))
      .limit(100),
  ]);
  return { parent: parents[0] ?? null, children, events };
}

/** The agreements that cover it now or cover it some day, and its latest orders. */
async function workOf(db: Db, id: AssetId, agreementIds: readonly AgreementId[]) {
  const [agreements, orders] = await Promise.all([
    agreementIds.length === 0
      ? []
      : db
          .select({
            id: agreement.id,
            number: agreement.number,
            name: agreement.name,
            stage: agreement.stage,
            from: agreement.termFrom,
            to: agreement.termTo,
          })
          .from(agreement)
          .where(inArray(agreement.id, [...agreementIds]))
          .orderBy(desc(agreement.termFrom), desc(agreement.id)),
    db
      .select({
        id: workOrder.id,
        kind: workOrder.kind,
        stage: workOrder.stage,
        title: workOrder.title,
        startedAt: workOrder.startedAt,
        doneAt: workOrder.doneAt,
        technician: technicianName,
        fault: orderLine.fault,
        labourMinutes: orderLine.labourMinutes,
      })
      .from(orderLine)
      .innerJoin(workOrder, eq(workOrder.id, orderLine.orderId))
      .leftJoin(person, isTechnician)
      .where(and(eq(orderLine.assetId, id), eq(orderLine.off, false)))
      .orderBy(desc(workOrder.startedAt), desc(workOrder.id))
      .limit(50),
  ]);
  // Two visits at the machine may have made one order: it is told once, with what both took.
  const once = [...group(orders, (o) => o.id).values()].flatMap((own) => {
    const [first] = own;
    const labour = own.flatMap((o) => o.labourMinutes ?? []);
    return first ? [{ ...first, labourMinutes: labour.length === 0 ? null : sum(labour) }] : [];
  });
  return { agreements, orders: once };
}

/** Its latest readings, each channel's last. */
async function readingsOf(db: Db, deviceId: DeviceId | null) {
  const rows = deviceId === null ? [] : await db.select().from(channel).where(eq(channel.deviceId, deviceId)).limit(40);
  return rows.map((r) => ({ channel: r.channel, unit: r.unit, value: r.word ?? String(r.value), at: r.at }));
}

/** Where it stands, with where each thing that holds there comes from. */
async function standsAt(db: Db, { place }: CoverSubject) {
  const [named] =
    place.calendar === null
      ? []
      : await db.select({ name: calendar.name }).from(calendar).where(eq(calendar.id, place.calendar.value));
  return {
    path: place.path.map((n) => ({ id: n.id, name: n.name })),
    address: place.address,
    zone: place.zone && place.zoneFrom ? { value: place.zone, from: place.zoneFrom } : null,
    calendar: place.calendar && { value: named?.name ?? '', from: place.calendar.from },
    accessNote: place.accessNote,
  };
}

async function rowOf(db: Db, id: AssetId) {
  const [row] = await db
    .select({
      asset,
      className: assetClass.name,
      customerName: customer.name,
      overSince: customer.overSince,
      deviceKey: device.deviceKey,
      deviceId: device.id,
    })
    .from(asset)
    .innerJoin(assetClass, eq(assetClass.id, asset.classId))
    .innerJoin(customer, eq(customer.id, asset.customerId))
    .leftJoin(device, eq(device.assetId, asset.id))
    .where(eq(asset.id, id));
  return row ?? refuse('not-found', 'That asset does not exist.');
}

export async function readAsset(
  database: Database,
  id: AssetId,
  now: Instant,
  reader: Zone,
  lanes: readonly Lane[],
): Promise<AssetPage> {
  const { db } = database;
  const row = await rowOf(db, id);
  const book = await calendarBook(db);
  const subjects = await coversOf(db, [id]);
  const subject = subjects.get(id) as CoverSubject;
  const today = localDateAt(subject.zone ?? reader, now);
  const stretch = stripStretch(today, now);
  const asked = { at: now, kind: 'repair', cause: 'unknown', priority: 1, fallbackZone: reader } as const;
  const taken = await takeDecision(db, book, subject, asked);
  const agreementIds = [...new Set(subject.covers.flatMap((c) => (c.kind === 'coverage line' ? [c.agreementId] : [])))];
  const listener = row.deviceId === null ? null : { id: row.deviceId, classId: row.asset.classId };
  const [ribbons, around, work, clocks, visits, readings, meters, customerNotes, place, pulses] = await Promise.all([
    ribbonsOf(db, lanes, subjects, stretch),
    aroundOf(db, id, row.asset.parentId),
    workOf(db, id, agreementIds),
    clocksOf(db, book, now, { assetId: id }, 50),
    visitsOf(db, today, { assetId: id }, 50),
    readingsOf(db, row.deviceId),
    metersOf(db, id),
    popUpsOf(db, row.asset.customerId),
    standsAt(db, subject),
    pulsesOf(database, id, listener, now),
  ]);
  return {
    ...row.asset,
    ...around,
    ...work,
    ...place,
    className: row.className,
    customer: { id: row.asset.customerId, name: row.customerName },
    overSince: row.overSince,
    deviceKey: row.deviceKey,
    warranty: {
      from: row.asset.warrantyFrom,
      until: row.asset.warrantyUntil,
      labour: row.asset.warrantyLabour,
      parts: row.asset.warrantyParts,
      travel: row.asset.warrantyTravel,
      visits: row.asset.warrantyVisits,
    },
    verdict: verdictOutOf(taken),
    customerNotes,
    meters,
    pulses,
    clocks,
    visits,
    readings,
    ribbon: ribbons.get(id) ?? { cover: [], care: [], trouble: [] },
    ribbonFrom: stretch.from,
    ribbonTo: stretch.to,
    now,
  };
}
