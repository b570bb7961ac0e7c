// A customer: contacts and how they want to be told, credit terms, notes that pop up, technicians, files.
import { useState } from 'react';
import { Link } from 'react-router';
import { changeCustomer, setWish } from '#api/customers.ts';
import type { ContactOut, CustomerPage } from '#api/customers.ts';
import { asId, type PersonId } from '#core/ids.ts';
import { WAYS_TO_TELL } from '#core/customers.ts';
import { localDateAt } from '#core/time/index.ts';
import { Table, type Column } from '../parts/table/index.ts';
import { Field, NumberField, SelectField, TextField, useSubmit } from '../parts/fields.tsx';
import { DateField } from '../parts/date-field.tsx';
import { Form } from '../parts/form.tsx';
import { plural, sayDate, sayMoney } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { customersApi } from './endpoints.ts';
import { setupApi } from '../setup/index.ts';
import { Waiting } from '../shell/waiting.tsx';
import { AskCover } from '../agreements/index.ts';
import { Files } from '../files/index.ts';

const orNull = (n: number): number | null => (Number.isNaN(n) ? null : n);

export function CustomerForm({
  customer,
  onClose,
  onAdded,
}: {
  customer: CustomerPage | null;
  onClose: () => void;
  onAdded?: (id: number) => void;
}) {
  const [name, setName] = useState(customer?.name ?? '');
  const [address, setAddress] = useState(customer?.serviceAddress ?? '');
  const [days, setDays] = useState(customer?.creditDays ?? NaN);
  const [limit, setLimit] = useState(customer?.creditLimit ? customer.creditLimit / 100 : NaN);
  const [over, setOver] = useState<string>(customer?.overSince ?? '');
  const [add, adding] = customersApi.useAddCustomerMutation();
  const [change, changing] = customersApi.useChangeCustomerMutation();
  const { errors, submit } = useSubmit(['name', 'serviceAddress', 'creditDays', 'creditLimit', 'overSince']);
  const save = async (): Promise<void> => {
    const body = {
      name,
      serviceAddress: address || null,
      creditDays: orNull(days),
      creditLimit: Number.isNaN(limit) ? null : Math.round(limit * 100),
      overSince: over || null,
    };
    if (customer) {
      if (await submit(change({ params: { id: String(customer.id) }, body: { ...body, version: customer.version } })))
        onClose();
      return;
    }
    const made = await submit(add({ body }));
    if (made) onAdded?.(made.id);
  };
  const title = customer ? 'Change the customer' : 'Add a customer';
  return (
    <Dialog title={title} onClose={onClose}>
      <Form
        name={title}
        save={customer ? 'Save the customer' : 'Add the customer'}
        onSave={save}
        onCancel={onClose}
        errors={errors}
        disabled={adding.isLoading || changing.isLoading}
      >
        <h1>{customer?.name ?? title}</h1>
        <TextField label="Name" value={name} onChange={setName} error={errors.of('name')} autoFocus />
        <TextField
          label="Service address"
          value={address}
          onChange={setAddress}
          error={errors.of('serviceAddress')}
          hint="Where an order goes that names no place."
        />
        <div className="grid grid-cols-3 gap-3">
          <NumberField label="Days to pay" value={days} onChange={setDays} error={errors.of('creditDays')} min={0} />
          <NumberField
            label="Credit limit, EUR"
            value={limit}
            onChange={setLimit}
            error={errors.of('creditLimit')}
            min={0}
            step="any"
          />
          <DateField label="Over its terms since" value={over} onChange={setOver} error={errors.of('overSince')} />
        </div>
      </Form>
    </Dialog>
  );
}

function ContactForm({
  customerId,
  contact,
  onClose,
}: {
  customerId: number;
  contact: ContactOut | null;
  onClose: () => void;
}) {
  const [draft, setDraft] = useState({
    name: contact?.name ?? '',
    role: contact?.role ?? '',
    email: contact?.email ?? '',
    phone: contact?.phone ?? '',
    preferred: contact?.preferred ?? 'e-mail',
  });
  const [add, adding] = customersApi.useAddContactMutation();
  const [change, changing] = customersApi.useChangeContactMutation();
  const { errors, submit } = useSubmit(['name', 'role', 'email', 'phone', 'preferred']);
  const set = (key: keyof typeof draft) => (value: string) => setDraft({ ...draft, [key]: value });
  const save = async (): Promise<void> => {
    const done = await (contact
      ? submit(change({ params: { id: String(contact.id) }, body: { ...draft, version: contact.version } }))
      : submit(add({ params: { id: String(customerId) }, body: draft })));
    if (done) onClose();
  };
  const title = contact ? 'Change the contact' : 'Add a contact';
  return (
    <Dialog title={title} onClose={onClose}>
      <Form
        name={title}
        save={contact ? 'Save the contact' : 'Add the contact'}
        onSave={save}
        onCancel={onClose}
        errors={errors}
        disabled={adding.isLoading || changing.isLoading}
      >
        <h1>{title}</h1>
        <div className="grid grid-cols-2 gap-3">
          <TextField label="Name" value={draft.name} onChange={set('name')} error={errors.of('name')} autoFocus />
          <TextField label="Role" value={draft.role} onChange={set('role')} error={errors.of('role')} />
          <TextField label="E-mail" value={draft.email} onChange={set('email')} error={errors.of('email')} />
          <TextField label="Phone" value={draft.phone} onChange={set('phone')} error={errors.of('phone')} />
        </div>
        <SelectField
          label="Wants to be told by"
          value={draft.preferred}
          onChange={set('preferred')}
          options={WAYS_TO_TELL.map((w) => [w, w])}
        />
      </Form>
    </Dialog>
  );
}

function Notes({ customer, may }: { customer: CustomerPage; may: boolean }) {
  const reader = useReader();
  const [text, setText] = useState('');
  const [popsUp, setPopsUp] = useState(true);
  const [add] = customersApi.useAddNoteMutation();
  const [remove] = customersApi.useRemoveNoteMutation();
  const { errors, submit } = useSubmit(['text']);
  return (
    <section>
      <h2>Notes</h2>
      <ul>
        {customer.notes.map((n) => (
          <li key={n.id} className="border-b border-hairline py-1">
            {n.text}
            <p className="quiet flex gap-3">
              {n.popsUp ? 'shows when an order is raised' : 'only here'} · {n.who ?? ''}{' '}
              {sayDate(localDateAt(reader.zone, n.at))}
              {may && (
                <button
                  className="link-ink"
                  aria-label={`Remove the note ${n.text}`}
                  onClick={() => void submit(remove({ params: { id: String(n.id) } }))}
                >
                  remove
                </button>
              )}
            </p>
          </li>
        ))}
      </ul>
      {may && (
        <Form
          name="Note"
          save="Add the note"
          onSave={async () => {
            if (await submit(add({ params: { id: String(customer.id) }, body: { text, popsUp } }))) setText('');
          }}
          errors={errors}
        >
          <Field label="A note" error={errors.of('text')}>
            {(id) => (
              <textarea id={id} className="box-area" rows={2} value={text} onChange={(e) => setText(e.target.value)} />
            )}
          </Field>
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              className="box-tick"
              checked={popsUp}
              onChange={(e) => setPopsUp(e.target.checked)}
            />
            Show it when an order is raised
          </label>
        </Form>
      )}
    </section>
  );
}

function Technicians({ customer, may }: { customer: CustomerPage; may: boolean }) {
  const { data: reference } = setupApi.useReadReferenceQuery();
  const [set] = customersApi.useSetWishMutation();
  const [chosen, setChosen] = useState('');
  const { errors, submit } = useSubmit(['personId']);
  const wish = (id: number, value: 'preferred' | 'blocked' | null) =>
    submit(set({ params: { id: String(customer.id) }, body: { personId: asId<PersonId>(id), wish: value } }));
  return (
    <section>
      <h2>Technicians</h2>
      {customer.technicians.length === 0 && <p className="quiet">No wishes: anybody may come.</p>}
      <ul>
        {customer.technicians.map((t) => (
          <li key={t.id} className="flex justify-between gap-3 border-b border-hairline py-1">
            <span>
              {t.wish === 'preferred' ? '●' : '✕'} {t.name} <span className="quiet">{t.wish}</span>
            </span>
            {may && (
              <button
                className="quiet link-ink"
                aria-label={`No wish for ${t.name}`}
                onClick={() => void wish(t.id, null)}
              >
                remove
              </button>
            )}
          </li>
        ))}
      </ul>
      {may && (
        <div className="mt-2 flex items-end gap-2">
          <SelectField
            label="Technician"
            value={chosen}
            onChange={setChosen}
            error={errors.of('personId')}
            options={[['', 'choose'], ...(reference?.technicians ?? []).map((t) => [String(t.id), t.name] as const)]}
          />
          <button className="act" disabled={!chosen} onClick={() => void wish(Number(chosen), 'preferred')}>
            Preferred
          </button>
          <button className="act" disabled={!chosen} onClick={() => void wish(Number(chosen), 'blocked')}>
            Blocked
          </button>
        </div>
      )}
    </section>
  );
}

const CONTACT_COLUMNS: readonly Column<ContactOut>[] = [
  {
    id: 'name',
    head: 'Name',
    value: (c) => c.name,
    show: (c) => (
      <>
        {c.name}
        {c.role && <span className="quiet"> {c.role}</span>}
      </>
    ),
  },
  {
    id: 'phone',
    head: 'Phone',
    value: (c) => c.phone,
    show: (c) => c.phone && <a href={`tel:${c.phone.replace(/\s/g, '')}`}>{c.phone}</a>,
    className: 'whitespace-nowrap',
  },
  {
    id: 'email',
    head: 'E-mail',
    value: (c) => c.email,
    show: (c) => c.email && <a href={`mailto:${c.email}`}>{c.email}</a>,
  },
  { id: 'told', head: 'Told by', value: (c) => c.preferred },
];

export function CustomerView({ id }: { id: string }) {
  const reader = useReader();
  const query = customersApi.useReadCustomerQuery({ params: { id } });
  const [floating, setFloating] = useState<'change' | 'contact' | 'ask' | ContactOut | null>(null);
  const { data: session } = server.useReadSessionQuery();
  const [remove] = customersApi.useRemoveContactMutation();
  const { submit } = useSubmit([]);
  const may = reader.may(changeCustomer);
  const close = (): void => setFloating(null);
  const acts: Column<ContactOut> = {
    id: 'acts',
    head: '',
    drawnHead: <span className="sr-only">Change</span>,
    className: 'quiet whitespace-nowrap',
    show: (c) => (
      <>
        <button className="link-ink" onClick={() => setFloating(c)}>
          change
        </button>{' '}
        <button
          className="link-ink"
          aria-label={`Remove ${c.name}`}
          onClick={() => void submit(remove({ params: { id: String(c.id) } }))}
        >
          remove
        </button>
      </>
    ),
  };
  return (
    <Waiting query={{ ...query, data: query.currentData }}>
      {(customer) => (
        <section aria-label="Customer" className="grid grid-cols-[1.35fr_1fr] gap-x-10 gap-y-6">
          <div className="space-y-6">
            {customer.overSince && (
              <p className="border border-base-content bg-base-100 px-3 py-1.5">
                ✕ Over its credit terms since {sayDate(customer.overSince)}.
              </p>
            )}
            <section>
              <dl className="grid grid-cols-[8rem_1fr] gap-y-1">
                <dt className="quiet">Service address</dt>
                <dd>
                  {customer.serviceAddress ?? (
                    <span className="quiet">none: an order without a place has nowhere to go</span>
                  )}
                </dd>
                <dt className="quiet">Terms</dt>
                <dd>
                  {customer.creditDays === null ? 'no days agreed' : `${customer.creditDays} days`}
                  {customer.creditLimit !== null &&
                    `, up to ${sayMoney(customer.creditLimit, customer.creditCurrency)}`}
                </dd>
                <dt className="quiet">In the books</dt>
                <dd>
                  {plural(customer.assets, 'asset')}, {plural(customer.openOrders, 'open order')}
                </dd>
              </dl>
              {may && (
                <button className="act mt-2" onClick={() => setFloating('change')}>
                  Change the customer…
                </button>
              )}
            </section>
            <section>
              <div className="flex items-baseline gap-4">
                <h2>Contacts</h2>
                {may && (
                  <button className="act" onClick={() => setFloating('contact')}>
                    Add a contact…
                  </button>
                )}
              </div>
              {customer.contacts.length === 0 ? (
                <p className="quiet mt-1">Nobody yet. Whoever calls is found by name and number once they are here.</p>
              ) : (
                <Table
                  name="contacts"
                  caption="Contacts"
                  columns={[...CONTACT_COLUMNS, ...(may ? [acts] : [])]}
                  rows={customer.contacts}
                  idOf={(c) => c.id}
                />
              )}
            </section>
            <section>
              <div className="flex items-baseline gap-4">
                <h2>Agreements</h2>
                <button className="act" onClick={() => setFloating('ask')}>
                  What are they entitled to?…
                </button>
              </div>
              {customer.agreements.length === 0 && <p className="quiet">None: every order is chargeable.</p>}
              {customer.agreements.map((a) => (
                <p key={a.id}>
                  <Link className="link-ink" to={`/agreements/${a.id}`}>
                    {a.number} {a.name}
                  </Link>{' '}
                  <span className="quiet">
                    {a.stage}, {a.to ? `to ${sayDate(a.to)}` : 'open-ended'}
                  </span>
                </p>
              ))}
            </section>
          </div>
          <div className="space-y-6">
            <Notes customer={customer} may={may} />
            <Technicians customer={customer} may={reader.may(setWish)} />
            <section>
              <h2>Files</h2>
              <Files subject="customer" id={customer.id} />
            </section>
          </div>
          {floating === 'ask' && session && (
            <AskCover
              subject={{ kind: 'customer', id: customer.id, name: customer.name }}
              zone={reader.zone}
              now={session.now}
              onClose={close}
            />
          )}
          {floating === 'change' && <CustomerForm customer={customer} onClose={close} />}
          {floating === 'contact' && <ContactForm customerId={customer.id} contact={null} onClose={close} />}
          {floating && typeof floating === 'object' && (
            <ContactForm customerId={customer.id} contact={floating} onClose={close} />
          )}
        </section>
      )}
    </Waiting>
  );
}
