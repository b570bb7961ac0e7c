// Registering an asset, and changing one: the second of two people to save sees what changed and both are joined.
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { OWNERS } from '#api/assets.ts';
import type { TreeNode } from '#api/places.ts';
import type { AssetPage } from '#api/register.ts';
import type { Problem } from '#api/shapes.ts';
import { asId, type AssetClassId, type CustomerId, type LocationId } from '#core/ids.ts';
import type { Choice } from '../parts/choose.tsx';
import { ChoosePlace, namedPlaces } from '../places/index.ts';
import { NumberField, SelectField, TextField, useSubmit } from '../parts/fields.tsx';
import { DateField } from '../parts/date-field.tsx';
import { Form } from '../parts/form.tsx';
import { Dialog } from '../shell/dialog.tsx';
import { assetsApi } from './endpoints.ts';
import { setupApi } from '../setup/index.ts';
import { mergeDrafts } from './merge.ts';

const LABELS = {
  tag: 'Tag',
  serial: 'Serial',
  maker: 'Maker',
  model: 'Model',
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
type Draft = Record<Key, string>;
const KEYS = Object.keys(LABELS) as Key[];
const NUMBERS: readonly Key[] = ['warrantyLabour', 'warrantyParts', 'warrantyTravel', 'warrantyVisits'];
const DATES: readonly Key[] = ['commissioned', 'rentedSince', 'warrantyFrom', 'warrantyUntil'];

type Held = Readonly<Record<Key, string | number | null>> & { readonly version: number };
const draftOf = (held: Held): Draft =>
  Object.fromEntries(KEYS.map((k) => [k, held[k] === null ? '' : String(held[k])])) as Draft;
const heldOf = (a: AssetPage): Held => ({
  tag: a.tag,
  serial: a.serial,
  maker: a.maker,
  model: a.model,
  owner: a.owner,
  commissioned: a.commissioned,
  rentedSince: a.rentedSince,
  warrantyFrom: a.warranty.from,
  warrantyUntil: a.warranty.until,
  warrantyLabour: a.warranty.labour,
  warrantyParts: a.warranty.parts,
  warrantyTravel: a.warranty.travel,
  warrantyVisits: a.warranty.visits,
  version: a.version,
});

export function EditAsset({ asset, onClose }: { asset: AssetPage; onClose: () => void }) {
  const [opened, setOpened] = useState({ draft: draftOf(heldOf(asset)), version: asset.version });
  const [draft, setDraft] = useState(opened.draft);
  const [classId, setClassId] = useState(String(asset.classId));
  const [merged, setMerged] = useState<string | null>(null);
  const { data: reference } = setupApi.useReadReferenceQuery();
  const [change, { isLoading }] = assetsApi.useChangeAssetMutation();
  const { errors, submit } = useSubmit([...KEYS, 'classId']);
  const save = async (): Promise<void> => {
    const call = change({
      params: { id: String(asset.id) },
      body: {
        version: opened.version,
        state: asset.state,
        classId: asId<AssetClassId>(Number(classId)),
        tag: draft.tag,
        serial: draft.serial,
        maker: draft.maker,
        model: draft.model,
        owner: draft.owner === 'own fleet' ? 'own fleet' : 'customer',
        commissioned: draft.commissioned || null,
        rentedSince: draft.rentedSince || null,
        warrantyFrom: draft.warrantyFrom || null,
        warrantyUntil: draft.warrantyUntil || null,
        warrantyLabour: Number(draft.warrantyLabour),
        warrantyParts: Number(draft.warrantyParts),
        warrantyTravel: Number(draft.warrantyTravel),
        warrantyVisits: Number(draft.warrantyVisits),
      },
    });
    if (await submit(call)) return onClose();
    const { error } = (await call) as { error?: Problem };
    if (error?.code !== 'stale' || !error.current) return;
    const now = error.current as Held;
    const theirs = draftOf(now);
    const { merged: both, clashes } = mergeDrafts(opened.draft, draft, theirs);
    setMerged(
      clashes.length === 0
        ? 'Their changes and yours are joined below; save again to keep both.'
        : `You both changed: ${clashes.map((c) => `${LABELS[c].toLowerCase()} (they wrote “${theirs[c]}”)`).join(', ')}. Yours stands below; save again to keep it.`,
    );
    setOpened({ draft: theirs, version: now.version });
    setDraft(both);
  };
  const field = (key: Key) => {
    const props = { label: LABELS[key], error: errors.of(key) };
    if (DATES.includes(key))
      return <DateField key={key} {...props} value={draft[key]} onChange={(v) => setDraft({ ...draft, [key]: v })} />;
    if (NUMBERS.includes(key))
      return (
        <NumberField
          key={key}
          {...props}
          value={draft[key] === '' ? NaN : Number(draft[key])}
          onChange={(n) => setDraft({ ...draft, [key]: Number.isNaN(n) ? '' : String(n) })}
          min={0}
        />
      );
    return <TextField key={key} {...props} value={draft[key]} onChange={(v) => setDraft({ ...draft, [key]: v })} />;
  };
  return (
    <Dialog title="Change the asset" onClose={onClose} wide>
      <Form
        name="Change the asset"
        save="Save the asset"
        onSave={save}
        onCancel={onClose}
        errors={errors}
        disabled={isLoading}
      >
        <h1>
          {asset.className} <span className="serial">{asset.tag}</span>
        </h1>
        <div className="grid grid-cols-3 gap-3">
          {(['tag', 'serial', 'maker', 'model'] as const).map(field)}
          <SelectField
            label="Class"
            value={classId}
            onChange={setClassId}
            options={(reference?.classes ?? [{ id: asset.classId, name: asset.className }]).map((c) => [
              String(c.id),
              c.name,
            ])}
            error={errors.of('classId')}
          />
          {field('commissioned')}
          <SelectField
            label={LABELS.owner}
            value={draft.owner}
            onChange={(owner) => setDraft({ ...draft, owner })}
            options={OWNERS.map((o) => [o, o])}
          />
          {draft.owner === 'own fleet' && field('rentedSince')}
        </div>
        <h2>Warranty</h2>
        <div className="grid grid-cols-3 gap-3">
          {(
            [
              'warrantyFrom',
              'warrantyUntil',
              'warrantyVisits',
              'warrantyLabour',
              'warrantyParts',
              'warrantyTravel',
            ] as const
          ).map(field)}
        </div>
        {merged && (
          <p role="alert" className="border border-base-content p-2">
            {merged}
          </p>
        )}
      </Form>
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
  const [draft, setDraft] = useState({
    maker: '',
    model: '',
    serial: '',
    tag: '',
    commissioned: '',
    owner: 'customer',
  });
  const [classId, setClassId] = useState('');
  const [place, setPlace] = useState<Choice | null>(() => namedPlaces(nodes).find((n) => n.id === locationId) ?? null);
  const [add, { isLoading }] = assetsApi.useAddAssetMutation();
  const { errors, submit } = useSubmit(['maker', 'model', 'serial', 'tag', 'classId', 'locationId', 'commissioned']);
  const set = (key: keyof typeof draft) => (value: string) => setDraft({ ...draft, [key]: value });
  const known = catalogue?.models.find((m) => m.name === draft.model && (!draft.maker || m.maker === draft.maker));
  const classOf = classId || String(known?.classId ?? '');
  const maker = draft.maker || (known?.maker ?? '');
  const save = async (): Promise<void> => {
    const made = await submit(
      add({
        body: {
          ...draft,
          maker,
          owner: draft.owner === 'own fleet' ? 'own fleet' : 'customer',
          commissioned: draft.commissioned || null,
          customerId: asId<CustomerId>(customerId),
          locationId: place === null ? null : asId<LocationId>(place.id),
          classId: asId<AssetClassId>(Number(classOf)),
        },
      }),
    );
    if (made) void navigate(`/assets/${made.id}`);
  };
  return (
    <Dialog title="Register an asset" onClose={onClose} wide>
      <Form
        name="Register an asset"
        save="Register it"
        onSave={save}
        onCancel={onClose}
        errors={errors}
        disabled={isLoading}
      >
        <h1>Register an asset</h1>
        <ChoosePlace
          label="Place"
          customer={String(customerId)}
          chosen={place}
          onChoose={setPlace}
          none="in store: it stands nowhere yet"
          error={errors.of('locationId')}
        />
        <div className="grid grid-cols-3 gap-3">
          <SelectField
            label="Model of the catalogue"
            value={known?.name ?? ''}
            onChange={(name) => {
              const model = catalogue?.models.find((m) => m.name === name);
              setDraft({ ...draft, model: name, maker: model?.maker ?? '' });
              setClassId(model ? String(model.classId) : '');
            }}
            options={[
              ['', 'another'],
              ...(catalogue?.models ?? []).map((m) => [m.name, `${m.maker} ${m.name}`] as const),
            ]}
            hint={
              known && known.warrantyMonths > 0 ? `Comes with ${known.warrantyMonths} months of warranty.` : undefined
            }
          />
          <TextField label="Model" value={draft.model} onChange={set('model')} error={errors.of('model')} />
          <TextField label="Maker" value={maker} onChange={set('maker')} error={errors.of('maker')} />
          <TextField label="Serial" value={draft.serial} onChange={set('serial')} error={errors.of('serial')} />
          <TextField label="Tag" value={draft.tag} onChange={set('tag')} error={errors.of('tag')} />
          <SelectField
            label="Class"
            value={classOf}
            onChange={setClassId}
            error={errors.of('classId')}
            options={[['', 'choose'], ...(catalogue?.classes ?? []).map((c) => [String(c.id), c.name] as const)]}
          />
          <DateField
            label="Commissioned"
            value={draft.commissioned}
            onChange={set('commissioned')}
            error={errors.of('commissioned')}
          />
          <SelectField label="Owner" value={draft.owner} onChange={set('owner')} options={OWNERS.map((o) => [o, o])} />
        </div>
      </Form>
    </Dialog>
  );
}
