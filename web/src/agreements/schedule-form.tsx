// Adding a maintenance schedule: a readable rule, and the next visits while it is typed, computed by the same core as the run.
import { useMemo, useState } from 'react';
import { Link } from 'react-router';
import { addSchedules, type AgreementPage, type ScheduleIn } from '#api/agreements/index.ts';
import type { Reference } from '#api/setup.ts';
import { WORKING_DAY_CONVENTIONS, workingDaysOf } from '#core/calendars/index.ts';
import { parseRule, printRule, ruleFromEdit, sayRule, type EditedRule } from '#core/recurrence/index.ts';
import { checkDateTerms, previewVisits } from '#core/upkeep/index.ts';
import { parseLocalDate, type LocalDate, type Zone } from '#core/time/index.ts';
import { Field } from '../parts/fields.tsx';
import { RuleEditor } from '../parts/rule-editor.tsx';
import { plural, sayDate, sayMinutes } from '../parts/words.ts';
import { WireDate, WireNumber, WireSelect } from '../parts/wire-fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { agreementsApi } from './endpoints.ts';
import { setupApi } from '../setup/index.ts';

type Calendar = Reference['calendars'][number];

const asCalendar = (site: Calendar) => ({
  ...site,
  zone: site.zone as Zone,
  closed: site.closed.map((c) => ({ ...c, date: c.date as LocalDate })),
  extraOpen: site.extraOpen.map((c) => ({ ...c, date: c.date as LocalDate })),
});

/** The first visits of what is typed, as the run would propose them; or what is wrong with it. */
function usePreview(typed: ScheduleIn, site: Calendar | undefined, agreement: AgreementPage) {
  const { rule: ruleText, anchor, convention, earlyDays, lateDays, lead, leadUnit } = typed;
  const { from, to } = agreement;
  return useMemo(() => {
    const start = parseLocalDate(anchor);
    const rule = parseRule(ruleText);
    if (!start) return { problem: 'Give the date the rule counts from.' };
    if (!rule.ok) return { problem: rule.refusals.map((r) => r.message).join(' ') };
    const terms = { rule: rule.value, anchor: start, convention, earlyDays, lateDays, lead, leadUnit };
    const checked = checkDateTerms(terms);
    if (!checked.ok) return { problem: checked.refusals.map((r) => r.message).join(' ') };
    return {
      sentence: sayRule(rule.value, start, ruleText),
      visits: previewVisits(
        terms,
        workingDaysOf(site ? asCalendar(site) : null),
        start > from ? start : from,
        6,
      ).filter((v) => to === null || v.nominal <= to),
    };
  }, [ruleText, anchor, convention, earlyDays, lateDays, lead, leadUnit, site, from, to]);
}

function NextVisits({ preview }: { preview: ReturnType<typeof usePreview> }) {
  return (
    <div aria-live="polite" className="border-y border-hairline py-2">
      {'problem' in preview ? (
        <p className="text-missed">✕ {preview.problem}</p>
      ) : (
        <>
          <p>
            <strong className="font-semibold">{preview.sentence}.</strong>{' '}
            {preview.visits.length === 0 && 'No date lies inside the term.'}
          </p>
          {preview.visits.length > 0 && (
            <table className="dense mt-1">
              <thead>
                <tr>
                  <th>Due</th>
                  <th>In time from</th>
                  <th>to</th>
                  <th>Raised</th>
                  <th>Rule says</th>
                </tr>
              </thead>
              <tbody>
                {preview.visits.map((v) => (
                  <tr key={v.nominal}>
                    <td>{sayDate(v.due)}</td>
                    <td>{sayDate(v.windowFrom)}</td>
                    <td>{sayDate(v.windowTo)}</td>
                    <td>{sayDate(v.raise)}</td>
                    <td className="quiet">{v.nominal === v.due ? 'the same day' : sayDate(v.nominal)}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </>
      )}
    </div>
  );
}

const FIRST_RULE: EditedRule = {
  every: 'month',
  interval: 3,
  months: [],
  on: { kind: 'weekday', ordinal: 1, weekday: 2 },
};

/** The rule by choices, or as text for what choices cannot say. */
function RuleFields() {
  const [edit, setEdit] = useState(FIRST_RULE);
  const [isText, setText] = useState(false);
  return (
    <Wire<string> name="rule">
      {({ value, change, error }) => {
        const choose = (rule: EditedRule): void => {
          setEdit(rule);
          change(printRule(ruleFromEdit(rule)));
        };
        return isText ? (
          <>
            <Field label="Rule as text (RFC 5545)" error={error}>
              {(id, described) => (
                <input
                  id={id}
                  className="box-field serial"
                  value={value}
                  onChange={(e) => change(e.target.value)}
                  aria-describedby={described}
                  aria-invalid={error ? true : undefined}
                />
              )}
            </Field>
            <button
              type="button"
              className="quiet link-ink"
              onClick={() => {
                setText(false);
                choose(edit);
              }}
            >
              back to choices
            </button>
          </>
        ) : (
          <>
            <RuleEditor rule={edit} change={choose} />
            {error && <p className="text-missed">✕ {error}</p>}
            <p className="quiet">
              <span className="serial">{value}</span> ·{' '}
              <button type="button" className="link-ink" onClick={() => setText(true)}>
                write the rule as text
              </button>
            </p>
          </>
        );
      }}
    </Wire>
  );
}

function JobPlanField({ jobPlans, chosen }: { jobPlans: Reference['jobPlans']; chosen: number }) {
  const plan = jobPlans.find((p) => p.id === chosen);
  return (
    <WireSelect
      name="jobPlanId"
      label="Job plan"
      options={jobPlans.map((p) => [p.id, p.name] as const)}
      hint={
        plan ? (
          plan.minutes === 0 ? (
            '✕ its duration is zero: nothing would be raised'
          ) : (
            `${sayMinutes(plan.minutes)}, ${plural(plan.tasks.length, 'task')}`
          )
        ) : (
          <>
            None exists yet:{' '}
            <Link className="link-ink" to="/setup/job-plans">
              write one in Setup
            </Link>
            .
          </>
        )
      }
    />
  );
}

function AssetsField({ agreement }: { agreement: AgreementPage }) {
  return (
    <Wire<ScheduleIn['assetIds']> name="assetIds">
      {({ value, change, error }) => (
        <Field label="For" error={error}>
          {(id, described) => (
            <select
              id={id}
              className="box-select"
              value={value === 'all covered' ? 'all' : String(value[0])}
              onChange={(e) => change(e.target.value === 'all' ? 'all covered' : [Number(e.target.value)])}
              aria-describedby={described}
              aria-invalid={error ? true : undefined}
            >
              <option value="all">all {agreement.assetsTotal} covered assets</option>
              {agreement.assets.map((a) => (
                <option key={a.id} value={a.id}>
                  {a.tag} {a.className}
                </option>
              ))}
            </select>
          )}
        </Field>
      )}
    </Wire>
  );
}

function Typing({
  agreement,
  reference,
  onDone,
}: {
  agreement: AgreementPage;
  reference: Reference;
  onDone: () => void;
}) {
  const [add] = agreementsApi.useAddSchedulesMutation();
  const form = useWireForm(addSchedules, {
    assetIds: 'all covered',
    jobPlanId: reference.jobPlans[0]?.id ?? NaN,
    rule: printRule(ruleFromEdit(FIRST_RULE)),
    anchor: agreement.from,
    convention: 'following',
    calendarId: null,
    earlyDays: 7,
    lateDays: 7,
    lead: 21,
    leadUnit: 'calendar days',
  });
  const typed = form.watch();
  const preview = usePreview(
    typed,
    reference.calendars.find((c) => c.id === typed.calendarId),
    agreement,
  );
  return (
    <WireForm
      form={form}
      name="Add a schedule"
      save="Add the schedule"
      send={(body) => add({ params: { id: String(agreement.id) }, body })}
      onDone={onDone}
      onCancel={onDone}
      sheet
    >
      <div className="grid grid-cols-3 gap-4">
        <AssetsField agreement={agreement} />
        <JobPlanField jobPlans={reference.jobPlans} chosen={typed.jobPlanId} />
        <WireDate name="anchor" label="Counts from" />
      </div>
      <div className="space-y-2">
        <RuleFields />
      </div>
      <div className="grid grid-cols-6 gap-3">
        <WireSelect
          className="col-span-2"
          name="calendarId"
          label="Site calendar"
          options={[
            [null, 'none: every day counts'] as const,
            ...reference.calendars.map((c) => [c.id, c.name] as const),
          ]}
        />
        <WireSelect
          name="convention"
          label="On closed days"
          options={WORKING_DAY_CONVENTIONS.map((c) => [c, c] as const)}
        />
        <WireNumber name="earlyDays" label="Days early" min={0} max={180} />
        <WireNumber name="lateDays" label="Days late" min={0} max={180} />
        <WireNumber name="lead" label="Lead" min={0} max={180} />
      </div>
      <WireSelect
        className="w-56"
        name="leadUnit"
        label="Lead counted in"
        options={(['calendar days', 'working days'] as const).map((u) => [u, u] as const)}
      />
      <NextVisits preview={preview} />
    </WireForm>
  );
}

export function ScheduleForm({ agreement, onDone }: { agreement: AgreementPage; onDone: () => void }) {
  const { data: reference } = setupApi.useReadReferenceQuery();
  return reference ? <Typing agreement={agreement} reference={reference} onDone={onDone} /> : null;
}
