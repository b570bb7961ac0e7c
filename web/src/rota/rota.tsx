// The rota: loose work above, people with their days below, and beside them what is chosen with who can go.
import { useMemo, useState } from 'react';
import { useSearchParams } from 'react-router';
import { bookAppointment, type OrderWorkOut, type RotaPerson } from '#api/rota.ts';
import { localDateAt, parseLocalDate, type LocalDate } from '#core/time/index.ts';
import { ErrorLine } from '../parts/problem.tsx';
import { askedIn } from '../shell/calls.ts';
import { useReader } from '../shell/reader.tsx';
import { server } from '../shell/store.ts';
import type { Rota } from './days.ts';
import { useActing, type Acting } from './acting.ts';
import { AskDialog } from './ask-dialog.tsx';
import { beginOf, DAYS_SHOWN, VIEWS, type View } from './axis.ts';
import type { Chosen } from './board-rows.tsx';
import { Board } from './board.tsx';
import { useGhostStore } from './carrying.ts';
import { rotaApi } from './endpoints.ts';
import { Head } from './head.tsx';
import { useCarrying } from './letting-go.ts';
import { Pane } from './pane.tsx';
import { useRoads } from './roads.ts';
import { PlanDialog, type PlanDialogProps } from './plan-dialog.tsx';
import { ReplaceDialog } from './replace-dialog.tsx';
import { Said, summaryOf } from './said.tsx';

const viewOf = (text: string | null): View =>
  (VIEWS as readonly string[]).includes(text ?? '') ? (text as View) : 'day';
const chosenOf = (params: URLSearchParams): Chosen => {
  const [order, appointment] = [Number(params.get('order')), Number(params.get('appointment'))];
  if (order > 0) return { what: 'loose', id: order };
  return appointment > 0 ? { what: 'appointment', id: appointment } : null;
};

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

type Opened =
  | { readonly what: 'plan' }
  | { readonly what: 'replace'; readonly person: RotaPerson; readonly date: LocalDate }
  | null;

/** What alone the house is asked to put in: the order that is looked at, else what is ticked. */
function onlyOf(work: OrderWorkOut | undefined, ticked: readonly number[]): PlanDialogProps['only'] {
  if (work) return { ids: [work.orderId], words: `“${work.title}”` };
  return ticked.length === 0
    ? null
    : { ids: ticked, words: ticked.length === 1 ? 'the ticked order' : `the ${ticked.length} ticked orders` };
}

type FloatingProps = Pick<PlanDialogProps, 'date' | 'depot' | 'only' | 'days'> & {
  readonly carrying: ReturnType<typeof useCarrying>;
  readonly opened: Opened;
  readonly acting: Acting;
  readonly close: () => void;
};

/** What floats over the rota: the question before something is let go, the house’s plan, somebody else for a day. */
function Floating({ carrying, opened, acting, close, ...plan }: FloatingProps) {
  const { asking, setAsking } = carrying;
  return (
    <>
      {asking && (
        <AskDialog
          title={asking.held.what === 'loose' ? 'Plan it there?' : 'Move it there?'}
          looked={asking.looked}
          onClose={() => setAsking(null)}
          onYes={(overlapReason) => {
            setAsking(null);
            void carrying.plan(asking, { anyway: true, overlapReason });
          }}
        />
      )}
      {opened?.what === 'plan' && <PlanDialog {...plan} onClose={close} />}
      {opened?.what === 'replace' && (
        <ReplaceDialog
          person={opened.person}
          date={opened.date}
          onClose={close}
          onDone={(text) => {
            close();
            acting.say(text, null);
          }}
        />
      )}
    </>
  );
}

function Legend({ mayPlan }: { mayPlan: boolean }) {
  return (
    <p className="quiet pt-2 pb-8">
      Dashed: not sent yet. A thin line: the way there, an estimate. ▲ the end of a promise: filled where it is missed.
      {mayPlan &&
        ' Drag, or press m and move with the arrows: Enter plans, n goes on to the next time that goes, Esc leaves it.'}
    </p>
  );
}

/** What the address says is looked at: an order that is to be planned with what it asks, or an appointment. */
function useChosen(params: URLSearchParams, change: RoomProps['change'], rota: Rota | undefined, date: LocalDate) {
  const chosen = chosenOf(params);
  const orderId = chosen?.what === 'loose' ? chosen.id : 0;
  const { currentData: work, error } = rotaApi.useReadWorkQuery(
    { params: { id: String(orderId) }, query: { from: date, days: String(DAYS_SHOWN.month) } },
    { skip: orderId === 0 },
  );
  const choose = (next: Chosen): void =>
    change({
      order: next?.what === 'loose' ? String(next.id) : null,
      appointment: next?.what === 'appointment' ? String(next.id) : null,
      can: null,
    });
  const box = chosen?.what === 'appointment' ? rota?.appointments.find((a) => a.id === chosen.id) : undefined;
  return { chosen, choose, box, work: orderId === 0 ? undefined : work, error };
}

function Room({ view, date, today, params, change }: RoomProps) {
  const reader = useReader();
  const { zone } = reader;
  const mayPlan = reader.may(bookAppointment);
  const query = askedIn(params, ['depot', 'skill', 'customer', 'area']);
  const { data: answered, error } = rotaApi.useReadRotaQuery({
    query: { from: date, days: String(DAYS_SHOWN[view]), ...query },
  });
  const roads = useRoads();
  const rota = useMemo(() => answered && roads && { ...answered, roads }, [answered, roads]);
  const { data: loose } = rotaApi.useReadLooseQuery({ query: { ...query, show: 'ready', limit: '200' } });
  const acting = useActing();
  const store = useGhostStore();
  const [opened, setOpened] = useState<Opened>(null);
  const [ticked, setTicked] = useState<readonly number[]>([]);
  const { chosen, choose, box, work: chosenWork, error: chosenError } = useChosen(params, change, rota, date);
  const onPlanned = (): void => choose(null);
  const carrying = useCarrying({ rota, date, zone, mayPlan, acting, store, box, work: chosenWork, onPlanned });
  if (error) return <ErrorLine error={error} />;
  if (!rota) return <p className="quiet p-6">Looking at the rota …</p>;
  return (
    <div className="panes">
      <div className="min-w-0 flex-1 px-5 pt-5">
        <Head {...{ view, date, today, params, change, mayPlan }} onPlan={() => setOpened({ what: 'plan' })}>
          <p className="quiet">{summaryOf(rota, date)}</p>
          <Said acting={acting} />
        </Head>
        <Board
          {...{ rota, view, date, zone, chosen, store, mayPlan }}
          loose={loose?.items ?? []}
          turned={params.has('down')}
          byPlace={params.get('by') === 'place'}
          held={carrying.held}
          work={carrying.work}
          onlyCan={params.has('can')}
          onChoose={choose}
          onHold={carrying.hold}
          onLetGo={carrying.letGo}
          onReplace={(person, on) => setOpened({ what: 'replace', person, date: on })}
        />
        <Legend mayPlan={mayPlan} />
      </div>
      <Pane
        {...{ rota, date, today, zone, params, change, query, acting, chosen, choose, box }}
        work={chosenWork}
        error={chosenError}
        onCarry={carrying.carry}
        {...{ ticked }}
        onTicked={setTicked}
        onPlan={() => setOpened({ what: 'plan' })}
      />
      <Floating
        {...{ carrying, opened, acting }}
        date={date > today ? date : today}
        depot={Number(params.get('depot')) || null}
        only={onlyOf(chosenWork, ticked)}
        days={view === 'week' ? DAYS_SHOWN.week : 1}
        close={() => setOpened(null)}
      />
    </div>
  );
}
