// Sites by position: no map behind them, only rings of distance round the chosen one, so that near and far are read at once.
import { useState } from 'react';
import { geoAzimuthalEquidistant } from 'd3-geo';
import type { SiteOut } from '#api/places.ts';
import { distanceKm, EARTH_KM } from '#core/places/index.ts';
import { plural } from '../parts/words.ts';
import { placesApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';

const SIZE = { width: 640, height: 520, margin: 46 };

/** Ring distances in kilometres that fit: 1, 2 or 5 times a power of ten. */
export function ringsFor(farthest: number): number[] {
  if (farthest <= 0) return [1];
  const power = 10 ** Math.floor(Math.log10(farthest));
  const step = farthest / power >= 5 ? 2 * power : farthest / power >= 2 ? power : power / 2;
  return Array.from({ length: Math.ceil(farthest / step) }, (_, i) => (i + 1) * step);
}

const sayKm = (km: number): string => `${km < 10 ? km.toFixed(1).replace(/\.0$/, '') : Math.round(km)} km`;

function Rings({
  sites,
  centre,
  choose,
}: {
  sites: readonly SiteOut[];
  centre: SiteOut;
  choose: (id: number) => void;
}) {
  const farthest = Math.max(0.5, ...sites.map((s) => distanceKm(centre, s)));
  const rings = ringsFor(farthest);
  const outer = rings[rings.length - 1] ?? 1;
  const scale = (Math.min(SIZE.width, SIZE.height) / 2 - SIZE.margin) / outer;
  const project = geoAzimuthalEquidistant()
    .rotate([-centre.longitude, -centre.latitude])
    .scale(scale * EARTH_KM)
    .translate([SIZE.width / 2, SIZE.height / 2]);
  // Labels that would lie on one another step down.
  const taken: [number, number][] = [];
  return (
    <svg
      viewBox={`0 0 ${SIZE.width} ${SIZE.height}`}
      className="sheet h-[520px] w-full max-w-[720px]"
      role="img"
      aria-label={`Sites around ${centre.name}`}
    >
      {rings.map((km) => (
        <g key={km}>
          <circle cx={SIZE.width / 2} cy={SIZE.height / 2} r={km * scale} fill="none" stroke="var(--hairline)" />
          <text x={SIZE.width / 2 + 4} y={SIZE.height / 2 - km * scale + 12} fontSize="11" fill="var(--ink2)">
            {sayKm(km)}
          </text>
        </g>
      ))}
      <text x={SIZE.width / 2} y="14" fontSize="11" textAnchor="middle" fill="var(--ink2)">
        north
      </text>
      {sites.map((s) => {
        const [x, y] = project([s.longitude, s.latitude]) ?? [0, 0];
        let lift = 4;
        while (taken.some(([tx, ty]) => Math.abs(tx - x) < 120 && Math.abs(ty - (y + lift)) < 13)) lift += 14;
        taken.push([x, y + lift]);
        const isCentre = s.id === centre.id;
        return (
          <g key={s.id} className="cursor-pointer" onClick={() => choose(s.id)}>
            <title>{`${s.name}: ${plural(s.assets, 'asset')}, ${sayKm(distanceKm(centre, s))} away`}</title>
            <circle
              cx={x}
              cy={y}
              r={4 + Math.min(8, Math.sqrt(s.assets))}
              fill={isCentre ? 'currentColor' : 'var(--color-base-100)'}
              stroke="currentColor"
              strokeWidth="1.5"
            />
            <text
              x={x + 12}
              y={y + lift}
              fontSize="12"
              fill="currentColor"
              stroke="var(--color-base-100)"
              strokeWidth="3"
              paintOrder="stroke"
              fontWeight={isCentre ? 600 : 400}
            >
              {s.name.split(' > ').pop()} {s.assets > 0 ? s.assets : ''}
            </text>
          </g>
        );
      })}
    </svg>
  );
}

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
              <Rings sites={items} centre={centre} choose={setChosen} />
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
