// Amendments: what holds from a day on, shown before it is made, and two versions side by side.
import { and, asc, desc, eq, inArray, lte } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type { amend as amendContract } from '#api/agreements/index.ts';
import {
  BILLING_MONTHS,
  billingPeriods,
  checkAmendment,
  compareVersions,
  noticeDate,
  readTerm,
  type HeldVersion,
} from '#core/agreements/index.ts';
import { COST_ELEMENTS, decideEntitlement, holdsOn, sayVerdict } from '#core/entitlement/index.ts';
import type { AgreementId, AmendmentId, AssetId } from '#core/ids.ts';
import { sayMoney } from '#core/money.ts';
import { addMonths, localDateAt, parseLocalDate, sayDay, type Instant, type LocalDate } from '#core/time/index.ts';
import { calendarBook } from '../calendars/index.ts';
import type { Database, Db, Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { previewed } from '../platform/preview.ts';
import { accept, refuse, stale } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import { asset } from '../assets/tables.ts';
import { agreement, agreementAmendment } from './tables.ts';
import { coversOf, serviceLevelsOf, everHeld, reachOf } from '../entitlement/index.ts';
import { lockAgreement, tell } from './acts.ts';
import { applyLineChanges, type AgreementRow } from './lines.ts';

type Ask = Omit<Asked<typeof amendContract>['body'], 'version'>;

/** The header in words, as versions are compared by it. */
export async function headerWords(db: Db, row: AgreementRow): Promise<Record<string, string>> {
  const [manager] =
    row.managerId === null
      ? []
      : await db.select({ name: person.name }).from(person).where(eq(person.id, row.managerId));
  return {
    name: row.name,
    term: `${sayDay(row.termFrom)} to ${row.termTo ? sayDay(row.termTo) : 'open end'}`,
    notice: `${row.noticeDays} days`,
    renewal:
      row.renewalMode === 'renews by itself' ? `renews by itself for ${row.renewalMonths} months` : row.renewalMode,
    price:
      row.priceMinor === null
        ? 'none for the whole'
        : `${sayMoney({ minor: row.priceMinor, currency: row.currency })} per ${row.billingPer}`,
    billed: row.billingTiming,
    'account manager': manager?.name ?? 'nobody',
    'cost centre': row.costCentre || 'none',
    ...(row.signOff && { 'signed for': 'by the customer' }),
  };
}

/** The first version is kept when the agreement is put in force; agreements from before that get theirs when first amended. */
export async function keepFirstVersion(tx: Tx, row: AgreementRow, who: Person | null, now: Instant): Promise<void> {
  await tx.db
    .insert(agreementAmendment)
    .values({
      agreementId: row.id,
      number: 0,
      holdsFrom: row.termFrom,
      reason: 'as put in force',
      header: await headerWords(tx.db, row),
      priceMinor: row.priceMinor,
      at: now,
      personId: who?.id ?? null,
    })
    .onDuplicateKeyUpdate({ set: { number: 0 } });
}

async function newestAmendment(db: Db, id: AgreementId) {
  const [row] = await db
    .select()
    .from(agreementAmendment)
    .where(eq(agreementAmendment.agreementId, id))
    .orderBy(desc(agreementAmendment.number))
    .limit(1);
  return row && row.number > 0 ? row : null;
}

/** First day of the newest billing period that has fallen due; null when nothing is billed by period. */
function billedFrom(row: AgreementRow, today: LocalDate): LocalDate | null {
  if (row.billingPer === 'visit') return null;
  const months = BILLING_MONTHS[row.billingPer];
  const begun = billingPeriods({ from: row.termFrom, to: row.termTo }, months, addMonths(today, -2 * months), today);
  const due = begun.filter((p) => (row.billingTiming === 'in advance' ? p.from : p.to) <= today).at(-1);
  return due ? due.from : null;
}

/** The header as it stands from the amendment on; what changes is said in `told`. */
function amendedHeader(row: AgreementRow, ask: Ask, from: LocalDate, told: string[]): AgreementRow {
  const { noticeDays, renewalMode, renewalMonths } = ask;
  const next = { ...row };
  if (ask.priceMinor !== undefined) {
    next.priceMinor = ask.priceMinor;
    told.push(
      `price ${ask.priceMinor === null ? 'none' : sayMoney({ minor: ask.priceMinor, currency: row.currency })}`,
    );
  }
  if (ask.to !== undefined) {
    const term = accept(readTerm(row.termFrom, ask.to));
    if (term.to !== null && term.to < from)
      refuse('invalid', `The amendment holds from ${sayDay(from)}; end the term on that day or later.`, 'to');
    next.termTo = term.to;
    next.noticeBy = noticeDate(term.to, row.noticeDays);
    next.renewalDecision = null;
    told.push(`term to ${term.to ? sayDay(term.to) : 'open end'}`);
  }
  if (noticeDays !== undefined || renewalMode !== undefined || renewalMonths !== undefined) {
    next.noticeDays = noticeDays ?? row.noticeDays;
    next.renewalMode = renewalMode ?? row.renewalMode;
    next.renewalMonths = renewalMonths ?? row.renewalMonths;
    next.noticeBy = noticeDate(next.termTo, next.noticeDays);
    next.renewalDecision = null;
    told.push(`notice ${next.noticeDays} days, ${next.renewalMode}`);
  }
  return next;
}

/** Everything an amendment writes; its preview runs the same and rolls back. */
export async function amendIn(
  tx: Tx,
  row: AgreementRow,
  ask: Ask,
  who: Person,
  now: Instant,
): Promise<{ warnings: string[]; from: LocalDate; told: string }> {
  const today = localDateAt(who.zone, now);
  const from =
    parseLocalDate(ask.from) ?? refuse('invalid', `“${ask.from}” is not a date; write it as 2026-12-01.`, 'from');
  const newest = await newestAmendment(tx.db, row.id);
  const { warnings } = accept(
    checkAmendment({
      stage: row.stage,
      term: { from: row.termFrom, to: row.termTo },
      newest: newest?.holdsFrom ?? null,
      from,
      today,
      billedFrom: row.priceMinor === null ? null : billedFrom(row, today),
    }),
  );
  const { changes, priceMinor, to, noticeDays, renewalMode, renewalMonths } = ask;
  const terms = [priceMinor, to, noticeDays, renewalMode, renewalMonths];
  if (changes.length === 0 && terms.every((t) => t === undefined))
    refuse('missing', 'Change something: coverage, the price, the term, its notice or its renewal.', 'changes');
  await keepFirstVersion(tx, row, null, now);
  const [made] = await tx.db
    .insert(agreementAmendment)
    .values({
      agreementId: row.id,
      number: (newest?.number ?? 0) + 1,
      holdsFrom: from,
      reason: ask.reason,
      header: {},
      at: now,
      personId: who.id,
    })
    .$returningId();
  const id = made?.id as AmendmentId;
  const told = await applyLineChanges(tx, row, ask.changes, { id, from });
  const next = { ...amendedHeader(row, ask, from, told), version: row.version + 1 };
  await tx.db
    .update(agreement)
    .set({
      priceMinor: next.priceMinor,
      termTo: next.termTo,
      noticeBy: next.noticeBy,
      noticeDays: next.noticeDays,
      renewalMode: next.renewalMode,
      renewalMonths: next.renewalMonths,
      renewalDecision: next.renewalDecision,
      version: next.version,
    })
    .where(eq(agreement.id, row.id));
  await tx.db
    .update(agreementAmendment)
    .set({ header: await headerWords(tx.db, next), priceMinor: next.priceMinor })
    .where(eq(agreementAmendment.id, id));
  return { warnings, from, told: `amended from ${sayDay(from)}: ${ask.reason} (${told.join('; ')})` };
}

export async function amend(
  database: Database,
  id: AgreementId,
  ask: Ask & { version: number },
  who: Person,
  now: Instant,
): Promise<number> {
  return database.transact(async (tx) => {
    const row = await lockAgreement(tx, id);
    if (row.version !== ask.version) stale(row);
    const { told } = await amendIn(tx, row, ask, who, now);
    await tell(tx, id, who, now, told);
    return row.version + 1;
  });
}

const percent = (n: number): string => `${n} %`;

/** The agreement as it held on a day, in words. */
export async function heldOn(db: Db, row: AgreementRow, on: LocalDate): Promise<HeldVersion> {
  const [version] = await db
    .select({ header: agreementAmendment.header })
    .from(agreementAmendment)
    .where(and(eq(agreementAmendment.agreementId, row.id), lte(agreementAmendment.holdsFrom, on)))
    .orderBy(desc(agreementAmendment.number))
    .limit(1);
  const reach = await reachOf(
    db,
    row.id,
    row.customerId,
    (l) => everHeld(l) && holdsOn({ from: l.termFrom, to: l.termTo }, on),
  );
  const [levels, book] = await Promise.all([
    serviceLevelsOf(db, [...new Set(reach.flatMap((r) => r.line.serviceLevelId ?? []))]),
    calendarBook(db),
  ]);
  return {
    header: version?.header ?? (await headerWords(db, row)),
    lines: reach.map(({ line, label }) => ({
      root: line.rootId ?? line.id,
      label,
      terms: {
        ...Object.fromEntries(COST_ELEMENTS.map((e) => [e, percent(line[e])])),
        'service level': levels.find((l) => l.id === line.serviceLevelId)?.name ?? 'none',
        'work included': line.kinds.join(', '),
        'causes left out': line.excludedCauses.join(', ') || 'none',
        'parts left out': (line.excludedParts ?? []).join(', ') || 'none',
        discounts:
          (line.discounts ?? []).map((d) => `${d.percent} % off ${d.element} of ${d.kinds.join(', ')}`).join('; ') ||
          'none',
        'labour hours': line.hours
          ? `${book.calendarOf(line.hours.calendarId).name}; outside ${line.hours.shareOutside} % and ${line.hours.surchargePercent} % surcharge`
          : 'any hour',
        price:
          line.priceMinor === null ? 'none of its own' : sayMoney({ minor: line.priceMinor, currency: row.currency }),
      },
    })),
  };
}

export async function compareOn(db: Db, id: AgreementId, a: LocalDate, b: LocalDate) {
  const [row] = await db.select().from(agreement).where(eq(agreement.id, id));
  if (!row) refuse('not-found', 'That agreement does not exist.');
  return compareVersions(await heldOn(db, row, a), await heldOn(db, row, b));
}

const COVERS_SHOWN = 100;
const COVERS_LOOKED_AT = 5000;

async function coversAt(
  db: Db,
  row: AgreementRow,
  on: LocalDate,
): Promise<Map<AssetId, { tag: string; cover: string }>> {
  const assets = await db
    .select({ id: asset.id, tag: asset.tag })
    .from(asset)
    .where(and(eq(asset.customerId, row.customerId), inArray(asset.state, ['in service', 'out of service'])))
    .orderBy(asc(asset.tag))
    .limit(COVERS_LOOKED_AT);
  const subjects = await coversOf(
    db,
    assets.map((a) => a.id),
  );
  return new Map(
    assets.map(({ id, tag }) => {
      const subject = subjects.get(id);
      const verdict =
        subject &&
        decideEntitlement({ asset: subject.assetOn(on), on, kind: 'repair', cause: 'wear' }, subject.coversOn(on));
      return [id, { tag, cover: verdict ? sayVerdict(verdict) : 'no cover' }];
    }),
  );
}

/** Carries the amendment out, compares, and rolls back. */
export async function previewAmendment(database: Database, id: AgreementId, ask: Ask, who: Person, now: Instant) {
  const work = async (tx: Tx) => {
    const row = await lockAgreement(tx, id);
    const on = parseLocalDate(ask.from) ?? row.termFrom;
    const [before, was] = [await heldOn(tx.db, row, on), await coversAt(tx.db, row, on)];
    const { warnings } = await amendIn(tx, row, ask, who, now);
    const [after, is] = [await heldOn(tx.db, { ...row, version: row.version + 1 }, on), await coversAt(tx.db, row, on)];
    const comparison = compareVersions(before, after);
    const changed = [...was].flatMap(([assetId, { tag, cover }]) => {
      const then = is.get(assetId)?.cover ?? 'no cover';
      return then === cover ? [] : [{ assetId, tag, before: cover, after: then }];
    });
    return { warnings, comparison, covers: changed.slice(0, COVERS_SHOWN), coversTotal: changed.length };
  };
  return previewed(database, work);
}
