// An amendment in the making: from which day, why, and what changes; its effect is shown while it is put together.
import { useState } from 'react';
import { Link } from 'react-router';
import type { AgreementPage as Page } from '#api/agreements.ts';
import type { LineChange } from '#api/terms.ts';
import { addDays, localDateAt, parseLocalDate } from '#core/time/index.ts';
import { GeneralError, NumberField, SelectField, TextField, useSubmit } from '../parts/fields.tsx';
import { DateField } from '../parts/date-field.tsx';
import { MoneyField } from '../parts/money-field.tsx';
import { plural, sayDate } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { agreementsApi } from './endpoints.ts';
import { Coverage } from './coverage.tsx';
import { Alongside } from './coverage-form.tsx';
import { Matrix } from './matrix.tsx';
import { RENEWAL_CHOICES } from './header-form.tsx';
import { Differences } from './versions.tsx';

const ADDED: Readonly<Record<'location' | 'class' | 'own fleet', string>> = {
  location: 'cover everything below a place',
  class: 'cover a class of the customer’s machines',
  'own fleet': 'cover our own fleet at the customer',
};

function sayChange(change: LineChange, agreement: Page): string {
  if (change.act === 'add')
    return change.reach.kind === 'assets'
      ? `add ${plural(change.reach.assetIds.length, 'line')}`
      : ADDED[change.reach.kind];
  const first = agreement.lines.find((l) => l.id === change.lineIds[0])?.label ?? '';
  return `${change.act} ${change.lineIds.length === 1 ? first : plural(change.lineIds.length, 'line')}`;
}

export function Amend({ agreement, onDone }: { agreement: Page; onDone: () => void }) {
  const reader = useReader();
  const today = localDateAt(reader.zone, agreement.now);
  const [from, setFrom] = useState<string>(addDays(today, 1));
  const [reason, setReason] = useState('');
  const [changes, setChanges] = useState<LineChange[]>([]);
  const [priceMinor, setPrice] = useState<number | null>(agreement.priceMinor);
  const [to, setTo] = useState<string>(agreement.to ?? '');
  const [noticeDays, setNotice] = useState(agreement.noticeDays);
  const [renewalMode, setMode] = useState(agreement.renewalMode);
  const [renewalMonths, setMonths] = useState(agreement.renewalMonths);
  const body = {
    from,
    reason,
    changes,
    ...(priceMinor !== agreement.priceMinor && { priceMinor }),
    ...(to !== (agreement.to ?? '') && { to: to || null }),
    ...(noticeDays !== agreement.noticeDays && { noticeDays }),
    ...(renewalMode !== agreement.renewalMode && { renewalMode }),
    ...(renewalMonths !== agreement.renewalMonths && { renewalMonths }),
  };
  const anything = changes.length > 0 || Object.keys(body).length > 3;
  const params = { id: String(agreement.id) };
  const ready = anything && parseLocalDate(from) !== null && !Number.isNaN(priceMinor);
  const preview = agreementsApi.usePreviewAmendmentQuery(
    { params, body: { ...body, reason: reason.trim() || 'to be said' } },
    { skip: !ready },
  );
  const [amend, { isLoading }] = agreementsApi.useAmendMutation();
  const { errors, submit } = useSubmit(['from', 'reason', 'priceMinor', 'to', 'noticeDays', 'renewalMonths']);
  const refused = preview.error as
    { detail?: string; errors?: { field: string | null; message: string }[] } | undefined;
  const refusedAt = (field: string): string | undefined =>
    errors.of(field) ?? refused?.errors?.find((e) => e.field === field)?.message;
  const keep = async (change: LineChange): Promise<{ data: true }> => {
    setChanges((list) => [...list, change]);
    return Promise.resolve({ data: true });
  };
  const save = async (): Promise<void> => {
    if (await submit(amend({ params, body: { version: agreement.version, ...body } }))) onDone();
  };
  const doubled = [...(errors.problem?.errors ?? []), ...(refused?.errors ?? [])].find((e) =>
    e.field?.endsWith('.alongside'),
  );
  const doubledAt = Number(doubled?.field?.split('.')[1]);
  const effect = ready ? preview.currentData : undefined;
  return (
    <section className="mt-4" aria-label="Amendment">
      <div className="sheet space-y-3 p-4">
        <h2>An amendment in the making</h2>
        <div className="grid grid-cols-[12rem_1fr] gap-3">
          <DateField label="Holds from" value={from} onChange={setFrom} error={refusedAt('from')} />
          <TextField label="What is amended and why" value={reason} onChange={setReason} error={refusedAt('reason')} />
        </div>
        <div className="grid grid-cols-[17rem_14rem_1fr] gap-3">
          <MoneyField
            label={`Price of the whole per ${agreement.billingPer}`}
            value={agreement.priceMinor}
            currency={agreement.currency}
            onChange={setPrice}
            error={refusedAt('priceMinor')}
          />
          <DateField label="Runs to (empty: open-ended)" value={to} onChange={setTo} error={refusedAt('to')} />
          <div>
            <p className="quiet">Changes of coverage, made below</p>
            {changes.length === 0 ? (
              <p>None yet.</p>
            ) : (
              <ul>
                {changes.map((c, i) => (
                  <li key={i}>
                    {sayChange(c, agreement)}{' '}
                    <button className="link-ink quiet" onClick={() => setChanges(changes.filter((_, n) => n !== i))}>
                      take back
                    </button>
                  </li>
                ))}
              </ul>
            )}
          </div>
        </div>
        <div className="grid grid-cols-[17rem_14rem_14rem] gap-3">
          <SelectField
            label="At the end of the term it"
            value={renewalMode}
            onChange={(mode) => setMode(mode as Page['renewalMode'])}
            options={RENEWAL_CHOICES}
          />
          <NumberField
            label="Renewed for, months"
            value={renewalMonths}
            onChange={setMonths}
            error={refusedAt('renewalMonths')}
            min={1}
            max={120}
          />
          <NumberField
            label="Notice, days before the end"
            value={noticeDays}
            onChange={setNotice}
            error={refusedAt('noticeDays')}
            min={0}
            max={730}
          />
        </div>
        {doubled && (
          <Alongside
            error={doubled.message}
            value={false}
            onChange={() => setChanges(changes.map((c, n) => (n === doubledAt ? { ...c, alongside: true } : c)))}
          />
        )}
        {refused && !doubled && !refusedAt('from') && !refusedAt('to') && (
          <p role="alert" className="text-missed">
            ✕ {refused.detail}
          </p>
        )}
        {effect && (
          <div aria-label="What changes">
            {effect.warnings.map((w) => (
              <p key={w} className="font-semibold">
                ⚠ {w}
              </p>
            ))}
            <Differences comparison={effect.comparison} before="Before" after={`From ${sayDate(from as never)}`} />
            <p className="mt-2">
              {effect.coversTotal === 0
                ? 'The cover of no machine changes.'
                : `The cover of ${plural(effect.coversTotal, 'machine')} changes:`}
            </p>
            <ul className="quiet max-h-40 overflow-y-auto">
              {effect.covers.map((c) => (
                <li key={c.assetId}>
                  <Link className="serial link-ink" to={`/assets/${c.assetId}`}>
                    {c.tag}
                  </Link>{' '}
                  {c.before} → {c.after}
                </li>
              ))}
            </ul>
          </div>
        )}
        <GeneralError errors={errors} />
        <div className="flex gap-2">
          <button className="act-main" disabled={!effect || isLoading} onClick={() => void save()}>
            Amend from {parseLocalDate(from) ? sayDate(from as never) : 'a date'}
          </button>
          <button className="act" onClick={onDone}>
            Leave it as it is
          </button>
        </div>
      </div>
      <Coverage agreement={agreement} apply={keep} />
      <Matrix agreement={agreement} apply={keep} />
    </section>
  );
}
