// Other costs of an order: what for, what they cost and are sold for, their receipt, and who bears them.
import { useState } from 'react';
import { addCost, changeCost, readTaxes, type OtherCostOut } from '#api/settle.ts';
import { OFFICE, mayCall } from '#core/people.ts';
import { sayAmountOf } from '#core/money.ts';
import { filesApi } from '../files/index.ts';
import type { Line } from '../labour/index.ts';
import { GeneralError, newRequestKey, useSubmit } from '../parts/fields.tsx';
import { WireDate, WireMoney, WireSelect, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { sayDate } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { settleApi } from './endpoints.ts';
import { LineField } from './parts.tsx';

type Kept = {
  lineId: number;
  day: string;
  text: string;
  cost: number;
  price: number;
  taxId: number | null;
  oursBecause: string | null;
  receiptId: number | null;
};

function Fields({ orderId, lines, currency }: { orderId: number; lines: readonly Line[]; currency: string }) {
  const reader = useReader();
  const taxes = settleApi.useReadTaxesQuery(undefined, { skip: !reader.may(readTaxes) });
  const files = filesApi.useListFilesQuery({ query: { subject: 'order', subjectId: String(orderId) } });
  const names = (files.data?.items ?? []).map((f) => [f.id, f.name] as const);
  return (
    <>
      <WireText name="text" label="What for" autoFocus />
      <div className="grid grid-cols-3 gap-3">
        <WireDate name="day" label="On" />
        <WireMoney name="cost" label="Cost us" currency={currency} />
        <WireMoney name="price" label="Sold for" currency={currency} />
      </div>
      <div className="grid grid-cols-2 gap-3">
        <WireSelect
          name="taxId"
          label="Tax"
          options={[
            [null, 'the standard one'] as const,
            ...(taxes.data?.items ?? []).map((t) => [t.id, t.name] as const),
          ]}
        />
        <WireSelect
          name="receiptId"
          label="Receipt, among the order’s photos"
          options={[[null, 'none'] as const, ...names]}
        />
      </div>
      <LineField lines={lines} />
      {mayCall(OFFICE, reader.role) && (
        <WireText name="oursBecause" label="We bear it, because (empty: the customer’s)" empty={null} />
      )}
    </>
  );
}

function AddDialog({
  orderId,
  lines,
  currency,
  today,
  onClose,
}: {
  orderId: number;
  lines: readonly Line[];
  currency: string;
  today: string;
  onClose: () => void;
}) {
  const [add] = settleApi.useAddCostMutation();
  const [requestKey] = useState(newRequestKey);
  const start: Kept & { requestKey: string } = {
    ...{ requestKey, lineId: lines[0]?.lineId ?? NaN, day: today, text: '', cost: NaN, price: NaN },
    ...{ taxId: null, oursBecause: null, receiptId: null },
  };
  const form = useWireForm(addCost, start);
  return (
    <Dialog title="Other cost" onClose={onClose}>
      <WireForm
        form={form}
        name="Other cost"
        save="Keep it"
        send={(body) => add({ params: { id: String(orderId) }, body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>Other cost</h1>
        <Fields orderId={orderId} lines={lines} currency={currency} />
      </WireForm>
    </Dialog>
  );
}

function ChangeDialog({
  orderId,
  cost,
  lines,
  currency,
  onClose,
}: {
  orderId: number;
  cost: OtherCostOut;
  lines: readonly Line[];
  currency: string;
  onClose: () => void;
}) {
  const [change] = settleApi.useChangeCostMutation();
  const { version, lineId, day, text, taxId, oursBecause, receiptId } = cost;
  const start: Kept & { version: number } = {
    ...{ version, lineId, day, text, taxId, oursBecause, receiptId },
    ...{ cost: cost.cost ?? NaN, price: cost.price ?? NaN },
  };
  const form = useWireForm(changeCost, start);
  return (
    <Dialog title="Change the cost" onClose={onClose}>
      <WireForm
        form={form}
        name="Change the cost"
        save="Save"
        send={(body) => change({ params: { id: String(cost.id) }, body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>Change the cost</h1>
        <Fields orderId={orderId} lines={lines} currency={currency} />
      </WireForm>
    </Dialog>
  );
}

function CostList({
  others,
  currency,
  may,
  change,
}: {
  others: readonly OtherCostOut[];
  currency: string;
  may: boolean;
  change: (cost: OtherCostOut) => void;
}) {
  const [remove] = settleApi.useRemoveCostMutation();
  const { errors, submit } = useSubmit([]);
  return (
    <details className="mt-2" open>
      <summary className="cursor-pointer">Other costs</summary>
      <table className="dense mt-1">
        <tbody>
          {others.map((c) => (
            <tr key={c.id}>
              <td className="whitespace-nowrap">{sayDate(c.day)}</td>
              <td>
                {c.text}
                {c.oursBecause && <span className="quiet"> · we bear it: {c.oursBecause}</span>}
              </td>
              <td>
                {c.receiptId !== null && (
                  <a className="link-ink" href={`/api/files/${c.receiptId}/content`} target="_blank" rel="noreferrer">
                    receipt
                  </a>
                )}
              </td>
              <td className="num">{c.price === null ? '' : sayAmountOf(c.price, currency)}</td>
              <td className="quiet whitespace-nowrap">{c.who}</td>
              {may && c.cost !== null && (
                <td className="whitespace-nowrap text-right">
                  <button className="link-ink" onClick={() => change(c)} aria-label={`Change ${c.text}`}>
                    change…
                  </button>{' '}
                  <button
                    className="link-ink"
                    aria-label={`Remove ${c.text}`}
                    onClick={() => void submit(remove({ params: { id: String(c.id) } }))}
                  >
                    remove
                  </button>
                </td>
              )}
            </tr>
          ))}
        </tbody>
      </table>
      <GeneralError errors={errors} />
    </details>
  );
}

export function Others({
  orderId,
  lines,
  others,
  currency,
  may,
  adding,
  today,
  onClose,
}: {
  orderId: number;
  lines: readonly Line[];
  others: readonly OtherCostOut[];
  currency: string;
  may: boolean;
  adding: boolean;
  today: string | null;
  onClose: () => void;
}) {
  const [changing, setChanging] = useState<OtherCostOut | null>(null);
  const shared = { orderId, lines, currency };
  return (
    <>
      {others.length > 0 && <CostList others={others} currency={currency} may={may} change={setChanging} />}
      {adding && today && <AddDialog {...shared} today={today} onClose={onClose} />}
      {changing && <ChangeDialog {...shared} cost={changing} onClose={() => setChanging(null)} />}
    </>
  );
}
