// One offer: what it says and comes to, where it stands, and what may become of it.
import { useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { acceptOffer, changeOffer, declineOffer, offerNumber, sendOffer, type OfferPage } from '#api/offers.ts';
import { orderNumber } from '#api/shapes.ts';
import { sayAmountOf } from '#core/money.ts';
import { sayAmount } from '#core/stores/index.ts';
import { addDays, localDateAt, type Instant } from '#core/time/index.ts';
import { customersApi } from '../customers/index.ts';
import { Files } from '../files/index.ts';
import { newRequestKey } from '../parts/fields.tsx';
import { WireDate, WireSelect, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { sayDate, sayMinutes, sayMoment } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { Waiting } from '../shell/waiting.tsx';
import { offersApi } from './endpoints.ts';
import { Totals } from './lines.tsx';
import { ChangeOffer } from './write.tsx';

type Props = { readonly offer: OfferPage; readonly onClose: () => void };
const idOf = (offer: OfferPage) => ({ id: String(offer.id) });

function SendDialog({ offer, onClose }: Props) {
  const reader = useReader();
  const { data: session } = server.useReadSessionQuery();
  const [send] = offersApi.useSendOfferMutation();
  const { data: customer } = customersApi.useReadCustomerQuery({ params: { id: String(offer.customer.id) } });
  const today = session ? localDateAt(reader.zone, session.now) : offer.validUntil;
  const form = useWireForm(sendOffer, {
    ...{ version: offer.version, contactId: offer.contact?.email ? offer.contact.id : null },
    validUntil: offer.validUntil < today ? addDays(today, 30) : offer.validUntil,
  });
  const reachable = (customer?.contacts ?? []).filter((c) => c.email);
  return (
    <Dialog title="Send the offer" onClose={onClose}>
      <WireForm
        form={form}
        name="Send the offer"
        save="Send the offer"
        send={(body) => send({ params: idOf(offer), body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>Send {offerNumber(offer.id)}</h1>
        <WireSelect
          name="contactId"
          label="By mail to"
          options={[
            [null, 'nobody: it is handed over on paper'] as const,
            ...reachable.map((c) => [c.id, `${c.name}, ${c.email}`] as const),
          ]}
        />
        <WireDate name="validUntil" label="Valid until" />
        <p className="quiet">
          It goes as a PDF, which is kept with the offer
          {offer.fromMailId !== null && ', in the thread of the message it answers'}.
        </p>
      </WireForm>
    </Dialog>
  );
}

function AcceptDialog({ offer, onClose }: Props) {
  const navigate = useNavigate();
  const [accept] = offersApi.useAcceptOfferMutation();
  const [requestKey] = useState(newRequestKey);
  const form = useWireForm(acceptOffer, {
    ...{
      requestKey,
      by: offer.contact?.name ?? '',
      priority: 3 as const,
      customerReference: '',
      wishedOn: null,
      overTermsReason: '',
    },
  });
  return (
    <Dialog title="The customer accepts" onClose={onClose}>
      <WireForm
        form={form}
        name="The customer accepts"
        save="Raise the order"
        send={(body) =>
          accept({
            params: idOf(offer),
            body: { ...body, ...(body.overTermsReason === '' && { overTermsReason: undefined }) },
          })
        }
        onDone={({ orderId }) => void navigate(`/orders/${orderId}`)}
        onCancel={onClose}
      >
        <h1>{offerNumber(offer.id)} is accepted</h1>
        <WireText name="by" label="Who accepted it, and how" autoFocus />
        <div className="grid grid-cols-2 gap-3">
          <WireText name="customerReference" label="Their own order number" />
          <WireDate name="wishedOn" label="Wished day" empty={null} />
        </div>
        <WireText
          name="overTermsReason"
          label={
            offer.overSince === null
              ? 'If they are over their credit terms: why it is raised nevertheless'
              : `Over their credit terms since ${sayDate(offer.overSince)}: why it is raised nevertheless`
          }
        />
        <p className="quiet">The order gets its machines, minutes and parts, its words and its files.</p>
      </WireForm>
    </Dialog>
  );
}

function EndDialog({ offer, onClose, end }: Props & { readonly end: 'decline' | 'withdraw' }) {
  const [decline] = offersApi.useDeclineOfferMutation();
  const [withdraw] = offersApi.useWithdrawOfferMutation();
  const form = useWireForm(declineOffer, { reason: '' });
  const title = end === 'decline' ? 'The customer declines' : 'Withdraw the offer';
  return (
    <Dialog title={title} onClose={onClose}>
      <WireForm
        form={form}
        name={title}
        save={end === 'decline' ? 'It is declined' : 'Withdraw it'}
        send={(body) => (end === 'decline' ? decline : withdraw)({ params: idOf(offer), body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>{title}</h1>
        <WireText name="reason" label="Why" autoFocus />
      </WireForm>
    </Dialog>
  );
}

type Doing = 'send' | 'accept' | 'decline' | 'withdraw' | 'change' | null;

function Acts({ offer, onDo }: { offer: OfferPage; onDo: (doing: Doing) => void }) {
  const { standing } = offer;
  const act = (doing: Exclude<Doing, null>, word: string, main = false) => (
    <button type="button" className={main ? 'act-main' : 'act'} onClick={() => onDo(doing)}>
      {word}
    </button>
  );
  const isOpen = standing === 'draft' || standing === 'sent' || standing === 'lapsed';
  return (
    <div className="form-acts mt-3">
      {standing === 'draft' && act('send', 'Send…', true)}
      {standing === 'draft' && act('change', 'Change…')}
      {standing === 'sent' && act('accept', 'The customer accepts…', true)}
      {standing === 'sent' && act('decline', 'Declines…')}
      {standing === 'lapsed' && act('send', 'Send again with another day…', true)}
      {standing === 'lapsed' && act('decline', 'Declined…')}
      {isOpen && act('withdraw', 'Withdraw…')}
      <Link className="act" to={`/offers/new?offer=${offer.id}`}>
        Another from it
      </Link>
      <a className="act" href={`/api/offers/${offer.id}/document`} target="_blank" rel="noreferrer">
        As PDF
      </a>
    </div>
  );
}

function Stands({ offer, now }: { offer: OfferPage; now: Instant }) {
  const { zone } = useReader();
  const { standing, sentAt, sentTo, decision, decidedAt, orderId, validUntil } = offer;
  const sent =
    sentAt === null ? '' : `${sentTo ? `sent to ${sentTo}` : 'handed over'} ${sayMoment(sentAt, now, zone)}, `;
  return (
    <p className="mt-1">
      <strong className="inline-block font-semibold first-letter:uppercase">{standing}</strong>
      {decidedAt !== null && ` ${sayMoment(decidedAt, now, zone)} (${decision})`}
      {orderId !== null && (
        <>
          , became{' '}
          <Link className="link-ink serial" to={`/orders/${orderId}`}>
            {orderNumber(orderId)}
          </Link>
        </>
      )}
      <span className="quiet">
        {' '}
        · {sent}valid until {sayDate(validUntil)}
      </span>
    </p>
  );
}

function LineRows({ offer }: { offer: OfferPage }) {
  const { currency, lines, machines } = offer;
  const tagOf = new Map(machines.map((m) => [m.id, m.tag]));
  return (
    <table className="dense mt-4">
      <thead>
        <tr>
          <th>What</th>
          <th>On</th>
          <th className="text-right!">Quantity</th>
          <th className="text-right!">Price</th>
          <th className="text-right!">Off</th>
          <th className="text-right!">Amount, {currency}</th>
        </tr>
      </thead>
      <tbody>
        {lines.map((line, i) => (
          // Lines have no identity of their own: they are written anew as a whole.
          // eslint-disable-next-line react/no-array-index-key
          <tr key={i}>
            <td>
              {line.text}
              {line.supplier && <span className="quiet"> · to be purchased from {line.supplier}</span>}
            </td>
            <td className="serial">{line.assetId === null ? '' : tagOf.get(line.assetId)}</td>
            <td className="text-right tabular-nums">
              {line.kind === 'work' ? sayMinutes(line.quantity) : sayAmount(line.quantity, line.unit)}
            </td>
            <td className="text-right tabular-nums">{sayAmountOf(line.price, currency)}</td>
            <td className="text-right tabular-nums">{line.discount > 0 ? `${line.discount} %` : ''}</td>
            <td className="text-right tabular-nums">{sayAmountOf(line.pay, currency)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Offer({ offer }: { offer: OfferPage }) {
  const reader = useReader();
  const { data: session } = server.useReadSessionQuery();
  const [doing, setDoing] = useState<Doing>(null);
  const close = (): void => setDoing(null);
  if (!session) return null;
  if (doing === 'change') return <ChangeOffer offer={offer} now={session.now} onDone={close} />;
  return (
    <article aria-label="Offer">
      <p className="quiet">
        <Link className="link-ink" to="/offers">
          Offers
        </Link>{' '}
        · <span className="serial">{offerNumber(offer.id)}</span>
      </p>
      <h1>{offer.title}</h1>
      <p>
        For{' '}
        <Link className="link-ink" to={`/register?customer=${offer.customer.id}`}>
          {offer.customer.name}
        </Link>
        {offer.contact && `, ${offer.contact.name}`}
        {offer.machines.map((m) => (
          <span key={m.id}>
            ,{' '}
            <Link className="link-ink" to={`/assets/${m.id}`}>
              <span className="serial">{m.tag}</span> {m.model}
            </Link>
          </span>
        ))}
        {offer.place && `, ${offer.place.name}`}
      </p>
      <Stands offer={offer} now={session.now} />
      {(offer.fromOrderId !== null || offer.fromMailId !== null) && (
        <p className="quiet">
          Made of{' '}
          {offer.fromOrderId !== null ? (
            <Link className="link-ink" to={`/orders/${offer.fromOrderId}`}>
              {orderNumber(offer.fromOrderId)}
            </Link>
          ) : (
            <Link className="link-ink" to={`/mail/${offer.fromMailId}`}>
              a message
            </Link>
          )}
        </p>
      )}
      {reader.may(changeOffer) && <Acts offer={offer} onDo={setDoing} />}
      {offer.text && <p className="mt-4 max-w-prose whitespace-pre-wrap">{offer.text}</p>}
      <LineRows offer={offer} />
      <div className="mt-2">
        <Totals totals={offer.totals} currency={offer.currency} />
      </div>
      <h2 className="mt-5">Papers and photos</h2>
      <Files subject="offer" id={offer.id} />
      {doing === 'send' && <SendDialog offer={offer} onClose={close} />}
      {doing === 'accept' && <AcceptDialog offer={offer} onClose={close} />}
      {(doing === 'decline' || doing === 'withdraw') && <EndDialog offer={offer} onClose={close} end={doing} />}
    </article>
  );
}

export function OfferRoom() {
  const { id } = useParams();
  return id === undefined ? null : <OfferShown id={id} />;
}

export function OfferShown({ id }: { id: string }) {
  const query = offersApi.useReadOfferQuery({ params: { id } });
  return (
    <div className="flex-1 overflow-y-auto px-7 pt-5 pb-10">
      <div className="max-w-5xl">
        <Waiting query={{ ...query, data: query.currentData }}>
          {(offer) => <Offer key={offer.id} offer={offer} />}
        </Waiting>
      </div>
    </div>
  );
}
