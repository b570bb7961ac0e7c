// An amendment in the making: from which day, why, and what changes; its effect is shown while it is put together.
import { useEffect } from 'react';
import { Link } from 'react-router';
import {
  type AgreementPage as Page,
  amend,
  type AmendmentIn,
  type LineChange,
  type previewAmendment,
} from '#api/agreements/index.ts';
import type { Answer } from '#api/contract.ts';
import type { Problem } from '#api/shapes.ts';
import { addDays, localDateAt, parseLocalDate, type LocalDate } from '#core/time/index.ts';
import { WireDate, WireMoney, WireNumber, WireSelect, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, Wire, WireForm, type WireFormOf } from '../parts/wire-form.tsx';
import { plural, sayDate } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { agreementsApi } from './endpoints.ts';
import { Coverage } from './coverage.tsx';
import { Alongside } from './coverage-form.tsx';
import { Matrix } from './matrix.tsx';
import { RENEWAL_CHOICES } from './renewal-choices.ts';
import { Differences } from './versions.tsx';

type AmendmentEffect = Answer<typeof previewAmendment>;

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

/** What is typed of an amendment; what stays as it is does not travel. */
type Typed = Pick<Page, 'priceMinor' | 'noticeDays' | 'renewalMode' | 'renewalMonths'> & {
  from: string;
  reason: string;
  to: string | null;
  changes: LineChange[];
};

function bodyOf({ from, reason, changes, ...header }: Typed, agreement: Page): Omit<AmendmentIn, 'version'> {
  const changed = Object.entries(header).filter(([key, value]) => value !== agreement[key as keyof typeof header]);
  return { from, reason, changes, ...Object.fromEntries(changed) };
}

function ChangesSoFar({ agreement }: { agreement: Page }) {
  return (
    <Wire<LineChange[]> name="changes">
      {({ value: changes, change, error, errorAt }) => {
        const doubledAt = changes.findIndex((_, i) => errorAt(`${i}.alongside`) !== undefined);
        return (
          <div>
            <p className="quiet">Changes of coverage, made below</p>
            {changes.length === 0 ? (
              <p>None yet.</p>
            ) : (
              <ul>
                {changes.map((c, i) => (
                  <li key={i}>
                    {sayChange(c, agreement)}{' '}
                    <button
                      type="button"
                      className="link-ink quiet"
                      onClick={() => change(changes.filter((_, n) => n !== i))}
                    >
                      take back
                    </button>
                  </li>
                ))}
              </ul>
            )}
            {doubledAt >= 0 ? (
              <Alongside
                error={errorAt(`${doubledAt}.alongside`)}
                value={false}
                onChange={() => change(changes.map((c, n) => (n === doubledAt ? { ...c, alongside: true } : c)))}
              />
            ) : (
              error && <p className="text-missed">✕ {error}</p>
            )}
          </div>
        );
      }}
    </Wire>
  );
}

function Effect({ effect, from }: { effect: AmendmentEffect; from: LocalDate }) {
  return (
    <div aria-label="What changes">
      {effect.warnings.map((w) => (
        <p key={w} className="font-semibold">
          ⚠ {w}
        </p>
      ))}
      <Differences comparison={effect.comparison} before="Before" after={`From ${sayDate(from)}`} />
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
  );
}

/** What the amendment would do, as it is typed; its refusals stand at their fields like those of saving it. */
function useEffectOf(form: WireFormOf<Typed>, typed: Typed, agreement: Page) {
  const body = bodyOf(typed, agreement);
  const isAnything = typed.changes.length > 0 || Object.keys(body).length > 3;
  const isReady = isAnything && parseLocalDate(typed.from) !== null && !Number.isNaN(typed.priceMinor);
  const preview = agreementsApi.usePreviewAmendmentQuery(
    { params: { id: String(agreement.id) }, body: { ...body, reason: body.reason.trim() || 'to be said' } },
    { skip: !isReady },
  );
  const refused = isReady ? (preview.error as Problem | undefined) : undefined;
  const { setError, clearErrors } = form;
  useEffect(() => {
    clearErrors();
    for (const { field, message } of refused?.errors ?? [])
      setError((field ?? 'root') as 'from', { type: 'refused', message });
  }, [refused, setError, clearErrors]);
  return isReady && !refused ? preview.currentData : undefined;
}

export function Amend({ agreement, onDone }: { agreement: Page; onDone: () => void }) {
  const reader = useReader();
  const [amendment] = agreementsApi.useAmendMutation();
  const form = useWireForm<AmendmentIn, Typed>(
    amend,
    {
      from: addDays(localDateAt(reader.zone, agreement.now), 1),
      reason: '',
      changes: [],
      priceMinor: agreement.priceMinor,
      to: agreement.to,
      noticeDays: agreement.noticeDays,
      renewalMode: agreement.renewalMode,
      renewalMonths: agreement.renewalMonths,
    },
    (typed) => ({ version: agreement.version, ...bodyOf(typed, agreement) }),
  );
  const typed = form.watch();
  const effect = useEffectOf(form, typed, agreement);
  const from = parseLocalDate(typed.from);
  const keep = (change: LineChange): Promise<{ data: true }> => {
    form.setValue('changes', [...form.getValues('changes'), change], { shouldDirty: true });
    return Promise.resolve({ data: true });
  };
  return (
    <section className="mt-4" aria-label="Amendment">
      <WireForm<Typed, unknown>
        form={form}
        name="An amendment in the making"
        save={`Amend from ${from ? sayDate(from) : 'a date'}`}
        send={(now, seen) =>
          amendment({
            params: { id: String(agreement.id) },
            body: { version: seen ?? agreement.version, ...bodyOf(now, agreement) },
          })
        }
        onDone={onDone}
        onCancel={onDone}
        cancel="Leave it as it is"
        disabled={!effect}
        sheet
      >
        <h2>An amendment in the making</h2>
        <div className="grid grid-cols-[12rem_1fr] gap-3">
          <WireDate name="from" label="Holds from" />
          <WireText name="reason" label="What is amended and why" />
        </div>
        <div className="grid grid-cols-[17rem_14rem_1fr] gap-3">
          <WireMoney
            name="priceMinor"
            label={`Price of the whole per ${agreement.billingPer}`}
            currency={agreement.currency}
          />
          <WireDate name="to" label="Runs to (empty: open-ended)" empty={null} />
          <ChangesSoFar agreement={agreement} />
        </div>
        <div className="grid grid-cols-[17rem_14rem_14rem] gap-3">
          <WireSelect name="renewalMode" label="At the end of the term it" options={RENEWAL_CHOICES} />
          <WireNumber name="renewalMonths" label="Renewed for, months" min={1} max={120} />
          <WireNumber name="noticeDays" label="Notice, days before the end" min={0} max={730} />
        </div>
        {effect && from && <Effect effect={effect} from={from} />}
      </WireForm>
      <Coverage agreement={agreement} apply={keep} />
      <Matrix agreement={agreement} apply={keep} />
    </section>
  );
}
