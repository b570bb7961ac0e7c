// The labour of finished work, drawn from the hours that covers count.
import type { ChangedAct, SaidOfLine } from '#core/orders/index.ts';
import { localDateAt, type Instant } from '#core/time/index.ts';
import { drawHours } from '../entitlement/index.ts';
import type { Tx } from '../platform/database.ts';
import type { KeptEvent, LineRow, OrderRow } from './loading.ts';

/** The labour of each line is drawn from the hours its verdict named. */
export async function drawLabour(
  tx: Tx,
  order: OrderRow,
  lines: readonly LineRow[],
  said: ReadonlyMap<number, Pick<SaidOfLine, 'labourMinutes'>>,
  at: Instant,
  now: Instant,
): Promise<void> {
  for (const line of lines) {
    const minutes = said.get(line.id)?.labourMinutes ?? 0;
    if (minutes > 0)
      await drawHours(
        tx,
        { orderId: order.id, lineId: line.id },
        line.verdict?.verdict.draws ?? [],
        minutes,
        localDateAt(order.zone, at),
        now,
      );
  }
}

/** Of work that was done, lines that are decided again draw their labour anew, of the day on which it was told. */
export async function drawLabourAgain(
  tx: Tx,
  order: OrderRow,
  lines: readonly LineRow[],
  events: readonly KeptEvent[],
  { lines: again }: ChangedAct,
  now: Instant,
): Promise<void> {
  const done = events.findLast((e) => e.act.kind === 'done');
  if (done?.act.kind !== 'done' || !done.act.effort) return;
  const own = lines.filter((l) => again.some((a) => a.lineId === l.id));
  const minutes = new Map(own.map((l) => [l.id, { labourMinutes: l.labourMinutes }]));
  await drawLabour(tx, order, own, minutes, done.at, now);
}
