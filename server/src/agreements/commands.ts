// Commands on agreements: writing drafts, putting them in force, moving their stage.
import { and, eq, isNull } from 'drizzle-orm';
import type * as v from 'valibot';
import type {
  changeAgreement,
  moveStage as moveContract,
  scheduleIn,
  writeAgreement as writeContract,
  LineChange,
  setAllowances as setAllowancesContract,
} from '#api/agreements/index.ts';
import type { Asked } from '#api/contract.ts';
import { checkIndexation, noticeDate, putInForce, readTerm } from '#core/agreements/index.ts';
import { sayAmount, type AgreementStage } from '#core/entitlement/index.ts';
import type { AgreementId, AssetId, CoverageLineId, ScheduleId } from '#core/ids.ts';
import type { Currency } from '#core/money.ts';
import { localDateAt, sayDay, type Instant, type LocalDate } from '#core/time/index.ts';
import { isTaken, type Database, type Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { accept, refuse, stale } from '../platform/refuse.ts';
import { contentOf, mustBeSame } from '../platform/request-key.ts';
import { customer } from '../customers/tables.ts';
import { agreement, agreementSuspension, coverageLine } from './tables.ts';
import { allowance } from '../entitlement/tables.ts';
import { lineSchedule, schedule } from '../upkeep/tables.ts';
import { addFor, addLineSchedule, checkReferences, coveredBy, mustNotHaveEnded, termColumns } from '../upkeep/index.ts';
import { allowanceState } from '../entitlement/index.ts';
import { recordActIn } from '../orders/index.ts';
import { lockAgreement, mustBeDraft, tell } from './acts.ts';
import { keepFirstVersion } from './amend.ts';
import { checkManager, setContacts } from './administration.ts';
import { openOrderIds } from './ending.ts';
import { applyLineChanges, type AgreementRow } from './lines.ts';
import { nextNumber, takeNumber } from './numbering.ts';
import { loadDraft } from './queries.ts';
import { takeFromAgreement, takeFromType } from './types.ts';
import { indexAgreements } from './finder.ts';

export type Header = Omit<Asked<typeof changeAgreement>['body'], 'version'>;

/** Header fields as columns; what is not given stays as it is, or at its default for a new one. */
function columnsOf(ask: Header) {
  const term = accept(readTerm(ask.from, ask.to));
  const { renewalMode, renewalMonths, managerId, costCentre, priceMinor, billingPer, billingTiming } = ask;
  return {
    name: ask.name,
    termFrom: term.from,
    termTo: term.to,
    noticeDays: ask.noticeDays,
    noticeBy: noticeDate(term.to, ask.noticeDays),
    reminder: ask.reminder,
    ...(renewalMode && { renewalMode }),
    ...(renewalMonths !== undefined && { renewalMonths }),
    ...(managerId !== undefined && { managerId }),
    ...(costCentre !== undefined && { costCentre }),
    ...(ask.currency !== undefined && { currency: ask.currency as Currency }),
    ...(priceMinor !== undefined && { priceMinor }),
    ...(billingPer && { billingPer }),
    ...(billingTiming && { billingTiming }),
    ...(ask.indexation !== undefined && {
      indexation: ask.indexation === null ? null : accept(checkIndexation(ask.indexation)),
    }),
    ...(ask.signOff !== undefined && { signOff: ask.signOff }),
    ...(ask.suspendedCover !== undefined && { suspendedCover: ask.suspendedCover }),
    ...(ask.suspendedVisits !== undefined && { suspendedVisits: ask.suspendedVisits }),
    ...(ask.suspendedBilling !== undefined && { suspendedBilling: ask.suspendedBilling }),
  };
}

export async function writeAgreement(
  database: Database,
  ask: Asked<typeof writeContract>['body'],
  who: Person,
  now: Instant,
): Promise<AgreementId> {
  const header = columnsOf(ask);
  const requestContent = contentOf(ask);
  try {
    return await database.transact(async (tx) => {
      await checkManager(tx, ask.managerId);
      const [owner] = await tx.db.select({ id: customer.id }).from(customer).where(eq(customer.id, ask.customerId));
      if (!owner) refuse('not-found', 'That customer does not exist; choose another.', 'customerId');
      const [made] = await tx.db
        .insert(agreement)
        .values({
          number: ask.number
            ? await takeNumber(tx, ask.number, null)
            : await nextNumber(tx, localDateAt(who.zone, now)),
          customerId: ask.customerId,
          ...header,
          requestKey: ask.requestKey,
          requestContent,
        })
        .$returningId();
      const id = made?.id as AgreementId;
      await setContacts(tx, id, ask.customerId, ask.contactIds);
      if (ask.typeId) await takeFromType(tx, id, ask.typeId);
      const source = ask.copyOf ? await takeFromAgreement(tx, await lockAgreement(tx, id), ask.copyOf) : null;
      await indexAgreements(tx, [id]);
      await tell(tx, id, who, now, source ? `draft written as a copy of ${source}` : 'draft written');
      return id;
    });
  } catch (error) {
    if (!isTaken(error)) throw error;
    const [row] = await database.db
      .select({ id: agreement.id, content: agreement.requestContent })
      .from(agreement)
      .where(eq(agreement.requestKey, ask.requestKey));
    if (row) mustBeSame(row.content, requestContent);
    // Two at once gave the same number.
    if (!row) refuse('taken', 'That number was taken just now; give another.', 'number');
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
  const header = columnsOf(ask);
  return database.transact(async (tx) => {
    const row = await lockAgreement(tx, id);
    if (row.version !== ask.version) stale(row);
    mustBeDraft(row);
    await checkManager(tx, ask.managerId);
    await setContacts(tx, id, row.customerId, ask.contactIds);
    await tx.db
      .update(agreement)
      .set({
        ...header,
        ...(ask.number && { number: await takeNumber(tx, ask.number, id) }),
        version: row.version + 1,
      })
      .where(eq(agreement.id, id));
    await indexAgreements(tx, [id]);
    // A line that ran with the whole term goes on doing so.
    await tx.db
      .update(coverageLine)
      .set({ termFrom: header.termFrom })
      .where(and(eq(coverageLine.agreementId, id), eq(coverageLine.termFrom, row.termFrom)));
    await tell(
      tx,
      id,
      who,
      now,
      `header changed: ${ask.name}, ${sayDay(header.termFrom)} to ${header.termTo ? sayDay(header.termTo) : 'open end'}`,
    );
    return row.version + 1;
  });
}

/** Changes the coverage of a draft; what is in force is amended from a date instead. */
export async function changeLines(
  database: Database,
  id: AgreementId,
  changes: readonly LineChange[],
  who: Person,
  now: Instant,
): Promise<void> {
  await database.transact(async (tx) => {
    const row = await lockAgreement(tx, id);
    mustBeDraft(row);
    const told = await applyLineChanges(tx, row, changes, null);
    await tell(tx, id, who, now, told.join('; '));
  });
}

/** Sets the counted rights. Refused: an amount below what is drawn in the present period. */
export async function setAllowances(
  database: Database,
  id: AgreementId,
  ask: Asked<typeof setAllowancesContract>['body'],
  who: Person,
  now: Instant,
): Promise<number> {
  return database.transact(async (tx) => {
    const row = await lockAgreement(tx, id);
    if (row.version !== ask.version) stale(row);
    if (row.stage === 'ended') refuse('wrong-stage', 'The agreement has ended; nothing is counted under it any more.');
    const units = ask.allowances.map((a) => a.unit);
    if (new Set(units).size < units.length)
      refuse('taken', 'Each of visits, hours and call-outs is counted once; join the two.', 'allowances');
    const held = await allowanceState(tx.db, row, localDateAt(who.zone, now), 'lock');
    for (const old of held) {
      const next = ask.allowances.findIndex((a) => a.unit === old.unit);
      const amount = ask.allowances[next]?.amount ?? 0;
      if (old.drawn > amount + (old.granted - old.amount))
        refuse(
          'conflict',
          `${sayAmount(old.unit, old.drawn)} are drawn already; give at least that.`,
          next < 0 ? 'allowances' : `allowances.${next}.amount`,
        );
    }
    for (const a of ask.allowances)
      await tx.db
        .insert(allowance)
        .values({ ...a, agreementId: id })
        .onDuplicateKeyUpdate({ set: { amount: a.amount, period: a.period, carriesOver: a.carriesOver } });
    for (const old of held)
      if (!units.includes(old.unit)) {
        if (old.draws.length > 0)
          refuse(
            'conflict',
            `Orders drew from the ${old.unit}; set an amount of nothing instead of removing it.`,
            'allowances',
          );
        await tx.db.delete(allowance).where(eq(allowance.id, old.id));
      }
    await tx.db
      .update(agreement)
      .set({ version: row.version + 1 })
      .where(eq(agreement.id, id));
    const said = ask.allowances.map((a) => `${sayAmount(a.unit, a.amount)} per ${a.period}`).join(', ') || 'none';
    await tell(tx, id, who, now, `counted rights: ${said}`);
    return row.version + 1;
  });
}

const sayAssets = (n: number): string => (n === 1 ? 'one asset' : `${n} assets`);

/** A schedule that follows a coverage line. Refused: a line that is not the agreement’s, or that names a single machine. */
async function keepLine(
  tx: Tx,
  row: typeof agreement.$inferSelect,
  lineId: CoverageLineId,
  terms: ReturnType<typeof termColumns>,
  when: { readonly today: LocalDate; readonly now: Instant },
): Promise<number> {
  const [line] = await tx.db.select().from(coverageLine).where(eq(coverageLine.id, lineId));
  if (line?.agreementId !== row.id)
    refuse('not-found', 'That coverage line is not part of this agreement.', 'assetIds');
  if (line.assetId !== null)
    refuse('invalid', 'That line names a single machine; choose the machine itself.', 'assetIds');
  const of = { agreementId: row.id, customerId: row.customerId, isDraft: row.stage === 'draft' };
  return addLineSchedule(tx, { ...of, lineId: line.rootId ?? line.id, terms }, { ...when, hold: async () => {} });
}

export async function addSchedules(
  database: Database,
  id: AgreementId,
  ask: v.InferOutput<typeof scheduleIn>,
  who: Person,
  now: Instant,
): Promise<number> {
  const columns = termColumns(ask);
  return database.transact(async (tx) => {
    const row = await lockAgreement(tx, id);
    mustNotHaveEnded(row);
    const plan = await checkReferences(tx, ask);
    const today = localDateAt(who.zone, now);
    const { assetIds } = ask;
    if (typeof assetIds === 'object' && 'lineId' in assetIds) {
      const count = await keepLine(tx, row, assetIds.lineId, columns, { today, now });
      await tell(tx, id, who, now, `${plan} scheduled for whatever a coverage line reaches: ${sayAssets(count)} now`);
      return count;
    }
    const covered = await coveredBy(tx.db, row);
    const wanted: AssetId[] = assetIds === 'all covered' ? [...covered] : [...new Set(assetIds)];
    await addFor(tx, row, wanted, covered, columns, today);
    await tell(tx, id, who, now, `${plan} scheduled for ${sayAssets(wanted.length)}`);
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
    const own = and(eq(schedule.id, scheduleId), eq(schedule.agreementId, id));
    const [found] = await tx.db.select({ line: schedule.lineScheduleId }).from(schedule).where(own);
    if (!found) refuse('not-found', 'That schedule is not part of this agreement.');
    // One of a line would come back by itself: the line's are removed with it.
    await tx.db.delete(schedule).where(found.line === null ? own : eq(schedule.lineScheduleId, found.line));
    if (found.line !== null) await tx.db.delete(lineSchedule).where(eq(lineSchedule.id, found.line));
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
    await keepFirstVersion(tx, row, who, now);
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
  ask: Asked<typeof moveContract>['body'],
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
    const callsOff = ask.to === 'ended' && ask.openOrders === 'call off';
    const calledOff = callsOff ? await callOffUnder(tx, id, ask.reason, who, now) : 0;
    const day = localDateAt(who.zone, now);
    await keepSuspension(tx, row, ask.to, day);
    await tx.db
      .update(agreement)
      .set({ stage: ask.to, ...(ask.to === 'ended' && { endedOn: day }), version: row.version + 1 })
      .where(eq(agreement.id, id));
    const work = calledOff > 0 ? `; ${calledOff} open orders called off` : '';
    await tell(tx, id, who, now, `${row.stage} → ${ask.to}: ${ask.reason}${work}`);
    return row.version + 1;
  });
}

/** From which day to which it was suspended: its billing rests by the day. */
async function keepSuspension(tx: Tx, { id, stage }: AgreementRow, to: AgreementStage, day: LocalDate): Promise<void> {
  if (to === 'suspended') await tx.db.insert(agreementSuspension).values({ agreementId: id, fromDay: day });
  else if (stage === 'suspended')
    await tx.db
      .update(agreementSuspension)
      .set({ resumedOn: day })
      .where(and(eq(agreementSuspension.agreementId, id), isNull(agreementSuspension.resumedOn)));
}

/** Calls off everything that is open under an agreement that ends, in the transaction that ends it. */
async function callOffUnder(tx: Tx, id: AgreementId, reason: string, who: Person, now: Instant): Promise<number> {
  const ids = await openOrderIds(tx.db, id);
  for (const orderId of ids)
    await recordActIn(
      tx,
      orderId,
      {
        at: now,
        act: { kind: 'called off', text: `the agreement ended: ${reason}` },
        requestKey: `ended-${id}-${orderId}`,
        who: who.id,
      },
      now,
    );
  return ids.length;
}
