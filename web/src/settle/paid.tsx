// What paid a document, and what is still open of it; reminders that were sent; what is not asked for any more.
import { useState } from 'react';
import { Link } from 'react-router';
import type { DocumentPage } from '#api/documents.ts';
import { layCredit, writeOff } from '#api/payments.ts';
import { sayAmountOf } from '#core/money.ts';
import type { Part } from '#core/settle/index.ts';
import { newRequestKey } from '../parts/fields.tsx';
import { WireLongText, WireMoney } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { sayDate } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { settleApi } from './endpoints.ts';
import { LayOn, sumOf } from './lay-on.tsx';
import { TakeBack } from './take-back.tsx';

type Props = { readonly page: DocumentPage; readonly onClose: () => void };
type One = DocumentPage['laid'][number];

function WriteOffDialog({ page, onClose }: Props) {
  const [off] = settleApi.useWriteOffMutation();
  const [requestKey] = useState(newRequestKey);
  const form = useWireForm(writeOff, { requestKey, minor: page.unpaid, reason: '' });
  return (
    <Dialog title="Write off" onClose={onClose}>
      <WireForm
        form={form}
        name="Write off"
        save="Ask no more for it"
        send={(body) => off({ params: { id: String(page.id) }, body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>Write off what is open of {page.number}</h1>
        <p className="quiet">For charges of a bank or what cannot be had. What was wrong is credited instead.</p>
        <WireMoney name="minor" label="Amount" currency={page.currency} />
        <WireLongText name="reason" label="Why" />
      </WireForm>
    </Dialog>
  );
}

function LayDialog({ page, onClose }: Props) {
  const [lay] = settleApi.useLayCreditMutation();
  const [requestKey] = useState(newRequestKey);
  const [parts, setParts] = useState<Part[]>([]);
  const bodyOf = () => ({ requestKey, parts });
  const form = useWireForm(layCredit, {}, bodyOf);
  return (
    <Dialog title="Allocate it" onClose={onClose} wide>
      <WireForm
        form={form}
        name="Allocate it"
        save={`Allocate ${page.currency} ${sayAmountOf(sumOf(parts), page.currency)}`}
        send={() => lay({ params: { id: String(page.id) }, body: bodyOf() })}
        onDone={onClose}
        onCancel={onClose}
        disabled={parts.length === 0}
      >
        <h1>Allocate {page.number} to what they have open</h1>
        <LayOn
          customerId={page.customer.id}
          currency={page.currency}
          left={-page.unpaid}
          parts={parts}
          onChange={setParts}
        />
      </WireForm>
    </Dialog>
  );
}

function By({ laid, page }: { laid: One; page: DocumentPage }) {
  if (laid.kind === 'payment')
    return (
      <Link className="link-ink" to={`/settle/payments/${laid.paymentId}`}>
        payment
      </Link>
    );
  if (laid.kind === 'written off') return <>written off: {laid.reason}</>;
  return (
    <>
      {page.kind === 'invoice' ? 'credit note ' : 'on '}
      <Link className="serial link-ink" to={`/settle/documents/${laid.document?.id}`}>
        {laid.document?.number}
      </Link>
    </>
  );
}

function sayOpen({ kind, unpaid, currency }: DocumentPage): string {
  if (kind === 'invoice')
    return unpaid === 0 ? 'Nothing of it is open.' : `${currency} ${sayAmountOf(unpaid, currency)} is open.`;
  return unpaid === 0
    ? 'All of it is allocated.'
    : `${currency} ${sayAmountOf(-unpaid, currency)} of it is still in their favour.`;
}

export function Paid({ page }: { page: DocumentPage }) {
  const reader = useReader();
  const [asking, setAsking] = useState<'off' | 'lay' | null>(null);
  const close = (): void => setAsking(null);
  return (
    <section aria-label="What is paid" className="mt-5 max-w-4xl">
      <h2>What is paid</h2>
      <p>{sayOpen(page)}</p>
      <ul>
        {page.laid.map((l) => (
          <li key={l.id} className="flex items-baseline gap-3 border-t border-hairline py-1">
            <span className={`num w-24 ${l.undone ? 'line-through' : ''}`}>{sayAmountOf(l.minor, page.currency)}</span>
            <span className="flex-1">
              <By laid={l} page={page} />
              <span className="quiet">
                , {sayDate(l.on)}
                {l.who && `, ${l.who}`}
                {l.undone && `; taken back ${sayDate(l.undone.on)}: ${l.undone.because}`}
              </span>
            </span>
            {!l.undone && <TakeBack id={l.id} what={`${page.currency} ${sayAmountOf(l.minor, page.currency)}`} />}
          </li>
        ))}
      </ul>
      {page.reminders.map((r) => (
        <p key={r.level} className="quiet">
          Reminder {r.level}, {sayDate(r.on)}, {r.who}
          {r.sentTo && `, mail to ${r.sentTo}`}
        </p>
      ))}
      <div className="flex gap-2 pt-2">
        {page.unpaid > 0 && reader.may(writeOff) && (
          <button className="act" onClick={() => setAsking('off')}>
            Write off…
          </button>
        )}
        {page.unpaid < 0 && reader.may(layCredit) && (
          <button className="act" onClick={() => setAsking('lay')}>
            Allocate it…
          </button>
        )}
      </div>
      {asking === 'off' && <WriteOffDialog page={page} onClose={close} />}
      {asking === 'lay' && <LayDialog page={page} onClose={close} />}
    </section>
  );
}
