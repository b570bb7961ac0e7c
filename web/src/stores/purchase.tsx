// One purchase order: its lines and for whom each is, what may be done with it next, and what came.
import { useState } from 'react';
import { Link, useParams } from 'react-router';
import {
  approvePurchase,
  callOffPurchase,
  closeShort,
  purchaseNumber,
  receivePurchase,
  sendPurchase,
  setInvoiced,
  setPurchaseLine,
  type PurchasePage,
} from '#api/purchases.ts';
import { orderNumber } from '#api/shapes.ts';
import { seesMoney } from '#core/people.ts';
import { sayAmount, sayQuantity } from '#core/stores/index.ts';
import { localDateAt, type LocalDate } from '#core/time/index.ts';
import { GeneralError, useSubmit } from '../parts/fields.tsx';
import { sayDate, sayMoment } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { Waiting } from '../shell/waiting.tsx';
import { amountOf } from './counted.tsx';
import { DeliveryDialog } from './delivery.tsx';
import { storesApi } from './endpoints.ts';
import { CallOffDialog, InvoicedDialog, LineDialog, ShortDialog } from './purchase-dialogs.tsx';
import { StoresParts } from './sections.tsx';

type Line = PurchasePage['lines'][number];
type Asking =
  { readonly what: 'line' | 'short' | 'invoiced'; readonly line: Line } | { readonly what: 'call off' | 'deliver' };

function Acts({ page, ask }: { page: PurchasePage; ask: (asking: Asking) => void }) {
  const reader = useReader();
  const [approve, approving] = storesApi.useApprovePurchaseMutation();
  const [send, sending] = storesApi.useSendPurchaseMutation();
  const { errors, submit } = useSubmit([]);
  const { version, stage, supplier } = page;
  const params = { id: String(page.id) };
  const isBusy = approving.isLoading || sending.isLoading;
  const maySend = stage === 'draft' && reader.may(sendPurchase);
  const byMail = supplier.email !== '';
  return (
    <>
      <div className="mt-3 flex flex-wrap gap-3">
        {page.needsApproval && reader.may(approvePurchase) && (
          <button
            className="act-main"
            disabled={isBusy}
            onClick={() => void submit(approve({ params, body: { version } }))}
          >
            Approve it
          </button>
        )}
        {maySend && !page.needsApproval && byMail && (
          <button
            className="act-main"
            disabled={isBusy}
            onClick={() => void submit(send({ params, body: { version, byMail: true } }))}
          >
            Send it to {supplier.email}
          </button>
        )}
        {maySend && !page.needsApproval && (
          <button
            className={byMail ? 'act' : 'act-main'}
            disabled={isBusy}
            onClick={() => void submit(send({ params, body: { version, byMail: false } }))}
          >
            Handed over on paper
          </button>
        )}
        {stage === 'sent' && reader.may(receivePurchase) && (
          <button className="act-main" onClick={() => ask({ what: 'deliver' })}>
            Something came…
          </button>
        )}
        {seesMoney(reader.role) && page.lines.length > 0 && (
          <a className="act" href={`/api/purchases/${page.id}.pdf`} target="_blank" rel="noreferrer">
            Print
          </a>
        )}
        {(stage === 'draft' || stage === 'sent') && reader.may(callOffPurchase) && (
          <button className="act" onClick={() => ask({ what: 'call off' })}>
            Call it off…
          </button>
        )}
      </div>
      {page.needsApproval && (
        <p className="mt-2">It comes to more than may be sent without approval: a manager approves it first.</p>
      )}
      <GeneralError errors={errors} />
    </>
  );
}

function LineActs({ page, line, ask }: { page: PurchasePage; line: Line; ask: (asking: Asking) => void }) {
  const reader = useReader();
  const button = (what: 'line' | 'short' | 'invoiced', word: string) => (
    <button className="link-ink" aria-label={`${word} ${line.part.name}`} onClick={() => ask({ what, line })}>
      {word}
    </button>
  );
  const isOpen = page.stage === 'draft' || page.stage === 'sent';
  return (
    <td className="text-right">
      <div className="flex flex-wrap justify-end gap-x-3">
        {isOpen &&
          line.short === null &&
          reader.may(setPurchaseLine) &&
          button('line', page.stage === 'sent' ? 'confirmed…' : 'change…')}
        {page.stage === 'sent' && line.toCome > 0 && reader.may(closeShort) && button('short', 'close short…')}
        {line.received > 0 && reader.may(setInvoiced) && button('invoiced', 'invoiced…')}
      </div>
    </td>
  );
}

const PromisedFor = ({ day, isLate }: { day: LocalDate; isLate: boolean }) =>
  isLate ? <span className="text-short">▲ late: {sayDate(day)}</span> : sayDate(day);

function LineRow({
  page,
  line: l,
  today,
  ask,
}: {
  page: PurchasePage;
  line: Line;
  today: LocalDate | null;
  ask: (asking: Asking) => void;
}) {
  const isMoneySeen = seesMoney(useReader().role);
  return (
    <tr className="align-top">
      <td className="serial whitespace-nowrap">
        <Link className="link-ink" to={`/stores/parts/${l.part.id}`}>
          {l.part.number}
        </Link>
      </td>
      <td>{l.part.name}</td>
      <td className="serial">{l.theirNumber}</td>
      <td className="num whitespace-nowrap">{sayAmount(l.thousandths, l.part.unit)}</td>
      <td className="num">{l.received === 0 ? '' : sayQuantity(l.received)}</td>
      <td>
        {l.short !== null ? (
          <>closed short: {l.short}</>
        ) : l.toCome === 0 ? (
          <span className="quiet">all here</span>
        ) : l.promisedOn === null ? (
          ''
        ) : (
          <PromisedFor day={l.promisedOn} isLate={page.stage === 'sent' && today !== null && l.promisedOn < today} />
        )}
        {l.refused > 0 && <div className="quiet">{sayQuantity(l.refused)} came wrong or broken</div>}
      </td>
      {isMoneySeen && (
        <td className="num">
          {l.unitPrice === null ? <span className="text-missed">✕ none</span> : amountOf(l.unitPrice)}
          {l.variance !== null && l.variance !== 0 && <div className="quiet">{amountOf(l.variance)} variance</div>}
        </td>
      )}
      {isMoneySeen && <td className="num">{amountOf(l.amount)}</td>}
      <td>
        {l.for.map((f) => (
          <div key={f.needId} className="whitespace-nowrap">
            {sayQuantity(f.thousandths)} for{' '}
            <Link className="serial link-ink" to={`/orders/${f.orderId}`}>
              {orderNumber(f.orderId)}
            </Link>
          </div>
        ))}
      </td>
      <LineActs page={page} line={l} ask={ask} />
    </tr>
  );
}

function Lines({ page, ask }: { page: PurchasePage; ask: (asking: Asking) => void }) {
  const reader = useReader();
  const isMoneySeen = seesMoney(reader.role);
  const { data: session } = server.useReadSessionQuery();
  const today = session ? localDateAt(reader.zone, session.now) : null;
  return (
    <table className="dense mt-4">
      <thead>
        <tr>
          <th>Number</th>
          <th>Part</th>
          <th>Theirs</th>
          <th className="num">Ordered</th>
          <th className="num">Came</th>
          <th>Promised for</th>
          {isMoneySeen && <th className="num">One, EUR</th>}
          {isMoneySeen && <th className="num">EUR</th>}
          <th>For</th>
          <th>
            <span className="sr-only">Acts</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {page.lines.map((l) => (
          <LineRow key={l.id} page={page} line={l} today={today} ask={ask} />
        ))}
      </tbody>
      {isMoneySeen && (
        <tfoot>
          <tr className="font-semibold">
            <td colSpan={7}>In all, without tax</td>
            <td className="num">{amountOf(page.total)}</td>
            <td colSpan={2} />
          </tr>
        </tfoot>
      )}
    </table>
  );
}

function Purchase({ page }: { page: PurchasePage }) {
  const { zone } = useReader();
  const { data: session } = server.useReadSessionQuery();
  const [asking, setAsking] = useState<Asking | null>(null);
  const now = session?.now ?? page.createdAt;
  const close = (): void => setAsking(null);
  const { approved, sent } = page;
  return (
    <>
      <h1>
        {purchaseNumber(page.id)} to {page.supplier.name}
      </h1>
      <p className="quiet">
        {[
          page.stage,
          `to be delivered to ${page.store.name}`,
          `made ${sayMoment(page.createdAt, now, zone)}${page.createdBy ? ` by ${page.createdBy}` : ''}`,
          approved && `approved${approved.by ? ` by ${approved.by}` : ''}`,
          sent && `sent ${sayMoment(sent.at, now, zone)}${sent.to ? ` to ${sent.to}` : ' on paper'}`,
          page.note,
        ]
          .filter((x) => x)
          .join(' · ')}
      </p>
      <Acts page={page} ask={setAsking} />
      {page.lines.length === 0 ? (
        <p className="quiet mt-3">There is nothing on it.</p>
      ) : (
        <Lines page={page} ask={setAsking} />
      )}
      {page.deliveries.length > 0 && (
        <>
          <h2 className="mt-6 mb-1">What came</h2>
          <ul>
            {page.deliveries.map((d) => (
              <li key={`${d.at} ${d.text}`}>
                {sayMoment(d.at, now, zone)}:{' '}
                {d.parts.map((p) => `${sayQuantity(p.thousandths)} × ${p.number}`).join(', ') || 'nothing good'}
                <span className="quiet">{[d.text, d.by].filter((x) => x).map((x) => ` · ${x}`)}</span>
              </li>
            ))}
          </ul>
        </>
      )}
      {asking?.what === 'line' && <LineDialog page={page} line={asking.line} onClose={close} />}
      {asking?.what === 'short' && <ShortDialog page={page} line={asking.line} onClose={close} />}
      {asking?.what === 'invoiced' && <InvoicedDialog page={page} line={asking.line} onClose={close} />}
      {asking?.what === 'call off' && <CallOffDialog page={page} onClose={close} />}
      {asking?.what === 'deliver' && <DeliveryDialog page={page} onClose={close} />}
    </>
  );
}

export function PurchaseRoom() {
  const { id = '' } = useParams();
  return <PurchaseOf id={id} />;
}

export function PurchaseOf({ id }: { id: string }) {
  const query = storesApi.useReadPurchaseQuery({ params: { id } });
  return (
    <article className="px-7 pt-5 pb-10">
      <StoresParts />
      <div className="mt-3">
        <Waiting query={query}>{(page) => <Purchase page={page} />}</Waiting>
      </div>
    </article>
  );
}
