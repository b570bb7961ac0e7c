// Files on the wire: photos and papers of customers, places, assets and agreements.
import * as v from 'valibot';
import type { AttachmentId } from '#core/ids.ts';
import { RECORDERS } from '#core/people.ts';
import { contract } from './contract.ts';
import { created, done, idText, instantNumber, octets } from './shapes.ts';

export const FILE_SUBJECTS = ['customer', 'location', 'asset', 'agreement', 'order', 'mail', 'offer'] as const;
/** What somebody attaches to; what came by mail stays as it came. */
export const ATTACHED_TO = ['customer', 'location', 'asset', 'agreement', 'order', 'offer'] as const;
export type FileSubject = (typeof FILE_SUBJECTS)[number];
export const MAX_FILE_BYTES = 15 * 1024 * 1024;

const about = {
  subject: v.picklist(FILE_SUBJECTS),
  subjectId: v.pipe(v.string(), v.regex(/^[1-9]\d{0,9}$/), v.transform(Number)),
};
export const attachmentOut = v.object({
  id: v.number(),
  name: v.string(),
  mediaType: v.string(),
  bytes: v.number(),
  at: instantNumber,
  who: v.nullable(v.string()),
});
export type AttachmentOut = v.InferOutput<typeof attachmentOut>;

export const listFiles = contract({
  method: 'GET',
  path: '/api/files',
  summary: 'Files of a customer, place, asset, agreement or order',
  room: 'files',
  may: 'signed in',
  reads: ['register', 'orders', 'mail', 'offers'],
  query: v.object(about),
  answer: v.object({ items: v.array(attachmentOut) }),
});
/** The body is the file itself, as application/octet-stream. */
export const addFile = contract({
  method: 'POST',
  path: '/api/files',
  summary: 'Attach a photo (JPEG, PNG, WebP) or a PDF',
  room: 'files',
  may: RECORDERS,
  touches: ['register'],
  query: v.object({
    ...about,
    subject: v.picklist(ATTACHED_TO),
    name: v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(200)),
  }),
  body: octets,
  bodyLimit: MAX_FILE_BYTES + 1024,
  answer: created,
});
export const removeFile = contract({
  method: 'DELETE',
  path: '/api/files/:id',
  summary: 'Remove a file',
  room: 'files',
  may: RECORDERS,
  touches: ['register'],
  params: v.object({ id: idText<AttachmentId>() }),
  answer: done,
});
