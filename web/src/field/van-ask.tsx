// A part asked for one's own van, for no order: found in the parts list where there is a signal, else by what the van and the orders name.
import { useState } from 'react';
import { Refused, useDoing } from './doing.tsx';
import { Elsewhere, useListed } from './elsewhere.tsx';
import { useHeld } from './held.ts';
import { Asking, thousandthsOf, Typed } from './typed.tsx';
import { partsLike, vanNow } from './van-now.ts';

type Wanted = { readonly partId: number; readonly number: string; readonly name: string; readonly unit: string };

function useKnown(typed: string): readonly Wanted[] {
  const state = useHeld();
  const listed = useListed(typed).map(({ id: partId, number, name, unit }) => ({ partId, number, name, unit }));
  const named = [...state.orders.values()].flatMap((o) => o.bring);
  const own = [...vanNow(state), ...named].map((p) => ({ ...p, serials: [] as string[] }));
  return [...new Map([...partsLike(own, typed), ...listed].map((p) => [p.partId, p])).values()];
}

function HowMany({ part }: { part: Wanted }) {
  const { refusals, setRefusals, act } = useDoing();
  const [typed, setTyped] = useState('1');
  const [text, setText] = useState('');
  const ask = (): void => {
    const thousandths = thousandthsOf(typed);
    if (!(thousandths > 0)) return setRefusals([{ code: 'invalid', message: 'Write how many, above 0.' }]);
    void act({ kind: 'asked for', partId: part.partId, thousandths, text: text.trim() });
  };
  return (
    <Asking title={part.name} keep={{ text: 'Ask for it', go: ask }}>
      <p className="serial">{part.number}</p>
      <Typed label={`How many, ${part.unit}`} isNumber value={typed} change={setTyped} />
      <Typed label="What for" value={text} change={setText} />
      <Elsewhere partId={part.partId} unit={part.unit} />
      <Refused refusals={refusals} />
    </Asking>
  );
}

export function VanAskPage() {
  const { net } = useHeld();
  const [typed, setTyped] = useState('');
  const [chosen, choose] = useState<Wanted | null>(null);
  const found = useKnown(typed);
  if (chosen) return <HowMany part={chosen} />;
  return (
    <main>
      <h1>Ask for a part</h1>
      <Typed label="Number or name" value={typed} change={setTyped} />
      {found.map((p) => (
        <button key={p.partId} className="row" onClick={() => choose(p)}>
          <span className="min-w-0">
            <span className="block truncate">{p.name}</span>
            <span className="serial quiet">{p.number}</span>
          </span>
        </button>
      ))}
      {found.length === 0 && (
        <p className="quiet mt-3">
          {net === 'gone' ? 'The whole list can be searched when there is a signal.' : 'No part is called so.'}
        </p>
      )}
    </main>
  );
}
