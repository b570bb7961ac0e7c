// Of whom a part is bought: their number, price, pack and days; one of them is the one it is bought of by itself.
import { useState } from 'react';
import { keepOffered, type OfferedOut } from '#api/suppliers.ts';
import { seesMoney } from '#core/people.ts';
import { sayQuantity } from '#core/stores/index.ts';
import { GeneralError, useSubmit } from '../parts/fields.tsx';
import { WireMoney, WireNumber, WireText, WireTick } from '../parts/wire-fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { plural } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { amountOf } from './counted.tsx';
import { ChooseSupplier } from './choose.tsx';
import { storesApi } from './endpoints.ts';

type Named = { readonly id: number; readonly name: string };

type Typed = {
  supplier: Named | null;
  number: string;
  unitPrice: number | null;
  pack: number;
  leadDays: number | null;
  preferred: boolean;
  version: number;
};

function OfferedDialog({ partId, offer, onClose }: { partId: number; offer: OfferedOut | null; onClose: () => void }) {
  const [keep] = storesApi.useKeepOfferedMutation();
  const start: Typed = {
    ...{ supplier: offer?.supplier ?? null, number: offer?.number ?? '', unitPrice: offer?.unitPrice ?? null },
    ...{ pack: offer?.pack ?? 1000, leadDays: offer?.leadDays ?? null, preferred: offer?.preferred ?? false },
    version: offer?.version ?? 0,
  };
  const form = useWireForm(keepOffered, start, ({ supplier: _, ...body }) => body);
  return (
    <Dialog title="Of whom it is bought" onClose={onClose}>
      <WireForm
        form={form}
        name="Of whom it is bought"
        save="Keep it"
        disabled={form.watch('supplier') === null}
        send={({ supplier, ...body }) => keep({ params: { id: String(partId), supplier: String(supplier?.id) }, body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>{offer ? offer.supplier.name : 'Another supplier'}</h1>
        {!offer && (
          <Wire<Named | null> name="supplier">
            {({ value, change }) => <ChooseSupplier chosen={value} onChoose={change} />}
          </Wire>
        )}
        <div className="grid grid-cols-2 gap-3">
          <WireText name="number" label="Their number" />
          <WireMoney name="unitPrice" label="Price of one" currency="EUR" />
          <WireNumber name="pack" label="In packs of" per={1000} min={0} step="any" />
          <WireNumber name="leadDays" label="Days to deliver" min={0} hint="Empty: as they deliver usually." />
        </div>
        <WireTick name="preferred" label="It is bought of them by itself" className="pt-1" />
      </WireForm>
    </Dialog>
  );
}

export function BoughtOf({ partId }: { partId: number }) {
  const reader = useReader();
  const { data } = storesApi.useReadOfferedQuery({ params: { id: String(partId) } });
  const [remove] = storesApi.useRemoveOfferedMutation();
  const { errors, submit } = useSubmit([]);
  const [editing, setEditing] = useState<OfferedOut | 'new' | null>(null);
  const may = reader.may(keepOffered);
  if (!data) return null;
  return (
    <section className="mt-6">
      <h2 className="flex items-baseline gap-4">
        Bought of
        {may && (
          <button className="link-ink font-normal" onClick={() => setEditing('new')}>
            another supplier…
          </button>
        )}
      </h2>
      {data.items.length === 0 ? (
        <p className="quiet">Nobody sells it yet: say who, so that it can be ordered.</p>
      ) : (
        <table className="dense max-w-4xl">
          <thead>
            <tr>
              <th>Supplier</th>
              <th>Their number</th>
              {seesMoney(reader.role) && <th className="num">One, EUR</th>}
              <th className="num">Pack</th>
              <th>Delivers in</th>
              <th />
              {may && <th />}
            </tr>
          </thead>
          <tbody>
            {data.items.map((o) => (
              <tr key={o.supplier.id} className={o.retired ? 'quiet' : undefined}>
                <td>{o.supplier.name}</td>
                <td className="serial">{o.number}</td>
                {seesMoney(reader.role) && (
                  <td className="num">
                    {o.unitPrice === null ? <span className="quiet">not said</span> : amountOf(o.unitPrice)}
                  </td>
                )}
                <td className="num">{sayQuantity(o.pack)}</td>
                <td>{plural(o.leadDays ?? o.usualLeadDays, 'day')}</td>
                <td>{o.preferred && 'by itself'}</td>
                {may && (
                  <td className="text-right whitespace-nowrap">
                    <button className="link-ink" aria-label={`Change ${o.supplier.name}`} onClick={() => setEditing(o)}>
                      change…
                    </button>{' '}
                    <button
                      className="link-ink"
                      aria-label={`Remove ${o.supplier.name}`}
                      onClick={() =>
                        void submit(remove({ params: { id: String(partId), supplier: String(o.supplier.id) } }))
                      }
                    >
                      remove
                    </button>
                  </td>
                )}
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <GeneralError errors={errors} />
      {editing !== null && (
        <OfferedDialog partId={partId} offer={editing === 'new' ? null : editing} onClose={() => setEditing(null)} />
      )}
    </section>
  );
}
