// What people do with alerts: acknowledge them, shelve them, raise what they ask for; and with devices nobody knows, or that move.
import type { FastifyInstance } from 'fastify';
import fp from 'fastify-plugin';
import { and, desc, eq, gt, inArray, isNotNull, isNull, lte, or, sql } from 'drizzle-orm';
import * as contracts from '#api/signals.ts';
import type { AlertId, AssetId } from '#core/ids.ts';
import { HOUR, instant } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { instantText } from '../platform/columns.ts';
import type { Tx } from '../platform/database.ts';
import { serve, type House } from '../platform/http.ts';
import { refuse } from '../platform/refuse.ts';
import { lookAtHeld, raiseByHand } from './answering.ts';
import { behind, pageOf } from './newest-first.ts';
import { forgetWatched } from './shards.ts';
import { alert, alertRule, alertShelf, device, deviceTie, unknownDevice } from './tables.ts';
import { judgeLater } from './watch.ts';

async function alertOf(tx: Tx, id: AlertId) {
  const [found] = await tx.db
    .select({ alert, rule: alertRule })
    .from(alert)
    .innerJoin(alertRule, eq(alertRule.id, alert.ruleId))
    .where(eq(alert.id, id))
    .for('update');
  if (!found) refuse('not-found', 'That alert does not exist.');
  return found;
}

/** Acknowledging one takes in every earlier alert of its rule and machine that people were told of. */
async function acknowledge(
  tx: Tx,
  ids: readonly AlertId[],
  who: { readonly id: number },
  now: number,
): Promise<number> {
  const chosen = await tx.db
    .select()
    .from(alert)
    .where(inArray(alert.id, [...ids]));
  if (chosen.length < new Set(ids).size) refuse('not-found', 'One of those alerts does not exist.', 'alertIds');
  const before = chosen.map((a) =>
    and(eq(alert.ruleId, a.ruleId), eq(alert.assetId, a.assetId), lte(alert.startedAt, a.startedAt)),
  );
  const [result] = await tx.db
    .update(alert)
    .set({ acknowledgedAt: instant(now), acknowledgedBy: who.id as never })
    .where(and(or(...before), isNull(alert.acknowledgedAt), isNotNull(alert.toldAt), isNull(alert.withdrawnAt)));
  return result.affectedRows;
}

/** Moves a device from some instant on: what it said before stays the old machine's; both are judged again from there. */
async function moveFrom(
  tx: Tx,
  id: typeof device.$inferSelect.id,
  assetId: AssetId,
  from: number,
  now: number,
): Promise<void> {
  await forgetWatched(tx);
  const [known] = await tx.db.select().from(device).where(eq(device.id, id)).for('update');
  if (!known) refuse('not-found', 'That device does not exist.');
  const [machine] = await tx.db.select({ id: asset.id, state: asset.state }).from(asset).where(eq(asset.id, assetId));
  if (!machine) refuse('not-found', 'That machine does not exist; choose another.', 'assetId');
  if (machine.state === 'retired') refuse('conflict', 'That machine is retired; choose another.', 'assetId');
  if (known.assetId === assetId) refuse('conflict', 'The device is on that machine already.', 'assetId');
  if (from > now)
    refuse('in-the-future', 'A device moves from a time on that has come; give when it was moved.', 'from');
  const ties = await tx.db.select().from(deviceTie).where(eq(deviceTie.deviceId, id)).for('update');
  const current = ties.find((t) => t.to === null);
  if (current && from <= current.from)
    refuse(
      'out-of-order',
      `It has been on its machine only since ${new Date(current.from).toISOString()}; give a later time.`,
      'from',
    );
  const at = instant(from);
  await tx.db
    .update(deviceTie)
    .set({ to: at })
    .where(and(eq(deviceTie.deviceId, id), isNull(deviceTie.to)));
  await tx.db.insert(deviceTie).values({ deviceId: id, assetId, from: at });
  await tx.db.update(device).set({ assetId }).where(eq(device.id, id));
  await judgeLater(
    tx,
    [known.assetId, assetId].map((of) => ({ assetId: of, channel: null, from: at })),
  );
}

function deviceRoutes(app: FastifyInstance, house: House): void {
  const { db } = house.database;
  serve(app, house, contracts.listUnknownDevices, async ({ query }) => {
    const limit = query.limit ?? 50;
    const rows = await db
      .select()
      .from(unknownDevice)
      .where(
        and(
          query.refused ? isNotNull(unknownDevice.refusedAt) : isNull(unknownDevice.refusedAt),
          behind(query.after, unknownDevice.lastAt, unknownDevice.id),
        ),
      )
      .orderBy(desc(unknownDevice.lastAt), desc(unknownDevice.id))
      .limit(limit + 1);
    const { items, next } = pageOf(rows, limit, (u) => ({ id: u.id, at: u.lastAt }));
    return {
      items: items.map(({ deviceKey: key, refusedAt, ...u }) => ({ ...u, key, refused: refusedAt !== null })),
      next,
    };
  });
  serve(app, house, contracts.refuseDevice, ({ params, body, now, write }) =>
    write(async (tx, told) => {
      const [result] = await tx.db
        .update(unknownDevice)
        .set({ refusedAt: body.refused ? sql`${instantText(now)}` : null })
        .where(eq(unknownDevice.id, params.id));
      if (result.affectedRows === 0) refuse('not-found', 'That device is listed no more.');
      told({ subject: 'unknown device', id: params.id, text: body.refused ? 'refused' : 'heard of again' });
      return { done: true as const };
    }),
  );
  serve(app, house, contracts.moveDevice, ({ params, body, now, write }) =>
    write(async (tx, told) => {
      await moveFrom(tx, params.id, body.assetId, body.from, now);
      told({ subject: 'device', id: params.id, text: `moved to machine ${body.assetId}` });
      return { done: true as const };
    }),
  );
}

export const alertActRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    deviceRoutes(app, house);
    serve(app, house, contracts.acknowledgeAlerts, ({ body, who, now, write }) =>
      write(async (tx, told) => {
        const acknowledged = await acknowledge(tx, body.alertIds, who, now);
        for (const id of body.alertIds) told({ subject: 'alert', id, text: 'acknowledged' });
        return { acknowledged };
      }),
    );
    serve(app, house, contracts.shelveAlert, ({ params, body, who, now, write }) =>
      write(async (tx, told) => {
        const { alert: of } = await alertOf(tx, params.id);
        const [held] = await tx.db
          .select({ until: alertShelf.until })
          .from(alertShelf)
          .where(and(eq(alertShelf.ruleId, of.ruleId), eq(alertShelf.assetId, of.assetId), gt(alertShelf.until, now)))
          .for('update');
        if (held) refuse('conflict', 'It is shelved already; take it off first to shelve it anew.');
        const until = instant(now + body.hours * HOUR);
        const [made] = await tx.db
          .insert(alertShelf)
          .values({
            ...{ ruleId: of.ruleId, assetId: of.assetId, from: now, until, reason: body.reason },
            personId: who.id,
          })
          .$returningId();
        // Whoever shelves it has seen it.
        await acknowledge(tx, [params.id], who, now);
        told({ subject: 'alert', id: params.id, text: `shelved for ${body.hours} h: ${body.reason}` });
        return { id: made?.id as number };
      }),
    );
    serve(app, house, contracts.endShelf, ({ params, who, now, write }) =>
      write(async (tx, told) => {
        const [shelf] = await tx.db.select().from(alertShelf).where(eq(alertShelf.id, params.id)).for('update');
        if (!shelf) refuse('not-found', 'That shelf does not exist.');
        if (shelf.until <= now) refuse('conflict', 'Its end has come already.');
        await tx.db.update(alertShelf).set({ until: now, endedBy: who.id }).where(eq(alertShelf.id, params.id));
        await lookAtHeld(tx, [shelf.assetId], now);
        told({ subject: 'alert shelf', id: params.id, text: 'taken off before its end' });
        return { done: true as const };
      }),
    );
    serve(app, house, contracts.raiseForAlert, ({ params, now, write }) =>
      write(async (tx, told) => {
        const { alert: of, rule } = await alertOf(tx, params.id);
        if (of.orderId !== null) refuse('conflict', 'It has its order already.');
        if (of.withdrawnAt !== null) refuse('conflict', 'It was withdrawn: there is nothing to be done.');
        const id = await raiseByHand(tx, { ...of, rule }, now);
        told({ subject: 'alert', id: params.id, text: 'order raised' });
        return { id };
      }),
    );
  },
  { name: 'stavok-alert-act-routes', dependencies: ['stavok-authentication'] },
);
