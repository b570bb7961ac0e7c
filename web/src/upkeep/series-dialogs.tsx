// Changing one visit of a schedule, or it and all later ones.
import { useState, type ReactNode } from 'react';
import { changeSeries, type ScheduleSeries, type SeriesVisit } from '#api/schedules.ts';
import { printRule } from '#core/recurrence/index.ts';
import { weekdayOf } from '#core/time/index.ts';
import { WEEKDAYS } from '../parts/rule-editor.tsx';
import { SpokenField } from '../parts/spoken-field.tsx';
import { sayDate } from '../parts/words.ts';
import { WireDate, WireNumber, WireSelect, WireText, WireTick } from '../parts/wire-fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { Dialog } from '../shell/dialog.tsx';
import { FIRST_RULE_TEXT, readRule, saidRule } from './editor/rule-words.ts';
import { upkeepApi } from './endpoints.ts';

export type Changing = {
  readonly kind: 'move' | 'skip' | 'add' | 'revert' | 'from here on';
  /** Null where one is added. */
  readonly visit: SeriesVisit | null;
};

type Turned = 'weekday' | 'work' | 'rule' | 'ends';
type DialogOf = {
  series: ScheduleSeries;
  changing: Changing;
  onClose: () => void;
  /** Dates whose changes lapsed. */
  onDone: (lapsed: readonly string[]) => void;
};

/** What is sent to begin with. */
function blank({ kind, visit }: Changing, turned: Turned) {
  const nominal = visit?.nominal ?? '';
  switch (kind) {
    case 'move':
      return { kind, nominal, to: visit?.planned ?? '', agreed: false };
    case 'skip':
      return { kind, nominal, reason: '' };
    case 'add':
      return { kind, on: '' };
    case 'revert':
      return { kind, nominal };
    case 'from here on':
      return { kind, turn: blankTurn(visit, turned) };
  }
}

function blankTurn(visit: SeriesVisit | null, turned: Turned) {
  const from = visit?.nominal ?? '';
  switch (turned) {
    case 'weekday':
      return { kind: turned, from, now: visit ? weekdayOf(visit.planned) : 1 };
    case 'work':
      return { kind: turned, from, minutes: visit?.minutes ?? 60, crew: visit?.crew ?? 1 };
    case 'rule':
      return { kind: turned, from, rule: FIRST_RULE_TEXT };
    case 'ends':
      return { kind: turned, from, reason: '' };
  }
}

function RuleField() {
  return (
    <Wire<string> name="change.turn.rule">
      {({ value, change, error }) => (
        <SpokenField
          label="How often"
          said={saidRule(value)}
          read={readRule}
          onRead={(rule) => change(printRule(rule))}
          onUnread={change}
          examples={['every 3 months on the first Monday', 'alternate Tuesdays', '25th of every month']}
          error={error}
        />
      )}
    </Wire>
  );
}

function TurnFields({ turned }: { turned: Turned }) {
  switch (turned) {
    case 'weekday':
      return (
        <WireSelect
          name="change.turn.now"
          label="Weekday"
          options={WEEKDAYS.map((d, i) => [i + 1, d] as const)}
          hint="Each visit stays in its week; none is lost."
        />
      );
    case 'work':
      return (
        <div className="grid grid-cols-2 gap-3">
          <WireNumber name="change.turn.minutes" label="Minutes of work" min={1} />
          <WireNumber name="change.turn.crew" label="Crew" min={1} max={20} />
        </div>
      );
    case 'rule':
      return <RuleField />;
    case 'ends':
      return <WireText name="change.turn.reason" label="Why" />;
  }
}

const TURNS: readonly [Turned, string][] = [
  ['weekday', 'another weekday'],
  ['work', 'another duration or crew'],
  ['rule', 'another rule'],
  ['ends', 'no more visits'],
];

function titleOf({ kind, visit }: Changing): string {
  const day = visit ? sayDate(visit.planned) : '';
  switch (kind) {
    case 'move':
      return `Move the visit of ${day}`;
    case 'skip':
      return `Leave out the visit of ${day}`;
    case 'add':
      return 'Add a visit';
    case 'revert':
      return `The visit of ${day} as the rule says`;
    case 'from here on':
      return `From the visit of ${day} on`;
  }
}

const SAVE: Readonly<Record<Changing['kind'], string>> = {
  move: 'Move the visit',
  skip: 'Leave it out',
  add: 'Add the visit',
  revert: 'Take the change back',
  'from here on': 'Change this and all later visits',
};

function Fields({ kind }: { kind: Changing['kind'] }): ReactNode {
  switch (kind) {
    case 'move':
      return (
        <>
          <WireDate name="change.to" label="To" />
          <WireTick
            name="change.agreed"
            label="agreed with the customer: the due date and the window move too"
            className=""
          />
        </>
      );
    case 'skip':
      return <WireText name="change.reason" label="Why" autoFocus />;
    case 'add':
      return <WireDate name="change.on" label="On" />;
    case 'revert':
      return <p>Its day, work and everything else are again as the schedule says.</p>;
    case 'from here on':
      return null;
  }
}

function Form({
  series,
  changing,
  onClose,
  onDone,
  turned,
  children,
}: DialogOf & { turned: Turned; children: ReactNode }) {
  const [change] = upkeepApi.useChangeSeriesMutation();
  const form = useWireForm(changeSeries, { version: series.version, change: blank(changing, turned) } as never);
  return (
    <WireForm
      form={form}
      name={titleOf(changing)}
      save={SAVE[changing.kind]}
      send={(body) => change({ params: { id: String(series.id) }, body })}
      onDone={(answer) => onDone(answer.lapsed)}
      onCancel={onClose}
    >
      {children}
      {changing.kind === 'from here on' ? <TurnFields turned={turned} /> : <Fields kind={changing.kind} />}
    </WireForm>
  );
}

export function ChangeDialog(of: DialogOf) {
  const { changing, onClose } = of;
  const [turned, setTurned] = useState<Turned>('weekday');
  return (
    <Dialog title={titleOf(changing)} onClose={onClose} wide={turned === 'rule' && changing.kind === 'from here on'}>
      <Form key={turned} {...of} turned={turned}>
        <h1>{titleOf(changing)}</h1>
        {changing.kind === 'from here on' && (
          <fieldset className="flex flex-wrap gap-4">
            <legend className="sr-only">What changes</legend>
            {TURNS.map(([kind, words]) => (
              <label key={kind} className="flex items-center gap-1.5">
                <input
                  type="radio"
                  name="turned"
                  className="accent-base-content"
                  checked={turned === kind}
                  onChange={() => setTurned(kind)}
                />
                {words}
              </label>
            ))}
          </fieldset>
        )}
      </Form>
    </Dialog>
  );
}
