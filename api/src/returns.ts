// What goes back on the wire: old parts from the field, and goods sent back to a supplier or maker with what came of it.
import * as v from 'valibot';
import type { OrderId, StoreId, SupplierId, SupplierReturnId } from '#core/ids.ts';
import { STOCKERS } from '#core/people.ts';
import { OLD_PARTS, RETURN_REASONS, RETURN_STAGES } from '#core/stores/index.ts';
import { contract } from './contract.ts';
import {
  afterId,
  created,
  done,
  idOf,
  idText,
  instantNumber,
  minor,
  named,
  pageOf,
  pageQuery,
  requestKey,
  version,
} from './shapes.ts';
import { movedLine, movedLines, storeText } from './stock.ts';

export const takeOldPart = contract({
  method: 'POST',
  path: '/api/stock/old-parts',
  summary:
    'Take an old part out of the field into quarantine, worth nothing to us: for its core, or under its maker’s warranty',
  room: 'stores',
  may: STOCKERS,
  touches: ['stores'],
  body: v.object({
    ...{ requestKey, storeId: idOf<StoreId>(), orderId: idOf<OrderId>(), reason: v.picklist(OLD_PARTS) },
    ...movedLine,
    text: storeText,
  }),
  answer: created,
});

const line = v.object({
  part: v.object({ ...named.entries, number: v.string(), unit: v.string(), serialTracked: v.boolean() }),
  ...{ thousandths: v.number(), serials: v.array(v.string()) },
});
const returnOut = v.object({
  ...{ id: v.number(), version: v.number(), supplier: named, store: named, reason: v.picklist(RETURN_REASONS) },
  ...{ stage: v.picklist(RETURN_STAGES), reference: v.string(), text: v.string(), lines: v.array(line) },
  ...{ sentAt: instantNumber, by: v.nullable(v.string()), answer: v.string(), answeredAt: v.nullable(instantNumber) },
  /** Minor units; null for those who see no money. */
  ...{ worth: v.nullable(v.number()), credit: v.nullable(v.number()), variance: v.nullable(v.number()) },
});
export type ReturnOut = v.InferOutput<typeof returnOut>;
export const listReturns = contract({
  method: 'GET',
  path: '/api/supplier-returns',
  summary: 'What was sent back to suppliers, the newest first; those without an answer by themselves',
  room: 'stores',
  may: 'signed in',
  reads: ['stores'],
  query: v.object({ stage: v.optional(v.picklist(RETURN_STAGES)), ...pageQuery, after: afterId }),
  answer: v.object({ ...pageOf(returnOut).entries, open: v.number() }),
});
export const sendBack = contract({
  method: 'POST',
  path: '/api/supplier-returns',
  summary: 'Send parts of a store back to a supplier or maker',
  room: 'stores',
  may: STOCKERS,
  touches: ['stores'],
  body: v.object({
    ...{ requestKey, storeId: idOf<StoreId>(), supplierId: idOf<SupplierId>(), reason: v.picklist(RETURN_REASONS) },
    reference: v.pipe(v.string(), v.trim(), v.maxLength(60, 'At most 60 characters.')),
    text: storeText,
    lines: movedLines,
  }),
  answer: created,
});
export const answerReturn = contract({
  method: 'PUT',
  path: '/api/supplier-returns/:id/answer',
  summary: 'Say what came of it: credited, replaced (which brings the parts back at their worth), or refused',
  room: 'stores',
  may: STOCKERS,
  touches: ['stores', 'orders', 'rota'],
  params: v.object({ id: idText<SupplierReturnId>() }),
  body: v.object({
    version,
    stage: v.picklist(RETURN_STAGES.filter((s) => s !== 'sent')),
    credit: v.nullable(minor),
    text: storeText,
    /** Of what came in its place, where the part is kept by serial: as many as went. */
    serials: v.pipe(
      v.array(v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(80, 'At most 80 characters.'))),
      v.maxLength(500, 'At most 500 at once.'),
    ),
  }),
  answer: done,
});
