// The header of an agreement: name, term, notice and renewal, who looks after it, contacts, price and how it is billed.
import { useState } from 'react';
import type { AgreementPage as Page } from '#api/agreements.ts';
import { BILLING_PERIODS, BILLING_TIMINGS, RENEWAL_MODES, type Indexation } from '#core/agreements/index.ts';
import type { LocalDate } from '#core/time/index.ts';
import { NumberField, SelectField, TextField, useSubmit } from '../parts/fields.tsx';
import { DateField } from '../parts/date-field.tsx';
import { Form } from '../parts/form.tsx';
import { MoneyField } from '../parts/money-field.tsx';
import { Dialog } from '../shell/dialog.tsx';
import { agreementsApi } from './endpoints.ts';
import { ContactTicks, ManagerField } from './care.tsx';

export type Header = {
  number: string;
  name: string;
  from: string;
  to: string;
  noticeDays: number;
  reminder: string;
  renewalMode: Page['renewalMode'];
  renewalMonths: number;
  managerId: number | null;
  contactIds: number[];
  costCentre: string;
  currency: string;
  priceMinor: number | null;
  billingPer: Page['billingPer'];
  billingTiming: Page['billingTiming'];
  indexation: Indexation | null;
  suspendedCover: boolean;
  suspendedVisits: boolean;
};

export const HEADER_FIELDS = [
  'number',
  'name',
  'from',
  'to',
  'noticeDays',
  'reminder',
  'renewalMonths',
  'managerId',
  'contactIds',
  'costCentre',
  'currency',
  'priceMinor',
  'indexation',
];

export const NEW_HEADER: Omit<Header, 'from' | 'to'> = {
  number: '',
  name: '',
  noticeDays: 90,
  reminder: '',
  renewalMode: 'to be renegotiated',
  renewalMonths: 12,
  managerId: null,
  contactIds: [],
  costCentre: '',
  currency: 'EUR',
  priceMinor: null,
  billingPer: 'month',
  billingTiming: 'in advance',
  indexation: null,
  suspendedCover: false,
  suspendedVisits: false,
};

/** How a term ends, in the words of "at the end of the term it …". */
export const RENEWAL_CHOICES = RENEWAL_MODES.map(
  (m) => [m, m === 'to be renegotiated' ? 'is to be renegotiated' : m] as const,
);

/** The header as it travels. */
export const headerBody = ({ to, managerId, indexation, ...header }: Header) => ({
  ...header,
  to: to || null,
  managerId: managerId as never,
  indexation: indexation && { ...indexation, values: indexation.values.map((v) => ({ ...v })) },
});

type FieldsProps = { header: Header; change: (h: Header) => void; error: (field: string) => string | undefined };

function IndexFields({ header, change, error }: FieldsProps) {
  const { indexation } = header;
  const set = (over: Partial<Indexation>): void =>
    change({ ...header, indexation: indexation && { ...indexation, ...over } });
  const points = (text: string): number => Math.round(Number(text.replace(',', '.')) * 100);
  if (!indexation)
    return (
      <button
        type="button"
        className="link-ink"
        onClick={() => change({ ...header, indexation: { fixedPercent: 20, base: 100_00, values: [] } })}
      >
        Let the price follow an index
      </button>
    );
  return (
    <fieldset className="border-t border-hairline pt-2">
      <legend className="quiet">Price formula P₁ = P₀ · (a + b · I₁ / I₀), a + b = 1</legend>
      <div className="grid grid-cols-3 gap-3">
        <NumberField
          label="Fixed part a, %"
          value={indexation.fixedPercent}
          min={0}
          max={100}
          onChange={(fixedPercent) => set({ fixedPercent })}
          error={error('indexation.fixedPercent')}
        />
        <TextField
          label="Index at the start, I₀"
          value={(indexation.base / 100).toFixed(2)}
          onChange={(text) => set({ base: points(text) })}
          error={error('indexation.base')}
        />
        <div className="flex items-end pb-0.5">
          <button type="button" className="act" onClick={() => change({ ...header, indexation: null })}>
            No index
          </button>
        </div>
      </div>
      {indexation.values.map((v, i) => (
        <div key={i} className="mt-2 grid grid-cols-3 gap-3">
          <DateField
            label="Index from"
            value={v.from}
            onChange={(from) =>
              set({ values: indexation.values.map((x, n) => (n === i ? { ...x, from: from as LocalDate } : x)) })
            }
            error={error(`indexation.values.${i}.from`)}
          />
          <TextField
            label="I₁"
            value={(v.hundredths / 100).toFixed(2)}
            onChange={(text) =>
              set({ values: indexation.values.map((x, n) => (n === i ? { ...x, hundredths: points(text) } : x)) })
            }
            error={error(`indexation.values.${i}.hundredths`)}
          />
          <div className="flex items-end pb-0.5">
            <button
              type="button"
              className="act"
              onClick={() => set({ values: indexation.values.filter((_, n) => n !== i) })}
            >
              Remove
            </button>
          </div>
        </div>
      ))}
      <button
        type="button"
        className="link-ink mt-2"
        onClick={() =>
          set({ values: [...indexation.values, { from: header.from as LocalDate, hundredths: indexation.base }] })
        }
      >
        Add an index value
      </button>
    </fieldset>
  );
}

export function HeaderFields({ header, change, error, customerId }: FieldsProps & { customerId: string }) {
  return (
    <>
      <div className="grid grid-cols-[10rem_1fr_1fr] gap-3">
        <TextField
          label="Number"
          value={header.number}
          onChange={(number) => change({ ...header, number })}
          error={error('number')}
          hint={header.number === '' ? 'Empty: the next one.' : undefined}
        />
        <TextField
          label="Name"
          value={header.name}
          onChange={(name) => change({ ...header, name })}
          error={error('name')}
          hint="Such as Full care."
        />
        <ManagerField
          value={header.managerId}
          onChange={(managerId) => change({ ...header, managerId })}
          error={error('managerId')}
        />
      </div>
      <div className="grid grid-cols-3 gap-3">
        <DateField
          label="Runs from"
          value={header.from}
          onChange={(from) => change({ ...header, from })}
          error={error('from')}
        />
        <DateField
          label="To (empty: open-ended)"
          value={header.to}
          onChange={(to) => change({ ...header, to })}
          error={error('to')}
        />
        <NumberField
          label="Notice, days before the end"
          value={header.noticeDays}
          onChange={(noticeDays) => change({ ...header, noticeDays })}
          error={error('noticeDays')}
          min={0}
          max={730}
        />
        <SelectField
          label="At the end of the term it"
          value={header.renewalMode}
          onChange={(mode) => change({ ...header, renewalMode: mode as Header['renewalMode'] })}
          options={RENEWAL_CHOICES}
        />
        <NumberField
          label="Renewed for, months"
          value={header.renewalMonths}
          onChange={(renewalMonths) => change({ ...header, renewalMonths })}
          error={error('renewalMonths')}
          min={1}
          max={120}
        />
        <TextField
          label="Cost centre"
          value={header.costCentre}
          onChange={(costCentre) => change({ ...header, costCentre })}
          error={error('costCentre')}
        />
        <TextField
          label="Currency"
          value={header.currency}
          onChange={(currency) => change({ ...header, currency: currency.toUpperCase() })}
          error={error('currency')}
        />
        <MoneyField
          label={`Price of the whole per ${header.billingPer}`}
          value={header.priceMinor}
          currency={header.currency}
          onChange={(priceMinor) => change({ ...header, priceMinor })}
          error={error('priceMinor')}
        />
        <div className="grid grid-cols-2 gap-2">
          <SelectField
            label="Billed per"
            value={header.billingPer}
            onChange={(per) => change({ ...header, billingPer: per as Header['billingPer'] })}
            options={BILLING_PERIODS.map((p) => [p, p] as const)}
          />
          <SelectField
            label="When"
            value={header.billingTiming}
            onChange={(timing) => change({ ...header, billingTiming: timing as Header['billingTiming'] })}
            options={BILLING_TIMINGS.map((t) => [t, t] as const)}
          />
        </div>
      </div>
      <IndexFields header={header} change={change} error={error} />
      <ContactTicks
        customerId={customerId}
        value={header.contactIds}
        onChange={(contactIds) => change({ ...header, contactIds })}
        error={error('contactIds')}
      />
      <TextField
        label="Reminder, shown to whoever works with it"
        value={header.reminder}
        onChange={(reminder) => change({ ...header, reminder })}
        error={error('reminder')}
      />
      <fieldset className="flex flex-wrap gap-x-6">
        <legend className="quiet pb-0.5">While it is suspended</legend>
        {(
          [
            ['suspendedCover', 'cover and promises go on'],
            ['suspendedVisits', 'preventive visits go on'],
          ] as const
        ).map(([key, text]) => (
          <label key={key} className="flex items-center gap-1.5">
            <input
              type="checkbox"
              className="box-tick"
              checked={header[key]}
              onChange={(e) => change({ ...header, [key]: e.target.checked })}
            />
            {text}
          </label>
        ))}
      </fieldset>
    </>
  );
}

export function EditHeader({ agreement, onClose }: { agreement: Page; onClose: () => void }) {
  const [header, setHeader] = useState<Header>({
    ...agreement,
    to: agreement.to ?? '',
    contactIds: agreement.contacts.map((c) => c.id),
  });
  const [change, { isLoading }] = agreementsApi.useChangeAgreementMutation();
  const { errors, submit } = useSubmit(HEADER_FIELDS);
  return (
    <Dialog title="Change the header" onClose={onClose} wide>
      <Form
        name="Change the header"
        save="Save the header"
        onSave={() =>
          submit(
            change({
              params: { id: String(agreement.id) },
              body: { version: agreement.version, ...headerBody(pick(header)) },
            }),
          ).then((done) => done && onClose())
        }
        onCancel={onClose}
        errors={errors}
        disabled={isLoading}
      >
        <h1>{agreement.number}</h1>
        <HeaderFields header={header} change={setHeader} error={errors.of} customerId={String(agreement.customer.id)} />
      </Form>
    </Dialog>
  );
}

/** Only the header of what a page holds. */
function pick(header: Header): Header {
  const keys = [...Object.keys(NEW_HEADER), 'from', 'to'] as (keyof Header)[];
  return Object.fromEntries(keys.map((key) => [key, header[key]])) as Header;
}
