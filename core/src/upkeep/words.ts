// Cadences in plain words, read: a rule over dates, or counted from the last service.
import { parseRule, printRule, readRuleWords, type RecurrenceRule } from '../recurrence/index.ts';
import { decided, refusal, refused, type Decided } from '../refusal.ts';
import type { Interval, INTERVAL_UNITS } from './cadence.ts';
import type { WrittenCadence } from './written.ts';

/** Days over whose readings the average daily use is taken where nothing else is said. */
export const USUAL_SPAN_DAYS = 90;

const UNITS = '(day|week|month|year)s?';
const TIME = new RegExp(`^(\\d{1,4}) ${UNITS}$`);
const OF_TIME = /^(?:day|week|month|quarter|year)s?\b/;
const AFTER_LAST = new RegExp(`^(?:every )?(.+?) after (?:the )?(?:last|previous)(?: one| visit| service)?$`);
const FIRST = / ?(?:whichever|what) (?:comes )?first$/;

type Leg = { readonly time: Interval } | { readonly units: number; readonly meter: string };

function legOf(words: string): Leg | null {
  const time = TIME.exec(words);
  if (time) return { time: { count: Number(time[1]), unit: time[2] as (typeof INTERVAL_UNITS)[number] } };
  const units = /^(\d[\d,]*(?:\.\d+)?) (\p{L}.*)$/u.exec(words);
  // “3 months on a Tuesday” counts no meter.
  if (!units || OF_TIME.test(units[2] as string)) return null;
  return { units: Number(units[1]?.replaceAll(',', '')), meter: units[2] as string };
}

const wrong = (message: string): Decided<never> => refused(refusal('invalid', message, 'words'));

const plainly = (text: string): string =>
  text
    .trim()
    .replace(/\.$/, '')
    .replace(/,(?!\d)/g, ' ')
    .replace(/\s+/g, ' ')
    .replace(/^(Every|After)\b/, (w) => w.toLowerCase());

/** What is counted from the last service; null: the words are about dates. */
function legsOf(text: string): readonly (Leg | null)[] | null {
  const words = plainly(text);
  const after = AFTER_LAST.exec(words);
  const body = after?.[1] ?? (words.startsWith('every ') ? words.slice(6) : '');
  const legs = body.replace(FIRST, '').split(' or ').map(legOf);
  const counts = legs.some((leg) => leg !== null && 'units' in leg);
  return after || (counts && legs.every((leg) => leg !== null)) ? legs : null;
}

const writtenRule = (rule: Decided<RecurrenceRule>): Decided<WrittenCadence> =>
  rule.ok ? decided({ kind: 'rule', rule: printRule(rule.value) }) : rule;

/**
 * Reads how often visits come: what `sayCadence` says of one rule or of one counted from the last service, and how people
 * write it: “alternate Tuesdays”, “every 500 cycles or 3 months, whichever first”, “12 months after the last one”. A meter is
 * named by its units. RFC 5545 text is taken as well. Refused: what `readRuleWords` and `parseRule` refuse, two times or two meters in one.
 */
export function readCadenceWords(text: string): Decided<WrittenCadence> {
  if (/^\s*(?:RRULE:|FREQ=)/i.test(text)) return writtenRule(parseRule(text));
  const rule = readRuleWords(text);
  const legs = rule.ok ? null : legsOf(text);
  if (!legs) return writtenRule(rule);
  const times = legs.flatMap((leg) => (leg && 'time' in leg ? [leg.time] : []));
  const meters = legs.flatMap((leg) => (leg && 'units' in leg ? [leg] : []));
  if (times.length + meters.length < legs.length || times.length > 1 || meters.length > 1)
    return wrong('Counted from the last service: one time, one meter or both, as “500 cycles or 3 months”.');
  const [meter] = meters;
  return decided({
    kind: 'since service',
    time: times[0] ?? null,
    meter: meter ? { meter: meter.meter, every: meter.units, spanDays: USUAL_SPAN_DAYS } : null,
  });
}
