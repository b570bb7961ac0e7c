// Billing runs: what would be billed up to a day, seen before it is, and what earlier runs made and left.
import { useEffect, useState } from 'react';
import { Link } from 'react-router';
import { type LookPage } from '#api/billing.ts';
import { startBilling, type BillingPreview, type RunOut } from '#api/documents.ts';
import { orderNumber } from '#api/shapes.ts';
import type { OrderId } from '#core/ids.ts';
import { sayAmountOf } from '#core/money.ts';
import { localDateAt } from '#core/time/index.ts';
import { ChooseCustomer } from '../customers/index.ts';
import type { Choice } from '../parts/choose.tsx';
import { newRequestKey } from '../parts/fields.tsx';
import { ErrorLine } from '../parts/problem.tsx';
import { WireDate, WireSelect, WireTick } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { plural, sayDate, sayMoment } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { Waiting } from '../shell/waiting.tsx';
import { settleApi } from './endpoints.ts';
import { SettleParts } from './sections.tsx';

type Ask = {
  upTo: string;
  takesOrders: boolean;
  takesFees: boolean;
  customerId: number | null;
  orderId: number | null;
  issues: boolean;
};

const money = (minor: number, currencies: readonly string[]): string =>
  currencies.length === 1
    ? `${currencies[0]} ${sayAmountOf(minor, currencies[0])}`
    : `${sayAmountOf(minor)} in ${currencies.join(' and ')}`;

type LeftOut = BillingPreview['leftOut'];
function Left({ all, more }: { all: LeftOut; more: number }) {
  if (all.length === 0) return null;
  return (
    <details className="mt-2">
      <summary>{plural(all.length + more, 'thing')} left, each with its reason</summary>
      <ul className="max-h-56 overflow-y-auto">
        {all.map((l, i) => (
          <li key={`${i} ${l.reason}`}>
            {l.customer}
            {l.orderId !== null && (
              <Link className="serial link-ink ml-2" to={`/settle/orders/${l.orderId}`}>
                {orderNumber(l.orderId as OrderId)}
              </Link>
            )}
            {l.agreementId !== null && (
              <Link className="link-ink ml-2" to={`/agreements/${l.agreementId}`}>
                agreement
              </Link>
            )}
            : {l.reason}
          </li>
        ))}
      </ul>
    </details>
  );
}

function Preview({ preview }: { preview: BillingPreview }) {
  const { documents, withoutTax, tax, withTax, silent, shown, leftOut, left, currencies } = preview;
  return (
    <section aria-label="What will be billed" aria-live="polite" className="mt-4 border-t border-hairline pt-3">
      {documents === 0 ? (
        <p>Nothing is to be billed up to that day.</p>
      ) : (
        <p>
          <strong className="font-serif text-2xl font-semibold">{plural(documents, 'document')}</strong>, together{' '}
          {money(withoutTax, currencies)} without tax, {money(tax, currencies)} tax, {money(withTax, currencies)} to
          pay.
        </p>
      )}
      {silent > 0 && (
        <p className="quiet">{plural(silent, 'charge')} cost nothing and stand on no document: they are settled too.</p>
      )}
      <Left all={leftOut} more={left - leftOut.length} />
      {shown.length > 0 && (
        <table className="dense mt-3">
          <thead>
            <tr>
              <th className="text-left">Customer</th>
              <th className="text-left">About</th>
              <th className="text-left">First line</th>
              <th className="num">Lines</th>
              <th className="num">Without tax</th>
              <th className="num">With tax</th>
            </tr>
          </thead>
          <tbody>
            {shown.map((d, i) => (
              <tr key={`${i} ${d.about}`}>
                <td>{d.customer.name}</td>
                <td className="whitespace-nowrap">
                  {d.kind === 'credit note' && 'credit: '}
                  {d.about}
                </td>
                <td className="max-w-80 truncate" title={d.first}>
                  {d.first}
                </td>
                <td className="num">{d.lines}</td>
                <td className="num">{sayAmountOf(d.withoutTax, d.currency)}</td>
                <td className="num">{sayAmountOf(d.withTax, d.currency)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {documents > shown.length && <p className="quiet mt-1">The first {shown.length} are shown.</p>}
    </section>
  );
}

/** What an ask would come to, worked out while it is typed, and again when a run has billed something of it. */
function usePreview(ask: Ask, isReady: boolean) {
  const [look, looked] = settleApi.usePreviewBillingMutation();
  const { data: runs } = settleApi.useListBillingRunsQuery();
  const asked = JSON.stringify(ask);
  const billed = JSON.stringify(runs?.items.map((r) => [r.id, r.state, r.documents]));
  useEffect(() => {
    if (!isReady) return;
    const timer = setTimeout(() => void look({ body: JSON.parse(asked) as Ask }), 250);
    return () => clearTimeout(timer);
  }, [asked, billed, isReady, look]);
  return looked;
}

function Run({ today }: { today: string }) {
  const [start, started] = settleApi.useStartBillingMutation();
  const [requestKey, setKey] = useState(newRequestKey);
  const [customer, setCustomer] = useState<Choice | null>(null);
  const bodyOf = (typed: Ask) => ({ ...typed, requestKey, customerId: customer?.id ?? null });
  const form = useWireForm(
    startBilling,
    { upTo: today, takesOrders: true, takesFees: true, customerId: null, orderId: null, issues: false } as Ask,
    bodyOf,
  );
  const typed = form.watch();
  const isReady = /^\d{4}-\d\d-\d\d$/.test(typed.upTo) && (typed.takesOrders || typed.takesFees);
  const { data: preview, error, isLoading } = usePreview({ ...typed, customerId: customer?.id ?? null }, isReady);
  const count = preview?.documents ?? 0;
  return (
    <>
      <WireForm
        form={form}
        name="Bill"
        save={typed.issues ? `Issue ${plural(count, 'document')}` : `Write ${plural(count, 'draft')}`}
        send={(now) => start({ body: bodyOf(now) })}
        onDone={() => {
          setKey(newRequestKey());
        }}
        disabled={!isReady || !preview || count + preview.silent === 0 || isLoading}
      >
        <div className="grid max-w-4xl grid-cols-4 items-end gap-3">
          <WireDate name="upTo" label="Up to" />
          <ChooseCustomer label="Of" chosen={customer} onChoose={setCustomer} none="every customer" />
          <WireSelect
            name="issues"
            label="As"
            options={[
              [false, 'drafts, to be read first'],
              [true, 'issued, with numbers'],
            ]}
          />
          <div>
            <WireTick name="takesOrders" label="approved orders" className="pb-1.5" />
            <WireTick name="takesFees" label="agreements’ fees" className="pt-1.5" />
          </div>
        </div>
      </WireForm>
      <ErrorLine error={error} />
      {started.data && <p role="status">It is under way; what it makes is listed below.</p>}
      {preview && isReady && <Preview preview={preview} />}
    </>
  );
}

function sayRun({ takesOrders, takesFees, customer, issues }: RunOut): string {
  const what = [takesOrders ? 'orders' : '', takesFees ? 'agreements' : ''].filter((w) => w !== '').join(' and ');
  return `${what} of ${customer ?? 'every customer'}, ${issues ? 'issued' : 'as drafts'}`;
}

function Runs() {
  const { zone } = useReader();
  const { data: session } = server.useReadSessionQuery();
  const query = settleApi.useListBillingRunsQuery();
  return (
    <Waiting query={query}>
      {({ items }) =>
        items.length === 0 ? (
          <p className="quiet">None yet.</p>
        ) : (
          <ul>
            {items.map((run) => (
              <li key={run.id} className="border-t border-hairline py-2">
                <Link className="link-ink" to={`/settle/documents?run=${run.id}`}>
                  {plural(run.documents, 'document')}
                </Link>
                {run.state === 'ended' ? '' : ' so far'}, up to {sayDate(run.upTo)}: {sayRun(run)}
                <span className="quiet">
                  {' '}
                  by {run.who}, {sayMoment(run.at, session?.now ?? run.at, zone)}
                </span>
                <Left all={run.left} more={0} />
              </li>
            ))}
          </ul>
        )
      }
    </Waiting>
  );
}

export function BillRoom() {
  const reader = useReader();
  const { data: session } = server.useReadSessionQuery();
  return (
    <div className="flex-1 overflow-y-auto px-7 pt-5 pb-10">
      <h1 className="mb-2">Bill</h1>
      <SettleParts />
      {session && reader.may(startBilling) && (
        <div className="pt-4">
          <Run today={localDateAt(reader.zone, session.now)} />
        </div>
      )}
      <h2 className="mt-6">Runs</h2>
      <Runs />
    </div>
  );
}

/** One order, billed at once. */
export function BillDialog({ page, onClose }: { page: LookPage; onClose: () => void }) {
  const [start] = settleApi.useStartBillingMutation();
  const [requestKey] = useState(newRequestKey);
  const form = useWireForm(startBilling, {
    ...{ requestKey, upTo: page.doneOn, takesOrders: true, takesFees: false, customerId: page.customer.id },
    ...{ orderId: page.orderId, issues: true },
  });
  const preview = usePreview(form.watch(), true);
  return (
    <Dialog title="Bill the order" onClose={onClose} wide>
      <WireForm
        form={form}
        name="Bill the order"
        save={form.watch('issues') ? 'Issue it' : 'Write the draft'}
        send={(body) => start({ body })}
        onDone={onClose}
        onCancel={onClose}
        disabled={!preview.data || preview.data.documents + preview.data.silent === 0}
      >
        <h1>Bill {orderNumber(page.orderId)}</h1>
        <WireSelect
          name="issues"
          label="As"
          options={[
            [true, 'issued, with its number'],
            [false, 'a draft, to be read first'],
          ]}
        />
        {preview.data && <Preview preview={preview.data} />}
        <ErrorLine error={preview.error} />
      </WireForm>
    </Dialog>
  );
}
