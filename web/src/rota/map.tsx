// Loose work by position: how much of it there is at each site and how urgent, with where days begin and where people go today.
import { group } from 'd3-array';
import { Link, useSearchParams } from 'react-router';
import type { LooseOrder, Rota } from '#api/rota.ts';
import { distanceKm, type Position } from '#core/places/index.ts';
import { localDateAt, type Instant, type LocalDate, type Zone } from '#core/time/index.ts';
import { SelectField } from '../parts/fields.tsx';
import { Rings, sayKm, type Spotted } from '../parts/rings.tsx';
import { plural, sayMinutes, sayTime } from '../parts/words.ts';
import { setupApi } from '../setup/index.ts';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { Waiting } from '../shell/waiting.tsx';
import { rotaApi } from './endpoints.ts';
import { toneOf } from './loose.tsx';
import { areaOf, grouped } from './order-by.ts';
import { sayUrgency } from './unplanned.tsx';

const MOST = 200;

type Site = {
  readonly key: string;
  readonly name: string;
  readonly at: Position;
  readonly items: readonly LooseOrder[];
};

/** Sites with loose work, the most urgent first; and how much of it is at no known position. */
export function sitesOf(items: readonly LooseOrder[]): { sites: Site[]; unknown: readonly LooseOrder[] } {
  const [urgent] = grouped(items, 'margin');
  const all = urgent?.items ?? [];
  const sites = [
    ...group(
      all.filter((o) => o.spot.at),
      (o) => o.spot.key,
    ),
  ].map(([key, of]): Site => {
    const [first] = of as [LooseOrder];
    return { key, name: areaOf(first), at: first.spot.at as Position, items: of };
  });
  return { sites, unknown: all.filter((o) => !o.spot.at) };
}

function spotsOf(sites: readonly Site[], rota: Rota, chosen: string, zone: Zone): Spotted[] {
  const { now } = rota;
  const starts = [...new Map(rota.people.flatMap((p) => (p.start.at ? [[p.start.key, p]] : []))).values()];
  return [
    ...starts.map((p): Spotted => ({
      ...{ ...(p.start.at as Position), key: p.start.key, radius: 5, isSquare: true, isStrong: chosen === p.start.key },
      name: p.start.key.startsWith('home') ? '' : (p.depot ?? ''),
      says: p.start.key.startsWith('home') ? `${p.name} begins at home` : `Depot ${p.depot ?? ''}`,
    })),
    ...rota.people.flatMap((p): Spotted[] =>
      p.seen
        ? [
            {
              ...{ latitude: p.seen.latitude, longitude: p.seen.longitude, key: `seen ${p.id}`, radius: 4 },
              ...{ name: p.name, isStrong: false },
              says: `${p.name} said to be here at ${sayTime(p.seen.at, zone)}, within ${p.seen.accuracy} m`,
            },
          ]
        : [],
    ),
    ...sites.map((s): Spotted => {
      const [first] = s.items as [LooseOrder];
      return {
        ...{ ...s.at, key: s.key, name: `${s.name} ${s.items.length}`, radius: 4 + Math.min(8, s.items.length) },
        ...{ tone: toneOf(first, now), isFilled: true, isStrong: chosen === s.key },
        says: `${s.name}: ${plural(s.items.length, 'piece')} of work, first ${first.title}`,
      };
    }),
  ];
}

/** From where each begins to each appointment of the day in turn, and back. */
const waysOf = ({ people, appointments }: Rota) =>
  people.flatMap((p) => {
    const own = appointments.filter((a) => a.personIds.includes(p.id) && a.spot.at).sort((a, b) => a.from - b.from);
    if (!p.start.at || own.length === 0) return [];
    return [{ key: String(p.id), of: [p.start.at, ...own.map((a) => a.spot.at as Position), p.start.at] }];
  });

function Beside({
  site,
  rota,
  now,
  zone,
}: {
  site: Pick<Site, 'name' | 'items'> & { readonly at: Position | null };
  rota: Rota;
  now: Instant;
  zone: Zone;
}) {
  const near = rota.people
    .flatMap((p) => (p.start.at && site.at ? [{ name: p.name, km: distanceKm(p.start.at, site.at) }] : []))
    .sort((a, b) => a.km - b.km)
    .slice(0, 3);
  return (
    <section aria-label={site.name}>
      <h2>{site.name}</h2>
      {near.length > 0 && (
        <p className="quiet">
          Begin nearest: {near.map((n) => `${n.name} ${sayKm(n.km)}`).join(', ')}, as the crow flies.
        </p>
      )}
      <ul className="mt-2">
        {site.items.map((o) => (
          <li key={o.orderId} className="border-t border-hairline py-1.5">
            <Link className="link-ink font-semibold" to={`/rota?order=${o.orderId}`}>
              {o.title}
            </Link>
            <span className={`block text-[0.9rem] ${toneOf(o, now)}`}>
              {sayMinutes(o.minutes)}, {sayUrgency(o, now, zone)}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Drawn({ items, more, rota, zone }: { items: readonly LooseOrder[]; more: boolean; rota: Rota; zone: Zone }) {
  const [params, setParams] = useSearchParams();
  const { sites, unknown } = sitesOf(items);
  const key = params.get('at') ?? '';
  const chosen = sites.find((s) => s.key === key) ?? sites[0];
  const start = rota.people.find((p) => p.start.key === key && p.start.at);
  const centre = start?.start.at ?? chosen?.at ?? rota.people.find((p) => p.start.at)?.start.at;
  const choose = (at: string): void =>
    setParams(
      (was) => {
        was.set('at', at);
        return was;
      },
      { replace: true },
    );
  if (!centre)
    return (
      <p className="border-y border-hairline py-6">No place with loose work has a position, and no depot either.</p>
    );
  return (
    <div className="flex flex-wrap gap-8">
      <div className="min-w-[480px] flex-1">
        <Rings
          spots={spotsOf(sites, rota, start?.start.key ?? chosen?.key ?? '', zone)}
          ways={waysOf(rota)}
          centre={centre}
          label="Loose work by position"
          choose={choose}
        />
        <p className="quiet mt-1">
          ● loose work, the larger the more of it, in the tone of the most urgent · □ where days begin · ○ where people
          said to be · lines: today’s ways
        </p>
      </div>
      <div className="w-80">
        {more && <p className="quiet">Only the first {MOST} by their due day are shown.</p>}
        {chosen ? (
          <Beside site={chosen} rota={rota} now={rota.now} zone={zone} />
        ) : (
          <p className="quiet">Everything is planned.</p>
        )}
        {unknown.length > 0 && (
          <div className="mt-6">
            <Beside
              site={{ name: 'At no known position', at: null, items: unknown }}
              rota={rota}
              now={rota.now}
              zone={zone}
            />
          </div>
        )}
      </div>
    </div>
  );
}

export function MapRoom() {
  const { zone } = useReader();
  const { data: session } = server.useReadSessionQuery();
  const { data: reference } = setupApi.useReadReferenceQuery();
  const [params, setParams] = useSearchParams();
  const query = Object.fromEntries(
    ['depot', 'skill'].flatMap((key) => (params.get(key) ? [[key, params.get(key) as string] as const] : [])),
  );
  const today: LocalDate = localDateAt(zone, session?.now ?? (0 as Instant));
  const loose = rotaApi.useReadLooseQuery({ query: { ...query, show: 'all', limit: String(MOST) } });
  const rota = rotaApi.useReadRotaQuery({ query: { ...query, from: today, days: '1' } });
  const choose = (key: string, none: string, of: readonly { id: number; name: string }[] | undefined) => (
    <div className="w-48">
      <SelectField
        label={key === 'depot' ? 'Depot' : 'Skill'}
        value={params.get(key) ?? ''}
        onChange={(v) =>
          setParams(
            (was) => {
              if (v) was.set(key, v);
              else was.delete(key);
              return was;
            },
            { replace: true },
          )
        }
        options={[['', none] as const, ...(of ?? []).map((x) => [String(x.id), x.name] as const)]}
      />
    </div>
  );
  return (
    <div className="px-7 pt-5 pb-12">
      <Link className="link-ink" to="/rota">
        ‹ Rota
      </Link>
      <div className="mt-1 mb-3 flex items-end gap-6">
        <h1>Work to be planned, on the map</h1>
        {choose('depot', 'every depot', reference?.depots)}
        {choose('skill', 'any skill', reference?.skills)}
      </div>
      <Waiting query={loose}>
        {({ items, next }) => (
          <Waiting query={rota}>{(day) => <Drawn items={items} more={next !== null} rota={day} zone={zone} />}</Waiting>
        )}
      </Waiting>
    </div>
  );
}
