// How an order's clocks came to be what they are, on the wire; beside it what they would be with another promise.
import * as v from 'valibot';
import type { CalendarId, OrderId } from '#core/ids.ts';
import { OFFICE } from '#core/people.ts';
import { PAUSE_REASONS, PRIORITIES, TARGETS } from '#core/service-levels/index.ts';
import { contract } from './contract.ts';
import { idText, instantNumber, named } from './shapes.ts';

const derivationLine = v.object({
  kind: v.picklist(['started', 'counted', 'late', 'closed', 'paused', 'ran on', 'due', 'stopped', 'voided']),
  from: instantNumber,
  /** Null: an instant, or it goes on. */
  to: v.nullable(instantNumber),
  /** Milliseconds counted in it, and of its kind so far. */
  ...{ ms: v.number(), sum: v.number() },
  reason: v.nullable(v.picklist(PAUSE_REASONS)),
  /** Days on which the calendar is closed, by their names, and clock changes in it. */
  notes: v.array(v.string()),
  /** Who recorded what happened at that instant, and when. */
  by: v.nullable(v.object({ who: v.nullable(v.string()), text: v.string(), recordedAt: instantNumber })),
});
export type DerivationLineOut = v.InferOutput<typeof derivationLine>;
const derivation = v.object({
  state: v.picklist(['running', 'paused', 'met', 'missed', 'void']),
  dueAt: v.nullable(instantNumber),
  /** Milliseconds of the promise used, and of lateness. */
  ...{ used: v.number(), over: v.number() },
  minutes: v.number(),
  measure: v.string(),
  pauses: v.array(v.picklist(PAUSE_REASONS)),
  lines: v.array(derivationLine),
});
export type DerivationOut = v.InferOutput<typeof derivation>;
const derived = v.object({
  ...{ target: v.picklist(TARGETS), assetId: v.number(), tag: v.string(), serviceLevel: v.string() },
  asIs: derivation,
  /** Null: nothing else was asked for, or that would promise nothing here. */
  whatIf: v.nullable(derivation),
});
export type DerivedOut = v.InferOutput<typeof derived>;

export const PAUSES_ASKED = ['all', 'none'] as const;
export const readDerivations = contract({
  method: 'GET',
  path: '/api/orders/:id/derivations',
  summary:
    'The clocks of an order line by line, and what another priority, calendar or rule of pauses would make of them',
  room: 'standing',
  may: OFFICE,
  reads: ['orders', 'setup', 'register'],
  params: v.object({ id: idText<OrderId>() }),
  query: v.object({
    priority: v.optional(v.pipe(v.string(), v.transform(Number), v.picklist(PRIORITIES))),
    /** A calendar, or around the clock. */
    calendar: v.optional(v.union([v.literal('elapsed'), idText<CalendarId>()])),
    pauses: v.optional(v.picklist(PAUSES_ASKED)),
  }),
  answer: v.object({
    now: instantNumber,
    /** Of the place: its times are told in it. */
    zone: v.string(),
    ...{ title: v.string(), customer: v.string(), priority: v.number() },
    items: v.array(derived),
    calendars: v.array(named),
  }),
});
