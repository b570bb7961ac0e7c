// Signals: active alerts first, then the last week's, then every device with its newest readings.
import { useState } from 'react';
import { Link } from 'react-router';
import type { AlertOut, DeviceOut } from '#api/signals.ts';
import { orderNumber } from '#api/shapes.ts';
import { sayUnit } from '#core/signals/index.ts';
import { HOUR, sayLength, type Instant } from '#core/time/index.ts';
import { Listing } from '../parts/listing.tsx';
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
  const [low, high] = [Math.min(...values), Math.max(...values)];
  const pad = (high - low || 1) * 0.12;
  const height = tall ? 130 : 44;
  const from = points[0]?.at ?? now;
  const x = (at: number): number => ((at - from) / Math.max(1, now - from)) * 1000;
  const y = (v: number): number => height - ((v - low + pad) / (high - low + 2 * pad)) * height;
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
        <polyline
          points={points.map((p) => `${x(p.at).toFixed(1)},${y(p.value).toFixed(1)}`).join(' ')}
          fill="none"
          stroke="currentColor"
          strokeWidth="1.4"
          vectorEffect="non-scaling-stroke"
        />
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

function AlertRows({
  alerts,
  now,
  chosen,
  choose,
}: {
  alerts: AlertOut[];
  now: Instant;
  chosen: number | null;
  choose: (id: number) => void;
}) {
  const reader = useReader();
  return (
    <table className="dense">
      <thead>
        <tr>
          <th>Alert</th>
          <th>Asset</th>
          <th>Customer and place</th>
          <th>Since</th>
          <th>Until</th>
          <th>Order</th>
        </tr>
      </thead>
      <tbody>
        {alerts.map((a) => (
          <tr key={a.id} aria-selected={chosen === a.id} className="cursor-pointer" onClick={() => choose(a.id)}>
            <td>
              <button className="text-left font-semibold" onClick={() => choose(a.id)}>
                {a.endedAt === null ? '◆ ' : '◇ '}
                {a.rule}
              </button>
              <span className="quiet block">
                {a.channel} at worst {sayValue(a.worst.toFixed(1))} {sayUnit(a.unit)}, limit {a.side}{' '}
                {sayValue(a.limit)}
              </span>
            </td>
            <td>
              {a.model}{' '}
              <Link className="serial link-ink" to={`/assets/${a.assetId}`}>
                {a.tag}
              </Link>
            </td>
            <td>
              {a.customer}
              <span className="quiet block">{a.place}</span>
            </td>
            <td className="whitespace-nowrap">{sayMoment(a.startedAt, now, reader.zone)}</td>
            <td className="whitespace-nowrap">
              {a.endedAt === null ? (
                <span className="font-semibold">still active</span>
              ) : (
                sayMoment(a.endedAt, now, reader.zone)
              )}
            </td>
            <td>
              {a.orderId === null ? (
                'none'
              ) : (
                <Link className="serial link-ink" to={`/orders/${a.orderId}`}>
                  {orderNumber(a.orderId)}
                </Link>
              )}
              {a.joined && <span className="quiet block">joined</span>}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function DeviceRows({ devices, now }: { devices: DeviceOut[]; now: Instant }) {
  const reader = useReader();
  return (
    <table className="dense">
      <thead>
        <tr>
          <th>Device</th>
          <th>Asset</th>
          <th>Customer</th>
          <th>Newest readings</th>
          <th>Last heard</th>
        </tr>
      </thead>
      <tbody>
        {devices.map((d) => {
          const silent = d.lastAt === null || now - d.lastAt > SILENT_MS;
          return (
            <tr key={d.id}>
              <td className="serial">{d.key}</td>
              <td>
                {d.model}{' '}
                <Link className="serial link-ink" to={`/assets/${d.assetId}`}>
                  {d.tag}
                </Link>
              </td>
              <td>{d.customer}</td>
              <td className="tabular-nums">
                {d.channels.map((c) => (
                  <span key={c.channel} className="mr-3 whitespace-nowrap">
                    <span className="quiet">{c.channel}</span> {sayValue(c.value)} {sayUnit(c.unit)}
                  </span>
                ))}
              </td>
              <td className="whitespace-nowrap">
                {d.lastAt === null ? (
                  'never'
                ) : silent ? (
                  <span className="font-semibold">○ silent for {sayLength(now - d.lastAt)}</span>
                ) : (
                  `● ${sayMoment(d.lastAt, now, reader.zone)}`
                )}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

export function SignalsRoom() {
  const query = signalsApi.useReadSignalsQuery(undefined, { pollingInterval: 60_000 });
  const [chosen, setChosen] = useState<number | null>(null);
  return (
    <div className="px-7 pt-5 pb-12">
      <Waiting query={query}>
        {({ alerts, devices, now, activeAlerts }) => {
          const shown = alerts.find((a) => a.id === chosen) ?? alerts[0];
          const silent = devices.filter((d) => d.lastAt === null || now - d.lastAt > SILENT_MS).length;
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
                    <Listing name="alerts" title={<h2>Alerts, active first, then the last seven days</h2>}>
                      <AlertRows alerts={alerts} now={now} chosen={shown?.id ?? null} choose={setChosen} />
                    </Listing>
                  </section>
                </>
              )}
              {devices.length > 0 && (
                <section className="mt-7">
                  <Listing name="devices" title={<h2>Devices, the longest silent first</h2>}>
                    <DeviceRows devices={devices} now={now} />
                  </Listing>
                </section>
              )}
            </>
          );
        }}
      </Waiting>
    </div>
  );
}
