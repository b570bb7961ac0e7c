// What is known while somebody calls: what to promise, what is open already, who was there last, and what to ask of the customer.
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { joinOrder, type CallKnown } from '#api/calls.ts';
import { orderNumber } from '#api/shapes.ts';
import { sayAmountOf } from '#core/money.ts';
import { formatInstant, type Instant, type Zone } from '#core/time/index.ts';
import { labourApi } from '../labour/index.ts';
import { GeneralError, newRequestKey, useSubmit } from '../parts/fields.tsx';
import { MarginBar } from '../parts/margin-bar.tsx';
import { StageMoon } from '../parts/stage-moon.tsx';
import { CoverVerdict, Reminders } from '../parts/verdict.tsx';
import { sayDate, sayMinutes, sayMoment } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import type { AboutWhat } from './about.tsx';
import { ordersApi } from './endpoints.ts';

const Boxed = ({ children }: { children: React.ReactNode }) => (
  <p className="border border-base-content bg-base-100 px-3 py-1.5">{children}</p>
);

function Credit({ known: { credit, customer } }: { known: CallKnown }) {
  if (!credit) return null;
  return (
    <Boxed>
      ✕ {customer.name} is over its credit terms since {sayDate(credit.overSince)}.{' '}
      {credit.policy === 'stop'
        ? credit.mayRaise
          ? 'Orders are stopped: say why it is raised nevertheless.'
          : 'Orders are stopped: ask a manager to raise it.'
        : credit.policy === 'ask'
          ? 'Say why it is raised nevertheless.'
          : 'Orders go on.'}
    </Boxed>
  );
}

/** What it may cost, where somebody pays. */
function Indication({ ids }: { ids: readonly number[] }) {
  const { data } = labourApi.useReadIndicationQuery({ query: { assets: ids.join(',') } }, { skip: ids.length === 0 });
  const like = data?.indication;
  if (!like) return <p className="quiet">No like work is known to say a price by.</p>;
  return (
    <p>
      Like work took {sayMinutes(like.minutes)} and {like.currency} {sayAmountOf(like.partsCost, like.currency)} of
      parts (medians of {like.count})
      {like.price !== null && (
        <>
          : about{' '}
          <strong className="font-semibold">
            {like.currency} {sayAmountOf(like.price, like.currency)}
          </strong>{' '}
          without tax, coming included
        </>
      )}
      .
    </p>
  );
}

function Lines({ known, now, zone }: { known: CallKnown; now: Instant; zone: Zone }) {
  return known.lines.map((line) => (
    <section key={`${line.assetId}`} className="border-t border-hairline py-2">
      <h2>
        {line.tag && <span className="serial">{line.tag}</span>} {line.model}{' '}
        <span className="quiet font-normal">{line.tag ? line.place : ''}</span>
      </h2>
      <CoverVerdict {...line} />
      {line.allowances.map((text) => (
        <p key={text} className="quiet">
          {text}
        </p>
      ))}
      {line.clocks.length > 0 && (
        <div className="mt-2 grid grid-cols-3 gap-4">
          {line.clocks.map((c) => (
            <div key={c.target}>
              <h3 className="first-letter:uppercase">{c.target}</h3>
              <MarginBar clock={c} now={now} reader={zone} />
            </div>
          ))}
        </div>
      )}
    </section>
  ));
}

function Open({ known, title, now }: { known: CallKnown; title: string; now: Instant }) {
  const navigate = useNavigate();
  const [join] = ordersApi.useJoinOrderMutation();
  const { errors, submit } = useSubmit([]);
  const [key] = useState(newRequestKey);
  const mayJoin = useReader().may(joinOrder);
  if (known.open.length === 0) return null;
  const add = async (id: number): Promise<void> => {
    const body = { requestKey: key, receivedAt: formatInstant(now), text: title };
    if (await submit(join({ params: { id: String(id) }, body }))) void navigate(`/orders/${id}`);
  };
  return (
    <section className="mt-4">
      <h2>Open already</h2>
      <ul className="mt-1 border-t border-hairline">
        {known.open.map(({ order, same }) => (
          <li key={order.id} className="flex items-center gap-2 border-b border-hairline py-1">
            <StageMoon stage={order.stage} />
            <span className="min-w-0 flex-1">
              <Link className="link-ink" to={`/orders/${order.id}`}>
                <span className="serial">{orderNumber(order.id)}</span> {order.title}
              </Link>
              <span className="quiet block">
                {same === 'machine' ? 'the same machine' : `${order.tag || 'the place'}, at the same place`} ·{' '}
                {order.stage}
                {order.technician && `, ${order.technician}`}
              </span>
            </span>
            {mayJoin && (
              <button
                type="button"
                className="act"
                disabled={title.trim() === ''}
                title={title.trim() === '' ? 'Write first what is wrong' : undefined}
                onClick={() => void add(order.id)}
              >
                Add the call to it
              </button>
            )}
          </li>
        ))}
      </ul>
      <GeneralError errors={errors} />
    </section>
  );
}

function LastHere({ known, now }: { known: CallKnown; now: Instant }) {
  if (known.lastHere.length === 0) return null;
  return (
    <section className="mt-4">
      <h2>Last here</h2>
      <ul className="mt-1 border-t border-hairline">
        {known.lastHere.map((work) => (
          <li key={work.orderId} className="border-b border-hairline py-1">
            {sayMoment(work.doneAt, now, known.zone as Zone)}, {work.technician ?? 'nobody named'}:{' '}
            <Link className="link-ink" to={`/orders/${work.orderId}`}>
              {work.title}
            </Link>
            {(work.remedy ?? work.text) && <span className="quiet"> ({work.remedy ?? work.text})</span>}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** What an offer begins with, where the caller wants to know the price first. */
const offerAsked = ({ customer }: CallKnown, { machines }: AboutWhat): string =>
  new URLSearchParams({
    ...(machines.length > 0 ? { assets: machines.map((m) => m.id).join(',') } : { customer: String(customer.id) }),
  }).toString();

export function Known({
  known,
  title,
  about,
  now,
}: {
  known: CallKnown | undefined;
  title: string;
  about: AboutWhat;
  now: Instant;
}) {
  const { zone } = useReader();
  if (!known)
    return (
      <p className="quiet max-w-md">
        {about.machines.length > 0 || about.place
          ? 'Looking up what is known…'
          : 'As soon as a machine or a place is found, its cover, what we promise, open orders and who was there last stand here.'}
      </p>
    );
  return (
    <div className="max-w-2xl space-y-2" aria-live="polite">
      <h1>{known.customer.name}</h1>
      <p className="quiet">
        {known.address ?? 'No address is known.'} {known.accessNote}
      </p>
      <Credit known={known} />
      {known.notes.map((note) => (
        <Boxed key={note}>{note}</Boxed>
      ))}
      <Reminders texts={known.reminders} />
      {known.internal && <Boxed>Of our own fleet and rented to nobody: internal, nobody is billed.</Boxed>}
      <Lines known={known} now={now} zone={zone} />
      {known.chargeable && (
        <>
          <Indication ids={about.machines.map((m) => m.id)} />
          <p>
            <Link className="link-ink" to={`/offers/new?${offerAsked(known, about)}`}>
              Make an offer instead
            </Link>
          </p>
        </>
      )}
      <Open known={known} title={title} now={now} />
      <LastHere known={known} now={now} />
    </div>
  );
}
