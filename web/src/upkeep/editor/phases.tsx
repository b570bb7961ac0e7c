// Phases of the year: each from a day to a day, with a rule of its own.
import { Plus, X } from 'lucide-react';
import type { Reference } from '#api/setup.ts';
import type { JobPlanId } from '#core/ids.ts';
import { printRule } from '#core/recurrence/index.ts';
import { readTypedDate, SHORT_MONTHS, type LocalDate } from '#core/time/index.ts';
import { decided, refusal, refused, type Decided } from '#core/refusal.ts';
import type { MonthDay, WrittenCadence, WrittenPhase } from '#core/upkeep/index.ts';
import { SelectField, TextField } from '../../parts/fields.tsx';
import { SpokenField } from '../../parts/spoken-field.tsx';
import { readRule, saidRule } from './rule-words.ts';

type Phased = Extract<WrittenCadence, { kind: 'phases' }>;

export const FIRST_PHASES: Phased = {
  kind: 'phases',
  phases: [
    {
      name: 'Summer',
      from: { month: 5, day: 1 },
      to: { month: 9, day: 30 },
      rule: 'FREQ=WEEKLY;BYDAY=MO',
      jobPlanId: null,
      factors: null,
    },
    {
      name: 'Winter',
      from: { month: 10, day: 1 },
      to: { month: 4, day: 30 },
      rule: 'FREQ=DAILY;INTERVAL=10',
      jobPlanId: null,
      factors: null,
    },
  ],
};

/** A year with a 29th of February, in which a day of any year is read. */
const LEAP = '2028-01-01' as LocalDate;
const sayMonthDay = ({ month, day }: MonthDay): string => `${day} ${SHORT_MONTHS[month - 1] ?? ''}`;

function readMonthDay(text: string): Decided<MonthDay> {
  const date = readTypedDate(text, LEAP);
  return date?.startsWith('2028')
    ? decided({ month: Number(date.slice(5, 7)), day: Number(date.slice(8)) })
    : refused(refusal('invalid', 'A day of the year, such as 1 May.', 'day'));
}

function PhaseRow({
  phase,
  change,
  remove,
  jobPlans,
}: {
  phase: WrittenPhase;
  change: (phase: WrittenPhase) => void;
  remove: (() => void) | null;
  jobPlans: Reference['jobPlans'];
}) {
  const day = (label: string, which: 'from' | 'to') => (
    <SpokenField
      label={label}
      said={sayMonthDay(phase[which])}
      read={readMonthDay}
      onRead={(value) => change({ ...phase, [which]: value })}
      // A day that no month has: refused as the phase it stands in.
      onUnread={() => change({ ...phase, [which]: { month: 2, day: 31 } })}
    />
  );
  return (
    <div className="grid grid-cols-[1fr_6rem_6rem_2fr_1.3fr_1.5rem] items-start gap-3">
      <TextField label="Phase" value={phase.name} onChange={(name) => change({ ...phase, name })} />
      {day('From', 'from')}
      {day('To', 'to')}
      <SpokenField
        label="How often"
        said={saidRule(phase.rule)}
        read={readRule}
        onRead={(rule) => change({ ...phase, rule: printRule(rule) })}
        onUnread={(rule) => change({ ...phase, rule })}
      />
      <SelectField
        label="Job plan"
        value={phase.jobPlanId === null ? '' : String(phase.jobPlanId)}
        onChange={(id) => change({ ...phase, jobPlanId: id === '' ? null : (Number(id) as JobPlanId) })}
        options={[['', 'the schedule’s'], ...jobPlans.map((p) => [String(p.id), p.name] as const)]}
      />
      {remove && (
        <button type="button" className="mt-6 link-ink" aria-label={`Remove the phase ${phase.name}`} onClick={remove}>
          <X size={15} aria-hidden />
        </button>
      )}
    </div>
  );
}

export function Phases({
  cadence: { phases },
  change,
  jobPlans,
  error,
}: {
  cadence: Phased;
  change: (cadence: Phased) => void;
  jobPlans: Reference['jobPlans'];
  error: string | undefined;
}) {
  const set = (next: readonly WrittenPhase[]): void => change({ kind: 'phases', phases: next });
  return (
    <div className="space-y-2">
      {phases.map((phase, i) => (
        <PhaseRow
          // A phase is known by its place in the list.
          key={i}
          phase={phase}
          change={(next) => set(phases.map((p, k) => (k === i ? next : p)))}
          remove={phases.length > 1 ? () => set(phases.filter((_, k) => k !== i)) : null}
          jobPlans={jobPlans}
        />
      ))}
      {error && <p className="text-missed">✕ {error}</p>}
      <button
        type="button"
        className="link-ink quiet flex items-center gap-1"
        onClick={() =>
          set([
            ...phases,
            {
              name: `Phase ${phases.length + 1}`,
              from: { month: 1, day: 1 },
              to: { month: 1, day: 31 },
              rule: 'FREQ=WEEKLY',
              jobPlanId: null,
              factors: null,
            },
          ])
        }
      >
        <Plus size={14} aria-hidden /> another phase
      </button>
    </div>
  );
}
