// Corrections of what was told of orders, with what they would change looked at before; and how clocks came to be what they are.
import { isNotNull } from 'drizzle-orm';
import type { Answer, Asked } from '#api/contract.ts';
import type { ClockThen, correctOrder, HistoryStep, previewCorrection, readClockHistory } from '#api/corrections.ts';
import type { OrderId } from '#core/ids.ts';
import { asCorrected, clockEventsOf, isCorrectable, promisesKeptBy } from '#core/orders/index.ts';
import { MANAGERS, type Role } from '#core/people.ts';
import { deriveClocks, isNever, type Clock, type Target } from '#core/service-levels/index.ts';
import { historyOf } from '#core/standing/index.ts';
import type { Instant, LocalDate } from '#core/time/index.ts';
import { calendarBook } from '../calendars/index.ts';
import { clocksOf, correctIn, factsOfLine, loadOrder, wordsOf } from '../orders/index.ts';
import type { Database, Db, Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { previewed } from '../platform/preview.ts';
import { refuse } from '../platform/refuse.ts';
import { namesOfPeople } from '../platform/people.ts';
import type { Write } from '../platform/writing.ts';
import { standingMonth } from './tables.ts';

/** How often each closed month was changed. */
async function closedMonths(tx: Tx): Promise<ReadonlyMap<LocalDate, number>> {
  const rows = await tx.db.select().from(standingMonth).where(isNotNull(standingMonth.closedAt));
  return new Map(rows.map((r) => [r.month, r.changes]));
}

type Correction = Omit<Asked<typeof correctOrder>['body'], 'text'> & { readonly text: string };

/** Corrects, and gives the closed months in which something counts otherwise by it; null: it was corrected so before. */
async function corrected(
  tx: Tx,
  who: Person,
  id: OrderId,
  body: Correction,
  now: Instant,
): Promise<LocalDate[] | null> {
  // Locked first: what is read afterwards is as it is now.
  await loadOrder(tx.db, id, 'lock');
  const before = await closedMonths(tx);
  if (!(await correctIn(tx, who.id, id, body, now))) return null;
  const after = await closedMonths(tx);
  return [...after].flatMap(([month, changes]) => (before.get(month) === changes ? [] : [month])).sort();
}

export const previewCorrectionOf = (
  database: Database,
  who: Person,
  id: OrderId,
  ask: Asked<typeof previewCorrection>['body'],
  now: Instant,
): Promise<Answer<typeof previewCorrection>> =>
  previewed(database, async (tx) => {
    const clocks = async () => clocksOf(tx.db, await calendarBook(tx.db), now, { orderId: id }, 200);
    await loadOrder(tx.db, id, 'lock');
    const clocksBefore = await clocks();
    const closed = await corrected(tx, who, id, { ...ask, text: 'a preview', requestKey: 'a-preview' }, now);
    return { clocksBefore, clocksAfter: await clocks(), closedMonths: closed ?? [] };
  });

/** Refused: what core refuses; and by who answers for no figures, what changes a closed month. */
export const correct = (
  write: Write,
  who: Person,
  id: OrderId,
  body: Asked<typeof correctOrder>['body'],
  now: Instant,
): Promise<void> =>
  write(async (tx, told) => {
    const months = await corrected(tx, who, id, body, now);
    if (months === null) return;
    const [closed] = months;
    if (closed && !(MANAGERS as readonly Role[]).includes(who.role))
      refuse('not-allowed', `That changes ${closed.slice(0, 7)}, which is closed: a manager corrects it.`, 'to');
    told({ subject: 'order', id, text: `corrected: ${body.text}` });
  });

type Derived = { readonly key: string; readonly target: Target; readonly tag: string; readonly then: ClockThen };

const thenOf = (c: Clock): ClockThen => ({
  state: c.state,
  dueAt: 'dueAt' in c && !isNever(c.dueAt) ? c.dueAt : null,
  over: c.state === 'missed' && c.stoppedAt !== null ? c.over : 0,
});

const sameThen = (a: ClockThen | undefined, b: ClockThen | undefined): boolean =>
  a?.state === b?.state && a?.dueAt === b?.dueAt && a?.over === b?.over;

/** What each act of an order made of its clocks when it was recorded. Refused: an order that does not exist. */
export async function clockHistoryOf(db: Db, id: OrderId, now: Instant): Promise<Answer<typeof readClockHistory>> {
  const loaded = await loadOrder(db, id, 'look');
  const { order, lines, recorded } = loaded;
  const book = await calendarBook(db);
  const steps = historyOf(recorded, (known, at): Derived[] =>
    lines.flatMap((line) => {
      if (line.assetId === null) return [];
      const own = factsOfLine(line);
      const promises = promisesKeptBy(known, own, line.promises);
      const start = line.since ?? order.startedAt;
      return deriveClocks(start, clockEventsOf(known, own), promises, book.timeOf, at).map((c) => ({
        ...{ key: `${line.id} ${c.target}`, target: c.target, tag: line.tag ?? '', then: thenOf(c) },
      }));
    }),
  );
  const say = wordsOf(loaded);
  const names = await namesOfPeople(
    db,
    recorded.map((e) => e.by),
  );
  const known = new Map(asCorrected(recorded).map((e) => [e.id, e.at]));
  const items = steps.map(({ event, before, after }): HistoryStep => {
    const keys = [...new Set([...before, ...after].map((d) => d.key))];
    const effects = keys.flatMap((key) => {
      const [a, b] = [before.find((d) => d.key === key), after.find((d) => d.key === key)];
      const of = b ?? a;
      if (!of || sameThen(a?.then, b?.then)) return [];
      return [{ target: of.target, tag: of.tag, before: a?.then ?? null, after: b?.then ?? null }];
    });
    const to = known.get(event.id) ?? null;
    return {
      ...{ id: event.id, text: say(event.act), at: event.at, recordedAt: event.recordedAt },
      who: names.get(event.by) ?? null,
      corrected: to === event.at ? null : { to },
      canCorrect: to !== null && isCorrectable(event.act.kind),
      effects,
    };
  });
  return { now, zone: order.zone, items };
}
