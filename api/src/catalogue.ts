// The catalogue on the wire: classes with their job plans and meters, and makers’ models.
import * as v from 'valibot';
import type { AssetClassId, AssetModelId } from '#core/ids.ts';
import { WRITERS } from '#core/people.ts';
import { contract } from './contract.ts';
import { created, done, idOf, idText, named, shortText, version } from './shapes.ts';

const percent = v.pipe(
  v.number('Write a percentage.'),
  v.integer('Write a whole percentage.'),
  v.minValue(0, 'From 0 to 100.'),
  v.maxValue(100, 'From 0 to 100.'),
);

const wordsOut = v.array(v.string());
/** The words findings are said in, in the order in which they are offered. */
const words = v.pipe(
  v.array(shortText),
  v.maxLength(60, 'At most 60 words of a kind.'),
  v.check((all) => new Set(all.map((w) => w.toLowerCase())).size === all.length, 'A word stands there twice.'),
);

export const modelOut = v.object({
  id: v.number(),
  classId: v.number(),
  className: v.string(),
  maker: v.string(),
  name: v.string(),
  warrantyMonths: v.number(),
  warrantyLabour: v.number(),
  warrantyParts: v.number(),
  warrantyTravel: v.number(),
  warrantyVisits: v.number(),
  version: v.number(),
  assets: v.number(),
});
export type ModelOut = v.InferOutput<typeof modelOut>;
export const classOut = v.object({
  id: v.number(),
  name: v.string(),
  version: v.number(),
  assets: v.number(),
  jobPlans: v.array(named),
  meters: v.array(
    v.object({ name: v.string(), unit: v.string(), channel: v.nullable(v.string()), wrapsAt: v.nullable(v.number()) }),
  ),
  words: v.object({ symptom: wordsOut, fault: wordsOut, cause: wordsOut, remedy: wordsOut }),
});
export type ClassOut = v.InferOutput<typeof classOut>;
export const readCatalogue = contract({
  method: 'GET',
  path: '/api/catalogue',
  summary: 'Asset classes and models',
  room: 'register',
  may: 'signed in',
  reads: ['setup', 'register'],
  answer: v.object({ classes: v.array(classOut), models: v.array(modelOut) }),
});
export const classIn = v.object({
  name: shortText,
  jobPlanIds: v.array(v.pipe(v.number(), v.integer(), v.minValue(1))),
  meters: v.array(
    v.object({
      name: v.pipe(shortText, v.maxLength(60)),
      unit: v.pipe(shortText, v.maxLength(20)),
      channel: v.nullable(v.pipe(v.string(), v.trim(), v.maxLength(60))),
      /** The count at which the device's counter begins at 0 by itself. */
      wrapsAt: v.optional(v.nullable(v.pipe(v.number(), v.finite(), v.gtValue(0, 'More than 0.'))), null),
    }),
  ),
  /** Left out: they stay as they are. */
  words: v.optional(v.object({ symptom: words, fault: words, cause: words, remedy: words })),
});
export type ClassIn = v.InferInput<typeof classIn>;
export const addClass = contract({
  method: 'POST',
  path: '/api/asset-classes',
  summary: 'Add an asset class',
  room: 'register',
  may: WRITERS,
  touches: ['register', 'setup'],
  body: classIn,
  answer: created,
});
export const changeClass = contract({
  method: 'PUT',
  path: '/api/asset-classes/:id',
  summary: 'Change an asset class: its job plans and meters',
  room: 'register',
  may: WRITERS,
  touches: ['register', 'setup'],
  params: v.object({ id: idText<AssetClassId>() }),
  body: v.object({ ...classIn.entries, version }),
  answer: done,
});
const modelIn = v.object({
  classId: idOf<AssetClassId>(),
  maker: shortText,
  name: shortText,
  warrantyMonths: v.pipe(v.number('Write a number of months.'), v.integer(), v.minValue(0), v.maxValue(240)),
  warrantyLabour: percent,
  warrantyParts: percent,
  warrantyTravel: percent,
  warrantyVisits: v.pipe(v.number('Write a number.'), v.integer(), v.minValue(0), v.maxValue(100)),
});
export type ModelIn = v.InferInput<typeof modelIn>;
export const addModel = contract({
  method: 'POST',
  path: '/api/asset-models',
  summary: 'Add a model to the catalogue',
  room: 'register',
  may: WRITERS,
  touches: ['register', 'setup'],
  body: modelIn,
  answer: created,
});
export const changeModel = contract({
  method: 'PUT',
  path: '/api/asset-models/:id',
  summary: 'Change a model of the catalogue; assets already registered keep their terms',
  room: 'register',
  may: WRITERS,
  touches: ['register', 'setup'],
  params: v.object({ id: idText<AssetModelId>() }),
  body: v.object({ ...modelIn.entries, version }),
  answer: done,
});
