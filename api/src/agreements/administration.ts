// Looking after agreements: who has one and whom to speak with, index values as they are published, and the scheme of numbers.
import * as v from 'valibot';
import type { AgreementId, ContactId, NoticeId } from '#core/ids.ts';
import { MANAGERS, OFFICE, WRITERS } from '#core/people.ts';
import { contract } from '../contract.ts';
import { dateOut, done, idOf, idText, localDateText, longText, version } from '../shapes.ts';
import { headerTerms } from './terms.ts';

const params = v.object({ id: idText<AgreementId>() });
const answer = v.object({ version: v.number() });

export const changeAdministration = contract({
  method: 'PUT',
  path: '/api/agreements/:id/administration',
  summary: 'Change who looks after an agreement, its contacts, cost centre, reminder and sign-off; no term changes',
  room: 'agreements',
  may: WRITERS,
  touches: ['agreements'],
  params,
  body: v.object({
    version,
    managerId: headerTerms.managerId,
    contactIds: v.pipe(v.array(idOf<ContactId>()), v.maxLength(20, 'At most 20 contacts.')),
    costCentre: headerTerms.costCentre,
    reminder: longText,
    signOff: headerTerms.signOff,
  }),
  answer,
});
export const readNumbering = contract({
  method: 'GET',
  path: '/api/agreement-numbering',
  summary: 'The scheme by which new agreements are numbered',
  room: 'agreements',
  may: OFFICE,
  reads: ['setup', 'agreements'],
  answer: v.object({ pattern: v.string(), next: v.number(), version: v.number() }),
});
export const changeNumbering = contract({
  method: 'PUT',
  path: '/api/agreement-numbering',
  summary: 'Change the scheme of numbers; agreements written before keep theirs',
  room: 'agreements',
  may: MANAGERS,
  touches: ['setup'],
  body: v.object({
    version,
    pattern: v.pipe(v.string(), v.trim()),
    next: v.pipe(v.number('Write a whole number.'), v.integer(), v.minValue(1, 'From 1 up.'), v.maxValue(99_999_999)),
  }),
  answer: done,
});

export const seeNotice = contract({
  method: 'POST',
  path: '/api/notices/:id/seen',
  summary: 'Put a notice away that was for oneself',
  room: 'agreements',
  may: 'signed in',
  touches: ['agreements'],
  params: v.object({ id: idText<NoticeId>() }),
  answer: done,
});

export const addIndexValue = contract({
  method: 'POST',
  path: '/api/agreements/:id/index',
  summary: 'Record a new index value, as published, from the day on which it holds',
  room: 'agreements',
  may: WRITERS,
  touches: ['agreements'],
  params,
  body: v.object({ version, from: localDateText, hundredths: v.pipe(v.number('Write a number.'), v.integer()) }),
  answer,
});

const ofAgreement = { agreementId: v.number(), number: v.string(), name: v.string(), customer: v.string() };
const notices = v.object({
  /** What one was told about one’s own agreements. */
  own: v.array(v.object({ id: v.number(), ...ofAgreement, text: v.string() })),
  coming: v.array(v.object({ ...ofAgreement, noticeBy: dateOut })),
});
export type Notices = v.InferOutput<typeof notices>;
export const readNotices = contract({
  method: 'GET',
  path: '/api/today/notices',
  summary: 'What one was told about one’s own agreements, and notice dates that come soon',
  room: 'agreements',
  may: 'signed in',
  reads: ['agreements', 'register'],
  answer: notices,
});
