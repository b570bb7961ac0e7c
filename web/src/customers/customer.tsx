// A customer: contacts and how they want to be told, credit terms, notes that pop up, technicians, files.
import { useState } from 'react';
import { addNote, changeCustomer, setWish } from '#api/customers.ts';
import type { ContactOut, CustomerPage } from '#api/customers.ts';
import { localDateAt } from '#core/time/index.ts';
import { AgreementLinks } from '../parts/agreement-links.tsx';
import { Choose, type Choice } from '../parts/choose.tsx';
import { GeneralError, useSubmit } from '../parts/fields.tsx';
import { Table, type Column } from '../parts/table/index.ts';
import { WireLongText, WireTick } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { plural, sayDate, sayMoney } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { customersApi } from './endpoints.ts';
import { ContactForm, CustomerForm } from './forms.tsx';
import { useTechnicians } from '../setup/index.ts';
import { Waiting } from '../shell/waiting.tsx';
import { AskCover } from '../agreements/index.ts';
import { Files } from '../files/index.ts';

function Notes({ customer, may }: { customer: CustomerPage; may: boolean }) {
  const reader = useReader();
  const [add] = customersApi.useAddNoteMutation();
  const [remove] = customersApi.useRemoveNoteMutation();
  const { errors, submit } = useSubmit([]);
  const form = useWireForm(addNote, { text: '', popsUp: true });
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
      <GeneralError errors={errors} />
      {may && (
        <WireForm
          form={form}
          name="Note"
          save="Add the note"
          send={(body) => add({ params: { id: String(customer.id) }, body })}
          onDone={() => form.reset({ text: '', popsUp: form.getValues('popsUp') })}
        >
          <WireLongText name="text" label="A note" rows={2} />
          <WireTick name="popsUp" label="Show it when an order is raised" className="" />
        </WireForm>
      )}
    </section>
  );
}

function Technicians({ customer, may }: { customer: CustomerPage; may: boolean }) {
  const [set] = customersApi.useSetWishMutation();
  const [chosen, setChosen] = useState<Choice | null>(null);
  const { errors, submit } = useSubmit(['personId']);
  const wish = async (personId: number, value: 'preferred' | 'blocked' | null): Promise<void> => {
    if (await submit(set({ params: { id: String(customer.id) }, body: { personId, wish: value } }))) setChosen(null);
  };
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
          <Choose
            label="Technician"
            chosen={chosen}
            onChoose={setChosen}
            useFind={useTechnicians}
            error={errors.of('personId')}
            className="flex-1"
          />
          <button className="act" disabled={!chosen} onClick={() => chosen && void wish(chosen.id, 'preferred')}>
            Preferred
          </button>
          <button className="act" disabled={!chosen} onClick={() => chosen && void wish(chosen.id, 'blocked')}>
            Blocked
          </button>
        </div>
      )}
      <GeneralError errors={errors} />
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

type Floating = 'change' | 'contact' | 'ask' | ContactOut;

/** Where it is served and on which terms; `change` is null for whoever may not. */
function Facts({ customer, change }: { customer: CustomerPage; change: (() => void) | null }) {
  return (
    <section>
      <dl className="grid grid-cols-[8rem_1fr] gap-y-1">
        <dt className="quiet">Service address</dt>
        <dd>
          {customer.serviceAddress ?? <span className="quiet">none: an order without a place has nowhere to go</span>}
        </dd>
        <dt className="quiet">Terms</dt>
        <dd>
          {customer.creditDays === null ? 'no days agreed' : `${customer.creditDays} days`}
          {customer.creditLimit !== null && `, up to ${sayMoney(customer.creditLimit, customer.creditCurrency)}`}
        </dd>
        {customer.rateCard && (
          <>
            <dt className="quiet">Rate card</dt>
            <dd>{customer.rateCard.name}, agreed with them</dd>
          </>
        )}
        <dt className="quiet">In the books</dt>
        <dd>
          {plural(customer.assets, 'asset')}, {plural(customer.openOrders, 'open order')}
        </dd>
      </dl>
      {change && (
        <button className="act mt-2" onClick={change}>
          Change the customer…
        </button>
      )}
    </section>
  );
}

function Contacts({
  customer,
  may,
  float,
}: {
  customer: CustomerPage;
  may: boolean;
  float: (what: 'contact' | ContactOut) => void;
}) {
  const [remove] = customersApi.useRemoveContactMutation();
  const { errors, submit } = useSubmit([]);
  const acts: Column<ContactOut> = {
    id: 'acts',
    head: '',
    drawnHead: <span className="sr-only">Change</span>,
    className: 'quiet whitespace-nowrap',
    show: (c) => (
      <>
        <button className="link-ink" onClick={() => float(c)}>
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
    <section>
      <div className="flex items-baseline gap-4">
        <h2>Contacts</h2>
        {may && (
          <button className="act" onClick={() => float('contact')}>
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
      <GeneralError errors={errors} />
    </section>
  );
}

function Agreements({ customer, ask }: { customer: CustomerPage; ask: () => void }) {
  return (
    <section>
      <div className="flex items-baseline gap-4">
        <h2>Agreements</h2>
        <button className="act" onClick={ask}>
          What are they entitled to?…
        </button>
      </div>
      {customer.agreements.length === 0 && <p className="quiet">None: every order is chargeable.</p>}
      <AgreementLinks agreements={customer.agreements} />
    </section>
  );
}

export function CustomerView({ id }: { id: string }) {
  const reader = useReader();
  const query = customersApi.useReadCustomerQuery({ params: { id } });
  const [floating, setFloating] = useState<Floating | null>(null);
  const { data: session } = server.useReadSessionQuery();
  const may = reader.may(changeCustomer);
  const close = (): void => setFloating(null);
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
            <Facts customer={customer} change={may ? () => setFloating('change') : null} />
            <Contacts customer={customer} may={may} float={setFloating} />
            <Agreements customer={customer} ask={() => setFloating('ask')} />
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
