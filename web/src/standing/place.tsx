// A place in standing: each place directly below it with everything beneath, down to where the misses are.
import { Link, useParams } from 'react-router';
import type { StandingPlaces } from '#api/standing.ts';
import { isCounted } from '#core/standing/index.ts';
import { plural, sayDate, sayShare } from '../parts/words.ts';
import { Table, type Column } from '../parts/table/index.ts';
import { useReader } from '../shell/reader.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { AskedPeriod, useAsked, UsualPeriods, type Period } from './asked.tsx';
import { Behind } from './detail.tsx';
import { standingApi } from './endpoints.ts';
import { promiseColumns, upkeepColumns } from './rows.tsx';

const pathOf = (id: number, { from, to }: Period): string => `/standing/place/${id}?from=${from}&to=${to}`;

type Row = StandingPlaces['here'] & { readonly key: string; readonly id: number | null; readonly name: string };

function rowsOf({ name, rows, here, moved }: StandingPlaces): Row[] {
  return [
    ...rows.map((r) => ({ ...r, key: String(r.id) })),
    ...(isCounted(here) && rows.length > 0 ? [{ ...here, key: 'here', id: null, name: `${name} itself` }] : []),
    ...(moved && isCounted(moved) ? [{ ...moved, key: 'moved', id: null, name: 'places that are elsewhere now' }] : []),
  ];
}

const columnsIn = (period: Period): Column<Row>[] => [
  {
    id: 'place',
    head: 'Place',
    show: (r) =>
      r.id === null ? (
        <span className="quiet">{r.name}</span>
      ) : (
        <Link className="link-ink" to={pathOf(r.id, period)}>
          {r.name}
        </Link>
      ),
  },
  ...promiseColumns<Row>(),
  ...upkeepColumns<Row>(),
];

function Above({ above, period }: Pick<StandingPlaces, 'above'> & { period: Period }) {
  const bySite = `/standing?${new URLSearchParams({ ...period, by: 'site' }).toString()}`;
  return (
    <nav aria-label="Above it" className="flex flex-wrap gap-1">
      {[{ to: bySite, name: 'Every site' }, ...above.map((p) => ({ to: pathOf(p.id, period), name: p.name }))].map(
        ({ to, name }) => (
          <span key={to}>
            <Link className="link-ink" to={to}>
              {name}
            </Link>{' '}
            <span aria-hidden="true" className="quiet">
              ›
            </span>
          </span>
        ),
      )}
    </nav>
  );
}

function sayTotal({ met, missed, attainment, owed, inWindow, compliance }: StandingPlaces['total']): string {
  const promises =
    attainment === null
      ? 'No promise fell due'
      : `${sayShare(attainment)} of promises were met, ${met} of ${met + missed}`;
  const visits =
    owed === 0
      ? 'no window of upkeep ended'
      : `upkeep ${sayShare(compliance)} in window, ${inWindow} of ${owed} visits`;
  return `${promises}; ${visits}.`;
}

function Told({ place, period }: { place: StandingPlaces; period: Period }) {
  const reader = useReader();
  const rows = rowsOf(place);
  const behind = standingApi.useStandingDetailQuery({ query: { ...period, by: 'place', id: String(place.id) } });
  if (!isCounted(place.total))
    return (
      <p className="py-6">
        Nothing fell due here from {sayDate(period.from)} to {sayDate(period.to)}. Choose a longer period.
      </p>
    );
  return (
    <>
      <p className="mt-3">{sayTotal(place.total)}</p>
      {rows.length > 0 && (
        <div className="mt-4">
          <Table
            name="standing-places"
            caption={`Places of ${place.name}`}
            columns={columnsIn(period)}
            rows={rows}
            idOf={(r) => r.key}
          />
        </div>
      )}
      {place.more > 0 && <p className="quiet">{plural(place.more, 'more place')} with less to explain.</p>}
      <Waiting query={behind}>
        {({ clocks, visits }) => (
          <div className="mt-6 grid grid-cols-2 gap-8">
            <Behind
              counts={place.total}
              clocks={clocks}
              visits={visits}
              onlyAmiss
              reader={reader.zone}
              now={place.now}
            />
          </div>
        )}
      </Waiting>
    </>
  );
}

function OfPeriod({ id, period }: { id: string; period: Period }) {
  const query = standingApi.useReadStandingPlacesQuery({ params: { id }, query: period });
  return (
    <Waiting query={query}>
      {(place) => (
        <>
          <Above above={place.above} period={period} />
          <h1>{place.name}</h1>
          <Told place={place} period={period} />
        </>
      )}
    </Waiting>
  );
}

export function OnePlace({ id }: { id: string }) {
  const asked = useAsked(3);
  if (asked === null) return null;
  return (
    <div className="px-7 pt-5 pb-12">
      <header className="mb-4 flex flex-wrap items-end gap-3">
        <AskedPeriod asked={asked} />
        <div className="flex gap-3">
          <UsualPeriods asked={asked} />
        </div>
      </header>
      {asked.period && <OfPeriod key={JSON.stringify(asked.period)} id={id} period={asked.period} />}
    </div>
  );
}

export function PlaceRoom() {
  const { id = '' } = useParams();
  return <OnePlace key={id} id={id} />;
}
