// The terms of agreements: what a coverage line gives, which machines it reaches, and the header beside name and dates.
import * as v from 'valibot';
import { BILLING_PERIODS, BILLING_TIMINGS, RENEWAL_MODES } from '#core/agreements/index.ts';
import { CAUSES, COST_ELEMENTS } from '#core/entitlement/index.ts';
import type {
  AgreementId,
  AssetClassId,
  AssetId,
  CalendarId,
  CoverageLineId,
  LocationId,
  PersonId,
  ServiceLevelId,
} from '#core/ids.ts';
import { ORDER_KINDS } from '#core/orders/index.ts';
import { idOf, idText, localDateText, minor, shortText } from '../shapes.ts';

export const params = v.object({ id: idText<AgreementId>() });
export const percent = v.pipe(
  v.number(),
  v.integer(),
  v.minValue(0, 'From 0 to 100 %.'),
  v.maxValue(100, 'From 0 to 100 %.'),
);
export const shares = v.object({ labour: percent, parts: percent, consumables: percent, travel: percent });
export const kinds = v.pipe(v.array(v.picklist(ORDER_KINDS)), v.minLength(1, 'Choose at least one kind of work.'));
export const discounts = v.pipe(
  v.array(v.object({ element: v.picklist(COST_ELEMENTS), percent, kinds })),
  v.maxLength(20, 'At most 20 discounts.'),
);
export const parts = v.pipe(v.array(shortText), v.maxLength(50, 'At most 50 parts.'));

/** What one coverage line gives. Amounts of money are whole minor units. */
export const lineTerms = v.object({
  shares,
  serviceLevelId: v.nullable(idOf<ServiceLevelId>()),
  kinds,
  excludedCauses: v.array(v.picklist(CAUSES)),
  excludedParts: parts,
  discounts,
  hours: v.nullable(
    v.object({
      calendarId: idOf<CalendarId>(),
      shareOutside: percent,
      surchargePercent: v.pipe(
        v.number(),
        v.integer(),
        v.minValue(0, 'From 0 to 300 %.'),
        v.maxValue(300, 'From 0 to 300 %.'),
      ),
    }),
  ),
  priceMinor: v.nullable(minor),
  /** Null: as long as the agreement. */
  from: v.nullable(localDateText),
  to: v.nullable(localDateText),
});
export type LineTerms = v.InferOutput<typeof lineTerms>;

export const reachIn = v.variant('kind', [
  v.object({
    kind: v.literal('assets'),
    assetIds: v.pipe(v.array(idOf<AssetId>()), v.minLength(1, 'Pick at least one asset.'), v.maxLength(500)),
  }),
  v.object({ kind: v.literal('location'), locationId: idOf<LocationId>() }),
  v.object({ kind: v.literal('class'), assetClassId: idOf<AssetClassId>() }),
  v.object({ kind: v.literal('own fleet') }),
]);

export const lineChange = v.variant('act', [
  v.object({
    act: v.literal('add'),
    reach: reachIn,
    terms: lineTerms,
    /** Meant to stand beside a line that names the same for the same days; without it that is refused, as a question. */
    alongside: v.optional(v.boolean()),
  }),
  v.object({
    act: v.literal('change'),
    lineIds: v.pipe(v.array(idOf<CoverageLineId>()), v.minLength(1), v.maxLength(500)),
    terms: v.partial(lineTerms),
  }),
  v.object({
    act: v.literal('remove'),
    lineIds: v.pipe(v.array(idOf<CoverageLineId>()), v.minLength(1), v.maxLength(500)),
  }),
]);
export type LineChange = v.InferOutput<typeof lineChange>;

/** Header fields beside name, term, notice and reminder. */
export const headerTerms = {
  renewalMode: v.picklist(RENEWAL_MODES),
  renewalMonths: v.pipe(
    v.number(),
    v.integer(),
    v.minValue(1, 'At least one month.'),
    v.maxValue(120, 'At most 120 months.'),
  ),
  managerId: v.nullable(idOf<PersonId>()),
  costCentre: v.pipe(v.string(), v.trim(), v.maxLength(40, 'At most 40 characters.')),
  currency: v.pipe(v.string(), v.regex(/^[A-Z]{3}$/, 'Three capital letters, such as EUR.')),
  priceMinor: v.nullable(minor),
  billingPer: v.picklist(BILLING_PERIODS),
  billingTiming: v.picklist(BILLING_TIMINGS),
  indexation: v.nullable(
    v.object({
      fixedPercent: v.pipe(v.number(), v.integer()),
      base: v.pipe(v.number(), v.integer()),
      values: v.pipe(
        v.array(v.object({ from: localDateText, hundredths: v.pipe(v.number(), v.integer()) })),
        v.maxLength(100, 'At most 100 values.'),
      ),
    }),
  ),
  /** Whether the customer signs for work under it. */
  signOff: v.boolean(),
  suspendedCover: v.boolean(),
  suspendedVisits: v.boolean(),
  suspendedBilling: v.boolean(),
};
