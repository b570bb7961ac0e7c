// The agreement as a document.
import { OFFICE } from '#core/people.ts';
import { contract } from '../contract.ts';
import { params } from './terms.ts';

export const agreementPdf = contract({
  method: 'GET',
  path: '/api/agreements/:id/agreement.pdf',
  summary: 'The agreement as a document to print',
  room: 'agreements',
  may: OFFICE,
  params,
});
