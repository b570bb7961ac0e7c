// Signals: active alerts first, then the last week's, then every device with its newest readings.
import { useState } from 'react';
import { extent } from 'd3-array';
import { scaleLinear } from 'd3-scale';
import { line } from 'd3-shape';
import { Link } from 'react-router';
import type { AlertOut, DeviceOut } from '#api/signals.ts';
import { orderNumber } from '#api/shapes.ts';
import { sayUnit } from '#core/signals/index.ts';
import { formatInstant, HOUR, sayLength, type Instant, type Zone } from '#core/time/index.ts';
import { Table, type Column } from '../parts/table/index.ts';
import { plural, sayMoment, sayValue } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import { signalsApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';

/** A device that has not reported for this long is called silent. */
const SILENT_MS = HOUR;

export function PulseLine({
  assetId,
  channel,
  now,
  tall = false,
}: {
  assetId: number;
  channel: string;
  now: Instant;
  tall?: boolean;
}) {
  const { data } = signalsApi.useReadReadingsQuery({ params: { id: String(assetId) }, query: { channel } });
  if (!data || data.points.length < 2)
    return <p className="quiet">{data ? 'Too few readings for a line yet.' : 'Loading…'}</p>;
  const { points, limits } = data;
  const values = [...points.map((p) => p.value), ...limits.map((l) => l.limit)];
  const [low, high] = extent(values) as [number, number];
  const pad = (high - low || 1) * 0.12;
  const height = tall ? 130 : 44;
  const from = points[0]?.at ?? now;
  const x = scaleLinear([from, Math.max(now, from + 1)], [0, 1000]);
  const y = scaleLinear([low - pad, high + pad], [height, 0]);
  const path = line<(typeof points)[number]>(
    (p) => x(p.at),
    (p) => y(p.value),
  ).digits(1)(points);
  return (
    <figure>
      <svg
        viewBox={`0 0 1000 ${height}`}
        preserveAspectRatio="none"
        width="100%"
        height={height}
        role="img"
        aria-label={`${channel}: last ${sayValue(points.at(-1)?.value.toFixed(1) ?? '')} ${sayUnit(data.unit)}`}
      >
        {limits.map((l) => (
          <line
            key={`${l.limit}${l.side}`}
            x1="0"
            x2="1000"
            y1={y(l.limit)}
            y2={y(l.limit)}
            stroke="var(--short)"
            strokeDasharray="6 4"
            vectorEffect="non-scaling-stroke"
          />
        ))}
        <path d={path ?? ''} fill="none" stroke="currentColor" strokeWidth="1.4" vectorEffect="non-scaling-stroke" />
      </svg>
      <figcaption className="quiet flex justify-between">
        <span>
          {channel}, the last {sayLength(now - from)}
        </span>
        <span>{limits.map((l) => `limit ${l.side} ${sayValue(l.limit)} ${sayUnit(data.unit)}`).join(', ')}</span>
      </figcaption>
    </figure>
  );
}

const alertColumns = (now: Instant, zone: Zone, choose: (id: number) => void): Column<AlertOut>[] => [
  {
    id: 'alert',
    head: 'Alert',
    value: (a) => a.rule,
    show: (a) => (
      <>
        <button className="text-left font-semibold" onClick={() => choose(a.id)}>
          {a.endedAt === null ? '◆ ' : '◇ '}
          {a.rule}
        </button>
        <span className="quiet block">{a.text}</span>
      </>
    ),
  },
  {
    id: 'asset',
    head: 'Asset',
    value: (a) => a.tag,
    show: (a) => (
      <>
        {a.model}{' '}
        <Link className="serial link-ink" to={`/assets/${a.assetId}`}>
          {a.tag}
        </Link>
      </>
    ),
  },
  {
    id: 'customer',
    head: 'Customer and place',
    value: (a) => `${a.customer}, ${a.place}`,
    show: (a) => (
      <>
        {a.customer}
        <span className="quiet block">{a.place}</span>
      </>
    ),
  },
  {
    id: 'since',
    head: 'Since',
    value: (a) => formatInstant(a.startedAt),
    show: (a) => sayMoment(a.startedAt, now, zone),
    className: 'whitespace-nowrap',
  },
  {
    id: 'until',
    head: 'Until',
    value: (a) => (a.endedAt === null ? null : formatInstant(a.endedAt)),
    show: (a) =>
      a.endedAt === null ? <span className="font-semibold">still active</span> : sayMoment(a.endedAt, now, zone),
    className: 'whitespace-nowrap',
  },
  {
    id: 'order',
    head: 'Order',
    value: (a) => (a.orderId === null ? null : orderNumber(a.orderId)),
    show: (a) => (
      <>
        {a.orderId === null ? (
          'none'
        ) : (
          <Link className="serial link-ink" to={`/orders/${a.orderId}`}>
            {orderNumber(a.orderId)}
          </Link>
        )}
        {a.joined && <span className="quiet block">joined</span>}
      </>
    ),
  },
];

const isSilent = (d: DeviceOut, now: Instant): boolean => d.lastAt === null || now - d.lastAt > SILENT_MS;

const deviceColumns = (now: Instant, zone: Zone): Column<DeviceOut>[] => [
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
];

export function SignalsRoom() {
  const { zone } = useReader();
  const query = signalsApi.useReadSignalsQuery(undefined, { pollingInterval: 60_000 });
  const [chosen, setChosen] = useState<number | null>(null);
  return (
    <div className="px-7 pt-5 pb-12">
      <Waiting query={query}>
        {({ alerts, devices, now, activeAlerts }) => {
          const shown = alerts.find((a) => a.id === chosen) ?? alerts[0];
          const silent = devices.filter((d) => isSilent(d, now)).length;
          return (
            <>
              <header className="flex items-baseline gap-4">
                <h1>Signals</h1>
                <p className="text-ink2">
                  {plural(activeAlerts, 'active alert')} · {plural(devices.length, 'device')} listed
                  {silent > 0 ? `, ${silent} silent for over an hour` : ''}
                </p>
              </header>
              {alerts.length === 0 ? (
                <p className="mt-3 border-y border-hairline py-4">
                  No alert in the last seven days.{' '}
                  {devices.length === 0 &&
                    'No device is connected yet: register one on an asset’s page, and a rule in Setup.'}
                </p>
              ) : (
                <>
                  {shown && (
                    <section className="sheet mt-3 px-4 py-3" aria-label="Chosen alert">
                      <p>
                        <strong className="font-semibold">{shown.rule}</strong> · {shown.model}{' '}
                        <Link className="serial link-ink" to={`/assets/${shown.assetId}`}>
                          {shown.tag}
                        </Link>{' '}
                        · {shown.customer}
                      </p>
                      <PulseLine assetId={shown.assetId} channel={shown.channel} now={now} tall />
                    </section>
                  )}
                  <section className="mt-4">
                    <Table
                      name="alerts"
                      caption="Alerts"
                      title={<h2>Alerts, active first, then the last seven days</h2>}
                      columns={alertColumns(now, zone, setChosen)}
                      rows={alerts}
                      idOf={(a) => a.id}
                      rowClass={(a) => (a.id === shown?.id ? 'bg-base-300' : '')}
                    />
                  </section>
                </>
              )}
              {devices.length > 0 && (
                <section className="mt-7">
                  <Table
                    name="devices"
                    caption="Devices"
                    title={<h2>Devices, the longest silent first</h2>}
                    columns={deviceColumns(now, zone)}
                    rows={devices}
                    idOf={(d) => d.id}
                  />
                </section>
              )}
            </>
          );
        }}
      </Waiting>
    </div>
  );
}
