// Assets that may be one machine registered twice; merging keeps one and gives it the other's past.
import type { listTwins } from '#api/assets.ts';
import type { Answer } from '#api/contract.ts';
import { useState } from 'react';
import { Link } from 'react-router';
import { asId, type AssetId } from '#core/ids.ts';
import { Table, type Column } from '../parts/table/index.ts';
import { useSubmit } from '../parts/fields.tsx';
import { plural } from '../parts/words.ts';
import { assetsApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';

type Pair = Answer<typeof listTwins>['items'][number];

function Machine({ of: x }: { of: Pair['a'] }) {
  return (
    <>
      <Link className="serial link-ink" to={`/assets/${x.id}`}>
        {x.tag}
      </Link>{' '}
      {x.maker} {x.model}
      <br />
      <span className="serial">{x.serial}</span>{' '}
      <span className="quiet">
        {x.place}, {plural(x.orders, 'order')}
      </span>
    </>
  );
}

export function Twins({ customer }: { customer: string }) {
  const query = assetsApi.useListTwinsQuery({ query: { customer } });
  const [merge, { isLoading }] = assetsApi.useMergeAssetsMutation();
  const [said, setSaid] = useState<string | null>(null);
  const { errors, submit } = useSubmit([]);
  const keep = async (kept: Pair['a'], gone: Pair['a']): Promise<void> => {
    const body = { keptId: asId<AssetId>(kept.id), goneId: asId<AssetId>(gone.id) };
    if (await submit(merge({ body }))) setSaid(`${gone.tag} is merged into ${kept.tag}; its past is there now.`);
  };
  const columns: Column<Pair>[] = [
    { id: 'one', head: 'One', value: ({ a }) => a.tag, show: ({ a }) => <Machine of={a} /> },
    { id: 'other', head: 'The other', value: ({ b }) => b.tag, show: ({ b }) => <Machine of={b} /> },
    { id: 'why', head: 'Why', value: (p) => p.because },
    {
      id: 'keep',
      head: 'Keep',
      show: ({ a, b, sameCustomer }) =>
        sameCustomer ? (
          <span className="flex gap-2">
            <button className="act" disabled={isLoading} onClick={() => void keep(a, b)}>
              {a.tag}
            </button>
            <button className="act" disabled={isLoading} onClick={() => void keep(b, a)}>
              {b.tag}
            </button>
          </span>
        ) : (
          <span className="quiet">Two customers: not merged</span>
        ),
    },
  ];
  return (
    <Waiting query={{ ...query, data: query.currentData }}>
      {({ items }) => (
        <section aria-label="Possible twins">
          {said && <p role="status">{said}</p>}
          {errors.problem && (
            <p role="alert" className="text-missed">
              ✕ {errors.problem.detail}
            </p>
          )}
          {items.length === 0 ? (
            <p className="border-y border-hairline py-6">
              No two of this customer’s assets look like one machine registered twice.
            </p>
          ) : (
            <Table
              name="twins"
              caption="Possible twins"
              columns={columns}
              rows={items}
              idOf={({ a, b }) => `${a.id}/${b.id}`}
            />
          )}
        </section>
      )}
    </Waiting>
  );
}
