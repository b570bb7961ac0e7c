// The acts of an asset's life, and the swap: what goes over to the new machine is shown before it is done.
import { useSearchParams } from 'react-router';
import { useState } from 'react';
import { recordLife, swapAsset, type previewSwap, type LifeKind } from '#api/assets.ts';
import type { Answer } from '#api/contract.ts';
import type { AssetPage } from '#api/register.ts';
import type { Problem } from '#api/shapes.ts';
import { actsOffered } from '#core/assets/index.ts';
import type { LocalDate } from '#core/time/index.ts';
import { TextField } from '../parts/fields.tsx';
import { WireDate, WireSelect, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { Dialog } from '../shell/dialog.tsx';
import { assetsApi } from './endpoints.ts';
import type { Choice } from '../parts/choose.tsx';
import { ChoosePlace } from '../places/index.ts';

type SwapEffect = Answer<typeof previewSwap>;

const BUTTONS: Record<LifeKind, string> = {
  installed: 'Install…',
  moved: 'Move…',
  removed: 'Remove to store…',
  scrapped: 'Scrap…',
  'out of service': 'Out of service…',
  'back in service': 'Back in service…',
};
const SAYS: Record<LifeKind, string> = {
  installed: 'It stands at the place from then on.',
  moved: 'Address, zone and cover by place follow.',
  removed: 'It goes to the store; schedules wait with that reason.',
  scrapped: 'Its life ends. Its past stays; its schedules stop, and the next upkeep run says why.',
  'out of service': 'It stays where it is.',
  'back in service': 'It works again.',
};

function LifeDialog({
  asset,
  kind,
  today,
  onClose,
}: {
  asset: AssetPage;
  kind: LifeKind;
  today: LocalDate;
  onClose: () => void;
}) {
  const needsPlace = kind === 'installed' || kind === 'moved';
  const at = asset.path[asset.path.length - 1];
  const [place, setPlace] = useState<Choice | null>(
    at ? { id: at.id, name: asset.path.map((n) => n.name).join(' › ') } : null,
  );
  const [record] = assetsApi.useRecordLifeMutation();
  const form = useWireForm(recordLife, {
    version: asset.version,
    act: needsPlace ? { kind, locationId: at?.id ?? null, parentId: null } : { kind },
    on: today,
    text: '',
  });
  const title = BUTTONS[kind].replace('…', '');
  return (
    <Dialog title={title} onClose={onClose}>
      <WireForm
        form={form}
        name={title}
        save={`Record: ${kind}`}
        send={(body) => record({ params: { id: String(asset.id) }, body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>
          {title} <span className="serial">{asset.tag}</span>
        </h1>
        <p className="quiet">{SAYS[kind]}</p>
        {needsPlace && (
          <Wire<number | null> name="act.locationId">
            {({ change, error }) => (
              <ChoosePlace
                label="Place"
                customer={String(asset.customer.id)}
                chosen={place}
                onChoose={(chosen) => {
                  setPlace(chosen);
                  change(chosen?.id ?? null);
                }}
                none={kind === 'installed' ? undefined : 'no place'}
                error={error}
              />
            )}
          </Wire>
        )}
        <WireDate name="on" label="On" />
        <WireText name="text" label="More (may stay empty)" />
      </WireForm>
    </Dialog>
  );
}

/** The machine that comes, out of those in store. */
function Stock({
  chosen,
  onChoose,
  error,
}: {
  chosen: number;
  onChoose: (id: number) => void;
  error: string | undefined;
}) {
  const [search, setSearch] = useState('');
  const stock = assetsApi.useListAssetsQuery({
    query: { state: 'in store', limit: '20', ...(search && { search }) },
  });
  return (
    <>
      <TextField
        label="Machine in store: tag, serial or model"
        value={search}
        onChange={setSearch}
        error={error}
        autoFocus
      />
      <ul className="max-h-44 overflow-y-auto border-y border-hairline">
        {stock.data?.items.map((a) => (
          <li key={a.id}>
            <label className="flex items-center gap-2 px-1 py-0.5 hover:bg-base-300">
              <input
                type="radio"
                name="fresh"
                className="radio radio-xs border-base-content"
                checked={chosen === a.id}
                onChange={() => onChoose(a.id)}
              />
              <span className="serial">{a.tag}</span> {a.className} {a.model}{' '}
              <span className="quiet">
                {a.serial}, {a.customerName}
              </span>
            </label>
          </li>
        ))}
        {stock.data?.items.length === 0 && (
          <li className="quiet py-1">
            Nothing in store fits. Register the new machine without a place first; it is then in store.
          </li>
        )}
      </ul>
    </>
  );
}

function GoesOver({ taken }: { taken: SwapEffect }) {
  return (
    <div className="border-y border-hairline py-2" aria-live="polite">
      <p>The new one stands at {taken.place} and takes over:</p>
      <p>
        {taken.coverageLines.length === 0
          ? 'no coverage line of its own (cover by place or class reaches it anyway)'
          : `cover under ${taken.coverageLines.join(', ')}`}
        ; {taken.schedules.length === 0 ? 'no schedule' : taken.schedules.join('; ')}.
      </p>
      {taken.openOrders.length > 0 && (
        <p className="font-semibold">
          ✕ Still open on the old one, and staying with it: {taken.openOrders.join(', ')}.
        </p>
      )}
    </div>
  );
}

function SwapDialog({ asset, today, onClose }: { asset: AssetPage; today: LocalDate; onClose: () => void }) {
  const params = { id: String(asset.id) };
  const [preview, previewed] = assetsApi.usePreviewSwapMutation();
  const [swap] = assetsApi.useSwapAssetMutation();
  const form = useWireForm(swapAsset, {
    version: asset.version,
    newAssetId: NaN,
    oldGoes: 'to store',
    on: today,
    text: '',
  });
  const isChosen = !Number.isNaN(form.watch('newAssetId'));
  const refused = previewed.error as Problem | undefined;
  return (
    <Dialog title="Swap the asset" onClose={onClose} wide>
      <WireForm
        form={form}
        name="Swap the asset"
        save="Swap them"
        send={(body) => swap({ params, body })}
        onDone={onClose}
        onCancel={onClose}
        disabled={!isChosen}
      >
        <h1>
          Swap <span className="serial">{asset.tag}</span> for another
        </h1>
        <Wire<number> name="newAssetId">
          {({ value, change, error }) => (
            <Stock
              chosen={value}
              onChoose={(id) => {
                change(id);
                void preview({ params, body: { ...form.getValues(), newAssetId: id } });
              }}
              error={error}
            />
          )}
        </Wire>
        <div className="grid grid-cols-3 gap-3">
          <WireSelect
            name="oldGoes"
            label="The old one goes"
            options={
              [
                ['to store', 'to store'],
                ['scrapped', 'to be scrapped'],
              ] as const
            }
          />
          <WireDate name="on" label="On" />
          <WireText name="text" label="More (may stay empty)" />
        </div>
        {isChosen && refused && <p className="text-missed">✕ {refused.detail}</p>}
        {isChosen && previewed.data && <GoesOver taken={previewed.data} />}
      </WireForm>
    </Dialog>
  );
}

export function LifeActs({ asset, today, maySwap }: { asset: AssetPage; today: LocalDate; maySwap: boolean }) {
  const [params] = useSearchParams();
  // From an order one comes to swap.
  const [floating, setFloating] = useState<LifeKind | 'swap' | null>(params.has('swap') && maySwap ? 'swap' : null);
  const close = (): void => setFloating(null);
  return (
    <div className="flex flex-wrap gap-2">
      {maySwap && (asset.state === 'in service' || asset.state === 'out of service') && (
        <button className="act" onClick={() => setFloating('swap')}>
          Swap…
        </button>
      )}
      {actsOffered(asset.state).map((kind) => (
        <button key={kind} className="act" onClick={() => setFloating(kind)}>
          {BUTTONS[kind]}
        </button>
      ))}
      {floating === 'swap' && <SwapDialog asset={asset} today={today} onClose={close} />}
      {floating && floating !== 'swap' && <LifeDialog asset={asset} kind={floating} today={today} onClose={close} />}
    </div>
  );
}
