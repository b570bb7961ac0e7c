// The year of a customer, a place or an agreement: a row for each machine and job plan, by place.
import { ascending, group, rollup, sum } from 'd3-array';
import { eq } from 'drizzle-orm';
import type { YearPlan, YearRow } from '#api/year.ts';
import type { LocalDate } from '#core/time/index.ts';
import type { RunScope } from '#core/upkeep/index.ts';
import { agreement } from '../../agreements/tables.ts';
import { customer } from '../../customers/tables.ts';
import { location } from '../../places/tables.ts';
import type { Database, Db } from '../../platform/database.ts';
import { refuse } from '../../platform/refuse.ts';
import { keepPlanned } from '../planning.ts';
import { visitsBetween, type YearVisitRow } from './visits.ts';

/** More visits are not put on one plan. */
const MOST = 6000;

/** Whose year it is, in words. Refused: nothing chosen, or what is not there. */
export async function titleOf(db: Db, { customerId, agreementId, locationId }: RunScope): Promise<string> {
  const [[c], [g], [l]] = await Promise.all([
    customerId === undefined
      ? []
      : db.select({ name: customer.name }).from(customer).where(eq(customer.id, customerId)),
    agreementId === undefined
      ? []
      : db
          .select({ name: agreement.name, number: agreement.number })
          .from(agreement)
          .where(eq(agreement.id, agreementId)),
    locationId === undefined
      ? []
      : db.select({ name: location.fullName }).from(location).where(eq(location.id, locationId)),
  ]);
  if ((customerId !== undefined && !c) || (agreementId !== undefined && !g) || (locationId !== undefined && !l))
    refuse('not-found', 'What the plan is asked for does not exist.');
  const parts = [c?.name, g && `${g.number} ${g.name}`, l?.name].filter((x) => x !== undefined);
  if (parts.length === 0) refuse('missing', 'Choose a customer, a place or an agreement.', 'customer');
  return parts.join(', ');
}

const rowOf = (visits: readonly YearVisitRow[]): YearRow => {
  const { scheduleId, assetId, tag, model, place, agreement: number, jobPlan } = visits[0] as YearVisitRow;
  return {
    ...{ scheduleId, assetId, tag, model, place: place.label, agreement: number, jobPlan },
    visits: visits.map((v) => ({
      ...{ planned: v.planned, windowFrom: v.windowFrom, windowTo: v.windowTo, state: v.state, orderId: v.orderId },
    })),
  };
};

const byPlace = (a: YearRow, b: YearRow): number =>
  a.place.localeCompare(b.place) || a.tag.localeCompare(b.tag) || a.jobPlan.localeCompare(b.jobPlan);

/** The visits of a year, planned and past. Refused: more than one plan can hold. */
export async function readYear(database: Database, scope: RunScope, year: number, today: LocalDate): Promise<YearPlan> {
  const { db } = database;
  const title = await titleOf(db, scope);
  await keepPlanned(database, { today });
  const days = [`${year}-01-01` as LocalDate, `${year}-12-31` as LocalDate] as const;
  const visits = await visitsBetween(db, { scope }, days, today, MOST + 1);
  if (visits.length > MOST)
    refuse('too-large', `More than ${MOST.toLocaleString('en-GB')} visits; choose a place or an agreement.`);
  const rows = [...group(visits, (v) => `${v.assetId}/${v.jobPlan}/${v.agreement}`).values()].map(rowOf).sort(byPlace);
  const priced = visits.filter((v) => v.price !== null);
  const prices = [
    ...rollup(
      priced,
      (own) => sum(own, (v) => v.price ?? 0),
      (v) => v.currency,
    ),
  ];
  return {
    ...{ title, year, today, rows, visits: visits.length },
    prices: prices.map(([currency, minor]) => ({ currency, minor })).sort((a, b) => ascending(a.currency, b.currency)),
  };
}
