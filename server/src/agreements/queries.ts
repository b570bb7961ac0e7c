// Reading an agreement: its page, and the draft as the core’s checklist wants it.
import { asc, count, desc, eq, inArray } from 'drizzle-orm';
import type { AgreementPage } from '#api/agreements/index.ts';
import { readinessOf, sayRenewal, type AgreementDraft } from '#core/agreements/index.ts';
import { COST_ELEMENTS, holdsOn, sayAllowance } from '#core/entitlement/index.ts';
import type { AgreementId, CalendarId } from '#core/ids.ts';
import { printRule } from '#core/recurrence/index.ts';
import { cadenceOf, previewVisits, sayCadence } from '#core/upkeep/index.ts';
import { localDateAt, type Instant, type LocalDate, type Zone } from '#core/time/index.ts';
import { calendarBook, type CalendarBook } from '../calendars/index.ts';
import type { Db } from '../platform/database.ts';
import { placesOf } from '../places/index.ts';
import { refuse } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import { jobPlan } from '../catalogue/tables.ts';
import { contact, customer } from '../customers/tables.ts';
import { location } from '../places/tables.ts';
import { asset } from '../assets/tables.ts';
import { agreement, agreementAmendment, agreementContact, agreementEvent } from './tables.ts';
import { schedule } from '../upkeep/tables.ts';
import {
  allowanceState,
  reachOfLine,
  serviceLevelsOf,
  everHeld,
  reachOf,
  type LineReach,
} from '../entitlement/index.ts';
import { assetRows } from '../assets/index.ts';
import { threadStretch, type Lane } from '../platform/lanes.ts';
import { headOn } from './head.ts';
import { stillToHold } from './lines.ts';
import { renewalFactsOf } from './renewal-facts.ts';

type ScheduleRow = {
  schedule: typeof schedule.$inferSelect;
  tag: string;
  jobPlan: string;
  minutes: number;
  /** The schedule’s own calendar, else its place’s. */
  calendarId: CalendarId | null;
};

async function schedulesOf(db: Db, id: AgreementId): Promise<ScheduleRow[]> {
  const rows = await db
    .select({
      schedule,
      tag: asset.tag,
      jobPlan: jobPlan.name,
      minutes: jobPlan.minutes,
      locationId: asset.locationId,
      path: location.path,
    })
    .from(schedule)
    .innerJoin(asset, eq(asset.id, schedule.assetId))
    .innerJoin(jobPlan, eq(jobPlan.id, schedule.jobPlanId))
    .leftJoin(location, eq(location.id, asset.locationId))
    .where(eq(schedule.agreementId, id))
    .orderBy(asc(asset.tag), asc(schedule.id));
  const places = await placesOf(
    db,
    rows.map((r) => ({ id: r.locationId, path: r.path })),
  );
  return rows.map(({ locationId, path: _, ...r }) => ({
    ...r,
    calendarId: r.schedule.calendarId ?? places.of(locationId).calendar?.value ?? null,
  }));
}

/** The agreement as the checklist sees it; putting it in force uses the same. */
export async function draftOf(
  db: Db,
  book: CalendarBook,
  row: typeof agreement.$inferSelect,
  reach: readonly LineReach[],
  schedules: readonly ScheduleRow[],
): Promise<AgreementDraft> {
  const ids = [...new Set(reach.flatMap((r) => r.assetIds))];
  const assets =
    ids.length === 0
      ? []
      : await db
          .select({ id: asset.id, locationId: asset.locationId, path: location.path })
          .from(asset)
          .leftJoin(location, eq(location.id, asset.locationId))
          .where(inArray(asset.id, ids));
  const places = await placesOf(
    db,
    assets.map((a) => ({ id: a.locationId, path: a.path })),
  );
  const zoneless = new Set(assets.filter((a) => places.of(a.locationId).zone === null).map((a) => a.id));
  const levels = await serviceLevelsOf(db, [
    ...new Set(reach.flatMap((r) => (r.line.serviceLevelId === null ? [] : [r.line.serviceLevelId]))),
  ]);
  const promisesOf = (r: LineReach): number | null => {
    const level = levels.find((l) => l.id === r.line.serviceLevelId);
    return level ? Object.values(level.targets).reduce((n, p) => n + Object.keys(p ?? {}).length, 0) : null;
  };
  const [named] = await db
    .select({ n: count() })
    .from(agreementContact)
    .where(eq(agreementContact.agreementId, row.id));
  return {
    stage: row.stage,
    terms: {
      priced: row.priceMinor !== null || reach.some((r) => r.line.priceMinor !== null),
      billing: `per ${row.billingPer}, ${row.billingTiming}`,
      contacts: named?.n ?? 0,
      managed: row.managerId !== null,
      noticeDays: row.noticeDays,
      renewal: row.renewalMode === 'to be renegotiated' ? 'is to be renegotiated' : row.renewalMode,
    },
    term: { from: row.termFrom, to: row.termTo },
    lines: reach.map((r) => ({
      label: r.label,
      assetsReached: r.assetIds.length,
      assetsWithoutZone: r.assetIds.filter((id) => zoneless.has(id)).length,
      // A line that only takes something off the price promises nothing.
      coversRepair: r.line.kinds.includes('repair') && COST_ELEMENTS.some((e) => r.line[e] > 0),
      promises: promisesOf(r),
      term: { from: r.line.termFrom, to: r.line.termTo },
    })),
    schedules: schedules.map((s) => ({
      label: `${s.jobPlan} of ${s.tag}`,
      minutes: s.minutes,
      cadence: cadenceOf(s.schedule, () => s.minutes),
      workingDayEver: book.workingDays(s.calendarId).move(s.schedule.anchor, 'following') !== null,
    })),
  };
}

export async function loadDraft(db: Db, row: typeof agreement.$inferSelect): Promise<AgreementDraft> {
  const [reach, schedules, book] = await Promise.all([
    reachOf(db, row.id, row.customerId),
    schedulesOf(db, row.id),
    calendarBook(db),
  ]);
  return draftOf(db, book, row, reach, schedules);
}

const THREADS_SHOWN = 100;

type Row = typeof agreement.$inferSelect;
type Schedule = Awaited<ReturnType<typeof schedulesOf>>[number];

/** What is told of an agreement beside its terms: amendments, contacts, and its latest events. */
async function toldOf(db: Db, id: AgreementId) {
  const [amendments, contacts, events] = await Promise.all([
    db
      .select({
        number: agreementAmendment.number,
        from: agreementAmendment.holdsFrom,
        reason: agreementAmendment.reason,
        at: agreementAmendment.at,
        who: person.name,
      })
      .from(agreementAmendment)
      .leftJoin(person, eq(person.id, agreementAmendment.personId))
      .where(eq(agreementAmendment.agreementId, id))
      .orderBy(desc(agreementAmendment.number))
      .limit(200),
    db
      .select({ id: contact.id, name: contact.name, role: contact.role, phone: contact.phone })
      .from(agreementContact)
      .innerJoin(contact, eq(contact.id, agreementContact.contactId))
      .where(eq(agreementContact.agreementId, id))
      .orderBy(asc(contact.name)),
    db
      .select({ at: agreementEvent.at, who: person.name, text: agreementEvent.text })
      .from(agreementEvent)
      .leftJoin(person, eq(person.id, agreementEvent.personId))
      .where(eq(agreementEvent.agreementId, id))
      .orderBy(desc(agreementEvent.at), desc(agreementEvent.id))
      .limit(50),
  ]);
  return { amendments, contacts, events };
}

/** The header as the page has it. */
const headerOut = (row: Row, manager: string | null, today: LocalDate) => ({
  version: row.version,
  number: row.number,
  name: row.name,
  stage: row.stage,
  from: row.termFrom,
  to: row.termTo,
  noticeDays: row.noticeDays,
  noticeBy: row.noticeBy,
  reminder: row.reminder,
  renewalMode: row.renewalMode,
  renewalMonths: row.renewalMonths,
  renewalDecision: row.renewalDecision,
  renewal: sayRenewal(renewalFactsOf(row), today),
  managerId: row.managerId,
  manager: row.managerId === null || manager === null ? null : { id: row.managerId, name: manager },
  costCentre: row.costCentre,
  currency: row.currency,
  priceMinor: row.priceMinor,
  billingPer: row.billingPer,
  billingTiming: row.billingTiming,
  indexation: row.indexation && { ...row.indexation, values: [...row.indexation.values] },
  typeId: row.typeId,
  signOff: row.signOff,
  suspendedCover: row.suspendedCover,
  suspendedVisits: row.suspendedVisits,
  suspendedBilling: row.suspendedBilling,
});

/** A line as the page has it; `levels` names the service levels. */
const lineOut = ({ line, label, assetIds }: LineReach, levels: readonly { id: number; name: string }[]) => {
  const level = levels.find((l) => l.id === line.serviceLevelId);
  return {
    id: line.id,
    label,
    reach: reachOfLine(line).kind,
    terms: {
      shares: { labour: line.labour, parts: line.parts, consumables: line.consumables, travel: line.travel },
      serviceLevelId: line.serviceLevelId,
      kinds: line.kinds,
      excludedCauses: line.excludedCauses,
      excludedParts: line.excludedParts ?? [],
      discounts: (line.discounts ?? []).map((d) => ({ ...d, kinds: [...d.kinds] })),
      hours: line.hours,
      priceMinor: line.priceMinor,
      from: line.termFrom,
      to: line.termTo,
    },
    serviceLevel: level ? { id: level.id, name: level.name } : null,
    assetsReached: assetIds.length,
  };
};

/** A schedule as the page has it, with when it is due next inside the term. */
function scheduleOut(s: Schedule, row: Row, book: CalendarBook, today: LocalDate) {
  const cadence = cadenceOf(s.schedule, () => s.minutes);
  const begins = [today, row.termFrom, s.schedule.holdsFrom ?? today].reduce((a, b) => (a > b ? a : b));
  const { leadDays, leadUnit, earlyDays, lateDays, convention, anchor, weekday } = s.schedule;
  const terms = { convention, earlyDays, lateDays, lead: leadDays, leadUnit, weekday };
  const next =
    cadence.kind === 'since service'
      ? undefined
      : previewVisits(cadence, terms, book.workingDays(s.calendarId), begins, 1)[0];
  return {
    id: s.schedule.id,
    assetId: s.schedule.assetId,
    tag: s.tag,
    jobPlan: s.jobPlan,
    minutes: s.minutes,
    rule: cadence.kind === 'rule' ? printRule(cadence.rule) : '',
    anchor,
    sentence: sayCadence(cadence),
    window: `${earlyDays} days early to ${lateDays} late`,
    lead: `${leadDays} ${leadUnit}`,
    next: next && (row.termTo === null || next.nominal <= row.termTo) ? next.due : null,
  };
}

export async function readAgreement(
  db: Db,
  lanes: readonly Lane[],
  id: AgreementId,
  now: Instant,
  reader: Zone,
  asked?: LocalDate,
): Promise<AgreementPage> {
  const [found] = await db
    .select({ row: agreement, customer: customer.name, manager: person.name })
    .from(agreement)
    .innerJoin(customer, eq(customer.id, agreement.customerId))
    .leftJoin(person, eq(person.id, agreement.managerId))
    .where(eq(agreement.id, id));
  if (!found) refuse('not-found', 'That agreement does not exist.');
  const { row } = found;
  const book = await calendarBook(db);
  const today = localDateAt(reader, now);
  const on = asked ?? today;
  const shows = (line: LineReach['line']): boolean => {
    if (row.stage === 'draft') return true;
    // On a day of the past or future only what holds then; today also what is to come.
    const held = { from: line.termFrom, to: line.termTo };
    return asked === undefined ? stillToHold(line, today > row.termFrom ? today : row.termFrom) : holdsOn(held, on);
  };
  const [reach, schedules, told, allowances] = await Promise.all([
    reachOf(db, id, row.customerId, (l) => everHeld(l) && shows(l)),
    schedulesOf(db, id),
    toldOf(db, id),
    allowanceState(db, row, on),
  ]);
  const draft = await draftOf(db, book, row, reach, schedules);
  const levels = await serviceLevelsOf(db, [
    ...new Set(reach.flatMap((r) => (r.line.serviceLevelId === null ? [] : [r.line.serviceLevelId]))),
  ]);
  const ids = [...new Set(reach.flatMap((r) => r.assetIds))];
  const { from, to } = threadStretch(today, now);
  const head = await headOn(db, row, reach, on);
  return {
    ...headerOut(row, found.manager, today),
    ...told,
    id,
    head: { ...head, coming: head.coming.map((c) => ({ from: c.from, changes: [...c.changes] })) },
    customer: { id: row.customerId, name: found.customer },
    allowances: allowances.map((a) => ({ ...a, sentence: sayAllowance(a), draws: a.draws.slice(0, 50) })),
    on,
    lines: reach.map((r) => lineOut(r, levels)),
    // What went over to a machine that was swapped in is told there.
    schedules: schedules
      .filter((s) => s.schedule.holdsTo === null || s.schedule.holdsTo >= today)
      .map((s) => scheduleOut(s, row, book, today)),
    checklist: readinessOf(draft),
    assets: await assetRows(db, lanes, ids.slice(0, THREADS_SHOWN), today, now),
    assetsTotal: ids.length,
    ribbonFrom: from,
    ribbonTo: to,
    now,
  };
}

/** The page for those who see no prices: what is covered and when, without amounts and without the history that names them. */
export function withoutMoney(page: AgreementPage): AgreementPage {
  return {
    ...page,
    priceMinor: null,
    head: { today: {}, machines: page.head.machines, coming: [] },
    indexation: null,
    lines: page.lines.map((l) => ({ ...l, terms: { ...l.terms, priceMinor: null, discounts: [] } })),
    amendments: page.amendments.map((a) => ({ ...a, reason: '' })),
    checklist: [],
    events: [],
  };
}
