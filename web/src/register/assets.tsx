// The assets of the register: searched, ticked, changed together, registered, printed as labels.
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { changeMany } from '#api/assets.ts';
import { ASSET_SORTS } from '#api/register.ts';
import type { TreeNode } from '#api/places.ts';
import { TextField } from '../parts/fields.tsx';
import { sortAsked, type Sort } from '../parts/table/index.ts';
import { plural } from '../parts/words.ts';
import { useListKeys } from '../shell/keys.ts';
import { useReader } from '../shell/reader.tsx';
import { placesApi } from '../places/index.ts';
import { Waiting } from '../shell/waiting.tsx';
import { AssetForm } from '../assets/index.ts';
import {
  AssetTable,
  useAssetTicks,
  usePiece,
  type AssetListFilter,
  type AssetTicks,
  type Sorting,
} from '../assets/index.ts';
import { BulkDialog } from '../assets/index.ts';
import { PlaceStrip } from '../places/index.ts';

function Toolbar({
  filter,
  sort,
  setSearch,
  total,
  ticks: { ticked, clear: untick },
  may,
  float,
}: {
  filter: AssetListFilter;
  sort: Sort | null;
  setSearch: (s: string) => void;
  total: number | null;
  ticks: Pick<AssetTicks, 'ticked' | 'clear'>;
  may: boolean;
  float: (what: 'bulk' | 'add') => void;
}) {
  const exported = new URLSearchParams(filter).toString();
  const file = new URLSearchParams({ ...filter, ...sortAsked(sort, ASSET_SORTS) }).toString();
  return (
    <div className="flex flex-wrap items-end gap-x-4 gap-y-1 py-2">
      <div className="w-60">
        <TextField label="Tag, serial or model" value={filter.search ?? ''} onChange={setSearch} />
      </div>
      <p className="quiet pb-1.5">{total === null ? '' : plural(total, 'asset')}</p>
      <div className="ml-auto flex items-center gap-3 pb-0.5">
        {ticked.size > 0 && (
          <>
            <button className="act-main" onClick={() => float('bulk')}>
              Change {plural(ticked.size, 'ticked asset')}…
            </button>
            <button className="quiet link-ink" onClick={untick}>
              untick
            </button>
          </>
        )}
        {may && filter.customer && (
          <button className="act" onClick={() => float('add')}>
            Register an asset…
          </button>
        )}
        <a className="link-ink" href={`/api/assets.csv?${file}`} download>
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
  );
}

function NoAsset({ isFiltered, clear }: { isFiltered: boolean; clear: () => void }) {
  return (
    <p className="border-y border-hairline py-6">
      {isFiltered ? (
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
  );
}

/** What floats over the list: the change of many, or a new asset. */
function Floating({
  what,
  filter,
  ids,
  nodes,
  onClose,
  onChanged,
}: {
  what: 'bulk' | 'add';
  filter: AssetListFilter;
  ids: readonly number[];
  nodes: readonly TreeNode[];
  onClose: () => void;
  onChanged: (text: string) => void;
}) {
  if (what === 'add')
    return (
      <AssetForm
        customerId={Number(filter.customer)}
        locationId={filter.location ? Number(filter.location) : null}
        nodes={nodes}
        onClose={onClose}
      />
    );
  return (
    <BulkDialog
      ids={ids}
      nodes={nodes}
      onClose={onClose}
      onDone={({ will, refused }) => {
        onClose();
        onChanged(`${plural(will, 'asset')} changed${refused.length > 0 ? `, ${refused.length} refused` : ''}.`);
      }}
    />
  );
}

const Said = ({ text }: { text: string }) => (
  <p role="status" className="pb-1">
    {text}
  </p>
);

export function Assets({
  filter,
  sorting,
  setSearch,
  clear,
}: {
  filter: AssetListFilter;
  sorting: Sorting;
  setSearch: (s: string) => void;
  clear: () => void;
}) {
  const navigate = useNavigate();
  const reader = useReader();
  const [chosen, setChosen] = useState(0);
  const ticks = useAssetTicks(filter, sorting.sort);
  const [floating, setFloating] = useState<'bulk' | 'add' | null>(null);
  const [said, setSaid] = useState<string | null>(null);
  const first = usePiece(filter, sorting.sort, 0);
  const atChosen = usePiece(filter, sorting.sort, chosen);
  const tree = placesApi.useReadTreeQuery({ params: { id: filter.customer ?? '' } }, { skip: !filter.customer });
  const total = first.data?.total ?? 0;
  useListKeys(total, chosen, setChosen, () => atChosen.row && void navigate(`/assets/${atChosen.row.id}`));
  const may = reader.may(changeMany);
  const nodes = tree.currentData?.nodes ?? [];
  const strip = filter.customer && filter.location;
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
      <Toolbar
        filter={filter}
        sort={sorting.sort}
        setSearch={setSearch}
        total={first.data ? total : null}
        ticks={ticks}
        may={may}
        float={setFloating}
      />
      {(said ?? ticks.refused) && <Said text={ticks.refused ? `✕ ${ticks.refused}` : (said ?? '')} />}
      <Waiting query={first}>
        {(page) =>
          page.total === 0 ? (
            <NoAsset isFiltered={Object.keys(filter).length > 0} clear={clear} />
          ) : (
            <AssetTable
              key={new URLSearchParams(filter).toString()}
              count={page.total}
              filter={filter}
              sorting={sorting}
              span={page}
              chosen={chosen}
              choose={setChosen}
              height={strip ? 'calc(100vh - 22.9rem)' : 'calc(100vh - 10rem)'}
              ticks={may ? ticks : undefined}
            />
          )
        }
      </Waiting>
      {floating && (
        <Floating
          what={floating}
          filter={filter}
          ids={[...ticks.ticked]}
          nodes={nodes}
          onClose={() => setFloating(null)}
          onChanged={(text) => {
            ticks.clear();
            setSaid(text);
          }}
        />
      )}
    </section>
  );
}
