// Writing a new draft: whose it is, what it begins with, and its header.
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { writeAgreement, type AgreementHeader } from '#api/agreements/index.ts';
import type { Sent } from '#api/contract.ts';
import { addDays, addMonths, parseLocalDate, type LocalDate } from '#core/time/index.ts';
import type { Choice } from '../parts/choose.tsx';
import { newRequestKey, SelectField } from '../parts/fields.tsx';
import { useWireForm, Wire, WireForm, type WireFormOf } from '../parts/wire-form.tsx';
import { ChooseCustomer, customersApi } from '../customers/index.ts';
import { Dialog } from '../shell/dialog.tsx';
import { agreementsApi } from './endpoints.ts';
import { HeaderFields, NEW_HEADER } from './header-form.tsx';

type NewAgreement = WireFormOf<Sent<typeof writeAgreement>['body']>;

/** What a draft begins with: nothing, a type, which fills in what is usual, or a copy of one of the customer's. */
function BeginWith({ form, customerId, today }: { form: NewAgreement; customerId: string; today: LocalDate }) {
  const [start, setStart] = useState('');
  const types = agreementsApi.useListAgreementTypesQuery();
  const others = agreementsApi.useListAgreementsQuery({ query: { customer: customerId } }, { skip: customerId === '' });
  const begin = (value: string): void => {
    setStart(value);
    const [kind, id] = value.split('/');
    form.setValue('typeId', kind === 'type' ? Number(id) : null);
    form.setValue('copyOf', kind === 'copy' ? Number(id) : null);
    const type = types.data?.items.find((t) => value === `type/${t.id}`);
    if (!type) return;
    const { months, noticeDays, reminder, renewalMode, renewalMonths, billingPer, billingTiming } = type.terms;
    const from = parseLocalDate(form.getValues('from')) ?? today;
    const usual: Partial<AgreementHeader> = {
      name: type.name,
      to: months === null ? null : addDays(addMonths(from, months), -1),
      ...{ noticeDays, reminder, renewalMode, renewalMonths, billingPer, billingTiming },
    };
    for (const [name, of] of Object.entries(usual)) form.setValue(name as 'name', of as string, { shouldDirty: true });
  };
  return (
    <Wire name="typeId">
      {({ error }) => (
        <SelectField
          label="Begin with"
          value={start}
          onChange={begin}
          options={[
            ['', 'nothing'],
            ...(types.data?.items ?? []).map((t) => [`type/${t.id}`, `the type ${t.name}`] as const),
            ...(others.data?.items ?? []).map((a) => [`copy/${a.id}`, `a copy of ${a.number} ${a.name}`] as const),
          ]}
          error={error}
          hint="A type fills in what is usual; everything stays open to change."
        />
      )}
    </Wire>
  );
}

export function WriteAgreement({ today, onClose }: { today: LocalDate; onClose: () => void }) {
  const navigate = useNavigate();
  const anybody = customersApi.useListCustomersQuery({ query: { limit: '1' } });
  const [customer, setCustomer] = useState<Choice | null>(null);
  const [requestKey] = useState(newRequestKey);
  const form = useWireForm(writeAgreement, {
    requestKey,
    customerId: NaN,
    typeId: null,
    copyOf: null,
    ...NEW_HEADER,
    from: today,
    to: addDays(addMonths(today, 12), -1),
  });
  const customerId = customer ? String(customer.id) : '';
  const [write] = agreementsApi.useWriteAgreementMutation();
  return (
    <Dialog title="Write an agreement" onClose={onClose} wide>
      <WireForm
        form={form}
        name="Write an agreement"
        save="Write the draft"
        send={(body) => write({ body })}
        onDone={({ id }) => void navigate(`/agreements/${id}`)}
        onCancel={onClose}
        disabled={customer === null}
      >
        <h1>Write an agreement</h1>
        {anybody.data?.items.length === 0 && (
          <p>
            There is no customer yet.{' '}
            <Link className="link-ink" to="/register/import">
              Import a register file
            </Link>{' '}
            first.
          </p>
        )}
        <div className="grid grid-cols-2 gap-3">
          <Wire<number> name="customerId">
            {({ change, error }) => (
              <ChooseCustomer
                chosen={customer}
                onChoose={(chosen) => {
                  setCustomer(chosen);
                  change(chosen?.id ?? NaN);
                }}
                error={error}
              />
            )}
          </Wire>
          <BeginWith form={form} customerId={customerId} today={today} />
        </div>
        <HeaderFields customerId={customerId} />
      </WireForm>
    </Dialog>
  );
}
