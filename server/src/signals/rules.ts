// Alert rules of classes, models and machines, and the devices that report.
import { isDeepStrictEqual } from 'node:util';
import fp from 'fastify-plugin';
import { and, asc, eq, inArray, isNull, ne, sql } from 'drizzle-orm';
import type { BodyOf } from '#api/contract.ts';
import * as contracts from '#api/alert-rules.ts';
import { addDevice } from '#api/setup.ts';
import type { AlertRuleId, DeviceId } from '#core/ids.ts';
import { refusal } from '#core/refusal.ts';
import { checkCircles, isOfParts, type Condition } from '#core/signals/index.ts';
import { instant, type Instant } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { assetClass } from '../catalogue/tables.ts';
import { instantText } from '../platform/columns.ts';
import type { Tx } from '../platform/database.ts';
import { serve, type House } from '../platform/http.ts';
import { refuse, Refused, stale } from '../platform/refuse.ts';
import { onThreads } from '../platform/threads.ts';
import { person } from '../platform/tables.ts';
import { writeNamed } from '../platform/writing.ts';
import { forgetWatched } from './shards.ts';
import { alert, alertRule, device, deviceTie, ruleCheckpoint, ruleState } from './tables.ts';
import { forgetUnknown } from './unknown.ts';
import { judgeLater, OF_PARTS } from './watch.ts';
import type * as thread from './thread.ts';
import type { Rule } from './watched.ts';

const onThread = onThreads<typeof thread>(
  new URL('./thread.ts', import.meta.url),
  refusal('too-large', 'That is too much to go through at once; try fewer days.', 'days'),
);

type Asked = BodyOf<typeof contracts.addAlertRule>;

/**
 * Two rules of one name for the same machines would alert, and raise, twice. The class is locked: of two people at once one is told.
 * Refused: a machine of another class, a model and a machine at once.
 */
async function mustBeNew(tx: Tx, asked: Asked, id: AlertRuleId | null): Promise<void> {
  const { assetClassId, model, assetId, name } = asked;
  const [known] = await tx.db
    .select({ id: assetClass.id })
    .from(assetClass)
    .where(eq(assetClass.id, assetClassId))
    .for('update');
  if (!known) refuse('not-found', 'That asset class does not exist; choose another.', 'assetClassId');
  if (assetId !== null) {
    if (model !== null) refuse('conflict', 'A rule is of a model or of one machine, not both.', 'model');
    const [machine] = await tx.db.select({ classId: asset.classId }).from(asset).where(eq(asset.id, assetId));
    if (!machine) refuse('not-found', 'That machine does not exist; choose another.', 'assetId');
    if (machine.classId !== assetClassId)
      refuse('conflict', 'That machine is of another class; choose its class.', 'assetClassId');
  }
  await mustBeTellable(tx, asked);
  await mustRefer(tx, asked);
  const [same] = await tx.db
    .select({ id: alertRule.id })
    .from(alertRule)
    .where(
      and(
        ...[eq(alertRule.assetClassId, assetClassId), eq(alertRule.name, name)],
        model === null ? isNull(alertRule.model) : eq(alertRule.model, model),
        assetId === null ? isNull(alertRule.assetId) : eq(alertRule.assetId, assetId),
        id === null ? undefined : ne(alertRule.id, id),
      ),
    );
  if (same)
    refuse(
      'taken',
      'There is a rule of that name for the same machines; change that one, or choose another name.',
      'name',
    );
}

/** Refused: somebody who is told and is not there. */
async function mustBeTellable(tx: Tx, { tells }: Asked): Promise<void> {
  const ids = [...new Set(tells.map((t) => t.personId))];
  const people =
    ids.length === 0
      ? []
      : await tx.db
          .select({ id: person.id })
          .from(person)
          .where(and(inArray(person.id, ids), eq(person.active, true)));
  const missing = tells.findIndex((t) => people.every((p) => p.id !== t.personId));
  if (missing >= 0) refuse('not-found', 'That person is not there; choose another.', `tells.${missing}.personId`);
}

const key = (text: string): string => text.toLowerCase();

/** Refused: rules of the class that a rule refers to and are not there, and rules that refer to each other in a circle. */
async function mustRefer(tx: Tx, { name, assetClassId, suppressedBy, condition }: Asked): Promise<void> {
  const rules = await tx.db
    .select({ name: alertRule.name, suppressedBy: alertRule.suppressedBy, condition: alertRule.condition })
    .from(alertRule)
    .where(eq(alertRule.assetClassId, assetClassId));
  const others = rules.filter((r) => key(r.name) !== key(name));
  const names = [...new Set([name, ...others.map((r) => r.name)].map(key))];
  const check = (
    field: string,
    of: readonly string[],
    ofOther: (r: (typeof rules)[number]) => readonly string[],
    why: string,
  ) => {
    const unknown = of.find((n) => !names.includes(key(n)));
    if (unknown !== undefined) refuse('not-found', `The class has no rule “${unknown}”; choose one of its own.`, field);
    const references = new Map<number, number[]>();
    for (const r of [...others.map((o) => ({ name: o.name, of: ofOther(o) })), { name, of }]) {
      const id = names.indexOf(key(r.name));
      references.set(id, [...(references.get(id) ?? []), ...r.of.map((n) => names.indexOf(key(n)))]);
    }
    if (!checkCircles(references, names.indexOf(key(name))).ok) refuse('conflict', why, field);
  };
  check(
    'suppressedBy',
    suppressedBy,
    (r) => r.suppressedBy ?? [],
    'These rules would hold each other back, and nobody would ever be told; take one out.',
  );
  check(
    'condition.of',
    partsOf(condition),
    (r) => partsOf(r.condition),
    'These rules would be made of each other, and none would ever be active; take one out.',
  );
}

const partsOf = (condition: Condition): readonly string[] => (condition.kind === 'parts' ? condition.of : []);

/** Refused: a name given up, or a class left, by the last rule of it that others refer to. */
async function mustNotBeNeeded(tx: Tx, was: Rule, asked: Asked): Promise<void> {
  if (key(was.name) === key(asked.name) && was.assetClassId === asked.assetClassId) return;
  const rules = await tx.db.select().from(alertRule).where(eq(alertRule.assetClassId, was.assetClassId));
  const others = rules.filter((r) => r.id !== was.id);
  if (others.some((r) => key(r.name) === key(was.name))) return;
  const by = others.find((r) =>
    [...partsOf(r.condition), ...(r.suppressedBy ?? [])].some((n) => key(n) === key(was.name)),
  );
  if (by) refuse('conflict', `The rule “${by.name}” refers to “${was.name}”; change that one first.`, 'name');
}

/** What a rule watched so far is looked at anew: alerts that go on end, as not watched any more, and delays begin anew. */
async function watchAnew(tx: Tx, id: AlertRuleId, now: Instant): Promise<void> {
  await tx.db
    .update(alert)
    .set({ endedAt: sql`greatest(${alert.startedAt}, ${instantText(now)})` })
    .where(and(eq(alert.ruleId, id), isNull(alert.endedAt)));
  await tx.db.delete(ruleState).where(eq(ruleState.ruleId, id));
  await tx.db.delete(ruleCheckpoint).where(eq(ruleCheckpoint.ruleId, id));
  await tx.db.update(alertRule).set({ watchedSince: now }).where(eq(alertRule.id, id));
}

/** Rules of one name of a class give way to each other: where they stand is looked at again by whoever lets time go on. */
async function lookAgain(tx: Tx, { assetClassId, name }: Pick<Asked, 'assetClassId' | 'name'>, now: Instant) {
  await forgetWatched(tx);
  await tx.db
    .update(ruleState)
    .set({ dueAt: now })
    .where(
      inArray(
        ruleState.ruleId,
        tx.db
          .select({ id: alertRule.id })
          .from(alertRule)
          .where(and(eq(alertRule.assetClassId, assetClassId), eq(alertRule.name, name))),
      ),
    );
  await judgeMadeOf(tx, assetClassId, now);
}

/** Rules of a class that are made of others are judged from now on as their parts stand now, wherever one of these is active. */
async function judgeMadeOf(tx: Tx, assetClassId: Asked['assetClassId'], now: Instant): Promise<void> {
  const rules = await tx.db.select().from(alertRule).where(eq(alertRule.assetClassId, assetClassId));
  const made = rules.filter(isOfParts).map((r) => r.id);
  if (made.length === 0) return;
  const active = await tx.db
    .selectDistinct({ assetId: alert.assetId })
    .from(alert)
    .where(
      and(
        isNull(alert.endedAt),
        inArray(
          alert.ruleId,
          rules.map((r) => r.id),
        ),
      ),
    );
  const known = await tx.db
    .selectDistinct({ assetId: ruleState.assetId })
    .from(ruleState)
    .where(inArray(ruleState.ruleId, made));
  const assetIds = [...new Set([...active, ...known].map((r) => r.assetId))];
  await judgeLater(
    tx,
    assetIds.map((assetId) => ({ assetId, channel: OF_PARTS, from: now })),
  );
}

/** Whether a change makes of it a rule that watches something else, or nothing. */
const isAnother = (was: Rule, { channel, condition, watched, model, assetId, assetClassId }: Asked): boolean =>
  was.channel !== channel ||
  was.condition.kind !== condition.kind ||
  (condition.kind === 'parts' && !isDeepStrictEqual(was.condition, condition)) ||
  was.watched !== watched ||
  was.model !== model ||
  was.assetId !== assetId ||
  was.assetClassId !== assetClassId;

export const alertRuleRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;
    serve(app, house, contracts.listAlertRules, async () => {
      const rows = await db
        .select({ rule: alertRule, className: assetClass.name, tag: asset.tag })
        .from(alertRule)
        .innerJoin(assetClass, eq(assetClass.id, alertRule.assetClassId))
        .leftJoin(asset, eq(asset.id, alertRule.assetId))
        .orderBy(asc(assetClass.name), asc(alertRule.name), asc(alertRule.model), asc(asset.tag))
        .limit(500);
      return {
        items: rows.map(({ rule, className, tag }) => ({
          ...{ ...rule, suppressedBy: [...(rule.suppressedBy ?? [])], tells: [...(rule.tells ?? [])] },
          ...{ className, tag },
        })),
      };
    });
    serve(app, house, contracts.addAlertRule, ({ body, write, now }) =>
      writeNamed(write, 'alert rule', `added ${body.name}`, async (tx) => {
        await mustBeNew(tx, body, null);
        // What its parts found before it was made is not its own.
        const watchedSince = isOfParts(body) ? now : null;
        const [row] = await tx.db
          .insert(alertRule)
          .values({ ...body, watchedSince })
          .$returningId();
        await lookAgain(tx, body, now);
        return { id: row?.id as number };
      }),
    );
    serve(app, house, contracts.changeAlertRule, async ({ params: { id }, body: { version, ...body }, write, now }) => {
      await writeNamed(write, 'alert rule', `changed ${body.name}`, async (tx) => {
        const [row] = await tx.db.select().from(alertRule).where(eq(alertRule.id, id)).for('update');
        if (!row) refuse('not-found', 'That alert rule does not exist.');
        if (row.version !== version) stale(row);
        await forgetWatched(tx);
        await mustBeNew(tx, body, id);
        await mustNotBeNeeded(tx, row, body);
        await tx.db
          .update(alertRule)
          .set({ ...body, version: version + 1 })
          .where(eq(alertRule.id, id));
        if (isAnother(row, body)) await watchAnew(tx, id, now);
        for (const of of [row, body]) await lookAgain(tx, of, now);
        return { id };
      });
      return { done: true as const };
    });
    serve(app, house, contracts.tryAlertRule, ({ body, now }) =>
      onThread('tryOnThePast', { url: house.config.databaseUrl, ask: body, now }),
    );
    serve(app, house, addDevice, async ({ body, write }) => {
      try {
        return await writeNamed(write, 'device', `registered ${body.key}`, async (tx) => {
          const [found] = await tx.db.select({ id: asset.id }).from(asset).where(eq(asset.id, body.assetId));
          if (!found) refuse('not-found', 'That asset does not exist.', 'assetId');
          const [row] = await tx.db
            .insert(device)
            .values({ assetId: body.assetId, deviceKey: body.key })
            .$returningId();
          const deviceId = row?.id as DeviceId;
          await tx.db.insert(deviceTie).values({ deviceId, assetId: body.assetId, from: instant(0) });
          await forgetUnknown(tx.db, body.key);
          return { id: deviceId };
        });
      } catch (error) {
        if (error instanceof Refused && error.refusals[0]?.code === 'taken')
          refuse('taken', 'Another asset’s device uses that key already.', 'key');
        throw error;
      }
    });
  },
  { name: 'stavok-alert-rule-routes', dependencies: ['stavok-authentication'] },
);
