// Shapes used by several rooms: ids, dates, instants, pages and problem details.
import * as v from 'valibot';
import { ROLES } from '#core/people.ts';
import { asId, type Id } from '#core/ids.ts';
import { parseInstant, parseLocalDate, type Instant, type LocalDate } from '#core/time/index.ts';

/** The largest id a table gives out (an unsigned 32-bit number). */
const LAST_ID = 4_294_967_295;

export const idOf = <T extends Id<string>>() =>
  v.pipe(
    v.number('Choose one of those offered.'),
    v.integer('An id is a whole number.'),
    v.minValue(1, 'An id is 1 or more.'),
    v.maxValue(LAST_ID, 'There is nothing with so large an id.'),
    v.transform((n): T => asId<T>(n)),
  );
/** An id in a path or query string. */
export const idText = <T extends Id<string>>() =>
  v.pipe(
    v.string(),
    v.regex(/^[1-9]\d{0,9}$/, 'An id is a whole number.'),
    v.check((s) => Number(s) <= LAST_ID, 'There is nothing with so large an id.'),
    v.transform((s): T => asId<T>(Number(s))),
  );

/** An amount of money in whole minor units of its currency. */
export const minor = v.pipe(
  v.number(),
  v.integer(),
  v.minValue(0, 'Not below zero.'),
  v.maxValue(1e12, 'Too large an amount.'),
);

/** A month, as `2026-11`. */
export const monthText = v.pipe(v.string(), v.regex(/^20\d\d-(0[1-9]|1[0-2])$/, 'Write the month as 2026-11.'));
export const localDateText = v.pipe(
  v.string(),
  v.check((s) => parseLocalDate(s) !== null, 'Write the date as year-month-day, such as 2026-03-17.'),
  v.transform((s) => s as LocalDate),
);
export const instantText = v.pipe(
  v.string(),
  v.check((s) => parseInstant(s) !== null, 'Write the time with its offset, such as 2026-03-17T09:20:00Z.'),
  v.transform((s) => parseInstant(s) as Instant),
);
/** Instants travel as milliseconds in answers. */
export const instantNumber = v.pipe(
  v.number(),
  v.transform((n) => n as Instant),
);
export const dateOut = v.pipe(
  v.string(),
  v.transform((s) => s as LocalDate),
);

export const shortText = v.pipe(
  v.string(),
  v.trim(),
  v.minLength(1, 'This is needed.'),
  v.maxLength(120, 'At most 120 characters.'),
);
export const longText = v.pipe(v.string(), v.trim(), v.maxLength(4000, 'At most 4,000 characters.'));
export const requestKey = v.pipe(
  v.string(),
  v.regex(/^[A-Za-z0-9-]{8,60}$/, 'A request key is 8 to 60 letters, digits or dashes.'),
);
export const version = v.pipe(
  v.number('Send the version that was read.'),
  v.integer('A version is a whole number.'),
  v.minValue(1, 'A version is 1 or more.'),
);
/** A number that a table keeps (a signed 32-bit one). */
export const LARGEST = 2_147_483_647;

/** Where the next page of a list by id begins. */
export const afterId = v.optional(
  v.pipe(v.string(), v.regex(/^\d{1,10}$/, 'Ask for the next page with the `next` of the page before.')),
);

/** Where the next page begins; opaque to the caller. */
export const pageQuery = {
  after: v.optional(v.pipe(v.string(), v.maxLength(300))),
  limit: v.optional(v.pipe(v.string(), v.regex(/^\d{1,3}$/), v.transform(Number), v.minValue(1), v.maxValue(200))),
};
export const pageOf = <S extends v.GenericSchema>(item: S) =>
  v.object({ items: v.array(item), next: v.nullable(v.string()) });

export const named = v.object({ id: v.number(), name: v.string() });
export const created = v.object({ id: v.number() });
export const done = v.object({ done: v.literal(true) });

/** The body is a file as it is, sent as application/octet-stream. */
export const octets = v.custom<Uint8Array | Blob>(
  (x) => x instanceof Uint8Array || (typeof Blob !== 'undefined' && x instanceof Blob),
  'Send the file itself, as application/octet-stream.',
);

/** RFC 9457 problem details, with the refusals at their fields. */
export const problem = v.object({
  type: v.string(),
  title: v.string(),
  status: v.number(),
  detail: v.string(),
  code: v.string(),
  errors: v.array(v.object({ field: v.nullable(v.string()), code: v.string(), message: v.string() })),
  current: v.optional(v.unknown()),
  /** Which request it was (RFC 9457, section 3.1.5): the same number stands in the log. */
  instance: v.optional(v.string()),
});
export type Problem = v.InferOutput<typeof problem>;

export const role = v.picklist(ROLES);

export function orderNumber(id: number): string {
  return `WO-${10_000 + id}`;
}
/** The id behind a typed number that begins with two letters, or null. */
export function idOfNumber(letters: 'wo' | 'of', text: string): number | null {
  const found = /^([a-z]{2})[-\s]?(\d{4,9})$/.exec(text.trim().toLowerCase());
  const id = found?.[1] === letters ? Number(found[2]) - 10_000 : 0;
  return id > 0 ? id : null;
}
/** The id behind a typed order number such as "WO-10042", or null. */
export const orderOfNumber = (text: string): number | null => idOfNumber('wo', text);

/** Of figures from past work; null: there are none. */
export const spread = v.nullable(
  v.object({
    count: v.number(),
    mean: v.number(),
    deviation: v.nullable(v.number()),
    least: v.number(),
    median: v.number(),
    most: v.number(),
  }),
);

/** Text of at most so many letters; it may be empty. */
export const upTo = (most: number) => v.pipe(v.string(), v.trim(), v.maxLength(most, `At most ${most} characters.`));
/** The same, and not empty: `what` says what is asked for. */
export const needed = (most: number, what: string) => v.pipe(upTo(most), v.minLength(1, what));
