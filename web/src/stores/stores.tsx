// Stores: where each stands, whose van it is, and what lies in it in all.
import { useState } from 'react';
import { Link } from 'react-router';
import { addStore, type StoreIn, type StoreOut } from '#api/stock.ts';
import { seesMoney } from '#core/people.ts';
import { STORE_KINDS } from '#core/stores/index.ts';
import { Choose } from '../parts/choose.tsx';
import { WireSelect, WireText, WireTick } from '../parts/wire-fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { plural, sayMoney } from '../parts/words.ts';
import { EditableList, setupApi, useTechnicians } from '../setup/index.ts';
import { useReader } from '../shell/reader.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { storesApi } from './endpoints.ts';
import { StoresParts } from './sections.tsx';
import { StoreSettings } from './settings.tsx';

function StoreForm({ store, onDone }: { store: StoreOut | null; onDone: () => void }) {
  const { data } = setupApi.useReadReferenceQuery();
  const [add] = storesApi.useAddStoreMutation();
  const [change] = storesApi.useChangeStoreMutation();
  const [whose, setWhose] = useState(store?.person ?? null);
  const form = useWireForm<StoreIn>(addStore, {
    ...{ name: store?.name ?? '', kind: store?.kind ?? 'depot', depotId: store?.depot.id ?? NaN },
    ...{ personId: store?.person?.id ?? null, retired: store?.retired ?? false },
  });
  const kind = form.watch('kind');
  return (
    <WireForm<StoreIn, unknown>
      form={form}
      name="Store"
      save="Keep the store"
      send={(body, seen) =>
        store
          ? change({ params: { id: String(store.id) }, body: { ...body, version: seen ?? store.version } })
          : add({ body })
      }
      onDone={onDone}
      onCancel={onDone}
      sheet
    >
      <div className="grid grid-cols-3 gap-3">
        <WireText name="name" label="Name" />
        <WireSelect name="kind" label="Kind" options={STORE_KINDS.map((k) => [k, k] as const)} />
        <WireSelect
          name="depotId"
          label="Depot"
          options={[[NaN, 'choose'] as const, ...(data?.depots ?? []).map((d) => [d.id, d.name] as const)]}
        />
        {(kind === 'van' || whose !== null) && (
          <Wire<number | null> name="personId">
            {({ change: set, error }) => (
              <Choose
                label="Whose van"
                chosen={whose}
                onChoose={(c) => {
                  setWhose(c && { id: c.id, name: c.name });
                  set(c?.id ?? null);
                }}
                useFind={useTechnicians}
                error={error}
              />
            )}
          </Wire>
        )}
      </div>
      {store && <WireTick name="retired" label="Nothing comes in any more" className="pt-1" />}
    </WireForm>
  );
}

export function StoresRoom() {
  const isMoneySeen = seesMoney(useReader().role);
  const query = storesApi.useListStoresQuery();
  return (
    <article className="px-7 pt-5 pb-10">
      <h1 className="mb-2">Stores</h1>
      <StoresParts />
      <div className="mt-3">
        <Waiting query={query}>
          {({ items }) => (
            <EditableList
              name="stores"
              items={items}
              adding={addStore}
              add="Add a store"
              empty="No store yet: add the depots’ stores, and a van for each technician."
              form={(store, done) => <StoreForm store={store} onDone={done} />}
              columns={[
                {
                  id: 'name',
                  head: 'Name',
                  value: (s) => s.name,
                  show: (s) => (
                    <Link className="link-ink" to={`/stores/all/${s.id}`}>
                      {s.name}
                    </Link>
                  ),
                },
                { id: 'kind', head: 'Kind', value: (s) => (s.retired ? `${s.kind}, out of use` : s.kind) },
                { id: 'depot', head: 'Depot', value: (s) => s.depot.name },
                { id: 'whose', head: 'Whose', value: (s) => s.person?.name ?? '' },
                {
                  id: 'parts',
                  head: 'Lies there',
                  value: (s) => s.parts,
                  show: (s) => plural(s.parts, 'part'),
                  isNumber: true,
                },
                ...(isMoneySeen
                  ? [
                      {
                        ...{ id: 'value', head: 'Worth', value: (s: StoreOut) => s.value, isNumber: true },
                        show: (s: StoreOut) => (s.value === null ? '' : sayMoney(s.value, 'EUR')),
                      },
                    ]
                  : []),
              ]}
            />
          )}
        </Waiting>
      </div>
      <StoreSettings />
    </article>
  );
}
