// Adding and changing a customer and its contacts.
import { addContact, addCustomer } from '#api/customers.ts';
import type { ContactIn, ContactOut, CustomerIn, CustomerPage } from '#api/customers.ts';
import { WAYS_TO_TELL } from '#core/customers.ts';
import { LANGUAGE_NAMES, LANGUAGES } from '#core/telling.ts';
import { WireDate, WireNumber, WireSelect, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { Dialog } from '../shell/dialog.tsx';
import { labourApi } from '../labour/index.ts';
import { customersApi } from './endpoints.ts';

export function CustomerForm({
  customer,
  onClose,
  onAdded,
}: {
  customer: CustomerPage | null;
  onClose: () => void;
  onAdded?: (id: number) => void;
}) {
  const [add] = customersApi.useAddCustomerMutation();
  const [change] = customersApi.useChangeCustomerMutation();
  const { data: rates } = labourApi.useReadRatesQuery();
  const follows = customer?.creditFollows ?? false;
  const form = useWireForm(addCustomer, {
    name: customer?.name ?? '',
    serviceAddress: customer?.serviceAddress ?? null,
    creditDays: customer?.creditDays ?? null,
    creditLimit: customer?.creditLimit ?? null,
    ...(!follows && { overSince: customer?.overSince ?? null }),
    rateCardId: customer?.rateCard?.id ?? null,
  });
  const title = customer ? 'Change the customer' : 'Add a customer';
  return (
    <Dialog title={title} onClose={onClose}>
      <WireForm<CustomerIn, unknown>
        form={form}
        name={title}
        save={customer ? 'Save the customer' : 'Add the customer'}
        send={(body, seen) =>
          customer
            ? change({ params: { id: String(customer.id) }, body: { ...body, version: seen ?? customer.version } })
            : add({ body })
        }
        onDone={(made) => (customer ? onClose() : onAdded?.((made as { id: number }).id))}
        onCancel={onClose}
      >
        <h1>{customer?.name ?? title}</h1>
        <WireText name="name" label="Name" autoFocus />
        <WireText
          name="serviceAddress"
          label="Service address"
          empty={null}
          hint="Where an order goes that names no place."
        />
        <div className="grid grid-cols-3 gap-3">
          <WireNumber name="creditDays" label="Days to pay" empty={null} min={0} />
          <WireNumber name="creditLimit" label="Credit limit, EUR" per={100} empty={null} min={0} step="any" />
          {!follows && <WireDate name="overSince" label="Over its terms since" empty={null} />}
        </div>
        {(rates?.cards.length ?? 0) > 1 && (
          <WireSelect
            name="rateCardId"
            label="Rate card agreed with them"
            options={[
              [null, 'the standard one'] as const,
              ...(rates?.cards ?? []).flatMap((c) => (c.isStandard ? [] : [[c.id, c.name] as const])),
            ]}
          />
        )}
      </WireForm>
    </Dialog>
  );
}

export function ContactForm({
  customerId,
  contact,
  onClose,
}: {
  customerId: number;
  contact: ContactOut | null;
  onClose: () => void;
}) {
  const [add] = customersApi.useAddContactMutation();
  const [change] = customersApi.useChangeContactMutation();
  const form = useWireForm(addContact, {
    name: contact?.name ?? '',
    role: contact?.role ?? '',
    email: contact?.email ?? '',
    phone: contact?.phone ?? '',
    preferred: contact?.preferred ?? 'e-mail',
    language: contact?.language ?? 'en',
  });
  const title = contact ? 'Change the contact' : 'Add a contact';
  return (
    <Dialog title={title} onClose={onClose}>
      <WireForm<ContactIn, unknown>
        form={form}
        name={title}
        save={contact ? 'Save the contact' : 'Add the contact'}
        send={(body, seen) =>
          contact
            ? change({ params: { id: String(contact.id) }, body: { ...body, version: seen ?? contact.version } })
            : add({ params: { id: String(customerId) }, body })
        }
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>{title}</h1>
        <div className="grid grid-cols-2 gap-3">
          <WireText name="name" label="Name" autoFocus />
          <WireText name="role" label="Role" />
          <WireText name="email" label="E-mail" />
          <WireText name="phone" label="Phone" />
        </div>
        <div className="grid grid-cols-2 gap-3">
          <WireSelect name="preferred" label="Wants to be told by" options={WAYS_TO_TELL.map((w) => [w, w] as const)} />
          <WireSelect
            name="language"
            label="Is written to in"
            options={LANGUAGES.map((l) => [l, LANGUAGE_NAMES[l]] as const)}
          />
        </div>
      </WireForm>
    </Dialog>
  );
}
