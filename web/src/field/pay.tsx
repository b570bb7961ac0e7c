// What the work comes to for the customer, shown to them, and how they pay: by card where there is a signal, or by invoice.
import { useState } from 'react';
import { takeCard } from '#api/settle.ts';
import { readAmount, sayAmountOf } from '#core/money.ts';
import { Held, Refused, useDoing } from './doing.tsx';
import { useDraft } from './draft.ts';
import { actsHere, begunBy, useHeld, usePhone, type OnOrder } from './held.ts';
import { Typed } from './typed.tsx';

type Comes = NonNullable<OnOrder['comesTo']>;

/** A payment that was asked for keeps its key until it is known what became of it: asked again it takes nothing twice. */
type Asked = { readonly key: string; readonly amount: number };

function Card({ order, comes, left }: { order: OnOrder; comes: Comes; left: number }) {
  const phone = usePhone();
  const { net } = useHeld();
  const { refusals, setRefusals } = useDoing();
  const [asked, keepAsked] = useDraft<Asked | null>(`card ${order.page.id}`, null);
  const [typed, setTyped] = useState(sayAmountOf(left, comes.currency).replaceAll(',', ''));
  const [isAsking, setAsking] = useState(false);
  const [said, setSaid] = useState('');
  const refuse = (message: string): void => setRefusals([{ code: 'invalid', message }]);
  const ask = async (): Promise<void> => {
    const amount = asked?.amount ?? readAmount(typed, comes.currency);
    if (amount === null || amount <= 0) return refuse('Write an amount, such as 120.50.');
    const of = asked ?? { key: crypto.randomUUID(), amount };
    keepAsked(of);
    setAsking(true);
    setRefusals([]);
    const answer = await phone.tell(takeCard, {
      params: { id: String(order.page.id) },
      body: { requestKey: of.key, amount: of.amount },
    });
    setAsking(false);
    if (!answer.ok) {
      // Refused, it was not asked for; else it is not known, and asked for again by the same key.
      if (answer.problem.status >= 400 && answer.problem.status < 500 && answer.problem.code !== 'not-ready')
        keepAsked(null);
      return refuse(answer.problem.detail);
    }
    keepAsked(null);
    if (answer.value.state === 'paid') setTyped(sayAmountOf(left - of.amount, comes.currency).replaceAll(',', ''));
    setSaid(answer.value.state === 'paid' ? `Paid, ${answer.value.receipt}.` : `Not paid: ${answer.value.receipt}.`);
    phone.look();
  };
  return (
    <section aria-label="By card">
      <h2>By card</h2>
      {asked === null && <Typed label={`Amount, ${comes.currency}`} isNumber value={typed} change={setTyped} />}
      {asked !== null && !isAsking && (
        <p>
          {comes.currency} {sayAmountOf(asked.amount, comes.currency)} was asked for, and no answer came.
        </p>
      )}
      {net === 'gone' && <p className="quiet mt-2">The terminal needs a signal.</p>}
      <Refused refusals={refusals} />
      {said !== '' && (
        <p role="status" className="field-bar mt-2">
          {said}
        </p>
      )}
      <button className="plain mt-3 w-full" disabled={isAsking || net === 'gone'} onClick={() => void ask()}>
        {isAsking ? 'Hold the card to the terminal …' : asked ? 'Ask the terminal again' : 'Ask the terminal'}
      </button>
    </section>
  );
}

function Pay({ order }: { order: OnOrder }) {
  const state = useHeld();
  const { refusals, act } = useDoing();
  const comes = order.comesTo;
  if (comes === null)
    return (
      <main>
        <p>The office shows customers what it comes to.</p>
      </main>
    );
  const say = (minor: number): string => `${comes.currency} ${sayAmountOf(minor, comes.currency)}`;
  const isInvoiced =
    comes.toInvoice || actsHere(state).some(({ body }) => body.kind === 'to invoice' && body.orderId === order.page.id);
  const left = comes.withTax - comes.paid;
  const waits = state.queue.some(({ act: a }) => 'orderId' in a.body && a.body.orderId === order.page.id);
  return (
    <>
      <main>
        <h1>What it comes to</h1>
        <p className="font-semibold">{order.page.title}</p>
        {comes.rows.map((r) => (
          <p key={r.what} className="row">
            <span className="flex-1">{r.what}</span>
            <span className="shrink-0">{say(r.pay)}</span>
          </p>
        ))}
        {comes.rows.length === 0 && <p className="row">Nothing is the customer’s to pay.</p>}
        <p className="row">
          <span className="flex-1">with tax</span>
          <span className="shrink-0 text-[1.3rem] font-semibold">{say(comes.withTax)}</span>
        </p>
        {comes.paid > 0 && <p className="row">{say(comes.paid)} paid by card</p>}
        <p className="quiet mt-2">
          {waits
            ? 'As the office has it: what waits on this phone is not in it yet. An estimate until it is invoiced.'
            : 'An estimate until it is invoiced.'}
        </p>
        {left > 0 && <Card order={order} comes={comes} left={left} />}
        <Refused refusals={refusals} />
      </main>
      <footer className="field-foot">
        {isInvoiced ? (
          <p role="status">It will be invoiced.</p>
        ) : (
          <button
            className="wide"
            disabled={left <= 0}
            onClick={() =>
              void act({ kind: 'to invoice', orderId: order.page.id }, { needs: begunBy(state, order.page.id) })
            }
          >
            {left <= 0 ? 'Nothing is left to pay' : 'To be invoiced'}
          </button>
        )}
      </footer>
    </>
  );
}

export const PayPage = () => <Held show={(order) => <Pay order={order} />} />;
