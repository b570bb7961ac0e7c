// An alert rule typed: what it watches, when that is abnormal, for how long, and what follows.
import { useWatch } from 'react-hook-form';
import { addAlertRule, type AlertRuleIn, type AlertRuleOut } from '#api/alert-rules.ts';
import type { Reference } from '#api/setup.ts';
import { CONDITIONS, type Condition } from '#core/signals/index.ts';
import { ChooseAsset } from '../assets/index.ts';
import type { Choice } from '../parts/choose.tsx';
import { WireNumber, WireSelect, WireText, WireTick, WireTicks } from '../parts/wire-fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { FollowFields, useOtherRules, type TypedStep } from './alert-rule-follows.tsx';
import { TryOnThePast } from './alert-rule-try.tsx';
import { setupApi } from './endpoints.ts';
import { usePriorityChoices } from './priorities.ts';

const SAY_KIND: Readonly<Record<Condition['kind'], string>> = {
  limit: 'beyond a limit',
  band: 'outside a band',
  rate: 'it changes too fast',
  silence: 'nothing is said',
  state: 'it is in a state',
  count: 'a state comes too often',
  parts: 'other rules are active',
};
const SCOPES = [
  ['class', 'all of the class'],
  ['model', 'one model'],
  ['machine', 'one machine'],
] as const;
type Scope = (typeof SCOPES)[number][0];

/** Everything that any kind of condition asks for; what the chosen one does not is left out of what is sent. */
type Typed = Omit<AlertRuleIn, 'condition' | 'model' | 'assetId' | 'tells'> & {
  readonly tells: readonly TypedStep[];
  readonly scope: Scope;
  readonly model: string;
  readonly assetId: Choice | null;
  readonly condition: {
    readonly kind: Condition['kind'];
    readonly side: 'above' | 'below';
    readonly trend: 'rising' | 'falling';
    readonly equals: string;
    readonly by: 'all' | 'any';
    readonly of: readonly string[];
  } & Record<'limit' | 'deadband' | 'low' | 'high' | 'perHour' | 'spanSeconds' | 'most', number>;
};

const EMPTY: Typed['condition'] = {
  ...{
    kind: 'limit',
    side: 'above',
    trend: 'rising',
    equals: '',
    by: 'all',
    of: [],
    limit: -65,
    deadband: 2,
    low: 2,
    high: 8,
  },
  ...{ perHour: 10, spanSeconds: 900, most: 10 },
};

function typedOf(rule: AlertRuleOut | null, classes: Reference['classes']): Typed {
  const condition = rule?.condition;
  return {
    ...{ name: rule?.name ?? '', channel: rule?.channel ?? 'chamber', unit: rule?.unit ?? 'Cel' },
    condition: {
      ...EMPTY,
      ...condition,
      ...(condition?.kind === 'rate' ? { trend: condition.side } : {}),
      side: condition?.kind === 'limit' ? condition.side : 'above',
    },
    ...{ onDelaySeconds: rule?.onDelaySeconds ?? 300, offDelaySeconds: rule?.offDelaySeconds ?? 0 },
    ...{ holdSeconds: rule?.holdSeconds ?? 3600, priority: rule?.priority ?? 1, watched: rule?.watched ?? true },
    ...{ partOnly: rule?.partOnly ?? false, askFirst: rule?.askFirst ?? false },
    ...{ orderText: rule?.orderText ?? '', likelyCause: rule?.likelyCause ?? '' },
    ...{ jobPlanId: rule?.jobPlanId ?? null, watchCalendarId: rule?.watchCalendarId ?? null },
    suppressedBy: rule?.suppressedBy ?? [],
    tells: (rule?.tells ?? []).map(({ hours, ...t }) => ({ ...t, from: hours?.from ?? null, to: hours?.to ?? null })),
    assetClassId: rule?.assetClassId ?? classes[0]?.id ?? NaN,
    ...{ scope: scopeOf(rule), model: rule?.model ?? '' },
    assetId: rule && rule.assetId !== null ? { id: rule.assetId, name: rule.tag ?? '' } : null,
  };
}

function scopeOf(rule: AlertRuleOut | null): Scope {
  if (rule === null) return 'class';
  if (rule.assetId !== null) return 'machine';
  return rule.model === null ? 'class' : 'model';
}

function conditionOf(c: Typed['condition']): AlertRuleIn['condition'] {
  const { kind, limit, deadband, low, high, perHour, spanSeconds, equals, most } = c;
  switch (kind) {
    case 'limit':
      return { kind, side: c.side, limit, deadband };
    case 'band':
      return { kind, low, high, deadband };
    case 'rate':
      return { kind, side: c.trend, perHour, deadband, spanSeconds };
    case 'silence':
      return { kind, spanSeconds };
    case 'state':
      return { kind, equals };
    case 'count':
      return { kind, equals, most, spanSeconds };
    case 'parts':
      return { kind, by: c.by, of: [...c.of] };
  }
}

const toBody = ({ scope, model, assetId, condition, tells, ...rest }: Typed): AlertRuleIn => ({
  ...rest,
  tells: tells.map(({ from, to, ...t }) => ({ ...t, hours: from === null || to === null ? null : { from, to } })),
  condition: conditionOf(condition),
  model: scope === 'model' ? model : null,
  // Nobody chosen yet is refused at its field.
  assetId: scope === 'machine' ? (assetId?.id ?? NaN) : null,
});

const Deadband = () => (
  <WireNumber name="condition.deadband" label="Deadband" min={0} step="any" hint="normal again only so far back" />
);
const Span = ({ label }: { label: string }) => <WireNumber name="condition.spanSeconds" label={label} min={60} />;
const State = () => <WireText name="condition.equals" label="State" hint="as the device says it; yes is 1, no is 0" />;

const BY = [
  ['all', 'all of them'],
  ['any', 'any of them'],
] as const;

/** Rules of the class that this one may be made of. */
function Parts({ rules }: { rules: readonly AlertRuleOut[] }) {
  const others = useOtherRules(rules);
  return (
    <>
      <WireSelect name="condition.by" label="Active are" options={BY} />
      <div className="col-span-4">
        {others.length < 2 && <p className="quiet">The class needs two other rules first.</p>}
        <WireTicks name="condition.of" label="Of these rules, at one machine" values={others} />
      </div>
    </>
  );
}

/** The fields of the chosen kind. */
function ConditionFields({ rules }: { rules: readonly AlertRuleOut[] }) {
  const kind: unknown = useWatch({ name: 'condition.kind' });
  switch (kind as Condition['kind']) {
    case 'limit':
      return (
        <>
          <WireSelect
            name="condition.side"
            label="Side"
            options={(['above', 'below'] as const).map((x) => [x, x] as const)}
          />
          <WireNumber name="condition.limit" label="Limit" step="any" />
          <Deadband />
        </>
      );
    case 'band':
      return (
        <>
          <WireNumber name="condition.low" label="Lower limit" step="any" />
          <WireNumber name="condition.high" label="Upper limit" step="any" />
          <Deadband />
        </>
      );
    case 'rate':
      return (
        <>
          <WireSelect
            name="condition.trend"
            label="Way"
            options={(['rising', 'falling'] as const).map((x) => [x, x] as const)}
          />
          <WireNumber name="condition.perHour" label="More than, an hour" step="any" />
          <Span label="Looked at over, seconds" />
          <Deadband />
        </>
      );
    case 'silence':
      return <Span label="For longer than, seconds" />;
    case 'state':
      return <State />;
    case 'count':
      return (
        <>
          <State />
          <WireNumber name="condition.most" label="At most, times" min={0} />
          <Span label="Within, seconds" />
        </>
      );
    case 'parts':
      return <Parts rules={rules} />;
  }
}

/** Which machines it watches. */
function ScopeFields() {
  const scope: unknown = useWatch({ name: 'scope' });
  return (
    <>
      <WireSelect name="scope" label="Watches" options={SCOPES} />
      {scope === 'model' && <WireText name="model" label="Model" hint="as it stands at the assets" />}
      {scope === 'machine' && (
        <Wire<Choice | null> name="assetId">
          {({ value, change, error }) => <ChooseAsset label="Machine" chosen={value} onChoose={change} error={error} />}
        </Wire>
      )}
      {scope !== 'class' && (
        <WireTick name="watched" label="Watched here (else the class’s rule of this name is not)" />
      )}
    </>
  );
}

/** What it reads, and when that is abnormal. */
function WatchedFields({ rules }: { rules: readonly AlertRuleOut[] }) {
  const isOfParts = useWatch({ name: 'condition.kind' }) === 'parts';
  return (
    <div className="mt-3 grid grid-cols-4 items-start gap-3">
      <WireText name="channel" label="Channel" hint={isOfParts ? 'whose readings are shown with it' : undefined} />
      {!isOfParts && <WireText name="unit" label="Unit (SenML)" />}
      <WireSelect
        name="condition.kind"
        label="Abnormal when"
        options={CONDITIONS.map((k) => [k, SAY_KIND[k]] as const)}
      />
      <ConditionFields rules={rules} />
    </div>
  );
}

/** How long it waits. Of other rules it is always known whether they are active. */
function WaitFields() {
  const isOfParts = useWatch({ name: 'condition.kind' }) === 'parts';
  return (
    <div className="mt-3 grid grid-cols-4 items-start gap-3">
      <WireNumber name="onDelaySeconds" label="On-delay, seconds" min={0} hint="abnormal so long before it is active" />
      <WireNumber name="offDelaySeconds" label="Off-delay, seconds" min={0} hint="normal so long before it ends" />
      {!isOfParts && (
        <WireNumber name="holdSeconds" label="A value counts for, seconds" min={10} hint="then nothing is known" />
      )}
    </div>
  );
}

export function AlertRuleForm({
  rule,
  reference,
  rules,
  onDone,
}: {
  rule: AlertRuleOut | null;
  reference: Reference;
  /** Those there are, for what holds this one back. */
  rules: readonly AlertRuleOut[];
  onDone: () => void;
}) {
  const { classes } = reference;
  const priorities = usePriorityChoices();
  const form = useWireForm(addAlertRule, typedOf(rule, classes), toBody);
  const [add] = setupApi.useAddAlertRuleMutation();
  const [change] = setupApi.useChangeAlertRuleMutation();
  return (
    <WireForm<Typed, unknown>
      form={form}
      name="Alert rule"
      save="Save the alert rule"
      send={(typed, seen) => {
        const body = toBody(typed);
        return rule
          ? change({ params: { id: String(rule.id) }, body: { ...body, version: seen ?? rule.version } })
          : add({ body });
      }}
      onDone={onDone}
      onCancel={onDone}
      sheet
    >
      <div className="grid grid-cols-4 items-start gap-3">
        <WireText className="col-span-2" name="name" label="Name" />
        <WireSelect
          name="assetClassId"
          label="Asset class"
          options={classes.map((c) => [c.id, c.name] as const)}
          hint={classes.length === 0 ? 'Classes come with the imported assets.' : undefined}
        />
        <WireSelect name="priority" label="Order priority" options={priorities} />
        <ScopeFields />
      </div>
      <WatchedFields rules={rules} />
      <WaitFields />
      <FollowFields reference={reference} rules={rules} />
      <TryOnThePast ruleId={rule?.id ?? null} bodyOf={(typed) => toBody(typed as Typed)} />
    </WireForm>
  );
}
