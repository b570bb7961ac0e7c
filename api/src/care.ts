// Looking after an agreement in force: who it belongs to and whom to speak with, and index values as they are published.
import * as v from 'valibot';
import type { AgreementId, ContactId } from '#core/ids.ts';
import { contract } from './contract.ts';
import { idOf, idText, localDateText, longText, version } from './shapes.ts';
import { headerTerms } from './terms.ts';

const params = v.object({ id: idText<AgreementId>() });
const answer = v.object({ version: v.number() });

export const changeCare = contract({
  method: 'PUT',
  path: '/api/agreements/:id/care',
  summary: 'Change who looks after an agreement, its contacts, cost centre and reminder; no term changes',
  room: 'agreements',
  params,
  body: v.object({
    version,
    managerId: headerTerms.managerId,
    contactIds: v.pipe(v.array(idOf<ContactId>()), v.maxLength(20, 'At most 20 contacts.')),
    costCentre: headerTerms.costCentre,
    reminder: longText,
  }),
  answer,
});
export const announceIndex = contract({
  method: 'POST',
  path: '/api/agreements/:id/index',
  summary: 'Record a new index value, as published, from the day on which it holds',
  room: 'agreements',
  params,
  body: v.object({ version, from: localDateText, hundredths: v.pipe(v.number('Write a number.'), v.integer()) }),
  answer,
});
