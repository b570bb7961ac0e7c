// The rota's own drawing: people across, time along; turned by a quarter where somebody prefers it, by place where that is the question.
import { startTransition, useDeferredValue, useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react';
import type { LooseOrder, OrderWorkOut, RotaAppointment, RotaPerson } from '#api/rota.ts';
import type { LocalDate, Zone } from '#core/time/index.ts';
import { sayTime, sayZone } from '../parts/words.ts';
import { axisOf, DAYS_SHOWN, type Axis, type View } from './axis.ts';
import { Names, NAMES, RowBoxes, RowNames, rowsOf, type Chosen, type Row } from './board-rows.tsx';
import { useCarryPointer } from './carry-pointer.ts';
import type { GhostStore } from './carrying.ts';
import { dayOf, minutesOf, stretchesOf, workFrom, type Held, type Stretch, type Rota } from './days.ts';
import { expectedToday } from './following.ts';
import { GhostBox } from './ghost.tsx';
import { hang, LOOSE_ROW, LooseStrip } from './loose.tsx';
import { put, type Plane } from './plane.ts';
import { CannotGo, Open, Ways } from './row.tsx';

export type BoardProps = {
  readonly rota: Rota;
  readonly loose: readonly LooseOrder[];
  readonly view: View;
  readonly date: LocalDate;
  readonly zone: Zone;
  readonly turned: boolean;
  readonly byPlace: boolean;
  readonly chosen: Chosen;
  readonly held: Held | null;
  readonly store: GhostStore;
  readonly work: OrderWorkOut | undefined;
  readonly mayPlan: boolean;
  /** Only those of whom nothing of the person speaks against what is chosen. */
  readonly onlyCan: boolean;
  readonly onChoose: (chosen: Chosen) => void;
  readonly onHold: (held: Held) => void;
  readonly onLetGo: () => void;
  readonly onReplace: (person: RotaPerson, date: LocalDate) => void;
};

const ROW: Readonly<Record<View, number>> = { hours: 58, day: 58, week: 46, month: 34 };
const COLUMN = 128;
const HEAD = 22;
/** Time down: so many pixels an hour. */
const HOUR_DOWN = 46;
const STEP: Readonly<Record<View, number>> = { hours: 5, day: 5, week: 15, month: 60 };
const LOOKED_STEP: Readonly<Record<View, number>> = { hours: 5, day: 10, week: 60, month: 240 };

/** How long the axis can be where it is shown. */
function useLength(turned: boolean, view: View, hours: number) {
  const ref = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  // Before anything is drawn: a full week is drawn once, and not again for its width.
  useLayoutEffect(() => {
    const box = ref.current;
    if (!box) return;
    const measure = () => setWidth(Math.floor(box.clientWidth));
    measure();
    const watch = new ResizeObserver(measure);
    watch.observe(box);
    return () => watch.disconnect();
  }, []);
  const least = { hours: 480, day: 480, week: 560, month: 640 }[view];
  const across = Math.max(least, width - NAMES - 2);
  const down = { hours: 8 * 72, day: hours * HOUR_DOWN, week: 7 * 110, month: 35 * 28 }[view];
  return { ref, isMeasured: width > 0, length: turned ? down : across };
}

function Ticks({ axis, plane, across }: { axis: Axis; plane: Plane; across: number }) {
  return axis.ticks.map((t) => (
    <div key={`${t.at} ${t.label}`}>
      <div
        className={`absolute ${t.isDay && t.label !== '' ? 'bg-ink2/50' : 'bg-hairline'}`}
        style={put(plane, t.at, t.at + 1, plane.turned ? plane.names - 8 : HEAD - 4, across)}
      />
      <span
        className={`absolute text-[0.8rem] whitespace-nowrap tabular-nums ${t.isDay ? 'font-semibold' : 'text-ink2'}`}
        style={plane.turned ? { top: t.at + 1, left: 4 } : { left: t.at + (t.isDay ? 3 : -14), top: 2 }}
      >
        {t.label}
      </span>
    </div>
  ));
}

function saidBeside({ before, after, unbound, more }: ReturnType<typeof hang>): string {
  return [
    before > 0 ? `${before} too late already` : '',
    more > 0 ? `${more} more here` : '',
    after > 0 ? `${after} later` : '',
    unbound > 0 ? `${unbound} without a promise` : '',
  ]
    .filter(Boolean)
    .join(' · ');
}

/** Rows of people of whom something speaks against what is chosen all the time are left out where only who can is asked for. */
function whoCan(rows: readonly Row[], axis: Axis, cannot: CannotOf): Row[] {
  const shown = axis.segments.reduce((sum, s) => sum + (s.to - s.from), 0);
  return rows.filter((r) => {
    const stretches = r.person ? cannot(r.person) : [];
    const shut = stretches.filter((s) => s.binds).reduce((sum, s) => sum + (s.to - s.from), 0);
    return shut < shown;
  });
}

type CannotOf = (person: RotaPerson) => readonly Stretch[];

/**
 * Where what is carried or chosen cannot go; null while nothing is. Each person's is worked out when their row is drawn: a frame is
 * drawn between two rows, where all at once would hold several.
 */
function useCannot({ rota, held, work, view, chosen }: BoardProps, axis: Axis): CannotOf | null {
  return useMemo(() => {
    if (!work) return null;
    const needs = workFrom(work, held ? minutesOf(held) : work.work.minutes);
    const without = held?.what === 'appointment' ? held.of.id : chosen?.what === 'appointment' ? chosen.id : null;
    const known = new Map<number, readonly Stretch[]>();
    return (p) => {
      const found =
        known.get(p.id) ??
        axis.segments.flatMap((s) =>
          stretchesOf(dayOf(rota, p, s.date, without), p.name, needs, s, LOOKED_STEP[view], rota.roads),
        );
      known.set(p.id, found);
      return found;
    };
  }, [rota, axis, held, work, view, chosen]);
}

/** Rows that the screen has room for at first. */
const AT_FIRST = 13;

/** How many rows are drawn: those on the screen at once, the others as soon as there is time. */
function useGradually(all: number): number {
  const [drawn, setDrawn] = useState(AT_FIRST);
  useEffect(() => startTransition(() => setDrawn(Infinity)), []);
  return Math.min(all, drawn);
}

/** Where everything lies: the axis, the rows across it, and the loose work above them. */
function useLayout(props: BoardProps) {
  const { rota, view, date, zone, turned, byPlace } = props;
  const spans = useMemo(
    () => [...rota.appointments, ...rota.people.flatMap((p) => p.days.flatMap((d) => d.open))],
    [rota],
  );
  const { ref, isMeasured, length } = useLength(turned, view, 13);
  const axis = useMemo(
    () => axisOf({ view, date, zone, now: rota.now, length, spans }),
    [view, date, zone, rota.now, length, spans],
  );
  const plane = useMemo(
    (): Plane => ({ turned, row: turned ? COLUMN : ROW[view], names: turned ? 52 : HEAD }),
    [turned, view],
  );
  const hanging = useMemo(() => hang(props.loose, axis, turned), [props.loose, axis, turned]);
  const all = useMemo(() => rowsOf(rota, byPlace), [rota, byPlace]);
  // What is carried is there at once; where it cannot go follows as soon as it is worked out.
  const [held, work] = [useDeferredValue(props.held), useDeferredValue(props.work)];
  const cannot = useCannot({ ...props, held, work }, axis);
  const rows = props.onlyCan && cannot && !byPlace ? whoCan(all, axis, cannot) : all;
  const head = turned ? plane.names : HEAD;
  const top = head + hanging.lanes * (turned ? 130 : LOOSE_ROW) + (turned ? 8 : 10);
  const drawn = useGradually(rows.length);
  const acrossOfRow = (i: number): number => top + i * plane.row;
  return {
    ref,
    isMeasured,
    drawn,
    axis,
    plane,
    hanging,
    cannot,
    rows,
    head,
    top,
    acrossOfRow,
    total: acrossOfRow(rows.length),
  };
}
type Layout = ReturnType<typeof useLayout>;

function Caption({ rota, zone, layout }: { rota: Rota; zone: Zone; layout: Layout }) {
  const beside = saidBeside(layout.hanging);
  const zones = [...new Set(rota.people.map((p) => p.zone))].filter((z) => z !== zone);
  return (
    <p className="flex flex-wrap items-baseline gap-x-3 pb-1">
      <span className="font-semibold">Loose work, hung at its latest start</span>
      {beside && <span className="quiet">{beside}</span>}
      {zones.length > 0 && (
        <span className="quiet ml-auto">
          times of {sayZone(zone)}; it is{' '}
          {zones.map((z) => `${sayTime(rota.now, z as Zone)} in ${sayZone(z)}`).join(', ')}
        </span>
      )}
    </p>
  );
}

/** A row of its own to React, so that it may draw a frame before the next. */
const CannotGoOf = ({
  person,
  cannot,
  axis,
  plane,
}: {
  person: RotaPerson;
  cannot: CannotOf;
  axis: Axis;
  plane: Plane;
}) => <CannotGo stretches={cannot(person)} axis={axis} plane={plane} />;

/** What lies under the boxes: bands, ticks, where what is carried cannot go, now, and the ways. */
function Ground({ rota, layout }: { rota: Rota; layout: Layout }) {
  const { axis, plane, cannot, head, top, total, acrossOfRow } = layout;
  const rows = layout.rows.slice(0, layout.drawn);
  const nowAt = rota.now > axis.from && rota.now < axis.to ? axis.place(rota.now) : null;
  return (
    <>
      <div
        className="absolute rounded-[3px] border border-hairline bg-base-100"
        style={put(plane, 0, axis.length, head, top - 4)}
      />
      {rows.map((row, i) => (
        <div
          key={row.key}
          className={`rota-row ${row.person ? 'rota-shut' : 'absolute bg-base-100'}`}
          style={put(plane, 0, axis.length, acrossOfRow(i), acrossOfRow(i) + plane.row - 1)}
        >
          {row.person && <Open person={row.person} axis={axis} plane={plane} />}
        </div>
      ))}
      <Ticks axis={axis} plane={plane} across={total} />
      {rows.map(
        (row, i) =>
          row.person && (
            <div
              key={row.key}
              className="rota-row absolute"
              style={put(plane, 0, axis.length, acrossOfRow(i), acrossOfRow(i) + plane.row - 1)}
            >
              {cannot && <CannotGoOf person={row.person} cannot={cannot} axis={axis} plane={plane} />}
              <Ways rota={rota} person={row.person} axis={axis} plane={plane} />
            </div>
          ),
      )}
      {nowAt !== null && (
        <div
          className="absolute z-[1] bg-base-content"
          style={put(plane, nowAt - 0.75, nowAt + 0.75, plane.turned ? plane.names - 6 : HEAD - 4, total)}
          aria-hidden
        />
      )}
    </>
  );
}

type Grab = ReturnType<typeof useCarryPointer>['grab'];

/** Appointments and loose work, each to be taken up. */
function Boxes({ props, layout, grab }: { props: BoardProps; layout: Layout; grab: Grab }) {
  const { rota, zone, chosen, held, onChoose } = props;
  const { axis, plane, head, top, acrossOfRow, hanging } = layout;
  const rows = layout.rows.slice(0, layout.drawn);
  const namesOf = (a: RotaAppointment): string =>
    a.personIds.map((id) => rota.people.find((p) => p.id === id)?.name ?? 'somebody else').join(', ');
  const expected = useMemo(() => expectedToday(rota), [rota]);
  const shared = { axis, plane, zone, now: rota.now, chosen, held, names: namesOf, choose: onChoose, grab, expected };
  return (
    <>
      {rows.map((row, i) => (
        <div
          key={row.key}
          className="rota-row absolute z-[2]"
          style={put(plane, 0, axis.length, acrossOfRow(i), acrossOfRow(i) + plane.row)}
        >
          <RowBoxes row={row} across={0} {...shared} />
        </div>
      ))}
      <div className="absolute" style={put(plane, 0, axis.length, head + 4, top)}>
        <LooseStrip
          hanging={hanging}
          plane={plane}
          now={rota.now}
          zone={zone}
          chosen={chosen?.what === 'loose' ? chosen.id : null}
          onChoose={(of) => onChoose({ what: 'loose', id: of.orderId })}
          onGrab={({ orderId, title, minutes, crew }, event) =>
            grab({ what: 'loose', orderId, title, minutes, crew }, null, event)
          }
        />
      </div>
    </>
  );
}

export function Board(props: BoardProps) {
  const { rota, view, date, zone, turned, byPlace, held, work, store, mayPlan, onReplace } = props;
  const layout = useLayout(props);
  const { ref, isMeasured, axis, plane, rows, top, total, acrossOfRow } = layout;
  const acrossOf = (personId: number): number | null => {
    const i = rows.findIndex((r) => r.person?.id === personId);
    return i < 0 ? null : acrossOfRow(i);
  };
  const rowAt = (across: number): number | null => rows[Math.floor((across - top) / plane.row)]?.person?.id ?? null;
  const { planeRef, grab, move, end } = useCarryPointer({
    ...{ axis, turned, store, rowAt, stepMinutes: STEP[view], mayCarry: mayPlan && !byPlace },
    ...{ onHold: props.onHold, onLetGo: props.onLetGo },
  });
  const names = { rota, date, zone, days: DAYS_SHOWN[view], mayPlan, onReplace };
  const size = turned
    ? { height: axis.length + 40, width: total }
    : { width: axis.length, height: total + 34, flex: 'none' };
  if (!isMeasured) return <div ref={ref} className="min-h-64" />;
  return (
    <div ref={ref} className="relative overflow-x-auto">
      <Caption rota={rota} zone={zone} layout={layout} />
      <div className={turned ? '' : 'flex'}>
        <RowNames turned={turned} top={top} rows={rows.slice(0, layout.drawn)} plane={plane}>
          {(row) => <Names row={row} {...names} />}
        </RowNames>
        <div
          ref={planeRef}
          className="relative touch-pan-y select-none"
          style={size}
          onPointerMove={move}
          onPointerUp={end}
          onPointerCancel={end}
        >
          <Ground rota={rota} layout={layout} />
          <Boxes props={props} layout={layout} grab={grab} />
          {held && <GhostBox {...{ store, rota, held, work, axis, plane, acrossOf, zone }} />}
        </div>
      </div>
    </div>
  );
}
