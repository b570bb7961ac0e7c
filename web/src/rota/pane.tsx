// Beside the rota: what is chosen with who can go or who goes; without anything, the day that is not sent and what is to be planned.
import { bookAppointment, type Candidate, type OrderWorkOut, type RotaAppointment } from '#api/rota.ts';
import type { LocalDate, Zone } from '#core/time/index.ts';
import { ErrorLine } from '../parts/problem.tsx';
import { sayMoment, sayTime } from '../parts/words.ts';
import { useReader } from '../shell/reader.tsx';
import type { Rota } from './days.ts';
import type { Acting } from './acting.ts';
import { AppointmentPane } from './appointment-pane.tsx';
import type { Chosen } from './board-rows.tsx';
import { readOrderBy } from './order-by.ts';
import { OrderPane } from './order-pane.tsx';
import { SendDay } from './send-day.tsx';
import { Unplanned, type TickProps } from './unplanned.tsx';

type Props = {
  readonly rota: Rota;
  readonly date: LocalDate;
  readonly today: LocalDate;
  readonly zone: Zone;
  readonly params: URLSearchParams;
  readonly change: (next: Readonly<Record<string, string | null>>) => void;
  /** The filters that hold for the rota as well. */
  readonly query: Readonly<Record<string, string>>;
  readonly acting: Acting;
  readonly chosen: Chosen;
  readonly choose: (next: Chosen) => void;
  readonly box: RotaAppointment | undefined;
  readonly work: OrderWorkOut | undefined;
  readonly error: unknown;
  readonly onCarry: () => void;
} & Pick<TickProps, 'ticked' | 'onTicked' | 'onPlan'>;

export function Pane(props: Props) {
  const { rota, date, today, zone, params, change, query, acting, chosen, choose, box, work, error, onCarry } = props;
  const mayPlan = useReader().may(bookAppointment);
  const give = async (orderId: number, of: Candidate, minutes: number): Promise<void> => {
    const text = `${of.name} goes ${sayMoment(of.from, rota.now, zone)} to ${sayTime(of.to, zone)}`;
    const where = { people: [of.personId], from: of.from, minutes };
    if (await acting.bookAt([orderId], where, text)) choose(null);
  };
  return (
    <aside aria-label="Chosen" className="pane w-[300px] overflow-y-auto border-l bg-base-100 px-4 py-5">
      {chosen && (
        <p className="flex justify-between pb-2">
          <button className="link-ink" onClick={() => choose(null)}>
            ‹ To be planned
          </button>
          {work && chosen.what === 'loose' && (
            <label className="flex items-center gap-1">
              <input
                type="checkbox"
                className="box-tick"
                checked={params.has('can')}
                onChange={(e) => change({ can: e.target.checked ? '1' : null })}
              />
              only who can
            </label>
          )}
        </p>
      )}
      <ErrorLine error={error} />
      {chosen?.what === 'loose' && work && (
        <OrderPane
          key={chosen.id}
          of={work}
          now={rota.now}
          zone={zone}
          from={date > today ? date : today}
          onGive={(of, minutes) => void give(chosen.id, of, minutes)}
          onCarry={onCarry}
        />
      )}
      {chosen?.what === 'appointment' && !box && <p>It is not in these days any more.</p>}
      {box && (
        <AppointmentPane
          key={`${box.id} ${box.version}`}
          of={box}
          rota={rota}
          now={rota.now}
          zone={zone}
          acting={acting}
          onCarry={onCarry}
          onAgain={(id) => choose({ what: 'loose', id })}
          onGone={() => choose(null)}
        />
      )}
      {!chosen && (
        <>
          {mayPlan && <SendDay rota={rota} date={date} acting={acting} />}
          <Unplanned
            orderBy={readOrderBy(params.get('order-by'))}
            onOrderBy={(next) => change({ 'order-by': next === 'margin' ? null : next })}
            query={query}
            ticks={mayPlan ? { ticked: props.ticked, onTicked: props.onTicked, onPlan: props.onPlan } : null}
            now={rota.now}
            zone={zone}
            onOpen={(of) => choose({ what: 'loose', id: of.orderId })}
          />
        </>
      )}
    </aside>
  );
}
