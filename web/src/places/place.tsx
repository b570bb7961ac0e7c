// One place: what it gives and inherits, with the source; changing, adding below, moving, merging, retiring and sharing it.
import { useState } from 'react';
import { Link } from 'react-router';
import { readFacility } from '#api/facility.ts';
import { changeLocation, type PlacePage } from '#api/places.ts';
import type { TreeNode } from '#api/places.ts';
import type { Zone } from '#core/time/index.ts';
import { GeneralError, useSubmit } from '../parts/fields.tsx';
import { sayDate } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { PlaceForm, SharePlace } from './place-form.tsx';
import { TreeChange } from './tree-change.tsx';
import { placesApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';
import { AskCover } from '../agreements/index.ts';
import { Files } from '../files/index.ts';

type Floating = 'change' | 'add' | 'move' | 'merge' | 'share';

const sayJoin = (days: number): string =>
  days === 0 ? 'never' : `into one order, when due within ${days} ${days === 1 ? 'day' : 'days'} of each other`;

/** What holds at a place, and which place above gives it. */
function Inherited({ place }: { place: PlacePage }) {
  const rows: [string, { value: string; from: string } | null, string][] = [
    ['Address', place.inherited.address, 'none: give one to this place or one above'],
    ['Time zone', place.inherited.zone, '✕ none: nothing can be due here'],
    ['Calendar', place.inherited.calendar, 'none: every day counts'],
    ['Depot', place.inherited.depot, 'none: nobody’s load'],
    [
      'Visits join',
      place.inherited.join && { value: sayJoin(place.inherited.join.value), from: place.inherited.join.from },
      'never: each is an order of its own',
    ],
    ['Access', place.inherited.accessNote, 'no notes'],
  ];
  return (
    <dl className="mt-1 grid grid-cols-[5.5rem_1fr_5.5rem_1fr] gap-x-3 gap-y-0.5">
      {rows.map(([what, found, none]) => (
        <div key={what} className="contents">
          <dt className="quiet">{what}</dt>
          <dd>
            {found ? (
              <>
                {found.value}
                {found.from !== place.name && <span className="quiet"> from {found.from}</span>}
              </>
            ) : (
              <span className="quiet">{none}</span>
            )}
          </dd>
        </div>
      ))}
    </dl>
  );
}

function PlaceActs({
  isRetired,
  float,
  retire,
}: {
  isRetired: boolean;
  float: (what: Floating) => void;
  /** Retires it, or takes it back into use. */
  retire: () => void;
}) {
  return (
    <div className="mt-2 flex flex-wrap gap-2">
      <button className="act" onClick={() => float('change')}>
        Change the place…
      </button>
      {!isRetired && (
        <>
          <button className="act" onClick={() => float('add')}>
            Add a place in it…
          </button>
          <button className="act" onClick={() => float('move')}>
            Move…
          </button>
          <button className="act" onClick={() => float('merge')}>
            Merge…
          </button>
          <button className="act" onClick={() => float('share')}>
            Share…
          </button>
        </>
      )}
      <button className="act" onClick={retire}>
        {isRetired ? 'Take back into use' : 'Retire'}
      </button>
    </div>
  );
}

export function PlaceStrip({ id, nodes, customerId }: { id: number; nodes: readonly TreeNode[]; customerId: number }) {
  const reader = useReader();
  const query = placesApi.useReadPlaceQuery({ params: { id: String(id) } });
  const [floating, setFloating] = useState<Floating | 'ask' | null>(null);
  const { data: session } = server.useReadSessionQuery();
  const [retire] = placesApi.useRetireLocationMutation();
  const { errors, submit } = useSubmit([]);
  const node = nodes.find((n) => n.id === id);
  const close = (): void => setFloating(null);
  const may = reader.may(changeLocation);
  return (
    <Waiting query={{ ...query, data: query.currentData }}>
      {(place) => {
        return (
          <section className="border-b border-hairline pb-3" aria-label="Place">
            <div className="flex flex-wrap items-baseline gap-x-4">
              <h2 className="text-[1.15rem]">{place.path.map((p) => p.name).join(' · ')}</h2>
              {place.retiredOn && <span className="font-semibold">retired {sayDate(place.retiredOn)}</span>}
              {place.customers.length > 1 && (
                <span className="quiet">shared by {place.customers.map((c) => c.name).join(', ')}</span>
              )}
            </div>
            <Inherited place={place} />
            {may && node && (
              <PlaceActs
                isRetired={place.retiredOn !== null}
                float={setFloating}
                retire={() =>
                  void submit(
                    retire({ params: { id: String(id) }, body: { version: place.version, retire: !place.retiredOn } }),
                  )
                }
              />
            )}
            <GeneralError errors={errors} />
            <p className="mt-2 flex flex-wrap items-baseline gap-x-5">
              <button className="quiet link-ink" onClick={() => setFloating('ask')}>
                What is entitled to here?
              </button>
              {reader.may(readFacility) && (
                <Link className="quiet link-ink" to={`/upkeep/place?customer=${customerId}&place=${id}`}>
                  Upkeep of all machines here
                </Link>
              )}
            </p>
            <details className="mt-1">
              <summary className="quiet w-fit link-ink">Files of this place</summary>
              <Files subject="location" id={id} />
            </details>
            {node && floating === 'change' && (
              <PlaceForm node={node} parent={null} customerId={customerId} onClose={close} />
            )}
            {node && floating === 'add' && (
              <PlaceForm node={null} parent={node} customerId={customerId} onClose={close} />
            )}
            {node && (floating === 'move' || floating === 'merge') && (
              <TreeChange kind={floating} node={node} nodes={nodes} to={undefined} onClose={close} />
            )}
            {floating === 'ask' && session && (
              <AskCover
                subject={{ kind: 'location', id, name: place.name }}
                zone={(place.inherited.zone?.value ?? reader.zone) as Zone}
                now={session.now}
                onClose={close}
              />
            )}
            {floating === 'share' && <SharePlace place={place} onClose={close} />}
          </section>
        );
      }}
    </Waiting>
  );
}
