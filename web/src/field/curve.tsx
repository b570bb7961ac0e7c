// The curve that led to an alert, with the limit it crossed.
import { scaleLinear } from 'd3-scale';
import { line } from 'd3-shape';
import { extent } from 'd3-array';
import type { FieldOrder } from '#api/field.ts';
import { sayUnit } from '#core/signals/index.ts';
import type { Zone } from '#core/time/index.ts';
import { sayTime, sayValue } from '../parts/words.ts';

type Alert = FieldOrder['alerts'][number];
const [WIDTH, HEIGHT] = [340, 96];

export function AlertCurve({ alert, zone }: { alert: Alert; zone: Zone }) {
  const { points, limit } = alert;
  const limits = limit === null ? [] : [limit];
  const [from = 0, to = 1] = extent(points, (p) => p.at);
  const [low = 0, high = 1] = extent([...points.map((p) => p.value), ...limits]);
  const x = scaleLinear([from, to], [0, WIDTH]);
  const y = scaleLinear([low, high], [HEIGHT - 6, 6]);
  const path = line<Alert['points'][number]>(
    (p) => x(p.at),
    (p) => y(p.value),
  )(points);
  const said = `${alert.rule}, ${alert.tag}: ${limit === null ? '' : `past ${sayValue(limit)} ${sayUnit(alert.unit)} `}since ${sayTime(alert.startedAt, zone)}${alert.endedAt ? ` until ${sayTime(alert.endedAt, zone)}` : ''}`;
  return (
    <figure className="mt-3">
      <figcaption className="font-semibold">{said}</figcaption>
      {points.length > 1 && path !== null && (
        <svg role="img" aria-label={said} viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="mt-1 w-full">
          {limits.map((l) => (
            <line key={l} x1="0" x2={WIDTH} y1={y(l)} y2={y(l)} stroke="var(--missed)" strokeDasharray="5 4" />
          ))}
          <path d={path} fill="none" stroke="currentColor" strokeWidth="1.6" />
        </svg>
      )}
    </figure>
  );
}
