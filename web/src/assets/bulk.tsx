// Many assets at once: choose what changes, see what will happen, then do it.
import { useState } from 'react';
import type { BulkChange, BulkEffect } from '#api/assets.ts';
import type { TreeNode } from '#api/places.ts';
import type { Problem } from '#api/shapes.ts';
import { asId, type AssetClassId, type CalendarId, type LocationId } from '#core/ids.ts';
import { ChooseAmongPlaces, namedPlaces } from '../places/index.ts';
import { SelectField, TextField } from '../parts/fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { plural } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { assetsApi } from './endpoints.ts';
import { setupApi } from '../setup/index.ts';

const KINDS = ['class', 'place', 'calendar of their places', 'owner', 'retire'] as const;
type Kind = (typeof KINDS)[number];

function changeOf(kind: Kind, value: string): BulkChange | null {
  switch (kind) {
    case 'class':
      return value === '' ? null : { kind, classId: asId<AssetClassId>(Number(value)) };
    case 'place':
      return value === '' ? null : { kind, locationId: asId<LocationId>(Number(value)) };
    case 'calendar of their places':
      return { kind, calendarId: value === '' ? null : asId<CalendarId>(Number(value)) };
    case 'owner':
      return { kind, owner: value === 'own fleet' ? 'own fleet' : 'customer' };
    case 'retire':
      return { kind, reason: value };
  }
}

function Effect({ effect }: { effect: BulkEffect }) {
  return (
    <div className="border-y border-hairline py-2" aria-live="polite">
      <p>
        {plural(effect.will, 'asset')} will change, {effect.unchanged} already so
        {effect.refused.length > 0 ? `, ${effect.refused.length} refused:` : '.'}
      </p>
      {effect.refused.slice(0, 12).map((r) => (
        <p key={r.tag}>
          ✕ <span className="serial">{r.tag}</span> {r.reason}
        </p>
      ))}
      {effect.remarks.map((r) => (
        <p key={r} className="quiet">
          {r}
        </p>
      ))}
    </div>
  );
}

type Typed = { kind: Kind; value: string };

function ValueField({
  kind,
  nodes,
  value,
  change,
  error,
}: Typed & { nodes: readonly TreeNode[]; change: (value: string) => void; error: string | undefined }) {
  const { data: reference } = setupApi.useReadReferenceQuery();
  if (kind === 'retire') return <TextField label="Why" value={value} onChange={change} error={error} />;
  if (kind === 'place') {
    const places = namedPlaces(nodes);
    return (
      <ChooseAmongPlaces
        label="To"
        places={places}
        chosen={places.find((p) => String(p.id) === value) ?? null}
        onChoose={(place) => change(place ? String(place.id) : '')}
        error={error}
      />
    );
  }
  const choices: readonly (readonly [string, string])[] =
    kind === 'class'
      ? [['', 'choose a class'], ...(reference?.classes ?? []).map((c) => [String(c.id), c.name] as const)]
      : kind === 'calendar of their places'
        ? [['', 'from the place above'], ...(reference?.calendars ?? []).map((c) => [String(c.id), c.name] as const)]
        : [
            ['customer', 'the customer'],
            ['own fleet', 'own fleet'],
          ];
  return <SelectField label="To" value={value} onChange={change} options={choices} error={error} />;
}

export function BulkDialog({
  ids,
  nodes,
  onClose,
  onDone,
}: {
  ids: readonly number[];
  nodes: readonly TreeNode[];
  onClose: () => void;
  onDone: (effect: BulkEffect) => void;
}) {
  const [effect, setEffect] = useState<BulkEffect | null>(null);
  const [preview] = assetsApi.usePreviewBulkMutation();
  const [change] = assetsApi.useChangeManyMutation();
  const bodyOf = ({ kind, value }: Typed) => ({ ids: [...ids], change: changeOf(kind, value) as BulkChange });
  const form = useWireForm<Typed>({}, { kind: 'class', value: '' });
  const { kind } = form.watch();
  const look = async (typed: Typed): Promise<void> => {
    form.setValue('kind', typed.kind, { shouldDirty: true });
    form.setValue('value', typed.value, { shouldDirty: true });
    form.clearErrors();
    setEffect(null);
    const asked = changeOf(typed.kind, typed.value);
    if (!asked || (asked.kind === 'retire' && asked.reason.trim() === '')) return;
    const { data, error } = await preview({ body: bodyOf(typed) });
    // Typed on meanwhile: what comes late is not shown.
    if (form.getValues('kind') !== typed.kind || form.getValues('value') !== typed.value) return;
    if (error) form.setError('value', { type: 'refused', message: (error as Problem).detail });
    else setEffect(data);
  };
  return (
    <Dialog title="Change the ticked assets" onClose={onClose}>
      <WireForm
        form={form}
        name="Change the ticked assets"
        save={
          effect
            ? kind === 'retire'
              ? `Retire ${plural(effect.will, 'asset')}`
              : `Change ${plural(effect.will, 'asset')}`
            : 'Change'
        }
        send={(typed) => change({ body: bodyOf(typed) })}
        onDone={onDone}
        onCancel={onClose}
        disabled={!effect || effect.will === 0}
      >
        <h1>{plural(ids.length, 'ticked asset')}</h1>
        <SelectField
          label="What changes"
          value={kind}
          onChange={(k) => void look({ kind: k as Kind, value: k === 'owner' ? 'customer' : '' })}
          options={KINDS.map((k) => [k, k])}
        />
        <Wire<string> name="value">
          {({ value, error }) => (
            <ValueField
              kind={kind}
              value={value}
              nodes={nodes}
              change={(next) => void look({ kind, value: next })}
              error={error}
            />
          )}
        </Wire>
        {effect && <Effect effect={effect} />}
      </WireForm>
    </Dialog>
  );
}
