// A rule in the words and the text that fields take it in.
import {
  parseRule,
  printRule,
  readRuleWords,
  ruleFromEdit,
  sayRule,
  type EditedRule,
  type RecurrenceRule,
} from '#core/recurrence/index.ts';
import type { Decided } from '#core/refusal.ts';
import type { LocalDate } from '#core/time/index.ts';
import { readCadence, sayCadence, type WrittenCadence } from '#core/upkeep/index.ts';

export const FIRST_RULE: EditedRule = {
  every: 'month',
  interval: 3,
  months: [],
  on: { kind: 'weekday', ordinal: 1, weekday: 2 },
};
export const FIRST_RULE_TEXT = printRule(ruleFromEdit(FIRST_RULE));

/** Words, or RFC 5545 text. */
export const readRule = (text: string): Decided<RecurrenceRule> =>
  /^\s*(?:RRULE:|FREQ=)/i.test(text) ? parseRule(text) : readRuleWords(text);

/** What leaves its day to the day it counts from is said as of a first of January. */
const ANY_DAY = '2028-01-01' as LocalDate;

/** A rule in words; what cannot be read stays as it was typed. */
export function saidRule(text: string): string {
  const rule = parseRule(text);
  return rule.ok ? sayRule(rule.value, ANY_DAY, text) : text;
}

/** A cadence of one rule, as fields hold it. */
export type OneRule = Exclude<WrittenCadence, { kind: 'phases' }>;

/** In words; what no words say is its RFC 5545 text, and what cannot be read stays as it was typed. */
export function saidCadence(cadence: OneRule, anchor: LocalDate): string {
  const read = readCadence(cadence, anchor);
  return read.ok ? sayCadence(read.value) : cadence.kind === 'rule' ? cadence.rule : '';
}
