// The head of an order: who called, whom to ask for, the customer's own number; each field changed by itself.
import { useState } from 'react';
import { Link } from 'react-router';
import { changeHead } from '#api/calls.ts';
import type { OrderPage } from '#api/orders.ts';
import { orderNumber } from '#api/shapes.ts';
import { customersApi } from '../customers/index.ts';
import { WireDate, WireSelect, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { sayDate } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { ordersApi } from './endpoints.ts';

type Reached = NonNullable<OrderPage['caller']>;

const Reach = ({ who: { name, phone, email } }: { who: Reached }) => (
  <>
    {name}
    {phone && (
      <>
        ,{' '}
        <a className="link-ink" href={`tel:${phone}`}>
          {phone}
        </a>
      </>
    )}
    {email && `, ${email}`}
  </>
);

type Fields = { title: string; contactId: number | null; customerReference: string; wishedOn: string | null };

/** Only what was changed is sent, with what it was: what somebody else changed meanwhile stands. */
const changesOf = (was: Fields, is: Fields) => ({
  ...(was.title !== is.title && { title: { from: was.title, to: is.title } }),
  ...(was.contactId !== is.contactId && { contactId: { from: was.contactId, to: is.contactId } }),
  ...(was.customerReference !== is.customerReference && {
    customerReference: { from: was.customerReference, to: is.customerReference },
  }),
  ...(was.wishedOn !== is.wishedOn && { wishedOn: { from: was.wishedOn, to: is.wishedOn } }),
});

function HeadDialog({ order, onClose }: { order: OrderPage; onClose: () => void }) {
  const [change] = ordersApi.useChangeHeadMutation();
  const customer = customersApi.useReadCustomerQuery({ params: { id: String(order.customer.id) } });
  const [was] = useState<Fields>(() => ({
    ...{ title: order.title, contactId: order.contact?.id ?? null },
    ...{ customerReference: order.customerReference, wishedOn: order.wishedOn },
  }));
  const form = useWireForm(changeHead, was, (is: Fields) => changesOf(was, is) as never);
  return (
    <Dialog title="Change the order" onClose={onClose}>
      <WireForm
        form={form}
        name="Change the order"
        save="Save"
        send={(is) => change({ params: { id: String(order.id) }, body: changesOf(was, is) })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>Change the order</h1>
        <WireText name="title" label="What is wrong, or wanted" />
        <WireSelect
          name="contactId"
          label="Ask for, on site"
          options={[
            [null, 'not said'] as const,
            ...(customer.data?.contacts ?? []).map(
              (c) => [c.id, [c.name, c.role].filter((x) => x).join(', ')] as const,
            ),
          ]}
        />
        <WireText name="customerReference" label="The customer’s own number" />
        <WireDate name="wishedOn" label="Wished day" empty={null} />
      </WireForm>
    </Dialog>
  );
}

function Linked({ order: { follows, followedBy } }: { order: OrderPage }) {
  return (
    <>
      {follows && (
        <p>
          Does the rest of{' '}
          <Link className="link-ink" to={`/orders/${follows.id}`}>
            <span className="serial">{orderNumber(follows.id)}</span> {follows.title}
          </Link>{' '}
          <span className="quiet">({follows.stage})</span>
        </p>
      )}
      {followedBy.map((next) => (
        <p key={next.id}>
          Goes on with{' '}
          <Link className="link-ink" to={`/orders/${next.id}`}>
            <span className="serial">{orderNumber(next.id)}</span> {next.title}
          </Link>{' '}
          <span className="quiet">({next.stage})</span>
        </p>
      ))}
    </>
  );
}

/** Opens the change of the head, for whom that is. */
export function ChangeHead({ order }: { order: OrderPage }) {
  const [changing, setChanging] = useState(false);
  if (!useReader().may(changeHead)) return null;
  return (
    <>
      {' · '}
      <button className="link-ink" onClick={() => setChanging(true)}>
        change…
      </button>
      {changing && <HeadDialog order={order} onClose={() => setChanging(false)} />}
    </>
  );
}

/** Around the order: who called, whom to ask for, where it belongs. */
export function Around({ order }: { order: OrderPage }) {
  return (
    <>
      <p className="quiet">
        {order.caller && (
          <>
            Called by <Reach who={order.caller} />.{' '}
          </>
        )}
        {order.callerSaid && `Called by ${order.callerSaid}. `}
        {order.contact && (
          <>
            On site ask for <Reach who={order.contact} />.{' '}
          </>
        )}
        {order.customerReference && (
          <>
            Their number <span className="serial">{order.customerReference}</span>.{' '}
          </>
        )}
        {order.wishedOn && `Wished for ${sayDate(order.wishedOn)}. `}
        {order.internal && 'Internal: of our own fleet, nobody is billed. '}
      </p>
      <Linked order={order} />
      {order.notes.map((note) => (
        <p key={note} className="mt-1 border border-base-content bg-base-100 px-3 py-1">
          {note}
        </p>
      ))}
      {order.accessNote && <p className="quiet">Access: {order.accessNote}</p>}
    </>
  );
}
