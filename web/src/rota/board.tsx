// The rota's own drawing: people across, time along; turned by a quarter where somebody prefers it, by place where that is the question.
import { useEffect, useMemo, useRef, useState, type PointerEvent, type ReactNode } from 'react';
import type { LooseOrder, OrderWorkOut, Rota, RotaAppointment, RotaPerson } from '#api/rota.ts';
import type { Instant, LocalDate, Zone } from '#core/time/index.ts';
import { plural, sayMinutes, sayTime, sayZone } from '../parts/words.ts';
import { axisOf, DAYS_SHOWN, type Axis, type View } from './axis.ts';
import { Box } from './box.tsx';
import type { GhostStore } from './carrying.ts';
import { dateOf, dayOf, freeOf, minutesOf, stretchesOf, workFrom, type Held } from './days.ts';
import { GhostBox } from './ghost.tsx';
import { hang, LOOSE_ROW, LooseStrip } from './loose.tsx';
import { lanesOf, put, type Plane } from './plane.ts';
import { CannotGo, Open, Ways } from './row.tsx';

export type Chosen = { readonly what: 'loose' | 'appointment'; readonly id: number } | null;

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
const NAMES = 168;
const HEAD = 22;
/** Time down: so many pixels an hour. */
const HOUR_DOWN = 46;
const STEP: Readonly<Record<View, number>> = { hours: 5, day: 5, week: 15, month: 60 };
const LOOKED_STEP: Readonly<Record<View, number>> = { hours: 5, day: 10, week: 60, month: 240 };

type Row = {
  readonly key: string;
  readonly person: RotaPerson | null;
  readonly name: string;
  readonly items: readonly { readonly of: RotaAppointment; readonly personId: number }[];
};

/** One for each person, or one for each place that somebody goes to. */
function rowsOf(rota: Rota, byPlace: boolean): Row[] {
  if (!byPlace)
    return rota.people.map((p) => ({
      ...{ key: `person ${p.id}`, person: p, name: p.name },
      items: rota.appointments.filter((a) => a.personIds.includes(p.id)).map((of) => ({ of, personId: p.id })),
    }));
  const places = new Map<string, { name: string; items: { of: RotaAppointment; personId: number }[] }>();
  for (const of of rota.appointments) {
    const place = places.get(of.spot.key) ?? { name: of.orders[0]?.place.split(' · ')[0] ?? 'No place', items: [] };
    place.items.push({ of, personId: of.personIds[0] ?? 0 });
    places.set(of.spot.key, place);
  }
  return [...places].map(([key, p]) => ({ key, person: null, ...p })).sort((a, b) => a.name.localeCompare(b.name));
}

function Names({
  row,
  rota,
  date,
  days,
  mayPlan,
  onReplace,
}: { row: Row; rota: Rota; date: LocalDate; days: number } & Pick<BoardProps, 'mayPlan' | 'onReplace'>) {
  const { person } = row;
  if (!person)
    return (
      <>
        <span className="block overflow-hidden font-semibold text-ellipsis">{row.name}</span>
        <span className="quiet block">{plural(row.items.length, 'appointment')}</span>
      </>
    );
  const each = person.days.map((d) => freeOf(dayOf(rota, person, d.date)));
  const [free, all] = [each.reduce((sum, d) => sum + d.free, 0), each.reduce((sum, d) => sum + d.all, 0)];
  const away = person.days.find((d) => d.date === date)?.absences[0];
  const own = row.items.filter((i) => dateOf(person, i.of.from) === date).length;
  const said = !person.hasCalendar
    ? 'no working calendar yet'
    : away && days === 1
      ? away.why
      : all === 0
        ? 'not at work'
        : `${sayMinutes(free)} free of ${sayMinutes(all)}`;
  return (
    <>
      <span className="block overflow-hidden font-semibold text-ellipsis">{person.name}</span>
      {days === 1 && !(away && own > 0) && (
        <span className="quiet block overflow-hidden text-ellipsis">{person.depot ?? 'no depot'}</span>
      )}
      {!(away && days === 1 && own > 0) && <span className="quiet block overflow-hidden text-ellipsis">{said}</span>}
      {away && days === 1 && own > 0 && mayPlan && (
        <button className="quiet link-ink" onClick={() => onReplace(person, date)}>
          {away.why}: give {own} to…
        </button>
      )}
    </>
  );
}

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

  const planeRef = useRef<HTMLDivElement>(null);
  const carried = useRef<{ x: number; y: number; offset: number; held: Held; begun: boolean } | null>(null);
  const grab = (what: Held, from: Instant | null, event: PointerEvent): void => {
    if (!mayPlan || event.button !== 0 || byPlace) return;
    const along = alongOf(event);
    carried.current = {
      ...{ x: event.clientX, y: event.clientY, held: what, begun: false },
      offset: from === null || along === null ? 0 : Math.max(0, along - axis.place(from)),
    };
  };
  const alongOf = (event: { clientX: number; clientY: number }): number | null => {
    const box = planeRef.current?.getBoundingClientRect();
    return box ? (turned ? event.clientY - box.top : event.clientX - box.left) : null;
  };
  const move = (event: PointerEvent): void => {
    const now = carried.current;
    if (!now) return;
    if (!now.begun) {
      if (Math.hypot(event.clientX - now.x, event.clientY - now.y) < 5) return;
      now.begun = true;
      planeRef.current?.setPointerCapture(event.pointerId);
      props.onHold(now.held);
    }
    const box = planeRef.current?.getBoundingClientRect();
    const along = alongOf(event);
    if (!box || along === null) return;
    const acrossAt = turned ? event.clientX - box.left : event.clientY - box.top;
    const row = rows[Math.floor((acrossAt - top) / plane.row)];
    store.set(row?.person ? { personId: row.person.id, from: axis.at(along - now.offset, STEP[view]) } : null);
  };
  const end = (): void => {
    const was = carried.current;
    carried.current = null;
    if (was?.begun) props.onLetGo();
  };

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

function RowNames({
  turned,
  top,
  rows,
  plane,
  children,
}: {
  turned: boolean;
  top: number;
  rows: readonly Row[];
  plane: Plane;
  children: (row: Row) => ReactNode;
}) {
  if (turned)
    return (
      <div className="sticky top-0 z-[4] flex bg-base-200" style={{ paddingLeft: top }}>
        {rows.map((row) => (
          <div
            key={row.key}
            className="shrink-0 overflow-hidden border-b border-hairline px-1 pb-1 leading-tight whitespace-nowrap"
            style={{ width: plane.row }}
          >
            {children(row)}
          </div>
        ))}
      </div>
    );
  return (
    <div className="sticky left-0 z-[4] shrink-0 bg-base-200" style={{ width: NAMES, paddingTop: top }}>
      {rows.map((row) => (
        <div
          key={row.key}
          className="overflow-hidden border-t border-hairline pt-1 pr-3 leading-tight whitespace-nowrap"
          style={{ height: plane.row }}
        >
          {children(row)}
        </div>
      ))}
    </div>
  );
}

type RowBoxesProps = {
  row: Row;
  across: number;
  axis: Axis;
  plane: Plane;
  zone: Zone;
  now: Instant;
  chosen: Chosen;
  held: Held | null;
  names: (a: RotaAppointment) => string;
  choose: (chosen: Chosen) => void;
  grab: (held: Held, from: Instant | null, event: PointerEvent) => void;
};

/** Boxes that overlap share the row. */
function RowBoxes({ row, across, axis, plane, zone, now, chosen, held, names, choose, grab }: RowBoxesProps) {
  const latest = useRef({ choose, grab });
  useEffect(() => {
    latest.current = { choose, grab };
  });
  // The same from draw to draw, so that boxes are not drawn again for it.
  const [act] = useState(() => ({
    choose: (a: RotaAppointment) => latest.current.choose({ what: 'appointment', id: a.id }),
    grab: (a: RotaAppointment, personId: number, event: PointerEvent) =>
      latest.current.grab({ what: 'appointment', of: a, by: personId }, a.from, event),
  }));
  const shown = row.items.filter(({ of }) => of.to > axis.from && of.from < axis.to);
  const lanes = lanesOf(shown.map(({ of }) => ({ a: of.from, b: of.to })));
  const most = Math.max(1, ...lanes.map((l) => l + 1));
  return shown.map(({ of, personId }, i) => (
    <Box
      key={of.id}
      of={of}
      personId={personId}
      axis={axis}
      plane={plane}
      across={across}
      lane={lanes[i] ?? 0}
      lanes={most}
      names={names(of)}
      zone={zone}
      now={now}
      isChosen={chosen?.what === 'appointment' && chosen.id === of.id}
      isCarried={held?.what === 'appointment' && held.of.id === of.id}
      onChoose={act.choose}
      onGrab={act.grab}
    />
  ));
}
