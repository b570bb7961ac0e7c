// The house on the wire: the numbers beside the rooms, and how each person likes their tables.
import * as v from 'valibot';
import { contract } from './contract.ts';
import { done } from './shapes.ts';

export const readCounts = contract({
  method: 'GET',
  path: '/api/counts',
  summary: 'The numbers beside the rooms, by the room’s name',
  room: 'house',
  may: 'signed in',
  reads: ['orders', 'upkeep', 'agreements', 'signals', 'mail', 'settle'],
  answer: v.record(v.string(), v.number()),
});

const column = v.pipe(v.string(), v.maxLength(60));
const columns = v.pipe(v.array(column), v.maxLength(60, 'At most 60 columns.'));
/** How a person likes a table: which columns, in which order, how wide, which stay at the left, sorted by what. */
export const tableLook = v.object({
  hidden: columns,
  order: columns,
  pinned: columns,
  /** In pixels, by column. */
  widths: v.pipe(
    v.record(column, v.pipe(v.number(), v.minValue(24), v.maxValue(2000))),
    v.check((w) => Object.keys(w).length <= 60, 'At most 60 columns.'),
  ),
  sort: v.nullable(v.object({ by: column, down: v.boolean() })),
});
export type TableLook = v.InferOutput<typeof tableLook>;

export const readTableLooks = contract({
  method: 'GET',
  path: '/api/me/tables',
  summary: 'How one likes one’s tables, by their names',
  room: 'house',
  may: 'signed in',
  reads: ['looks'],
  answer: v.record(v.string(), tableLook),
});
export const keepTableLook = contract({
  method: 'PUT',
  path: '/api/me/tables/:name',
  summary: 'Keep how one likes a table',
  room: 'house',
  may: 'signed in',
  // Told to nobody else: how one likes a table is one’s own.
  touches: ['looks'],
  params: v.object({ name: v.pipe(v.string(), v.regex(/^[a-z][a-z-]{0,39}$/, 'There is no table of that name.')) }),
  body: tableLook,
  answer: done,
});
