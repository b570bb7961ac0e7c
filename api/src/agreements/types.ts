// The provider’s own kinds of agreement.
import * as v from 'valibot';
import { BILLING_PERIODS, BILLING_TIMINGS, RENEWAL_MODES } from '#core/agreements/index.ts';
import { CAUSES } from '#core/entitlement/index.ts';
import type { AgreementTypeId } from '#core/ids.ts';
import { OFFICE, WRITERS } from '#core/people.ts';
import { contract } from '../contract.ts';
import { created, done, idText, longText, shortText, version } from '../shapes.ts';
import { shares, kinds, discounts, parts, headerTerms } from './terms.ts';
import { allowanceIn } from './rights.ts';

const typeTerms = v.object({
  months: v.nullable(v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(240))),
  noticeDays: v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(730)),
  renewalMode: v.picklist(RENEWAL_MODES),
  renewalMonths: headerTerms.renewalMonths,
  billingPer: v.picklist(BILLING_PERIODS),
  billingTiming: v.picklist(BILLING_TIMINGS),
  reminder: longText,
  shares,
  discounts,
  kinds,
  excludedCauses: v.array(v.picklist(CAUSES)),
  excludedParts: parts,
  allowances: v.pipe(v.array(allowanceIn), v.maxLength(3)),
});
export const agreementType = v.object({ id: v.number(), version: v.number(), name: v.string(), terms: typeTerms });
const agreementTypeIn = v.object({ name: shortText, terms: typeTerms });
export type AgreementTypeIn = v.InferInput<typeof agreementTypeIn>;
export type AgreementTypeOut = v.InferOutput<typeof agreementType>;
export const listAgreementTypes = contract({
  method: 'GET',
  path: '/api/agreement-types',
  summary: 'The provider’s kinds of agreement',
  room: 'agreements',
  may: OFFICE,
  reads: ['setup'],
  answer: v.object({ items: v.array(agreementType) }),
});
export const addAgreementType = contract({
  method: 'POST',
  path: '/api/agreement-types',
  summary: 'Add a kind of agreement',
  room: 'agreements',
  may: WRITERS,
  touches: ['setup'],
  body: agreementTypeIn,
  answer: created,
});
export const changeAgreementType = contract({
  method: 'PUT',
  path: '/api/agreement-types/:id',
  summary: 'Change a kind of agreement',
  room: 'agreements',
  may: WRITERS,
  touches: ['setup'],
  params: v.object({ id: idText<AgreementTypeId>() }),
  body: v.object({ version, ...agreementTypeIn.entries }),
  answer: done,
});
