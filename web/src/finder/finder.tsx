// The finder: one field for serials, tags, streets, customers, agreements and orders; Enter opens, Shift+Enter starts the likely next act.
import { useState, type KeyboardEvent } from 'react';
import { useNavigate } from 'react-router';
import type { Found, Hit } from '#api/finder.ts';
import { raiseOrder } from '#api/calls.ts';
import { type Problem } from '#api/shapes.ts';
import { RibbonLine } from '../parts/ribbon.tsx';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import type { FloatingProps, Room } from '../shell/room.ts';
import { Scanner } from './scan.tsx';
import { useFinding, type Act } from './finding.ts';

type Opened = NonNullable<Room['found']>[number];

/** What was asked for where the row does not show it anyway. */
function Matched({ text }: { text: string }) {
  return text === '' ? null : <mark className="mr-2 bg-transparent font-semibold text-base-content">{text}</mark>;
}

function HitRow({ hit, span }: { hit: Hit; span: Pick<Found, 'from' | 'to' | 'now'> }) {
  return (
    <>
      <span className={`shrink-0 truncate ${hit.ribbon ? 'w-56' : ''}`}>
        {hit.title} {hit.mark !== '' && <span className="serial">{hit.mark}</span>}
      </span>
      <span className="quiet min-w-0 flex-1 truncate max-sm:basis-1/2">
        <Matched text={hit.matched} />
        {hit.beside}
      </span>
      {hit.state !== null && (
        <span className="w-40 shrink-0 truncate text-[0.9rem]" title={hit.state}>
          {hit.state.startsWith('no cover') ? '○' : '●'} {hit.state}
        </span>
      )}
      {hit.ribbon && (
        <span className="w-40 shrink-0 max-sm:hidden">
          <RibbonLine ribbon={hit.ribbon} span={span} size="thread" />
        </span>
      )}
    </>
  );
}

export function Finder({ found, onClose, typedAhead }: FloatingProps & { found: readonly Opened[] }) {
  const mayRaise = useReader().may(raiseOrder);
  const navigate = useNavigate();
  const [scanning, setScanning] = useState(false);
  const openedOf = (hit: Hit): Opened | undefined => found.find((f) => f.kind === hit.kind);
  const actOf = (withShift: boolean): Act => (withShift && mayRaise ? 'raise' : 'open');
  const open = (hit: Hit | undefined, act: Act): void => {
    const opened = hit && openedOf(hit);
    if (!opened) return;
    onClose();
    void navigate((act === 'raise' && opened.act ? opened.act : opened.open)(hit));
  };
  const { typed, type, q, answer, isFetching, error, hits, chosen, choose, enter } = useFinding(
    (hit) => openedOf(hit) !== undefined,
    open,
    { text: typedAhead.text, act: typedAhead.enter && actOf(typedAhead.enter === 'Shift+Enter') },
  );
  const onKey = (event: KeyboardEvent): void => {
    if (event.key === 'ArrowDown') choose(chosen + 1);
    else if (event.key === 'ArrowUp') choose(chosen - 1);
    else if (event.key === 'Enter') enter(actOf(event.shiftKey));
    else return;
    event.preventDefault();
  };
  return (
    <Dialog title="Find" onClose={onClose} wide>
      <input
        className="input w-full border-base-content bg-base-100"
        value={typed}
        onChange={(e) => type(e.target.value)}
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
          <li key={`${hit.kind}${hit.id}`}>
            {hits[i - 1]?.kind !== hit.kind && <h2 className="quiet pt-2">{openedOf(hit)?.group}</h2>}
            <button
              className={`flex w-full items-center gap-3 border-b max-sm:flex-wrap max-sm:gap-y-0 border-hairline px-2 py-1 text-left ${i === chosen ? 'bg-base-300' : ''}`}
              aria-current={i === chosen || undefined}
              onMouseEnter={() => choose(i)}
              onClick={() => open(hit, 'open')}
            >
              {answer && <HitRow hit={hit} span={answer} />}
            </button>
          </li>
        ))}
      </ul>
    </Dialog>
  );
}
