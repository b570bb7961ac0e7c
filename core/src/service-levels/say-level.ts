// A service level in sentences, as a customer reads them.
import type { CalendarId } from '../ids.ts';
import { MINUTE, sayLength } from '../time/index.ts';
import {
  PRIORITIES,
  TARGETS,
  type PauseReason,
  type Priority,
  type Promises,
  type ServiceLevel,
  type Target,
  type TargetPromise,
} from './service-level.ts';

export type LevelNames = {
  readonly calendar: (id: CalendarId) => string;
  readonly priority: (priority: Priority) => string;
};

const PROMISED: Readonly<Record<Target, string>> = {
  response: 'you hear who comes',
  arrival: 'somebody is on site',
  workaround: 'it works for now',
  restoration: 'it is back in use',
};
const STANDS_STILL: Readonly<Record<PauseReason, string>> = {
  'no access': 'nobody can let us in',
  'customer asked for a later date': 'you ask for a later date',
  'waiting for parts': 'we wait for parts',
};
const PERCENT = 100;
const percent = (hundredths: number): string => `${hundredths / PERCENT} %`;

/** "a", "a and b", "a, b and c". */
const listed = (words: readonly string[], last: 'and' | 'or'): string =>
  words.length < 2 ? (words[0] ?? '') : `${words.slice(0, -1).join(', ')} ${last} ${words.at(-1)}`;

const measureOf = (promise: TargetPromise, { calendar }: LevelNames): string =>
  promise.measure === 'elapsed' ? 'around the clock' : `counted in the hours of ${calendar(promise.calendarId)}`;

/** What one priority promises: lengths that are counted alike stand together. */
function sayPromises(promises: Promises, names: LevelNames): string {
  const parts: { readonly measure: string; readonly said: string[] }[] = [];
  for (const target of TARGETS) {
    const promise = promises[target];
    if (!promise) continue;
    const measure = measureOf(promise, names);
    const said = `${PROMISED[target]} within ${sayLength(promise.minutes * MINUTE, 'as hours')}`;
    const before = parts.at(-1);
    if (before?.measure === measure) before.said.push(said);
    else parts.push({ measure, said: [said] });
  }
  return parts.map(({ measure, said }) => `${listed(said, 'and')}, ${measure}`).join('; ');
}

/**
 * A service level as sentences: each priority that promises something, what stops the clocks, and what is pledged beside them. Whom we
 * warn is ours and not said. Source: issue of Standing (shown as a sentence a customer understands).
 */
export function sayLevel(
  { targets, pauses, pledge }: Pick<ServiceLevel, 'targets' | 'pauses' | 'pledge'>,
  names: LevelNames,
): string[] {
  const promised = PRIORITIES.flatMap((p) => {
    const said = sayPromises(targets[p] ?? {}, names);
    return said === '' ? [] : [`Priority ${p}, ${names.priority(p)}: ${said}.`];
  });
  const { availability = null, upkeep = null, tiers = [], cap = null } = pledge ?? {};
  const [first, ...lower] = tiers;
  return [
    ...promised,
    ...(pauses.length > 0
      ? [
          `Time stands still while ${listed(
            pauses.map((p) => STANDS_STILL[p]),
            'or',
          )}.`,
        ]
      : ['Nothing stops the time that is counted.']),
    ...(availability
      ? [
          `Machines are available ${percent(availability.target)} of the time, ${
            availability.calendarId === null
              ? 'around the clock'
              : `counted in the hours of ${names.calendar(availability.calendarId)}`
          }.`,
        ]
      : []),
    ...(upkeep ? [`${percent(upkeep.target)} of the upkeep visits are done in their windows.`] : []),
    ...(first
      ? [
          [
            `Where fewer than ${percent(first.below)} of a period’s promises are kept, ${percent(first.credit)} of its fee is credited`,
            ...lower.map((t) => `below ${percent(t.below)} it is ${percent(t.credit)}`),
            ...(cap === null ? [] : [`never more than ${percent(cap)}`]),
          ].join('; ') + '.',
        ]
      : []),
  ];
}
