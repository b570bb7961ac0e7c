// Alerts: a limit rule watching one channel of one asset, with deadband and on-delay.
import { instant, type Instant } from '../time/index.ts';
import { sayUnit } from './senml.ts';

export type LimitRule = {
  readonly side: 'above' | 'below';
  readonly limit: number;
  /** The value must come back past the limit by this much before the alert ends; same unit as the limit. */
  readonly deadband: number;
  /** The condition must last this long before the alert is active. */
  readonly onDelayMs: number;
};

export type RuleState =
  | { readonly kind: 'normal' }
  | { readonly kind: 'pending'; readonly since: Instant; readonly worst: number }
  | { readonly kind: 'active'; readonly since: Instant; readonly worst: number };

/** What one reading changed: an alert became active at `since`, or returned to normal at `at`. */
export type AlertChange =
  | { readonly kind: 'became active'; readonly since: Instant; readonly worst: number }
  | { readonly kind: 'returned'; readonly since: Instant; readonly at: Instant; readonly worst: number };

export type Sample = { readonly at: Instant; readonly value: number };

export const NORMAL: RuleState = { kind: 'normal' };

const beyond = (rule: LimitRule, value: number): boolean =>
  rule.side === 'above' ? value > rule.limit : value < rule.limit;
const cleared = (rule: LimitRule, value: number): boolean =>
  rule.side === 'above' ? value <= rule.limit - rule.deadband : value >= rule.limit + rule.deadband;
const worse = (rule: LimitRule, a: number, b: number): number =>
  rule.side === 'above' ? Math.max(a, b) : Math.min(a, b);

/**
 * One step of the rule: the state after a sample, and the change it brought. Samples come in the order of their times.
 * The alert is active from the moment the on-delay ran out, as the next sample that is still beyond the limit confirms; a
 * condition that came back before then leaves no alert. It ends only when the value is back past limit and deadband.
 * Source: IEC 62682 (on-delay, deadband).
 */
export function watch(
  rule: LimitRule,
  state: RuleState,
  sample: Sample,
): { readonly state: RuleState; readonly change: AlertChange | null } {
  if (state.kind === 'active') {
    const worst = worse(rule, state.worst, sample.value);
    if (!cleared(rule, sample.value)) return { state: { ...state, worst }, change: null };
    return { state: NORMAL, change: { kind: 'returned', since: state.since, at: sample.at, worst: state.worst } };
  }
  if (!beyond(rule, sample.value)) return { state: NORMAL, change: null };
  const since = state.kind === 'pending' ? state.since : sample.at;
  const worst = state.kind === 'pending' ? worse(rule, state.worst, sample.value) : sample.value;
  if (sample.at - since < rule.onDelayMs) return { state: { kind: 'pending', since, worst }, change: null };
  const activeFrom = instant(since + rule.onDelayMs);
  return {
    state: { kind: 'active', since: activeFrom, worst },
    change: { kind: 'became active', since: activeFrom, worst },
  };
}

/** What an alert saw, in one line: channel, worst value and limit, with a true minus sign. */
export function sayExcess(
  rule: { readonly channel: string; readonly unit: string; readonly side: string; readonly threshold: number },
  worst: number,
): string {
  const unit = sayUnit(rule.unit);
  const measured = (value: number): string => `${value} ${unit}`.trim();
  return `${rule.channel} ${measured(worst)}, limit ${rule.side} ${measured(rule.threshold)}`.replace(/-/g, '−');
}
