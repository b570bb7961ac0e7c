// The acts of an asset's life, and the swap: what goes over to the new machine is shown before it is done.
import { useState } from 'react';
import type { LifeKind } from '#api/assets.ts';
import type { AssetPage } from '#api/register.ts';
import { asId, type AssetId, type LocationId } from '#core/ids.ts';
import { actsOffered } from '#core/assets/index.ts';
import type { LocalDate } from '#core/time/index.ts';
import { SelectField, TextField, useSubmit } from '../parts/fields.tsx';
import { DateField } from '../parts/date-field.tsx';
import { Form } from '../parts/form.tsx';
import { Dialog } from '../shell/dialog.tsx';
import { assetsApi } from './endpoints.ts';
import type { Choice } from '../parts/choose.tsx';
import { ChoosePlace } from '../places/index.ts';

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
  const [on, setOn] = useState<string>(today);
  const [text, setText] = useState('');
  const needsPlace = kind === 'installed' || kind === 'moved';
  const at = asset.path[asset.path.length - 1];
  const [place, setPlace] = useState<Choice | null>(
    at ? { id: at.id, name: asset.path.map((n) => n.name).join(' › ') } : null,
  );
  const [record, { isLoading }] = assetsApi.useRecordLifeMutation();
  const { errors, submit } = useSubmit(['on', 'text', 'act.locationId', 'locationId']);
  const save = async (): Promise<void> => {
    const act = needsPlace
      ? { kind, locationId: place === null ? null : asId<LocationId>(place.id), parentId: null }
      : { kind };
    const done = await submit(
      record({ params: { id: String(asset.id) }, body: { version: asset.version, act, on, text } }),
    );
    if (done) onClose();
  };
  const title = BUTTONS[kind].replace('…', '');
  return (
    <Dialog title={title} onClose={onClose}>
      <Form name={title} save={`Record: ${kind}`} onSave={save} onCancel={onClose} errors={errors} disabled={isLoading}>
        <h1>
          {title} <span className="serial">{asset.tag}</span>
        </h1>
        <p className="quiet">{SAYS[kind]}</p>
        {needsPlace && (
          <ChoosePlace
            label="Place"
            customer={String(asset.customer.id)}
            chosen={place}
            onChoose={setPlace}
            none={kind === 'installed' ? undefined : 'no place'}
            error={errors.of('act.locationId') ?? errors.of('locationId')}
          />
        )}
        <DateField label="On" value={on} onChange={setOn} error={errors.of('on')} />
        <TextField label="More (may stay empty)" value={text} onChange={setText} error={errors.of('text')} />
      </Form>
    </Dialog>
  );
}

function SwapDialog({ asset, today, onClose }: { asset: AssetPage; today: LocalDate; onClose: () => void }) {
  const [search, setSearch] = useState('');
  const [fresh, setFresh] = useState<number | null>(null);
  const [oldGoes, setOldGoes] = useState<'to store' | 'scrapped'>('to store');
  const [on, setOn] = useState<string>(today);
  const [text, setText] = useState('');
  const stock = assetsApi.useListAssetsQuery({
    query: { state: 'in store', limit: '20', ...(search && { search }) },
  });
  const body = (id: number) => ({ version: asset.version, newAssetId: asId<AssetId>(id), oldGoes, on, text });
  const [preview, previewed] = assetsApi.usePreviewSwapMutation();
  const [swap, { isLoading }] = assetsApi.useSwapAssetMutation();
  const { errors, submit } = useSubmit(['newAssetId', 'oldAssetId', 'on']);
  const choose = (id: number): void => {
    setFresh(id);
    void submit(preview({ params: { id: String(asset.id) }, body: body(id) }));
  };
  const taken = previewed.data;
  return (
    <Dialog title="Swap the asset" onClose={onClose} wide>
      <Form
        name="Swap the asset"
        save="Swap them"
        onSave={async () => {
          if (fresh !== null && (await submit(swap({ params: { id: String(asset.id) }, body: body(fresh) }))))
            onClose();
        }}
        onCancel={onClose}
        errors={errors}
        disabled={fresh === null || isLoading}
      >
        <h1>
          Swap <span className="serial">{asset.tag}</span> for another
        </h1>
        <TextField
          label="Machine in store: tag, serial or model"
          value={search}
          onChange={setSearch}
          error={errors.of('newAssetId')}
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
                  checked={fresh === a.id}
                  onChange={() => choose(a.id)}
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
        <div className="grid grid-cols-3 gap-3">
          <SelectField
            label="The old one goes"
            value={oldGoes}
            onChange={(v) => setOldGoes(v === 'scrapped' ? 'scrapped' : 'to store')}
            options={[
              ['to store', 'to store'],
              ['scrapped', 'to be scrapped'],
            ]}
          />
          <DateField label="On" value={on} onChange={setOn} error={errors.of('on')} />
          <TextField label="More (may stay empty)" value={text} onChange={setText} />
        </div>
        {taken && fresh !== null && (
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
        )}
      </Form>
    </Dialog>
  );
}

export function LifeActs({ asset, today, maySwap }: { asset: AssetPage; today: LocalDate; maySwap: boolean }) {
  const [floating, setFloating] = useState<LifeKind | 'swap' | null>(null);
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
