// The van: what is in it, less what was used and not sent yet.
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import type { FieldDays } from '#api/field.ts';
import { sayAmount } from '#core/stores/index.ts';
import { sayTime } from '../parts/words.ts';
import { Refused, useDoing } from './doing.tsx';
import { actsHere, useHeld, zoneOf } from './held.ts';
import { partsLike, vanNow } from './van-now.ts';
import { partScanned, ScanButton } from './scan.tsx';
import { Typed } from './typed.tsx';

type Van = NonNullable<FieldDays['van']>;

/** What others put into it, until one has seen that it is there. */
function Came({ van }: { van: Van }) {
  const state = useHeld();
  const { refusals, act } = useDoing();
  const seen = new Set(actsHere(state).flatMap(({ body }) => (body.kind === 'received' ? [body.actId] : [])));
  const open = van.came.filter((c) => !seen.has(c.actId));
  if (open.length === 0) return null;
  return (
    <section aria-label="Put in by others">
      <h2>Put in by others</h2>
      {open.map((c) => (
        <div key={c.actId} className="border-b border-hairline py-2">
          <p className="quiet">
            {sayTime(c.at, zoneOf(state))}
            {c.who && `, ${c.who}`}
            {c.text && `: ${c.text}`}
          </p>
          {c.lines.map((l) => (
            <p key={l.partId}>
              {sayAmount(l.thousandths, l.unit)} {l.name} <span className="serial">{l.number}</span>
            </p>
          ))}
          <button
            className="plain mt-2 w-full"
            onClick={() => void act({ kind: 'received', actId: c.actId }, { stay: true })}
          >
            It is all there
          </button>
        </div>
      ))}
      <p className="quiet mt-1">Is something missing, count it: tap it below.</p>
      <Refused refusals={refusals} />
    </section>
  );
}

const SAID = { asked: 'asked for', sent: 'put in', declined: 'does not come' } as const;

function AskedFor({ van }: { van: Van }) {
  if (van.asked.length === 0) return null;
  return (
    <section aria-label="Asked for">
      <h2>Asked for</h2>
      {van.asked.map((a) => (
        <p key={a.id} className="row">
          <span className="flex-1">
            {sayAmount(a.thousandths, a.unit)} {a.name}
            {a.answer && <span className="quiet block">{a.answer}</span>}
          </span>
          <span className={`shrink-0 ${a.state === 'declined' ? 'text-short' : 'quiet'}`}>{SAID[a.state]}</span>
        </p>
      ))}
    </section>
  );
}

export function VanPage() {
  const state = useHeld();
  const navigate = useNavigate();
  const [typed, setTyped] = useState('');
  const van = state.days?.van;
  if (!van)
    return (
      <main>
        <p>{state.days ? 'No van is yours; the storekeeper gives you one.' : 'Fetching your van …'}</p>
      </main>
    );
  const parts = partsLike(vanNow(state), typed);
  return (
    <main>
      <h1>{van.name}</h1>
      <Came van={van} />
      <AskedFor van={van} />
      <Typed label="Number, name or serial" value={typed} change={setTyped} />
      <ScanButton
        text="Scan it"
        read={(text) => {
          const scan = partScanned(vanNow(state), text);
          if (scan.part === null) return `“${scan.code}” is not in your van.`;
          void navigate(`/van/${scan.part.partId}`);
          return null;
        }}
      />
      <Link className="plain mt-2" to="/van/ask">
        Ask for a part
      </Link>
      {parts.map((p) => (
        <Link key={p.partId} className="row" to={`/van/${p.partId}`}>
          <span className="min-w-0 flex-1">
            <span className="block truncate">{p.name}</span>
            <span className="serial quiet">
              {p.number}
              {p.bin && ` · ${p.bin}`}
            </span>
            {p.serials.length > 0 && <span className="serial quiet block">{p.serials.join(', ')}</span>}
          </span>
          <span className="shrink-0 text-right">
            {sayAmount(p.onHand, p.unit)}
            {p.free < p.onHand && <span className="quiet block">{sayAmount(p.free, p.unit)} free</span>}
          </span>
          <span aria-hidden="true">›</span>
        </Link>
      ))}
      {parts.length === 0 && (
        <p className="quiet mt-3">{typed === '' ? 'Nothing is in it.' : 'No part of your van is called so.'}</p>
      )}
    </main>
  );
}
