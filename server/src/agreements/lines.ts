// Coverage lines: adding, changing and removing them, in a draft as they are, in force by an amendment that ends one line and begins another.
import { and, eq, inArray } from 'drizzle-orm';
import type { LineChange, LineTerms } from '#api/agreements/index.ts';
import { coveredAlready } from '#core/agreements/index.ts';
import type { Term } from '#core/entitlement/index.ts';
import type { AgreementId, AmendmentId, CoverageLineId } from '#core/ids.ts';
import { addDays, sayDay, type LocalDate } from '#core/time/index.ts';
import { everHeld } from '../entitlement/index.ts';
import type { Tx } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import type { agreement } from './tables.ts';
import { calendar } from '../calendars/tables.ts';
import { serviceLevel } from '../service-levels/tables.ts';
import { assetClass } from '../catalogue/tables.ts';
import { location, locationShare } from '../places/tables.ts';
import { asset } from '../assets/tables.ts';
import { coverageLine } from './tables.ts';

export type AgreementRow = typeof agreement.$inferSelect;
type LineRow = typeof coverageLine.$inferSelect;
type LineValues = typeof coverageLine.$inferInsert;
/** The amendment in the making; null for a draft. */
export type Amending = { readonly id: AmendmentId; readonly from: LocalDate } | null;

const LINES_AT_MOST = 5000;

/** Terms as columns; null stands for an empty list. */
function columnsOf(terms: Partial<LineTerms>): Partial<LineValues> {
  const { shares, serviceLevelId, kinds, excludedCauses, excludedParts, discounts, hours, priceMinor } = terms;
  return {
    ...shares,
    ...(serviceLevelId !== undefined && { serviceLevelId }),
    ...(kinds && { kinds }),
    ...(excludedCauses && { excludedCauses }),
    ...(excludedParts && { excludedParts: excludedParts.length > 0 ? excludedParts : null }),
    ...(discounts && { discounts: discounts.length > 0 ? discounts : null }),
    ...(hours !== undefined && { hours }),
    ...(priceMinor !== undefined && { priceMinor }),
  };
}

async function checkNamed(tx: Tx, terms: Partial<LineTerms>, field: string): Promise<void> {
  if (terms.serviceLevelId) {
    const [level] = await tx.db
      .select({ id: serviceLevel.id })
      .from(serviceLevel)
      .where(eq(serviceLevel.id, terms.serviceLevelId));
    if (!level) refuse('not-found', 'That service level does not exist; choose another.', `${field}.serviceLevelId`);
  }
  if (terms.hours) {
    const [known] = await tx.db
      .select({ id: calendar.id })
      .from(calendar)
      .where(eq(calendar.id, terms.hours.calendarId));
    if (!known) refuse('not-found', 'That calendar does not exist; choose another.', `${field}.hours.calendarId`);
  }
}

/** A line’s own dates; without them it runs with the agreement. Refused: an end before its start, a stretch outside the term. */
function termOf(row: AgreementRow, terms: Partial<LineTerms>, begin: LocalDate, field: string) {
  const from = terms.from ?? begin;
  const to = terms.to ?? null;
  if (to !== null && to < from)
    refuse('invalid', `The line ends (${sayDay(to)}) before it starts (${sayDay(from)}).`, `${field}.to`);
  if (from < begin) refuse('invalid', `It cannot start before ${sayDay(begin)}.`, `${field}.from`);
  if (row.termTo !== null && from > row.termTo)
    refuse('invalid', `The agreement ends on ${sayDay(row.termTo)}; start the line before that.`, `${field}.from`);
  return { termFrom: from, termTo: to };
}

type AddAsk = Extract<LineChange, { act: 'add' }>;

async function reachValues(
  tx: Tx,
  row: AgreementRow,
  reach: AddAsk['reach'],
  field: string,
): Promise<Partial<LineValues>[]> {
  switch (reach.kind) {
    case 'assets': {
      const own = await tx.db
        .select({ id: asset.id })
        .from(asset)
        .where(and(inArray(asset.id, reach.assetIds), eq(asset.customerId, row.customerId)));
      if (own.length !== new Set(reach.assetIds).size)
        refuse('invalid', 'Only assets of the agreement’s own customer can be covered.', `${field}.assetIds`);
      return own.map((a) => ({ assetId: a.id }));
    }
    case 'location': {
      const [place] = await tx.db
        .select({ path: location.path })
        .from(location)
        .where(eq(location.id, reach.locationId));
      if (!place) refuse('not-found', 'That place does not exist; choose another.', `${field}.locationId`);
      const above = place.path.split('/').flatMap((x) => (x === '' ? [] : [Number(x) as typeof reach.locationId]));
      const [shared] = await tx.db
        .select({ id: locationShare.locationId })
        .from(locationShare)
        .where(and(inArray(locationShare.locationId, above), eq(locationShare.customerId, row.customerId)))
        .limit(1);
      const [below] = shared
        ? [shared]
        : await tx.db
            .select({ id: locationShare.locationId })
            .from(locationShare)
            .innerJoin(location, eq(location.id, locationShare.locationId))
            .where(and(eq(location.parentId, reach.locationId), eq(locationShare.customerId, row.customerId)))
            .limit(1);
      if (!below)
        refuse(
          'not-allowed',
          'That place is not the customer’s; choose one of its own or shared with it.',
          `${field}.locationId`,
        );
      return [{ locationId: reach.locationId }];
    }
    case 'class': {
      const [known] = await tx.db
        .select({ id: assetClass.id })
        .from(assetClass)
        .where(eq(assetClass.id, reach.assetClassId));
      if (!known) refuse('not-found', 'That class does not exist; choose another.', `${field}.assetClassId`);
      return [{ assetClassId: reach.assetClassId }];
    }
    case 'own fleet':
      return [{ ownFleet: true }];
  }
}

const nameOf = (line: Partial<LineValues>): string =>
  line.assetId
    ? `asset ${line.assetId}`
    : line.locationId
      ? `place ${line.locationId}`
      : line.assetClassId
        ? `class ${line.assetClassId}`
        : 'own fleet';

/** Asks, by a refusal, when lines to be added name what the agreement covers already in those days. */
async function askAboutDoubles(
  tx: Tx,
  id: AgreementId,
  added: readonly Partial<LineValues>[],
  term: Term,
  field: string,
) {
  const held = (await tx.db.select().from(coverageLine).where(eq(coverageLine.agreementId, id)))
    .filter(everHeld)
    .map((l) => ({ names: nameOf(l), term: { from: l.termFrom, to: l.termTo } }));
  const doubled = coveredAlready(
    held,
    added.map((line) => ({ names: nameOf(line), term, assetId: line.assetId ?? null })),
  );
  if (doubled.length === 0) return;
  const ids = doubled.slice(0, 3).flatMap((d) => d.assetId ?? []);
  const tags = ids.length === 0 ? [] : await tx.db.select({ tag: asset.tag }).from(asset).where(inArray(asset.id, ids));
  const more = doubled.length - tags.length;
  const said = [...tags.map((t) => t.tag), ...(tags.length > 0 && more > 0 ? [`${more} more`] : [])].join(', ');
  refuse(
    'conflict',
    `${said === '' ? 'This is' : `${said}: this is`} covered by a line of this agreement already in those days. Change that line, or say that both are meant to stand: the larger share then counts.`,
    `${field}.alongside`,
  );
}

async function add(
  tx: Tx,
  row: AgreementRow,
  { reach, terms, alongside }: AddAsk,
  amending: Amending,
  field: string,
): Promise<string> {
  await checkNamed(tx, terms, `${field}.terms`);
  const term = termOf(row, terms, amending?.from ?? row.termFrom, `${field}.terms`);
  const reached = await reachValues(tx, row, reach, `${field}.reach`);
  if (!alongside) await askAboutDoubles(tx, row.id, reached, { from: term.termFrom, to: term.termTo }, field);
  const base: LineValues = {
    agreementId: row.id,
    ...term,
    labour: terms.shares.labour,
    parts: terms.shares.parts,
    travel: terms.shares.travel,
    kinds: terms.kinds,
    excludedCauses: terms.excludedCauses,
    ...columnsOf(terms),
    amendmentId: amending?.id ?? null,
  };
  await tx.db.insert(coverageLine).values(reached.map((r) => ({ ...base, ...r })));
  return `coverage added: ${reached.length === 1 ? 'one line' : `${reached.length} lines`}`;
}

async function lockLines(
  tx: Tx,
  id: AgreementId,
  lineIds: readonly CoverageLineId[],
  field: string,
): Promise<LineRow[]> {
  const rows = await tx.db
    .select()
    .from(coverageLine)
    .where(and(inArray(coverageLine.id, [...lineIds]), eq(coverageLine.agreementId, id)))
    .for('update');
  if (rows.length !== new Set(lineIds).size)
    refuse(
      'not-found',
      'A coverage line is not part of this agreement any more; look at it again.',
      `${field}.lineIds`,
    );
  return rows;
}

/** Ends a line on the day before the amendment; one that had not begun by then never holds. */
async function end(tx: Tx, line: LineRow, amending: { id: AmendmentId; from: LocalDate }): Promise<void> {
  if (line.termTo !== null && line.termTo < amending.from)
    refuse('conflict', `That line ended on ${sayDay(line.termTo)} already.`);
  await tx.db
    .update(coverageLine)
    .set({ termTo: addDays(amending.from, -1), endedById: amending.id })
    .where(eq(coverageLine.id, line.id));
}

async function change(
  tx: Tx,
  row: AgreementRow,
  ask: Extract<LineChange, { act: 'change' }>,
  amending: Amending,
  field: string,
): Promise<string> {
  await checkNamed(tx, ask.terms, `${field}.terms`);
  const lines = await lockLines(tx, row.id, ask.lineIds, field);
  for (const line of lines) {
    const dated = ask.terms.from !== undefined || ask.terms.to !== undefined;
    if (amending) {
      await end(tx, line, amending);
      const { id: _, ...kept } = line;
      const begin = line.termFrom > amending.from ? line.termFrom : amending.from;
      // A line that holds already goes on from the amendment's day.
      const asked = ask.terms.from ?? begin;
      const terms = {
        from: asked > begin ? asked : begin,
        to: ask.terms.to === undefined ? line.termTo : ask.terms.to,
      };
      await tx.db.insert(coverageLine).values({
        ...kept,
        ...columnsOf(ask.terms),
        ...termOf(row, terms, amending.from, `${field}.terms`),
        rootId: line.rootId ?? line.id,
        amendmentId: amending.id,
        endedById: null,
      });
    } else
      await tx.db
        .update(coverageLine)
        .set({
          ...columnsOf(ask.terms),
          ...(dated &&
            termOf(
              row,
              {
                from: ask.terms.from === undefined ? line.termFrom : ask.terms.from,
                to: ask.terms.to === undefined ? line.termTo : ask.terms.to,
              },
              row.termFrom,
              `${field}.terms`,
            )),
        })
        .where(eq(coverageLine.id, line.id));
  }
  return `coverage changed: ${lines.length === 1 ? 'one line' : `${lines.length} lines`}`;
}

async function remove(
  tx: Tx,
  row: AgreementRow,
  ask: Extract<LineChange, { act: 'remove' }>,
  amending: Amending,
  field: string,
): Promise<string> {
  const lines = await lockLines(tx, row.id, ask.lineIds, field);
  if (amending) for (const line of lines) await end(tx, line, amending);
  else
    await tx.db.delete(coverageLine).where(
      inArray(
        coverageLine.id,
        lines.map((l) => l.id),
      ),
    );
  return `coverage removed: ${lines.length === 1 ? 'one line' : `${lines.length} lines`}`;
}

/** Carries out changes of coverage one after the other; gives a sentence for each. */
export async function applyLineChanges(
  tx: Tx,
  row: AgreementRow,
  changes: readonly LineChange[],
  amending: Amending,
): Promise<string[]> {
  const told: string[] = [];
  for (const [i, ask] of changes.entries()) {
    const field = `changes.${i}`;
    if (ask.act === 'add') told.push(await add(tx, row, ask, amending, field));
    else if (ask.act === 'change') told.push(await change(tx, row, ask, amending, field));
    else told.push(await remove(tx, row, ask, amending, field));
  }
  const held = await tx.db
    .select({ id: coverageLine.id })
    .from(coverageLine)
    .where(eq(coverageLine.agreementId, row.id))
    .limit(LINES_AT_MOST + 1);
  if (held.length > LINES_AT_MOST)
    refuse('too-large', `At most ${LINES_AT_MOST} coverage lines are kept; cover a location or a class instead.`);
  return told;
}

/** Lines of an agreement that hold on a day or begin later; those that an amendment took back before they began are left out. */
export const stillToHold = (line: Pick<LineRow, 'termFrom' | 'termTo'>, on: LocalDate): boolean =>
  line.termTo === null || (line.termTo >= on && line.termTo >= line.termFrom);
