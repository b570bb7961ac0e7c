// An appointment as it lies on the rota: an outlined box with its stage moon, and under it the notches of the promises it serves.
import { memo, type PointerEvent } from 'react';
import { Pin } from 'lucide-react';
import type { RotaAppointment } from '#api/rota.ts';
import type { Expected } from '#core/rota/index.ts';
import { MINUTE, type Instant, type Zone } from '#core/time/index.ts';
import { StageMoon } from '../parts/stage-moon.tsx';
import { sayMoment, sayTime } from '../parts/words.ts';
import type { Axis } from './axis.ts';
import { missedBy } from './days.ts';
import { sayExpected } from './following.ts';
import { put, type Plane } from './plane.ts';

/** Less than this before its end a promise runs short. */
const SHORT_MINUTES = 60;
const WORDS_FROM = 54;
/** Less high than this a box has no room for its words, its moon, or where it is: its title says all of it. */
const LINE = 18;
const TWO_LINES = 34;
const MOON_FROM = 17;

export const titleOfBox = (a: RotaAppointment): string => a.orders.map((o) => o.title).join(', ') || 'No order';
const placeOf = (a: RotaAppointment): string => a.orders[0]?.place.split(' · ')[0] ?? '';

/** All of it in words, for whoever does not see it or rests on it. */
/** Somebody who goes does not take it as it stands. */
const isRefused = ({ answers }: RotaAppointment): boolean => answers.some((s) => !s.accepted);

function sayBox(a: RotaAppointment, names: string, zone: Zone, expected: Expected | undefined): string {
  const told = a.told ? `, told ${sayTime(a.told.from, zone)} to ${sayTime(a.told.to, zone)}` : '';
  const late = a.orders.flatMap((o) => missedBy(o.clocks, a).map((m) => `, ${m.target} missed by ${m.minutes} min`));
  const said = [...(a.late ? [`, said ${a.late.minutes} min later`] : []), ...(isRefused(a) ? [', not taken'] : [])];
  return `${titleOfBox(a)}, ${placeOf(a)}, ${sayTime(a.from, zone)} to ${sayTime(a.to, zone)}, ${names}, ${a.orders[0]?.stage ?? ''}${told}${late.join('')}${said.join('')}${expected ? `. ${sayExpected(a, expected, zone)}` : ''}`;
}

type Tone = { readonly className: string; readonly word: string };
function toneOf(a: RotaAppointment, stopsAt: 'arrival' | 'end', dueAt: Instant): Tone {
  const spare = (dueAt - (stopsAt === 'arrival' ? a.from : a.to)) / MINUTE;
  if (spare < 0) return { className: 'text-missed', word: `missed by ${Math.ceil(-spare)} min` };
  const minutes = Math.floor(spare);
  return { className: minutes < SHORT_MINUTES ? 'text-short' : 'text-enough', word: `${minutes} min to spare` };
}

const WORDS = {
  response: 'respond',
  arrival: 'arrive',
  workaround: 'works for now',
  restoration: 'back in use',
} as const;

/** A triangle at the end of each promise; missed ones are filled, the others outlined. */
function Notches({
  of,
  axis,
  plane,
  across,
  zone,
  now,
}: {
  of: RotaAppointment;
  axis: Axis;
  plane: Plane;
  across: number;
  zone: Zone;
  now: Instant;
}) {
  return of.orders.flatMap((o) =>
    o.clocks.flatMap(({ target, dueAt, stopsAt }) => {
      if (dueAt < axis.from || dueAt > axis.to) return [];
      const { className, word } = toneOf(of, stopsAt, dueAt);
      const at = axis.place(dueAt);
      const isMissed = className === 'text-missed';
      return [
        <svg
          key={`${o.orderId}${target}`}
          className={`absolute ${className}`}
          style={put(plane, at - 5, at + 5, across - 11, across - 1)}
          viewBox="0 0 10 10"
          role="img"
          aria-label={`${o.title}: ${WORDS[target]} by ${sayMoment(dueAt, now, zone)}, ${word}`}
        >
          <title>{`${WORDS[target]} by ${sayMoment(dueAt, now, zone)}, ${word}`}</title>
          <path
            d={plane.turned ? 'M1 5L9 1V9Z' : 'M5 1L9 9H1Z'}
            fill={isMissed ? 'currentColor' : 'var(--color-base-100)'}
            stroke="currentColor"
            strokeWidth="1.6"
          />
        </svg>,
      ];
    }),
  );
}

type Props = {
  readonly of: RotaAppointment;
  readonly personId: number;
  readonly axis: Axis;
  readonly plane: Plane;
  /** Where its row begins across, and which share of it it has. */
  readonly across: number;
  readonly lane: number;
  readonly lanes: number;
  readonly names: string;
  /** Where it goes otherwise than planned. */
  readonly expected: Expected | undefined;
  readonly zone: Zone;
  readonly now: Instant;
  readonly isChosen: boolean;
  readonly isCarried: boolean;
  readonly onChoose: (a: RotaAppointment) => void;
  readonly onGrab: (a: RotaAppointment, personId: number, event: PointerEvent) => void;
};

/** Drawn again only where something of its own changes: a whole team's week stays as it is while one is carried. */
export const Box = memo(function Box(props: Props) {
  const { of, axis, plane, across, lane, lanes, names, zone, now, isChosen, isCarried, expected } = props;
  const [a, b] = [axis.place(of.from), axis.place(of.to)];
  const words = sayBox(of, names, zone, expected);
  const inner = plane.row - 18;
  const [c, d] = [across + 5 + (inner / lanes) * lane, across + 5 + (inner / lanes) * (lane + 1) - (lanes > 1 ? 2 : 0)];
  const long = plane.turned ? d - c : b - a;
  const high = plane.turned ? b - a : d - c;
  return (
    <>
      <button
        type="button"
        className={`rota-box ${isChosen ? 'is-chosen' : ''} ${isCarried ? 'is-carried' : ''} ${of.sent ? '' : 'is-draft'}`}
        style={put(plane, a, Math.max(b, a + 4), c, d)}
        title={words}
        aria-label={words}
        aria-pressed={isChosen}
        data-appointment={of.id}
        onClick={() => props.onChoose(of)}
        onPointerDown={(event) => props.onGrab(of, props.personId, event)}
      >
        {long >= 22 && high >= MOON_FROM && <StageMoon stage={of.orders[0]?.stage ?? 'planned'} size={14} />}
        {long >= WORDS_FROM && high >= LINE && (
          <span className="min-w-0 flex-1 overflow-hidden text-left leading-[1.15] whitespace-nowrap">
            <span className="block overflow-hidden font-semibold text-ellipsis">{titleOfBox(of)}</span>
            {high >= TWO_LINES && <span className="block overflow-hidden text-ellipsis text-ink2">{placeOf(of)}</span>}
          </span>
        )}
        {(of.late !== null || isRefused(of)) && long >= 40 && (
          <span aria-hidden="true" className="shrink-0 text-short">
            ▲
          </span>
        )}
        {of.fixed && long >= 40 && <Pin size={12} aria-hidden className="shrink-0" />}
      </button>
      {expected && (
        <div
          className="rota-expected"
          style={put(plane, b, Math.max(b, axis.place(expected.span.to)), d - 9, d - 2)}
          title={sayExpected(of, expected, zone)}
        />
      )}
      <Notches of={of} axis={axis} plane={plane} across={across + plane.row} zone={zone} now={now} />
    </>
  );
});
