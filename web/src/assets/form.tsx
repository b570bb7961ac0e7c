// Registering an asset, and changing one: the second of two people to save sees what changed and both are joined.
import { useRef, useState } from 'react';
import { useFormContext } from 'react-hook-form';
import { useNavigate } from 'react-router';
import { addAsset, changeAsset, OWNERS, type AssetIn } from '#api/assets.ts';
import type { TreeNode } from '#api/places.ts';
import type { AssetPage } from '#api/register.ts';
import type { Problem } from '#api/shapes.ts';
import type { Choice } from '../parts/choose.tsx';
import { WireDate, WireNumber, WireSelect, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { ChoosePlace, namedPlaces } from '../places/index.ts';
import { Dialog } from '../shell/dialog.tsx';
import { setupApi } from '../setup/index.ts';
import { ChooseModel } from './choose-model.tsx';
import { assetsApi } from './endpoints.ts';
import { mergeDrafts } from './merge.ts';

const LABELS = {
  tag: 'Tag',
  serial: 'Serial',
  maker: 'Maker',
  model: 'Model',
  classId: 'Class',
  owner: 'Owner',
  commissioned: 'Commissioned',
  rentedSince: 'Rented since',
  warrantyFrom: 'Warranty from',
  warrantyUntil: 'Warranty until',
  warrantyLabour: 'Labour borne, %',
  warrantyParts: 'Parts borne, %',
  warrantyTravel: 'Travel borne, %',
  warrantyVisits: 'Free visits',
} as const;
type Key = keyof typeof LABELS;
const KEYS = Object.keys(LABELS) as Key[];

type Held = Required<Pick<AssetIn, Key>>;
const heldOf = ({ warranty, ...a }: AssetPage): Held => ({
  tag: a.tag,
  serial: a.serial,
  maker: a.maker,
  model: a.model,
  classId: a.classId,
  owner: a.owner,
  commissioned: a.commissioned,
  rentedSince: a.rentedSince,
  warrantyFrom: warranty.from,
  warrantyUntil: warranty.until,
  warrantyLabour: warranty.labour,
  warrantyParts: warranty.parts,
  warrantyTravel: warranty.travel,
  warrantyVisits: warranty.visits,
});
const onlyHeld = (row: Held): Held => Object.fromEntries(KEYS.map((key) => [key, row[key]])) as Held;

function AssetFields({ asset }: { asset: AssetPage }) {
  const { data: reference } = setupApi.useReadReferenceQuery();
  const isRented = useFormContext<Held>().watch('owner') === 'own fleet';
  return (
    <>
      <div className="grid grid-cols-3 gap-3">
        {(['tag', 'serial', 'maker', 'model'] as const).map((key) => (
          <WireText key={key} name={key} label={LABELS[key]} />
        ))}
        <WireSelect
          name="classId"
          label={LABELS.classId}
          options={(reference?.classes ?? [{ id: asset.classId, name: asset.className }]).map(
            (c) => [c.id, c.name] as const,
          )}
        />
        <WireDate name="commissioned" label={LABELS.commissioned} empty={null} />
        <WireSelect name="owner" label={LABELS.owner} options={OWNERS.map((o) => [o, o] as const)} />
        {isRented && <WireDate name="rentedSince" label={LABELS.rentedSince} empty={null} />}
      </div>
      <h2>Warranty</h2>
      <div className="grid grid-cols-3 gap-3">
        {(['warrantyFrom', 'warrantyUntil'] as const).map((key) => (
          <WireDate key={key} name={key} label={LABELS[key]} empty={null} />
        ))}
        {(['warrantyVisits', 'warrantyLabour', 'warrantyParts', 'warrantyTravel'] as const).map((key) => (
          <WireNumber key={key} name={key} label={LABELS[key]} min={0} />
        ))}
      </div>
    </>
  );
}

export function EditAsset({ asset, onClose }: { asset: AssetPage; onClose: () => void }) {
  const opened = useRef(heldOf(asset));
  const [merged, setMerged] = useState<string | null>(null);
  const [change] = assetsApi.useChangeAssetMutation();
  const form = useWireForm(changeAsset, { version: asset.version, state: asset.state, ...opened.current });
  /** The second to save sees what the first changed; both are joined, and are saved by saving again. */
  const join = ({ code, current }: Problem): boolean => {
    if (code !== 'stale' || !current) return false;
    const theirs = onlyHeld(current as Held);
    const mine = onlyHeld(form.getValues() as Held);
    const { merged: both, clashes } = mergeDrafts(opened.current, mine, theirs);
    setMerged(
      clashes.length === 0
        ? 'Their changes and yours are joined below; save again to keep both.'
        : `You both changed: ${clashes.map((c) => `${LABELS[c].toLowerCase()} (they wrote “${theirs[c] ?? ''}”)`).join(', ')}. Yours stands below; save again to keep it.`,
    );
    opened.current = theirs;
    for (const key of KEYS) form.setValue(key, both[key], { shouldDirty: true });
    return true;
  };
  return (
    <Dialog title="Change the asset" onClose={onClose} wide>
      <WireForm
        form={form}
        name="Change the asset"
        save="Save the asset"
        send={(body) => change({ params: { id: String(asset.id) }, body })}
        onRefused={join}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>
          {asset.className} <span className="serial">{asset.tag}</span>
        </h1>
        <AssetFields asset={asset} />
        {merged && (
          <p role="alert" className="border border-base-content p-2">
            {merged}
          </p>
        )}
      </WireForm>
    </Dialog>
  );
}

/** A new machine; maker and class come with a model of the catalogue. */
export function AssetForm({
  customerId,
  locationId,
  nodes,
  onClose,
}: {
  customerId: number;
  locationId: number | null;
  nodes: readonly TreeNode[];
  onClose: () => void;
}) {
  const navigate = useNavigate();
  const { data: catalogue } = setupApi.useReadCatalogueQuery();
  const [place, setPlace] = useState<Choice | null>(() => namedPlaces(nodes).find((n) => n.id === locationId) ?? null);
  const [add] = assetsApi.useAddAssetMutation();
  const form = useWireForm(addAsset, {
    maker: '',
    model: '',
    serial: '',
    tag: '',
    commissioned: null,
    owner: 'customer',
    customerId,
    locationId: place?.id ?? null,
    classId: NaN,
  });
  const [name, maker] = form.watch(['model', 'maker']);
  const known = catalogue?.models.find((m) => m.name === name && m.maker === maker);
  return (
    <Dialog title="Register an asset" onClose={onClose} wide>
      <WireForm
        form={form}
        name="Register an asset"
        save="Register it"
        send={(body) => add({ body })}
        onDone={({ id }) => void navigate(`/assets/${id}`)}
        onCancel={onClose}
      >
        <h1>Register an asset</h1>
        <Wire<number | null> name="locationId">
          {({ change, error }) => (
            <ChoosePlace
              label="Place"
              customer={String(customerId)}
              chosen={place}
              onChoose={(chosen) => {
                setPlace(chosen);
                change(chosen?.id ?? null);
              }}
              none="in store: it stands nowhere yet"
              error={error}
            />
          )}
        </Wire>
        <div className="grid grid-cols-3 gap-3">
          <ChooseModel
            models={catalogue?.models ?? []}
            chosen={known ?? null}
            onChoose={(model) => {
              form.setValue('model', model?.name ?? '', { shouldDirty: true });
              form.setValue('maker', model?.maker ?? '', { shouldDirty: true });
              form.setValue('classId', model?.classId ?? NaN, { shouldDirty: true });
            }}
          />
          <WireText name="model" label="Model" />
          <WireText name="maker" label="Maker" />
          <WireText name="serial" label="Serial" />
          <WireText name="tag" label="Tag" />
          <WireSelect
            name="classId"
            label="Class"
            options={[[NaN, 'choose'] as const, ...(catalogue?.classes ?? []).map((c) => [c.id, c.name] as const)]}
          />
          <WireDate name="commissioned" label="Commissioned" empty={null} />
          <WireSelect name="owner" label="Owner" options={OWNERS.map((o) => [o, o] as const)} />
        </div>
      </WireForm>
    </Dialog>
  );
}
