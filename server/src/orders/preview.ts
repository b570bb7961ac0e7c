// What is known while somebody calls: cover, promises, the open orders, who was last here, and what like work took.
import { and, desc, eq, inArray, isNotNull, or } from 'drizzle-orm';
import type { Answer, Asked } from '#api/contract.ts';
import type { CallKnown } from '#api/calls.ts';
import type * as contracts from '#api/calls.ts';
import type { ClockOut } from '#api/orders.ts';
import { sayAllowance } from '#core/entitlement/index.ts';
import type { AgreementId, AssetClassId, AssetId } from '#core/ids.ts';
import { OPEN_STAGES } from '#core/orders/index.ts';
import { MANAGERS, type Role } from '#core/people.ts';
import { deriveClocks, USUAL_WARN_PERCENT } from '#core/service-levels/index.ts';
import { localDateAt, type Instant } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { calendarBook, type CalendarBook } from '../calendars/index.ts';
import { classWord } from '../catalogue/tables.ts';
import { customer, customerNote } from '../customers/tables.ts';
import type { Db } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { person } from '../platform/tables.ts';
import { checkReceived, contactsOf, decideCall, type DecidedCall } from './calls.ts';
import type { DecidedLine } from './decide.ts';
import { orderRows, remindersOf } from './queries.ts';
import { orderSettings } from './settings.ts';
import { isTechnician, orderLine, technicianName, workOrder } from './tables.ts';

const OPEN_SHOWN = 8;
const LAST_SHOWN = 3;

/** The clocks a decision would set running. */
export function clocksToCome(line: DecidedLine, start: Instant, book: CalendarBook, now: Instant): ClockOut[] {
  const { assetId, taken, tag, zone } = line;
  if (!taken || assetId === null) return [];
  return deriveClocks(start, [], taken.promises, book.timeOf, now).map((c): ClockOut => ({
    orderId: 0,
    assetId,
    tag: tag ?? '',
    target: c.target,
    state: c.state,
    promisedMinutes: c.given.promise.minutes,
    warnPercent: c.given.warnPercent ?? USUAL_WARN_PERCENT,
    measure: c.given.promise.measure === 'working' ? book.calendarOf(c.given.promise.calendarId).name : 'elapsed time',
    startedAt: c.startedAt,
    dueAt: 'dueAt' in c ? c.dueAt : null,
    stoppedAt: null,
    left: 'left' in c ? c.left : null,
    over: 'over' in c ? c.over : null,
    note: null,
    zone,
  }));
}

function shownLine(line: DecidedLine, start: Instant, book: CalendarBook, now: Instant): CallKnown['lines'][number] {
  const { taken, subject } = line;
  const covers = subject?.coversOn(localDateAt(line.zone, start)) ?? [];
  const drawn = taken?.verdict.draws ?? [];
  const names = new Set(drawn.map((d) => JSON.stringify(d.key)));
  const counted = covers.flatMap((c) => (c.kind === 'warranty' ? (c.visits ?? []) : c.allowances));
  return {
    assetId: line.assetId,
    tag: line.tag,
    model: line.model,
    place: line.place.label,
    sentence: taken?.sentence ?? 'No machine is named yet: who bears it is decided when it is.',
    promise: taken?.promise ?? '',
    considered: [...(taken?.verdict.considered ?? [])],
    clocks: clocksToCome(line, start, book, now),
    allowances: counted.filter((a) => names.has(JSON.stringify(a.key))).map(sayAllowance),
  };
}

/** Open orders of the same machines, then of others at the same places. */
async function openOf(db: Db, lines: readonly DecidedLine[], now: Instant): Promise<CallKnown['open']> {
  const assets = lines.flatMap((l) => l.assetId ?? []);
  const places = [...new Set(lines.flatMap((l) => l.locationId ?? []))];
  const wanted = [
    assets.length > 0 ? inArray(orderLine.assetId, assets) : undefined,
    places.length > 0 ? inArray(asset.locationId, places) : undefined,
    places.length > 0 ? inArray(orderLine.locationId, places) : undefined,
  ].filter((x) => x !== undefined);
  if (wanted.length === 0) return [];
  const rows = await db
    .selectDistinct({ id: workOrder.id, assetId: orderLine.assetId })
    .from(workOrder)
    .innerJoin(orderLine, eq(orderLine.orderId, workOrder.id))
    .leftJoin(asset, eq(asset.id, orderLine.assetId))
    .where(and(inArray(workOrder.stage, [...OPEN_STAGES]), eq(orderLine.off, false), or(...wanted)))
    .orderBy(desc(workOrder.id))
    .limit(200);
  const same = new Set(rows.filter((r) => r.assetId !== null && assets.includes(r.assetId)).map((r) => r.id));
  const ids = [...same, ...new Set(rows.map((r) => r.id).filter((id) => !same.has(id)))].slice(0, OPEN_SHOWN);
  return (await orderRows(db, ids, now)).map((order) => ({
    order,
    same: same.has(order.id as (typeof ids)[number]) ? ('machine' as const) : ('place' as const),
  }));
}

/** Who was at these machines last, and what they did. */
async function lastHereOf(db: Db, ids: readonly AssetId[]): Promise<CallKnown['lastHere']> {
  if (ids.length === 0) return [];
  const rows = await db
    .select({
      orderId: workOrder.id,
      title: workOrder.title,
      tag: asset.tag,
      technician: technicianName,
      doneAt: workOrder.doneAt,
      remedy: orderLine.remedy,
      fault: orderLine.fault,
    })
    .from(orderLine)
    .innerJoin(workOrder, eq(workOrder.id, orderLine.orderId))
    .innerJoin(asset, eq(asset.id, orderLine.assetId))
    .leftJoin(person, isTechnician)
    .where(and(inArray(orderLine.assetId, [...ids]), eq(orderLine.off, false), isNotNull(workOrder.doneAt)))
    .orderBy(desc(workOrder.doneAt), desc(workOrder.id))
    .limit(LAST_SHOWN);
  return rows.map(({ fault, doneAt, ...r }) => ({ ...r, doneAt: doneAt as Instant, text: fault ?? '' }));
}

async function symptomsOf(db: Db, classes: readonly AssetClassId[]): Promise<string[]> {
  if (classes.length === 0) return [];
  const rows = await db
    .select({ text: classWord.text })
    .from(classWord)
    .where(and(inArray(classWord.classId, [...classes]), eq(classWord.kind, 'symptom')))
    .orderBy(classWord.classId, classWord.position);
  return [...new Set(rows.map((r) => r.text))];
}

async function customerKnown(db: Db, { customerId }: DecidedCall, role: Role) {
  const [[owner], notes, contacts, setting] = await Promise.all([
    db.select().from(customer).where(eq(customer.id, customerId)),
    db
      .select({ text: customerNote.text })
      .from(customerNote)
      .where(and(eq(customerNote.customerId, customerId), eq(customerNote.popsUp, true)))
      .orderBy(customerNote.id),
    contactsOf(db, customerId),
    orderSettings(db),
  ]);
  const overSince = owner?.overSince ?? null;
  return {
    customer: { id: customerId, name: owner?.name ?? '' },
    serviceAddress: owner?.serviceAddress ?? null,
    notes: notes.map((n) => n.text),
    contacts,
    credit: overSince && {
      overSince,
      policy: setting.overTerms,
      mayRaise: setting.overTerms !== 'stop' || (MANAGERS as readonly Role[]).includes(role),
    },
  };
}

export async function previewOrder(
  db: Db,
  body: Asked<typeof contracts.previewOrder>['body'],
  who: Pick<Person, 'zone' | 'role'>,
  now: Instant,
): Promise<Answer<typeof contracts.previewOrder>> {
  checkReceived(body.receivedAt, body.lateReason, now);
  const ask = { ...body, title: body.title ?? '', startedAt: body.receivedAt, fallbackZone: who.zone };
  const book = await calendarBook(db);
  const decided = await decideCall(db, book, ask, 'look');
  const { lines, internal } = decided;
  const assets = lines.flatMap((l) => l.assetId ?? []);
  const classes = [...new Set(lines.flatMap((l) => l.classId ?? []))];
  const agreements = new Set<AgreementId>(
    lines.flatMap(({ taken }) =>
      (taken?.verdict.considered ?? []).flatMap((c) => (c.taken ? (c.agreementId ?? []) : [])),
    ),
  );
  const chargeable = !internal && lines.some(({ taken }) => (taken?.verdict.elements.labour.share ?? 0) < 100);
  const [known, reminders, open, lastHere, symptoms] = await Promise.all([
    customerKnown(db, decided, who.role),
    remindersOf(db, [...agreements]),
    openOf(db, lines, now),
    lastHereOf(db, assets),
    symptomsOf(db, classes),
  ]);
  const first = lines[0] as DecidedLine;
  const { serviceAddress, ...rest } = known;
  return {
    ...rest,
    zone: first.zone,
    lines: lines.map((l) => shownLine(l, body.receivedAt, book, now)),
    internal,
    reminders,
    address: first.place.address?.value ?? serviceAddress,
    accessNote: first.place.accessNote?.value ?? null,
    symptoms,
    open,
    lastHere,
    chargeable,
  };
}
