// The van: what is in it, less what was used and not sent yet.
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { sayAmount } from '#core/stores/index.ts';
import { useHeld } from './held.ts';
import { partsLike, vanNow } from './van-now.ts';
import { partScanned, ScanButton } from './scan.tsx';
import { Typed } from './typed.tsx';

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
