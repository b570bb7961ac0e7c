// Suppliers on the wire: where parts are ordered, and which parts each has.
import * as v from 'valibot';
import type { PartId, SupplierId } from '#core/ids.ts';
import { WRITERS } from '#core/people.ts';
import { MOST_IN_STORE } from '#core/stores/index.ts';
import { contract } from './contract.ts';
import { created, done, idText, minor, named, pageOf, pageQuery, shortText, version } from './shapes.ts';

export const text = (most: number) => v.pipe(v.string(), v.trim(), v.maxLength(most, `At most ${most} characters.`));
const days = v.pipe(
  v.number('Write a number of days.'),
  v.integer(),
  v.minValue(0),
  v.maxValue(730, 'Two years at most.'),
);
const supplierIn = {
  name: v.pipe(shortText, v.maxLength(120, 'At most 120 characters.')),
  email: v.pipe(
    text(200),
    v.check((s) => s === '' || /^\S+@\S+\.\S+$/.test(s), 'An address such as orders@example.org, or nothing.'),
  ),
  phone: text(60),
  leadDays: days,
  note: text(300),
  retired: v.boolean(),
};
const supplierBody = v.object(supplierIn);
export type SupplierIn = v.InferInput<typeof supplierBody>;
const supplierOut = v.object({
  ...{ id: v.number(), version: v.number(), name: v.string(), email: v.string(), phone: v.string() },
  ...{ leadDays: v.number(), note: v.string(), retired: v.boolean(), parts: v.number() },
});
export type SupplierOut = v.InferOutput<typeof supplierOut>;
export const listSuppliers = contract({
  method: 'GET',
  path: '/api/suppliers',
  summary: 'Suppliers by a part of their name',
  room: 'stores',
  may: 'signed in',
  reads: ['stores'],
  query: v.object({
    q: v.optional(v.pipe(v.string(), v.trim(), v.maxLength(80))),
    retired: v.optional(v.picklist(['with'])),
    ...pageQuery,
  }),
  answer: pageOf(supplierOut),
});
export const addSupplier = contract({
  method: 'POST',
  path: '/api/suppliers',
  summary: 'Add a supplier',
  room: 'stores',
  may: WRITERS,
  touches: ['stores'],
  body: supplierBody,
  answer: created,
});
export const changeSupplier = contract({
  method: 'PUT',
  path: '/api/suppliers/:id',
  summary: 'Change a supplier',
  room: 'stores',
  may: WRITERS,
  touches: ['stores'],
  params: v.object({ id: idText<SupplierId>() }),
  body: v.object({ ...supplierIn, version }),
  answer: done,
});

export const above0 = v.pipe(
  v.number('Write a quantity.'),
  v.integer('At most three decimals.'),
  v.minValue(1, 'More than 0.'),
  v.maxValue(MOST_IN_STORE, 'More than any store holds.'),
);
const offeredIn = {
  number: text(60),
  unitPrice: v.nullable(minor),
  pack: above0,
  leadDays: v.nullable(days),
  preferred: v.boolean(),
};
const offeredOut = v.object({
  ...{ supplier: named, number: v.string(), unitPrice: v.nullable(v.number()), pack: v.number() },
  ...{ leadDays: v.nullable(v.number()), usualLeadDays: v.number(), preferred: v.boolean(), version: v.number() },
  retired: v.boolean(),
});
export type OfferedOut = v.InferOutput<typeof offeredOut>;
export const readOffered = contract({
  method: 'GET',
  path: '/api/parts/:id/suppliers',
  summary: 'Of whom a part is bought: their number, price, pack and days',
  room: 'stores',
  may: 'signed in',
  reads: ['stores'],
  params: v.object({ id: idText<PartId>() }),
  answer: v.object({ items: v.array(offeredOut) }),
});
const ofSupplier = v.object({ id: idText<PartId>(), supplier: idText<SupplierId>() });
export const keepOffered = contract({
  method: 'PUT',
  path: '/api/parts/:id/suppliers/:supplier',
  summary: 'Say how a supplier has a part; the preferred one is the one that is bought of by itself',
  room: 'stores',
  may: WRITERS,
  touches: ['stores'],
  params: ofSupplier,
  body: v.object({ ...offeredIn, version: v.pipe(v.number(), v.integer(), v.minValue(0)) }),
  answer: done,
});
export const removeOffered = contract({
  method: 'DELETE',
  path: '/api/parts/:id/suppliers/:supplier',
  summary: 'A supplier does not have the part any more',
  room: 'stores',
  may: WRITERS,
  touches: ['stores'],
  params: ofSupplier,
  answer: done,
});
