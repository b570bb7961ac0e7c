// Short things said of an order on site: why it waits, a note for the next one, what a meter shows.
import { useState } from 'react';
import { useParams } from 'react-router';
import type { PauseReason } from '#core/service-levels/index.ts';
import { NotHeld, Refused, useDoing } from './doing.tsx';
import { useDraft } from './draft.ts';
import { useOrder, type OnOrder } from './held.ts';

function Pause({ order }: { order: OnOrder }) {
  const { refusals, actOn } = useDoing();
  const [reason, setReason] = useState<PauseReason | null>(null);
  const [text, setText] = useState('');
  return (
    <>
      <main>
        <h1>It waits for …</h1>
        <div className="mt-2">
          {order.page.pauses.map((p) => (
            <button
              key={p.reason}
              className="row"
              aria-pressed={p.reason === reason}
              onClick={() => setReason(p.reason)}
            >
              <span aria-hidden="true">{p.reason === reason ? '●' : '○'}</span>
              <span>
                {p.reason.replace(/^waiting for /, '')}
                <span className="quiet"> {p.counts ? 'the promise goes on' : 'the promise waits too'}</span>
              </span>
            </button>
          ))}
        </div>
        <label className="over">
          More about it
          <textarea className="big-field mt-1" rows={2} value={text} onChange={(e) => setText(e.target.value)} />
        </label>
        <Refused refusals={refusals} />
      </main>
      <footer className="field-foot">
        <button
          className="wide"
          disabled={reason === null}
          onClick={() => reason && void actOn(order, { kind: 'paused', reason, text })}
        >
          Pause
        </button>
      </footer>
    </>
  );
}

function Note({ order }: { order: OnOrder }) {
  const { refusals, actOn } = useDoing();
  const [text, change, forget] = useDraft(`note ${order.page.id}`, '');
  if (text === null) return null;
  const keep = async (): Promise<void> => {
    if ((await actOn(order, { kind: 'note', text: text.trim() })) !== null) forget();
  };
  return (
    <>
      <main>
        <h1>Note</h1>
        <label className="over">
          For the office, and for the next one here
          <textarea className="big-field mt-1" rows={5} value={text} onChange={(e) => change(e.target.value)} />
        </label>
        <Refused refusals={refusals} />
      </main>
      <footer className="field-foot">
        <button className="wide" disabled={text.trim() === ''} onClick={() => void keep()}>
          Keep the note
        </button>
      </footer>
    </>
  );
}

function Reading({ order, lineId }: { order: OnOrder; lineId: number }) {
  const { refusals, setRefusals, act } = useDoing();
  const machine = order.machines.find((m) => m.lineId === lineId);
  const [typed, setTyped] = useState<Readonly<Record<number, string>>>({});
  if (!machine) return <NotHeld />;
  const filled = machine.meters.filter((m) => (typed[m.id] ?? '').trim() !== '');
  const keep = async (): Promise<void> => {
    for (const [i, m] of filled.entries()) {
      const value = Number((typed[m.id] ?? '').replace(',', '.'));
      if (!Number.isFinite(value)) return setRefusals([{ code: 'invalid', message: `${m.name}: write a number.` }]);
      const stay = i < filled.length - 1;
      if ((await act({ kind: 'reading', meterId: m.id, value, lowerMeans: null }, { stay })) === null) return;
    }
  };
  return (
    <>
      <main>
        <h1>Meters</h1>
        {machine.meters.map((m) => (
          <label key={m.id} className="over">
            {m.name}, {m.unit}
            {m.last && <span className="quiet"> last {m.last.value}</span>}
            <input
              className="big-field mt-1"
              inputMode="decimal"
              value={typed[m.id] ?? ''}
              onChange={(e) => setTyped({ ...typed, [m.id]: e.target.value })}
            />
          </label>
        ))}
        <Refused refusals={refusals} />
      </main>
      <footer className="field-foot">
        <button className="wide" disabled={filled.length === 0} onClick={() => void keep()}>
          Keep the readings
        </button>
      </footer>
    </>
  );
}

const Held = ({ show }: { show: (order: OnOrder) => React.ReactNode }) => {
  const { id } = useParams();
  const order = useOrder(Number(id));
  return order ? show(order) : <NotHeld />;
};

export const PausePage = () => <Held show={(order) => <Pause order={order} />} />;
export const NotePage = () => <Held show={(order) => <Note order={order} />} />;
export function ReadingPage() {
  const { line } = useParams();
  return <Held show={(order) => <Reading order={order} lineId={Number(line)} />} />;
}
