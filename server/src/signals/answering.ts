// What an alert sets off: an order is raised or joined, in the transaction that finds the alert, unless something holds it back: it is
// shelved, or another alert of the machine suppresses it. What is held is told as soon as nothing holds it any more.
import { and, asc, desc, eq, gt, inArray, isNull, or } from 'drizzle-orm';
import type { AlertRuleId, AssetId, OrderId } from '#core/ids.ts';
import { OPEN_STAGES } from '#core/orders/index.ts';
import { CHATTERING, crowdedSince, sayExcess, toldFrom, type Held } from '#core/signals/index.ts';
import { asZone, instant, MINUTE, type Instant } from '#core/time/index.ts';
import { raiseCallIn } from '../orders/index.ts';
import { workOrder } from '../orders/tables.ts';
import type { Tx } from '../platform/database.ts';
import { floodOrderOf } from './flood.ts';
import { soonest, tellOrder, unlessRefused, type Found } from './on-orders.ts';
import { alert, alertRule, alertShelf } from './tables.ts';
import type { Rule } from './watched.ts';

/** A second alert of the same asset and rule joins the order that is still open; read under its lock, so that it cannot be finished meanwhile. */
async function openOrderOf(
  tx: Tx,
  ruleId: AlertRuleId,
  assetId: AssetId,
): Promise<{ id: OrderId; startedAt: Instant } | null> {
  const [row] = await tx.db
    .select({ id: workOrder.id, startedAt: workOrder.startedAt })
    .from(alert)
    .innerJoin(workOrder, eq(workOrder.id, alert.orderId))
    .where(and(eq(alert.ruleId, ruleId), eq(alert.assetId, assetId), inArray(workOrder.stage, [...OPEN_STAGES])))
    .orderBy(desc(workOrder.id))
    .limit(1)
    .for('update');
  return row ?? null;
}

/** What holds back the alerts of a rule and a machine, as far as it still counts at an instant, and by what. */
async function holdsOf(
  tx: Tx,
  { rule, assetId, startedAt }: Found,
): Promise<(Held & { readonly by: 'shelved' | 'suppressed' })[]> {
  const shelves = await tx.db
    .select({ from: alertShelf.from, to: alertShelf.until })
    .from(alertShelf)
    .where(and(eq(alertShelf.ruleId, rule.id), eq(alertShelf.assetId, assetId), gt(alertShelf.until, startedAt)));
  const names = rule.suppressedBy ?? [];
  const suppressors =
    names.length === 0
      ? []
      : await tx.db
          .select({ from: alert.startedAt, to: alert.endedAt })
          .from(alert)
          .innerJoin(alertRule, eq(alertRule.id, alert.ruleId))
          .where(
            and(
              ...[eq(alert.assetId, assetId), inArray(alertRule.name, [...names]), isNull(alert.withdrawnAt)],
              or(isNull(alert.endedAt), gt(alert.endedAt, startedAt)),
            ),
          );
  return [
    ...shelves.map((s) => ({ ...s, by: 'shelved' as const })),
    ...suppressors.map((s) => ({ ...s, by: 'suppressed' as const })),
  ];
}

/** It starts again and again: said with it. */
async function isChattering(tx: Tx, { rule, assetId, startedAt }: Found): Promise<boolean> {
  const starts = await tx.db
    .select({ at: alert.startedAt })
    .from(alert)
    .where(
      and(eq(alert.ruleId, rule.id), eq(alert.assetId, assetId), gt(alert.startedAt, instant(startedAt - 5 * MINUTE))),
    );
  return (
    crowdedSince(
      starts.map((s) => s.at),
      startedAt,
      CHATTERING,
    ) !== null
  );
}

const textOf = ({ rule, worst }: Found): string => `${rule.name}: ${sayExcess(rule, worst)}`;

/** What is written on the order beside what was seen. */
const alsoSaid = ({ orderText, likelyCause }: Rule): string =>
  [...(likelyCause === '' ? [] : [`likely cause: ${likelyCause}`]), ...(orderText === '' ? [] : [orderText])]
    .map((text) => `\n${text}`)
    .join('');

async function raiseFor(tx: Tx, found: Found, at: Instant, now: Instant): Promise<OrderId> {
  const { rule, assetId } = found;
  return raiseCallIn(
    tx,
    {
      ...{ kind: 'repair', assetIds: [assetId], priority: rule.priority, cause: 'unknown' },
      ...{ startedAt: soonest(at, now), jobPlanId: rule.jobPlanId },
      ...{ title: rule.name, raisedText: `alert: ${textOf(found)}${alsoSaid(rule)}` },
      ...{ requestKey: null, who: null, role: null, fallbackZone: asZone('UTC') },
    },
    now,
  );
}

/** Tells of an alert from an instant on: it joins the order of the same trouble, or of the flood it is part of, or raises one. */
async function tell(tx: Tx, found: Found, at: Instant, now: Instant): Promise<void> {
  const { id, rule, assetId } = found;
  await tx.db.update(alert).set({ toldAt: at }).where(eq(alert.id, id));
  const flooded = await floodOrderOf(tx, found, at, now);
  const open = flooded ?? (await openOrderOf(tx, rule.id, assetId));
  if (open !== null) {
    const chatters = (await isChattering(tx, found)) ? '; chattering: it starts again and again' : '';
    const act = { kind: 'alert joined', alertId: id, text: `${textOf(found)}${chatters}` } as const;
    await unlessRefused(tx, () => tellOrder(tx, open, act, 'joined', at, now));
    await tx.db.update(alert).set({ orderId: open.id, joined: 1 }).where(eq(alert.id, id));
    return;
  }
  if (rule.askFirst) return;
  await unlessRefused(
    tx,
    async () => {
      const orderId = await raiseFor(tx, found, at, now);
      await tx.db.update(alert).set({ orderId }).where(eq(alert.id, id));
    },
    // The alert stands all the same, and says why nobody was sent.
    async (why) => {
      await tx.db
        .update(alert)
        .set({ noOrder: why.slice(0, 300) })
        .where(eq(alert.id, id));
    },
  );
}

/** What an alert that has just been found sets off. */
export async function answer(tx: Tx, found: Found, now: Instant): Promise<void> {
  const holds = found.rule.partOnly ? [] : await holdsOf(tx, found);
  const by = found.rule.partOnly ? 'part' : holds.find((h) => h.from <= found.startedAt)?.by;
  if (by) await tx.db.update(alert).set({ heldBy: by }).where(eq(alert.id, found.id));
  else await tell(tx, found, found.startedAt, now);
}

/** An order for an alert that waits for somebody to decide, or whose order could not be raised. Refused as any order is. */
export async function raiseByHand(tx: Tx, found: Found, now: Instant): Promise<OrderId> {
  const orderId = await raiseFor(tx, found, found.startedAt, now);
  await tx.db.update(alert).set({ orderId, noOrder: null }).where(eq(alert.id, found.id));
  return orderId;
}

/** Alerts of some machines that go on and were held back: those that nothing holds any more are told, from then on. Gives how many. */
export async function lookAtHeld(tx: Tx, assetIds: readonly AssetId[], now: Instant): Promise<number> {
  const rows = await tx.db
    .select({ alert, rule: alertRule })
    .from(alert)
    .innerJoin(alertRule, eq(alertRule.id, alert.ruleId))
    .where(
      and(
        ...[
          inArray(alert.assetId, [...assetIds]),
          isNull(alert.toldAt),
          isNull(alert.endedAt),
          isNull(alert.withdrawnAt),
        ],
      ),
    )
    .orderBy(asc(alert.startedAt), asc(alert.id));
  let told = 0;
  for (const { alert: of, rule } of rows) {
    if (rule.partOnly) continue;
    const found = { ...of, rule };
    const at = toldFrom({ from: of.startedAt, to: null }, await holdsOf(tx, found));
    if (at === null || at > now) continue;
    await tell(tx, found, at, now);
    told += 1;
  }
  return told;
}
