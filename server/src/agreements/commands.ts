// Commands on agreements: writing drafts, putting them in force, moving their stage.
import { and, eq, inArray } from 'drizzle-orm';
import type * as v from 'valibot';
import type { addCoverage, scheduleIn } from '#api/agreements.ts';
import type { Asked } from '#api/contract.ts';
import { putInForce, readTerm } from '#core/agreements.ts';
import type { AgreementStage } from '#core/entitlement/index.ts';
import type { AgreementId, AssetId, CoverageLineId, CustomerId, ScheduleId } from '#core/ids.ts';
import { parseRule, printRule } from '#core/recurrence/index.ts';
import { checkDateTerms } from '#core/upkeep/index.ts';
import { sayDay, type Instant } from '#core/time/index.ts';
import { note } from '../platform/audit.ts';
import { indexAgreements } from '../platform/finder-index.ts';
import { isTaken, type Database, type Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { announce } from '../platform/live.ts';
import { accept, refuse, stale } from '../platform/refuse.ts';
import {
  agreement,
  agreementEvent,
  asset,
  assetClass,
  calendar,
  coverageLine,
  customer,
  jobPlan,
  location,
  schedule,
  serviceLevel,
} from '../platform/tables/index.ts';
import { loadDraft, noticeDate } from './queries.ts';
import { reachOf } from './reach.ts';

type Row = typeof agreement.$inferSelect;
export type Header = {
  readonly name: string;
  readonly from: string;
  readonly to: string | null;
  readonly noticeDays: number;
  readonly reminder: string;
};

async function lockAgreement(tx: Tx, id: AgreementId): Promise<Row> {
  const [row] = await tx.db.select().from(agreement).where(eq(agreement.id, id)).for('update');
  if (!row) refuse('not-found', 'That agreement does not exist.');
  return row;
}

function mustBeDraft(row: Row): void {
  if (row.stage !== 'draft') refuse('wrong-stage', `The agreement is ${row.stage}; only a draft is changed like this.`);
}

async function tell(tx: Tx, id: AgreementId, who: Person, at: Instant, text: string): Promise<void> {
  await tx.db.insert(agreementEvent).values({ agreementId: id, at, personId: who.id, text });
  await note(tx, who, 'agreement', id, text);
  await announce(tx, 'agreements', 'upkeep');
}

export async function writeAgreement(
  database: Database,
  ask: Header & { customerId: CustomerId; requestKey: string },
  who: Person,
  now: Instant,
): Promise<AgreementId> {
  const term = accept(readTerm(ask.from, ask.to));
  try {
    return await database.transact(async (tx) => {
      const [owner] = await tx.db.select({ id: customer.id }).from(customer).where(eq(customer.id, ask.customerId));
      if (!owner) refuse('not-found', 'That customer does not exist; choose another.', 'customerId');
      const [made] = await tx.db
        .insert(agreement)
        .values({
          customerId: ask.customerId,
          name: ask.name,
          termFrom: term.from,
          termTo: term.to,
          noticeDays: ask.noticeDays,
          noticeBy: noticeDate(term.to, ask.noticeDays),
          reminder: ask.reminder,
          requestKey: ask.requestKey,
        })
        .$returningId();
      const id = made?.id as AgreementId;
      await indexAgreements(tx, [id]);
      await tell(tx, id, who, now, 'draft written');
      return id;
    });
  } catch (error) {
    if (!isTaken(error)) throw error;
    const [row] = await database.db
      .select({ id: agreement.id })
      .from(agreement)
      .where(eq(agreement.requestKey, ask.requestKey));
    if (!row) throw error;
    return row.id;
  }
}

export async function changeHeader(
  database: Database,
  id: AgreementId,
  ask: Header & { version: number },
  who: Person,
  now: Instant,
): Promise<number> {
  const term = accept(readTerm(ask.from, ask.to));
  return database.transact(async (tx) => {
    const row = await lockAgreement(tx, id);
    if (row.version !== ask.version) stale(row);
    mustBeDraft(row);
    await tx.db
      .update(agreement)
      .set({
        name: ask.name,
        termFrom: term.from,
        termTo: term.to,
        noticeDays: ask.noticeDays,
        noticeBy: noticeDate(term.to, ask.noticeDays),
        reminder: ask.reminder,
        version: row.version + 1,
      })
      .where(eq(agreement.id, id));
    await indexAgreements(tx, [id]);
    // A line that ran with the whole term goes on doing so.
    await tx.db
      .update(coverageLine)
      .set({ termFrom: term.from })
      .where(and(eq(coverageLine.agreementId, id), eq(coverageLine.termFrom, row.termFrom)));
    await tell(
      tx,
      id,
      who,
      now,
      `header changed: ${ask.name}, ${sayDay(term.from)} to ${term.to ? sayDay(term.to) : 'open end'}`,
    );
    return row.version + 1;
  });
}

type CoverageAsk = Asked<typeof addCoverage>['body'];

export async function addCoverageLines(
  database: Database,
  id: AgreementId,
  ask: CoverageAsk,
  who: Person,
  now: Instant,
): Promise<number> {
  return database.transact(async (tx) => {
    const row = await lockAgreement(tx, id);
    mustBeDraft(row);
    const { reach } = ask;
    if (ask.serviceLevelId !== null) {
      const [level] = await tx.db
        .select({ id: serviceLevel.id })
        .from(serviceLevel)
        .where(eq(serviceLevel.id, ask.serviceLevelId));
      if (!level) refuse('not-found', 'That service level does not exist; choose another.', 'serviceLevelId');
    }
    const base = {
      agreementId: id,
      termFrom: row.termFrom,
      termTo: null,
      ...ask.shares,
      serviceLevelId: ask.serviceLevelId,
      kinds: ask.kinds,
      excludedCauses: ask.excludedCauses,
    };
    let values: (typeof coverageLine.$inferInsert)[];
    if (reach.kind === 'assets') {
      const own = await tx.db
        .select({ id: asset.id })
        .from(asset)
        .where(and(inArray(asset.id, reach.assetIds), eq(asset.customerId, row.customerId)));
      if (own.length !== new Set(reach.assetIds).size)
        refuse('invalid', 'Only assets of the agreement’s own customer can be covered.', 'reach.assetIds');
      values = own.map((a) => ({ ...base, assetId: a.id }));
    } else if (reach.kind === 'location') {
      const [place] = await tx.db.select({ id: location.id }).from(location).where(eq(location.id, reach.locationId));
      if (!place) refuse('not-found', 'That place does not exist; choose another.', 'reach.locationId');
      values = [{ ...base, locationId: reach.locationId }];
    } else {
      const [known] = await tx.db
        .select({ id: assetClass.id })
        .from(assetClass)
        .where(eq(assetClass.id, reach.assetClassId));
      if (!known) refuse('not-found', 'That class does not exist; choose another.', 'reach.assetClassId');
      values = [{ ...base, assetClassId: reach.assetClassId }];
    }
    await tx.db.insert(coverageLine).values(values);
    await tell(tx, id, who, now, `coverage added: ${values.length === 1 ? 'one line' : `${values.length} lines`}`);
    return values.length;
  });
}

export async function removeCoverageLine(
  database: Database,
  id: AgreementId,
  line: CoverageLineId,
  who: Person,
  now: Instant,
): Promise<void> {
  await database.transact(async (tx) => {
    mustBeDraft(await lockAgreement(tx, id));
    const [gone] = await tx.db
      .delete(coverageLine)
      .where(and(eq(coverageLine.id, line), eq(coverageLine.agreementId, id)));
    if (gone.affectedRows === 0) refuse('not-found', 'That coverage line is not part of this agreement.');
    await tell(tx, id, who, now, 'coverage line removed');
  });
}

export async function addSchedules(
  database: Database,
  id: AgreementId,
  ask: v.InferOutput<typeof scheduleIn>,
  who: Person,
  now: Instant,
): Promise<number> {
  const rule = accept(parseRule(ask.rule));
  accept(
    checkDateTerms({
      rule,
      anchor: ask.anchor,
      convention: ask.convention,
      earlyDays: ask.earlyDays,
      lateDays: ask.lateDays,
      lead: ask.lead,
      leadUnit: ask.leadUnit,
    }),
  );
  return database.transact(async (tx) => {
    const row = await lockAgreement(tx, id);
    mustBeDraft(row);
    const [plan] = await tx.db
      .select({ id: jobPlan.id, name: jobPlan.name })
      .from(jobPlan)
      .where(eq(jobPlan.id, ask.jobPlanId));
    if (!plan) refuse('not-found', 'That job plan does not exist; choose another.', 'jobPlanId');
    if (ask.calendarId !== null) {
      const [known] = await tx.db.select({ id: calendar.id }).from(calendar).where(eq(calendar.id, ask.calendarId));
      if (!known) refuse('not-found', 'That calendar does not exist; choose another.', 'calendarId');
    }
    const covered = new Set((await reachOf(tx.db, id, row.customerId)).flatMap((r) => r.assetIds));
    const wanted: AssetId[] = ask.assetIds === 'all covered' ? [...covered] : [...new Set(ask.assetIds)];
    if (wanted.length === 0) refuse('missing', 'The agreement covers no asset yet; add coverage first.', 'assetIds');
    const outside = wanted.filter((a) => !covered.has(a));
    if (outside.length > 0)
      refuse(
        'invalid',
        `${outside.length} of these assets are not covered by the agreement; add coverage first.`,
        'assetIds',
      );
    await tx.db.insert(schedule).values(
      wanted.map((assetId) => ({
        agreementId: id,
        assetId,
        jobPlanId: ask.jobPlanId,
        rule: printRule(rule),
        anchor: ask.anchor,
        convention: ask.convention,
        calendarId: ask.calendarId,
        earlyDays: ask.earlyDays,
        lateDays: ask.lateDays,
        leadDays: ask.lead,
        leadUnit: ask.leadUnit,
      })),
    );
    await tell(
      tx,
      id,
      who,
      now,
      `${plan.name} scheduled for ${wanted.length === 1 ? 'one asset' : `${wanted.length} assets`}`,
    );
    return wanted.length;
  });
}

export async function removeSchedule(
  database: Database,
  id: AgreementId,
  scheduleId: ScheduleId,
  who: Person,
  now: Instant,
): Promise<void> {
  await database.transact(async (tx) => {
    mustBeDraft(await lockAgreement(tx, id));
    const [gone] = await tx.db.delete(schedule).where(and(eq(schedule.id, scheduleId), eq(schedule.agreementId, id)));
    if (gone.affectedRows === 0) refuse('not-found', 'That schedule is not part of this agreement.');
    await tell(tx, id, who, now, 'schedule removed');
  });
}

export async function setInForce(
  database: Database,
  id: AgreementId,
  version: number,
  who: Person,
  now: Instant,
): Promise<number> {
  return database.transact(async (tx) => {
    const row = await lockAgreement(tx, id);
    if (row.version !== version) stale(row);
    accept(putInForce(await loadDraft(tx.db, row)));
    await tx.db
      .update(agreement)
      .set({ stage: 'in force', version: row.version + 1 })
      .where(eq(agreement.id, id));
    await tell(tx, id, who, now, 'put in force');
    return row.version + 1;
  });
}

/** From which stage each stage may be reached; ended is final. */
const FROM: Record<Exclude<AgreementStage, 'draft'>, readonly AgreementStage[]> = {
  suspended: ['in force'],
  'in force': ['suspended'],
  ended: ['in force', 'suspended'],
};

export async function moveStage(
  database: Database,
  id: AgreementId,
  ask: { version: number; to: 'suspended' | 'in force' | 'ended'; reason: string },
  who: Person,
  now: Instant,
): Promise<number> {
  return database.transact(async (tx) => {
    const row = await lockAgreement(tx, id);
    if (row.version !== ask.version) stale(row);
    if (!FROM[ask.to].includes(row.stage))
      refuse(
        'wrong-stage',
        `The agreement is ${row.stage}; it cannot become ${ask.to}. ${row.stage === 'draft' ? 'Put it in force through its checklist.' : ''}`.trim(),
      );
    await tx.db
      .update(agreement)
      .set({ stage: ask.to, version: row.version + 1 })
      .where(eq(agreement.id, id));
    await tell(tx, id, who, now, `${row.stage} → ${ask.to}: ${ask.reason}`);
    return row.version + 1;
  });
}
