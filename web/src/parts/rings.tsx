// Places by position: no map behind them, only rings of distance round one of them, so that near and far are read at once.
import { geoAzimuthalEquidistant } from 'd3-geo';
import { distanceKm, EARTH_KM, type Position } from '#core/places/index.ts';

const SIZE = { width: 640, height: 520, margin: 46 };

/** Ring distances in kilometres that fit: 1, 2 or 5 times a power of ten. */
export function ringsFor(farthest: number): number[] {
  if (farthest <= 0) return [1];
  const power = 10 ** Math.floor(Math.log10(farthest));
  const step = farthest / power >= 5 ? 2 * power : farthest / power >= 2 ? power : power / 2;
  return Array.from({ length: Math.ceil(farthest / step) }, (_, i) => (i + 1) * step);
}

export const sayKm = (km: number): string => `${km < 10 ? km.toFixed(1).replace(/\.0$/, '') : Math.round(km)} km`;

export type Spotted = Position & {
  readonly key: string;
  /** Stands beside it; nothing: it has no name of its own. */
  readonly name: string;
  /** What is said of it when pointed at. */
  readonly says: string;
  readonly radius: number;
  /** Where days begin is drawn square. */
  readonly isSquare?: boolean;
  readonly isFilled?: boolean;
  readonly isStrong?: boolean;
  /** Of the margin, where it has one. */
  readonly tone?: string;
};

const LETTER = 6.3;
const LINE = 12;
type Box = readonly [number, number, number, number];
const apart = ([a, b, c, d]: Box, [e, f, g, h]: Box): boolean => c <= e || g <= a || d <= f || h <= b;
type Named = { readonly x: number; readonly y: number; readonly anchor: 'start' | 'end' | 'middle' };

/**
 * Where each name stands: to the right of its place, else left, above or below it, wherever it lies on nothing else; one that fits nowhere
 * is not drawn, for away from its place it would name another. What is strong is named first, whatever it lies on.
 */
export function namesBeside(
  spots: readonly (Spotted & { readonly x: number; readonly y: number })[],
): Map<string, Named> {
  const boxes: Box[] = spots.map(({ x, y, radius: r }) => [x - r, y - r, x + r, y + r]);
  const found = new Map<string, Named>();
  const inTurn = [...spots].sort((a, b) => Number(b.isStrong ?? false) - Number(a.isStrong ?? false));
  for (const { key, name, x, y, radius, isStrong } of inTurn) {
    if (name === '') continue;
    const [away, wide] = [radius + (isStrong ? 8 : 4), name.length * LETTER];
    const beside: readonly (readonly [Named, Box])[] = [
      [{ x: x + away, y: y + 4, anchor: 'start' }, [x + away, y - 8, x + away + wide, y - 8 + LINE]],
      [{ x: x - away, y: y + 4, anchor: 'end' }, [x - away - wide, y - 8, x - away, y - 8 + LINE]],
      [{ x, y: y - away - 2, anchor: 'middle' }, [x - wide / 2, y - away - LINE, x + wide / 2, y - away]],
      [{ x, y: y + away + 9, anchor: 'middle' }, [x - wide / 2, y + away, x + wide / 2, y + away + LINE]],
    ];
    const free = beside.find(([, box]) => boxes.every((other) => apart(box, other))) ?? (isStrong ? beside[0] : null);
    if (!free) continue;
    found.set(key, free[0]);
    boxes.push(free[1]);
  }
  return found;
}

function Mark({
  of,
  x,
  y,
  name,
  onChoose,
}: {
  of: Spotted;
  x: number;
  y: number;
  name: Named | undefined;
  onChoose: () => void;
}) {
  const fill = of.isFilled ? 'currentColor' : 'var(--color-base-100)';
  return (
    <g
      role="button"
      tabIndex={0}
      aria-label={of.says}
      aria-pressed={!!of.isStrong}
      className="cursor-pointer"
      onClick={onChoose}
      onKeyDown={(e) => {
        if (e.key !== 'Enter' && e.key !== ' ') return;
        e.preventDefault();
        onChoose();
      }}
    >
      <title>{of.says}</title>
      <g className={of.tone ?? ''}>
        {of.isSquare ? (
          <rect
            x={x - of.radius}
            y={y - of.radius}
            width={of.radius * 2}
            height={of.radius * 2}
            fill={fill}
            stroke="currentColor"
            strokeWidth="1.5"
          />
        ) : (
          <circle cx={x} cy={y} r={of.radius} fill={fill} stroke="currentColor" strokeWidth="1.5" />
        )}
      </g>
      {of.isStrong && <circle cx={x} cy={y} r={of.radius + 4} fill="none" stroke="currentColor" strokeWidth="1.5" />}
      {name && (
        <text
          x={name.x}
          y={name.y}
          textAnchor={name.anchor}
          fontSize="12"
          fill="currentColor"
          stroke="var(--color-base-100)"
          strokeWidth="3"
          paintOrder="stroke"
          fontWeight={of.isStrong ? 600 : 400}
        >
          {of.name}
        </text>
      )}
    </g>
  );
}

/** Places around a centre, each to be chosen; `ways` are drawn between positions, under the places. */
export function Rings({
  spots,
  centre,
  label,
  ways = [],
  choose,
}: {
  spots: readonly Spotted[];
  centre: Position;
  label: string;
  ways?: readonly { readonly key: string; readonly of: readonly Position[] }[];
  choose: (key: string) => void;
}) {
  const farthest = Math.max(0.5, ...spots.map((s) => distanceKm(centre, s)));
  const rings = ringsFor(farthest);
  const outer = rings[rings.length - 1] ?? 1;
  const scale = (Math.min(SIZE.width, SIZE.height) / 2 - SIZE.margin) / outer;
  const project = geoAzimuthalEquidistant()
    .rotate([-centre.longitude, -centre.latitude])
    .scale(scale * EARTH_KM)
    .translate([SIZE.width / 2, SIZE.height / 2]);
  const at = (p: Position): [number, number] => project([p.longitude, p.latitude]) ?? [0, 0];
  const placed = spots.map((s) => {
    const [x, y] = at(s);
    return { ...s, x, y };
  });
  const names = namesBeside(placed);
  return (
    <svg
      viewBox={`0 0 ${SIZE.width} ${SIZE.height}`}
      className="sheet h-[520px] w-full max-w-[720px]"
      role="group"
      aria-label={label}
    >
      {rings.map((km) => (
        <g key={km}>
          <circle cx={SIZE.width / 2} cy={SIZE.height / 2} r={km * scale} fill="none" stroke="var(--hairline)" />
          <text x={SIZE.width / 2 + 4} y={SIZE.height / 2 - km * scale + 12} fontSize="11" fill="var(--ink2)">
            {sayKm(km)}
          </text>
        </g>
      ))}
      <text x={SIZE.width / 2} y="14" fontSize="11" textAnchor="middle" fill="var(--ink2)">
        north
      </text>
      {ways.map((w) => (
        <polyline
          key={w.key}
          points={w.of.map((p) => at(p).join(',')).join(' ')}
          fill="none"
          stroke="var(--ink2)"
          strokeWidth="1"
        />
      ))}
      {placed.map((s) => (
        <Mark key={s.key} of={s} x={s.x} y={s.y} name={names.get(s.key)} onChoose={() => choose(s.key)} />
      ))}
    </svg>
  );
}
