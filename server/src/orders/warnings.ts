// Warnings of promises: whom a service level names is told once for each step, by their own way, with what is left.
import { and, asc, eq, gt, inArray, isNull, lte } from 'drizzle-orm';
import { orderNumber } from '#api/shapes.ts';
import { acknowledgeWarnings } from '#api/clocks.ts';
import type { OrderId, PersonId } from '#core/ids.ts';
import type { Target, WarningStep } from '#core/service-levels/index.ts';
import { linkTo, type Language } from '#core/telling.ts';
import { MINUTE, sayDate, sayLength, toWallTime, type Instant } from '#core/time/index.ts';
import { calendarBook } from '../calendars/index.ts';
import { customer } from '../customers/tables.ts';
import { tellPeople } from '../outbox/index.ts';
import type { Database, Db, Tx } from '../platform/database.ts';
import { announce } from '../platform/live.ts';
import type { MessageKind } from '../platform/message-kind.ts';
import { asset } from '../assets/tables.ts';
import type { Person } from '../platform/http.ts';
import { namesOfPeople } from '../platform/people.ts';
import { person } from '../platform/tables.ts';
import { showClock } from './clock-rows.ts';
import { mustMayAnswer } from './warned.ts';
import { clock, clockWarning, orderEvent, orderLine, workOrder } from './tables.ts';

export const PROMISE_WARNING: MessageKind = {
  kind: 'promise warning',
  says: 'To whom a service level names, when so much of a promise is left as it says, or it is missed',
  places: ['name', 'number', 'title', 'customer', 'machine', 'promise', 'left', 'due', 'link'],
  words: {
    en: {
      subject: '{number} {title}: {promise} {left}',
      body: '{name}, of {number} {title} ({customer}, {machine}):\n{promise} {left}; it is due {due}.\n{link}\n',
    },
    pt: {
      subject: '{number} {title}: {promise}, {left}',
      body: '{name}, sobre {number} {title} ({customer}, {machine}):\n{promise}, {left}; prazo: {due}.\n{link}\n',
    },
  },
};

type ClockRow = typeof clock.$inferSelect;
type InWords = {
  readonly promises: Readonly<Record<Target, string>>;
  readonly place: string;
  readonly missed: string;
  left(left: string, of: string): string;
};
/** What is put into a warning, in its reader’s language. */
const IN_WORDS: Readonly<Record<Language, InWords>> = {
  en: {
    promises: {
      ...{ response: 'the response', arrival: 'the arrival', workaround: 'the workaround', restoration: 'back in use' },
    },
    ...{ place: 'the place', missed: 'is missed', left: (left, of) => `has ${left} left of ${of}` },
  },
  pt: {
    promises: {
      ...{ response: 'a resposta', arrival: 'a chegada ao local' },
      ...{ workaround: 'a solução provisória', restoration: 'a reposição em serviço' },
    },
    ...{ place: 'o local', missed: 'fora do prazo', left: (left, of) => `faltam ${left} de ${of}` },
  },
};
const CLOCKS_AT_ONCE = 500;

/** Of the next running clocks with a step that has come, the orders of those of which nobody was told yet. */
async function ordersWarned(db: Db, after: number, now: Instant): Promise<{ ids: OrderId[]; last: number | null }> {
  const rows = await db
    .select({
      ...{ id: clock.id, orderId: clock.orderId, lineId: clock.orderLineId, target: clock.target },
      ...{ minutes: clock.promisedMinutes, steps: clock.warnSteps },
    })
    .from(clock)
    .where(and(eq(clock.state, 'running'), lte(clock.warnAt, now), gt(clock.id, after)))
    .orderBy(asc(clock.id))
    .limit(CLOCKS_AT_ONCE);
  if (rows.length === 0) return { ids: [], last: null };
  const known = await db
    .select()
    .from(clockWarning)
    .where(inArray(clockWarning.orderId, [...new Set(rows.map((r) => r.orderId))]));
  const done = new Set(known.map((k) => `${k.orderLineId} ${k.target} ${k.promisedMinutes} ${k.percent}`));
  const ids = rows
    .filter((r) =>
      (r.steps ?? []).some((s) => s.at <= now && !done.has(`${r.lineId} ${r.target} ${r.minutes} ${s.percent}`)),
    )
    .map((r) => r.orderId);
  return { ids: [...new Set(ids)], last: rows.at(-1)?.id ?? null };
}

/** Whom a step names: who has the order in hand or raised it, else every coordinator; who goes; and people by name. */
async function peopleOf(
  tx: Tx,
  order: typeof workOrder.$inferSelect,
  { inCharge, technician, people }: WarningStep,
): Promise<PersonId[]> {
  const wanted = new Set<PersonId>(people);
  if (technician && order.technicianId !== null) wanted.add(order.technicianId);
  if (inCharge || (technician && order.technicianId === null)) {
    const [raised] = await tx.db
      .select({ by: orderEvent.personId })
      .from(orderEvent)
      .where(eq(orderEvent.orderId, order.id))
      .orderBy(asc(orderEvent.id))
      .limit(1);
    const own = order.inChargeId ?? raised?.by ?? null;
    const [there] = own === null ? [] : await activeOf(tx, [own]);
    if (there !== undefined) wanted.add(there);
    else
      for (const { id } of await tx.db
        .select({ id: person.id })
        .from(person)
        .where(and(eq(person.role, 'coordinator'), eq(person.active, true))))
        wanted.add(id);
  }
  return activeOf(tx, [...wanted]);
}

const activeOf = async (tx: Tx, ids: readonly PersonId[]): Promise<PersonId[]> =>
  ids.length === 0
    ? []
    : (
        await tx.db
          .select({ id: person.id })
          .from(person)
          .where(and(inArray(person.id, [...ids]), eq(person.active, true)))
          .orderBy(asc(person.id))
      ).map((p) => p.id);

/** Tells of one clock what has come and was not told; of several steps at once the latest speaks for those before it. */
async function tellClock(tx: Tx, order: typeof workOrder.$inferSelect, row: ClockRow, now: Instant): Promise<number> {
  const { orderLineId, target, promisedMinutes } = row;
  const told = await tx.db
    .select({ percent: clockWarning.percent })
    .from(clockWarning)
    .where(
      and(
        ...[eq(clockWarning.orderLineId, orderLineId), eq(clockWarning.target, target)],
        eq(clockWarning.promisedMinutes, promisedMinutes),
      ),
    );
  const known = new Set(told.map((t) => t.percent));
  const come = (row.warnSteps ?? []).filter((s) => s.at <= now && !known.has(s.percent));
  const latest = come.at(-1);
  if (!latest) return 0;
  const [line] = await tx.db
    .select({ promises: orderLine.promises, tag: asset.tag, model: asset.model })
    .from(orderLine)
    .leftJoin(asset, eq(asset.id, orderLine.assetId))
    .where(eq(orderLine.id, orderLineId));
  const step = line?.promises[target]?.warnings?.find((w) => w.percent === latest.percent);
  const people = step ? await peopleOf(tx, order, step) : [];
  await tx.db.insert(clockWarning).values(
    come.map((s) => ({
      ...{ orderLineId, target, promisedMinutes, percent: s.percent, orderId: order.id, at: s.at },
      told: s === latest ? people : [],
    })),
  );
  if (people.length === 0) return 0;
  const shown = showClock({ clock: row, tag: line?.tag ?? '' }, await calendarBook(tx.db), now);
  const [owner] = await tx.db.select({ name: customer.name }).from(customer).where(eq(customer.id, order.customerId));
  const who = await namesOfPeople(tx.db, people);
  const { date, minutes } = toWallTime(order.zone, row.dueAt ?? now);
  const hours = (ms: number): string => sayLength(ms, 'as hours');
  const two = (n: number): string => String(n).padStart(2, '0');
  for (const id of people)
    await tellPeople(tx, PROMISE_WARNING, [id], {
      key: `order ${order.id} line ${orderLineId} ${target} ${promisedMinutes} at ${latest.percent} to ${id}`,
      values: (language) => ({
        ...{ name: who.get(id) ?? '', number: orderNumber(order.id), title: order.title, customer: owner?.name ?? '' },
        machine: line?.tag ? `${line.model} ${line.tag}` : IN_WORDS[language].place,
        promise: IN_WORDS[language].promises[target],
        left:
          shown.left === null
            ? IN_WORDS[language].missed
            : IN_WORDS[language].left(hours(shown.left), hours(promisedMinutes * MINUTE)),
        due: `${language === 'en' ? sayDate(date) : date.split('-').reverse().join('.')}, ${two(Math.floor(minutes / 60))}:${two(minutes % 60)}`,
        link: linkTo(`/orders/${order.id}`),
      }),
      about: { subject: 'order', id: order.id },
      now,
    });
  return people.length;
}

/** Tells of an order what has come, under its lock: another server may have told it meanwhile. */
const warnOf = (id: OrderId, now: Instant) => async (tx: Tx) => {
  const [order] = await tx.db.select().from(workOrder).where(eq(workOrder.id, id)).for('update');
  if (!order) return 0;
  const clocks = await tx.db
    .select()
    .from(clock)
    .where(and(eq(clock.orderId, id), eq(clock.state, 'running'), lte(clock.warnAt, now)))
    .orderBy(asc(clock.orderLineId), asc(clock.target));
  let told = 0;
  for (const row of clocks) told += await tellClock(tx, order, row, now);
  await announce(tx, acknowledgeWarnings, [{ subject: 'order', id }]);
  return told;
};

/** Warns of what has come so far; gives how many were told. */
export async function warnOfPromises(database: Pick<Database, 'db' | 'transact'>, now: Instant): Promise<number> {
  let told = 0;
  for (let after: number | null = 0; after !== null;) {
    const { ids, last }: Awaited<ReturnType<typeof ordersWarned>> = await ordersWarned(database.db, after, now);
    for (const id of ids) told += await database.transact(warnOf(id, now), 'the latest');
    after = last;
  }
  return told;
}

/** Says of what was warned of an order that somebody sees to it; gives how many warnings. Refused: what `mustMayAnswer` refuses. */
export async function acknowledgeIn(tx: Tx, who: Person, id: OrderId, now: Instant): Promise<number> {
  await mustMayAnswer(tx.db, who, id);
  const [{ affectedRows }] = await tx.db
    .update(clockWarning)
    .set({ acknowledgedAt: now, acknowledgedBy: who.id })
    .where(and(eq(clockWarning.orderId, id), isNull(clockWarning.acknowledgedAt)));
  return affectedRows;
}
