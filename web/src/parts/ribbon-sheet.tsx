// The ribbon as a sheet: cover, care, trouble and pulse lanes at full width; drag a stretch to look closer, arrow keys move, + and − zoom.
import { useId, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import { extent } from 'd3-array';
import { scaleLinear } from 'd3-scale';
import type { Ribbon } from '#api/ribbon.ts';
import { DAY, fromDayNumber, toDayNumber } from '#core/time/index.ts';
import { RibbonAxis, RibbonLine, type RibbonSpan } from './ribbon.tsx';
import { sayDate } from './words.ts';

export type Pulse = {
  readonly label: string;
  readonly points: readonly { readonly at: number; readonly value: number }[];
  readonly limits: readonly number[];
};

const LEAST_DAYS = 14;
const PULSE_HEIGHT = 56;

/** A stretch of whole days kept inside the outer one, at least two weeks long. */
export function stretchWithin(from: number, to: number, outer: { from: number; to: number }): [number, number] {
  const length = Math.min(outer.to - outer.from, Math.max(LEAST_DAYS, Math.round(to - from)));
  const start = Math.round(Math.min(outer.to - length, Math.max(outer.from, from)));
  return [start, start + length];
}

/** Less than this part of the stretch would be a spike: such a lane is drawn over the days it has values for. */
const SPIKE = 0.1;

/** The stretch a lane is drawn over: the sheet's, or its own where that would show nothing. Milliseconds. */
export function laneStretch(
  pulse: Pick<Pulse, 'points'>,
  start: number,
  end: number,
): { readonly start: number; readonly end: number; readonly isOwn: boolean } {
  const at = pulse.points.map((p) => p.at).filter((t) => t >= start && t <= end);
  const [first, last] = [Math.min(...at), Math.max(...at)];
  return at.length < 2 || last === first || last - first >= SPIKE * (end - start)
    ? { start, end, isOwn: false }
    : { start: first, end: last, isOwn: true };
}

const dayOf = (ms: number): string => sayDate(fromDayNumber(Math.floor(ms / DAY)));

function PulseLane({ pulse, span }: { pulse: Pulse; span: RibbonSpan }) {
  const { start, end, isOwn } = laneStretch(pulse, toDayNumber(span.from) * DAY, toDayNumber(span.to) * DAY);
  const shown = pulse.points.filter((p) => p.at >= start && p.at <= end);
  const values = [...shown.map((p) => p.value), ...pulse.limits];
  if (shown.length === 0) return <p className="quiet flex h-6 items-center">{pulse.label}: nothing in this stretch</p>;
  const [low, high] = extent(values) as [number, number];
  // All alike, they lie in the middle.
  const flat = low === high ? 1 : 0;
  const y = scaleLinear([low - flat, high + flat], [PULSE_HEIGHT - 4, 4]);
  const x = scaleLinear([start, end], [0, 1000]);
  const drawing = (
    <svg
      viewBox={`0 0 1000 ${PULSE_HEIGHT}`}
      preserveAspectRatio="none"
      width="100%"
      height={PULSE_HEIGHT}
      role="img"
      aria-label={`${pulse.label}: ${shown.length} values from ${low} to ${high}`}
      className="block"
    >
      {pulse.limits.map((l) => (
        <line
          key={l}
          x1="0"
          x2="1000"
          y1={y(l)}
          y2={y(l)}
          stroke="currentColor"
          strokeDasharray="5 4"
          strokeOpacity="0.6"
          vectorEffect="non-scaling-stroke"
        />
      ))}
      <polyline
        points={shown.map((p) => `${x(p.at).toFixed(1)},${y(p.value).toFixed(1)}`).join(' ')}
        fill="none"
        stroke="currentColor"
        strokeWidth="1.3"
        vectorEffect="non-scaling-stroke"
      />
    </svg>
  );
  return isOwn ? (
    <div className="relative border-x border-dashed border-secondary">
      {drawing}
      <span className="quiet absolute top-0 left-1 bg-base-100/80 px-1">
        drawn wider than the line above: {dayOf(start)} to {dayOf(end)}
      </span>
    </div>
  ) : (
    drawing
  );
}

/** The stretch of the time line that is shown: moved and zoomed by keys, or by dragging across the part to look at. */
function useStretch(span: RibbonSpan) {
  const outer = { from: toDayNumber(span.from), to: toDayNumber(span.to) };
  const [[from, to], setStretch] = useState<[number, number]>([outer.from, outer.to]);
  const [brush, setBrush] = useState<[number, number] | null>(null);
  const lane = useRef<HTMLDivElement>(null);
  const shown: RibbonSpan = { ...span, from: fromDayNumber(from), to: fromDayNumber(to) };
  const isZoomed = from !== outer.from || to !== outer.to;
  const set = (a: number, b: number): void => setStretch(stretchWithin(a, b, outer));
  const shareAt = (event: PointerEvent): number => {
    const box = lane.current?.getBoundingClientRect();
    return box ? Math.min(1, Math.max(0, (event.clientX - box.left) / box.width)) : 0;
  };
  const onKey = (event: KeyboardEvent): void => {
    const length = to - from;
    const step = Math.max(1, Math.round(length / 6));
    if (event.key === 'ArrowLeft') set(from - step, to - step);
    else if (event.key === 'ArrowRight') set(from + step, to + step);
    else if (event.key === '+' || event.key === '=') set(from + length / 4, to - length / 4);
    else if (event.key === '-') set(from - length / 2, to + length / 2);
    else if (event.key === 'Home') set(outer.from, outer.from + length);
    else if (event.key === 'End') set(outer.to - length, outer.to);
    else if (event.key === '0') set(outer.from, outer.to);
    else return;
    event.preventDefault();
  };
  const all = (): void => set(outer.from, outer.to);
  const handlers = {
    onKeyDown: onKey,
    onPointerDown: (e: PointerEvent<HTMLElement>): void => {
      e.currentTarget.setPointerCapture(e.pointerId);
      setBrush([shareAt(e), shareAt(e)]);
    },
    onPointerMove: (e: PointerEvent): void => {
      if (brush) setBrush([brush[0], shareAt(e)]);
    },
    onPointerUp: (): void => {
      if (brush) {
        const [a, b] = [Math.min(...brush), Math.max(...brush)];
        if (b - a > 0.02) set(from + a * (to - from), from + b * (to - from));
      }
      setBrush(null);
    },
    onDoubleClick: all,
  };
  return { lane, shown, days: to - from, isZoomed, brush, all, handlers };
}

export function RibbonSheet({
  ribbon,
  span,
  pulses,
  children,
}: {
  ribbon: Ribbon;
  span: RibbonSpan;
  pulses: readonly Pulse[];
  children?: React.ReactNode;
}) {
  const { lane, shown, days, isZoomed, brush, all, handlers } = useStretch(span);
  const hint = useId();
  return (
    <div className="sheet mt-3 px-3 pt-1 pb-2">
      <div className="grid grid-cols-[6.4rem_1fr]">
        <span />
        <RibbonAxis span={shown} every={days > 900 ? 3 : days > 400 ? 2 : 1} />
        <div className="text-[0.87rem] font-semibold" aria-hidden="true">
          <p className="h-6 leading-5">Cover</p>
          <p className="h-5 leading-5">Care</p>
          <p className="h-5 leading-5">Trouble</p>
          {pulses.map((p) => (
            <p
              key={p.label}
              className="pr-2 leading-4 font-normal text-ink2"
              style={{ height: PULSE_HEIGHT }}
              title={p.label}
            >
              {p.label}
            </p>
          ))}
        </div>
        <div
          ref={lane}
          tabIndex={0}
          role="group"
          aria-label={`Time line from ${sayDate(shown.from)} to ${sayDate(shown.to)}`}
          aria-describedby={hint}
          className="relative cursor-crosshair touch-none select-none"
          {...handlers}
        >
          <RibbonLine ribbon={ribbon} span={shown} size="strip" />
          {pulses.map((p) => (
            <PulseLane key={p.label} pulse={p} span={shown} />
          ))}
          {brush && (
            <div
              className="pointer-events-none absolute inset-y-0 border-x border-base-content bg-base-content/10"
              style={{
                left: `${Math.min(...brush) * 100}%`,
                width: `${Math.abs(brush[1] - brush[0]) * 100}%`,
              }}
            />
          )}
        </div>
      </div>
      <p id={hint} className="quiet flex flex-wrap gap-x-4 pt-1">
        {isZoomed ? (
          <>
            <span>
              {sayDate(shown.from)} to {sayDate(shown.to)}
            </span>
            <button className="link-ink" onClick={all}>
              all of it
            </button>
          </>
        ) : (
          <span>Drag across to look closer; with the keyboard: arrows move, + and − zoom, 0 shows all.</span>
        )}
        {children}
      </p>
    </div>
  );
}
