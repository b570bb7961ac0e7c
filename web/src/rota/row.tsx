// A person's band on the rota: plain where they can work, hatched where not, thin lines for the way, and where what is carried cannot go.
import { Fragment, memo } from 'react';
import type { RotaPerson } from '#api/rota.ts';
import { sayTravel } from '#core/rota/index.ts';
import { instant, MINUTE, type InstantSpan } from '#core/time/index.ts';
import type { Axis } from './axis.ts';
import { dayOf, legsOf, type Stretch, type Rota } from './days.ts';
import { put, type Plane } from './plane.ts';

/** Each row is drawn by itself. */
type Drawn = { readonly axis: Axis; readonly plane: Plane };

const clip = (axis: Axis, { from, to }: InstantSpan): readonly [number, number] => [axis.place(from), axis.place(to)];

/** Where they can work; drawn again only where it changed, whatever is carried over it. */
export const Open = memo(function Open({ person, axis, plane }: Drawn & { readonly person: RotaPerson }) {
  return person.days.map((d) => (
    <Fragment key={d.date}>
      {d.open.map((s) => {
        const [a, b] = clip(axis, s);
        return (
          b > a && <div key={s.from} className="absolute bg-base-100" style={put(plane, a, b, 0, plane.row - 1)} />
        );
      })}
      {d.absences.map((s) => {
        const [a, b] = clip(axis, s);
        if (b <= a) return null;
        return (
          <div key={s.from} className="rota-away" style={put(plane, a, b, 0, plane.row - 1)}>
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
              style={put(plane, a, b, plane.row - 6, plane.row - 2)}
              title={s.why}
            />
          )
        );
      })}
    </Fragment>
  ));
});

/** The way to each appointment, as long as it takes. */
export const Ways = memo(function Ways({
  rota,
  person,
  axis,
  plane,
}: Drawn & { readonly rota: Rota; readonly person: RotaPerson }) {
  if (axis.scale * 30 < 8) return null;
  const middle = (plane.row - 12) / 2;
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
});

const LETTER = 5.8;

/** Where what is carried cannot begin, and why, as far as the words fit. */
export function CannotGo({ stretches, axis, plane }: Drawn & { readonly stretches: readonly Stretch[] }) {
  return stretches.map((s) => {
    const [a, b] = clip(axis, s);
    if (b - a < 1) return null;
    return (
      <div
        key={s.from}
        className={s.binds ? 'rota-cannot' : 'rota-asks'}
        style={put(plane, a, b, 0, plane.row - 1)}
        title={s.text}
      >
        {!plane.turned && b - a > s.text.length * LETTER && <span>{s.text}</span>}
      </div>
    );
  });
}
