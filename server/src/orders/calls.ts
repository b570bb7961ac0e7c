// Raising orders from calls and alerts: what is decided of each machine, and the order that comes of it.
import { and, eq, sql } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import { joinOrder, type raiseOrder } from '#api/calls.ts';
import {
  type AssetId,
  type ContactId,
  type CustomerId,
  type JobPlanId,
  type OrderId,
  type PersonId,
} from '#core/ids.ts';
import { checkTerms } from '#core/orders/index.ts';
import { MANAGERS, type Role } from '#core/people.ts';
import { localDateAt, sayDate, type Instant, type Zone } from '#core/time/index.ts';
import type { Telling } from '../outbox/index.ts';
import { calendarBook, type CalendarBook } from '../calendars/index.ts';
import { plansToDo, type PlanToDo } from '../catalogue/index.ts';
import { contact, customer } from '../customers/tables.ts';
import { location, locationShare } from '../places/tables.ts';
import { isTaken, type Database, type Db, type Tx } from '../platform/database.ts';
import { announce } from '../platform/live.ts';
import { refuse, Refused } from '../platform/refuse.ts';
import { contentOf, mustBeSame } from '../platform/request-key.ts';
import { classesAskingFindings, decideLines, isInternal, keptOf, placeLine, type DecidedLine } from './decide.ts';
import { recordActIn } from './commands.ts';
import { indexOrders } from './finder.ts';
import { raiseMany } from './raise-many.ts';
import { mustBeNamed, orderSettings } from './settings.ts';
import { workOrder } from './tables.ts';
import { tellTaken } from './telling.ts';

export type CallAsk = Omit<Asked<typeof raiseOrder>['body'], 'requestKey' | 'receivedAt'> & {
  readonly startedAt: Instant;
  readonly fallbackZone: Zone;
};

export type DecidedCall = {
  readonly customerId: CustomerId;
  readonly lines: readonly DecidedLine[];
  readonly internal: boolean;
};

/** The place is one of the customer's: it, or a place above it, is shared with them. */
async function mustBeTheirPlace(db: Db, { locationId, customerId }: CallAsk): Promise<void> {
  const [shared] = await db
    .select({ id: location.id })
    .from(location)
    .innerJoin(
      locationShare,
      and(
        eq(locationShare.customerId, customerId as CustomerId),
        sql`${location.path} like concat((select l.path from ${location} l where l.id = ${locationShare.locationId}), '%')`,
      ),
    )
    .where(eq(location.id, locationId as NonNullable<CallAsk['locationId']>))
    .limit(1);
  if (!shared) refuse('not-found', 'That is no place of this customer; choose another.', 'locationId');
}

/**
 * What is decided of a call: cover and promises of each machine. Preview and raising both stand on it. Refused: neither a machine
 * nor a place of a customer, the same machine twice, machines of several customers.
 */
export async function decideCall(
  db: Db,
  book: CalendarBook,
  ask: CallAsk,
  lock: 'look' | 'lock',
): Promise<DecidedCall> {
  const { assetIds, cause, kind, priority, startedAt: at, fallbackZone } = ask;
  if (new Set(assetIds).size < assetIds.length)
    refuse('conflict', 'A machine is named twice; take one of them away.', 'assetIds');
  const [firstId] = assetIds;
  if (firstId === undefined) {
    const { locationId, customerId } = ask;
    if (!locationId || !customerId)
      refuse('missing', 'Choose the machine it is about, or the place where none is known yet.', 'assetIds');
    await mustBeTheirPlace(db, ask);
    return { customerId, lines: [await placeLine(db, locationId, customerId, fallbackZone)], internal: false };
  }
  const lines = await decideLines(
    db,
    book,
    assetIds.map((assetId) => ({ assetId, cause })),
    { kind, priority, at, fallbackZone },
    lock,
  );
  const { customerId } = lines[0] as DecidedLine;
  const other = lines.find((l) => l.customerId !== customerId);
  if (other)
    refuse('conflict', `${other.tag} is another customer’s machine; raise an order of its own for it.`, 'assetIds');
  return { customerId, lines, internal: lines.every(isInternal) };
}

/** A contact of the customer; refused when it is not one of theirs. */
export async function contactOf(
  db: Db,
  id: ContactId | null | undefined,
  customerId: CustomerId,
  field: string,
): Promise<ContactId | null> {
  if (!id) return null;
  const [known] = await db
    .select({ id: contact.id })
    .from(contact)
    .where(and(eq(contact.id, id), eq(contact.customerId, customerId)));
  return known?.id ?? refuse('not-found', 'That is no contact of this customer; choose another.', field);
}

type Raise = CallAsk & {
  readonly raisedText: string;
  readonly requestKey: string | null;
  readonly who: PersonId | null;
  /** Of whoever took the call; null where nobody did: a machine is not asked for credit. */
  readonly role: Role | null;
  /** Where the call came by mail: what is told of it goes into the same thread. */
  readonly thread?: Telling['thread'];
  /** What is to be done on each machine, where it was agreed before; null: the place. */
  readonly plans?: ReadonlyMap<AssetId | null, PlanToDo>;
};

const contentOfCall = ({
  raisedText: _t,
  requestKey: _k,
  who: _w,
  role: _r,
  fallbackZone: _z,
  thread: _h,
  plans: _p,
  ...asked
}: Raise) => contentOf(asked);

/** Refused: a customer over their credit terms, unless it may be and is said why it is raised nevertheless. Gives what is kept of that. */
async function checkCredit(db: Db, customerId: CustomerId, { role, overTermsReason }: Raise): Promise<string> {
  if (role === null) return '';
  const [owner] = await db.select({ overSince: customer.overSince }).from(customer).where(eq(customer.id, customerId));
  const overSince = owner?.overSince ?? null;
  const reason = overTermsReason?.trim() ?? '';
  const mayOverride = (MANAGERS as readonly Role[]).includes(role);
  const refused = checkTerms((await orderSettings(db)).overTerms, overSince, { mayOverride, reason });
  if (refused) throw new Refused([refused]);
  return overSince === null || reason === '' ? '' : `over terms since ${sayDate(overSince)}: ${reason}`;
}

async function planOf(db: Db, id: JobPlanId | null | undefined): Promise<PlanToDo | null> {
  if (!id) return null;
  return (
    (await plansToDo(db, [id])).get(id) ??
    refuse('not-found', 'That job plan does not exist; choose another.', 'jobPlanId')
  );
}

const workOf = (plan: PlanToDo | null) => ({
  ...{ minutes: plan?.minutes ?? null, tasks: plan?.tasks ?? [], plan: plan?.kept ?? null },
});

/** Raises an order inside an open transaction: verdicts stored as taken, clocks running from its start. */
export async function raiseCallIn(tx: Tx, ask: Raise, now: Instant): Promise<OrderId> {
  // Read under lock: of two orders raised at once, the second sees what the first drew.
  const book = await calendarBook(tx.db);
  await mustBeNamed(tx.db, ask.priority, 'priority');
  const { customerId, lines, internal } = await decideCall(tx.db, book, ask, 'lock');
  const overText = await checkCredit(tx.db, customerId, ask);
  const plan = await planOf(tx.db, ask.jobPlanId);
  const asking = await classesAskingFindings(
    tx.db,
    lines.flatMap((l) => l.classId ?? []),
  );
  const { startedAt } = ask;
  const recorded = { at: startedAt, recordedAt: now, by: ask.who };
  const symptom = ask.symptom?.trim() || null;
  const zone = (lines[0] as DecidedLine).zone;
  const [id] = await raiseMany(
    tx,
    [
      {
        kind: ask.kind,
        title: ask.title,
        priority: ask.priority,
        customerId,
        agreementId: lines.map((l) => l.taken?.verdict.agreementId ?? null).find((a) => a !== null) ?? null,
        ...{ zone, startedAt, internal, requestKey: ask.requestKey, requestContent: contentOfCall(ask) },
        callerId: await contactOf(tx.db, ask.callerId, customerId, 'callerId'),
        callerSaid: ask.callerSaid || null,
        contactId: await contactOf(tx.db, ask.contactId, customerId, 'contactId'),
        customerReference: ask.customerReference ?? '',
        wishedOn: ask.wishedOn ?? null,
        inChargeId: ask.who,
        depotId: (lines[0] as DecidedLine).place.depot?.value ?? null,
        lines: lines.map((line) => ({
          assetId: line.assetId,
          locationId: line.assetId === null ? line.locationId : null,
          ...{ visitId: null, coverCause: ask.cause },
          ...workOf(ask.plans?.get(line.assetId) ?? plan),
          asksFindings: ask.kind === 'repair' && line.classId !== null && asking.has(line.classId),
          ...keptOf(line),
          draws: { on: localDateAt(line.zone, startedAt), draws: line.taken?.verdict.draws ?? [] },
        })),
        withForms: true,
        events: (_, ids) => [
          { ...recorded, act: { kind: 'raised', text: ask.raisedText } },
          ...(overText === ''
            ? []
            : [{ ...recorded, act: { kind: 'note' as const, text: overText, exception: 'over terms' as const } }]),
          ...(symptom === null
            ? []
            : ids.map((lineId) => ({
                ...recorded,
                act: { kind: 'found' as const, lineId, symptom, fault: null, cause: null, remedy: null },
              }))),
        ],
      },
    ],
    book,
    now,
  );
  if (id === undefined) throw new Error('an order was raised without a number');
  await indexOrders(tx, [id]);
  const [made] = await tx.db.select().from(workOrder).where(eq(workOrder.id, id));
  const promise = lines.map((l) => l.taken?.promise ?? '').find((p) => p !== '') ?? '';
  if (made) await tellTaken(tx, made, { promise, thread: ask.thread ?? null }, now);
  await announce(tx, joinOrder, [{ subject: 'order', id }]);
  return id;
}

const LATE_CALL_MS = 30 * 86_400_000;

/** Refused: calls from the future, or of more than 30 days ago without the reason why they are told so late. */
export function checkReceived(at: Instant, lateReason: string | undefined, now: Instant): void {
  if (at > now + 120_000) refuse('in-the-future', 'The call cannot have come in later than now.', 'receivedAt');
  if (at < now - LATE_CALL_MS && !lateReason?.trim())
    refuse(
      'out-of-order',
      'This call came in more than 30 days ago: check the date, or say why it is told only now.',
      'receivedAt',
    );
}

/** Raises an order from a call, with what else is done in its transaction. A repeated request key gives the first order again. */
export async function raiseFromCall(
  database: Database,
  ask: Raise,
  now: Instant,
  also: (tx: Tx, id: OrderId) => Promise<void> = () => Promise.resolve(),
): Promise<OrderId> {
  checkReceived(ask.startedAt, ask.lateReason, now);
  try {
    return await database.transact(async (tx) => {
      const id = await raiseCallIn(tx, ask, now);
      await also(tx, id);
      return id;
    });
  } catch (error) {
    if (!isTaken(error) || ask.requestKey === null) throw error;
    const [row] = await database.db
      .select({ id: workOrder.id, content: workOrder.requestContent })
      .from(workOrder)
      .where(eq(workOrder.requestKey, ask.requestKey));
    if (!row) throw error;
    mustBeSame(row.content, contentOfCall(ask));
    return row.id;
  }
}

/** A second call about the same becomes a note of the order that is open for it. */
export async function joinOrderBy(
  database: Database,
  who: PersonId,
  id: OrderId,
  ask: Asked<typeof joinOrder>['body'],
  now: Instant,
): Promise<void> {
  checkReceived(ask.receivedAt, undefined, now);
  await database.transact((tx) =>
    recordActIn(
      tx,
      id,
      {
        ...{ at: ask.receivedAt, requestKey: ask.requestKey, who },
        act: { kind: 'note', text: `called again: ${ask.text}` },
      },
      now,
    ),
  );
}

/** Contacts of a customer, for whoever takes a call of theirs. */
export const contactsOf = (db: Db, id: CustomerId) =>
  db
    .select({ id: contact.id, name: contact.name, role: contact.role, phone: contact.phone })
    .from(contact)
    .where(eq(contact.customerId, id))
    .orderBy(contact.name)
    .limit(200);
