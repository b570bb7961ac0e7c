// Adding a maintenance schedule: a readable rule, and the next visits while it is typed, computed by the same core as the run.
import { useMemo, useState } from 'react';
import { Link } from 'react-router';
import type { AgreementPage } from '#api/agreements.ts';
import { WORKING_DAY_CONVENTIONS, workingDaysOf, type WorkingDayConvention } from '#core/calendars/index.ts';
import { parseRule, printRule, ruleFromEdit, sayRule, type EditedRule } from '#core/recurrence/index.ts';
import { checkDateTerms, previewVisits, type LeadUnit } from '#core/upkeep/index.ts';
import { parseLocalDate, type LocalDate, type Zone } from '#core/time/index.ts';
import { Field, NumberField, SelectField, useSubmit } from '../parts/fields.tsx';
import { DateField } from '../parts/date-field.tsx';
import { Form } from '../parts/form.tsx';
import { RuleEditor } from '../parts/rule-editor.tsx';
import { plural, sayDate, sayMinutes } from '../parts/words.ts';
import { agreementsApi } from './endpoints.ts';
import { setupApi } from '../setup/index.ts';

type Numbers = { earlyDays: number; lateDays: number; lead: number };

export function ScheduleForm({ agreement, onDone }: { agreement: AgreementPage; onDone: () => void }) {
  const { data: reference } = setupApi.useReadReferenceQuery();
  const [assets, setAssets] = useState('all');
  const [plan, setPlan] = useState('');
  const [edit, setEdit] = useState<EditedRule>({
    every: 'month',
    interval: 3,
    months: [],
    on: { kind: 'weekday', ordinal: 1, weekday: 2 },
  });
  const [text, setText] = useState<string | null>(null);
  const [anchor, setAnchor] = useState<string>(agreement.from);
  const [convention, setConvention] = useState<WorkingDayConvention>('following');
  const [calendar, setCalendar] = useState('');
  const [days, setDays] = useState<Numbers>({ earlyDays: 7, lateDays: 7, lead: 21 });
  const [leadUnit, setLeadUnit] = useState<LeadUnit>('calendar days');
  const [add, { isLoading }] = agreementsApi.useAddSchedulesMutation();
  const { errors, submit } = useSubmit([
    'assetIds',
    'jobPlanId',
    'rule',
    'anchor',
    'calendarId',
    'earlyDays',
    'lateDays',
    'lead',
  ]);
  const ruleText = text ?? printRule(ruleFromEdit(edit));
  const site = reference?.calendars.find((c) => String(c.id) === calendar);
  const preview = useMemo(() => {
    const start = parseLocalDate(anchor);
    const rule = parseRule(ruleText);
    if (!start) return { problem: 'Give the date the rule counts from.' };
    if (!rule.ok) return { problem: rule.refusals.map((r) => r.message).join(' ') };
    const terms = { rule: rule.value, anchor: start, convention, ...days, leadUnit };
    const checked = checkDateTerms(terms);
    if (!checked.ok) return { problem: checked.refusals.map((r) => r.message).join(' ') };
    const working = workingDaysOf(
      site
        ? {
            ...site,
            zone: site.zone as Zone,
            closed: site.closed.map((c) => ({ ...c, date: c.date as LocalDate })),
            extraOpen: site.extraOpen.map((c) => ({ ...c, date: c.date as LocalDate })),
          }
        : null,
    );
    return {
      sentence: sayRule(rule.value, start, ruleText),
      visits: previewVisits(terms, working, start > agreement.from ? start : agreement.from, 6).filter(
        (v) => agreement.to === null || v.nominal <= agreement.to,
      ),
    };
  }, [ruleText, anchor, convention, days, leadUnit, site, agreement.from, agreement.to]);
  const send = async (): Promise<void> => {
    const body = {
      assetIds: assets === 'all' ? ('all covered' as const) : [Number(assets)],
      jobPlanId: Number(plan || reference?.jobPlans[0]?.id),
      rule: ruleText,
      anchor,
      convention,
      calendarId: calendar ? Number(calendar) : null,
      ...days,
      leadUnit,
    };
    if (await submit(add({ params: { id: String(agreement.id) }, body }))) onDone();
  };
  const chosenPlan = reference?.jobPlans.find((p) => String(p.id) === (plan || String(reference.jobPlans[0]?.id)));
  return (
    <Form
      name="Add a schedule"
      save="Add the schedule"
      onSave={() => send()}
      onCancel={onDone}
      errors={errors}
      disabled={isLoading}
      sheet
    >
      <div className="grid grid-cols-3 gap-4">
        <SelectField
          label="For"
          value={assets}
          onChange={setAssets}
          options={[
            ['all', `all ${agreement.assetsTotal} covered assets`],
            ...agreement.assets.map((a): [string, string] => [String(a.id), `${a.tag} ${a.className}`]),
          ]}
          error={errors.of('assetIds')}
        />
        <SelectField
          label="Job plan"
          value={plan || String(reference?.jobPlans[0]?.id ?? '')}
          onChange={setPlan}
          options={(reference?.jobPlans ?? []).map((p) => [String(p.id), p.name])}
          error={errors.of('jobPlanId')}
          hint={
            chosenPlan ? (
              chosenPlan.minutes === 0 ? (
                '✕ its duration is zero: nothing would be raised'
              ) : (
                `${sayMinutes(chosenPlan.minutes)}, ${plural(chosenPlan.tasks.length, 'task')}`
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
        <DateField label="Counts from" value={anchor} onChange={setAnchor} error={errors.of('anchor')} />
      </div>
      {text === null ? (
        <RuleEditor rule={edit} change={setEdit} />
      ) : (
        <Field label="Rule as text (RFC 5545)" error={errors.of('rule')}>
          {(id) => (
            <input id={id} className="box-field serial" value={text} onChange={(e) => setText(e.target.value)} />
          )}
        </Field>
      )}
      <p className="quiet">
        {text === null ? (
          <>
            <span className="serial">{ruleText}</span> ·{' '}
            <button type="button" className="link-ink" onClick={() => setText(ruleText)}>
              write the rule as text
            </button>
          </>
        ) : (
          <button type="button" className="link-ink" onClick={() => setText(null)}>
            back to choices
          </button>
        )}
      </p>
      <div className="grid grid-cols-6 gap-3">
        <SelectField
          className="col-span-2"
          label="Site calendar"
          value={calendar}
          onChange={setCalendar}
          options={[
            ['', 'none: every day counts'],
            ...(reference?.calendars ?? []).map((c): [string, string] => [String(c.id), c.name]),
          ]}
          error={errors.of('calendarId')}
        />
        <SelectField
          className="col-span-1"
          label="On closed days"
          value={convention}
          onChange={(v) => setConvention(v as WorkingDayConvention)}
          options={WORKING_DAY_CONVENTIONS.map((c) => [c, c])}
        />
        <NumberField
          label="Days early"
          value={days.earlyDays}
          onChange={(earlyDays) => setDays({ ...days, earlyDays })}
          error={errors.of('earlyDays')}
          min={0}
          max={180}
        />
        <NumberField
          label="Days late"
          value={days.lateDays}
          onChange={(lateDays) => setDays({ ...days, lateDays })}
          error={errors.of('lateDays')}
          min={0}
          max={180}
        />
        <NumberField
          label="Lead"
          value={days.lead}
          onChange={(lead) => setDays({ ...days, lead })}
          error={errors.of('lead')}
          min={0}
          max={180}
        />
      </div>
      <div className="w-56">
        <SelectField
          label="Lead counted in"
          value={leadUnit}
          onChange={(v) => setLeadUnit(v as LeadUnit)}
          options={[
            ['calendar days', 'calendar days'],
            ['working days', 'working days'],
          ]}
        />
      </div>
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
      {text === null && errors.of('rule') && <p className="text-missed">✕ {errors.of('rule')}</p>}
    </Form>
  );
}
