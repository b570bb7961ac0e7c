// Standing: sums of whole months, months that were closed with what was counted in them, and what turned out otherwise since.
import {
  index,
  int,
  mysqlEnum,
  mysqlTable,
  primaryKey,
  smallint,
  tinyint,
  uniqueIndex,
  varchar,
} from 'drizzle-orm/mysql-core';
import type { AgreementId, AssetId, CustomerId, DepotId, LocationId, OrderId, PersonId } from '#core/ids.ts';
import { TARGETS } from '#core/service-levels/index.ts';
import { COUNTED_AS, MISS_CAUSES, type Thirds } from '#core/standing/index.ts';
import { dateColumn, instantColumn, reference, rowId } from '../platform/columns.ts';

/**
 * What standing is summed for: a site is the top of the tree above where a machine stood; of machines only what was amiss. In the order
 * they are summed in: the whole is taken from its depots.
 */
export const SUMMED_FOR = ['asset', 'site', 'agreement', 'customer', 'depot', 'all'] as const;
export type SummedFor = (typeof SUMMED_FOR)[number];

/** A month of which a third at least is over, by its first day. */
export const standingMonth = mysqlTable('standing_month', {
  month: dateColumn().primaryKey(),
  /** Grows with each change of what counts in it. */
  changes: int().notNull().default(0),
  /** The changes its sums hold; they hold while nothing changed since. */
  summed: int(),
  /** How many of its thirds they hold: three once it is over. */
  thirds: tinyint().$type<Thirds>().notNull().default(3),
  /** Of the first of a quarter: what its three months had summed when they were summed together. */
  quarterSummed: int(),
  closedAt: instantColumn(),
  closedBy: reference<PersonId>(),
  /** Why it was closed although something of it was open. */
  reason: varchar({ length: 400 }).notNull().default(''),
  /** The changes that adjustments were looked for by. */
  adjusted: int(),
});

const toDay = () => int().notNull().default(0);

/**
 * What was counted in a month, or the months of a quarter, for one subject; 0 where there is none. Of a month also what was counted to its
 * 10th and to its 20th; of one that goes on, the whole is what its thirds that are over have.
 */
export const standingSum = mysqlTable(
  'standing_sum',
  {
    summedFor: mysqlEnum(SUMMED_FOR).notNull(),
    /** So many months together: one, or the three of a quarter. */
    months: smallint().notNull(),
    month: dateColumn().notNull(),
    subjectId: int({ unsigned: true }).notNull(),
    met: int().notNull(),
    missed: int().notNull(),
    owed: int().notNull(),
    inWindow: int().notNull(),
    declined: int().notNull(),
    ...{ met10: toDay(), missed10: toDay(), owed10: toDay(), inWindow10: toDay(), declined10: toDay() },
    ...{ met20: toDay(), missed20: toDay(), owed20: toDay(), inWindow20: toDay(), declined20: toDay() },
    /** Promises missed and visits out of window. */
    amiss: int().notNull(),
    /** The changes of the month it was summed by. */
    changes: int().notNull(),
  },
  (t) => [primaryKey({ columns: [t.summedFor, t.months, t.month, t.subjectId] })],
);

/** What a promise or visit is, wherever it is counted: a line’s clock by its target, or a visit. */
export const COUNTED_THINGS = [...TARGETS, 'visit'] as const;

const whose = () => ({
  orderId: reference<OrderId>(),
  assetId: reference<AssetId>().notNull(),
  agreementId: reference<AgreementId>(),
  customerId: reference<CustomerId>().notNull(),
  siteId: reference<LocationId>(),
  depotId: reference<DepotId>(),
});

/** Each promise and visit as it was counted when its month was closed; never changed. */
export const closedCount = mysqlTable(
  'closed_count',
  {
    month: dateColumn().notNull(),
    thing: mysqlEnum(COUNTED_THINGS).notNull(),
    /** The order’s line of a promise, or the visit. */
    thingId: int({ unsigned: true }).notNull(),
    /** The day it counted on. */
    onDay: dateColumn().notNull(),
    countedAs: mysqlEnum(COUNTED_AS).notNull(),
    missCause: mysqlEnum(MISS_CAUSES),
    ...whose(),
  },
  (t) => [
    primaryKey({ columns: [t.month, t.thing, t.thingId] }),
    index('closed_count_day').on(
      ...[t.onDay, t.countedAs, t.assetId, t.agreementId, t.customerId, t.siteId, t.depotId, t.missCause],
    ),
    index('closed_count_asset').on(t.assetId, t.onDay),
    index('closed_count_site').on(t.siteId),
  ],
);

/** What counts otherwise than when its month was closed, told in the month in which it was found. */
export const adjustment = mysqlTable(
  'adjustment',
  {
    id: rowId<number>(),
    month: dateColumn().notNull(),
    thing: mysqlEnum(COUNTED_THINGS).notNull(),
    thingId: int({ unsigned: true }).notNull(),
    /** How many of it came before. */
    position: smallint().notNull(),
    foundOn: dateColumn().notNull(),
    foundAt: instantColumn().notNull(),
    before: mysqlEnum(COUNTED_AS),
    after: mysqlEnum(COUNTED_AS),
    ...whose(),
  },
  (t) => [
    uniqueIndex('adjustment_once').on(t.month, t.thing, t.thingId, t.position),
    index('adjustment_found').on(t.foundOn),
  ],
);
