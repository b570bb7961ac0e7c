// What is made of a message: an order, a part of one that is open, an answer; or it is put away.
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { answerMail, nameSender, putMailAway, raiseFromMail, type MailPage } from '#api/mailbox.ts';
import { orderNumber } from '#api/shapes.ts';
import { LANGUAGE_NAMES, LANGUAGES } from '#core/telling.ts';
import { ChooseCustomer } from '../customers/index.ts';
import type { Choice } from '../parts/choose.tsx';
import { GeneralError, newRequestKey, useSubmit } from '../parts/fields.tsx';
import { WireLongText, WireSelect, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { useReader } from '../shell/reader.tsx';
import { mailboxApi } from './endpoints.ts';

function Answer({ message, onClose }: { message: MailPage; onClose: () => void }) {
  const [answer] = mailboxApi.useAnswerMailMutation();
  const [requestKey] = useState(newRequestKey);
  const form = useWireForm(answerMail, { requestKey, text: '' });
  return (
    <WireForm
      form={form}
      name="An answer"
      save="Send the answer"
      send={(body) => answer({ params: { id: String(message.id) }, body })}
      onDone={onClose}
      onCancel={onClose}
    >
      <WireLongText name="text" label={`To ${message.fromName || message.fromAddress}`} />
    </WireForm>
  );
}

function Away({ message, onClose }: { message: MailPage; onClose: () => void }) {
  const [putAway] = mailboxApi.usePutMailAwayMutation();
  const form = useWireForm(putMailAway, { reason: '' });
  return (
    <WireForm
      form={form}
      name="Put away"
      save="Put it away"
      send={({ reason }) => putAway({ params: { id: String(message.id) }, body: { reason } })}
      onDone={onClose}
      onCancel={onClose}
    >
      <WireText name="reason" label="Why nothing is to be done" autoFocus />
    </WireForm>
  );
}

/** Who sent it is made a contact, with what the message says of them. */
export function NameSender({ message }: { message: MailPage }) {
  const [name] = mailboxApi.useNameSenderMutation();
  const [customer, setCustomer] = useState<Choice | null>(message.customer);
  const [isOpen, setOpen] = useState(false);
  const form = useWireForm(
    nameSender,
    { name: message.proposed?.name ?? '', phone: message.proposed?.phone ?? '', language: 'en', customerId: null },
    (typed) => ({ ...typed, language: typed.language as 'en', customerId: customer?.id as number }),
  );
  if (!message.proposed) return null;
  if (!isOpen)
    return (
      <button type="button" className="act mt-2" onClick={() => setOpen(true)}>
        Make a contact of them…
      </button>
    );
  return (
    <div className="sheet mt-3 p-4">
      <WireForm
        form={form}
        name="A contact of the sender"
        save="Add the contact"
        send={(typed) =>
          name({
            params: { id: String(message.id) },
            body: { ...typed, language: typed.language as 'en', customerId: customer?.id ?? 0 },
          })
        }
        onDone={() => setOpen(false)}
        onCancel={() => setOpen(false)}
        disabled={customer === null}
      >
        <ChooseCustomer chosen={customer} onChoose={setCustomer} />
        <div className="grid grid-cols-3 gap-3">
          <WireText name="name" label="Name" />
          <WireText name="phone" label="Phone" />
          <WireSelect
            name="language"
            label="Is written to in"
            options={LANGUAGES.map((l) => [l, LANGUAGE_NAMES[l]] as const)}
          />
        </div>
        <p className="quiet">They write from {message.proposed.email}; their other messages become theirs too.</p>
      </WireForm>
    </div>
  );
}

/** Orders it may belong to, the likely one first. */
function Open({ message }: { message: MailPage }) {
  const navigate = useNavigate();
  const [join] = mailboxApi.useJoinFromMailMutation();
  const { errors, submit } = useSubmit([]);
  if (message.open.length === 0) return null;
  const add = async (orderId: number): Promise<void> => {
    if (await submit(join({ params: { id: String(message.id) }, body: { orderId } })))
      void navigate(`/orders/${orderId}`);
  };
  return (
    <section className="mt-5" aria-label="Orders it may belong to">
      <h2>Orders it may belong to</h2>
      <ul className="mt-1 border-t border-hairline">
        {message.open.map((o) => (
          <li key={o.id} className="flex items-center gap-2 border-b border-hairline py-1">
            <span className="min-w-0 flex-1 truncate">
              <Link className="link-ink" to={`/orders/${o.id}`}>
                <span className="serial">{orderNumber(o.id)}</span> {o.title}
              </Link>{' '}
              <span className="quiet">
                {o.tag}
                {o.likely && ' · it answers what was told of this one'}
              </span>
            </span>
            <button type="button" className="act shrink-0" onClick={() => void add(o.id)}>
              Add it to this order
            </button>
          </li>
        ))}
      </ul>
      <GeneralError errors={errors} />
    </section>
  );
}

type Doing = 'answer' | 'away' | null;

export function Acts({ message }: { message: MailPage }) {
  const reader = useReader();
  const [doing, setDoing] = useState<Doing>(null);
  const [putAway] = mailboxApi.usePutMailAwayMutation();
  const { errors, submit } = useSubmit([]);
  const close = (): void => setDoing(null);
  if (!reader.may(raiseFromMail) || !message.isRead) return null;
  const isLoose = message.state !== 'on an order';
  const mayAnswer = !message.isAutomatic && message.fromAddress.includes('@');
  return (
    <>
      <div className="form-acts mt-5">
        {isLoose && (
          <Link className="act-main" to={`/call?mail=${message.id}`}>
            Take it as a call
          </Link>
        )}
        {isLoose && (
          <Link className="act" to={`/offers/new?mail=${message.id}`}>
            Make an offer
          </Link>
        )}
        {mayAnswer && (
          <button type="button" className="act" onClick={() => setDoing('answer')}>
            Answer…
          </button>
        )}
        {message.state === 'to look at' && (
          <button type="button" className="act" onClick={() => setDoing('away')}>
            Put it away…
          </button>
        )}
        {message.state === 'put away' && (
          <button
            type="button"
            className="act"
            onClick={() => void submit(putAway({ params: { id: String(message.id) }, body: { reason: null } }))}
          >
            Look at it again
          </button>
        )}
      </div>
      <GeneralError errors={errors} />
      {doing !== null && (
        <div className="sheet mt-3 p-4">
          {doing === 'answer' ? (
            <Answer message={message} onClose={close} />
          ) : (
            <Away message={message} onClose={close} />
          )}
        </div>
      )}
      {isLoose && <Open message={message} />}
    </>
  );
}
