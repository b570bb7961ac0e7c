// Figures of dispatch on the wire: a month by depot and person beside the month before, and one of them over a year.
import * as v from 'valibot';
import type { DepotId, PersonId } from '#core/ids.ts';
import { OFFICE } from '#core/people.ts';
import { contract } from './contract.ts';
import { idText, monthText } from './shapes.ts';

const share = v.object({ of: v.number(), kept: v.number() });
const figures = v.object({
  /** Orders done, and how many of them were repairs. */
  done: v.number(),
  repairs: v.number(),
  /** Minutes from raised to told, and to sent, of repairs: the median; null: of none it is known. */
  told: v.nullable(v.number()),
  sent: v.nullable(v.number()),
  /** Planned for a day that was in time, of those that were due on one. */
  inTime: share,
  firstGo: share,
  /** Minutes entered, and of them on the way; and what of them lies outside open time. */
  entered: v.number(),
  travel: v.number(),
  overtime: v.number(),
});
export type DispatchFigures = v.InferOutput<typeof figures>;

const OF = ['house', 'depot', 'person'] as const;
const row = v.object({
  of: v.object({ kind: v.picklist(OF), id: v.nullable(v.number()), name: v.string() }),
  now: figures,
  before: figures,
});
export type FiguresRow = v.InferOutput<typeof row>;

/** The team's by the office, one's own by whoever goes out. */
const may = [...OFFICE, 'technician'] as const;
const reads = ['orders', 'labour', 'setup', 'rota'] as const;

export const readFigures = contract({
  method: 'GET',
  path: '/api/rota/figures',
  summary: 'How dispatch went in a month, by depot and person, beside the month before; a technician reads their own',
  room: 'rota',
  may,
  reads,
  query: v.object({ month: monthText }),
  answer: v.object({ month: v.string(), rows: v.array(row) }),
});

export const readFigureTrend = contract({
  method: 'GET',
  path: '/api/rota/figures/trend',
  summary: 'The same of the whole house, a depot or a person over the twelve months that end with one',
  room: 'rota',
  may,
  reads,
  query: v.object({ month: monthText, depot: v.optional(idText<DepotId>()), person: v.optional(idText<PersonId>()) }),
  answer: v.object({ months: v.array(v.object({ month: v.string(), figures })) }),
});
