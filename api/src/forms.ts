// Forms of asset classes on the wire: their questions and the answers given on an order.
import * as v from 'valibot';
import type { AssetClassId, ClassFormId } from '#core/ids.ts';
import { ORDER_KINDS, QUESTION_KINDS } from '#core/orders/index.ts';
import { WRITERS } from '#core/people.ts';
import { contract } from './contract.ts';
import { created, done, idOf, idText, shortText, version } from './shapes.ts';

const bound = v.nullable(v.pipe(v.number('Write a number.'), v.finite('Write a number.')));
export const formQuestion = v.object({
  text: shortText,
  kind: v.picklist(QUESTION_KINDS),
  mandatory: v.boolean(),
  unit: v.nullable(v.pipe(v.string(), v.trim(), v.maxLength(20, 'At most 20 characters.'))),
  from: bound,
  to: bound,
});
export const formAnswer = v.nullable(
  v.union([v.pipe(v.string(), v.trim(), v.maxLength(500, 'At most 500 characters.')), v.number(), v.boolean()]),
);

const formIn = v.object({
  classId: idOf<AssetClassId>(),
  name: v.pipe(shortText, v.maxLength(120, 'At most 120 characters.')),
  /** None: only where a job plan asks for it. */
  kinds: v.array(v.picklist(ORDER_KINDS)),
  questions: v.pipe(v.array(formQuestion), v.maxLength(60, 'A form asks at most 60 questions.')),
});
export type FormIn = v.InferInput<typeof formIn>;
export const formOut = v.object({ id: v.number(), version: v.number(), className: v.string(), ...formIn.entries });
export type FormOut = v.InferOutput<typeof formOut>;

export const listForms = contract({
  method: 'GET',
  path: '/api/class-forms',
  summary: 'Forms of asset classes',
  room: 'register',
  may: 'signed in',
  reads: ['setup', 'register'],
  answer: v.object({ items: v.array(formOut) }),
});
export const addForm = contract({
  method: 'POST',
  path: '/api/class-forms',
  summary: 'Add a form to a class',
  room: 'register',
  may: WRITERS,
  touches: ['setup'],
  body: formIn,
  answer: created,
});
export const changeForm = contract({
  method: 'PUT',
  path: '/api/class-forms/:id',
  summary: 'Change a form; orders raised before keep the questions they were raised with',
  room: 'register',
  may: WRITERS,
  touches: ['setup'],
  params: v.object({ id: idText<ClassFormId>() }),
  body: v.object({ ...formIn.entries, version }),
  answer: done,
});
export const removeForm = contract({
  method: 'DELETE',
  path: '/api/class-forms/:id',
  summary: 'Take a form away; orders raised before keep theirs',
  room: 'register',
  may: WRITERS,
  touches: ['setup'],
  params: v.object({ id: idText<ClassFormId>() }),
  answer: done,
});
