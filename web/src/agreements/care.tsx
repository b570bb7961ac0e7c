// Who looks after an agreement and whom to speak with; changed at any time, for none of it is a term.
import { useState } from 'react';
import type { AgreementPage as Page } from '#api/agreements.ts';
import { SelectField, TextField, useSubmit } from '../parts/fields.tsx';
import { Form } from '../parts/form.tsx';
import { Dialog } from '../shell/dialog.tsx';
import { agreementsApi } from './endpoints.ts';
import { customersApi } from '../customers/index.ts';
import { setupApi } from '../setup/index.ts';

export type Care = { managerId: number | null; contactIds: number[]; costCentre: string; reminder: string };

type Props<K extends keyof Care> = {
  value: Care[K];
  onChange: (value: Care[K]) => void;
  error?: string | undefined;
};

export function ManagerField({ value, onChange, error }: Props<'managerId'>) {
  const { data: reference } = setupApi.useReadReferenceQuery();
  return (
    <SelectField
      label="Account manager"
      value={value === null ? '' : String(value)}
      onChange={(id) => onChange(id ? Number(id) : null)}
      options={[['', 'nobody'], ...(reference?.managers ?? []).map((p) => [String(p.id), p.name] as const)]}
      error={error}
    />
  );
}

export function ContactTicks({ customerId, value, onChange, error }: Props<'contactIds'> & { customerId: string }) {
  const { data: owner } = customersApi.useReadCustomerQuery(
    { params: { id: customerId } },
    { skip: customerId === '' },
  );
  const contacts = owner?.contacts ?? [];
  if (contacts.length === 0) return null;
  return (
    <fieldset>
      <legend className="quiet pb-0.5">Contacts for this agreement</legend>
      <div className="flex flex-wrap gap-x-4 gap-y-1">
        {contacts.map((c) => (
          <label key={c.id} className="flex items-center gap-1.5">
            <input
              type="checkbox"
              className="box-tick"
              checked={value.includes(c.id)}
              onChange={(e) => onChange(e.target.checked ? [...value, c.id] : value.filter((x) => x !== c.id))}
            />
            {c.name}
          </label>
        ))}
      </div>
      {error && <p className="text-missed">✕ {error}</p>}
    </fieldset>
  );
}

export function EditCare({ agreement, onClose }: { agreement: Page; onClose: () => void }) {
  const [care, setCare] = useState<Care>({
    managerId: agreement.managerId,
    contactIds: agreement.contacts.map((c) => c.id),
    costCentre: agreement.costCentre,
    reminder: agreement.reminder,
  });
  const [change, { isLoading }] = agreementsApi.useChangeCareMutation();
  const { errors, submit } = useSubmit(Object.keys(care));
  const save = async (): Promise<void> => {
    const body = { ...care, version: agreement.version, managerId: care.managerId as never };
    if (await submit(change({ params: { id: String(agreement.id) }, body }))) onClose();
  };
  return (
    <Dialog title="Who looks after it" onClose={onClose}>
      <Form name="Who looks after it" save="Save" onSave={save} onCancel={onClose} errors={errors} disabled={isLoading}>
        <h1>Who looks after {agreement.number}</h1>
        <p className="quiet">Terms, coverage and price change by an amendment with a date; this changes at once.</p>
        <div className="grid grid-cols-2 gap-3">
          <ManagerField
            value={care.managerId}
            onChange={(managerId) => setCare({ ...care, managerId })}
            error={errors.of('managerId')}
          />
          <TextField
            label="Cost centre"
            value={care.costCentre}
            onChange={(costCentre) => setCare({ ...care, costCentre })}
            error={errors.of('costCentre')}
          />
        </div>
        <ContactTicks
          customerId={String(agreement.customer.id)}
          value={care.contactIds}
          onChange={(contactIds) => setCare({ ...care, contactIds })}
          error={errors.of('contactIds')}
        />
        <TextField
          label="Reminder, shown to whoever works with it"
          value={care.reminder}
          onChange={(reminder) => setCare({ ...care, reminder })}
          error={errors.of('reminder')}
        />
      </Form>
    </Dialog>
  );
}
