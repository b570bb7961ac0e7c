// The frame: rail, session, finder, keys, live updates.
import { useState } from 'react';
import { NavLink, Outlet, useNavigate } from 'react-router';
import type { Session, SignedIn } from '#api/session.ts';
import { instant, type Instant, type Zone } from '#core/time/index.ts';
import { RibbonPatterns } from '../parts/ribbon.tsx';
import { sayTime, sayZone } from '../parts/words.ts';
import { Dialog } from './dialog.tsx';
import { Finder } from './finder.tsx';
import { ROOMS, useShellKeys } from './keys.ts';
import { useLiveUpdates } from './live.ts';
import { ReaderProvider } from './reader.tsx';
import { SignIn } from './sign-in.tsx';
import { server } from './store.ts';
import { applyTheme, chosenTheme, type Theme } from './theme.ts';
import { Waiting } from './waiting.tsx';

/** Rooms a role has no use of on the server are left out of its rail. */
const CLOSED: Partial<Record<SignedIn['role'], readonly string[]>> = {
  technician: ['Upkeep', 'Standing', 'Setup'],
  storekeeper: ['Upkeep', 'Standing', 'Setup'],
};

function Rail({
  session,
  person,
  find,
  help,
}: {
  session: Session;
  person: SignedIn;
  find: () => void;
  help: () => void;
}) {
  const { data: counts } = server.useReadCountsQuery(undefined, { pollingInterval: 60_000 });
  const { data: reference } = server.useReadReferenceQuery();
  const [signOut] = server.useSignOutMutation();
  const [theme, setTheme] = useState<Theme>(chosenTheme());
  const [loadedAt] = useState(() => Date.now());
  const now: Instant = session.fixedNow ? session.now : instant(session.now + (Date.now() - loadedAt));
  const numbers: Record<string, number | undefined> = {
    Today: counts?.today,
    Agreements: counts?.agreements,
    Signals: counts?.signals,
    Orders: counts?.orders,
  };
  const zones = [...new Set([person.zone, ...(reference?.calendars.map((c) => c.zone) ?? [])])].slice(0, 3) as Zone[];
  const leave = async (): Promise<void> => {
    await signOut();
    window.location.assign('/');
  };
  return (
    <nav aria-label="Rooms" className="rail pane w-[148px] border-r">
      <p className="px-4 pt-5 pb-4 font-serif text-xl font-semibold">Stavok</p>
      {ROOMS.filter(([name]) => !CLOSED[person.role]?.includes(name)).map(([name, path, key]) => (
        <NavLink
          key={name}
          to={path}
          end={path === '/'}
          title={`g then ${key}`}
          className={({ isActive }) =>
            `flex justify-between px-4 py-[5px] hover:bg-base-300 ${isActive ? 'bg-base-300 font-semibold' : ''}`
          }
        >
          <span>{name}</span>
          {numbers[name] ? <span className="tabular-nums">{numbers[name]}</span> : null}
        </NavLink>
      ))}
      <div className="mt-5 flex flex-col items-start gap-1 px-4">
        <button className="quiet hover:underline" onClick={find}>
          <kbd className="serial">/</kbd> find
        </button>
        <button className="quiet hover:underline" onClick={help}>
          <kbd className="serial">?</kbd> keys
        </button>
      </div>
      <div className="mt-auto space-y-0.5 px-4 pb-4 text-[0.87rem] text-ink2">
        <p className="font-semibold text-base-content">{person.name}</p>
        <p className="first-letter:uppercase">{person.role}</p>
        {zones.map((z) => (
          <p key={z} className="tabular-nums">
            {sayZone(z)} {sayTime(now, z)}
          </p>
        ))}
        <label className="flex items-center gap-1 pt-1">
          Look{' '}
          <select
            aria-label="Look"
            className="bg-transparent underline"
            value={theme}
            onChange={(e) => {
              const chosen = e.target.value as Theme;
              setTheme(chosen);
              applyTheme(chosen);
            }}
          >
            <option value="system">as system</option>
            <option value="paper">light</option>
            <option value="night">dark</option>
          </select>
        </label>
        <button className="link-ink" onClick={() => void leave()}>
          Sign out
        </button>
      </div>
    </nav>
  );
}

function KeysDialog({ onClose }: { onClose: () => void }) {
  const keys = [
    ['/', 'find anything'],
    ...ROOMS.map(([name, , key]) => [`g ${key}`, name] as const),
    ['j  k', 'next and previous row'],
    ['Enter', 'open the row'],
    ['Esc', 'close what floats; from a record, back to where it was opened'],
  ];
  return (
    <Dialog title="Keys" onClose={onClose}>
      <h1>Keys</h1>
      <dl className="mt-3 grid grid-cols-[6rem_1fr] gap-y-1">
        {keys.map(([key, text]) => (
          <div key={key} className="contents">
            <dt className="serial whitespace-pre">{key}</dt>
            <dd>{text}</dd>
          </div>
        ))}
      </dl>
      <button className="act mt-4" onClick={onClose}>
        Close
      </button>
    </Dialog>
  );
}

function SignedInFrame({ session, person }: { session: Session; person: SignedIn }) {
  const navigate = useNavigate();
  const [floating, setFloating] = useState<'finder' | 'keys' | null>(null);
  useLiveUpdates();
  useShellKeys({
    go: (path) => void navigate(path),
    find: () => setFloating('finder'),
    help: () => setFloating('keys'),
    // From a record back to where it was opened; a room itself has nothing behind it.
    back: () => {
      if (window.location.pathname.split('/').length > 2) void navigate(-1);
    },
  });
  const close = (): void => setFloating(null);
  return (
    <ReaderProvider value={person}>
      <RibbonPatterns />
      <div className="panes">
        <Rail session={session} person={person} find={() => setFloating('finder')} help={() => setFloating('keys')} />
        <main className="min-w-0 flex-1" tabIndex={-1}>
          <Outlet />
        </main>
      </div>
      {floating === 'finder' && (
        <Finder
          onClose={close}
          mayRaise={['coordinator', 'dispatcher', 'manager', 'administrator'].includes(person.role)}
        />
      )}
      {floating === 'keys' && <KeysDialog onClose={close} />}
    </ReaderProvider>
  );
}

export function Frame() {
  const query = server.useReadSessionQuery();
  return (
    <Waiting query={query}>
      {(session) =>
        session.person ? <SignedInFrame session={session} person={session.person} /> : <SignIn session={session} />
      }
    </Waiting>
  );
}
