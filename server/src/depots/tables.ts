// Where our technicians start from, and what they can do in a week.
import { double, int, mysqlTable, primaryKey, uniqueIndex, varchar } from 'drizzle-orm/mysql-core';
import type { DepotId, SkillId } from '#core/ids.ts';
import type { PlanRules } from '#core/rota/index.ts';
import { reference, rowId } from '../platform/columns.ts';

export const skill = mysqlTable(
  'skill',
  { id: rowId<SkillId>(), name: varchar({ length: 120 }).notNull(), version: int().notNull().default(1) },
  (t) => [uniqueIndex('skill_name').on(t.name)],
);

export const depot = mysqlTable(
  'depot',
  {
    id: rowId<DepotId>(),
    name: varchar({ length: 120 }).notNull(),
    latitude: double(),
    longitude: double(),
    /** What counts more where the house plans for its people. */
    planRules: varchar({ length: 30 }).notNull().default('promises first').$type<PlanRules>(),
    version: int().notNull().default(1),
  },
  (t) => [uniqueIndex('depot_name').on(t.name)],
);

/** Minutes of upkeep that a depot's people with a skill can do in a week. */
export const depotCapacity = mysqlTable(
  'depot_capacity',
  {
    depotId: reference<DepotId>()
      .notNull()
      .references(() => depot.id),
    skillId: reference<SkillId>()
      .notNull()
      .references(() => skill.id),
    weeklyMinutes: int().notNull(),
  },
  (t) => [primaryKey({ columns: [t.depotId, t.skillId] })],
);
