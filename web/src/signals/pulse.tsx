// The pulse of a machine: what one channel said, with the limits it is watched by.
import { useState } from 'react';
import { extent } from 'd3-array';
import { scaleLinear } from 'd3-scale';
import { area, line } from 'd3-shape';
import type { Answer } from '#api/contract.ts';
import type { readReadings } from '#api/signals.ts';
import { sayUnit } from '#core/signals/index.ts';
import { sayLength, type Instant } from '#core/time/index.ts';
import { sayValue } from '../parts/words.ts';
import { signalsApi } from './endpoints.ts';
import { OneOf } from './parts.tsx';

const SPANS = [
  [1, 'a day'],
  [3, '3 days'],
  [30, '30 days'],
  [365, 'a year'],
] as const;

type Points = Answer<typeof readReadings>['points'];
type Limits = Answer<typeof readReadings>['limits'];

/** What was said, with the least and most of each part, the limits, and instants that matter. */
export function CurveLines({
  points,
  limits,
  marks = [],
  until,
  height,
  said,
}: {
  points: Points;
  limits: Limits;
  marks?: readonly Instant[];
  until: Instant;
  height: number;
  said: string;
}) {
  const values = [...points.flatMap((p) => [p.low, p.high]), ...limits.map((l) => l.limit)];
  const [low, high] = extent(values) as [number, number];
  const pad = (high - low || 1) * 0.12;
  const from = points[0]?.at ?? until;
  const x = scaleLinear([from, Math.max(until, from + 1)], [0, 1000]);
  const y = scaleLinear([low - pad, high + pad], [height, 0]);
  const path = line<(typeof points)[number]>(
    (p) => x(p.at),
    (p) => y(p.value),
  ).digits(1)(points);
  const between = area<(typeof points)[number]>(
    (p) => x(p.at),
    (p) => y(p.low),
    (p) => y(p.high),
  ).digits(1)(points);
  return (
    <svg
      viewBox={`0 0 1000 ${height}`}
      preserveAspectRatio="none"
      width="100%"
      height={height}
      role="img"
      aria-label={said}
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
      {marks.map((at) => (
        <line
          key={at}
          x1={x(at)}
          x2={x(at)}
          y1="0"
          y2={height}
          stroke="var(--ink2)"
          strokeDasharray="2 3"
          vectorEffect="non-scaling-stroke"
        />
      ))}
      <path d={between ?? ''} fill="currentColor" fillOpacity="0.18" stroke="none" />
      <path d={path ?? ''} fill="none" stroke="currentColor" strokeWidth="1.4" vectorEffect="non-scaling-stroke" />
    </svg>
  );
}

/** The last days of a channel, and in words over which time. */
function Curve({
  of: { points, limits, unit },
  channel,
  now,
  height,
}: {
  of: Answer<typeof readReadings>;
  channel: string;
  now: Instant;
  height: number;
}) {
  const said = `${channel}: last ${sayValue(points.at(-1)?.value.toFixed(1) ?? '')} ${sayUnit(unit)}`;
  return (
    <>
      <CurveLines {...{ points, limits, height, said }} until={now} />
      <figcaption className="quiet flex justify-between">
        <span>
          {channel}, the last {sayLength(now - (points[0]?.at ?? now))}
        </span>
        <span>{limits.map((l) => `limit ${l.side} ${sayValue(l.limit)} ${sayUnit(unit)}`).join(', ')}</span>
      </figcaption>
    </>
  );
}

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
  const [days, setDays] = useState<(typeof SPANS)[number][0]>(tall ? 1 : 3);
  const { data } = signalsApi.useReadReadingsQuery({
    params: { id: String(assetId) },
    query: { channel, days: String(days) },
  });
  const spans = tall && <OneOf label="Span" options={SPANS} chosen={days} onChoose={setDays} />;
  if (!data || data.points.length < 2)
    return (
      <>
        {spans}
        <p className="quiet">{data ? 'Too few readings for a line yet.' : 'Loading…'}</p>
      </>
    );
  return (
    <figure>
      {spans}
      <Curve of={data} channel={channel} now={now} height={tall ? 130 : 44} />
    </figure>
  );
}
