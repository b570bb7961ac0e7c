// Parts used on an order: chosen by a fragment, with their quantity, and their serial where one is kept.
import { useState } from 'react';
import type { UsedPartOut } from '#api/settle.ts';
import { changeUse, usePart } from '#api/stores.ts';
import { sayAmount } from '#core/stores/index.ts';
import type { Line } from '../labour/index.ts';
import { GeneralError, newRequestKey, useSubmit } from '../parts/fields.tsx';
import { WireNumber, WireSelect, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { Dialog } from '../shell/dialog.tsx';
import { ChoosePart, FromStore, storesApi, useFromStores, type ChosenPart, type FromStores } from '../stores/index.ts';

/** Which machine, where there are several. */
export const LineField = ({ lines }: { lines: readonly Line[] }) =>
  lines.length < 2 ? null : (
    <WireSelect name="lineId" label="For" options={lines.map((l) => [l.lineId, l.tag] as const)} />
  );

const Quantity = ({ unit }: { unit: string | undefined }) => (
  <WireNumber name="thousandths" label={unit ? `Quantity, ${unit}` : 'Quantity'} per={1000} min={0} step="any" />
);

type Typed = {
  requestKey: string;
  partId: ChosenPart | null;
  lineId: number;
  thousandths: number;
  serial: string;
  /** Undefined: as it is meant. */
  storeId: number | null | undefined;
};

function UseDialog({ orderId, lines, onClose }: { orderId: number; lines: readonly Line[]; onClose: () => void }) {
  const [use] = storesApi.useUsePartMutation();
  const [requestKey] = useState(newRequestKey);
  const [typed, setTyped] = useState<{ part: ChosenPart | null; lineId: number }>({
    ...{ part: null, lineId: lines[0]?.lineId ?? NaN },
  });
  const from = useFromStores(typed.part?.id ?? null, orderId, typed.lineId);
  const start: Typed = {
    ...{ requestKey, partId: null, lineId: typed.lineId, thousandths: 1000, serial: '', storeId: undefined },
  };
  // What is none is refused at its field.
  const bodyOf = ({ partId, storeId, ...rest }: Typed) => ({
    ...{ ...rest, partId: partId?.id ?? NaN, storeId: storeId === undefined ? from.meant : storeId },
  });
  const form = useWireForm(usePart, start, bodyOf);
  const [chosen, lineId] = [form.watch('partId'), form.watch('lineId')];
  if (chosen?.id !== typed.part?.id || lineId !== typed.lineId) setTyped({ part: chosen, lineId });
  return (
    <Dialog title="Part used" onClose={onClose}>
      <WireForm
        form={form}
        name="Part used"
        save="Keep it"
        send={(typed) => use({ params: { id: String(orderId) }, body: bodyOf(typed) })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>Part used</h1>
        <Wire<ChosenPart | null> name="partId">
          {({ value, change, error }) => <ChoosePart chosen={value} onChoose={change} error={error} />}
        </Wire>
        <div className="grid grid-cols-2 gap-3">
          <Quantity unit={chosen?.part.unit} />
          {chosen?.part.serialTracked && <WireText name="serial" label="Serial" />}
        </div>
        <LineField lines={lines} />
        <FromStore of={from} />
      </WireForm>
    </Dialog>
  );
}

/** The store it came from stands among the others, though nothing lies there any more. */
const withOwn = (options: FromStores['options'], { store }: UsedPartOut): FromStores['options'] =>
  store === null || options.some(([id]) => id === store.id) ? options : [...options, [store.id, store.name] as const];

function ChangeUse({ used, lines, onClose }: { used: UsedPartOut; lines: readonly Line[]; onClose: () => void }) {
  const [change] = storesApi.useChangeUseMutation();
  const { version, lineId, thousandths, serial } = used;
  const from = useFromStores(used.part.id, used.orderId, lineId);
  const form = useWireForm(changeUse, { version, lineId, thousandths, serial, storeId: used.store?.id ?? null });
  return (
    <Dialog title="Change what was used" onClose={onClose}>
      <WireForm
        form={form}
        name="Change what was used"
        save="Save"
        send={(body) => change({ params: { id: String(used.id) }, body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>
          <span className="serial">{used.part.number}</span> {used.part.name}
        </h1>
        <Quantity unit={used.part.unit} />
        {used.part.serialTracked && <WireText name="serial" label="Serial" />}
        <LineField lines={lines} />
        <FromStore of={{ ...from, options: withOwn(from.options, used) }} />
      </WireForm>
    </Dialog>
  );
}

export function Parts({
  orderId,
  lines,
  parts,
  may,
  adding,
  onClose,
}: {
  orderId: number;
  lines: readonly Line[];
  parts: readonly UsedPartOut[];
  may: boolean;
  adding: boolean;
  onClose: () => void;
}) {
  const [changing, setChanging] = useState<UsedPartOut | null>(null);
  const [remove] = storesApi.useRemoveUseMutation();
  const { errors, submit } = useSubmit([]);
  const tagOf = (id: number): string => lines.find((l) => l.lineId === id)?.tag ?? '';
  return (
    <>
      {parts.length > 0 && (
        <details className="mt-2" open>
          <summary className="cursor-pointer">Parts used</summary>
          <table className="dense mt-1">
            <tbody>
              {parts.map((u) => (
                <tr key={u.id}>
                  <td className="serial whitespace-nowrap">{u.part.number}</td>
                  <td>{u.part.name}</td>
                  <td className="num whitespace-nowrap">{sayAmount(u.thousandths, u.part.unit)}</td>
                  <td className="serial">{u.serial}</td>
                  <td className="quiet">{u.store && `from ${u.store.name}`}</td>
                  {lines.length > 1 && <td className="serial">{tagOf(u.lineId)}</td>}
                  <td className="quiet whitespace-nowrap">{u.who}</td>
                  {may && (
                    <td className="whitespace-nowrap text-right">
                      <button className="link-ink" onClick={() => setChanging(u)} aria-label={`Change ${u.part.name}`}>
                        change…
                      </button>{' '}
                      <button
                        className="link-ink"
                        aria-label={`Take back ${u.part.name}`}
                        onClick={() => void submit(remove({ params: { id: String(u.id) } }))}
                      >
                        take back
                      </button>
                    </td>
                  )}
                </tr>
              ))}
            </tbody>
          </table>
          <GeneralError errors={errors} />
        </details>
      )}
      {adding && <UseDialog orderId={orderId} lines={lines} onClose={onClose} />}
      {changing && <ChangeUse used={changing} lines={lines} onClose={() => setChanging(null)} />}
    </>
  );
}
