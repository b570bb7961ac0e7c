// A person's band on the rota: plain where they can work, hatched where not, thin lines for the way, and where what is carried cannot go.
import { Fragment, memo } from 'react';
import type { RotaPerson } from '#api/rota.ts';
import { sayTravel } from '#core/rota/index.ts';
import { instant, MINUTE, type InstantSpan } from '#core/time/index.ts';
import type { Axis } from './axis.ts';
import { dayOf, legsOf, type Stretch, type Rota } from './days.ts';
import { put, type Plane } from './plane.ts';

type Drawn = { readonly axis: Axis; readonly plane: Plane; readonly across: number };

const clip = (axis: Axis, { from, to }: InstantSpan): readonly [number, number] => [axis.place(from), axis.place(to)];

/** Where they can work. */
function Open({ person, axis, plane, across }: Drawn & { readonly person: RotaPerson }) {
  return person.days.map((d) => (
    <Fragment key={d.date}>
      {d.open.map((s) => {
        const [a, b] = clip(axis, s);
        return (
          b > a && (
            <div
              key={s.from}
              className="absolute bg-base-100"
              style={put(plane, a, b, across, across + plane.row - 1)}
            />
          )
        );
      })}
      {d.absences.map((s) => {
        const [a, b] = clip(axis, s);
        if (b <= a) return null;
        return (
          <div key={s.from} className="rota-away" style={put(plane, a, b, across, across + plane.row - 1)}>
            {b - a > 50 && <span>{s.why}</span>}
          </div>
        );
      })}
      {d.asked.map((s) => {
        const [a, b] = clip(axis, s);
        return (
          b > a && (
            <div
              key={`asked ${s.from}`}
              className="rota-asked"
              style={put(plane, a, b, across + plane.row - 6, across + plane.row - 2)}
              title={s.why}
            />
          )
        );
      })}
    </Fragment>
  ));
}

/** The way to each appointment, as long as it takes. */
function Ways({ rota, person, axis, plane, across }: Drawn & { readonly rota: Rota; readonly person: RotaPerson }) {
  if (axis.scale * 30 < 8) return null;
  const middle = across + (plane.row - 12) / 2;
  return person.days.flatMap((d) =>
    legsOf(dayOf(rota, person, d.date), rota.roads).map(({ to, travel }) => {
      const b = axis.place(to.span.from);
      const a = travel ? axis.place(instant(to.span.from - travel.minutes * MINUTE)) : b - 10;
      if (b <= a) return null;
      return (
        <div
          key={`${d.date} ${to.id}`}
          className={`absolute ${travel ? 'bg-base-content' : 'rota-unknown'}`}
          style={put(plane, a, b, middle, middle + 1.5)}
          title={sayTravel(travel)}
        />
      );
    }),
  );
}

/** What of a row stays as it is, whatever is carried over it. */
export const Band = memo(function Band({
  rota,
  person,
  axis,
  plane,
}: Omit<Drawn, 'across'> & { readonly rota: Rota; readonly person: RotaPerson }) {
  return (
    <>
      <Open person={person} axis={axis} plane={plane} across={0} />
      <Ways rota={rota} person={person} axis={axis} plane={plane} across={0} />
    </>
  );
});

const LETTER = 5.8;

/** Where what is carried cannot begin, and why, as far as the words fit. */
export function CannotGo({ stretches, axis, plane, across }: Drawn & { readonly stretches: readonly Stretch[] }) {
  return stretches.map((s) => {
    const [a, b] = clip(axis, s);
    if (b - a < 1) return null;
    return (
      <div
        key={s.from}
        className={s.binds ? 'rota-cannot' : 'rota-asks'}
        style={put(plane, a, b, across, across + plane.row - 1)}
        title={s.text}
      >
        {!plane.turned && b - a > s.text.length * LETTER && <span>{s.text}</span>}
      </div>
    );
  });
}
