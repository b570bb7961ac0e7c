// A part used at a machine: from the own van by a fragment of its number or name, with what is left; or one that is needed still.
import { useState } from 'react';
import type { VanPart } from '#api/field.ts';
import { sayAmount } from '#core/stores/index.ts';
import type { PartOut } from '#api/stores.ts';
import { Held, Refused, useDoing } from './doing.tsx';
import { Elsewhere, useListed } from './elsewhere.tsx';
import { begunBy, useHeld, type OnOrder } from './held.ts';
import { partsLike, vanNow } from './van-now.ts';
import { partScanned, ScanButton } from './scan.tsx';
import { thousandthsOf, Typed, WhichMachine, Words } from './typed.tsx';

type Chosen = VanPart & { readonly isInVan: boolean };

/** One of the parts list, which the van does not have: it can be asked for. */
const fromList = ({ id: partId, number, name, unit, serialTracked }: PartOut): Chosen => ({
  ...{ partId, number, name, unit, serialTracked, onHand: 0, free: 0, bin: '', serials: [], isInVan: false },
});

/** Parts of the van, and those the order asks for that are not in it. */
function useParts(order: OnOrder): readonly Chosen[] {
  const state = useHeld();
  const van = vanNow(state).map((p) => ({ ...p, isInVan: true }));
  const others = order.bring.flatMap((b) =>
    van.some((p) => p.partId === b.partId)
      ? []
      : [{ ...b, serialTracked: false, serials: [], onHand: 0, free: 0, bin: '', isInVan: false }],
  );
  return [...others, ...van];
}

function Amount({
  order,
  part,
  lineId,
  scanned,
}: {
  order: OnOrder;
  part: Chosen;
  lineId: number;
  /** The serial of the unit that was scanned. */
  scanned: string;
}) {
  const state = useHeld();
  const { refusals, setRefusals, act } = useDoing();
  const [typed, setTyped] = useState('1');
  const [serial, setSerial] = useState(scanned);
  const thousandths = thousandthsOf(typed);
  const left = part.onHand - (Number.isFinite(thousandths) ? thousandths : 0);
  const isWrong = !Number.isFinite(thousandths) || thousandths <= 0;
  const refuse = (message: string): void => setRefusals([{ code: 'invalid', message }]);
  const use = (): void => {
    if (isWrong) return refuse('Write how many, above 0.');
    if (left < 0)
      return refuse(`Only ${sayAmount(part.onHand, part.unit)} in your van. Ask for more, or count the van.`);
    if (part.serialTracked && serial === '') return refuse('This part is kept by serial: choose which one.');
    const needs = begunBy(state, order.page.id);
    const storeId = state.days?.van?.id ?? null;
    void act(
      { kind: 'part', orderId: order.page.id, lineId, partId: part.partId, thousandths, serial, storeId },
      { needs },
    );
  };
  const need = (): void => {
    if (isWrong) return refuse('Write how many, above 0.');
    void act({ kind: 'need', orderId: order.page.id, lineId, partId: part.partId, thousandths });
  };
  return (
    <>
      <main>
        <h1>{part.name}</h1>
        <p className="serial">{part.number}</p>
        <Typed label={`How many, ${part.unit}`} isNumber value={typed} change={setTyped} />
        {part.isInVan && !isWrong && left >= 0 && (
          <p className="quiet mt-1">{sayAmount(left, part.unit)} left in your van</p>
        )}
        {part.serials.length > 0 && (
          <Words
            label="Serial"
            of={part.serials}
            say={(one) => one}
            isPressed={(one) => one === serial}
            press={setSerial}
          />
        )}
        <Refused refusals={refusals} />
        <Elsewhere partId={part.partId} unit={part.unit} />
      </main>
      <footer className="field-foot">
        {part.isInVan && (
          <button className="wide" onClick={use}>
            Used here
          </button>
        )}
        <button className={part.isInVan ? 'plain mt-2 w-full' : 'wide'} onClick={need}>
          Needed, to be brought
        </button>
      </footer>
    </>
  );
}

function ChoosePart({ order }: { order: OnOrder }) {
  const [typed, setTyped] = useState('');
  const [chosen, choose] = useState<{ readonly id: number; readonly serial: string } | null>(null);
  const { net } = useHeld();
  const lines = order.page.lines.filter((l) => !l.off);
  const [lineId, setLine] = useState(lines[0]?.id ?? 0);
  const own = useParts(order);
  const listed = useListed(typed).flatMap((p) => (own.some((o) => o.partId === p.id) ? [] : [fromList(p)]));
  const parts = [...own, ...listed];
  const part = parts.find((p) => p.partId === chosen?.id);
  if (part) return <Amount order={order} part={part} lineId={lineId} scanned={chosen?.serial ?? ''} />;
  const found = [...partsLike(own, typed), ...listed];
  return (
    <main>
      <h1>Which part</h1>
      <WhichMachine lines={lines} chosen={lineId} choose={setLine} />
      <Typed label="Number, name or serial" value={typed} change={setTyped} />
      <ScanButton
        text="Scan it"
        read={(text) => {
          const scan = partScanned(parts, text);
          if (scan.part === null) {
            // Whatever it is, it may be in the parts list.
            setTyped(scan.code);
            return null;
          }
          choose({ id: scan.part.partId, serial: scan.serial });
          return null;
        }}
      />
      <div className="mt-2">
        {found.map((p) => (
          <button key={p.partId} className="row" onClick={() => choose({ id: p.partId, serial: '' })}>
            <span className="min-w-0 flex-1">
              <span className="block truncate">{p.name}</span>
              <span className="serial quiet">{p.number}</span>
            </span>
            <span className="quiet shrink-0">{p.onHand > 0 ? sayAmount(p.onHand, p.unit) : 'not in the van'}</span>
          </button>
        ))}
        {found.length === 0 && (
          <p className="quiet mt-3">
            No part of your van is called so
            {net === 'gone' ? '; the whole list can be searched when there is a signal' : ''}.
          </p>
        )}
      </div>
    </main>
  );
}

export const PartPage = () => <Held show={(order) => <ChoosePart order={order} />} />;
