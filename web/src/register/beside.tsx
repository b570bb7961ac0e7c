// What stands beside the register: customers, and the places of the one that is chosen.
import { useState } from 'react';
import { addCustomer, customersCsv } from '#api/customers.ts';
import { addLocation } from '#api/places.ts';
import type { TreeNode } from '#api/places.ts';
import { TextField } from '../parts/fields.tsx';
import { plural } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { customersApi } from '../customers/index.ts';
import { placesApi } from '../places/index.ts';
import { Waiting } from '../shell/waiting.tsx';
import { CustomerForm } from '../customers/index.ts';
import { PlaceForm, TreeChange } from '../places/index.ts';
import { PlaceTree } from '../places/index.ts';

export function Places({
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

export function Customers({ choose }: { choose: (id: number) => void }) {
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
