// Another cost of an order, paid on the way or on site: what for, how much, and a photo of its receipt.
import { useState } from 'react';
import { readAmount, sayAmountOf } from '#core/money.ts';
import { localDateAt } from '#core/time/index.ts';
import { Held, Refused, useDoing } from './doing.tsx';
import { useDraft } from './draft.ts';
import { begunBy, useHeld, useNow, zoneOf, type OnOrder } from './held.ts';
import { PhotoButton } from './photo-button.tsx';
import { Asking, Typed, WhichMachine, Words } from './typed.tsx';

type Paid = { readonly text: string; readonly paid: string };
type Receipt = { readonly id: string; readonly deed: string };
const OFTEN = ['Parking', 'Toll', 'Hire', 'Disposal'] as const;

function Cost({ order }: { order: OnOrder }) {
  const state = useHeld();
  const now = useNow();
  const { refusals, setRefusals, act } = useDoing();
  const [said, change, forget] = useDraft<Paid>(`cost ${order.page.id}`, { text: '', paid: '' });
  const [receipt, setReceipt] = useState<Receipt | null>(null);
  const lines = order.page.lines.filter((l) => !l.off);
  const [lineId, setLine] = useState(lines[0]?.id ?? 0);
  const currency = state.days?.currency ?? 'EUR';
  if (said === null) return null;
  const amount = readAmount(said.paid, currency);
  const keep = async (): Promise<void> => {
    if (amount === null || amount <= 0)
      return setRefusals([{ code: 'invalid', message: 'Write what was paid, such as 12.50.' }]);
    const needs = [...begunBy(state, order.page.id), ...(receipt ? [receipt.deed] : [])];
    const cost = { text: said.text.trim(), cost: amount, price: amount, day: localDateAt(zoneOf(state), now) };
    const told = await act(
      { kind: 'cost', orderId: order.page.id, lineId, ...cost, receipt: receipt?.id ?? null },
      { needs },
    );
    if (told !== null) forget();
  };
  return (
    <Asking
      title="Other cost"
      keep={{ text: 'Keep the cost', isOff: said.text.trim() === '' || said.paid.trim() === '', go: () => void keep() }}
    >
      <Typed label="What for" value={said.text} change={(text) => change({ ...said, text })} />
      <Words
        label="Often"
        of={OFTEN}
        say={(w) => w}
        isPressed={(w) => said.text === w}
        press={(text) => change({ ...said, text })}
      />
      <Typed label={`Paid, ${currency}`} isNumber value={said.paid} change={(paid) => change({ ...said, paid })}>
        {amount !== null && amount > 0 && (
          <p className="quiet mt-1">
            {currency} {sayAmountOf(amount, currency)}
          </p>
        )}
      </Typed>
      <WhichMachine lines={lines} chosen={lineId} choose={setLine} />
      <PhotoButton orderId={order.page.id} text="Photo of the receipt" about="receipt" took={setReceipt} />
      <Refused refusals={refusals} />
    </Asking>
  );
}

export const CostPage = () => <Held show={(order) => <Cost order={order} />} />;
