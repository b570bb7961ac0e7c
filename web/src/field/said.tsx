// Short things said of an order on site: why it waits, how it works for now, a note for the next one, what a meter shows.
import { useState } from 'react';
import { useParams } from 'react-router';
import type { PauseReason } from '#core/service-levels/index.ts';
import { Held, NotHeld, Refused, useDoing } from './doing.tsx';
import { useDraft } from './draft.ts';
import type { OnOrder } from './held.ts';
import { Asking, Typed } from './typed.tsx';

function Pause({ order }: { order: OnOrder }) {
  const { refusals, actOn } = useDoing();
  const [reason, setReason] = useState<PauseReason | null>(null);
  const [text, setText] = useState('');
  return (
    <Asking
      title="It waits for …"
      keep={{
        text: 'Pause',
        isOff: reason === null,
        go: () => reason && void actOn(order, { kind: 'paused', reason, text }),
      }}
    >
      <div className="mt-2">
        {order.page.pauses.map((p) => (
          <button key={p.reason} className="row" aria-pressed={p.reason === reason} onClick={() => setReason(p.reason)}>
            <span aria-hidden="true">{p.reason === reason ? '●' : '○'}</span>
            <span>
              {p.reason.replace(/^waiting for /, '')}
              <span className="quiet"> {p.counts ? 'the promise goes on' : 'the promise waits too'}</span>
            </span>
          </button>
        ))}
      </div>
      <Typed label="More about it" rows={2} value={text} change={setText} />
      <Refused refusals={refusals} />
    </Asking>
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
    <Asking title="Note" keep={{ text: 'Keep the note', isOff: text.trim() === '', go: () => void keep() }}>
      <Typed label="For the office, and for the next one here" rows={5} value={text} change={change} />
      <Refused refusals={refusals} />
    </Asking>
  );
}

/** It does its work for now, and how: whoever waits for that knows, and what is to be restored stays open. */
function Workaround({ order }: { order: OnOrder }) {
  const { refusals, actOn } = useDoing();
  const [text, change, forget] = useDraft(`workaround ${order.page.id}`, '');
  if (text === null) return null;
  const keep = async (): Promise<void> => {
    if ((await actOn(order, { kind: 'worked around', lineId: null, text: text.trim() })) !== null) forget();
  };
  return (
    <Asking title="It works for now" keep={{ text: 'Say so', isOff: text.trim() === '', go: () => void keep() }}>
      <Typed label="How it works, and what still is to be done" rows={5} value={text} change={change} />
      <Refused refusals={refusals} />
    </Asking>
  );
}

type Help = { readonly by: string; readonly minutes: string; readonly advice: string };

/** Help of somebody who knows more: who, how long, and what they said to do. It is told as a note. */
function Help({ order }: { order: OnOrder }) {
  const { refusals, setRefusals, actOn } = useDoing();
  const [said, change, forget] = useDraft<Help>(`help ${order.page.id}`, { by: '', minutes: '', advice: '' });
  if (said === null) return null;
  const keep = async (): Promise<void> => {
    const minutes = Number(said.minutes.trim() || '0');
    if (!Number.isInteger(minutes) || minutes < 0 || minutes > 1440)
      return setRefusals([{ code: 'invalid', message: 'Write whole minutes, such as 20.' }]);
    const length = minutes > 0 ? `, ${minutes} min` : '';
    const text = `Help from ${said.by.trim()}${length}: ${said.advice.trim()}`;
    if ((await actOn(order, { kind: 'note', text })) !== null) forget();
  };
  return (
    <Asking
      title="Help from an expert"
      keep={{
        text: 'Keep it',
        isOff: said.by.trim() === '' || said.advice.trim() === '',
        go: () => void keep(),
      }}
    >
      <Typed label="Who helped" value={said.by} change={(by) => change({ ...said, by })} />
      <Typed label="Minutes" isNumber value={said.minutes} change={(minutes) => change({ ...said, minutes })} />
      <Typed
        label="What they said to do"
        rows={4}
        value={said.advice}
        change={(advice) => change({ ...said, advice })}
      />
      <Refused refusals={refusals} />
    </Asking>
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
    <Asking title="Meters" keep={{ text: 'Keep the readings', isOff: filled.length === 0, go: () => void keep() }}>
      {machine.meters.map((m) => (
        <Typed
          key={m.id}
          label={`${m.name}, ${m.unit}${m.last ? `, last ${m.last.value}` : ''}`}
          isNumber
          value={typed[m.id] ?? ''}
          change={(t) => setTyped({ ...typed, [m.id]: t })}
        />
      ))}
      <Refused refusals={refusals} />
    </Asking>
  );
}

export const PausePage = () => <Held show={(order) => <Pause order={order} />} />;
export const HelpPage = () => <Held show={(order) => <Help order={order} />} />;
export const WorkaroundPage = () => <Held show={(order) => <Workaround order={order} />} />;
export const NotePage = () => <Held show={(order) => <Note order={order} />} />;
export function ReadingPage() {
  const { line } = useParams();
  return <Held show={(order) => <Reading order={order} lineId={Number(line)} />} />;
}
