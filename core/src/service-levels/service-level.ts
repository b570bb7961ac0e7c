// Service levels: per priority the targets for response, arrival, workaround and restoration, and which pauses count.
import type { WorkingTime } from '../calendars/index.ts';
import type { CalendarId, ServiceLevelId } from '../ids.ts';
import { decided, refusal, refused, type Decided } from '../refusal.ts';
import { USUAL_WARN_PERCENT, type Pledge, type WarningStep } from './pledge.ts';
import { MINUTE, sayDay, type Instant, type LocalDate } from '../time/index.ts';

/** A workaround: it does its work for now, if not as it should. */
export const TARGETS = ['response', 'arrival', 'workaround', 'restoration'] as const;
export type Target = (typeof TARGETS)[number];

export const PAUSE_REASONS = ['no access', 'customer asked for a later date', 'waiting for parts'] as const;
export type PauseReason = (typeof PAUSE_REASONS)[number];

/** As many as a provider may name. */
export const PRIORITIES = [1, 2, 3, 4, 5, 6, 7, 8, 9] as const;
export type Priority = (typeof PRIORITIES)[number];

/** What a provider calls its priorities, the first in front, as long as it says nothing else. */
export const USUAL_PRIORITIES: readonly string[] = [
  'down, stock or patients at risk',
  'works poorly',
  'can wait',
  'when somebody is there anyway',
];

/** Decides on the names of the priorities. Refused: fewer than four (upkeep is raised with the fourth), more than nine, and two alike. */
export function checkPriorities(names: readonly string[]): Decided<readonly string[]> {
  const trimmed = names.map((n) => n.trim());
  const wrong = (message: string) => refused(refusal('invalid', message, 'priorities'));
  if (trimmed.length < USUAL_PRIORITIES.length || trimmed.length > PRIORITIES.length)
    return wrong(
      `Name ${USUAL_PRIORITIES.length} to ${PRIORITIES.length} priorities; visits are raised with the fourth.`,
    );
  const empty = trimmed.indexOf('');
  if (empty >= 0) return wrong(`Priority ${empty + 1} has no name; write what it means.`);
  const twice = trimmed.find((n, i) => trimmed.findIndex((x) => x.toLowerCase() === n.toLowerCase()) < i);
  return twice === undefined ? decided(trimmed) : wrong(`Two priorities are called “${twice}”; name them apart.`);
}

/** One promised length: elapsed, or working time of a named calendar. */
export type TargetPromise =
  | { readonly minutes: number; readonly measure: 'elapsed' }
  | { readonly minutes: number; readonly measure: 'working'; readonly calendarId: CalendarId };

export type Promises = { readonly [T in Target]?: TargetPromise };

export type ServiceLevel = {
  readonly id: ServiceLevelId;
  readonly name: string;
  readonly targets: { readonly [P in Priority]?: Promises };
  readonly pauses: readonly PauseReason[];
  /** Beside the targets; nothing more than usual without one. */
  readonly pledge?: Pledge | null;
};

/** Gives the working time a promise is counted in. */
export type TimeOfPromise = (promise: TargetPromise) => WorkingTime;

export type GivenPromise = {
  readonly promise: TargetPromise;
  readonly serviceLevelId: ServiceLevelId;
  readonly pauses: readonly PauseReason[];
  /** Missing in promises given before service levels said when to warn. */
  readonly warnPercent?: number;
  /** Missing where nobody is warned. */
  readonly warnings?: readonly WarningStep[];
};
export type GivenPromises = { readonly [T in Target]?: GivenPromise };

/**
 * The strictest of several service levels: per target, the promise whose due instant comes first when its clock starts at
 * `start` (domain: Entitlement decision, 5). Ties keep the earlier level in the list. A promise whose calendar never
 * opens again gives no due instant and loses against any that has one.
 */
export function strictestPromises(
  levels: readonly ServiceLevel[],
  priority: Priority,
  start: Instant,
  timeOf: TimeOfPromise,
): GivenPromises {
  const given: { [T in Target]?: GivenPromise } = {};
  for (const target of TARGETS) {
    let best = Infinity;
    for (const level of levels) {
      const promise = level.targets[priority]?.[target];
      if (!promise) continue;
      const due = timeOf(promise).add(start, promise.minutes * MINUTE) ?? Number.MAX_SAFE_INTEGER;
      if (due >= best) continue;
      best = due;
      const warnings = level.pledge?.warnings ?? [];
      given[target] = {
        promise,
        serviceLevelId: level.id,
        pauses: level.pauses,
        warnPercent: level.pledge?.warnPercent ?? USUAL_WARN_PERCENT,
        ...(warnings.length > 0 && { warnings }),
      };
    }
  }
  return given;
}

/** Targets and pauses as they held until a day; the newest hold from the day after the last of them. */
export type PastPromises = Pick<ServiceLevel, 'targets' | 'pauses' | 'pledge'> & { readonly heldUntil: LocalDate };

/** A service level as it held on a day: the oldest of its past versions that was not over yet, else its newest. */
export function serviceLevelOn(newest: ServiceLevel, past: readonly PastPromises[], on: LocalDate): ServiceLevel {
  const held = past
    .filter((p) => on <= p.heldUntil)
    .reduce<PastPromises | null>((a, b) => (a === null || b.heldUntil < a.heldUntil ? b : a), null);
  return held ? { ...newest, targets: held.targets, pauses: held.pauses, pledge: held.pledge ?? null } : newest;
}

/** Decides from when a changed service level holds. Refused: a day on or before the start of its newest version. */
export function checkNewVersion(from: LocalDate, newest: LocalDate | null): Decided<LocalDate> {
  return newest !== null && from <= newest
    ? refused(refusal('conflict', `Its newest version holds from ${sayDay(newest)}; give a later day.`, 'holdsFrom'))
    : decided(from);
}
