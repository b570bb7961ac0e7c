// Adding a maintenance schedule: how often in words, and the next visits while it is typed, computed by the same core as the run.
import { addSchedules, type AgreementPage, type ScheduleIn } from '#api/agreements/index.ts';
import type { Reference } from '#api/setup.ts';
import { Field } from '../parts/fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { setupApi } from '../setup/index.ts';
import { firstTerms, Previewed, ScheduleFields, usePreview } from '../upkeep/index.ts';
import { agreementsApi } from './endpoints.ts';

/** What a schedule is for, as the choice names it: all covered now, a line, or one machine. */
function keyOf(of: ScheduleIn['assetIds']): string {
  if (of === 'all covered') return 'all';
  return 'lineId' in of ? `line ${of.lineId}` : String(of[0]);
}

function chosenOf(key: string): ScheduleIn['assetIds'] {
  if (key === 'all') return 'all covered';
  return key.startsWith('line ') ? { lineId: Number(key.slice(5)) } : [Number(key)];
}

function AssetsField({ agreement }: { agreement: AgreementPage }) {
  // A line that names one machine is that machine; of those that went on over amendments the latest stands for all.
  const lines = agreement.lines.filter((l) => l.reach !== 'asset');
  return (
    <Wire<ScheduleIn['assetIds']> name="assetIds">
      {({ value, change, error }) => (
        <Field
          label="For"
          error={error}
          hint={
            typeof value === 'object' && 'lineId' in value ? 'A machine that comes gets its visits by itself.' : null
          }
        >
          {(id, described) => (
            <select
              id={id}
              className="box-select"
              value={keyOf(value)}
              onChange={(e) => change(chosenOf(e.target.value))}
              aria-describedby={described}
              aria-invalid={error ? true : undefined}
            >
              <option value="all">all {agreement.assetsTotal} covered assets</option>
              {lines.length > 0 && (
                <optgroup label="Whatever a line reaches, now and later">
                  {lines.map((l) => (
                    <option key={l.id} value={`line ${l.id}`}>
                      {l.label}
                    </option>
                  ))}
                </optgroup>
              )}
              <optgroup label="One machine">
                {agreement.assets.map((a) => (
                  <option key={a.id} value={a.id}>
                    {a.tag} {a.className}
                  </option>
                ))}
              </optgroup>
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
  const first = firstTerms(reference.jobPlans[0]?.id ?? NaN, agreement.from);
  const form = useWireForm(addSchedules, { ...first, assetIds: 'all covered' });
  const terms = { ...first, ...form.watch() };
  // What is added to one that is in force holds from today.
  const from = agreement.stage === 'draft' ? agreement.from : reference.today;
  const site = reference.calendars.find((c) => c.id === terms.calendarId);
  const preview = usePreview(terms, site, { from, to: agreement.to }, from);
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
      <ScheduleFields
        terms={terms}
        reference={reference}
        currency={agreement.currency}
        forWhom={<AssetsField agreement={agreement} />}
      />
      <Previewed preview={preview} hasCalendar={site !== undefined} today={reference.today} />
    </WireForm>
  );
}

export function ScheduleForm({ agreement, onDone }: { agreement: AgreementPage; onDone: () => void }) {
  const { data: reference } = setupApi.useReadReferenceQuery();
  return reference ? <Typing agreement={agreement} reference={reference} onDone={onDone} /> : null;
}
