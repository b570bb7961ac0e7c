// Who looks after an agreement and whom to speak with; changed at any time, for none of it is a term.
import { type AgreementPage as Page, changeAdministration } from '#api/agreements/index.ts';
import { WireSelect, WireText, WireTick } from '../parts/wire-fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { Dialog } from '../shell/dialog.tsx';
import { agreementsApi } from './endpoints.ts';
import { customersApi } from '../customers/index.ts';
import { setupApi } from '../setup/index.ts';

export function ManagerField({ name }: { name: string }) {
  const { data: reference } = setupApi.useReadReferenceQuery();
  return (
    <WireSelect
      name={name}
      label="Account manager"
      options={[[null, 'nobody'] as const, ...(reference?.managers ?? []).map((p) => [p.id, p.name] as const)]}
    />
  );
}

export function ContactTicks({ name, customerId }: { name: string; customerId: string }) {
  const { data: owner } = customersApi.useReadCustomerQuery(
    { params: { id: customerId } },
    { skip: customerId === '' },
  );
  const contacts = owner?.contacts ?? [];
  return (
    <Wire<readonly number[]> name={name}>
      {({ value, change, error }) =>
        contacts.length > 0 && (
          <fieldset>
            <legend className="quiet pb-0.5">Contacts for this agreement</legend>
            <div className="flex flex-wrap gap-x-4 gap-y-1">
              {contacts.map((c) => (
                <label key={c.id} className="flex items-center gap-1.5">
                  <input
                    type="checkbox"
                    className="box-tick"
                    checked={value.includes(c.id)}
                    onChange={(e) => change(e.target.checked ? [...value, c.id] : value.filter((x) => x !== c.id))}
                  />
                  {c.name}
                </label>
              ))}
            </div>
            {error && <p className="text-missed">✕ {error}</p>}
          </fieldset>
        )
      }
    </Wire>
  );
}

export function EditAdministration({ agreement, onClose }: { agreement: Page; onClose: () => void }) {
  const [change] = agreementsApi.useChangeAdministrationMutation();
  const form = useWireForm(changeAdministration, {
    version: agreement.version,
    managerId: agreement.managerId,
    contactIds: agreement.contacts.map((c) => c.id),
    costCentre: agreement.costCentre,
    reminder: agreement.reminder,
    signOff: agreement.signOff,
  });
  return (
    <Dialog title="Who looks after it" onClose={onClose}>
      <WireForm
        form={form}
        name="Who looks after it"
        save="Save"
        send={(body) => change({ params: { id: String(agreement.id) }, body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>Who looks after {agreement.number}</h1>
        <p className="quiet">Terms, coverage and price change by an amendment with a date; this changes at once.</p>
        <div className="grid grid-cols-2 gap-3">
          <ManagerField name="managerId" />
          <WireText name="costCentre" label="Cost centre" />
        </div>
        <ContactTicks name="contactIds" customerId={String(agreement.customer.id)} />
        <WireTick name="signOff" label="Work under it is done once the customer signed for it" className="" />
        <WireText name="reminder" label="Reminder, shown to whoever works with it" />
      </WireForm>
    </Dialog>
  );
}
