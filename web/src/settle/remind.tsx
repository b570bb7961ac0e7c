// Reminders: who is due today, by which level and of what; those that are ticked are sent.
import { useEffect, useState } from 'react';
import { Link } from 'react-router';
import type { ReminderPreview } from '#api/payments.ts';
import { sayAmountOf } from '#core/money.ts';
import { ErrorLine } from '../parts/problem.tsx';
import { plural, sayDate } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { settleApi } from './endpoints.ts';

type Item = ReminderPreview['items'][number];
const keyOf = (item: Item): string => `${item.customer.id} ${item.currency}`;

function OneReminder({ item, isTaken, take }: { item: Item; isTaken: boolean; take: (taken: boolean) => void }) {
  return (
    <li className="border-t border-hairline py-2">
      <label className="flex items-baseline gap-2 py-1">
        <input type="checkbox" className="box-tick" checked={isTaken} onChange={(e) => take(e.target.checked)} />
        <span className="flex-1">
          <strong>{item.customer.name}</strong>, level {item.level}
          <span className="quiet">
            {' '}
            {item.to === '' ? 'nobody is named for their invoices: tell them yourself' : `mail to ${item.to}`}
          </span>
        </span>
        <span className="num">
          {item.currency} {sayAmountOf(item.unpaid, item.currency)}
        </span>
      </label>
      <p className="quiet pl-7">
        {item.documents
          .map((d) => `${d.number}, due ${sayDate(d.dueOn)}: ${sayAmountOf(d.unpaid, item.currency)}`)
          .join(' · ')}
      </p>
    </li>
  );
}

export function RemindDialog({ customerIds, onClose }: { customerIds: number[]; onClose: () => void }) {
  const [look, looked] = settleApi.usePreviewRemindersMutation();
  const [send, sending] = settleApi.useSendRemindersMutation();
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const asked = customerIds.join();
  useEffect(() => {
    void look({ body: { customerIds: asked === '' ? [] : asked.split(',').map(Number) } });
  }, [asked, look]);
  const { data: waiting } = settleApi.useListIncomingQuery({ query: { state: 'open' } });
  const items = looked.data?.items ?? [];
  const taken = items.filter((i) => !left.has(keyOf(i)));
  const sendAll = async (): Promise<void> => {
    const customers = taken.map((i) => ({ id: i.customer.id, currency: i.currency, seen: i.seen }));
    const answer = await send({ body: { customers } });
    if (answer.data && answer.data.left.length === 0) onClose();
    else void look({ body: { customerIds } });
  };
  return (
    <Dialog title="Remind" onClose={onClose} wide>
      <h1>Remind of what is past due</h1>
      {(waiting?.items.length ?? 0) > 0 && (
        <p>
          <Link className="link-ink" to="/settle/payments?state=open">
            Payments wait to be allocated
          </Link>
          : some of this may be paid already.
        </p>
      )}
      {looked.data && items.length === 0 && (
        <p className="quiet border-y border-hairline py-4">
          Nobody is due to be reminded today. When customers are reminded is said in Setup, Billing.
        </p>
      )}
      <ul className="mt-2 max-h-96 overflow-y-auto">
        {items.map((item) => (
          <OneReminder
            key={keyOf(item)}
            item={item}
            isTaken={!left.has(keyOf(item))}
            take={(isTaken) => {
              const next = new Set(left);
              if (isTaken) next.delete(keyOf(item));
              else next.add(keyOf(item));
              setLeft(next);
            }}
          />
        ))}
      </ul>
      {(looked.data?.more ?? 0) > 0 && <p className="quiet">{looked.data?.more} more come when these are sent.</p>}
      {(sending.data?.left ?? []).map((l) => (
        <p key={l.customer.id} role="status">
          {l.customer.name}: {l.reason}
        </p>
      ))}
      <ErrorLine error={looked.error ?? sending.error} />
      <div className="form-acts">
        <button className="act-main" disabled={taken.length === 0 || sending.isLoading} onClick={() => void sendAll()}>
          Remind {plural(taken.length, 'customer')}
        </button>
        <button className="act" onClick={onClose}>
          Cancel
        </button>
      </div>
    </Dialog>
  );
}
