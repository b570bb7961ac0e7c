// What is chosen to be bought, made into purchase orders at one press.
import { useState } from 'react';
import { Link } from 'react-router';
import { buy, purchaseNumber } from '#api/purchases.ts';
import { GeneralError, newRequestKey, useSubmit } from '../parts/fields.tsx';
import { plural } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { storesApi } from './endpoints.ts';

export type ToOrder = {
  readonly partId: number;
  readonly storeId: number;
  readonly supplierId: number | null;
  readonly thousandths: number;
  readonly needs: readonly { readonly needId: number; readonly thousandths: number }[];
};

/** How many purchase orders come of it: one for each supplier and store. */
const ordersOf = (lines: readonly ToOrder[]): number => new Set(lines.map((l) => `${l.supplierId} ${l.storeId}`)).size;

export function BuyButton({ lines, onDone }: { lines: readonly ToOrder[]; onDone: () => void }) {
  const reader = useReader();
  const [order, { isLoading }] = storesApi.useBuyMutation();
  const [requestKey, setRequestKey] = useState(newRequestKey);
  const [made, setMade] = useState<readonly number[]>([]);
  const { errors, submit } = useSubmit([]);
  if (!reader.may(buy)) return null;
  const without = lines.filter((l) => l.supplierId === null).length;
  const press = async (): Promise<void> => {
    const asked = lines.flatMap(({ supplierId, needs, ...l }) =>
      supplierId === null ? [] : [{ ...l, supplierId, needs: [...needs] }],
    );
    const done = await submit(order({ body: { requestKey, lines: asked } }));
    if (!done) return;
    setMade(done.ids);
    setRequestKey(newRequestKey());
    onDone();
  };
  const n = ordersOf(lines);
  return (
    <div className="flex flex-wrap items-center gap-3">
      <button
        className="act-main"
        disabled={lines.length === 0 || without > 0 || isLoading}
        onClick={() => void press()}
      >
        {lines.length === 0
          ? 'Make purchase orders'
          : `Make ${plural(n, 'purchase order')} of ${plural(lines.length, 'part')}`}
      </button>
      {without > 0 && <span className="text-missed">✕ {plural(without, 'part')} nobody sells: choose a supplier.</span>}
      {made.length > 0 && (
        <span role="status">
          Stands on{' '}
          {made.map((id, i) => (
            <span key={id}>
              {i > 0 && ', '}
              <Link className="serial link-ink" to={`/stores/purchases/${id}`}>
                {purchaseNumber(id)}
              </Link>
            </span>
          ))}
          .
        </span>
      )}
      <GeneralError errors={errors} />
    </div>
  );
}
