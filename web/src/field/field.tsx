// Field: the frame around a technician's day. What waits to be sent is always in sight.
import { useMemo, useSyncExternalStore, type ReactNode } from 'react';
import { createBrowserRouter, Link, Outlet, RouterProvider, useLocation } from 'react-router';
import { localDateAt, sayLength } from '#core/time/index.ts';
import { plural, sayDateOfYear, sayTime } from '../parts/words.ts';
import { DayPage } from './day.tsx';
import { AnswerPage, LatePage } from './appointment.tsx';
import { CostPage } from './cost.tsx';
import { FormPage } from './form.tsx';
import { FoundPage } from './found.tsx';
import { HoursPage } from './hours.tsx';
import { MePage } from './me.tsx';
import { PartPage } from './part.tsx';
import { HelpPage, NotePage, PausePage, ReadingPage, WorkaroundPage } from './said.tsx';
import { VanPage } from './van.tsx';
import { CountPage, HandOverPage, VanPartPage } from './van-part.tsx';
import { WaitingPage } from './waiting.tsx';
import { AbsencePage, WeekPage } from './week.tsx';
import { heardAtOf, PhoneContext, useHeld, useNow, usePhone, zoneOf } from './held.ts';
import { OrderPage } from './order.tsx';
import type { Phone, PhoneState } from './phone/phone.ts';
import { newerVersion, takeOver } from './phone/application.ts';
import { SignInPage } from './sign-in.tsx';

const Looking = () => <p className="p-4">Looking at what the phone keeps …</p>;

/** How the phone stands with the server: what waits, since when, and whether there is a network. */
function Sending() {
  const state = useHeld();
  const { net, queue, problem } = state;
  const phone = usePhone();
  const now = useNow();
  const zone = zoneOf(state);
  const heardAt = heardAtOf(state);
  const { waiting, refused, since } = phone.waiting();
  const isNewer = useSyncExternalStore(newerVersion.subscribe, newerVersion.get);
  const says: string[] = [];
  if (net === 'gone') says.push(heardAt === null ? 'No signal' : `No signal since ${sayTime(heardAt, zone)}`);
  if (refused > 0) says.push(`▲ ${refused} not taken`);
  if (waiting > 0) says.push(`${plural(waiting, 'act')} ${waiting === 1 ? 'waits' : 'wait'} to be sent`);
  if (since !== null && now - since > 3_600_000) says.push(`the oldest ${sayLength(now - since, 'as hours')}`);
  if (problem) says.push(`✕ ${problem.detail}`);
  return (
    <div role="status" aria-label="Sending" className="mt-1">
      {says.length > 0 && (
        <Link to="/waiting" className="field-bar block" aria-disabled={queue.length === 0}>
          {says.join(' · ')}
        </Link>
      )}
      {isNewer && (
        <button className="field-bar mt-1 block w-full text-left underline" onClick={takeOver}>
          A newer version is here: take it now
        </button>
      )}
    </div>
  );
}

/** Where a page lies: what is done at an order goes back to it, and a part to its van. */
function backFrom(at: string, { orders, days }: PhoneState): { readonly to: string; readonly text: string } {
  const [, room, id, more] = at.split('/');
  const order = room === 'order' && more !== undefined ? orders.get(Number(id)) : undefined;
  if (order) return { to: `/order/${id}`, text: order.page.title };
  if (room === 'van' && id !== undefined) return { to: '/van', text: days?.van?.name ?? 'Van' };
  return room === 'absence' ? { to: '/week', text: 'My week' } : { to: '/', text: 'My day' };
}

function Frame() {
  const state = useHeld();
  const now = useNow();
  const at = useLocation().pathname;
  if (!state.isRead) return <Looking />;
  if (state.owner === null || state.isLocked) return <SignInPage />;
  const isHome = at === '/';
  const back = backFrom(at, state);
  return (
    <div className="field">
      <header className="field-top">
        <div className="flex items-baseline justify-between gap-3">
          {isHome ? (
            <h1>{sayDateOfYear(localDateAt(zoneOf(state), now))}</h1>
          ) : (
            <Link to={back.to} className="link-ink inline-flex min-h-9 min-w-0 items-center">
              <span className="truncate">‹ {back.text}</span>
            </Link>
          )}
          <nav aria-label="Field" className="flex shrink-0 gap-4">
            <Link to="/week" className="link-ink inline-flex min-h-9 items-center">
              Week
            </Link>
            <Link to="/van" className="link-ink inline-flex min-h-9 items-center">
              Van
            </Link>
            <Link to="/me" className="link-ink inline-flex min-h-9 items-center">
              {state.owner.name}
            </Link>
          </nav>
        </div>
        <Sending />
      </header>
      <Outlet />
    </div>
  );
}

/** Where a page fails, what was done is kept all the same. */
const Broken = () => (
  <main className="p-4">
    <h1>This page failed</h1>
    <p className="mt-2">What you did is kept on the phone. Tell the office what you were about to do.</p>
    <a className="link-ink mt-3 inline-block" href="/field/">
      Back to my day
    </a>
  </main>
);

/** What draws signatures is read when somebody goes there: the first page is not held up by it. */
const later = (load: () => Promise<() => ReactNode>) => ({ lazy: async () => ({ Component: await load() }) });

const routes = [
  {
    element: <Frame />,
    errorElement: <Broken />,
    hydrateFallbackElement: <Looking />,
    children: [
      { path: '/', element: <DayPage /> },
      { path: '/order/:id', element: <OrderPage /> },
      { path: '/order/:id/form/:form', element: <FormPage /> },
      { path: '/order/:id/found/:line', element: <FoundPage /> },
      { path: '/order/:id/part', element: <PartPage /> },
      { path: '/order/:id/cost', element: <CostPage /> },
      { path: '/order/:id/help', element: <HelpPage /> },
      { path: '/order/:id/hours', element: <HoursPage /> },
      { path: '/order/:id/reading/:line', element: <ReadingPage /> },
      { path: '/order/:id/pause', element: <PausePage /> },
      { path: '/order/:id/note', element: <NotePage /> },
      { path: '/order/:id/workaround', element: <WorkaroundPage /> },
      { path: '/order/:id/finish', ...later(async () => (await import('./finish.tsx')).FinishPage) },
      { path: '/order/:id/rest', ...later(async () => (await import('./finish.tsx')).RestPage) },
      { path: '/order/:id/machine', ...later(async () => (await import('./machines.tsx')).AddMachinePage) },
      { path: '/order/:id/swap/:line', ...later(async () => (await import('./machines.tsx')).SwapPage) },
      { path: '/order/:id/pay', ...later(async () => (await import('./pay.tsx')).PayPage) },
      { path: '/appointment/:id/late', element: <LatePage /> },
      { path: '/appointment/:id/answer', element: <AnswerPage /> },
      { path: '/waiting', element: <WaitingPage /> },
      { path: '/van', element: <VanPage /> },
      { path: '/van/ask', ...later(async () => (await import('./van-ask.tsx')).VanAskPage) },
      { path: '/van/:part', element: <VanPartPage /> },
      { path: '/van/:part/count', element: <CountPage /> },
      { path: '/van/:part/hand-over', element: <HandOverPage /> },
      { path: '/week', element: <WeekPage /> },
      { path: '/absence', element: <AbsencePage /> },
      { path: '/me', element: <MePage /> },
      { path: '*', element: <DayPage /> },
    ],
  },
];

export function Field({ phone }: { phone: Phone }) {
  const router = useMemo(() => createBrowserRouter(routes, { basename: '/field' }), []);
  return (
    <PhoneContext value={phone}>
      <RouterProvider router={router} />
    </PhoneContext>
  );
}
