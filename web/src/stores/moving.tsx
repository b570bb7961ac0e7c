// Stock is received, carried to another store, or thrown away: several parts at once, each with its serials where it is kept by them.
import { useState } from 'react';
import { receiveStock, scrapStock, transferStock, type StoreOut } from '#api/stock.ts';
import { newRequestKey } from '../parts/fields.tsx';
import { WireMoney, WireNumber, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { ChoosePart, type ChosenPart } from './choose.tsx';
import { WireStore } from './choose-store.tsx';
import { storesApi } from './endpoints.ts';

const MOVING = { receive: 'Receive', carry: 'Carry over', scrap: 'Throw away' } as const;
export type Moving = keyof typeof MOVING;
const CONTRACT = { receive: receiveStock, carry: transferStock, scrap: scrapStock };

export type MoveLine = { partId: ChosenPart | null; thousandths: number; unitPrice: number | null; serials: string };
/** `fromId` of what is carried, `storeId` of everything else. */
type Typed = { storeId: number; fromId: number; toId: number; text: string; lines: MoveLine[] };

export const EMPTY_LINE: MoveLine = { partId: null, thousandths: 1000, unitPrice: null, serials: '' };
export const serialsIn = (text: string): string[] =>
  text
    .split(/[\s,;]+/)
    .map((s) => s.trim())
    .filter((s) => s !== '');

/** A line as it is sent; what is none is refused at its field. */
export const movedOf = ({ partId, thousandths, serials }: MoveLine) => ({
  ...{ partId: partId?.id ?? NaN, thousandths, serials: serialsIn(serials) },
});

/** The body of each act, under the names that its fields have here where there are such. */
function bodyOf(kind: Moving, requestKey: string, { storeId, fromId, toId, text, lines }: Typed) {
  const moved = lines.map((line) => ({
    ...movedOf(line),
    ...(kind === 'receive' && { unitPrice: line.unitPrice }),
  }));
  if (kind === 'carry') return { requestKey, fromId, toId, text, lines: moved };
  return { requestKey, storeId, text, lines: moved };
}

type LineKind = Moving | 'back';
type LineProps = {
  readonly at: number;
  readonly line: MoveLine;
  readonly kind: LineKind;
  readonly remove: (() => void) | null;
};

function LineFields({ at, line, kind, remove }: LineProps) {
  const reader = useReader();
  const part = line.partId?.part;
  return (
    <fieldset className="border-t border-hairline pt-2 pb-3">
      <legend className="sr-only">Part {at + 1}</legend>
      <Wire<ChosenPart | null> name={`lines.${at}.partId`}>
        {({ value, change, error }) => (
          <ChoosePart label={at === 0 ? 'Part' : `Part ${at + 1}`} chosen={value} onChoose={change} error={error} />
        )}
      </Wire>
      <div className="mt-2 grid grid-cols-[8rem_1fr_auto] items-start gap-3">
        <WireNumber
          name={`lines.${at}.thousandths`}
          label={part ? `Quantity, ${part.unit}` : 'Quantity'}
          per={1000}
          min={0}
          step="any"
        />
        {kind === 'receive' && reader.may(receiveStock) && part?.cost !== null ? (
          <WireMoney name={`lines.${at}.unitPrice`} label="Paid for one" currency="EUR" hint="Empty: as last paid." />
        ) : (
          <span />
        )}
        {remove && (
          <button type="button" className="link-ink pt-7" onClick={remove}>
            leave out
          </button>
        )}
      </div>
      {part?.serialTracked && (
        <WireText name={`lines.${at}.serials`} label="Serials" hint="One for each, with a space between them." />
      )}
    </fieldset>
  );
}

export function MoveLines({ kind }: { kind: LineKind }) {
  return (
    <Wire<MoveLine[]> name="lines">
      {({ value, change, ownError }) => (
        <div className="mt-3">
          {value.map((line, i) => (
            <LineFields
              key={i}
              at={i}
              line={line}
              kind={kind}
              remove={value.length > 1 ? () => change(value.filter((_, k) => k !== i)) : null}
            />
          ))}
          <button type="button" className="link-ink" onClick={() => change([...value, EMPTY_LINE])}>
            another part
          </button>
          {ownError && <p className="text-missed">✕ {ownError}</p>}
        </div>
      )}
    </Wire>
  );
}

export const MoveButtons = ({ choose }: { choose: (kind: Moving) => void }) =>
  (Object.keys(MOVING) as Moving[]).map((kind) => (
    <button key={kind} className={kind === 'receive' ? 'act-main' : 'act'} onClick={() => choose(kind)}>
      {MOVING[kind]}…
    </button>
  ));

/** `part` stands in the first line already where it is known. */
export function MoveDialog({
  kind,
  stores,
  storeId,
  part,
  onClose,
}: {
  kind: Moving;
  stores: readonly StoreOut[];
  storeId: number | null;
  part: ChosenPart | null;
  onClose: () => void;
}) {
  const [receive] = storesApi.useReceiveStockMutation();
  const [carry] = storesApi.useTransferStockMutation();
  const [scrap] = storesApi.useScrapStockMutation();
  const [requestKey] = useState(newRequestKey);
  const inUse = stores.filter((s) => !s.retired);
  const first = storeId ?? inUse[0]?.id ?? NaN;
  const start: Typed = {
    ...{ storeId: first, fromId: first, toId: inUse.find((s) => s.id !== first)?.id ?? NaN, text: '' },
    lines: [{ ...EMPTY_LINE, partId: part }],
  };
  const form = useWireForm(
    CONTRACT[kind] as typeof receiveStock,
    start,
    (typed) => bodyOf(kind, requestKey, typed) as never,
  );
  const send = (typed: Typed) => {
    const body = bodyOf(kind, requestKey, typed) as never;
    return kind === 'receive' ? receive({ body }) : kind === 'carry' ? carry({ body }) : scrap({ body });
  };
  return (
    <Dialog title={MOVING[kind]} onClose={onClose}>
      <WireForm form={form} name={MOVING[kind]} save={MOVING[kind]} send={send} onDone={onClose} onCancel={onClose}>
        <h1>{MOVING[kind]}</h1>
        <div className="mt-2 grid grid-cols-2 gap-3">
          <WireStore
            name={kind === 'carry' ? 'fromId' : 'storeId'}
            label={kind === 'receive' ? 'Into' : 'From'}
            stores={inUse}
          />
          {kind === 'carry' && <WireStore name="toId" label="To" stores={inUse} />}
        </div>
        <MoveLines kind={kind} />
        <WireText name="text" label={kind === 'scrap' ? 'Why' : kind === 'receive' ? 'By which paper' : 'Note'} />
      </WireForm>
    </Dialog>
  );
}
