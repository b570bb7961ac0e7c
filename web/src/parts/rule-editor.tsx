// The schedule editor's rule: readable choices, the sentence, the RRULE text, and the next dates while typing.
import type { EditedRule, MonthPoint } from '#core/recurrence/index.ts';
import { SHORT_MONTHS, type Weekday } from '#core/time/index.ts';
import { CountField, SelectField, Ticks } from './fields.tsx';

export const WEEKDAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'] as const;
const MONTHS = SHORT_MONTHS;
const ORDINALS = [
  ['1', 'first'],
  ['2', 'second'],
  ['3', 'third'],
  ['4', 'fourth'],
  ['-1', 'last'],
] as const;

const START: Record<EditedRule['every'], EditedRule> = {
  day: { every: 'day', interval: 1 },
  week: { every: 'week', interval: 2, weekdays: [2] },
  month: { every: 'month', interval: 3, months: [], on: { kind: 'weekday', ordinal: 1, weekday: 2 } },
  year: { every: 'year', interval: 1, month: 4, on: { kind: 'weekday', ordinal: 1, weekday: 2 } },
};

const POINTS: Readonly<Record<MonthPoint['kind'], MonthPoint>> = {
  day: { kind: 'day', day: 25, short: 'clamp' },
  weekday: { kind: 'weekday', ordinal: 1, weekday: 2 },
  'working day': { kind: 'working day', ordinal: -1 },
};

function PointEditor({ on, change }: { on: MonthPoint; change: (on: MonthPoint) => void }) {
  return (
    <>
      <SelectField
        label="On"
        value={on.kind}
        onChange={(kind) => change(POINTS[kind as MonthPoint['kind']])}
        options={[
          ['weekday', 'a weekday'],
          ['working day', 'a working day'],
          ['day', 'a day of the month'],
        ]}
      />
      {on.kind !== 'day' ? (
        <>
          <SelectField
            label="Which"
            value={String(on.ordinal)}
            onChange={(v) => change({ ...on, ordinal: Number(v) })}
            options={ORDINALS}
          />
          {on.kind === 'weekday' && (
            <SelectField
              label="Weekday"
              value={String(on.weekday)}
              onChange={(v) => change({ ...on, weekday: Number(v) as Weekday })}
              options={WEEKDAYS.map((d, i) => [String(i + 1), d])}
            />
          )}
        </>
      ) : (
        <>
          <CountField label="Day" value={on.day} min={1} max={31} onChange={(day) => change({ ...on, day })} />
          {on.day > 28 && (
            <SelectField
              label="In shorter months"
              value={on.short}
              onChange={(v) => change({ ...on, short: v as 'clamp' | 'skip' })}
              options={[
                ['clamp', 'the last day'],
                ['skip', 'left out'],
              ]}
            />
          )}
        </>
      )}
    </>
  );
}

export function RuleEditor({ rule, change }: { rule: EditedRule; change: (rule: EditedRule) => void }) {
  return (
    <div className="space-y-2">
      <div className="grid grid-cols-5 gap-3">
        <SelectField
          label="Every"
          value={rule.every}
          onChange={(v) => change(START[v as EditedRule['every']])}
          options={[
            ['day', 'day'],
            ['week', 'week'],
            ['month', 'month'],
            ['year', 'year'],
          ]}
        />
        <CountField
          label={`Number of ${rule.every}s between`}
          value={rule.interval}
          min={1}
          max={1000}
          onChange={(interval) => change({ ...rule, interval })}
        />
        {rule.every === 'year' && (
          <SelectField
            label="Month"
            value={String(rule.month)}
            onChange={(v) => change({ ...rule, month: Number(v) })}
            options={MONTHS.map((m, i) => [String(i + 1), m])}
          />
        )}
        {(rule.every === 'month' || rule.every === 'year') && (
          <PointEditor on={rule.on} change={(on) => change({ ...rule, on })} />
        )}
      </div>
      {rule.every === 'week' && (
        <Ticks
          label="On"
          values={WEEKDAYS}
          chosen={rule.weekdays.map((d) => WEEKDAYS[d - 1] as (typeof WEEKDAYS)[number])}
          onChange={(days) =>
            days.length > 0 &&
            change({ ...rule, weekdays: days.map((d) => (WEEKDAYS.indexOf(d) + 1) as Weekday).sort() })
          }
        />
      )}
      {rule.every === 'month' && (
        <Ticks
          label="Only in (none ticked: every month)"
          values={MONTHS}
          chosen={rule.months.map((m) => MONTHS[m - 1] as (typeof MONTHS)[number])}
          onChange={(months) =>
            change({ ...rule, months: months.map((m) => MONTHS.indexOf(m) + 1).sort((a, b) => a - b) })
          }
        />
      )}
    </div>
  );
}
