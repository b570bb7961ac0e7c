// The register: a customer's places on the left; its assets with their threads, sites, contacts and possible twins on the right.
import { useState } from 'react';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { beginImport } from '#api/imports.ts';
import { addCustomer, customersCsv } from '#api/customers.ts';
import { changeMany, listTwins } from '#api/assets.ts';
import { addLocation } from '#api/places.ts';
import type { TreeNode } from '#api/places.ts';
import { TextField } from '../parts/fields.tsx';
import { Tabs } from '../parts/tabs.tsx';
import { plural } from '../parts/words.ts';
import { useListKeys } from '../shell/keys.ts';
import { useReader } from '../shell/reader.tsx';
import { customersApi } from '../customers/index.ts';
import { placesApi } from '../places/index.ts';
import { Waiting } from '../shell/waiting.tsx';
import { AssetForm } from '../assets/index.ts';
import { AssetTable, usePiece, type AssetListFilter } from '../assets/index.ts';
import { BulkDialog } from '../assets/index.ts';
import { CustomerForm, CustomerView } from '../customers/index.ts';
import { PlaceForm, PlaceStrip, TreeChange } from '../places/index.ts';
import { SiteMap } from '../places/index.ts';
import { PlaceTree } from '../places/index.ts';
import { Twins } from '../assets/index.ts';

const VIEWS = [
  ['assets', 'Assets'],
  ['map', 'Map of sites'],
  ['customer', 'Contacts and terms'],
  ['twins', 'Possible twins'],
] as const;
type View = (typeof VIEWS)[number][0];

function Places({
  customer,
  chosen,
  choose,
}: {
  customer: string;
  chosen: number | null;
  choose: (id: number | null) => void;
}) {
  const reader = useReader();
  const query = placesApi.useReadTreeQuery({ params: { id: customer } });
  const [moving, setMoving] = useState<{ node: TreeNode; to: number } | null>(null);
  const [adding, setAdding] = useState(false);
  const [retired, setRetired] = useState(false);
  const may = reader.may(addLocation);
  return (
    <Waiting query={{ ...query, data: query.currentData }}>
      {({ nodes, withoutPlace, customer: owner }) => {
        const total = nodes.reduce((n, node) => n + node.assets, 0) + withoutPlace;
        const hidden = nodes.filter((n) => n.retiredOn !== null).length;
        return (
          <>
            <button
              className={`flex w-full justify-between px-2 py-0.5 hover:bg-base-300 ${chosen === null ? 'bg-base-300 font-semibold' : ''}`}
              onClick={() => choose(null)}
            >
              <span className="truncate">All of {owner.name}</span>
              <span className="quiet tabular-nums">{total}</span>
            </button>
            {nodes.length === 0 ? (
              <p className="quiet p-2">No place yet: add a site, or import a file.</p>
            ) : (
              <PlaceTree
                name={owner.name}
                nodes={retired ? nodes : nodes.filter((n) => n.retiredOn === null)}
                chosen={chosen}
                choose={choose}
                mayMove={may}
                onMove={(node, to) => setMoving({ node, to: to.id })}
              />
            )}
            {withoutPlace > 0 && <p className="quiet px-2 pt-1">{plural(withoutPlace, 'asset')} without a place</p>}
            {hidden > 0 && (
              <button className="quiet link-ink px-2 pt-1" onClick={() => setRetired(!retired)}>
                {retired ? 'Hide retired places' : `Show ${plural(hidden, 'retired place')}`}
              </button>
            )}
            {may && (
              <p className="px-2 pt-2">
                <button className="quiet link-ink" onClick={() => setAdding(true)}>
                  Add a site…
                </button>
              </p>
            )}
            {may && nodes.length > 1 && <p className="quiet px-2 pt-2">Drag a place onto another to move it there.</p>}
            {adding && <PlaceForm node={null} parent={null} customerId={owner.id} onClose={() => setAdding(false)} />}
            {moving && (
              <TreeChange kind="move" node={moving.node} nodes={nodes} to={moving.to} onClose={() => setMoving(null)} />
            )}
          </>
        );
      }}
    </Waiting>
  );
}

function Assets({
  filter,
  setSearch,
  clear,
}: {
  filter: AssetListFilter;
  setSearch: (s: string) => void;
  clear: () => void;
}) {
  const navigate = useNavigate();
  const reader = useReader();
  const [chosen, setChosen] = useState(0);
  const [ticked, setTicked] = useState<ReadonlySet<number>>(new Set());
  const [floating, setFloating] = useState<'bulk' | 'add' | null>(null);
  const [said, setSaid] = useState<string | null>(null);
  const first = usePiece(filter, 0);
  const atChosen = usePiece(filter, chosen);
  const tree = placesApi.useReadTreeQuery({ params: { id: filter.customer ?? '' } }, { skip: !filter.customer });
  const total = first.data?.total ?? 0;
  useListKeys(total, chosen, setChosen, () => atChosen.row && void navigate(`/assets/${atChosen.row.id}`));
  const may = reader.may(changeMany);
  const nodes = tree.currentData?.nodes ?? [];
  const strip = filter.customer && filter.location;
  const exported = new URLSearchParams(filter).toString();
  return (
    <section aria-label="Assets">
      {strip && nodes.length > 0 && (
        <PlaceStrip
          key={filter.location}
          id={Number(filter.location)}
          nodes={nodes}
          customerId={Number(filter.customer)}
        />
      )}
      <div className="flex flex-wrap items-end gap-x-4 gap-y-1 py-2">
        <div className="w-60">
          <TextField label="Tag, serial or model" value={filter.search ?? ''} onChange={setSearch} />
        </div>
        <p className="quiet pb-1.5">{first.data ? plural(total, 'asset') : ''}</p>
        <div className="ml-auto flex items-center gap-3 pb-0.5">
          {ticked.size > 0 && (
            <>
              <button className="act-main" onClick={() => setFloating('bulk')}>
                Change {plural(ticked.size, 'ticked asset')}…
              </button>
              <button className="quiet link-ink" onClick={() => setTicked(new Set())}>
                untick
              </button>
            </>
          )}
          {may && filter.customer && (
            <button className="act" onClick={() => setFloating('add')}>
              Register an asset…
            </button>
          )}
          <a className="link-ink" href={`/api/assets.csv?${exported}`} download>
            CSV
          </a>
          {filter.customer && (
            <a
              className="link-ink"
              target="_blank"
              rel="noreferrer"
              href={`/api/labels.pdf?${ticked.size > 0 ? `ids=${[...ticked].slice(0, 500).join(',')}` : exported}`}
            >
              Labels
            </a>
          )}
        </div>
      </div>
      {said && (
        <p role="status" className="pb-1">
          {said}
        </p>
      )}
      <Waiting query={first}>
        {(page) =>
          page.total === 0 ? (
            <p className="border-y border-hairline py-6">
              {filter.search || filter.location || filter.customer ? (
                <>
                  No asset fits this filter.{' '}
                  <button className="link-ink" onClick={clear}>
                    Lift the filter
                  </button>
                </>
              ) : (
                <>
                  The register is empty.{' '}
                  <Link className="link-ink" to="/register/import">
                    Import a register file
                  </Link>{' '}
                  to begin.
                </>
              )}
            </p>
          ) : (
            <AssetTable
              key={exported}
              count={page.total}
              filter={filter}
              span={page}
              chosen={chosen}
              choose={setChosen}
              height={strip ? 'calc(100vh - 21rem)' : 'calc(100vh - 12.5rem)'}
              {...(may && {
                ticked,
                tick: (id: number) =>
                  setTicked((old) => new Set(old.has(id) ? [...old].filter((x) => x !== id) : [...old, id])),
              })}
            />
          )
        }
      </Waiting>
      {floating === 'bulk' && (
        <BulkDialog
          ids={[...ticked]}
          nodes={nodes}
          onClose={() => setFloating(null)}
          onDone={(effect) => {
            setFloating(null);
            setTicked(new Set());
            setSaid(
              `${plural(effect.will, 'asset')} changed${effect.refused.length > 0 ? `, ${effect.refused.length} refused` : ''}.`,
            );
          }}
        />
      )}
      {floating === 'add' && (
        <AssetForm
          customerId={Number(filter.customer)}
          locationId={filter.location ? Number(filter.location) : null}
          nodes={nodes}
          onClose={() => setFloating(null)}
        />
      )}
    </section>
  );
}

function Customers({ choose }: { choose: (id: number) => void }) {
  const reader = useReader();
  const [search, setSearch] = useState('');
  const [adding, setAdding] = useState(false);
  const query = customersApi.useListCustomersQuery({ query: search ? { search } : {} });
  return (
    <>
      <div className="px-2 pb-2">
        <TextField label="Customer" value={search} onChange={setSearch} />
      </div>
      <Waiting query={query}>
        {(page) => (
          <>
            <ul>
              {page.items.map((c) => (
                <li key={c.id}>
                  <button
                    className="flex w-full justify-between gap-2 px-2 py-0.5 text-left hover:bg-base-300"
                    onClick={() => choose(c.id)}
                  >
                    <span className="truncate">
                      {c.name}
                      {c.overSince && (
                        <span className="quiet" title="over its credit terms">
                          {' '}
                          ✕ credit
                        </span>
                      )}
                    </span>
                    <span className="quiet tabular-nums">{c.assets}</span>
                  </button>
                </li>
              ))}
            </ul>
            {page.items.length === 0 && <p className="quiet px-2">No customer of that name.</p>}
            {page.next && <p className="quiet px-2 pt-1">The first 200; type a part of the name for others.</p>}
          </>
        )}
      </Waiting>
      <p className="flex gap-4 px-2 pt-2">
        {reader.may(addCustomer) && (
          <button className="quiet link-ink" onClick={() => setAdding(true)}>
            Add a customer…
          </button>
        )}
        {reader.may(customersCsv) && (
          <a
            className="quiet link-ink"
            href={`/api/customers.csv${search ? `?search=${encodeURIComponent(search)}` : ''}`}
            download
          >
            CSV
          </a>
        )}
      </p>
      {adding && <CustomerForm customer={null} onClose={() => setAdding(false)} onAdded={choose} />}
    </>
  );
}

export function RegisterRoom() {
  const reader = useReader();
  const [params, setParams] = useSearchParams();
  const customer = params.get('customer') ?? '';
  const location = Number(params.get('location')) || null;
  const view: View = customer ? (VIEWS.find(([v]) => v === params.get('view'))?.[0] ?? 'assets') : 'assets';
  const set = (changes: Record<string, string | null>): void =>
    setParams(
      (old) => {
        for (const [key, value] of Object.entries(changes))
          if (value) old.set(key, value);
          else old.delete(key);
        return old;
      },
      { replace: true },
    );
  const search = params.get('search') ?? '';
  const filter: AssetListFilter = {
    ...(customer && { customer }),
    ...(location && { location: String(location) }),
    ...(search && { search }),
  };
  const shown = (
    <>
      {view === 'assets' && (
        <Assets
          key={`${customer}/${location}`}
          filter={filter}
          setSearch={(s) => set({ search: s })}
          clear={() => setParams({})}
        />
      )}
      {view === 'map' && (
        <SiteMap customer={customer} choosePlace={(id) => set({ location: String(id), view: null })} />
      )}
      {view === 'customer' && <CustomerView id={customer} />}
      {view === 'twins' && <Twins customer={customer} />}
    </>
  );
  return (
    <div className="panes">
      <section aria-label="Customers and places" className="pane w-[236px] border-r">
        <header className="px-3 pt-5 pb-2">
          <h1>Register</h1>
          <p className="flex flex-wrap gap-x-4 text-[0.93rem]">
            {reader.may(beginImport) && (
              <Link className="link-ink" to="/register/import">
                Import a file
              </Link>
            )}
            <Link className="link-ink" to="/register/history">
              Past work
            </Link>
          </p>
        </header>
        <div className="flex-1 overflow-y-auto border-t border-hairline px-1 py-2 text-[0.95rem]">
          {customer ? (
            <>
              <button
                className="quiet link-ink px-2 pb-1"
                onClick={() => set({ customer: null, location: null, view: null })}
              >
                All customers
              </button>
              <Places
                key={customer}
                customer={customer}
                chosen={location}
                choose={(id) => set({ location: id === null ? null : String(id), view: null })}
              />
            </>
          ) : (
            <Customers choose={(id) => set({ customer: String(id), location: null })} />
          )}
        </div>
      </section>
      <div className="min-w-0 flex-1 px-5 pt-4">
        {customer ? (
          <Tabs
            label="Views of the customer"
            tabs={VIEWS.filter(([v]) => v !== 'twins' || reader.may(listTwins))}
            chosen={view}
            onChoose={(v) => set({ view: v === 'assets' ? null : v })}
            className="mb-2"
          >
            {shown}
          </Tabs>
        ) : (
          shown
        )}
      </div>
    </div>
  );
}
