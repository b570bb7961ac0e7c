// The header of an agreement: name, term, notice and renewal, who looks after it, contacts, price and how it is billed.
import { useFormContext } from 'react-hook-form';
import { changeAgreement, type AgreementHeader, type AgreementPage as Page } from '#api/agreements/index.ts';
import { BILLING_PERIODS, BILLING_TIMINGS, type Indexation } from '#core/agreements/index.ts';
import type { LocalDate } from '#core/time/index.ts';
import { NumberField, TextField } from '../parts/fields.tsx';
import { DateField } from '../parts/date-field.tsx';
import { WirePeriod, WireMoney, WireNumber, WireSelect, WireText, WireTick } from '../parts/wire-fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { Dialog } from '../shell/dialog.tsx';
import { agreementsApi } from './endpoints.ts';
import { ContactTicks, ManagerField } from './administration.tsx';
import { RENEWAL_CHOICES } from './renewal-choices.ts';

export const NEW_HEADER: Omit<AgreementHeader, 'from' | 'to'> = {
  number: '',
  name: '',
  noticeDays: 90,
  reminder: '',
  renewalMode: 'to be renegotiated',
  renewalMonths: 12,
  managerId: null,
  contactIds: [],
  costCentre: '',
  signOff: false,
  currency: 'EUR',
  priceMinor: null,
  billingPer: 'month',
  billingTiming: 'in advance',
  indexation: null,
  suspendedCover: false,
  suspendedVisits: false,
  suspendedBilling: false,
};

/** An index in its own points, kept in hundredths. */
function IndexField({
  label,
  value,
  onChange,
  error,
}: {
  label: string;
  value: number;
  onChange: (hundredths: number) => void;
  error: string | undefined;
}) {
  return (
    <NumberField
      label={label}
      value={value / 100}
      onChange={(points) => onChange(Math.round(points * 100))}
      step="any"
      error={error}
    />
  );
}

type IndexValue = Indexation['values'][number];

/** A later index, and from when it counts. */
function IndexValueFields({
  value,
  at,
  onChange,
  onRemove,
  errorAt,
}: {
  value: IndexValue;
  at: number;
  onChange: (over: Partial<IndexValue>) => void;
  onRemove: () => void;
  errorAt: (part: string) => string | undefined;
}) {
  return (
    <div className="mt-2 grid grid-cols-3 gap-3">
      <DateField
        label="Index from"
        value={value.from}
        onChange={(from) => onChange({ from: from as LocalDate })}
        error={errorAt(`values.${at}.from`)}
      />
      <IndexField
        label="I₁"
        value={value.hundredths}
        onChange={(hundredths) => onChange({ hundredths })}
        error={errorAt(`values.${at}.hundredths`)}
      />
      <div className="flex items-end pb-0.5">
        <button type="button" className="act" onClick={onRemove}>
          Remove
        </button>
      </div>
    </div>
  );
}

function IndexFields() {
  const begins = useFormContext<AgreementHeader>().watch('from');
  return (
    <Wire<Indexation | null> name="indexation">
      {({ value: indexation, change, errorAt }) => {
        if (!indexation)
          return (
            <button
              type="button"
              className="link-ink"
              onClick={() => change({ fixedPercent: 20, base: 100_00, values: [] })}
            >
              Let the price follow an index
            </button>
          );
        const { values } = indexation;
        const setValue = (i: number, over: Partial<IndexValue>): void =>
          change({ ...indexation, values: values.map((x, n) => (n === i ? { ...x, ...over } : x)) });
        return (
          <fieldset className="border-t border-hairline pt-2">
            <legend className="quiet">Price formula P₁ = P₀ · (a + b · I₁ / I₀), a + b = 1</legend>
            <div className="grid grid-cols-3 gap-3">
              <NumberField
                label="Fixed part a, %"
                value={indexation.fixedPercent}
                min={0}
                max={100}
                onChange={(fixedPercent) => change({ ...indexation, fixedPercent })}
                error={errorAt('fixedPercent')}
              />
              <IndexField
                label="Index at the start, I₀"
                value={indexation.base}
                onChange={(base) => change({ ...indexation, base })}
                error={errorAt('base')}
              />
              <div className="flex items-end pb-0.5">
                <button type="button" className="act" onClick={() => change(null)}>
                  No index
                </button>
              </div>
            </div>
            {values.map((v, i) => (
              <IndexValueFields
                key={i}
                at={i}
                value={v}
                onChange={(over) => setValue(i, over)}
                onRemove={() => change({ ...indexation, values: values.filter((_, n) => n !== i) })}
                errorAt={errorAt}
              />
            ))}
            <button
              type="button"
              className="link-ink mt-2"
              onClick={() =>
                change({
                  ...indexation,
                  values: [...values, { from: begins as LocalDate, hundredths: indexation.base }],
                })
              }
            >
              Add an index value
            </button>
          </fieldset>
        );
      }}
    </Wire>
  );
}

/** The fields of a header in the form around. */
export function HeaderFields({ customerId }: { customerId: string }) {
  const { watch } = useFormContext<AgreementHeader>();
  const [number, currency = '', billingPer = ''] = watch(['number', 'currency', 'billingPer']);
  return (
    <>
      <div className="grid grid-cols-[10rem_1fr_1fr] gap-3">
        <WireText name="number" label="Number" hint={number === '' ? 'Empty: the next one.' : undefined} />
        <WireText name="name" label="Name" hint="Such as Full care." />
        <ManagerField name="managerId" />
      </div>
      <div className="grid grid-cols-3 gap-3">
        <div className="col-span-2">
          <WirePeriod
            from={{ name: 'from', label: 'Runs from' }}
            to={{ name: 'to', label: 'To (empty: open-ended)' }}
          />
        </div>
        <WireNumber name="noticeDays" label="Notice, days before the end" min={0} max={730} />
        <WireSelect name="renewalMode" label="At the end of the term it" options={RENEWAL_CHOICES} />
        <WireNumber name="renewalMonths" label="Renewed for, months" min={1} max={120} />
        <WireText name="costCentre" label="Cost centre" />
        <Wire<string> name="currency">
          {({ value, change, error }) => (
            <TextField label="Currency" value={value} onChange={(text) => change(text.toUpperCase())} error={error} />
          )}
        </Wire>
        <WireMoney name="priceMinor" label={`Price of the whole per ${billingPer}`} currency={currency} />
        <div className="grid grid-cols-2 gap-2">
          <WireSelect name="billingPer" label="Billed per" options={BILLING_PERIODS.map((p) => [p, p] as const)} />
          <WireSelect name="billingTiming" label="When" options={BILLING_TIMINGS.map((t) => [t, t] as const)} />
        </div>
      </div>
      <IndexFields />
      <ContactTicks name="contactIds" customerId={customerId} />
      <WireTick name="signOff" label="Work under it is done once the customer signed for it" className="" />
      <WireText name="reminder" label="Reminder, shown to whoever works with it" />
      <fieldset className="flex flex-wrap gap-x-6">
        <legend className="quiet pb-0.5">While it is suspended</legend>
        <WireTick name="suspendedCover" label="cover and promises go on" className="" />
        <WireTick name="suspendedVisits" label="preventive visits go on" className="" />
        <WireTick name="suspendedBilling" label="billing goes on" className="" />
      </fieldset>
    </>
  );
}

/** Only the header of what a page holds. */
function headerOf({ contacts, ...page }: Page): AgreementHeader {
  const keys = [...Object.keys(NEW_HEADER), 'from', 'to'] as (keyof AgreementHeader)[];
  const held = { ...page, contactIds: contacts.map((c) => c.id) };
  return Object.fromEntries(keys.map((key) => [key, held[key]])) as AgreementHeader;
}

export function EditHeader({ agreement, onClose }: { agreement: Page; onClose: () => void }) {
  const [change] = agreementsApi.useChangeAgreementMutation();
  const form = useWireForm(changeAgreement, { version: agreement.version, ...headerOf(agreement) });
  return (
    <Dialog title="Change the header" onClose={onClose} wide>
      <WireForm
        form={form}
        name="Change the header"
        save="Save the header"
        send={(body) => change({ params: { id: String(agreement.id) }, body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>{agreement.number}</h1>
        <HeaderFields customerId={String(agreement.customer.id)} />
      </WireForm>
    </Dialog>
  );
}
