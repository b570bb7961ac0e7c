// Picking on the wire: what a store puts together for a day's work, what was picked and what was not, and what comes back from vans.
import * as v from 'valibot';
import type { NeedId, PickId, StoreId } from '#core/ids.ts';
import { STOCKERS } from '#core/people.ts';
import { MOST_IN_STORE } from '#core/stores/index.ts';
import { contract } from './contract.ts';
import { created, idOf, idText, localDateText, named, requestKey } from './shapes.ts';

const partOf = v.object({ ...named.entries, number: v.string(), unit: v.string(), serialTracked: v.boolean() });
const toPick = v.object({
  needId: v.number(),
  order: v.object({ id: v.number(), title: v.string() }),
  technician: v.nullable(named),
  /** Where it goes: the technician’s van; null: it is handed to them and counts as used. */
  van: v.nullable(named),
  ...{ part: partOf, bin: v.string(), thousandths: v.number() },
  /** Units of it that are in the store, by their serials. */
  serials: v.array(v.string()),
  /** Why it was not picked before. */
  notPicked: v.nullable(v.string()),
});
export type ToPickOut = v.InferOutput<typeof toPick>;
const ofStore = v.object({ id: idText<StoreId>() });
export const readPicking = contract({
  method: 'GET',
  path: '/api/stores/:id/picking',
  summary: 'What a store holds for the work planned for a day, by bin',
  room: 'stores',
  may: STOCKERS,
  reads: ['stores', 'orders'],
  params: ofStore,
  query: v.object({ day: localDateText }),
  /** `more`: there are more than are shown at once. */
  answer: v.object({ rows: v.array(toPick), more: v.boolean() }),
});
const serial = v.pipe(
  v.string(),
  v.trim(),
  v.minLength(1, 'Write the serial.'),
  v.maxLength(80, 'At most 80 characters.'),
);
const quantity = v.pipe(
  v.number('Write a quantity.'),
  v.integer('At most three decimals.'),
  v.minValue(0, 'Not below 0.'),
  v.maxValue(MOST_IN_STORE, 'More than any store holds.'),
);
export const pick = contract({
  method: 'POST',
  path: '/api/stores/:id/picks',
  summary:
    'Say what was picked of what the store holds, and why the rest was not; picked parts go to the technicians’ vans',
  room: 'stores',
  may: STOCKERS,
  touches: ['stores', 'orders'],
  params: ofStore,
  body: v.object({
    requestKey,
    lines: v.pipe(
      v.array(
        v.object({
          ...{ needId: idOf<NeedId>(), thousandths: quantity },
          serials: v.optional(v.pipe(v.array(serial), v.maxLength(500, 'At most 500 at once.')), []),
          /** Why less was picked than is held. */
          why: v.optional(v.pipe(v.string(), v.trim(), v.maxLength(200, 'At most 200 characters.')), ''),
        }),
      ),
      v.minLength(1, 'Tick what was picked.'),
      v.maxLength(1000, 'At most 1,000 at once.'),
    ),
  }),
  answer: created,
});

const toBring = v.object({
  pickId: v.number(),
  order: v.object({ id: v.number(), title: v.string(), stage: v.string() }),
  ...{ van: named, to: named, part: partOf, thousandths: v.number() },
});
export type ToBringOut = v.InferOutput<typeof toBring>;
export const readToBring = contract({
  method: 'GET',
  path: '/api/stores/:id/bring-back',
  summary: 'What was picked from a store for orders that are over and was not used',
  room: 'stores',
  may: STOCKERS,
  reads: ['stores', 'orders'],
  params: ofStore,
  answer: v.object({ rows: v.array(toBring), more: v.boolean() }),
});
export const bringBack = contract({
  method: 'POST',
  path: '/api/stores/:id/bring-back',
  summary: 'Take back into the store what was picked and not used',
  room: 'stores',
  may: STOCKERS,
  touches: ['stores', 'orders'],
  params: ofStore,
  body: v.object({
    requestKey,
    lines: v.pipe(
      v.array(
        v.object({
          ...{ pickId: idOf<PickId>(), thousandths: quantity },
          serials: v.optional(v.pipe(v.array(serial), v.maxLength(500, 'At most 500 at once.')), []),
        }),
      ),
      v.minLength(1, 'Tick what came back.'),
      v.maxLength(500, 'At most 500 at once.'),
    ),
  }),
  answer: created,
});
