// A part of the own van: counted, or handed over to another store.
import { useState } from 'react';
import { Link, useParams } from 'react-router';
import type { VanPart } from '#api/field.ts';
import { sayAmount } from '#core/stores/index.ts';
import { NotHeld, Refused, useDoing } from './doing.tsx';
import { Elsewhere } from './elsewhere.tsx';
import { useHeld } from './held.ts';
import { Asking, thousandthsOf, Typed, Words } from './typed.tsx';
import { vanNow } from './van-now.ts';

const SHOWN = 8;

function usePart(): VanPart | undefined {
  const { part } = useParams();
  return vanNow(useHeld()).find((p) => p.partId === Number(part));
}

/** How many there are or go: written, or the serials that are tapped. */
function useAmount(part: VanPart, first: string) {
  const [typed, setTyped] = useState(first);
  const [serials, setSerials] = useState<readonly string[]>([]);
  const toggle = (one: string): void =>
    setSerials(serials.includes(one) ? serials.filter((s) => s !== one) : [...serials, one]);
  return {
    thousandths: part.serialTracked ? serials.length * 1000 : typed.trim() === '' ? Number.NaN : thousandthsOf(typed),
    serials,
    asks: part.serialTracked ? (
      <Words label="Serials" of={part.serials} say={(s) => s} isPressed={(s) => serials.includes(s)} press={toggle} />
    ) : (
      <Typed label={`How many, ${part.unit}`} isNumber value={typed} change={setTyped} />
    ),
  };
}

function Count({ part }: { part: VanPart }) {
  const { refusals, setRefusals, act } = useDoing();
  const { thousandths, serials, asks } = useAmount(part, '');
  const difference = thousandths - part.onHand;
  const keep = (): void => {
    if (!Number.isFinite(thousandths) || thousandths < 0)
      return setRefusals([{ code: 'invalid', message: 'Write how many there are, 0 or more.' }]);
    void act({ kind: 'counted', partId: part.partId, thousandths, serials: [...serials] });
  };
  return (
    <Asking title="Count" keep={{ text: 'So many are there', go: keep }}>
      <p className="font-semibold">{part.name}</p>
      <p className="quiet">
        <span className="serial">{part.number}</span> · {sayAmount(part.onHand, part.unit)} should be there
      </p>
      {part.serialTracked && <p className="mt-3">Tap those that are there.</p>}
      {asks}
      {Number.isFinite(difference) && difference !== 0 && (
        <p className="mt-2">
          ▲ {sayAmount(Math.abs(difference), part.unit)} {difference < 0 ? 'less' : 'more'}: the office approves it
        </p>
      )}
      <Refused refusals={refusals} />
    </Asking>
  );
}

function HandOver({ part }: { part: VanPart }) {
  const state = useHeld();
  const { refusals, setRefusals, act } = useDoing();
  const { thousandths, serials, asks } = useAmount(part, '1');
  const [typed, setTyped] = useState('');
  const [toId, setTo] = useState<number | null>(null);
  const stores = state.days?.stores ?? [];
  const like = stores.filter((s) => s.name.toLowerCase().includes(typed.trim().toLowerCase())).slice(0, SHOWN);
  const keep = (): void => {
    if (!(thousandths > 0)) return setRefusals([{ code: 'invalid', message: 'Say how many go, above 0.' }]);
    if (thousandths > part.free)
      return setRefusals([
        { code: 'invalid', message: `${sayAmount(part.free, part.unit)} are free; the rest is held for orders.` },
      ]);
    if (toId === null) return setRefusals([{ code: 'missing', message: 'Choose where it goes.' }]);
    void act({
      ...{ kind: 'handed over', toId, text: 'handed over' },
      lines: [{ partId: part.partId, thousandths, serials: [...serials] }],
    });
  };
  return (
    <Asking title="Hand over" keep={{ text: 'It is handed over', go: keep }}>
      <p className="font-semibold">{part.name}</p>
      <p className="quiet">
        <span className="serial">{part.number}</span> · {sayAmount(part.free, part.unit)} free in your van
      </p>
      {asks}
      <Typed label="To whose van, or which depot" value={typed} change={setTyped} />
      <Words
        label="Where to"
        of={like}
        say={(s) => s.name}
        isPressed={(s) => s.id === toId}
        press={(s) => setTo(s.id)}
      />
      {like.length === 0 && <p className="quiet mt-2">No store is called so.</p>}
      <Refused refusals={refusals} />
    </Asking>
  );
}

export function VanPartPage() {
  const part = usePart();
  if (!part) return <NotHeld />;
  return (
    <main>
      <h1>{part.name}</h1>
      <p className="serial">{part.number}</p>
      <p className="row">
        {sayAmount(part.onHand, part.unit)} in your van
        {part.free < part.onHand && `, ${sayAmount(part.onHand - part.free, part.unit)} of it held for orders`}
      </p>
      {part.bin !== '' && <p className="row">Bin {part.bin}</p>}
      {part.serials.length > 0 && <p className="row serial">{part.serials.join(', ')}</p>}
      <Elsewhere partId={part.partId} unit={part.unit} />
      <div className="mt-4 flex flex-wrap gap-2">
        <Link className="plain" to="count">
          Count it
        </Link>
        <Link className="plain" to="hand-over">
          Hand over
        </Link>
      </div>
    </main>
  );
}
export function CountPage() {
  const part = usePart();
  return part ? <Count part={part} /> : <NotHeld />;
}
export function HandOverPage() {
  const part = usePart();
  return part ? <HandOver part={part} /> : <NotHeld />;
}
