// Changing the catalogue: classes with their job plans and meters, and makers' models; one transaction each.
import { eq, inArray, sql } from 'drizzle-orm';
import type { ClassIn } from '#api/catalogue.ts';
import type * as contracts from '#api/catalogue.ts';
import type { BodyOf } from '#api/contract.ts';
import type { AssetClassId, AssetModelId, JobPlanId } from '#core/ids.ts';
import { FINDINGS } from '#core/orders/index.ts';
import { asset } from '../assets/tables.ts';
import { meter } from '../meters/tables.ts';
import type { Tx } from '../platform/database.ts';
import { keepRenamed } from '../platform/finder-index.ts';
import type { FinderSource } from '../platform/finder-source.ts';
import { refuse, stale } from '../platform/refuse.ts';
import type { Told } from '../platform/writing.ts';
import { assetClass, assetModel, classJobPlan, classMeter, classWord, jobPlan } from './tables.ts';

async function mustBeClass(tx: Tx, id: AssetClassId): Promise<void> {
  const [known] = await tx.db.select({ id: assetClass.id }).from(assetClass).where(eq(assetClass.id, id));
  if (!known) refuse('not-found', 'That class does not exist; choose another.', 'classId');
}

async function writeClassParts(tx: Tx, id: AssetClassId, body: ClassIn): Promise<void> {
  const names = body.meters.map((m) => m.name.toLowerCase());
  if (new Set(names).size < names.length) refuse('taken', 'Two meters have the same name; rename one.', 'meters');
  await tx.db.delete(classJobPlan).where(eq(classJobPlan.classId, id));
  await tx.db.delete(classMeter).where(eq(classMeter.classId, id));
  const plans = [...new Set(body.jobPlanIds)] as JobPlanId[];
  if (plans.length > 0) {
    const known = await tx.db.select({ id: jobPlan.id }).from(jobPlan).where(inArray(jobPlan.id, plans));
    if (known.length < plans.length)
      refuse('not-found', 'One of these job plans does not exist; choose among those offered.', 'jobPlanIds');
    await tx.db.insert(classJobPlan).values(plans.map((jobPlanId) => ({ classId: id, jobPlanId })));
  }
  if (body.meters.length > 0)
    await tx.db.insert(classMeter).values(body.meters.map((m) => ({ ...m, channel: m.channel || null, classId: id })));
  await giveMeters(tx, id, body.meters);
  if (body.words) await writeWords(tx, id, body.words);
}

async function writeWords(tx: Tx, classId: AssetClassId, words: NonNullable<ClassIn['words']>): Promise<void> {
  await tx.db.delete(classWord).where(eq(classWord.classId, classId));
  const rows = FINDINGS.flatMap((kind) => words[kind].map((text, position) => ({ classId, kind, position, text })));
  if (rows.length > 0) await tx.db.insert(classWord).values(rows);
}

/** Meters of a class reach the machines that are there already; one of that name that a machine has stays as it is. */
async function giveMeters(tx: Tx, classId: AssetClassId, meters: ClassIn['meters']): Promise<void> {
  for (const { name, unit, channel, wrapsAt } of meters)
    await tx.db.execute(sql`
      insert into ${meter} (asset_id, name, unit, channel, wraps_at)
      select id, ${name}, ${unit}, ${channel || null}, ${wrapsAt} from ${asset}
      where class_id = ${classId} and state <> 'retired'
      on duplicate key update wraps_at = values(wraps_at), channel = coalesce(${meter.channel}, values(channel))`);
}

export async function addClass(tx: Tx, told: Told, body: ClassIn): Promise<{ id: AssetClassId }> {
  const [made] = await tx.db.insert(assetClass).values({ name: body.name }).$returningId();
  const id = made?.id as AssetClassId;
  await writeClassParts(tx, id, body);
  told({ subject: 'asset class', id, text: `added ${body.name}` });
  return { id };
}

/** `found`: what other rooms' things are known by changes with the name. */
export async function changeClass(
  tx: Tx,
  told: Told,
  found: readonly FinderSource[],
  id: AssetClassId,
  body: BodyOf<typeof contracts.changeClass>,
): Promise<void> {
  const [row] = await tx.db.select().from(assetClass).where(eq(assetClass.id, id)).for('update');
  if (!row) refuse('not-found', 'That class does not exist.');
  if (row.version !== body.version) stale(row);
  await tx.db
    .update(assetClass)
    .set({ name: body.name, version: row.version + 1 })
    .where(eq(assetClass.id, id));
  await writeClassParts(tx, id, body);
  if (row.name !== body.name) await keepRenamed(tx, found, { classes: [id] });
  told({ subject: 'asset class', id, text: `changed ${body.name}` });
}

export async function addModel(tx: Tx, told: Told, body: BodyOf<typeof contracts.addModel>): Promise<{ id: number }> {
  await mustBeClass(tx, body.classId);
  const [made] = await tx.db.insert(assetModel).values(body).$returningId();
  const id = made?.id as number;
  told({ subject: 'asset model', id, text: `added ${body.maker} ${body.name}` });
  return { id };
}

export async function changeModel(
  tx: Tx,
  told: Told,
  id: AssetModelId,
  body: BodyOf<typeof contracts.changeModel>,
): Promise<void> {
  const [row] = await tx.db.select().from(assetModel).where(eq(assetModel.id, id)).for('update');
  if (!row) refuse('not-found', 'That model does not exist.');
  if (row.version !== body.version) stale(row);
  await mustBeClass(tx, body.classId);
  await tx.db
    .update(assetModel)
    .set({ ...body, version: row.version + 1 })
    .where(eq(assetModel.id, id));
  told({ subject: 'asset model', id, text: `changed ${body.maker} ${body.name}` });
}
