// Many assets at once: choose what changes, see what will happen, then do it.
import { useState } from 'react';
import type { BulkChange, BulkEffect } from '#api/assets.ts';
import { asId, type AssetClassId, type AssetId, type CalendarId, type LocationId } from '#core/ids.ts';
import type { TreeNode } from '#api/places.ts';
import { ChooseAmongPlaces, namedPlaces } from '../places/index.ts';
import { SelectField, TextField, useSubmit } from '../parts/fields.tsx';
import { Form } from '../parts/form.tsx';
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
  const { data: reference } = setupApi.useReadReferenceQuery();
  const [kind, setKind] = useState<Kind>('class');
  const [value, setValue] = useState('');
  const [effect, setEffect] = useState<BulkEffect | null>(null);
  const [preview] = assetsApi.usePreviewBulkMutation();
  const [change, { isLoading }] = assetsApi.useChangeManyMutation();
  const { errors, submit, clear } = useSubmit(['change']);
  const body = (asked: BulkChange) => ({ ids: ids.map((id) => asId<AssetId>(id)), change: asked });
  const look = async (nextKind: Kind, next: string): Promise<void> => {
    setKind(nextKind);
    setValue(next);
    setEffect(null);
    clear();
    const asked = changeOf(nextKind, next);
    if (!asked || (asked.kind === 'retire' && asked.reason.trim() === '')) return;
    const found = await submit(preview({ body: body(asked) }));
    if (found) setEffect(found);
  };
  const save = async (): Promise<void> => {
    const asked = changeOf(kind, value);
    const done = asked && (await submit(change({ body: body(asked) })));
    if (done) onDone(done);
  };
  const choices: readonly (readonly [string, string])[] =
    kind === 'class'
      ? [['', 'choose a class'], ...(reference?.classes ?? []).map((c) => [String(c.id), c.name] as const)]
      : kind === 'calendar of their places'
        ? [['', 'from the place above'], ...(reference?.calendars ?? []).map((c) => [String(c.id), c.name] as const)]
        : [
            ['customer', 'the customer'],
            ['own fleet', 'own fleet'],
          ];
  const places = namedPlaces(nodes);
  return (
    <Dialog title="Change the ticked assets" onClose={onClose}>
      <Form
        name="Change the ticked assets"
        save={
          effect
            ? kind === 'retire'
              ? `Retire ${plural(effect.will, 'asset')}`
              : `Change ${plural(effect.will, 'asset')}`
            : 'Change'
        }
        onSave={save}
        onCancel={onClose}
        errors={errors}
        disabled={!effect || effect.will === 0 || isLoading}
      >
        <h1>{plural(ids.length, 'ticked asset')}</h1>
        <SelectField
          label="What changes"
          value={kind}
          onChange={(k) => void look(k as Kind, k === 'owner' ? 'customer' : '')}
          options={KINDS.map((k) => [k, k])}
        />
        {kind === 'retire' ? (
          <TextField label="Why" value={value} onChange={(v) => void look(kind, v)} error={errors.of('change')} />
        ) : kind === 'place' ? (
          <ChooseAmongPlaces
            label="To"
            places={places}
            chosen={places.find((p) => String(p.id) === value) ?? null}
            onChoose={(place) => void look(kind, place ? String(place.id) : '')}
            error={errors.of('change')}
          />
        ) : (
          <SelectField
            label="To"
            value={value}
            onChange={(v) => void look(kind, v)}
            options={choices}
            error={errors.of('change')}
          />
        )}
        {effect && (
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
        )}
      </Form>
    </Dialog>
  );
}
