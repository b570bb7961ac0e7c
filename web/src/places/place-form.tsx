// Changing a place, adding one, and who may use it.
import { useState } from 'react';
import { addLocation, shareLocation } from '#api/places.ts';
import type { NewLocation, PlacePage, TreeNode } from '#api/places.ts';
import type { Choice } from '../parts/choose.tsx';
import { GeneralError, useSubmit } from '../parts/fields.tsx';
import { WireLongText, WireNumber, WireSelect, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { ChooseCustomer } from '../customers/index.ts';
import { Dialog } from '../shell/dialog.tsx';
import { setupApi } from '../setup/index.ts';
import { placesApi } from './endpoints.ts';

export function PlaceForm({
  node,
  parent,
  customerId,
  onClose,
}: {
  node: TreeNode | null;
  parent: TreeNode | null;
  customerId: number;
  onClose: () => void;
}) {
  const { data: reference } = setupApi.useReadReferenceQuery();
  const [change] = placesApi.useChangeLocationMutation();
  const [add] = placesApi.useAddLocationMutation();
  const form = useWireForm(addLocation, {
    name: node?.name ?? '',
    address: node?.address ?? null,
    zone: node?.zone ?? null,
    accessNote: node?.accessNote ?? null,
    calendarId: node?.calendarId ?? null,
    depotId: node?.depotId ?? null,
    joinDays: node?.joinDays ?? null,
    latitude: node?.latitude ?? null,
    longitude: node?.longitude ?? null,
    parentId: parent?.id ?? null,
    customerId,
  });
  const title = node ? 'Change the place' : parent ? `Add a place in ${parent.name}` : 'Add a site';
  const above = 'Empty: taken from the place above.';
  return (
    <Dialog title={title} onClose={onClose}>
      <WireForm<NewLocation, unknown>
        form={form}
        name={title}
        save={node ? 'Save the place' : 'Add the place'}
        send={({ parentId, customerId: of, ...body }, seen) =>
          node
            ? change({ params: { id: String(node.id) }, body: { ...body, version: seen ?? node.version } })
            : add({ body: { ...body, parentId, customerId: of } })
        }
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>{node ? node.name : title}</h1>
        <WireText name="name" label="Name" autoFocus />
        <WireText name="address" label="Address" empty={null} hint={above} />
        <div className="grid grid-cols-2 gap-3">
          <WireText name="zone" label="Time zone" empty={null} hint="Such as Europe/Lisbon. Empty: from above." />
          <WireSelect
            name="calendarId"
            label="Calendar"
            options={[
              [null, 'from the place above'] as const,
              ...(reference?.calendars ?? []).map((c) => [c.id, c.name] as const),
            ]}
          />
          <WireSelect
            name="depotId"
            label="Depot"
            options={[
              [null, 'from the place above'] as const,
              ...(reference?.depots ?? []).map((d) => [d.id, d.name] as const),
            ]}
          />
          <WireNumber
            name="joinDays"
            label="Visits join within, days"
            empty={null}
            min={0}
            hint="Due so near each other they make one order. 0: never. Empty: from above."
          />
          <WireNumber name="latitude" label="Latitude" empty={null} step="any" />
          <WireNumber name="longitude" label="Longitude" empty={null} step="any" />
        </div>
        <WireLongText name="accessNote" label="Access notes" empty={null} rows={2} hint={above} />
      </WireForm>
    </Dialog>
  );
}

export function SharePlace({ place, onClose }: { place: PlacePage; onClose: () => void }) {
  const [chosen, setChosen] = useState<Choice | null>(null);
  const [share] = placesApi.useShareLocationMutation();
  const { errors, submit } = useSubmit([]);
  const params = { id: String(place.id) };
  const form = useWireForm(shareLocation, { customerId: NaN, share: true });
  return (
    <Dialog title="Share the place" onClose={onClose}>
      <WireForm
        form={form}
        name="Share the place"
        save="Share it"
        send={(body) => share({ params, body })}
        onDone={onClose}
        onCancel={onClose}
        disabled={chosen === null}
      >
        <h1>Who may use {place.name}</h1>
        <ul>
          {place.customers.map((c) => (
            <li key={c.id} className="flex justify-between border-b border-hairline py-1">
              {c.name}
              <button
                type="button"
                className="quiet link-ink"
                onClick={() => void submit(share({ params, body: { customerId: c.id, share: false } }))}
              >
                end sharing
              </button>
            </li>
          ))}
        </ul>
        <GeneralError errors={errors} />
        <Wire<number> name="customerId">
          {({ change, error }) => (
            <ChooseCustomer
              label="Share with"
              chosen={chosen}
              onChoose={(customer) => {
                setChosen(customer);
                change(customer?.id ?? NaN);
              }}
              except={place.customers.map((c) => c.id)}
              error={error}
            />
          )}
        </Wire>
      </WireForm>
    </Dialog>
  );
}
