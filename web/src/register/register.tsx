// The register: a customer's places on the left; its assets with their threads, sites, contacts and possible twins on the right.
import { Link, useSearchParams } from 'react-router';
import { beginImport } from '#api/imports.ts';
import { listTwins } from '#api/assets.ts';
import { ASSET_SORTS } from '#api/register.ts';
import { readSort, sortText } from '../parts/table/index.ts';
import { Tabs } from '../parts/tabs.tsx';
import { useReader } from '../shell/reader.tsx';
import { type AssetListFilter } from '../assets/index.ts';
import { CustomerView } from '../customers/index.ts';
import { SiteMap } from '../places/index.ts';
import { Assets } from './assets.tsx';
import { Customers, Places } from './beside.tsx';
import { Twins } from '../assets/index.ts';

const VIEWS = [
  ['assets', 'Assets'],
  ['map', 'Map of sites'],
  ['customer', 'Contacts and terms'],
  ['twins', 'Possible twins'],
] as const;
type View = (typeof VIEWS)[number][0];

/** Where one is: a customer's places, or the customers. */
function Beside({
  customer,
  location,
  set,
}: {
  customer: string;
  location: number | null;
  set: (changes: Record<string, string | null>) => void;
}) {
  const reader = useReader();
  return (
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
          sorting={{ sort: readSort(params.get('sort'), ASSET_SORTS), onSort: (sort) => set({ sort: sortText(sort) }) }}
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
      <Beside customer={customer} location={location} set={set} />
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
