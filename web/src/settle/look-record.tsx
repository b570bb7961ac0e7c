// One finished order before it is billed: what it comes to, why, what is odd, and what is done with it.
import { useState } from 'react';
import { Link } from 'react-router';
import {
  addCorrection,
  approveOrders,
  approveSecond,
  changeCustomerBilling,
  withdrawApproval,
  type LookPage,
} from '#api/billing.ts';
import { changeOrder } from '#api/calls.ts';
import { startBilling } from '#api/documents.ts';
import { orderNumber } from '#api/shapes.ts';
import { sayAmountOf } from '#core/money.ts';
import { MANAGERS, mayCall } from '#core/people.ts';
import { CauseDialog } from '../orders/index.ts';
import { ErrorLine } from '../parts/problem.tsx';
import { sayDate, sayMoment } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { Waiting } from '../shell/waiting.tsx';
import { BillDialog } from './bill.tsx';
import { ChargeBars } from './charge-bars.tsx';
import { Corrections, GoodwillDialog, PayerDialog } from './corrections.tsx';
import { CustomerBillingDialog } from './customer-billing.tsx';
import { settleApi } from './endpoints.ts';
import { SAY_ODD, SAY_STATE } from './words.ts';

function Odd({ page }: { page: LookPage }) {
  if (page.odd.length === 0) return null;
  return (
    <ul className="mt-2">
      {page.odd.map((o) => (
        <li key={o}>
          <span className="font-semibold">{SAY_ODD[o][0]}.</span> <span className="quiet">{SAY_ODD[o][1]}</span>
        </li>
      ))}
    </ul>
  );
}

function Approved({ page }: { page: LookPage }) {
  const { zone } = useReader();
  const { data: session } = server.useReadSessionQuery();
  if (!page.approval) return null;
  const { who, at, second } = page.approval;
  const now = session?.now ?? at;
  return (
    <p className="quiet mt-2">
      Approved by {who}, {sayMoment(at, now, zone)}
      {second && `, and by ${second.who}, ${sayMoment(second.at, now, zone)}`}.
    </p>
  );
}

type Open = 'goodwill' | 'payer' | 'cause' | 'bill' | 'customer' | null;

/** What may be done with it now, the likely next first. */
function Acts({ page, open }: { page: LookPage; open: (what: Open) => void }) {
  const reader = useReader();
  const [approve, approving] = settleApi.useApproveOrdersMutation();
  const [second, seconding] = settleApi.useApproveSecondMutation();
  const [withdraw, withdrawing] = settleApi.useWithdrawApprovalMutation();
  const params = { id: String(page.orderId) };
  const refused = approving.data?.left.find((l) => l.orderId === page.orderId);
  const isOpen = page.state === 'to look at';
  return (
    <>
      <div className="mt-4 flex flex-wrap gap-2">
        {isOpen && reader.may(approveOrders) && (
          <button
            className="act-main"
            disabled={approving.isLoading}
            onClick={() => void approve({ body: { orders: [{ id: page.orderId, digest: page.digest }] } })}
          >
            Approve {page.currency} {sayAmountOf(page.total.pay, page.currency)}
          </button>
        )}
        {page.state === 'second' && reader.may(approveSecond) && (
          <button className="act-main" onClick={() => void second({ params })}>
            Approve as the second
          </button>
        )}
        {page.state === 'approved' && reader.may(startBilling) && (
          <button className="act-main" onClick={() => open('bill')}>
            Bill it…
          </button>
        )}
        {isOpen && mayCall(MANAGERS, reader.role) && reader.may(addCorrection) && (
          <button className="act" onClick={() => open('goodwill')}>
            Goodwill…
          </button>
        )}
        {isOpen && reader.may(addCorrection) && (
          <button className="act" onClick={() => open('payer')}>
            Somebody else pays…
          </button>
        )}
        {isOpen && page.hasCause && reader.may(changeOrder) && (
          <button className="act" onClick={() => open('cause')}>
            Another cause…
          </button>
        )}
        {(page.state === 'approved' || page.state === 'second') && reader.may(withdrawApproval) && (
          <button className="act" onClick={() => void withdraw({ params })}>
            Take the approval back
          </button>
        )}
        {reader.may(changeCustomerBilling) && (
          <button className="act" onClick={() => open('customer')}>
            How they are billed…
          </button>
        )}
      </div>
      {refused && (
        <p role="alert" className="mt-2 text-missed">
          ✕ {refused.reason}
        </p>
      )}
      <ErrorLine error={approving.error ?? seconding.error ?? withdrawing.error} />
    </>
  );
}

function Record({ page }: { page: LookPage }) {
  const [asking, setAsking] = useState<Open>(null);
  const close = (): void => setAsking(null);
  return (
    <article aria-label={page.title} className="px-6 pt-4 pb-10">
      <header>
        <h2 className="flex flex-wrap items-baseline gap-x-3">
          <Link className="serial link-ink text-base" to={`/orders/${page.orderId}`}>
            {orderNumber(page.orderId)}
          </Link>
          {page.title}
        </h2>
        <p className="quiet">
          <Link className="link-ink" to={`/register?customer=${page.customer.id}`}>
            {page.customer.name}
          </Link>
          , done {sayDate(page.doneOn)}, {SAY_STATE[page.state]}
          {page.reference && `, their number ${page.reference}`}
        </p>
      </header>
      <Odd page={page} />
      {page.sentences.map((s) => (
        <p key={s} className="mt-2">
          {s}
        </p>
      ))}
      {page.charges.length === 0 ? (
        <p className="mt-3">Nothing is charged: no time, part or cost was entered.</p>
      ) : (
        <ChargeBars page={page} />
      )}
      {page.total.margin !== null && (
        <p className="quiet mt-1">
          Margin {page.currency} {sayAmountOf(page.total.margin, page.currency)}: to pay less cost, without what the
          agreement earns.
        </p>
      )}
      <Corrections page={page} />
      <Approved page={page} />
      {page.documents.length > 0 && (
        <p className="mt-2">
          On{' '}
          {page.documents.map((d, i) => (
            <span key={d.id}>
              {i > 0 && ', '}
              <Link className="serial link-ink" to={`/settle/documents/${d.id}`}>
                {d.number ?? 'a draft'}
              </Link>
            </span>
          ))}
        </p>
      )}
      <Acts page={page} open={setAsking} />
      {asking === 'goodwill' && <GoodwillDialog page={page} onClose={close} />}
      {asking === 'payer' && <PayerDialog page={page} onClose={close} />}
      {asking === 'cause' && <CauseDialog id={page.orderId} onClose={close} />}
      {asking === 'bill' && <BillDialog page={page} onClose={close} />}
      {asking === 'customer' && <CustomerBillingDialog customer={page.customer} onClose={close} />}
    </article>
  );
}

export function LookRecord({ id }: { id: string }) {
  const query = settleApi.useReadLookQuery({ params: { id } });
  return <Waiting query={query}>{(page) => <Record key={page.orderId} page={page} />}</Waiting>;
}
