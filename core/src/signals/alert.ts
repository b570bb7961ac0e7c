// Alert rules: what they watch, of which machines, and how they and their alerts are said.
import type { Condition, Sample } from './condition.ts';
import type { Delays } from './delay.ts';
import { sayUnit } from './senml.ts';
import type { SeriesRule } from './watching.ts';

/** How a channel is watched. Delays and hold in seconds. */
export type Watching = {
  readonly channel: string;
  readonly unit: string;
  readonly condition: Condition;
  readonly onDelaySeconds: number;
  readonly offDelaySeconds: number;
  /** How long a value counts where no other follows. */
  readonly holdSeconds: number;
};

export const seriesRule = ({ condition, onDelaySeconds, offDelaySeconds, holdSeconds }: Watching): SeriesRule => ({
  ...{ condition, holdMs: holdSeconds * 1000 },
  delays: { onMs: onDelaySeconds * 1000, offMs: offDelaySeconds * 1000 } satisfies Delays,
});

/** Whose a rule is: a class, one model of it, or one machine. */
export type RuleScope = {
  readonly assetClassId: number;
  readonly model: string | null;
  readonly assetId: number | null;
};
type Machine = { readonly id: number; readonly classId: number; readonly model: string };

/** How near a rule is to a machine: its own 3, its model's 2, its class's 1; 0: it is not meant. */
export function nearness({ assetClassId, model, assetId }: RuleScope, machine: Machine): 0 | 1 | 2 | 3 {
  if (assetClassId !== machine.classId) return 0;
  if (assetId !== null) return assetId === machine.id ? 3 : 0;
  if (model === null) return 1;
  return model.toLowerCase() === machine.model.toLowerCase() ? 2 : 0;
}

/**
 * The rules a machine is watched by: of those of one name the nearest, unless that says that it is not watched.
 * Source: issue of Signals (inheritance by class, model and machine).
 */
export function nearestRules<R extends RuleScope & { readonly name: string; readonly watched: boolean }>(
  rules: readonly R[],
  machine: Machine,
): R[] {
  const nearest = new Map<string, R>();
  for (const rule of rules) {
    const near = nearness(rule, machine);
    const known = nearest.get(rule.name.toLowerCase());
    if (near > 0 && (!known || near > nearness(known, machine))) nearest.set(rule.name.toLowerCase(), rule);
  }
  return [...nearest.values()].filter((rule) => rule.watched);
}

/** Limits to be drawn beside the values of a channel. */
export function drawnLimits(condition: Condition): { readonly limit: number; readonly side: 'above' | 'below' }[] {
  if (condition.kind === 'limit') return [{ limit: condition.limit, side: condition.side }];
  if (condition.kind !== 'band') return [];
  return [
    { limit: condition.high, side: 'above' },
    { limit: condition.low, side: 'below' },
  ];
}

/** The limit that an alert is beyond; null: it is of none. */
export function crossedLimit(condition: Condition, worst: number | null): number | null {
  if (condition.kind === 'limit') return condition.limit;
  if (condition.kind !== 'band' || worst === null) return null;
  return worst > condition.high ? condition.high : condition.low;
}

const withMinus = (text: string): string => text.replace(/-(?=\d)/g, '−');
const within = (seconds: number): string =>
  seconds % 3600 === 0 ? `${seconds / 3600} h` : seconds % 60 === 0 ? `${seconds / 60} min` : `${seconds} s`;

type Said = Pick<Watching, 'channel' | 'unit' | 'condition'>;

/** What a rule finds abnormal, in one line, with a true minus sign. */
export function sayRule({ channel, unit, condition: c }: Said): string {
  const measured = (value: number): string => `${value} ${sayUnit(unit)}`.trim();
  switch (c.kind) {
    case 'limit':
      return withMinus(`${channel} ${c.side} ${measured(c.limit)}`);
    case 'band':
      return withMinus(`${channel} outside ${c.low} to ${measured(c.high)}`);
    case 'rate':
      return withMinus(`${channel} ${c.side} more than ${measured(c.perHour)} an hour, over ${within(c.spanSeconds)}`);
    case 'silence':
      return `${channel} says nothing for ${within(c.spanSeconds)}`;
    case 'state':
      return `${channel} is “${c.equals}”`;
    case 'count':
      return `${channel} becomes “${c.equals}” more than ${c.most} times in ${within(c.spanSeconds)}`;
    case 'parts':
      return `${c.by === 'all' ? 'all of' : 'any of'} ${c.of.map((name) => `“${name}”`).join(', ')}`;
  }
}

/** A rule as it was when it found an alert: what is said of that stays, whatever the rule becomes. */
export const ruleThen = ({
  channel,
  unit,
  condition,
  onDelaySeconds,
  offDelaySeconds,
  holdSeconds,
}: Watching): Watching => ({
  ...{ channel, unit, condition, onDelaySeconds, offDelaySeconds, holdSeconds },
});

/** A rule in one line, with how long it waits. */
export function sayRuleWithDelays(rule: Watching): string {
  const delays = [
    ...(rule.onDelaySeconds > 0 ? [`for ${within(rule.onDelaySeconds)}`] : []),
    ...(rule.offDelaySeconds > 0 ? [`back after ${within(rule.offDelaySeconds)} of normal`] : []),
  ];
  return [sayRule(rule), ...delays].join(', ');
}

/** What an alert saw, in one line: channel, worst measure and what was allowed. */
export function sayExcess(rule: Said, worst: number | null): string {
  const { channel, unit, condition: c } = rule;
  const measured = (value: number): string => `${Number(value.toPrecision(4))} ${sayUnit(unit)}`.trim();
  if (worst === null || c.kind === 'silence' || c.kind === 'state' || c.kind === 'parts') return sayRule(rule);
  switch (c.kind) {
    case 'limit':
      return withMinus(`${channel} ${measured(worst)}, limit ${c.side} ${measured(c.limit)}`);
    case 'band':
      return withMinus(`${channel} ${measured(worst)}, outside ${c.low} to ${measured(c.high)}`);
    case 'rate':
      return withMinus(`${channel} ${c.side} ${measured(Math.abs(worst))} an hour, at most ${measured(c.perHour)}`);
    case 'count':
      return `${channel} “${c.equals}” ${worst} times, at most ${c.most} in ${within(c.spanSeconds)}`;
  }
}

/** A reading as rules take it: yes and no as 1 and 0. */
export const asSample = ({
  at,
  value,
}: {
  readonly at: Sample['at'];
  readonly value: Sample['value'] | boolean;
}): Sample => ({
  at,
  value: typeof value === 'boolean' ? Number(value) : value,
});
