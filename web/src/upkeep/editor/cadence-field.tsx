// How often visits come: one rule in words, by choices or as RFC 5545 text, or phases of the year.
import { useState } from 'react';
import type { Reference } from '#api/setup.ts';
import { editOfRule, parseRule, printRule, ruleFromEdit, type EditedRule } from '#core/recurrence/index.ts';
import { parseLocalDate, type LocalDate } from '#core/time/index.ts';
import { readCadenceWords, type WrittenCadence } from '#core/upkeep/index.ts';
import { SelectField } from '../../parts/fields.tsx';
import { RuleEditor } from '../../parts/rule-editor.tsx';
import { SpokenField } from '../../parts/spoken-field.tsx';
import { Wire } from '../../parts/wire-form.tsx';
import { setupApi } from '../../setup/index.ts';
import { FIRST_PHASES, Phases } from './phases.tsx';
import { FIRST_RULE, FIRST_RULE_TEXT, saidCadence, type OneRule } from './rule-words.ts';

const EXAMPLES = [
  'alternate Tuesdays',
  'March and September',
  'last working day of the quarter',
  'every 500 cycles or 3 months, whichever first',
  '12 months after the last one',
];

function editedOf(cadence: OneRule, anchor: LocalDate): EditedRule | null {
  if (cadence.kind !== 'rule') return null;
  const rule = parseRule(cadence.rule);
  return rule.ok ? editOfRule(rule.value, anchor) : null;
}

type Counting = Extract<WrittenCadence, { kind: 'since service' }>;

/** Which of the meters that classes have is counted: words name it as somebody calls it. */
function MeterField({ cadence, change }: { cadence: Counting; change: (cadence: WrittenCadence) => void }) {
  const classes = setupApi.useReadCatalogueQuery().data?.classes;
  const { meter } = cadence;
  if (!meter || !classes) return null;
  const known = [...new Set(classes.flatMap((c) => c.meters.map((m) => m.name)))].sort();
  const isKnown = known.includes(meter.meter);
  return (
    <SelectField
      className="w-72"
      label="Which meter is counted"
      value={meter.meter}
      onChange={(name) => change({ ...cadence, meter: { ...meter, meter: name } })}
      options={[
        ...(isKnown ? [] : [[meter.meter, `${meter.meter} (no class has it)`] as const]),
        ...known.map((n) => [n, n] as const),
      ]}
      hint={isKnown ? undefined : 'Machines without such a meter yield no date; choose one that their class has.'}
    />
  );
}

function OneRuleField({
  cadence,
  anchor,
  change,
  error,
}: {
  cadence: OneRule;
  anchor: LocalDate;
  change: (cadence: WrittenCadence) => void;
  error: string | undefined;
}) {
  const [choosing, setChoosing] = useState(false);
  // Made anew where the choices wrote the rule, so that the words follow.
  const [written, setWritten] = useState(0);
  const edited = editedOf(cadence, anchor);
  return (
    <div className="space-y-2">
      <SpokenField
        key={written}
        label="How often"
        said={saidCadence(cadence, anchor)}
        read={readCadenceWords}
        onRead={change}
        onUnread={(text) => change({ kind: 'rule', rule: text })}
        examples={choosing ? [] : EXAMPLES}
        error={error}
      />
      <p className="quiet">
        {cadence.kind === 'rule' && parseRule(cadence.rule).ok && (
          <>
            <span className="serial">{cadence.rule}</span> ·{' '}
          </>
        )}
        <button type="button" className="link-ink" aria-expanded={choosing} onClick={() => setChoosing(!choosing)}>
          {choosing ? 'write it in words' : 'choose it part by part'}
        </button>
      </p>
      {cadence.kind === 'since service' && (
        <MeterField
          cadence={cadence}
          change={(next) => {
            change(next);
            setWritten(written + 1);
          }}
        />
      )}
      {choosing && (
        <RuleEditor
          rule={edited ?? FIRST_RULE}
          change={(rule) => {
            change({ kind: 'rule', rule: printRule(ruleFromEdit(rule)) });
            setWritten(written + 1);
          }}
        />
      )}
    </div>
  );
}

const FIRST: WrittenCadence = { kind: 'rule', rule: FIRST_RULE_TEXT };

export function CadenceField({ anchor, jobPlans }: { anchor: string; jobPlans: Reference['jobPlans'] }) {
  const counted = parseLocalDate(anchor) ?? ('2026-01-01' as LocalDate);
  return (
    <Wire<WrittenCadence> name="cadence">
      {({ value, change, error }) => (
        <div className="grid grid-cols-6 gap-4">
          <SelectField
            label="Visits come"
            value={value.kind === 'phases' ? 'phases' : 'rule'}
            onChange={(kind) => change(kind === 'phases' ? FIRST_PHASES : FIRST)}
            options={[
              ['rule', 'by one rule'],
              ['phases', 'by phases'],
            ]}
          />
          <div className="col-span-5">
            {value.kind === 'phases' ? (
              <Phases cadence={value} change={change} jobPlans={jobPlans} error={error} />
            ) : (
              <OneRuleField cadence={value} anchor={counted} change={change} error={error} />
            )}
          </div>
        </div>
      )}
    </Wire>
  );
}
