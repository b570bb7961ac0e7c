// Mail that came in: what is to be looked at on the left, the message with what it may be about on the right.
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import type { MailPage, MailRow } from '#api/mailbox.ts';
import { orderNumber } from '#api/shapes.ts';
import { MAIL_STATES } from '#core/mail/index.ts';
import type { Instant } from '#core/time/index.ts';
import { Files } from '../files/index.ts';
import { Pager, usePages } from '../parts/pager.tsx';
import { sayMoment } from '../parts/words.ts';
import { useListKeys } from '../shell/keys.ts';
import { useReader } from '../shell/reader.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { Acts, NameSender } from './acts.tsx';
import { mailboxApi } from './endpoints.ts';

const senderOf = ({ fromName, fromAddress, isRead }: MailRow): string =>
  isRead ? fromName || fromAddress || 'nobody named' : 'being read…';

const WORDS: Readonly<Record<(typeof MAIL_STATES)[number], string>> = {
  'to look at': 'To look at',
  'on an order': 'On an order',
  'put away': 'Put away',
};

function Row({ message, chosen, to, now }: { message: MailRow; chosen: boolean; to: string; now: Instant }) {
  const { zone } = useReader();
  return (
    <li
      className={`border-b border-hairline ${chosen ? 'bg-base-100 outline outline-1 -outline-offset-1 outline-base-content' : 'hover:bg-base-300/60'}`}
    >
      <Link to={to} className="block px-3 py-1.5" aria-current={chosen || undefined}>
        <span className="flex justify-between gap-2">
          <span className="truncate font-semibold">{senderOf(message)}</span>
          <span className="quiet shrink-0">{sayMoment(message.receivedAt, now, zone)}</span>
        </span>
        <span className="block truncate">{message.subject || 'without a subject'}</span>
        <span className="quiet block truncate">
          {message.customer?.name ?? 'nobody we know'}
          {message.orderId !== null && ` · ${orderNumber(message.orderId)}`}
        </span>
      </Link>
    </li>
  );
}

function Sender({ message }: { message: MailPage }) {
  const { customer, contact, proposed } = message;
  return (
    <>
      <p>
        {contact?.name ?? senderOf(message)} <span className="serial">{message.fromAddress}</span>
        {customer && (
          <>
            {' '}
            of{' '}
            <Link className="link-ink" to={`/register?customer=${customer.id}`}>
              {customer.name}
            </Link>
          </>
        )}
      </p>
      {proposed && (
        <p className="quiet">
          {customer
            ? 'Their customer is known by the address; they are not a contact yet.'
            : 'Nobody we know writes from this address.'}
        </p>
      )}
      {contact === null && <NameSender message={message} />}
    </>
  );
}

function Became({ message }: { message: MailPage }) {
  const { state, orderId, putAwayReason, who } = message;
  if (state === 'on an order' && orderId !== null)
    return (
      <p className="mt-2">
        It is on{' '}
        <Link className="link-ink serial" to={`/orders/${orderId}`}>
          {orderNumber(orderId)}
        </Link>
        {who && `, by ${who}`}.
      </p>
    );
  return state === 'put away' ? (
    <p className="mt-2">
      Put away{who && ` by ${who}`}: {putAwayReason}.
    </p>
  ) : null;
}

/** What was written, what it answers folded away, and what came with it. */
function Words({ message }: { message: MailPage }) {
  return (
    <>
      {message.problem && <p className="mt-2 text-missed">✕ It could not be read: {message.problem}</p>}
      <p className="mt-3 max-w-prose whitespace-pre-wrap break-words">
        {message.own || (message.isRead && <span className="quiet">It says nothing.</span>)}
      </p>
      {message.quoted && (
        <details className="mt-2">
          <summary className="link-ink w-fit cursor-pointer">What it answers</summary>
          <p className="quiet mt-1 max-w-prose whitespace-pre-wrap break-words">{message.quoted}</p>
        </details>
      )}
      <Files subject="mail" id={message.id} quiet />
      {message.notKept.map((file) => (
        <p key={file.name} className="quiet">
          {file.name}: only in the message as it came. {file.why}
        </p>
      ))}
      <p className="mt-2">
        <a className="link-ink" href={`/api/mail/${message.id}/original`} download>
          The message as it came
        </a>
      </p>
    </>
  );
}

function Machines({ message }: { message: MailPage }) {
  if (message.machines.length === 0) return null;
  return (
    <p className="mt-2">
      It names{' '}
      {message.machines.map((m, i) => (
        <span key={m.id}>
          {i > 0 && ', '}
          <Link className="link-ink" to={`/assets/${m.id}`}>
            <span className="serial">{m.tag}</span> {m.model}
          </Link>
          {message.customer === null && <span className="quiet"> of {m.customer}</span>}
        </span>
      ))}
      .
    </p>
  );
}

function Message({ message, now }: { message: MailPage; now: Instant }) {
  const { zone } = useReader();
  return (
    <article aria-label="Message">
      <h1>{message.subject || 'Without a subject'}</h1>
      <p className="quiet">
        Received {sayMoment(message.receivedAt, now, zone)}
        {message.isAutomatic && ', sent by a machine'}
      </p>
      <div className="mt-2">
        <Sender message={message} />
      </div>
      <Became message={message} />
      <Words message={message} />
      <Machines message={message} />
      {message.answers.length > 0 && (
        <section className="mt-4" aria-label="Answered">
          <h2>Answered</h2>
          {message.answers.map((a) => (
            <div key={a.id} className="mt-1 border-t border-hairline py-1">
              <p className={a.state === 'dead' ? 'text-missed' : 'quiet'}>
                {sayMoment(a.at, now, zone)}
                {a.state === 'dead'
                  ? ', ✕ not sent: see the outbox'
                  : a.state === 'waiting'
                    ? ', about to be sent'
                    : ''}
              </p>
              <p className="max-w-prose whitespace-pre-wrap">{a.body.trim()}</p>
            </div>
          ))}
        </section>
      )}
      <Acts key={message.id} message={message} />
    </article>
  );
}

function Chosen({ id, now }: { id: string; now: Instant }) {
  const query = mailboxApi.useReadMailQuery({ params: { id } });
  return (
    <Waiting query={{ ...query, data: query.currentData }}>
      {(message) => <Message message={message} now={now} />}
    </Waiting>
  );
}

export function MailRoom() {
  const { id } = useParams();
  const navigate = useNavigate();
  const [params, setParams] = useSearchParams();
  const pages = usePages();
  const { after } = pages;
  const state = MAIL_STATES.find((s) => s === params.get('state')) ?? 'to look at';
  const query = mailboxApi.useListMailQuery({ query: { state, ...(after && { after }) } });
  const items = query.data?.items ?? [];
  const shown = id ?? (items[0] && String(items[0].id));
  const chosen = items.findIndex((m) => String(m.id) === shown);
  const search = state === 'to look at' ? '' : `?state=${encodeURIComponent(state)}`;
  useListKeys(items.length, chosen, (i) => void (items[i] && navigate(`/mail/${items[i].id}${search}`)));
  return (
    <div className="panes">
      <section aria-label="Mail" className="pane w-[360px] border-r">
        <div className="px-3 pt-4 pb-2">
          <h1>Mail</h1>
          <div className="mt-2 flex gap-3" role="group" aria-label="Which">
            {MAIL_STATES.map((s) => (
              <button
                key={s}
                type="button"
                aria-pressed={s === state}
                className={s === state ? 'font-semibold' : 'link-ink'}
                onClick={() => {
                  pages.begin();
                  setParams(s === 'to look at' ? {} : { state: s });
                }}
              >
                {WORDS[s]}
              </button>
            ))}
          </div>
        </div>
        <div className="flex-1 overflow-y-auto border-t border-hairline">
          <Waiting query={query}>
            {({ now, next }) => (
              <>
                {items.length === 0 && (
                  <p className="quiet px-3 py-4">
                    {state === 'to look at'
                      ? 'Nothing waits: every message is on an order or put away.'
                      : 'No message stands here.'}
                  </p>
                )}
                <ul>
                  {items.map((m) => (
                    <Row
                      key={m.id}
                      message={m}
                      chosen={String(m.id) === shown}
                      to={`/mail/${m.id}${search}`}
                      now={now}
                    />
                  ))}
                </ul>
                <Pager pages={pages} next={next} words={['Newer', 'Older']} />
              </>
            )}
          </Waiting>
        </div>
      </section>
      <section aria-label="The message" className="min-w-0 flex-1 overflow-y-auto px-7 pt-5 pb-10">
        {shown && query.data && <Chosen key={shown} id={shown} now={query.data.now} />}
      </section>
    </div>
  );
}
