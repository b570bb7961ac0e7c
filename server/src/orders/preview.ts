// What a repair would be entitled to and how fast we promised to be, before anything is written.
import type { ClockOut } from '#api/orders.ts';
import type { Answer, Asked } from '#api/contract.ts';
import type * as contracts from '#api/orders.ts';
import type { Instant, Zone } from '#core/time/index.ts';
import type { Db } from '../platform/database.ts';
import { deriveClocks, USUAL_WARN_PERCENT } from '#core/service-levels/index.ts';
import { checkReceived, decideRepair } from './commands.ts';
import { remindersOf } from './queries.ts';

export async function previewRepair(
  db: Db,
  body: Asked<typeof contracts.previewRepair>['body'],
  fallbackZone: Zone,
  now: Instant,
): Promise<Answer<typeof contracts.previewRepair>> {
  checkReceived(body.receivedAt, body.lateReason, now);
  const { book, subject, taken } = await decideRepair(db, {
    ...body,
    startedAt: body.receivedAt,
    fallbackZone,
  });
  const clocks = deriveClocks(body.receivedAt, [], taken.promises, book.timeOf, now).map((c): ClockOut => ({
    orderId: 0,
    assetId: body.assetId,
    tag: subject.tag,
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
    zone: taken.zone,
  }));
  return {
    sentence: taken.sentence,
    promise: taken.promise,
    considered: [...taken.verdict.considered],
    clocks,
    reminders: await remindersOf(
      db,
      taken.verdict.considered.flatMap((c) => (c.taken ? (c.agreementId ?? []) : [])),
    ),
  };
}
