// One payment: what it is laid on, what it may be for, and what is done with it.
import { useState } from 'react';
import { Link, useParams } from 'react-router';
import { claimNumber } from '#api/claims.ts';
import { layPayment, setAsidePayment, takeBackAside, type PaymentPage } from '#api/payments.ts';
import { sayAmountOf } from '#core/money.ts';
import type { Part } from '#core/settle/index.ts';
import { ChooseCustomer } from '../customers/index.ts';
import type { Choice } from '../parts/choose.tsx';
import { GeneralError, useSubmit } from '../parts/fields.tsx';
import { ErrorLine } from '../parts/problem.tsx';
import { WireLongText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { sayDate } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { settleApi } from './endpoints.ts';
import { LayOn, sumOf } from './lay-on.tsx';
import { SettleParts } from './sections.tsx';
import { TakeBack } from './take-back.tsx';

const shown = ({ currency }: PaymentPage, minor: number): string => `${currency} ${sayAmountOf(minor, currency)}`;

/** Lays what is left; what is proposed stands there already, to be looked at. */
function Lay({ page }: { page: PaymentPage }) {
  const [lay, { isLoading }] = settleApi.useLayPaymentMutation();
  const { errors, submit } = useSubmit([]);
  const { proposal } = page;
  const [customer, setCustomer] = useState<Choice | null>(page.customer ?? proposal.customer);
  const [parts, setParts] = useState<Part[]>(() =>
    proposal.parts.map(({ documentId, minor }) => ({ documentId, minor })),
  );
  const send = () =>
    submit(
      lay({
        params: { id: String(page.id) },
        body: { version: page.version, customerId: customer?.id ?? 0, parts },
      }),
    );
  return (
    <section aria-label="What it pays" className="mt-4 max-w-3xl">
      <h2>What it pays</h2>
      {proposal.because && (
        <p className="quiet">
          Proposed: {proposal.because}
          {proposal.customer && ` (${proposal.customer.name})`}.
        </p>
      )}
      <ChooseCustomer
        label="From"
        chosen={customer}
        onChoose={(c) => {
          setCustomer(c);
          setParts([]);
        }}
        className="my-2 w-80"
      />
      {customer && (
        <LayOn customerId={customer.id} currency={page.currency} left={page.left} parts={parts} onChange={setParts} />
      )}
      <GeneralError errors={errors} />
      <div className="form-acts mt-3">
        <button className="act-main" disabled={!customer || isLoading} onClick={() => void send()}>
          {parts.length === 0 ? 'Keep whose it is' : `Allocate ${shown(page, sumOf(parts))}`}
        </button>
      </div>
    </section>
  );
}

function AsideDialog({ page, onClose }: { page: PaymentPage; onClose: () => void }) {
  const [put] = settleApi.useSetAsidePaymentMutation();
  const form = useWireForm(setAsidePayment, { version: page.version, reason: '' });
  return (
    <Dialog title="Set it aside" onClose={onClose}>
      <WireForm
        form={form}
        name="Set it aside"
        save="Set it aside"
        send={(body) => put({ params: { id: String(page.id) }, body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>It pays nothing that was billed here</h1>
        <WireLongText
          name="reason"
          label="Why"
          hint="A refund of a carrier, interest of the bank, a mistake of theirs."
        />
      </WireForm>
    </Dialog>
  );
}

function Laid({ page }: { page: PaymentPage }) {
  if (page.laid.length === 0) return null;
  return (
    <>
      <h2 className="mt-4">Allocated to</h2>
      <ul className="max-w-3xl">
        {page.laid.map((l) => (
          <li key={l.id} className="flex items-baseline gap-3 border-t border-hairline py-1.5">
            <Link className="serial link-ink w-28" to={`/settle/documents/${l.documentId}`}>
              {l.number}
            </Link>
            <span className={l.undone ? 'line-through' : ''}>{shown(page, l.minor)}</span>
            <span className="quiet flex-1">
              {sayDate(l.on)}, {l.who}
              {l.undone && `; taken back ${sayDate(l.undone.on)}: ${l.undone.because}`}
            </span>
            {!l.undone && <TakeBack id={l.id} what={`${shown(page, l.minor)} on ${l.number}`} />}
          </li>
        ))}
      </ul>
    </>
  );
}

function Claims({ page }: { page: PaymentPage }) {
  return page.claims.map((c) => (
    <p key={c.id} className="mt-2">
      {shown(page, c.minor)} of it paid{' '}
      <Link className="link-ink" to={`/settle/claims/${c.id}`}>
        <span className="serial">{claimNumber(c.id)}</span> to {c.maker}
      </Link>
      .
    </p>
  ));
}

function Page({ page }: { page: PaymentPage }) {
  const reader = useReader();
  const [isPutting, setPutting] = useState(false);
  const [back, backing] = settleApi.useTakeBackAsideMutation();
  const isOpen = page.state === 'open';
  return (
    <article aria-label="Payment">
      <h1 className="mt-3">
        {shown(page, page.minor)} of {sayDate(page.bookedOn)}
      </h1>
      <p className="quiet">
        {page.customer ? (
          <Link className="link-ink" to={`/settle/open/${page.customer.id}`}>
            {page.customer.name}
          </Link>
        ) : (
          'Nobody said yet whose it is'
        )}
        {page.payer && `, paid by ${page.payer}`}
        {page.payerAccount && ` from ${page.payerAccount}`}
        {page.file ? `, of ${page.file}` : `, typed by ${page.who}`}
      </p>
      {page.text && <p>“{page.text}”</p>}
      {page.state === 'aside' && <p>Set aside: {page.asideBecause}</p>}
      {isOpen && page.left !== page.minor && <p>{shown(page, page.left)} of it is left.</p>}
      <Claims page={page} />
      <Laid page={page} />
      {isOpen && reader.may(layPayment) && <Lay key={page.version} page={page} />}
      {isOpen && page.left === page.minor && reader.may(setAsidePayment) && (
        <button className="act mt-3" onClick={() => setPutting(true)}>
          Set it aside…
        </button>
      )}
      {page.state === 'aside' && reader.may(takeBackAside) && (
        <button
          className="act mt-3"
          disabled={backing.isLoading}
          onClick={() => void back({ params: { id: String(page.id) }, body: { version: page.version } })}
        >
          It waits again
        </button>
      )}
      <ErrorLine error={backing.error} />
      {isPutting && <AsideDialog page={page} onClose={() => setPutting(false)} />}
    </article>
  );
}

export function OnePayment({ id }: { id: string }) {
  const query = settleApi.useReadIncomingQuery({ params: { id } });
  return (
    <div className="flex-1 overflow-y-auto px-7 pt-5 pb-10">
      <SettleParts />
      <Waiting query={query}>{(page) => <Page key={page.id} page={page} />}</Waiting>
    </div>
  );
}

export function PaymentRoom() {
  const { id = '' } = useParams();
  return <OnePayment id={id} />;
}
