// Assets that may be one machine registered twice; merging keeps one and gives it the other's past.
import { useState } from 'react';
import { Link } from 'react-router';
import { asId, type AssetId } from '#core/ids.ts';
import { Listing } from '../parts/listing.tsx';
import { useSubmit } from '../parts/fields.tsx';
import { plural } from '../parts/words.ts';
import { assetsApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';

export function Twins({ customer }: { customer: string }) {
  const query = assetsApi.useListTwinsQuery({ query: { customer } });
  const [merge, { isLoading }] = assetsApi.useMergeAssetsMutation();
  const [said, setSaid] = useState<string | null>(null);
  const { errors, submit } = useSubmit([]);
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
            <Listing name="twins">
              <table className="dense">
                <thead>
                  <tr>
                    <th>One</th>
                    <th>The other</th>
                    <th>Why</th>
                    <th>Keep</th>
                  </tr>
                </thead>
                <tbody>
                  {items.map(({ a, b, because, sameCustomer }) => (
                    <tr key={`${a.id}/${b.id}`}>
                      {[a, b].map((x) => (
                        <td key={x.id}>
                          <Link className="serial link-ink" to={`/assets/${x.id}`}>
                            {x.tag}
                          </Link>{' '}
                          {x.maker} {x.model}
                          <br />
                          <span className="serial">{x.serial}</span>{' '}
                          <span className="quiet">
                            {x.place}, {plural(x.orders, 'order')}
                          </span>
                        </td>
                      ))}
                      <td>{because}</td>
                      <td>
                        {sameCustomer ? (
                          <span className="flex gap-2">
                            {[
                              [a, b],
                              [b, a],
                            ].map(([kept, gone]) => (
                              <button
                                key={kept?.id}
                                className="act"
                                disabled={isLoading}
                                onClick={() =>
                                  kept &&
                                  gone &&
                                  void submit(
                                    merge({ body: { keptId: asId<AssetId>(kept.id), goneId: asId<AssetId>(gone.id) } }),
                                  ).then(
                                    (done) =>
                                      done && setSaid(`${gone.tag} is merged into ${kept.tag}; its past is there now.`),
                                  )
                                }
                              >
                                {kept?.tag}
                              </button>
                            ))}
                          </span>
                        ) : (
                          <span className="quiet">Two customers: not merged</span>
                        )}
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </Listing>
          )}
        </section>
      )}
    </Waiting>
  );
}
