// The rows of the rota: one for each person or place, with its name and its boxes.
import { useEffect, useRef, useState, type PointerEvent, type ReactNode } from 'react';
import type { RotaAppointment, RotaPerson } from '#api/rota.ts';
import type { Expected } from '#core/rota/index.ts';
import type { Instant, LocalDate, Zone } from '#core/time/index.ts';
import { plural, sayMinutes } from '../parts/words.ts';
import type { Axis } from './axis.ts';
import { Box } from './box.tsx';
import { dateOf, dayOf, freeOf, type Held, type Rota } from './days.ts';
import { whereOf } from './following.ts';
import { lanesOf, type Plane } from './plane.ts';

export type Chosen = { readonly what: 'loose' | 'appointment'; readonly id: number } | null;

/** Pixels of the names in front of the rows. */
export const NAMES = 168;

export type Row = {
  readonly key: string;
  readonly person: RotaPerson | null;
  readonly name: string;
  readonly items: readonly { readonly of: RotaAppointment; readonly personId: number }[];
};

/** One for each person, or one for each place that somebody goes to. */
export function rowsOf(rota: Rota, byPlace: boolean): Row[] {
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

type NamesProps = {
  readonly mayPlan: boolean;
  readonly onReplace: (person: RotaPerson, date: LocalDate) => void;
};

export function Names({
  row,
  rota,
  date,
  zone,
  days,
  mayPlan,
  onReplace,
}: { row: Row; rota: Rota; date: LocalDate; zone: Zone; days: number } & NamesProps) {
  const { person } = row;
  if (!person)
    return (
      <>
        <span className="block overflow-hidden font-semibold text-ellipsis">{row.name}</span>
        <span className="quiet block">{plural(row.items.length, 'appointment')}</span>
      </>
    );
  const each = person.days.map((d) => freeOf(dayOf(rota, person, d.date), rota.roads));
  const [free, all] = [each.reduce((sum, d) => sum + d.free, 0), each.reduce((sum, d) => sum + d.all, 0)];
  const away = person.days.find((d) => d.date === date)?.absences[0];
  const own = row.items.filter((i) => dateOf(person, i.of.from) === date).length;
  /** Somebody else is to go in their place. */
  const isGiven = away !== undefined && days === 1 && own > 0 && mayPlan;
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
      {days === 1 && !isGiven && (
        <span className="quiet block overflow-hidden text-ellipsis">
          {whereOf(rota, person, zone) ?? person.depot ?? 'no depot'}
        </span>
      )}
      {days < 30 && !isGiven && <span className="quiet block overflow-hidden text-ellipsis">{said}</span>}
      {isGiven && away && (
        <button className="quiet link-ink" onClick={() => onReplace(person, date)}>
          {away.why}: give {own} to…
        </button>
      )}
    </>
  );
}

export function RowNames({
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
  expected: ReadonlyMap<number, Expected>;
  choose: (chosen: Chosen) => void;
  grab: (held: Held, from: Instant | null, event: PointerEvent) => void;
};

/** Boxes that overlap share the row. */
export function RowBoxes(props: RowBoxesProps) {
  const { row, across, axis, plane, zone, now, chosen, held, names, expected, choose, grab } = props;
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
      expected={expected.get(of.id)}
      zone={zone}
      now={now}
      isChosen={chosen?.what === 'appointment' && chosen.id === of.id}
      isCarried={held?.what === 'appointment' && held.of.id === of.id}
      onChoose={act.choose}
      onGrab={act.grab}
    />
  ));
}
