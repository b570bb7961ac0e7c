// Machines on site: one found there that joins the order, and one that comes off while another goes on.
import { useState } from 'react';
import { useParams, useSearchParams } from 'react-router';
import { readLabel } from '#core/assets/index.ts';
import { Held, NotHeld, Refused, useDoing } from './doing.tsx';
import { begunBy, useHeld, type OnOrder } from './held.ts';
import { ScanButton } from './scan.tsx';
import { Asking, Typed, Words } from './typed.tsx';

/** The code on a plate: scanned, or written off it. */
function Plate({
  label,
  text,
  value,
  change,
}: {
  label: string;
  text: string;
  value: string;
  change: (code: string) => void;
}) {
  return (
    <>
      <Typed label={label} value={value} change={change} />
      <ScanButton
        text={text}
        read={(scanned) => {
          change(readLabel(scanned).code);
          return null;
        }}
      />
    </>
  );
}

function AddMachine({ order }: { order: OnOrder }) {
  const state = useHeld();
  const [query] = useSearchParams();
  const { refusals, act } = useDoing();
  const [code, setCode] = useState(query.get('code') ?? '');
  const [text, setText] = useState('');
  const add = (): void => {
    const body = { kind: 'machine', orderId: order.page.id, code: code.trim(), text: text.trim() } as const;
    void act(body, { needs: begunBy(state, order.page.id) });
  };
  return (
    <Asking title="A machine found here" keep={{ text: 'Put it on this order', isOff: code.trim() === '', go: add }}>
      <p className="quiet">
        It joins the order with its checklist, which comes to the phone when there is a signal. Who bears it is decided
        as for a call of now.
      </p>
      <Plate label="Tag or serial" text="Scan the machine" value={code} change={setCode} />
      <Typed label="Why" value={text} change={setText} />
      <Refused refusals={refusals} />
    </Asking>
  );
}

type Machine = { readonly assetId: number; readonly tag: string; readonly serial: string; readonly model: string };

/** Which of a machine and its parts; of a machine without parts there is nothing to choose. */
function ComesOff({
  all,
  chosen,
  choose,
}: {
  all: readonly Machine[];
  chosen: Machine | undefined;
  choose: (one: Machine) => void;
}) {
  const [whole] = all;
  if (whole && all.length === 1)
    return (
      <p>
        {whole.model} <span className="serial">{whole.tag}</span>
      </p>
    );
  return (
    <>
      <Words
        label="Comes off"
        of={all}
        say={(m) => `${m.model} ${m.tag}`}
        isPressed={(m) => m === chosen}
        press={choose}
      />
      <ScanButton
        text="Scan what comes off"
        read={(scanned) => {
          const { code } = readLabel(scanned);
          const found = all.find((m) => m.tag === code || m.serial === code);
          if (!found) return `“${code}” is not this machine, nor a part of it.`;
          choose(found);
          return null;
        }}
      />
    </>
  );
}

function Swap({ order, lineId }: { order: OnOrder; lineId: number }) {
  const state = useHeld();
  const { refusals, setRefusals, act } = useDoing();
  const machine = order.machines.find((m) => m.lineId === lineId);
  const model = order.page.lines.find((l) => l.id === lineId)?.model ?? '';
  const [off, setOff] = useState('');
  const [code, setCode] = useState('');
  const [isNew, setNew] = useState(false);
  const [tag, setTag] = useState('');
  const [partsMove, setPartsMove] = useState<boolean | null>(null);
  const [text, setText] = useState('');
  if (!machine || machine.assetId === null) return <NotHeld />;
  const whole: Machine = { assetId: machine.assetId, tag: machine.tag, serial: machine.serial, model };
  const all = [whole, ...machine.parts];
  const old = all.length === 1 ? whole : all.find((m) => m.tag === off);
  const isWhole = old === whole;
  const mustAsk = isWhole && machine.parts.length > 0;
  const keep = (): void => {
    if (!old) return setRefusals([{ code: 'missing', message: 'Choose or scan what comes off.' }]);
    if (mustAsk && partsMove === null)
      return setRefusals([{ code: 'missing', message: 'Say whether its parts go over to the new one.' }]);
    const fresh = isNew ? { tag: tag.trim(), serial: code.trim() } : null;
    void act(
      {
        ...{ kind: 'swap', orderId: order.page.id, assetId: old.assetId, code: code.trim(), fresh },
        ...{ partsMove: partsMove ?? false, text: text.trim() },
      },
      { needs: begunBy(state, order.page.id) },
    );
  };
  return (
    <Asking
      title="Swap"
      keep={{ text: 'It is swapped', isOff: code.trim() === '' || (isNew && tag.trim() === ''), go: keep }}
    >
      <h2>Comes off</h2>
      <ComesOff all={all} chosen={old} choose={(m) => setOff(m.tag)} />
      <h2 className="mt-4">Goes on</h2>
      <Plate label={isNew ? 'Its serial' : 'Tag or serial'} text="Scan what goes on" value={code} change={setCode} />
      <button className="row" aria-pressed={isNew} onClick={() => setNew(!isNew)}>
        <span aria-hidden="true">{isNew ? '●' : '○'}</span> It is new: of the same make, and in no register yet
      </button>
      {isNew && <Plate label="The tag you stick on it" text="Scan its new label" value={tag} change={setTag} />}
      {mustAsk && (
        <Words
          label="Its parts"
          of={[true, false]}
          say={(goes) => (goes ? 'Its parts go over to the new one' : 'Its parts stay with the old one')}
          isPressed={(goes) => goes === partsMove}
          press={setPartsMove}
        />
      )}
      <Typed label="Why" value={text} change={setText} />
      <p className="quiet mt-2">What comes off goes to the store; cover and upkeep go over to what goes on.</p>
      <Refused refusals={refusals} />
    </Asking>
  );
}

export const AddMachinePage = () => <Held show={(order) => <AddMachine order={order} />} />;
export function SwapPage() {
  const { line } = useParams();
  return <Held show={(order) => <Swap order={order} lineId={Number(line)} />} />;
}
