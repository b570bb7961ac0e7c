// Agreement types: the provider’s own kinds of agreement, filled in once and taken as the beginning of new ones.
import { useState } from 'react';
import { addAgreementType } from '#api/terms.ts';
import type { AgreementTypeOut } from '#api/terms.ts';
import { BILLING_PERIODS, BILLING_TIMINGS, RENEWAL_MODES } from '#core/agreements/index.ts';
import { COST_ELEMENTS, sayAmount } from '#core/entitlement/index.ts';
import { NumberField, SelectField, TextField, useSubmit } from '../parts/fields.tsx';
import { Form } from '../parts/form.tsx';
import { RightFields } from '../agreements/index.ts';
import { NEW_TERMS, TermsFields } from '../agreements/index.ts';
import { agreementsApi } from '../agreements/index.ts';
import { Waiting } from '../shell/waiting.tsx';
import { EditableList } from './editable-list.tsx';

type Terms = AgreementTypeOut['terms'];
const START: Terms = {
  months: 12,
  noticeDays: 90,
  renewalMode: 'to be renegotiated',
  renewalMonths: 12,
  billingPer: 'quarter',
  billingTiming: 'in advance',
  reminder: '',
  shares: NEW_TERMS.shares,
  discounts: [],
  kinds: NEW_TERMS.kinds,
  excludedCauses: NEW_TERMS.excludedCauses,
  excludedParts: [],
  allowances: [],
};

function TypeForm({ type, onDone }: { type: AgreementTypeOut | null; onDone: () => void }) {
  const [name, setName] = useState(type?.name ?? '');
  const [terms, setTerms] = useState<Terms>(type?.terms ?? START);
  const [add, adding] = agreementsApi.useAddAgreementTypeMutation();
  const [change, changing] = agreementsApi.useChangeAgreementTypeMutation();
  const { errors, submit } = useSubmit(['name', 'terms']);
  const at = (field: string): string | undefined => errors.of(`terms.${field}`);
  const save = async (): Promise<void> => {
    const sent = type
      ? change({ params: { id: String(type.id) }, body: { version: type.version, name, terms } })
      : add({ body: { name, terms } });
    if (await submit<unknown>(sent)) onDone();
  };
  return (
    <Form
      name="Agreement type"
      save="Save the type"
      onSave={save}
      onCancel={onDone}
      errors={errors}
      disabled={adding.isLoading || changing.isLoading}
      sheet
    >
      <div className="grid grid-cols-3 gap-3">
        <TextField label="Name" value={name} onChange={setName} error={errors.of('name')} />
        <NumberField
          label="Term, months"
          value={terms.months ?? NaN}
          min={1}
          max={240}
          onChange={(n) => setTerms({ ...terms, months: Number.isNaN(n) ? null : n })}
          error={at('months')}
          hint="Empty: open-ended."
        />
        <NumberField
          label="Notice, days before the end"
          value={terms.noticeDays}
          min={0}
          max={730}
          onChange={(noticeDays) => setTerms({ ...terms, noticeDays })}
          error={at('noticeDays')}
        />
        <SelectField
          label="At the end of the term it"
          value={terms.renewalMode}
          onChange={(mode) => setTerms({ ...terms, renewalMode: mode as Terms['renewalMode'] })}
          options={RENEWAL_MODES.map((m) => [m, m === 'to be renegotiated' ? 'is to be renegotiated' : m] as const)}
        />
        <SelectField
          label="Billed per"
          value={terms.billingPer}
          onChange={(per) => setTerms({ ...terms, billingPer: per as Terms['billingPer'] })}
          options={BILLING_PERIODS.map((p) => [p, p] as const)}
        />
        <SelectField
          label="When"
          value={terms.billingTiming}
          onChange={(timing) => setTerms({ ...terms, billingTiming: timing as Terms['billingTiming'] })}
          options={BILLING_TIMINGS.map((t) => [t, t] as const)}
        />
      </div>
      <TermsFields
        terms={{ ...NEW_TERMS, ...terms }}
        change={({ shares, discounts, kinds, excludedCauses, excludedParts }) =>
          setTerms({ ...terms, shares, discounts, kinds, excludedCauses, excludedParts })
        }
        error={at}
        shared
      />
      <fieldset>
        <legend className="quiet pb-0.5">Counted rights</legend>
        <RightFields rights={terms.allowances} change={(allowances) => setTerms({ ...terms, allowances })} error={at} />
      </fieldset>
      <TextField
        label="Reminder, shown to whoever works with it"
        value={terms.reminder}
        onChange={(reminder) => setTerms({ ...terms, reminder })}
        error={at('reminder')}
      />
    </Form>
  );
}

export function AgreementTypes() {
  const query = agreementsApi.useListAgreementTypesQuery();
  return (
    <Waiting query={query}>
      {({ items }) => (
        <EditableList
          name="agreement-types"
          items={items}
          adding={addAgreementType}
          add="Add an agreement type"
          empty="No type yet. A type fills in what is usual when an agreement is written."
          form={(type, done) => <TypeForm type={type} onDone={done} />}
          columns={[
            { id: 'name', head: 'Name', value: (t) => t.name },
            {
              id: 'term',
              head: 'Term',
              value: ({ terms }) => (terms.months === null ? 'open-ended' : `${terms.months} months`),
            },
            ...COST_ELEMENTS.map((e) => ({
              id: e,
              head: `${e.charAt(0).toUpperCase()}${e.slice(1)} %`,
              isNumber: true,
              value: ({ terms }: { terms: { shares: Record<typeof e, number> } }) => terms.shares[e],
            })),
            {
              id: 'rights',
              head: 'Counted rights',
              value: ({ terms }) =>
                terms.allowances.map((a) => `${sayAmount(a.unit, a.amount)} per ${a.period}`).join(', ') || 'none',
              className: 'quiet',
            },
            {
              id: 'billed',
              head: 'Billed',
              value: ({ terms }) => `per ${terms.billingPer}, ${terms.billingTiming}`,
              className: 'quiet',
            },
          ]}
        />
      )}
    </Waiting>
  );
}
