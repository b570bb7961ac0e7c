// One place: what it gives and inherits, with the source; changing, adding below, moving, merging, retiring and sharing it.
import { useEffect, useState } from 'react';
import { changeLocation } from '#api/places.ts';
import type { PlacePage, TreeEffect, TreeNode } from '#api/places.ts';
import type { CalendarId, CustomerId, LocationId } from '#core/ids.ts';
import { asId } from '#core/ids.ts';
import type { Zone } from '#core/time/index.ts';
import { Field, NumberField, SelectField, TextField, useSubmit } from '../parts/fields.tsx';
import { Form } from '../parts/form.tsx';
import { plural, sayDate } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import { ChooseCustomer } from '../customers/index.ts';
import type { Choice } from '../parts/choose.tsx';
import { ChooseAmongPlaces, namedPlaces } from './choose.tsx';
import { placesApi } from './endpoints.ts';
import { setupApi } from '../setup/index.ts';
import { Waiting } from '../shell/waiting.tsx';
import { AskCover } from '../agreements/index.ts';
import { Files } from '../files/index.ts';

const orNull = (n: number): number | null => (Number.isNaN(n) ? null : n);

export function PlaceForm({
  node,
  parent,
  customerId,
  onClose,
}: {
  node: TreeNode | null;
  parent: TreeNode | null;
  customerId: number;
  onClose: () => void;
}) {
  const { data: reference } = setupApi.useReadReferenceQuery();
  const [text, setText] = useState({
    name: node?.name ?? '',
    address: node?.address ?? '',
    zone: node?.zone ?? '',
    accessNote: node?.accessNote ?? '',
    calendarId: String(node?.calendarId ?? ''),
  });
  const [at, setAt] = useState({ latitude: node?.latitude ?? NaN, longitude: node?.longitude ?? NaN });
  const [change, changing] = placesApi.useChangeLocationMutation();
  const [add, adding] = placesApi.useAddLocationMutation();
  const { errors, submit } = useSubmit([
    'name',
    'address',
    'zone',
    'latitude',
    'longitude',
    'calendarId',
    'accessNote',
  ]);
  const set = (key: keyof typeof text) => (value: string) => setText({ ...text, [key]: value });
  const save = async (): Promise<void> => {
    const body = {
      name: text.name,
      address: text.address || null,
      zone: text.zone || null,
      accessNote: text.accessNote || null,
      calendarId: text.calendarId === '' ? null : asId<CalendarId>(Number(text.calendarId)),
      latitude: orNull(at.latitude),
      longitude: orNull(at.longitude),
    };
    const done = await (node
      ? submit(change({ params: { id: String(node.id) }, body: { ...body, version: node.version } }))
      : submit(
          add({
            body: {
              ...body,
              parentId: parent ? asId<LocationId>(parent.id) : null,
              customerId: asId<CustomerId>(customerId),
            },
          }),
        ));
    if (done) onClose();
  };
  const title = node ? 'Change the place' : parent ? `Add a place in ${parent.name}` : 'Add a site';
  const above = 'Empty: taken from the place above.';
  return (
    <Dialog title={title} onClose={onClose}>
      <Form
        name={title}
        save={node ? 'Save the place' : 'Add the place'}
        onSave={save}
        onCancel={onClose}
        errors={errors}
        disabled={changing.isLoading || adding.isLoading}
      >
        <h1>{node ? node.name : title}</h1>
        <TextField label="Name" value={text.name} onChange={set('name')} error={errors.of('name')} autoFocus />
        <TextField
          label="Address"
          value={text.address}
          onChange={set('address')}
          error={errors.of('address')}
          hint={above}
        />
        <div className="grid grid-cols-2 gap-3">
          <TextField
            label="Time zone"
            value={text.zone}
            onChange={set('zone')}
            error={errors.of('zone')}
            hint="Such as Europe/Lisbon. Empty: from above."
          />
          <SelectField
            label="Calendar"
            value={text.calendarId}
            onChange={set('calendarId')}
            error={errors.of('calendarId')}
            options={[
              ['', 'from the place above'],
              ...(reference?.calendars ?? []).map((c) => [String(c.id), c.name] as const),
            ]}
          />
          <NumberField
            label="Latitude"
            value={at.latitude}
            onChange={(latitude) => setAt({ ...at, latitude })}
            error={errors.of('latitude')}
            step="any"
          />
          <NumberField
            label="Longitude"
            value={at.longitude}
            onChange={(longitude) => setAt({ ...at, longitude })}
            error={errors.of('longitude')}
            step="any"
          />
        </div>
        <Field label="Access notes" error={errors.of('accessNote')} hint={above}>
          {(id) => (
            <textarea
              id={id}
              className="box-area"
              rows={2}
              value={text.accessNote}
              onChange={(e) => set('accessNote')(e.target.value)}
            />
          )}
        </Field>
      </Form>
    </Dialog>
  );
}

function Effect({ effect }: { effect: TreeEffect }) {
  const more = (shown: number, total: number): string => (total > shown ? ` and ${total - shown} more` : '');
  return (
    <div className="max-h-[45vh] overflow-y-auto border-y border-hairline py-2" aria-live="polite">
      <p>
        {plural(effect.places, 'place')} and {plural(effect.assets, 'asset')} go along.
      </p>
      {effect.changesTotal + effect.coversTotal + effect.duesTotal === 0 && (
        <p className="quiet">Address, time zone, calendar, cover and due dates stay as they are.</p>
      )}
      {effect.changesTotal > 0 && (
        <table className="dense mt-2">
          <thead>
            <tr>
              <th>Place</th>
              <th>Inherits</th>
              <th>Now</th>
              <th>Then</th>
            </tr>
          </thead>
          <tbody>
            {effect.changes.map((c) => (
              <tr key={c.place + c.field}>
                <td>{c.place.replaceAll(' > ', ' · ')}</td>
                <td>{c.field}</td>
                <td>{c.before ?? 'none'}</td>
                <td className="font-semibold">{c.after ?? '✕ none'}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {effect.coversTotal > 0 && (
        <>
          <h2 className="mt-2">
            Cover changes for {plural(effect.coversTotal, 'asset')}
            {more(effect.covers.length, effect.coversTotal)}
          </h2>
          {effect.covers.map((c) => (
            <p key={c.tag}>
              <span className="serial">{c.tag}</span> {c.before} → <strong className="font-semibold">{c.after}</strong>
            </p>
          ))}
        </>
      )}
      {effect.duesTotal > 0 && (
        <>
          <h2 className="mt-2">
            Next due dates move for {plural(effect.duesTotal, 'asset')}
            {more(effect.dues.length, effect.duesTotal)}
          </h2>
          {effect.dues.map((d) => (
            <p key={d.tag}>
              <span className="serial">{d.tag}</span> {d.before ? sayDate(d.before) : 'none'} →{' '}
              <strong className="font-semibold">{d.after ? sayDate(d.after) : 'none'}</strong>{' '}
              <span className="quiet">{d.reason}</span>
            </p>
          ))}
        </>
      )}
    </div>
  );
}

const fullNameOf = (nodes: readonly TreeNode[], node: TreeNode): string => {
  const above = nodes.find((n) => n.id === node.parentId);
  return above ? `${fullNameOf(nodes, above)} · ${node.name}` : node.name;
};

/** Moving or merging: what it changes is shown before it is done. */
/** Under no other place. */
const TOP: Choice = { id: 0, name: 'the top: a site of its own' };

export function TreeChange({
  kind,
  node,
  nodes,
  to,
  onClose,
}: {
  kind: 'move' | 'merge';
  node: TreeNode;
  nodes: readonly TreeNode[];
  to: number | null | undefined;
  onClose: () => void;
}) {
  const [target, setTarget] = useState<Choice | null>(() =>
    to === undefined ? null : to === null ? TOP : (namedPlaces(nodes).find((n) => n.id === to) ?? null),
  );
  const [previewMove] = placesApi.usePreviewMoveMutation();
  const [previewMerge] = placesApi.usePreviewMergeMutation();
  const [move, moving] = placesApi.useMoveLocationMutation();
  const [merge, merging] = placesApi.useMergeLocationMutation();
  const [effect, setEffect] = useState<TreeEffect | null>(null);
  const { errors, submit, clear } = useSubmit(['parentId', 'into']);
  const params = { id: String(node.id) };
  const parentId = target === null || target.id === TOP.id ? null : asId<LocationId>(target.id);
  useEffect(() => {
    setEffect(null);
    if (target === null) return;
    const id = target.id === TOP.id ? null : asId<LocationId>(target.id);
    const asked =
      kind === 'move'
        ? submit(previewMove({ params: { id: String(node.id) }, body: { parentId: id, version: node.version } }))
        : id !== null &&
          submit(previewMerge({ params: { id: String(node.id) }, body: { into: id, version: node.version } }));
    if (asked) void asked.then((found) => found && setEffect(found));
  }, [kind, node.id, node.version, target, submit, previewMove, previewMerge]);
  const save = async (): Promise<void> => {
    const done =
      kind === 'move'
        ? await submit(move({ params, body: { parentId, version: node.version } }))
        : parentId !== null && (await submit(merge({ params, body: { into: parentId, version: node.version } })));
    if (done) onClose();
  };
  const below = new Set<number>([node.id]);
  for (const n of [...nodes].sort((a, b) => fullNameOf(nodes, a).length - fullNameOf(nodes, b).length))
    if (n.parentId !== null && below.has(n.parentId)) below.add(n.id);
  const title = kind === 'move' ? `Move ${node.name}` : `Merge ${node.name} into another place`;
  const targetName = target?.id === TOP.id ? 'the top' : nodes.find((n) => n.id === target?.id)?.name;
  return (
    <Dialog title={title} onClose={onClose} wide>
      <Form
        name={title}
        save={kind === 'move' ? `Move to ${targetName ?? '…'}` : `Merge into ${targetName ?? '…'}`}
        onSave={save}
        onCancel={onClose}
        errors={errors}
        disabled={!effect || moving.isLoading || merging.isLoading}
      >
        <h1>{title}</h1>
        <ChooseAmongPlaces
          label={kind === 'move' ? 'Under' : 'Into'}
          places={[...(kind === 'move' ? [TOP] : []), ...namedPlaces(nodes).filter((n) => !below.has(n.id))]}
          chosen={target}
          onChoose={(place) => {
            clear();
            setTarget(place);
          }}
          error={errors.of('parentId') ?? errors.of('into')}
        />
        {effect && <Effect effect={effect} />}
      </Form>
    </Dialog>
  );
}

function SharePlace({ place, onClose }: { place: PlacePage; onClose: () => void }) {
  const [chosen, setChosen] = useState<Choice | null>(null);
  const [share, { isLoading }] = placesApi.useShareLocationMutation();
  const { errors, submit } = useSubmit(['customerId']);
  const set = (customerId: number, on: boolean) =>
    submit(share({ params: { id: String(place.id) }, body: { customerId: asId<CustomerId>(customerId), share: on } }));
  return (
    <Dialog title="Share the place" onClose={onClose}>
      <Form
        name="Share the place"
        save="Share it"
        onSave={async () => {
          if (chosen && (await set(chosen.id, true))) onClose();
        }}
        onCancel={onClose}
        errors={errors}
        disabled={chosen === null || isLoading}
      >
        <h1>Who may use {place.name}</h1>
        <ul>
          {place.customers.map((c) => (
            <li key={c.id} className="flex justify-between border-b border-hairline py-1">
              {c.name}
              <button type="button" className="quiet link-ink" onClick={() => void set(c.id, false)}>
                end sharing
              </button>
            </li>
          ))}
        </ul>
        <ChooseCustomer
          label="Share with"
          chosen={chosen}
          onChoose={setChosen}
          except={place.customers.map((c) => c.id)}
          error={errors.of('customerId')}
        />
      </Form>
    </Dialog>
  );
}

export function PlaceStrip({ id, nodes, customerId }: { id: number; nodes: readonly TreeNode[]; customerId: number }) {
  const reader = useReader();
  const query = placesApi.useReadPlaceQuery({ params: { id: String(id) } });
  const [floating, setFloating] = useState<'change' | 'add' | 'move' | 'merge' | 'share' | 'ask' | null>(null);
  const { data: session } = server.useReadSessionQuery();
  const [retire] = placesApi.useRetireLocationMutation();
  const { errors, submit } = useSubmit([]);
  const node = nodes.find((n) => n.id === id);
  const close = (): void => setFloating(null);
  const may = reader.may(changeLocation);
  return (
    <Waiting query={{ ...query, data: query.currentData }}>
      {(place) => {
        const rows: [string, { value: string; from: string } | null, string][] = [
          ['Address', place.inherited.address, 'none: give one to this place or one above'],
          ['Time zone', place.inherited.zone, '✕ none: nothing can be due here'],
          ['Calendar', place.inherited.calendar, 'none: every day counts'],
          ['Access', place.inherited.accessNote, 'no notes'],
        ];
        return (
          <section className="border-b border-hairline pb-3" aria-label="Place">
            <div className="flex flex-wrap items-baseline gap-x-4">
              <h2 className="text-[1.15rem]">{place.path.map((p) => p.name).join(' · ')}</h2>
              {place.retiredOn && <span className="font-semibold">retired {sayDate(place.retiredOn)}</span>}
              {place.customers.length > 1 && (
                <span className="quiet">shared by {place.customers.map((c) => c.name).join(', ')}</span>
              )}
            </div>
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
            {may && node && (
              <div className="mt-2 flex flex-wrap gap-2">
                <button className="act" onClick={() => setFloating('change')}>
                  Change the place…
                </button>
                {!place.retiredOn && (
                  <>
                    <button className="act" onClick={() => setFloating('add')}>
                      Add a place in it…
                    </button>
                    <button className="act" onClick={() => setFloating('move')}>
                      Move…
                    </button>
                    <button className="act" onClick={() => setFloating('merge')}>
                      Merge…
                    </button>
                    <button className="act" onClick={() => setFloating('share')}>
                      Share…
                    </button>
                  </>
                )}
                <button
                  className="act"
                  onClick={() =>
                    void submit(
                      retire({
                        params: { id: String(id) },
                        body: { version: place.version, retire: !place.retiredOn },
                      }),
                    )
                  }
                >
                  {place.retiredOn ? 'Take back into use' : 'Retire'}
                </button>
              </div>
            )}
            {errors.problem && (
              <p role="alert" className="mt-1 text-missed">
                ✕ {errors.problem.detail}
              </p>
            )}
            <p className="mt-2">
              <button className="quiet link-ink" onClick={() => setFloating('ask')}>
                What is entitled to here?
              </button>
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
