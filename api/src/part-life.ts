// A part over time, what stands in for it, where it is used, and the lives of its units.
import * as v from 'valibot';
import type { AssetClassId, AssetId, PartId, StoreId, UsedPartId } from '#core/ids.ts';
import { WRITERS } from '#core/people.ts';
import { MOVE_KINDS, UNIT_PLACES } from '#core/stores/index.ts';
import { contract } from './contract.ts';
import { created, dateOut, done, idOf, idText, instantNumber, named, pageOf, pageQuery, shortText } from './shapes.ts';

const partParams = v.object({ id: idText<PartId>() });
const months = v.array(v.object({ month: v.string(), thousandths: v.number() }));

const course = v.object({
  today: dateOut,
  /** The day of the first of `past`. */
  from: dateOut,
  /** Thousandths of a unit: on hand at the end of each day up to today, then free at the end of each day from today on. */
  past: v.array(v.number()),
  ahead: v.array(v.number()),
  minimum: v.nullable(v.number()),
  maximum: v.nullable(v.number()),
  /** What work took in each month of the last year, this one last; what upkeep takes in each of the coming year, this one first. */
  took: months,
  takes: months,
});
export type Course = v.InferOutput<typeof course>;
export const readCourse = contract({
  method: 'GET',
  path: '/api/parts/:id/course',
  summary:
    'How much of a part there was and will be, day by day, in one store or in all; what work took and upkeep will take',
  room: 'stores',
  may: 'signed in',
  reads: ['stores', 'upkeep', 'orders', 'setup'],
  params: partParams,
  query: v.object({ store: v.optional(idText<StoreId>()) }),
  answer: course,
});

const other = v.object({ ...named.entries, number: v.string(), retired: v.boolean(), free: v.number() });
const partUse = v.object({
  /** What may be taken instead of it, and what it stands in for; with how much of them is free. */
  instead: v.array(other),
  standsInFor: v.array(other),
  plans: v.array(v.object({ ...named.entries, thousandths: v.number() })),
  /** Machines it was used on, by class and model: on how many orders, and how much. */
  models: v.array(
    v.object({
      ...{ className: v.string(), maker: v.string(), model: v.string() },
      ...{ orders: v.number(), thousandths: v.number(), lastAt: instantNumber },
    }),
  ),
});
export type PartUse = v.InferOutput<typeof partUse>;
export const readPartUse = contract({
  method: 'GET',
  path: '/api/parts/:id/use',
  summary: 'What may be taken instead of a part, which job plans take it, and on which machines it was used',
  room: 'stores',
  may: 'signed in',
  reads: ['stores', 'setup'],
  params: partParams,
  answer: partUse,
});

const MOST_ALTERNATIVES = 20;
export const setAlternatives = contract({
  method: 'PUT',
  path: '/api/parts/:id/alternatives',
  summary: 'Say which parts may be taken instead of one; all of them at once',
  room: 'stores',
  may: WRITERS,
  touches: ['stores'],
  params: partParams,
  body: v.object({
    others: v.pipe(
      v.array(idOf<PartId>()),
      v.maxLength(MOST_ALTERNATIVES, `At most ${MOST_ALTERNATIVES} stand in for one.`),
    ),
    /** As they were seen: another list means that somebody changed it meanwhile. */
    seen: v.pipe(v.array(idOf<PartId>()), v.maxLength(MOST_ALTERNATIVES)),
  }),
  answer: done,
});

const machine = v.object({ id: v.number(), tag: v.string(), name: v.string() });
const unitOut = v.object({
  serial: v.string(),
  place: v.nullable(v.picklist(UNIT_PLACES)),
  store: v.nullable(named),
  /** The machine it is part of. */
  asset: v.nullable(machine),
  orderId: v.nullable(v.number()),
});
export type UnitOut = v.InferOutput<typeof unitOut>;
export const listUnits = contract({
  method: 'GET',
  path: '/api/parts/:id/units',
  summary: 'The units of a part that is kept by serial, by their serials, and where each is',
  room: 'stores',
  may: 'signed in',
  reads: ['stores', 'register'],
  params: partParams,
  query: v.object({ q: v.optional(v.pipe(v.string(), v.trim(), v.maxLength(80))), ...pageQuery }),
  answer: pageOf(unitOut),
});

const unitStep = v.object({
  at: instantNumber,
  kind: v.picklist([...MOVE_KINDS, 'built in']),
  store: v.nullable(named),
  orderId: v.nullable(v.number()),
  asset: v.nullable(machine),
  ...{ by: v.nullable(v.string()), text: v.string() },
});
const unitLife = v.object({
  part: v.object({ ...named.entries, number: v.string(), warrantyMonths: v.number() }),
  ...unitOut.entries,
  /** Built in: since when, until when it is warranted, and the machine of the register that it became. */
  builtIn: v.nullable(
    v.object({
      usedPartId: v.number(),
      on: dateOut,
      warrantyUntil: v.nullable(dateOut),
      became: v.nullable(machine),
    }),
  ),
  steps: v.array(unitStep),
});
export type UnitLife = v.InferOutput<typeof unitLife>;
export const readUnit = contract({
  method: 'GET',
  path: '/api/parts/:id/unit',
  summary: 'The life of one unit: where it is, where it was, and what it is part of',
  room: 'stores',
  may: 'signed in',
  reads: ['stores', 'register'],
  params: partParams,
  query: v.object({ serial: v.pipe(v.string(), v.trim(), v.minLength(1, 'Write the serial.'), v.maxLength(80)) }),
  answer: unitLife,
});

const builtIn = v.object({
  ...{ usedPartId: v.number(), part: v.object({ ...named.entries, number: v.string() }), serial: v.string() },
  ...{ on: dateOut, warrantyUntil: v.nullable(dateOut), orderId: v.number(), became: v.nullable(machine) },
});
export type BuiltIn = v.InferOutput<typeof builtIn>;
export const readBuiltIn = contract({
  method: 'GET',
  path: '/api/assets/:id/units',
  summary: 'Parts kept by serial that were built into a machine and are still in it, with their warranty',
  room: 'stores',
  may: 'signed in',
  reads: ['stores', 'register'],
  params: v.object({ id: idText<AssetId>() }),
  answer: v.object({ items: v.array(builtIn) }),
});

export const becomeAsset = contract({
  method: 'POST',
  path: '/api/used-parts/:id/asset',
  summary:
    'Register a unit that was built in as a machine of its own, within the one it was built into, with the part’s warranty',
  room: 'stores',
  may: WRITERS,
  touches: ['stores', 'register', 'agreements'],
  params: v.object({ id: idText<UsedPartId>() }),
  body: v.object({
    classId: idOf<AssetClassId>(),
    maker: shortText,
    model: shortText,
    tag: v.pipe(shortText, v.maxLength(60, 'At most 60 characters.')),
  }),
  answer: created,
});
