// The rota's own drawing: people across, time along; turned by a quarter where somebody prefers it, by place where that is the question.
import { useEffect, useMemo, useRef, useState } from 'react';
import type { LooseOrder, OrderWorkOut, Rota, RotaAppointment, RotaPerson } from '#api/rota.ts';
import type { LocalDate, Zone } from '#core/time/index.ts';
import { sayTime, sayZone } from '../parts/words.ts';
import { axisOf, DAYS_SHOWN, type Axis, type View } from './axis.ts';
import { Names, NAMES, RowBoxes, RowNames, rowsOf, type Chosen } from './board-rows.tsx';
import { useCarryPointer } from './carry-pointer.ts';
import type { GhostStore } from './carrying.ts';
import { dayOf, minutesOf, stretchesOf, workFrom, type Held } from './days.ts';
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
  useEffect(() => {
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
  return { ref, length: turned ? down : across };
}

function Ticks({ axis, plane, across }: { axis: Axis; plane: Plane; across: number }) {
  return axis.ticks.map((t) => (
    <div key={`${t.at} ${t.label}`}>
      <div
        className={`absolute ${t.isDay ? 'bg-ink2/50' : 'bg-hairline'}`}
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

export function Board(props: BoardProps) {
  const { rota, view, date, zone, turned, byPlace, held, work, store, chosen, mayPlan } = props;
  const spans = useMemo(
    () => [...rota.appointments, ...rota.people.flatMap((p) => p.days.flatMap((d) => d.open))],
    [rota],
  );
  const { ref, length } = useLength(turned, view, 13);
  const axis = useMemo(
    () => axisOf({ view, date, zone, now: rota.now, length, spans }),
    [view, date, zone, rota.now, length, spans],
  );
  const plane = useMemo(
    (): Plane => ({ turned, row: turned ? COLUMN : ROW[view], names: turned ? 52 : HEAD }),
    [turned, view],
  );
  const hanging = useMemo(() => hang(props.loose, axis, turned), [props.loose, axis, turned]);
  const days = DAYS_SHOWN[view];

  const all = useMemo(() => rowsOf(rota, byPlace), [rota, byPlace]);
  /** Where what is carried cannot go, by the person. */
  const cannot = useMemo(() => {
    const of = held ?? null;
    if (!work) return null;
    const needs = workFrom(work, of ? minutesOf(of) : work.work.minutes);
    const without = of?.what === 'appointment' ? of.of.id : chosen?.what === 'appointment' ? chosen.id : null;
    return new Map(
      rota.people.map((p) => [
        p.id,
        axis.segments.flatMap((s) => stretchesOf(dayOf(rota, p, s.date, without), p.name, needs, s, LOOKED_STEP[view])),
      ]),
    );
  }, [rota, axis, held, work, view, chosen]);
  const rows =
    props.onlyCan && cannot && !byPlace
      ? all.filter((r) => {
          const stretches = cannot.get(r.person?.id ?? 0) ?? [];
          const shut = stretches.filter((s) => s.binds).reduce((sum, s) => sum + (s.to - s.from), 0);
          return shut < axis.segments.reduce((sum, s) => sum + (s.to - s.from), 0);
        })
      : all;

  const looseLanes = hanging.lanes * (turned ? 130 : LOOSE_ROW) + (turned ? 8 : 10);
  const top = (turned ? plane.names : HEAD) + looseLanes;
  const acrossOfRow = (i: number): number => top + i * plane.row;
  const acrossOf = (personId: number): number | null => {
    const i = rows.findIndex((r) => r.person?.id === personId);
    return i < 0 ? null : acrossOfRow(i);
  };
  const total = acrossOfRow(rows.length);

  const rowAt = (across: number): number | null => rows[Math.floor((across - top) / plane.row)]?.person?.id ?? null;
  const { planeRef, grab, move, end } = useCarryPointer({
    ...{ axis, turned, store, rowAt, stepMinutes: STEP[view], mayCarry: mayPlan && !byPlace },
    ...{ onHold: props.onHold, onLetGo: props.onLetGo },
  });

  const nowAt = rota.now > axis.from && rota.now < axis.to ? axis.place(rota.now) : null;
  const beside = saidBeside(hanging);
  const zones = [...new Set(rota.people.map((p) => p.zone))].filter((z) => z !== zone);
  const namesOf = (a: RotaAppointment): string =>
    a.personIds.map((id) => rota.people.find((p) => p.id === id)?.name ?? 'somebody else').join(', ');

  return (
    <div ref={ref} className="relative overflow-x-auto">
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
      <div className={turned ? '' : 'flex'}>
        <RowNames turned={turned} top={top} rows={rows} plane={plane}>
          {(row) => (
            <Names row={row} rota={rota} date={date} days={days} mayPlan={mayPlan} onReplace={props.onReplace} />
          )}
        </RowNames>
        <div
          ref={planeRef}
          className="relative touch-pan-y select-none"
          style={turned ? { height: length + 40, width: total } : { width: length, height: total + 34, flex: 'none' }}
          onPointerMove={move}
          onPointerUp={end}
          onPointerCancel={end}
        >
          <div
            className="absolute rounded-[3px] border border-hairline bg-base-100"
            style={put(plane, 0, length, turned ? plane.names : HEAD, top - 4)}
          />
          {rows.map((row, i) => (
            <div
              key={row.key}
              className={row.person ? 'rota-shut' : 'absolute bg-base-100'}
              style={put(plane, 0, length, acrossOfRow(i), acrossOfRow(i) + plane.row - 1)}
            />
          ))}
          {rows.map(
            (row, i) =>
              row.person && (
                <Open key={row.key} person={row.person} axis={axis} plane={plane} across={acrossOfRow(i)} />
              ),
          )}
          <Ticks axis={axis} plane={plane} across={total} />
          {cannot &&
            rows.map(
              (row, i) =>
                row.person && (
                  <CannotGo
                    key={row.key}
                    stretches={cannot.get(row.person.id) ?? []}
                    axis={axis}
                    plane={plane}
                    across={acrossOfRow(i)}
                  />
                ),
            )}
          {nowAt !== null && (
            <div
              className="absolute z-[1] bg-base-content"
              style={put(plane, nowAt - 0.75, nowAt + 0.75, turned ? plane.names - 6 : HEAD - 4, total)}
              aria-hidden
            />
          )}
          {rows.map(
            (row, i) =>
              row.person && (
                <Ways key={row.key} rota={rota} person={row.person} axis={axis} plane={plane} across={acrossOfRow(i)} />
              ),
          )}
          {rows.map((row, i) => (
            <RowBoxes
              key={row.key}
              row={row}
              across={acrossOfRow(i)}
              axis={axis}
              plane={plane}
              zone={zone}
              now={rota.now}
              chosen={chosen}
              held={held}
              names={namesOf}
              choose={props.onChoose}
              grab={grab}
            />
          ))}
          <div className="absolute" style={put(plane, 0, length, (turned ? plane.names : HEAD) + 4, top)}>
            <LooseStrip
              hanging={hanging}
              plane={plane}
              now={rota.now}
              zone={zone}
              chosen={chosen?.what === 'loose' ? chosen.id : null}
              onChoose={(of) => props.onChoose({ what: 'loose', id: of.orderId })}
              onGrab={(of, event) =>
                grab(
                  { what: 'loose', orderId: of.orderId, title: of.title, minutes: of.minutes, crew: of.crew },
                  null,
                  event,
                )
              }
            />
          </div>
          {held && (
            <GhostBox
              store={store}
              rota={rota}
              held={held}
              work={work}
              axis={axis}
              plane={plane}
              acrossOf={acrossOf}
              zone={zone}
            />
          )}
        </div>
      </div>
    </div>
  );
}
