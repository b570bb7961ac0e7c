// On which invoices a payment or credit note is laid: what a customer has open, the oldest first, with what is laid on each.
import { useState } from 'react';
import { Link } from 'react-router';
import { sayAmountOf } from '#core/money.ts';
import { payInOrder, type Part } from '#core/settle/index.ts';
import { MoneyCell } from '../parts/money-field.tsx';
import { sayDate } from '../parts/words.ts';
import { Waiting } from '../shell/waiting.tsx';
import { settleApi } from './endpoints.ts';

export const sumOf = (parts: readonly Part[]): number => parts.reduce((sum, p) => sum + p.minor, 0);

type Props = {
  readonly customerId: number;
  readonly currency: string;
  /** What there is to lay. */
  readonly left: number;
  readonly parts: readonly Part[];
  readonly onChange: (parts: Part[]) => void;
};

export function LayOn({ customerId, currency, left, parts, onChange }: Props) {
  const query = settleApi.useReadOpenItemsQuery({ params: { id: String(customerId) } });
  const of = (id: number): number => parts.find((p) => p.documentId === id)?.minor ?? 0;
  // Fields keep what is typed in them: what a button sets begins them anew.
  const [round, setRound] = useState(0);
  const setAll = (next: Part[]): void => {
    setRound(round + 1);
    onChange(next);
  };
  const others = (documentId: number): Part[] => parts.filter((p) => p.documentId !== documentId);
  const set = (documentId: number, minor: number | null): void => {
    onChange([...others(documentId), ...(minor === null || minor === 0 ? [] : [{ documentId, minor }])]);
  };
  return (
    <Waiting query={query}>
      {({ items, more }) => {
        const open = items.filter((i) => i.kind === 'invoice' && i.currency === currency);
        if (open.length === 0) return <p className="quiet">They have no invoice open in {currency}.</p>;
        return (
          <>
            <div className="flex items-baseline gap-4">
              <button type="button" className="act" onClick={() => setAll(payInOrder(open, left))}>
                The oldest first
              </button>
              <span className="quiet" aria-live="polite">
                {sayAmountOf(sumOf(parts), currency)} of {currency} {sayAmountOf(left, currency)} allocated
              </span>
            </div>
            <ul className="mt-1 max-h-72 overflow-y-auto border-b border-hairline">
              {open.map((item) => (
                <li key={item.id} className="flex items-center gap-3 border-t border-hairline py-1">
                  <Link className="serial link-ink w-28" to={`/settle/documents/${item.id}`}>
                    {item.number}
                  </Link>
                  <span className="flex-1">
                    {item.about}, due {sayDate(item.dueOn)}
                  </span>
                  <button
                    type="button"
                    className="link-ink whitespace-nowrap"
                    onClick={() => {
                      const rest = others(item.id);
                      setAll([...rest, ...payInOrder([item], left - sumOf(rest))]);
                    }}
                  >
                    all {sayAmountOf(item.unpaid, currency)}
                  </button>
                  <MoneyCell
                    key={round}
                    label={`To ${item.number}`}
                    currency={currency}
                    value={of(item.id) || null}
                    onChange={(minor) => set(item.id, minor)}
                  />
                </li>
              ))}
            </ul>
            {more > 0 && <p className="quiet">{more} younger ones are not shown.</p>}
          </>
        );
      }}
    </Waiting>
  );
}
