// The rota: loose work above, people with their days below, and beside them what is chosen with who can go.
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { bookAppointment, type Candidate, type LooseOrder, type Rota, type RotaPerson } from '#api/rota.ts';
import {
  instant,
  localDateAt,
  MINUTE,
  parseLocalDate,
  startOfDay,
  type LocalDate,
  type Zone,
} from '#core/time/index.ts';
import { ErrorLine } from '../parts/problem.tsx';
import { plural, sayMinutes, sayMoment, sayTime } from '../parts/words.ts';
import { useActKeys } from '../shell/keys.ts';
import { useReader } from '../shell/reader.tsx';
import { askedIn } from '../shell/calls.ts';
import { server } from '../shell/store.ts';
import { useActing, type Acting, type Yes } from './acting.ts';
import { AppointmentPane } from './appointment-pane.tsx';
import { AskDialog, asks, binds } from './ask-dialog.tsx';
import { beginOf, DAYS_SHOWN, VIEWS, type View } from './axis.ts';
import type { Chosen } from './board-rows.tsx';
import { Board } from './board.tsx';
import { useGhostStore, type GhostStore } from './carrying.ts';
import {
  dayOf,
  freeOf,
  lookAt,
  missedBy,
  nextThatGoes,
  orderOf,
  spanOf,
  titleOf,
  type Ghost,
  type Held,
  type Looked,
} from './days.ts';
import { rotaApi } from './endpoints.ts';
import { Head } from './head.tsx';
import { PlanDialog } from './plan-dialog.tsx';
import { OrderPane } from './order-pane.tsx';
import { ReplaceDialog } from './replace-dialog.tsx';
import { SendDay } from './send-day.tsx';
import { Unplanned } from './unplanned.tsx';
import { useCarryKeys } from './carry-keys.ts';

const viewOf = (text: string | null): View =>
  (VIEWS as readonly string[]).includes(text ?? '') ? (text as View) : 'day';
const chosenOf = (params: URLSearchParams): Chosen => {
  const [order, appointment] = [Number(params.get('order')), Number(params.get('appointment'))];
  if (order > 0) return { what: 'loose', id: order };
  return appointment > 0 ? { what: 'appointment', id: appointment } : null;
};

function summaryOf(rota: Rota, date: LocalDate): string {
  let [free, out] = [0, 0];
  for (const p of rota.people)
    for (const d of p.days) {
      const of = freeOf(dayOf(rota, p, d.date));
      free += of.free;
      if (d.date === date && d.absences.length > 0) out += 1;
    }
  const missed = rota.appointments.filter((a) => a.orders.some((o) => missedBy(o.clocks, a).length > 0)).length;
  const unsent = rota.appointments.filter((a) => !a.sent && a.from > rota.now).length;
  return [
    plural(rota.people.length, 'person', 'people'),
    `${sayMinutes(free)} free`,
    plural(rota.appointments.length, 'appointment'),
    missed > 0 ? `${plural(missed, 'promise')} missed as it stands` : '',
    unsent > 0 ? `${unsent} not sent` : '',
    out > 0 ? `${out} away` : '',
  ]
    .filter(Boolean)
    .join(' · ');
}

type Asking = { readonly held: Held; readonly ghost: Ghost; readonly looked: Looked; readonly text: string };

/** What happens where something that was carried is let go. */
function useLettingGo(rota: Rota | undefined, acting: Acting, store: GhostStore, zone: Zone, onPlanned: () => void) {
  const [held, setHeld] = useState<Held | null>(null);
  const [asking, setAsking] = useState<Asking | null>(null);
  const { currentData: work } = rotaApi.useReadWorkQuery(
    {
      params: { id: String(held ? orderOf(held) : 0) },
      query: { from: rota?.from ?? '', days: String(DAYS_SHOWN.month) },
    },
    { skip: !held || !rota },
  );
  const drop = (): void => {
    store.set(null);
    setHeld(null);
  };
  const letGo = (): void => {
    const ghost = store.get();
    if (!held || !ghost || !rota || !work) return drop();
    const looked = lookAt(rota, held, work, ghost);
    const span = spanOf(held, ghost);
    const name = rota.people.find((p) => p.id === ghost.personId)?.name ?? '';
    const text = `${titleOf(held)}: ${name}, ${sayMoment(span.from, rota.now, zone)} to ${sayTime(span.to, zone)}`;
    drop();
    const bound = binds(looked);
    if (bound.length > 0) acting.say(`Not planned: ${bound.map((r) => `${r.name}: ${r.text}`).join('; ')}`, null);
    else if (asks(looked)) setAsking({ held, ghost, looked, text });
    else void plan({ held, ghost, text });
  };
  /** What was loose is no more: there is nothing of it to look at. */
  const plan = async (of: Omit<Asking, 'looked'>, yes?: Yes): Promise<void> => {
    if ((await acting.letGo(of.held, of.ghost, of.text, yes)) && of.held.what === 'loose') onPlanned();
  };
  return { held, hold: setHeld, work, letGo, drop, plan, asking, setAsking };
}

function Said({ acting }: { acting: Acting }) {
  const { done, problem } = acting;
  useActKeys({ u: done?.back ? () => void acting.undo() : null });
  if (problem) return <ErrorLine error={problem} />;
  return (
    <p role="status" className="min-h-6 font-semibold">
      {done?.text}{' '}
      {done?.back && (
        <button className="link-ink" onClick={() => void acting.undo()}>
          Undo <kbd className="serial">u</kbd>
        </button>
      )}
    </p>
  );
}

export function RotaRoom() {
  const { data: session } = server.useReadSessionQuery();
  const reader = useReader();
  const [params, setParams] = useSearchParams();
  if (!session) return null;
  const today = localDateAt(reader.zone, session.now);
  const view = viewOf(params.get('view'));
  const date = beginOf(view, parseLocalDate(params.get('from') ?? '') ?? today);
  const change = (next: Readonly<Record<string, string | null>>): void =>
    setParams(
      (was) => {
        const to = new URLSearchParams(was);
        for (const [key, value] of Object.entries(next)) {
          if (value === null) to.delete(key);
          else to.set(key, value);
        }
        return to;
      },
      { replace: true },
    );
  return <Room view={view} date={date} today={today} params={params} change={change} />;
}

type RoomProps = {
  readonly view: View;
  readonly date: LocalDate;
  readonly today: LocalDate;
  readonly params: URLSearchParams;
  readonly change: (next: Readonly<Record<string, string | null>>) => void;
};

function Room({ view, date, today, params, change }: RoomProps) {
  const reader = useReader();
  const { zone } = reader;
  const mayPlan = reader.may(bookAppointment);
  const query = askedIn(params, ['depot', 'skill', 'customer']);
  const { data: rota, error } = rotaApi.useReadRotaQuery({
    query: { from: date, days: String(DAYS_SHOWN[view]), ...query },
  });
  const { data: loose } = rotaApi.useReadLooseQuery({ query: { ...query, show: 'ready', limit: '200' } });
  const acting = useActing();
  const store = useGhostStore();
  const {
    held,
    hold,
    work: carriedWork,
    letGo,
    drop,
    plan,
    asking,
    setAsking,
  } = useLettingGo(rota, acting, store, zone, () => choose(null));
  const [isPlanning, setPlanning] = useState(false);
  const [replacing, setReplacing] = useState<{ person: RotaPerson; date: LocalDate } | null>(null);
  const chosen = chosenOf(params);
  const box = chosen?.what === 'appointment' ? rota?.appointments.find((a) => a.id === chosen.id) : undefined;
  const chosenOrder = chosen?.what === 'loose' ? chosen.id : 0;
  const { currentData: chosenWork, error: chosenError } = rotaApi.useReadWorkQuery(
    { params: { id: String(chosenOrder) }, query: { from: date, days: String(DAYS_SHOWN.month) } },
    { skip: chosenOrder === 0 },
  );
  const choose = (next: Chosen): void =>
    change({
      order: next?.what === 'loose' ? String(next.id) : null,
      appointment: next?.what === 'appointment' ? String(next.id) : null,
      can: null,
    });
  const carry = (): void => {
    if (!rota || !mayPlan) return;
    if (box) {
      hold({ what: 'appointment', of: box, by: box.personIds[0] ?? 0 });
      store.set({ personId: box.personIds[0] ?? 0, from: box.from });
    } else if (chosenWork) {
      const { orderId, title, crew } = chosenWork;
      hold({ what: 'loose', orderId, title, crew, minutes: chosenWork.work.minutes });
      store.set(firstGhost(rota, date));
    }
  };
  useActKeys({ m: held ? null : carry });
  const work = held ? carriedWork : chosenWork;
  useCarryKeys(held, {
    rota,
    store,
    next: (p, from) => (rota && held && carriedWork ? nextThatGoes(rota, p, held, carriedWork, from) : null),
    letGo,
    drop,
  });
  const give = (orderId: number) => (of: Candidate, minutes: number) => {
    const text = `${of.name} goes ${sayMoment(of.from, rota?.now ?? of.from, zone)} to ${sayTime(of.to, zone)}`;
    void acting.bookAt([orderId], { people: [of.personId], from: of.from, minutes }, text).then((isDone) => {
      if (isDone) choose(null);
    });
  };
  if (error) return <ErrorLine error={error} />;
  if (!rota) return <p className="quiet p-6">Looking at the rota …</p>;
  return (
    <div className="panes">
      <div className="min-w-0 flex-1 px-5 pt-5">
        <Head
          view={view}
          date={date}
          today={today}
          params={params}
          change={change}
          mayPlan={mayPlan}
          onPlan={() => setPlanning(true)}
        >
          <p className="quiet">{summaryOf(rota, date)}</p>
          <Said acting={acting} />
        </Head>
        <Board
          rota={rota}
          loose={loose?.items ?? []}
          view={view}
          date={date}
          zone={zone}
          turned={params.has('down')}
          byPlace={params.get('by') === 'place'}
          chosen={chosen}
          held={held}
          store={store}
          work={work}
          mayPlan={mayPlan}
          onlyCan={params.has('can')}
          onChoose={choose}
          onHold={hold}
          onLetGo={letGo}
          onReplace={(person, on) => setReplacing({ person, date: on })}
        />
        <p className="quiet pt-2 pb-8">
          Dashed: not sent yet. A thin line: the way there, an estimate. ▲ the end of a promise: filled where it is
          missed.
          {mayPlan &&
            ' Drag, or press m and move with the arrows: Enter plans, n goes on to the next time that goes, Esc leaves it.'}
        </p>
      </div>
      <aside aria-label="Chosen" className="pane w-[300px] overflow-y-auto border-l bg-base-100 px-4 py-5">
        {chosen && (
          <p className="flex justify-between pb-2">
            <button className="link-ink" onClick={() => choose(null)}>
              ‹ To be planned
            </button>
            {chosenWork && chosenOrder > 0 && (
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
        {chosenError && <ErrorLine error={chosenError} />}
        {chosenOrder > 0 && chosenWork && (
          <OrderPane
            key={chosenOrder}
            of={chosenWork}
            now={rota.now}
            zone={zone}
            from={date > today ? date : today}
            onGive={give(chosenOrder)}
            onCarry={carry}
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
            onCarry={carry}
            onAgain={(id) => choose({ what: 'loose', id })}
            onGone={() => choose(null)}
          />
        )}
        {!chosen && (
          <>
            {mayPlan && <SendDay rota={rota} date={date} acting={acting} />}
            <Unplanned
              query={query}
              now={rota.now}
              zone={zone}
              onOpen={(of: LooseOrder) => choose({ what: 'loose', id: of.orderId })}
            />
          </>
        )}
      </aside>
      {asking && (
        <AskDialog
          title={asking.held.what === 'loose' ? 'Plan it there?' : 'Move it there?'}
          looked={asking.looked}
          onClose={() => setAsking(null)}
          onYes={(overlapReason) => {
            setAsking(null);
            void plan(asking, { anyway: true, overlapReason });
          }}
        />
      )}
      {isPlanning && (
        <PlanDialog
          date={date > today ? date : today}
          depot={Number(params.get('depot')) || null}
          only={chosenOrder > 0 && chosenWork ? { id: chosenOrder, title: chosenWork.title } : null}
          onClose={() => setPlanning(false)}
        />
      )}
      {replacing && (
        <ReplaceDialog
          person={replacing.person}
          date={replacing.date}
          onClose={() => setReplacing(null)}
          onDone={(text) => {
            setReplacing(null);
            acting.say(text, null);
          }}
        />
      )}
    </div>
  );
}

/** By keys a loose order begins with the first person, now or when the day begins. */
function firstGhost(rota: Rota, date: LocalDate): Ghost | null {
  const [person] = rota.people;
  if (!person) return null;
  const opens = person.days.find((d) => d.date >= date && d.open.length > 0)?.open[0]?.from;
  const from = Math.max(opens ?? startOfDay(person.zone as Zone, date), rota.now);
  const step = 5 * MINUTE;
  return { personId: person.id, from: instant(Math.ceil(from / step) * step) };
}
