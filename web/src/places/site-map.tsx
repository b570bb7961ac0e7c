// Sites by position: no map behind them, only rings of distance round the chosen one, so that near and far are read at once.
import { useState } from 'react';
import type { SiteOut } from '#api/places.ts';
import { distanceKm } from '#core/places/index.ts';
import { Rings, sayKm, type Spotted } from '../parts/rings.tsx';
import { plural } from '../parts/words.ts';
import { placesApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';

const spotOf = (s: SiteOut, centre: SiteOut): Spotted => ({
  ...{ key: String(s.id), latitude: s.latitude, longitude: s.longitude, radius: 4 + Math.min(8, Math.sqrt(s.assets)) },
  name: `${s.name.split(' > ').pop()} ${s.assets > 0 ? s.assets : ''}`,
  says: `${s.name}: ${plural(s.assets, 'asset')}, ${sayKm(distanceKm(centre, s))} away`,
  ...{ isFilled: s.id === centre.id, isStrong: s.id === centre.id },
});

export function SiteMap({ customer, choosePlace }: { customer: string; choosePlace: (id: number) => void }) {
  const query = placesApi.useListSitesQuery({ params: { id: customer } });
  const [chosen, setChosen] = useState<number | null>(null);
  return (
    <Waiting query={{ ...query, data: query.currentData }}>
      {({ items, without }) => {
        const centre = items.find((s) => s.id === chosen) ?? [...items].sort((a, b) => b.assets - a.assets)[0];
        if (!centre)
          return (
            <p className="border-y border-hairline py-6">
              No place has a position yet. Give a site its latitude and longitude under “Change the place”.
            </p>
          );
        const near = [...items].map((s) => ({ ...s, km: distanceKm(centre, s) })).sort((a, b) => a.km - b.km);
        return (
          <section aria-label="Map of sites" className="flex flex-wrap gap-6">
            <div className="min-w-[420px] flex-1">
              <Rings
                spots={items.map((s) => spotOf(s, centre))}
                centre={centre}
                label={`Sites around ${centre.name}`}
                choose={(key) => setChosen(Number(key))}
              />
            </div>
            <div className="w-72">
              <table className="dense">
                <thead>
                  <tr>
                    <th>Site</th>
                    <th className="num">Assets</th>
                    <th className="num">Distance</th>
                  </tr>
                </thead>
                <tbody>
                  {near.map((s) => (
                    <tr key={s.id} aria-selected={s.id === centre.id}>
                      <td>
                        <button
                          className="link-ink text-left"
                          onClick={() => (s.id === centre.id ? choosePlace(s.id) : setChosen(s.id))}
                        >
                          {s.name}
                        </button>
                      </td>
                      <td className="num">{s.assets}</td>
                      <td className="num">{s.id === centre.id ? 'centre' : sayKm(s.km)}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
              {without > 0 && <p className="quiet mt-2">{plural(without, 'site')} without a position.</p>}
              <p className="mt-2">
                <a className="link-ink" href={`/api/customers/${customer}/sites.geojson`} download>
                  GeoJSON
                </a>
              </p>
            </div>
          </section>
        );
      }}
    </Waiting>
  );
}
