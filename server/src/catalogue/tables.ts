// The catalogue: classes of assets with their job plans, meters and forms; makers’ models.
import { double, index, int, mysqlEnum, mysqlTable, primaryKey, uniqueIndex, varchar } from 'drizzle-orm/mysql-core';
import type { AssetClassId, AssetModelId, ClassFormId, JobPlanId, PartId, SkillId } from '#core/ids.ts';
import { FINDINGS, type Finding, type FormQuestion, type OrderKind } from '#core/orders/index.ts';
import { skill } from '../depots/tables.ts';
import { jsonColumn, reference, rowId } from '../platform/columns.ts';

export type PlannedTask = { readonly text: string; readonly mandatory: boolean };

export const jobPlan = mysqlTable(
  'job_plan',
  {
    id: rowId<JobPlanId>(),
    name: varchar({ length: 120 }).notNull(),
    minutes: int().notNull(),
    tasks: jsonColumn<PlannedTask[]>().notNull(),
    /** The skill its hours are counted to. */
    skillId: reference<SkillId>().references(() => skill.id),
    /** What else must be able to be done; null: nothing. */
    alsoSkillIds: jsonColumn<SkillId[] | null>(),
    /** Forms it asks for beside those of the machine’s class for the kind of work; null: none. */
    formIds: jsonColumn<ClassFormId[] | null>(),
    /** How many people it takes. */
    crew: int().notNull().default(1),
    /** What whoever does it must read first. */
    safetyNote: varchar({ length: 500 }).notNull().default(''),
    /** Parts it takes, by their ids, in thousandths of a unit; null: none. */
    parts: jsonColumn<{ readonly partId: PartId; readonly thousandths: number }[] | null>(),
    version: int().notNull().default(1),
  },
  (t) => [uniqueIndex('job_plan_name').on(t.name)],
);

/** Which job plans do the work of which: a yearly one includes the quarterly. */
export const jobPlanIncludes = mysqlTable(
  'job_plan_includes',
  {
    largerId: reference<JobPlanId>()
      .notNull()
      .references(() => jobPlan.id),
    smallerId: reference<JobPlanId>()
      .notNull()
      .references(() => jobPlan.id),
  },
  (t) => [primaryKey({ columns: [t.largerId, t.smallerId] })],
);

export const assetClass = mysqlTable(
  'asset_class',
  { id: rowId<AssetClassId>(), name: varchar({ length: 120 }).notNull(), version: int().notNull().default(1) },
  (t) => [uniqueIndex('asset_class_name').on(t.name)],
);

/** The catalogue: what a maker’s model is, and the warranty it comes with. An asset belongs to it by maker and model. */
export const assetModel = mysqlTable(
  'asset_model',
  {
    id: rowId<AssetModelId>(),
    classId: reference<AssetClassId>()
      .notNull()
      .references(() => assetClass.id),
    maker: varchar({ length: 120 }).notNull(),
    name: varchar({ length: 120 }).notNull(),
    warrantyMonths: int().notNull().default(0),
    warrantyLabour: int().notNull().default(100),
    warrantyParts: int().notNull().default(100),
    warrantyTravel: int().notNull().default(100),
    warrantyVisits: int().notNull().default(0),
    version: int().notNull().default(1),
  },
  (t) => [uniqueIndex('asset_model_name').on(t.maker, t.name), index('asset_model_class').on(t.classId)],
);

export const classJobPlan = mysqlTable(
  'asset_class_job_plan',
  {
    classId: reference<AssetClassId>()
      .notNull()
      .references(() => assetClass.id),
    jobPlanId: reference<JobPlanId>()
      .notNull()
      .references(() => jobPlan.id),
  },
  (t) => [primaryKey({ columns: [t.classId, t.jobPlanId] })],
);

/** The meters machines of a class have; `channel` names the device channel that counts the same. */
export const classMeter = mysqlTable(
  'asset_class_meter',
  {
    classId: reference<AssetClassId>()
      .notNull()
      .references(() => assetClass.id),
    name: varchar({ length: 60 }).notNull(),
    unit: varchar({ length: 20 }).notNull(),
    channel: varchar({ length: 60 }),
    wrapsAt: double(),
  },
  (t) => [primaryKey({ columns: [t.classId, t.name] })],
);

/** A form of a class: asked on orders of these kinds and by the job plans that name it, each order with the questions as they stood when it was raised. */
export const classForm = mysqlTable(
  'asset_class_form',
  {
    id: rowId<ClassFormId>(),
    classId: reference<AssetClassId>()
      .notNull()
      .references(() => assetClass.id),
    name: varchar({ length: 120 }).notNull(),
    kinds: jsonColumn<OrderKind[]>().notNull(),
    questions: jsonColumn<FormQuestion[]>().notNull(),
    version: int().notNull().default(1),
  },
  (t) => [uniqueIndex('asset_class_form_name').on(t.classId, t.name)],
);

/** Words that findings of a class are said in: symptoms, faults, causes and remedies. */
export const classWord = mysqlTable(
  'asset_class_word',
  {
    id: rowId<number>(),
    classId: reference<AssetClassId>()
      .notNull()
      .references(() => assetClass.id),
    kind: mysqlEnum(FINDINGS).notNull(),
    position: int().notNull(),
    text: varchar({ length: 120 }).notNull(),
  },
  (t) => [uniqueIndex('asset_class_word_text').on(t.classId, t.kind, t.text)],
);

/** The words of a class as they are offered: by what they say. */
export const wordsByKind = (
  rows: readonly Pick<typeof classWord.$inferSelect, 'kind' | 'text'>[],
): Record<Finding, string[]> => {
  const words: Record<Finding, string[]> = { symptom: [], fault: [], cause: [], remedy: [] };
  for (const { kind, text } of rows) words[kind].push(text);
  return words;
};
