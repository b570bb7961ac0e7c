// Agreement types: the provider’s own kinds of agreement, filled in once and taken as the beginning of new ones.
import { addAgreementType, type AgreementTypeIn, type AgreementTypeOut } from '#api/agreements/index.ts';
import { BILLING_PERIODS, BILLING_TIMINGS } from '#core/agreements/index.ts';
import { COST_ELEMENTS, sayAmount } from '#core/entitlement/index.ts';
import { WireNumber, WireSelect, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { agreementsApi, NEW_TERMS, RENEWAL_CHOICES, RightFields, TermsFields } from '../agreements/index.ts';
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
  const [add] = agreementsApi.useAddAgreementTypeMutation();
  const [change] = agreementsApi.useChangeAgreementTypeMutation();
  const form = useWireForm(addAgreementType, { name: type?.name ?? '', terms: type?.terms ?? START });
  return (
    <WireForm<AgreementTypeIn, unknown>
      form={form}
      name="Agreement type"
      save="Save the type"
      send={(body, seen) =>
        type
          ? change({ params: { id: String(type.id) }, body: { version: seen ?? type.version, ...body } })
          : add({ body })
      }
      onDone={onDone}
      onCancel={onDone}
      sheet
    >
      <div className="grid grid-cols-3 gap-3">
        <WireText name="name" label="Name" />
        <WireNumber name="terms.months" label="Term, months" empty={null} min={1} max={240} hint="Empty: open-ended." />
        <WireNumber name="terms.noticeDays" label="Notice, days before the end" min={0} max={730} />
        <WireSelect name="terms.renewalMode" label="At the end of the term it" options={RENEWAL_CHOICES} />
        <WireSelect name="terms.billingPer" label="Billed per" options={BILLING_PERIODS.map((p) => [p, p] as const)} />
        <WireSelect name="terms.billingTiming" label="When" options={BILLING_TIMINGS.map((t) => [t, t] as const)} />
      </div>
      <TermsFields at="terms" />
      <fieldset>
        <legend className="quiet pb-0.5">Counted rights</legend>
        <RightFields name="terms.allowances" />
      </fieldset>
      <WireText name="terms.reminder" label="Reminder, shown to whoever works with it" />
    </WireForm>
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
