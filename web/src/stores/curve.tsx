// What is free of a part from day to day, as a step line over its minimum: where it falls below, and how far.
import { scaleLinear } from 'd3-scale';
import { addDays, type LocalDate } from '#core/time/index.ts';
import { sayQuantity } from '#core/stores/index.ts';
import { sayDate } from '../parts/words.ts';

const EDGE = 3;

/** Thousandths at the end of each day from `from` on. */
export function StockCurve({
  from,
  curve,
  minimum,
  width = 150,
  height = 34,
}: {
  from: LocalDate;
  curve: readonly number[];
  minimum: number;
  width?: number;
  height?: number;
}) {
  const x = scaleLinear([0, Math.max(1, curve.length)], [0, width]);
  // The height is that of what matters: how the line lies to its minimum.
  const y = scaleLinear([Math.min(0, ...curve), Math.max(minimum * 1.25, ...curve)], [height - EDGE, EDGE]);
  const line = curve.map((n, i) => `${i === 0 ? 'M' : 'L'}${x(i)} ${y(n)}H${x(i + 1)}`).join('');
  const last = curve.length - 1;
  const says = `${sayQuantity(curve[0] ?? 0)} free on ${sayDate(from)}, ${sayQuantity(curve[last] ?? 0)} on ${sayDate(addDays(from, Math.max(0, last)))}, the minimum is ${sayQuantity(minimum)}`;
  return (
    <svg width={width} height={height} role="img" aria-label={says} className="block">
      <line x1={0} x2={width} y1={y(0)} y2={y(0)} stroke="currentColor" strokeOpacity={0.25} />
      <line x1={0} x2={width} y1={y(minimum)} y2={y(minimum)} stroke="currentColor" strokeDasharray="2 3" />
      <path d={line} fill="none" stroke="currentColor" strokeWidth={1.6} />
    </svg>
  );
}
