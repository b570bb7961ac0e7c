// The finder: one field for serials, tags, streets, customers, agreements and orders; Enter opens, Shift+Enter starts the likely next act.
import { useEffect, useState, type KeyboardEvent, type ReactNode } from 'react';
import { useNavigate } from 'react-router';
import type { Found } from '#api/register.ts';
import { type Problem } from '#api/shapes.ts';
import { RibbonLine } from '../parts/ribbon.tsx';
import { Dialog } from './dialog.tsx';
import { Scanner } from './scan.tsx';
import { server } from './store.ts';

type Hit = {
  readonly key: string;
  readonly group: string;
  readonly path: string;
  readonly next?: string;
  readonly row: ReactNode;
};

/** What was asked for where the row does not show it anyway. */
function Matched({ text }: { text: string }) {
  return text === '' ? null : <mark className="mr-2 bg-transparent font-semibold text-base-content">{text}</mark>;
}

function hitsOf(found: Found): Hit[] {
  const span = { from: found.from, to: found.to, now: found.now };
  return [
    ...found.assets.map((a): Hit => ({
      key: `a${a.id}`,
      group: 'Assets',
      path: `/assets/${a.id}`,
      next: `/assets/${a.id}?raise=1`,
      row: (
        <>
          <span className="w-56 shrink-0 truncate">
            {a.className} <span className="serial">{a.tag}</span>
          </span>
          <span className="quiet min-w-0 flex-1 truncate">
            <Matched text={a.matched} />
            {a.customer} · {a.place}
          </span>
          <span className="w-40 shrink-0 truncate text-[0.9rem]" title={a.coverNow}>
            {a.coverNow.startsWith('no cover') ? '○' : '●'} {a.coverNow}
          </span>
          <span className="w-40 shrink-0">
            <RibbonLine ribbon={a.ribbon} span={span} size="thread" />
          </span>
        </>
      ),
    })),
    ...found.customers.map((c): Hit => ({
      key: `c${c.id}`,
      group: 'Customers',
      path: `/register?customer=${c.id}`,
      row: (
        <>
          {c.name} <Matched text={c.matched} />
        </>
      ),
    })),
    ...found.locations.flatMap((l): Hit[] =>
      l.customerId === null
        ? []
        : [
            {
              key: `l${l.id}`,
              group: 'Places',
              path: `/register?customer=${l.customerId}&location=${l.id}`,
              row: (
                <>
                  {l.path} <Matched text={l.matched} />
                </>
              ),
            },
          ],
    ),
    ...found.agreements.map((a): Hit => ({
      key: `g${a.id}`,
      group: 'Agreements',
      path: `/agreements/${a.id}`,
      row: (
        <>
          <span className="serial">{a.number}</span> {a.name}{' '}
          <span className="quiet">
            {a.customer}, {a.stage}
          </span>
        </>
      ),
    })),
    ...found.orders.map((o): Hit => ({
      key: `o${o.id}`,
      group: 'Orders',
      path: `/orders/${o.id}`,
      row: (
        <>
          {o.title}{' '}
          <span className="quiet">
            {o.customer}, {o.stage}
          </span>
        </>
      ),
    })),
  ];
}

export function Finder({ onClose, mayRaise }: { onClose: () => void; mayRaise: boolean }) {
  const navigate = useNavigate();
  const [typed, setTyped] = useState('');
  const [q, setQ] = useState('');
  const [chosen, setChosen] = useState(0);
  const [scanning, setScanning] = useState(false);
  useEffect(() => {
    const timer = setTimeout(() => {
      setQ(typed.trim());
      setChosen(0);
    }, 150);
    return () => clearTimeout(timer);
  }, [typed]);
  const { currentData, isFetching, error } = server.useFindQuery({ query: { q } }, { skip: q.length < 2 });
  const hits = currentData && q.length >= 2 ? hitsOf(currentData) : [];
  const open = (hit: Hit | undefined, act: 'open' | 'raise'): void => {
    if (!hit) return;
    onClose();
    void navigate(act === 'raise' && hit.next ? hit.next : hit.path);
  };
  const onKey = (event: KeyboardEvent): void => {
    if (event.key === 'ArrowDown') setChosen(Math.min(hits.length - 1, chosen + 1));
    else if (event.key === 'ArrowUp') setChosen(Math.max(0, chosen - 1));
    else if (event.key === 'Enter') open(hits[chosen], event.shiftKey && mayRaise ? 'raise' : 'open');
    else return;
    event.preventDefault();
  };
  return (
    <Dialog title="Find" onClose={onClose} wide>
      <input
        className="input w-full border-base-content bg-base-100"
        value={typed}
        onChange={(e) => setTyped(e.target.value)}
        onKeyDown={onKey}
        placeholder="Serial, tag, street, customer, contact, phone, agreement, order"
        aria-label="Find"
        autoFocus
      />
      {scanning ? (
        <Scanner onFound={onClose} onClose={() => setScanning(false)} />
      ) : (
        <button className="quiet link-ink mt-1.5" onClick={() => setScanning(true)}>
          Scan a label
        </button>
      )}
      <p className="quiet py-1.5" aria-live="polite">
        {q.length < 2
          ? 'Two letters are enough to begin.'
          : error
            ? `✕ ${(error as Problem).detail}`
            : isFetching
              ? 'Looking…'
              : hits.length === 0
                ? `Nothing answers to “${q}”. Try a part of the serial, the street or the customer.`
                : `Enter opens${mayRaise ? ', Shift+Enter raises an order on an asset' : ''}.`}
      </p>
      <ul>
        {hits.map((hit, i) => (
          <li key={hit.key}>
            {hits[i - 1]?.group !== hit.group && <h2 className="quiet pt-2">{hit.group}</h2>}
            <button
              className={`flex w-full items-center gap-3 border-b border-hairline px-2 py-1 text-left ${i === chosen ? 'bg-base-300' : ''}`}
              aria-current={i === chosen || undefined}
              onMouseEnter={() => setChosen(i)}
              onClick={() => open(hit, 'open')}
            >
              {hit.row}
            </button>
          </li>
        ))}
      </ul>
    </Dialog>
  );
}
