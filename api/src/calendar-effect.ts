// What a change of a calendar would do, on the wire: to clocks that run, and to visits to come.
import * as v from 'valibot';
import type { CalendarId } from '#core/ids.ts';
import { WRITERS } from '#core/people.ts';
import { TARGETS } from '#core/service-levels/index.ts';
import { contract } from './contract.ts';
import { changeCalendar } from './setup.ts';
import { dateOut, idText, instantNumber } from './shapes.ts';

const calendarEffect = v.object({
  /** From which day on something may be otherwise. */
  from: dateOut,
  clocks: v.object({
    /** Orders with a clock that counts by it and is not over; so many of them, those due next, were looked at. */
    ...{ orders: v.number(), looked: v.number() },
    ...{ later: v.number(), earlier: v.number(), missedMore: v.number(), missedLess: v.number() },
    changed: v.array(
      v.object({
        ...{ orderId: v.number(), title: v.string(), tag: v.string(), target: v.picklist(TARGETS), zone: v.string() },
        ...{ dueBefore: v.nullable(instantNumber), dueAfter: v.nullable(instantNumber) },
        ...{ missedBefore: v.boolean(), missedAfter: v.boolean() },
      }),
    ),
  }),
  visits: v.object({
    ...{ closes: v.array(dateOut), opens: v.array(dateOut) },
    /** Schedules that go by it with a visit near such a day; so many of them were looked at. */
    ...{ schedules: v.number(), looked: v.number(), moves: v.number() },
    moved: v.array(
      v.object({ scheduleId: v.number(), tag: v.string(), work: v.string(), before: dateOut, after: dateOut }),
    ),
  }),
});
export type CalendarEffect = v.InferOutput<typeof calendarEffect>;
export const previewCalendar = contract({
  method: 'POST',
  path: '/api/calendars/:id/preview',
  summary: 'What a change of a calendar would do to clocks that run and visits to come',
  room: 'setup',
  may: WRITERS,
  reads: ['setup', 'orders', 'upkeep'],
  params: v.object({ id: idText<CalendarId>() }),
  body: changeCalendar.body,
  answer: calendarEffect,
});
