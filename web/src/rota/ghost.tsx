// What is carried, drawn where it would lie, with what that would mean said before it is let go.
import type { OrderWorkOut } from '#api/rota.ts';
import type { Zone } from '#core/time/index.ts';
import { sayTime } from '../parts/words.ts';
import type { Axis } from './axis.ts';
import { useGhost, type GhostStore } from './carrying.ts';
import { goersOf, lookAt, spanOf, titleOf, type Held, type Looked, type Rota } from './days.ts';
import { put, type Plane } from './plane.ts';

/** In one line: what keeps it from lying there, what would be late, who was told otherwise; or that nothing speaks against it. */
export function sayLooked({ against, late, told }: Looked): string {
  const said = [
    ...new Set(against.map((r) => r.text)),
    ...late,
    ...told.map((customer) => `${customer} was told another time`),
  ];
  return said.length === 0 ? 'nothing speaks against it' : said.join('; ');
}

type Props = {
  readonly store: GhostStore;
  readonly rota: Rota;
  readonly held: Held;
  readonly work: OrderWorkOut | undefined;
  readonly axis: Axis;
  readonly plane: Plane;
  readonly acrossOf: (personId: number) => number | null;
  readonly zone: Zone;
};

export function GhostBox({ store, rota, held, work, axis, plane, acrossOf, zone }: Props) {
  const ghost = useGhost(store);
  if (!ghost) return null;
  const across = acrossOf(ghost.personId);
  if (across === null) return null;
  const span = spanOf(held, ghost);
  const [a, b] = [axis.place(span.from), axis.place(span.to)];
  const looked = work ? lookAt(rota, held, work, ghost) : null;
  const isBound = looked?.against.some((r) => r.binds) ?? false;
  const name = rota.people.find((p) => p.id === ghost.personId)?.name ?? '';
  const when = `${sayTime(span.from, zone)} to ${sayTime(span.to, zone)}`;
  const others = goersOf(held, ghost).length - 1;
  return (
    <>
      <div
        className={`rota-ghost ${isBound ? 'is-bound' : ''}`}
        style={put(plane, a, Math.max(b, a + 6), across + 5, across + plane.row - 13)}
      />
      <div
        className={`rota-caption floating ${looked && looked.late.length > 0 ? 'text-missed' : ''}`}
        style={
          plane.turned
            ? { top: b + 4, left: across }
            : { left: Math.min(a, axis.length - 280), top: across + plane.row }
        }
      >
        <p className="font-semibold text-base-content">
          {when}, {name}
          {others > 0 && ` and ${others} more`}
        </p>
        <p>{looked ? sayLooked(looked) : 'looking …'}</p>
      </div>
      <p className="sr-only" role="status">
        {`${titleOf(held)}: ${when}, ${name}: ${looked ? sayLooked(looked) : ''}`}
      </p>
    </>
  );
}
