// The register: a customer's places on the left, its assets with their threads on the right.
import { useMemo, useRef, useState } from 'react';
import { useVirtualizer } from '@tanstack/react-virtual';
import { Link, useNavigate, useSearchParams } from 'react-router';
import type { AssetRow, TreeNode } from '#api/register.ts';
import { TextField, useSubmit } from '../parts/fields.tsx';
import { Form } from '../parts/form.tsx';
import { RibbonAxis, RibbonLine, type RibbonSpan } from '../parts/ribbon.tsx';
import { plural } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useListKeys } from '../shell/keys.ts';
import { useReader, WRITERS } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { Waiting } from '../shell/waiting.tsx';

/** Nodes below which the customer has assets, counted with everything under them. */
export function subtreeCounts(nodes: readonly TreeNode[]): Map<number, number> {
  const counts = new Map(nodes.map((n) => [n.id, n.assets]));
  const byId = new Map(nodes.map((n) => [n.id, n]));
  for (const node of nodes) {
    for (let up = node.parentId; up !== null; up = byId.get(up)?.parentId ?? null)
      counts.set(up, (counts.get(up) ?? 0) + node.assets);
  }
  return counts;
}

function TreeLevel({
  nodes,
  parentId,
  depth,
  counts,
  chosen,
  choose,
  open,
  toggle,
}: {
  nodes: readonly TreeNode[];
  parentId: number | null;
  depth: number;
  counts: Map<number, number>;
  chosen: number | null;
  choose: (id: number) => void;
  open: ReadonlySet<number>;
  toggle: (id: number) => void;
}) {
  return nodes
    .filter((n) => n.parentId === parentId)
    .map((node) => {
      const inner = nodes.some((n) => n.parentId === node.id);
      const isOpen = open.has(node.id);
      return (
        <li key={node.id} role="treeitem" aria-expanded={inner ? isOpen : undefined} aria-selected={chosen === node.id}>
          <div
            className={`flex items-center hover:bg-base-300 ${chosen === node.id ? 'bg-base-300 font-semibold' : ''}`}
            style={{ paddingLeft: depth * 14 + 4 }}
          >
            {inner ? (
              <button
                className="w-5 text-ink2"
                aria-label={`${isOpen ? 'Fold' : 'Unfold'} ${node.name}`}
                onClick={() => toggle(node.id)}
              >
                {isOpen ? '▾' : '▸'}
              </button>
            ) : (
              <span className="w-5" />
            )}
            <button className="flex flex-1 justify-between gap-2 py-0.5 pr-2 text-left" onClick={() => choose(node.id)}>
              <span>{node.name}</span>
              <span className="quiet tabular-nums">{counts.get(node.id) || ''}</span>
            </button>
          </div>
          {inner && isOpen && (
            <ul role="group">
              <TreeLevel {...{ nodes, counts, chosen, choose, open, toggle }} parentId={node.id} depth={depth + 1} />
            </ul>
          )}
        </li>
      );
    });
}

function EditPlace({ node, onClose }: { node: TreeNode; onClose: () => void }) {
  const [name, setName] = useState(node.name);
  const [address, setAddress] = useState(node.address ?? '');
  const [zone, setZone] = useState(node.zone ?? '');
  const [change, { isLoading }] = server.useChangeLocationMutation();
  const { errors, submit } = useSubmit(['name', 'address', 'zone']);
  return (
    <Dialog title="Change the place" onClose={onClose}>
      <Form
        name="Change the place"
        save="Save the place"
        onSave={() =>
          submit(
            change({
              params: { id: String(node.id) },
              body: { version: node.version, name, address: address || null, zone: zone || null },
            }),
          ).then((done) => done && onClose())
        }
        onCancel={onClose}
        errors={errors}
        disabled={isLoading}
      >
        <h1>{node.name}</h1>
        <TextField label="Name" value={name} onChange={setName} error={errors.of('name')} />
        <TextField
          label="Address"
          value={address}
          onChange={setAddress}
          error={errors.of('address')}
          hint="Empty: taken from the place above."
        />
        <TextField
          label="Time zone"
          value={zone}
          onChange={setZone}
          error={errors.of('zone')}
          hint="Such as Europe/Lisbon. Empty: taken from the place above."
        />
      </Form>
    </Dialog>
  );
}

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
  const query = server.useReadTreeQuery({ params: { id: customer } });
  const [folded, setFolded] = useState<ReadonlySet<number>>(new Set());
  const [editing, setEditing] = useState<TreeNode | null>(null);
  return (
    <Waiting query={{ ...query, data: query.currentData }}>
      {({ nodes, withoutPlace, customer: owner }) => {
        const counts = subtreeCounts(nodes);
        const total = nodes.reduce((n, node) => n + node.assets, 0) + withoutPlace;
        const byDepth = new Set(nodes.filter((n) => n.parentId === null || nodes.length < 60).map((n) => n.id));
        const open = new Set(
          [...byDepth].filter((id) => !folded.has(id)).concat([...folded].filter((id) => !byDepth.has(id))),
        );
        const toggle = (id: number): void =>
          setFolded((old) => new Set(old.has(id) ? [...old].filter((x) => x !== id) : [...old, id]));
        const node = nodes.find((n) => n.id === chosen);
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
              <p className="quiet p-2">No place yet: an import or an asset makes them.</p>
            ) : (
              <ul role="tree" aria-label={`Places of ${owner.name}`}>
                <TreeLevel nodes={nodes} parentId={null} depth={0} {...{ counts, chosen, choose, open, toggle }} />
              </ul>
            )}
            {withoutPlace > 0 && <p className="quiet px-2 pt-1">{plural(withoutPlace, 'asset')} without a place</p>}
            {node && (
              <div className="mt-3 border-t border-hairline px-2 pt-2 text-[0.9rem]">
                <p className="quiet">Address</p>
                <p>{node.address ?? 'from the place above'}</p>
                <p className="quiet pt-1">Time zone</p>
                <p>{node.zone ?? 'from the place above'}</p>
                {reader.may(...WRITERS) && (
                  <button className="act mt-2" onClick={() => setEditing(node)}>
                    Change the place…
                  </button>
                )}
              </div>
            )}
            {editing && <EditPlace node={editing} onClose={() => setEditing(null)} />}
          </>
        );
      }}
    </Waiting>
  );
}

export function CoverWord({ text }: { text: string }) {
  return text.startsWith('no cover') ? <span>○ {text}</span> : <span>● {text}</span>;
}

/** Rows drawn only where they are seen, so that long lists scroll smoothly. */
export function AssetTable({
  rows,
  span,
  chosen,
  choose,
  height,
}: {
  rows: readonly AssetRow[];
  span: RibbonSpan;
  chosen: number;
  choose: (i: number) => void;
  height?: string;
}) {
  const navigate = useNavigate();
  const scroller = useRef<HTMLDivElement>(null);
  // The library keeps its own state; the compiler rule does not apply here.
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => 47,
    overscan: 10,
  });
  const columns =
    'grid grid-cols-[minmax(11rem,1.1fr)_minmax(10rem,1fr)_minmax(9rem,0.9fr)_minmax(16rem,2.2fr)] gap-x-3 px-2';
  return (
    <div role="table" aria-label="Assets" aria-rowcount={rows.length + 1}>
      <div
        role="row"
        className={`${columns} items-end border-b border-secondary pb-1 text-[0.87rem] font-semibold text-ink2`}
      >
        <span role="columnheader">Asset</span>
        <span role="columnheader">Place</span>
        <span role="columnheader">Cover today</span>
        <span role="columnheader">
          <span className="sr-only">Time line</span>
          <RibbonAxis span={span} every={2} />
        </span>
      </div>
      <div
        ref={scroller}
        className="overflow-y-auto"
        style={{ maxHeight: height ?? 'calc(100vh - 10.5rem)' }}
        tabIndex={0}
        role="rowgroup"
      >
        <div style={{ height: virtual.getTotalSize(), position: 'relative' }} role="presentation">
          {virtual.getVirtualItems().map((item) => {
            const row = rows[item.index] as AssetRow;
            return (
              <div
                key={row.id}
                role="row"
                aria-rowindex={item.index + 2}
                ref={virtual.measureElement}
                data-index={item.index}
                className={`${columns} absolute w-full cursor-pointer items-center border-b border-hairline py-1 ${item.index === chosen ? 'bg-base-100 outline outline-1 -outline-offset-1 outline-base-content' : 'hover:bg-base-300/60'}`}
                style={{ transform: `translateY(${item.start}px)` }}
                onClick={() => choose(item.index)}
                onDoubleClick={() => void navigate(`/assets/${row.id}`)}
              >
                <span role="cell" className="min-w-0 leading-tight">
                  <Link className="serial link-ink font-semibold" to={`/assets/${row.id}`}>
                    {row.tag}
                  </Link>{' '}
                  <span className="quiet">{row.state === 'in service' ? '' : row.state}</span>
                  <br />
                  <span className="block truncate" title={`${row.className}, ${row.maker} ${row.model}, ${row.serial}`}>
                    {row.className} <span className="quiet">{row.model}</span>
                  </span>
                </span>
                <span role="cell" className="min-w-0 text-[0.9rem] leading-tight">
                  <span className="line-clamp-2" title={row.place}>
                    {row.place.split(' · ').slice(-3).join(' · ')}
                  </span>
                </span>
                <span role="cell" className="min-w-0 text-[0.9rem] leading-tight">
                  <span className="line-clamp-2" title={row.coverNow}>
                    <CoverWord text={row.coverNow} />
                  </span>
                </span>
                <span role="cell">
                  <RibbonLine ribbon={row.ribbon} span={span} size="thread" />
                </span>
              </div>
            );
          })}
        </div>
      </div>
    </div>
  );
}

function Assets({
  customer,
  location,
  search,
  setSearch,
  clear,
}: {
  customer: string;
  location: number | null;
  search: string;
  setSearch: (s: string) => void;
  clear: () => void;
}) {
  const navigate = useNavigate();
  const key = `${customer}/${location}/${search}`;
  const [paging, setPaging] = useState<{ key: string; after: string[] }>({ key, after: [] });
  const pages = paging.key === key ? paging.after : [];
  const after = pages[pages.length - 1];
  const query = server.useListAssetsQuery({
    query: {
      limit: '200',
      ...(customer && { customer }),
      ...(location && { location: String(location) }),
      ...(search && { search }),
      ...(after && { after }),
    },
  });
  const rows = useMemo(() => query.data?.items ?? [], [query.data]);
  const [chosen, setChosen] = useState(0);
  useListKeys(rows.length, chosen, setChosen, (i) => rows[i] && void navigate(`/assets/${rows[i].id}`));
  return (
    <section className="min-w-0 flex-1 px-5 pt-5" aria-label="Assets">
      <div className="flex items-end gap-4 pb-2">
        <div className="w-64">
          <TextField label="Tag, serial or model" value={search} onChange={setSearch} />
        </div>
        <p className="quiet pb-1.5">{query.data ? plural(query.data.total, 'asset') : ''}</p>
        <div className="ml-auto flex gap-2">
          {pages.length > 0 && (
            <button className="act" onClick={() => setPaging({ key, after: pages.slice(0, -1) })}>
              Previous 200
            </button>
          )}
          {query.data?.next && (
            <button className="act" onClick={() => setPaging({ key, after: [...pages, query.data?.next ?? ''] })}>
              Next 200
            </button>
          )}
        </div>
      </div>
      <Waiting query={query}>
        {(page) =>
          page.items.length === 0 ? (
            <p className="border-y border-hairline py-6">
              {search || location || customer ? (
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
            <AssetTable rows={page.items} span={page} chosen={chosen} choose={setChosen} />
          )
        }
      </Waiting>
    </section>
  );
}

export function RegisterRoom() {
  const reader = useReader();
  const [params, setParams] = useSearchParams();
  const customers = server.useListCustomersQuery({ query: {} });
  const customer = params.get('customer') ?? '';
  const location = Number(params.get('location')) || null;
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
  return (
    <div className="flex min-h-screen">
      <section
        aria-label="Customers and places"
        className="sticky top-0 flex h-screen w-[236px] shrink-0 flex-col border-r border-hairline"
      >
        <header className="px-3 pt-5 pb-2">
          <h1>Register</h1>
          {reader.may(...WRITERS) && (
            <Link className="link-ink text-[0.93rem]" to="/register/import">
              Import a register file
            </Link>
          )}
        </header>
        <div className="flex-1 overflow-y-auto border-t border-hairline px-1 py-2 text-[0.95rem]">
          {customer ? (
            <>
              <button className="quiet link-ink px-2 pb-1" onClick={() => set({ customer: null, location: null })}>
                All customers
              </button>
              <Places
                customer={customer}
                chosen={location}
                choose={(id) => set({ location: id === null ? null : String(id) })}
              />
            </>
          ) : (
            <Waiting query={customers}>
              {(page) => (
                <ul>
                  {page.items.map((c) => (
                    <li key={c.id}>
                      <button
                        className="flex w-full justify-between gap-2 px-2 py-0.5 text-left hover:bg-base-300"
                        onClick={() => set({ customer: String(c.id), location: null })}
                      >
                        <span className="truncate">{c.name}</span>
                        <span className="quiet tabular-nums">{c.assets}</span>
                      </button>
                    </li>
                  ))}
                </ul>
              )}
            </Waiting>
          )}
        </div>
      </section>
      <Assets
        customer={customer}
        location={location}
        search={params.get('search') ?? ''}
        setSearch={(s) => set({ search: s })}
        clear={() => setParams({})}
      />
    </div>
  );
}
