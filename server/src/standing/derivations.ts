// An order's clocks line by line, as its events say them, and as they would be with another promise.
import { eq, inArray } from 'drizzle-orm';
import type { DerivationLineOut, DerivationOut, DerivedOut } from '#api/derivations.ts';
import { closedDaysOf, type Calendar, type WorkingTime } from '#core/calendars/index.ts';
import type { CalendarId, OrderId } from '#core/ids.ts';
import { clockEventsOf, promisesKeptBy } from '#core/orders/index.ts';
import {
  derivationOf,
  PAUSE_REASONS,
  TARGETS,
  type DerivationLine,
  type GivenPromise,
  type Priority,
  type ServiceLevel,
  type Target,
  type TargetPromise,
} from '#core/service-levels/index.ts';
import { localDateAt, offsetAt, type Instant, type Zone } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { calendarBook, type CalendarBook } from '../calendars/index.ts';
import { calendar } from '../calendars/tables.ts';
import { customer } from '../customers/tables.ts';
import { serviceLevelsOf } from '../entitlement/index.ts';
import { factsOfLine, loadOrder, wordsOf, type LoadedOrder } from '../orders/index.ts';
import type { Db } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { namesOfPeople } from '../platform/people.ts';

/** What is asked beside it as it is; all null: nothing. */
export type WhatIf = {
  readonly priority?: Priority | undefined;
  readonly calendar?: CalendarId | 'elapsed' | undefined;
  readonly pauses?: 'all' | 'none' | undefined;
};

const isAsked = ({ priority, calendar: of, pauses }: WhatIf): boolean =>
  priority !== undefined || of !== undefined || pauses !== undefined;

/** The promise as it would be; null: at that priority there is none. */
function otherwise(given: GivenPromise, target: Target, level: ServiceLevel | undefined, asked: WhatIf) {
  const base = asked.priority === undefined ? given.promise : level?.targets[asked.priority]?.[target];
  if (!base) return null;
  const { minutes } = base;
  const promise: TargetPromise =
    asked.calendar === undefined
      ? base
      : asked.calendar === 'elapsed'
        ? { minutes, measure: 'elapsed' }
        : { minutes, measure: 'working', calendarId: asked.calendar };
  const pauses = asked.pauses === undefined ? given.pauses : asked.pauses === 'all' ? PAUSE_REASONS : [];
  return { ...given, promise, pauses };
}

/** Closed days that begin in a span, by their names, and whether the clocks are changed in it. */
function notesOf(line: DerivationLine, of: Calendar | null, zone: Zone): string[] {
  if (!('to' in line) || line.to === null || line.kind === 'paused') return [];
  const [first, last] = [localDateAt(zone, line.from), localDateAt(zone, line.to)];
  const closed =
    line.kind === 'closed'
      ? (of ? closedDaysOf(of) : []).filter((d) => d.date >= first && d.date <= last).map((d) => d.name)
      : [];
  const shift = offsetAt(zone, line.to) - offsetAt(zone, line.from);
  return [...closed, ...(shift === 0 ? [] : [`the clocks go ${shift > 0 ? 'forward' : 'back'}`])];
}

type By = (at: Instant) => DerivationLineOut['by'];

function lineOut(line: DerivationLine, of: Calendar | null, zone: Zone, by: By): DerivationLineOut {
  const from = 'at' in line ? line.at : line.from;
  return {
    ...{ kind: line.kind, from, to: 'at' in line ? null : line.to },
    ms: 'ms' in line ? line.ms : 0,
    sum: line.kind === 'counted' ? line.used : line.kind === 'late' ? line.over : 0,
    reason: 'reason' in line ? line.reason : null,
    notes: notesOf(line, of, zone),
    by: line.kind === 'paused' || line.kind === 'ran on' || 'at' in line ? by(from) : null,
  };
}

type Own = {
  readonly start: Instant;
  readonly events: readonly Parameters<typeof derivationOf>[3][number][];
  readonly by: By;
};

function derived(
  target: Target,
  given: GivenPromise,
  own: Own,
  book: CalendarBook,
  zone: Zone,
  now: Instant,
): DerivationOut {
  const time: WorkingTime = book.timeOf(given.promise);
  const of = given.promise.measure === 'working' ? book.calendarOf(given.promise.calendarId) : null;
  const { clock, lines } = derivationOf(target, given, own.start, own.events, time, now);
  return {
    ...{ state: clock.state, dueAt: 'dueAt' in clock ? clock.dueAt : null, used: clock.used },
    over: clock.state === 'missed' ? clock.over : 0,
    ...{ minutes: given.promise.minutes, measure: of === null ? 'elapsed' : of.name, pauses: [...given.pauses] },
    lines: lines.map((line) => lineOut(line, of, of?.zone ?? zone, own.by)),
  };
}

/** What was recorded to have happened at an instant, the latest recorded of it first. */
async function recordedOf(db: Db, loaded: LoadedOrder): Promise<By> {
  const { events } = loaded;
  const say = wordsOf(loaded);
  const names = await namesOfPeople(
    db,
    events.map((e) => e.by),
  );
  return (at) => {
    const event = events.findLast((e) => e.at === at && e.act.kind !== 'note');
    if (!event) return null;
    return { who: names.get(event.by) ?? null, text: say(event.act), recordedAt: event.recordedAt };
  };
}

/** The clocks of an order, each with its lines; refused: an order that does not exist. */
export async function derivationsOf(db: Db, id: OrderId, asked: WhatIf, now: Instant) {
  const loaded = await loadOrder(db, id, 'look');
  const { order, lines, events } = loaded;
  const book = await calendarBook(db);
  const { zone } = order;
  const by = await recordedOf(db, loaded);
  const promised = lines.flatMap((line) => {
    if (line.assetId === null) return [];
    const facts = factsOfLine(line);
    const own: Own = { start: line.since ?? order.startedAt, events: clockEventsOf(events, facts), by };
    const promises = promisesKeptBy(events, facts, line.promises);
    return TARGETS.flatMap((target) => {
      const given = promises[target];
      return given ? [{ assetId: line.assetId as NonNullable<typeof line.assetId>, target, given, own }] : [];
    });
  });
  const levelIds = [...new Set(promised.map((p) => p.given.serviceLevelId))];
  const assetIds = [...new Set(promised.map((p) => p.assetId))];
  const [levels, tags, [whose], calendars] = await Promise.all([
    serviceLevelsOf(db, levelIds, localDateAt(zone, order.startedAt)),
    assetIds.length === 0
      ? []
      : db.select({ id: asset.id, tag: asset.tag }).from(asset).where(inArray(asset.id, assetIds)),
    db.select({ name: customer.name }).from(customer).where(eq(customer.id, order.customerId)),
    db.select({ id: calendar.id, name: calendar.name }).from(calendar).orderBy(calendar.name).limit(500),
  ]);
  if (typeof asked.calendar === 'number' && calendars.every((c) => c.id !== asked.calendar))
    refuse('not-found', 'That calendar does not exist; choose another.', 'calendar');
  const items = promised.map(({ assetId, target, given, own }): DerivedOut => {
    const level = levels.find((l) => l.id === given.serviceLevelId);
    const other = isAsked(asked) ? otherwise(given, target, level, asked) : null;
    return {
      ...{ target, assetId, tag: tags.find((t) => t.id === assetId)?.tag ?? '', serviceLevel: level?.name ?? '' },
      asIs: derived(target, given, own, book, zone, now),
      whatIf: other && derived(target, other, own, book, zone, now),
    };
  });
  const { title, priority } = order;
  return { now, zone, title, priority, customer: whose?.name ?? '', items, calendars };
}
