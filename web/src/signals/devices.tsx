// Devices: what each said last, the longest silent first; those nobody knows, and one that goes to another machine.
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { moveDevice, refuseDevice, type DeviceOut, type UnknownOut } from '#api/signals.ts';
import { addDevice } from '#api/setup.ts';
import { sayUnit } from '#core/signals/index.ts';
import { formatInstant, HOUR, sayLength, type Instant, type Zone } from '#core/time/index.ts';
import { ChooseAsset } from '../assets/index.ts';
import type { Choice } from '../parts/choose.tsx';
import { GeneralError, TextField, useSubmit } from '../parts/fields.tsx';
import { Pager, usePages } from '../parts/pager.tsx';
import { Table, type Column } from '../parts/table/index.ts';
import { WireMoment } from '../parts/wire-fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { sayMoment, sayValue } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { Waiting } from '../shell/waiting.tsx';
import { signalsApi } from './endpoints.ts';
import { SignalsPage } from './parts.tsx';

/** A device that has not reported for this long is called silent. */
const SILENT_MS = HOUR;

const isSilent = (d: DeviceOut, now: Instant): boolean => d.lastAt === null || now - d.lastAt > SILENT_MS;

const deviceColumns = (now: Instant, zone: Zone, move: ((d: DeviceOut) => void) | null): Column<DeviceOut>[] => [
  { id: 'device', head: 'Device', value: (d) => d.key, className: 'serial' },
  {
    id: 'asset',
    head: 'Asset',
    value: (d) => d.tag,
    show: (d) => (
      <>
        {d.model}{' '}
        <Link className="serial link-ink" to={`/assets/${d.assetId}`}>
          {d.tag}
        </Link>
      </>
    ),
  },
  { id: 'customer', head: 'Customer', value: (d) => d.customer },
  {
    id: 'readings',
    head: 'Newest readings',
    value: (d) => d.channels.map((c) => `${c.channel} ${c.value} ${c.unit ?? ''}`.trim()).join(', '),
    show: (d) =>
      d.channels.map((c) => (
        <span key={c.channel} className="mr-3 whitespace-nowrap">
          <span className="quiet">{c.channel}</span> {sayValue(c.value)} {sayUnit(c.unit)}
        </span>
      )),
    className: 'tabular-nums',
  },
  {
    id: 'heard',
    head: 'Last heard',
    value: (d) => (d.lastAt === null ? null : formatInstant(d.lastAt)),
    show: (d) =>
      d.lastAt === null ? (
        'never'
      ) : isSilent(d, now) ? (
        <span className="font-semibold">○ silent for {sayLength(now - d.lastAt)}</span>
      ) : (
        `● ${sayMoment(d.lastAt, now, zone)}`
      ),
    className: 'whitespace-nowrap',
  },
  ...(move
    ? [
        {
          id: 'act',
          head: '',
          show: (d: DeviceOut) => (
            <button className="link-ink" onClick={() => move(d)}>
              move
            </button>
          ),
        } satisfies Column<DeviceOut>,
      ]
    : []),
];

const NOBODY: { readonly assetId: Choice | null } = { assetId: null };

/** A device goes to another machine from a time on; what it said before stays where it was. */
function MoveDevice({ device, now, onClose }: { device: DeviceOut; now: Instant; onClose: () => void }) {
  const { zone } = useReader();
  const [move] = signalsApi.useMoveDeviceMutation();
  const form = useWireForm(moveDevice, { ...NOBODY, from: now }, ({ assetId, from }) => ({
    assetId: assetId?.id ?? NaN,
    from,
  }));
  return (
    <Dialog title="Move the device" onClose={onClose}>
      <h1>Move {device.key}</h1>
      <p className="quiet">
        It is on {device.tag}, {device.model}. What it said before stays that machine’s; from then on it is the other’s,
        and alerts are found anew on both.
      </p>
      <WireForm
        form={form}
        name="Move the device"
        save="Move"
        send={({ assetId, from }) =>
          move({ params: { id: String(device.id) }, body: { assetId: assetId?.id ?? NaN, from } })
        }
        onDone={onClose}
        onCancel={onClose}
      >
        <Wire<Choice | null> name="assetId">
          {({ value, change, error }) => (
            <ChooseAsset label="To machine" chosen={value} onChoose={change} error={error} />
          )}
        </Wire>
        <WireMoment name="from" zone={zone} />
      </WireForm>
    </Dialog>
  );
}

/** Ties a device that nobody knew to its machine. */
function TieDevice({ unknown, onClose }: { unknown: UnknownOut; onClose: () => void }) {
  const navigate = useNavigate();
  const [add] = signalsApi.useAddDeviceMutation();
  const form = useWireForm(addDevice, { ...NOBODY, key: unknown.key }, ({ assetId, key }) => ({
    assetId: assetId?.id ?? NaN,
    key,
  }));
  return (
    <Dialog title="Tie the device to its machine" onClose={onClose}>
      <h1>Tie {unknown.key}</h1>
      <p className="quiet">It says {unknown.channels}. What it says from now on is that machine’s.</p>
      <WireForm
        form={form}
        name="Tie the device"
        save="Tie"
        send={({ assetId, key }) => add({ body: { assetId: assetId?.id ?? NaN, key } })}
        onDone={() => {
          onClose();
          void navigate('/signals/devices');
        }}
        onCancel={onClose}
      >
        <Wire<Choice | null> name="assetId">
          {({ value, change, error }) => <ChooseAsset label="Machine" chosen={value} onChoose={change} error={error} />}
        </Wire>
      </WireForm>
    </Dialog>
  );
}

const unknownColumns = (
  now: Instant,
  zone: Zone,
  tie: ((u: UnknownOut) => void) | null,
  refuse: (u: UnknownOut) => void,
): Column<UnknownOut>[] => [
  { id: 'device', head: 'Device', value: (u) => u.key, className: 'serial' },
  { id: 'channels', head: 'Says', value: (u) => u.channels },
  { id: 'records', head: 'Records', isNumber: true, value: (u) => u.records },
  {
    id: 'first',
    head: 'First heard',
    value: (u) => formatInstant(u.firstAt),
    show: (u) => sayMoment(u.firstAt, now, zone),
  },
  {
    id: 'last',
    head: 'Last heard',
    value: (u) => formatInstant(u.lastAt),
    show: (u) => sayMoment(u.lastAt, now, zone),
  },
  ...(tie
    ? [
        {
          id: 'act',
          head: '',
          show: (u: UnknownOut) => (
            <span className="flex gap-3 whitespace-nowrap">
              {!u.refused && (
                <button className="link-ink" onClick={() => tie(u)}>
                  tie to its machine
                </button>
              )}
              <button className="link-ink" onClick={() => refuse(u)}>
                {u.refused ? 'hear of it again' : 'refuse'}
              </button>
            </span>
          ),
        } satisfies Column<UnknownOut>,
      ]
    : []),
];

/** Names nobody knows, and what is to become of them. */
function UnknownDevices({ now }: { now: Instant }) {
  const reader = useReader();
  const { zone } = reader;
  const pages = usePages();
  const [refused, setRefused] = useState(false);
  const [tying, setTying] = useState<UnknownOut | null>(null);
  const [refuse] = signalsApi.useRefuseDeviceMutation();
  const { errors, submit } = useSubmit([]);
  const { data } = signalsApi.useListUnknownDevicesQuery(
    { query: { ...(refused && { refused: '1' as const }), ...(pages.after !== undefined && { after: pages.after }) } },
    { pollingInterval: 60_000 },
  );
  if (!data) return null;
  const act = (u: UnknownOut): void =>
    void submit(refuse({ params: { id: String(u.id) }, body: { refused: !u.refused } }));
  return (
    <section className="mt-6" aria-label="Devices nobody knows">
      <div className="flex items-baseline gap-4">
        <h2>{refused ? 'Refused devices' : 'Devices nobody knows yet'}</h2>
        <button
          className="link-ink"
          onClick={() => {
            setRefused(!refused);
            pages.begin();
          }}
        >
          {refused ? 'those that wait' : 'those that were refused'}
        </button>
      </div>
      <GeneralError errors={errors} />
      {data.items.length === 0 ? (
        <p className="quiet border-y border-hairline py-2">
          {refused
            ? 'None was refused.'
            : 'None: whatever reports is tied to its machine. What a stranger sends is set aside, and it is listed here by its name.'}
        </p>
      ) : (
        <Table
          name="unknown-devices"
          caption="Devices nobody knows"
          columns={unknownColumns(now, zone, reader.may(refuseDevice) ? setTying : null, act)}
          rows={data.items}
          idOf={(u) => u.id}
        />
      )}
      <Pager pages={pages} next={data.next} words={['Newer', 'Older']} />
      {tying && <TieDevice unknown={tying} onClose={() => setTying(null)} />}
    </section>
  );
}

export function DevicesRoom() {
  const reader = useReader();
  const { zone } = reader;
  const pages = usePages();
  const { after } = pages;
  const [search, setSearch] = useState('');
  const query = signalsApi.useListDevicesQuery(
    { query: { ...(search && { search }), ...(after && { after }) } },
    { pollingInterval: 60_000 },
  );
  const [moving, setMoving] = useState<DeviceOut | null>(null);
  return (
    <SignalsPage about="Which devices speak, and since when they do not.">
      <div className="mt-3 w-72">
        <TextField
          label="Device or machine"
          value={search}
          onChange={(text) => {
            pages.begin();
            setSearch(text);
          }}
        />
      </div>
      <Waiting query={query}>
        {({ items, next, now }) => (
          <>
            {items.length === 0 ? (
              <p className="mt-3 border-y border-hairline py-4">
                {search
                  ? `No device or machine answers to “${search}”.`
                  : 'No device is connected yet: register one on an asset’s page, and a rule in Setup.'}
              </p>
            ) : (
              <section className="mt-4">
                <Table
                  name="devices"
                  caption="Devices"
                  title={<h2>Devices, the longest silent first</h2>}
                  columns={deviceColumns(now, zone, reader.may(moveDevice) ? setMoving : null)}
                  rows={items}
                  idOf={(d) => d.id}
                />
                <Pager pages={pages} next={next} words={['Longer silent', 'Later heard']} />
              </section>
            )}
            <UnknownDevices now={now} />
            {moving && <MoveDevice device={moving} now={now} onClose={() => setMoving(null)} />}
          </>
        )}
      </Waiting>
    </SignalsPage>
  );
}
