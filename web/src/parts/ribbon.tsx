// The ribbon: one time axis with a now line; cover, care and trouble lanes. Thread (table rows) and strip (headers).
import { useId } from 'react';
import { scaleLinear } from 'd3-scale';
import { utcMonth } from 'd3-time';
import type { CareMark, CoverBand, Ribbon, TroubleBar } from '#api/ribbon.ts';
import { toDayNumber, DAY, type Instant, type LocalDate } from '#core/time/index.ts';
import { sayDate } from './words.ts';

export type RibbonSpan = { readonly from: LocalDate; readonly to: LocalDate; readonly now: Instant };
type Lanes = {
  readonly height: number;
  readonly cover: number;
  readonly band: number;
  readonly care: number;
  readonly radius: number;
  readonly trouble: number;
  readonly bar: number;
};

const THREAD: Lanes = { height: 24, cover: 0.5, band: 8, care: 13.5, radius: 2.6, trouble: 19, bar: 4.5 };
const STRIP: Lanes = { height: 64, cover: 2, band: 14, care: 34, radius: 4, trouble: 50, bar: 8 };

/** Share of the axis at a day (possibly with a fraction), in percent, kept inside it. */
const scaleOf = ({ from, to }: RibbonSpan): ((day: number) => number) =>
  scaleLinear([toDayNumber(from), toDayNumber(to)], [0, 100]).clamp(true);

const percent = (x: number): string => `${x.toFixed(3)}%`;
const dayOf = (at: Instant): number => at / DAY;
const PATTERN: Record<CoverBand['kind'], string> = {
  warranty: 'url(#hatch-warranty)',
  agreement: 'var(--band)',
  draft: 'url(#dots-draft)',
  suspended: 'url(#dots-draft)',
};

/** Bands that run at the same time lie below one another: each takes the first free row. */
export function bandRows(bands: readonly CoverBand[]): number[] {
  const ends: string[] = [];
  return bands.map((band) => {
    const row = ends.findIndex((end) => end < band.from);
    const taken = row < 0 ? ends.length : row;
    ends[taken] = band.to ?? '9999-12-31';
    return taken;
  });
}

function CoverLane({
  bands,
  x,
  lanes,
  named,
}: {
  bands: readonly CoverBand[];
  x: (day: number) => number;
  lanes: Lanes;
  named: boolean;
}) {
  const shows = (band: CoverBand): boolean =>
    x(toDayNumber(band.from)) < 100 && (band.to === null || x(toDayNumber(band.to) + 1) > 0);
  const sorted = bands.filter(shows).sort((a, b) => (a.from < b.from ? -1 : 1));
  const rows = bandRows(sorted);
  const depth = Math.max(1, ...rows.map((r) => r + 1));
  const height = lanes.band / Math.min(depth, named ? 2 : 3);
  return sorted.map((band, i) => {
    const [from, to] = [x(toDayNumber(band.from)), x(band.to === null ? Infinity : toDayNumber(band.to) + 1)];
    const row = rows[i] ?? 0;
    if (to <= from || row > 2) return null;
    const y = lanes.cover + row * height;
    const dashed = band.kind === 'draft' || band.kind === 'suspended';
    return (
      <g key={`${band.label}${band.from}`}>
        <rect
          x={percent(from)}
          y={y}
          width={percent(to - from)}
          height={height - 1}
          fill={PATTERN[band.kind]}
          stroke="currentColor"
          strokeWidth="0.8"
          strokeDasharray={dashed ? '3 2' : undefined}
        >
          <title>{`${band.label}${dashed ? ` (${band.kind})` : ''}: ${sayDate(band.from)} to ${band.to ? sayDate(band.to) : 'open end'}`}</title>
        </rect>
        {band.noticeBy && (
          <line
            x1={percent(x(toDayNumber(band.noticeBy)))}
            x2={percent(x(toDayNumber(band.noticeBy)))}
            y1={y - 1}
            y2={y + height}
            stroke="currentColor"
            strokeDasharray="2 2"
          />
        )}
        {named && depth === 1 && to - from > 8 && (
          <svg x={percent(from)} y={y} width={percent(to - from)} height={height} overflow="hidden">
            <text
              x="6"
              y={height / 2 + 3.5}
              fontSize="11"
              fill="currentColor"
              stroke="var(--color-base-100)"
              strokeWidth="3"
              paintOrder="stroke"
            >
              {band.label}
              {dashed ? ` (${band.kind})` : ''}
            </text>
          </svg>
        )}
      </g>
    );
  });
}

/** How sure a day is that a meter was carried on to. */
const sayBand = ({ band }: CareMark): string =>
  band
    ? `; by its meter it comes between ${sayDate(band.from)} and ${band.to ? sayDate(band.to) : 'no day that can be told'}`
    : '';

/** A line below the mark, over the days between which the meter gets there four times in five; open where no end can be told. */
function Band({ band, x, y }: { band: NonNullable<CareMark['band']>; x: (day: number) => number; y: number }) {
  const [from, to] = [x(toDayNumber(band.from)), band.to === null ? 100 : x(toDayNumber(band.to) + 1)];
  return (
    <line
      x1={percent(from)}
      x2={percent(to)}
      y1={y}
      y2={y}
      stroke="var(--ink2)"
      strokeWidth="1.6"
      strokeDasharray={band.to === null ? '3 2' : undefined}
    />
  );
}

function CareLane({ marks, x, lanes }: { marks: readonly CareMark[]; x: (day: number) => number; lanes: Lanes }) {
  const r = lanes.radius;
  return marks.map((mark) => {
    const [at, due] = [mark.planned, mark.due].map((day) => percent(x(toDayNumber(day) + 0.5)));
    const isMoved = mark.planned !== mark.due;
    const [from, to] = [percent(x(toDayNumber(mark.windowFrom))), percent(x(toDayNumber(mark.windowTo) + 1))];
    const isLeftOut = mark.state === 'left out';
    const late = mark.state === 'outside window' || mark.state === 'not done';
    const top = lanes.care - r - 2.5;
    return (
      <g key={`${mark.due}${mark.label}`} className={late ? 'text-missed' : undefined}>
        <title>{`${mark.label}, ${isLeftOut ? 'would be due' : 'due'} ${sayDate(mark.due)}${isMoved ? `, planned for ${sayDate(mark.planned)}` : ''}${mark.changed && !isLeftOut ? ', changed by hand' : ''}: ${mark.state}${sayBand(mark)}`}</title>
        {mark.band && <Band band={mark.band} x={x} y={lanes.care + r + 2} />}
        {lanes.radius > 3 && (
          <g stroke="var(--ink2)" strokeWidth="1">
            <line x1={from} x2={to} y1={top} y2={top} />
            <line x1={from} x2={from} y1={top - 2} y2={top + 2} />
            <line x1={to} x2={to} y1={top - 2} y2={top + 2} />
          </g>
        )}
        {isMoved && (
          <g stroke="var(--ink2)" strokeWidth="1">
            <line x1={due} x2={at} y1={lanes.care} y2={lanes.care} />
            <line x1={due} x2={due} y1={lanes.care - r} y2={lanes.care + r} />
          </g>
        )}
        <svg x={at} y={lanes.care} overflow="visible">
          {mark.changed && <path d={`M${-r} ${r + 5}h${2 * r}l${-r} ${-3.5}z`} fill="currentColor" />}
          {mark.state === 'not done' ? (
            <path d={`M${-r} ${-r}L${r} ${r}M${-r} ${r}L${r} ${-r}`} stroke="currentColor" strokeWidth="1.5" />
          ) : (
            <circle
              r={r}
              fill={mark.state === 'planned' || isLeftOut ? 'var(--color-base-100)' : 'currentColor'}
              stroke="currentColor"
              strokeWidth="1.1"
              // What was left out is no more than a trace.
              strokeDasharray={isLeftOut ? '1.5 1.7' : undefined}
            />
          )}
          {mark.state === 'outside window' && (
            <line x1={-r - 3} x2={r + 3} y1="0" y2="0" stroke="currentColor" strokeWidth="1.5" />
          )}
        </svg>
      </g>
    );
  });
}

function TroubleLane({
  bars,
  x,
  lanes,
  now,
}: {
  bars: readonly TroubleBar[];
  x: (day: number) => number;
  lanes: Lanes;
  now: Instant;
}) {
  return bars.map((bar) => {
    const end = bar.to ?? now;
    const lastNotch = Math.max(bar.from, ...bar.notches.filter((n) => n < end));
    const split = bar.missed ? lastNotch : end;
    const [from, mid, to] = [x(dayOf(bar.from)), x(dayOf(split as Instant)), x(dayOf(end))];
    if (to < 0) return null;
    const y = lanes.trouble;
    return (
      <g key={bar.orderId}>
        <title>{`${bar.label}${bar.to === null ? ' (open)' : ''}${bar.missed ? ', promise missed' : ''}`}</title>
        <svg x={percent(from)} y={y} overflow="visible">
          <rect x="-1.5" width="3" height={lanes.bar} fill={bar.missed ? 'var(--missed)' : 'currentColor'} />
        </svg>
        <rect x={percent(from)} y={y} width={percent(Math.max(0, mid - from))} height={lanes.bar} fill="currentColor" />
        {bar.missed && (
          <rect
            x={percent(mid)}
            y={y - 1}
            width={percent(Math.max(0, to - mid))}
            height={lanes.bar + 2}
            fill="var(--missed)"
          />
        )}
        {bar.missed && (
          <svg x={percent(to)} y={y} overflow="visible">
            <path d={`M-2.5 -3L2.5 -3L0 0.5Z`} fill="var(--missed)" />
          </svg>
        )}
      </g>
    );
  });
}

export function sayRibbon(ribbon: Ribbon): string {
  const done = ribbon.care.filter((c) => c.state === 'in window').length;
  const late = ribbon.care.filter((c) => c.state === 'outside window' || c.state === 'not done').length;
  return `${ribbon.cover.length} covers; ${done} visits in window, ${late} late or not done, ${ribbon.care.filter((c) => c.state === 'planned').length} planned; ${ribbon.trouble.length} repairs, ${ribbon.trouble.filter((t) => t.missed).length} with a promise missed`;
}

/** The months of an axis, with January named by its year. */
export function RibbonAxis({ span, every = 1 }: { span: RibbonSpan; every?: number }) {
  const x = scaleOf(span);
  const months = utcMonth
    .range(new Date(`${span.from}T00:00:00Z`), new Date(`${span.to}T00:00:00Z`))
    .filter((m) => m.getUTCMonth() % every === 0);
  return (
    <svg width="100%" height="16" aria-hidden="true" className="block overflow-visible">
      {months.map((m) => {
        const january = m.getUTCMonth() === 0;
        return (
          <text
            key={m.toISOString()}
            // On a phone there is room for every half year.
            className={m.getUTCMonth() % 6 === 0 ? undefined : 'max-sm:hidden'}
            x={percent(x(m.getTime() / DAY))}
            y="12"
            fontSize="11.5"
            fill={january ? 'currentColor' : 'var(--ink2)'}
            fontWeight={january ? 600 : 400}
          >
            {january ? m.getUTCFullYear() : m.toLocaleString('en-GB', { month: 'short', timeZone: 'UTC' })}
          </text>
        );
      })}
    </svg>
  );
}

export function RibbonLine({ ribbon, span, size }: { ribbon: Ribbon; span: RibbonSpan; size: 'thread' | 'strip' }) {
  const lanes = size === 'thread' ? THREAD : STRIP;
  const x = scaleOf(span);
  const now = percent(x(dayOf(span.now)));
  const id = useId();
  return (
    <svg width="100%" height={lanes.height} role="img" aria-labelledby={id} className="block">
      <title id={id}>{sayRibbon(ribbon)}</title>
      {size === 'strip' &&
        [24, 44].map((y) => <line key={y} x1="0" x2="100%" y1={y} y2={y} stroke="var(--hairline)" />)}
      <CoverLane bands={ribbon.cover} x={x} lanes={lanes} named={size === 'strip'} />
      <CareLane marks={ribbon.care} x={x} lanes={lanes} />
      <TroubleLane bars={ribbon.trouble} x={x} lanes={lanes} now={span.now} />
      <line x1={now} x2={now} y1="0" y2={lanes.height} stroke="currentColor" strokeWidth={size === 'strip' ? 1.6 : 1} />
    </svg>
  );
}

/** Patterns that every ribbon and margin bar refers to; drawn once in the frame. */
export function RibbonPatterns() {
  return (
    <svg width="0" height="0" aria-hidden="true" className="absolute">
      <defs>
        <pattern id="hatch-warranty" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <line x1="0" y1="0" x2="0" y2="5" stroke="currentColor" strokeWidth="1" strokeOpacity="0.5" />
        </pattern>
        <pattern id="dots-draft" width="5" height="5" patternUnits="userSpaceOnUse">
          <circle cx="1.5" cy="1.5" r="0.7" fill="currentColor" fillOpacity="0.5" />
        </pattern>
        <pattern id="hatch-paused" width="4" height="4" patternUnits="userSpaceOnUse">
          <line x1="1" y1="0" x2="1" y2="4" stroke="currentColor" strokeWidth="1.3" />
        </pattern>
      </defs>
    </svg>
  );
}
