// Cadences and turns as they are written down and sent: rules as RFC 5545 text, job plans by id.
import type { JobPlanId } from '../ids.ts';
import { parseRule, printRule, type RecurrenceRule } from '../recurrence/index.ts';
import { decided, refused, type Decided, type Refusal } from '../refusal.ts';
import type { LocalDate } from '../time/index.ts';
import type { Cadence, Interval, MeterLeg, MonthDay, MonthFactors, Phase } from './cadence.ts';
import type { Turn } from './course.ts';

export type WrittenPhase = {
  readonly name: string;
  readonly from: MonthDay;
  readonly to: MonthDay;
  readonly rule: string;
  readonly jobPlanId: JobPlanId | null;
  readonly factors: MonthFactors | null;
};

export type WrittenCadence =
  | { readonly kind: 'rule'; readonly rule: string }
  | { readonly kind: 'phases'; readonly phases: readonly WrittenPhase[] }
  | { readonly kind: 'since service'; readonly time: Interval | null; readonly meter: MeterLeg | null };

type Written<T> = T extends { readonly rule: RecurrenceRule } ? Omit<T, 'rule'> & { readonly rule: string } : T;
export type WrittenTurn = Written<Turn>;

export type MinutesOfPlan = (id: JobPlanId) => number;

/** Rules are read once: many schedules go by the same text. */
const known = new Map<string, Decided<RecurrenceRule>>();
const MOST_KNOWN = 10_000;

function ruleOf(text: string): Decided<RecurrenceRule> {
  let read = known.get(text);
  if (!read) {
    if (known.size >= MOST_KNOWN) known.clear();
    known.set(text, (read = parseRule(text)));
  }
  return read;
}

const at = (field: string, refusals: readonly Refusal[]): Refusal[] => refusals.map((r) => ({ ...r, field }));

function readPhases(phases: readonly WrittenPhase[], minutesOf: MinutesOfPlan): Decided<Phase[]> {
  const read: Phase[] = [];
  const found: Refusal[] = [];
  for (const [i, { jobPlanId, rule: text, ...phase }] of phases.entries()) {
    const rule = ruleOf(text);
    if (!rule.ok) found.push(...at(`cadence.phases.${i}.rule`, rule.refusals));
    else
      read.push({
        ...phase,
        rule: rule.value,
        work: jobPlanId === null ? null : { jobPlanId, minutes: minutesOf(jobPlanId) },
      });
  }
  return found.length > 0 ? refused(...found) : decided(read);
}

/** Reads a cadence that somebody wrote; phases with a job plan of their own take that plan’s minutes. Refused: rules that `parseRule` refuses. */
export function readCadence(
  written: WrittenCadence,
  anchor: LocalDate,
  minutesOf: MinutesOfPlan = () => 0,
): Decided<Cadence> {
  switch (written.kind) {
    case 'rule': {
      const rule = ruleOf(written.rule);
      return rule.ok
        ? decided({ kind: 'rule', rule: rule.value, anchor })
        : refused(...at('cadence.rule', rule.refusals));
    }
    case 'since service':
      return decided({ ...written, since: anchor });
    case 'phases': {
      const phases = readPhases(written.phases, minutesOf);
      return phases.ok ? decided({ kind: 'phases', anchor, phases: phases.value }) : phases;
    }
  }
}

/** A cadence that the program itself wrote down; one that cannot be read is a fault. */
export function cadenceOf(
  { cadence, anchor }: { readonly cadence: WrittenCadence; readonly anchor: LocalDate },
  minutesOf?: MinutesOfPlan,
): Cadence {
  const read = readCadence(cadence, anchor, minutesOf);
  if (!read.ok) throw new Error(`a cadence that cannot be read was written down: ${JSON.stringify(cadence)}`);
  return read.value;
}

export function writtenCadence(cadence: Cadence): WrittenCadence {
  switch (cadence.kind) {
    case 'rule':
      return { kind: 'rule', rule: printRule(cadence.rule) };
    case 'since service':
      return { kind: 'since service', time: cadence.time, meter: cadence.meter };
    case 'phases':
      return {
        kind: 'phases',
        phases: cadence.phases.map(({ work, rule, ...phase }) => ({
          ...phase,
          rule: printRule(rule),
          jobPlanId: work?.jobPlanId ?? null,
        })),
      };
  }
}

export function turnsOf(written: readonly WrittenTurn[]): Turn[] {
  return written.map((turn) => {
    if (turn.kind !== 'rule') return turn;
    const rule = ruleOf(turn.rule);
    if (!rule.ok) throw new Error(`a turn that cannot be read was written down: ${turn.rule}`);
    return { ...turn, rule: rule.value };
  });
}

export const writtenTurn = (turn: Turn): WrittenTurn =>
  turn.kind === 'rule' ? { ...turn, rule: printRule(turn.rule) } : turn;
