// The frame: rail, session, finder, keys, live updates.
import { Suspense, useState } from 'react';
import { NavLink, Outlet, useNavigate } from 'react-router';
import { mayCall } from '#core/people.ts';
import type { Session, SignedIn } from '#api/session.ts';
import { instant, type Instant, type Zone } from '#core/time/index.ts';
import { RibbonPatterns } from '../parts/ribbon.tsx';
import { sayTime, sayZone } from '../parts/words.ts';
import { useFloating, type Floating } from './floating.ts';
import { useShellKeys } from './keys.ts';
import { AskBeforeLeaving } from './leaving.tsx';
import { later, useAhead } from './later.ts';
import { useLiveUpdates } from './live.ts';
import { ReaderProvider } from './reader.tsx';
import { RoomsProvider, type Room } from './room.ts';
import { server } from './store.ts';
import { applyTheme, chosenTheme, type Theme } from './theme.ts';
import { Waiting } from './waiting.tsx';

const SignIn = later(async () => (await import('./sign-in.tsx')).SignIn);
const KeysDialog = later(async () => (await import('./keys-dialog.tsx')).KeysDialog);

/** Who is signed in, what time it is where the house works, how it looks, and the way out. */
function Reader({ session, person }: { session: Session; person: SignedIn }) {
  const [signOut] = server.useSignOutMutation();
  const [theme, setTheme] = useState<Theme>(chosenTheme());
  const [loadedAt] = useState(() => Date.now());
  const now: Instant = session.fixedNow ? session.now : instant(session.now + (Date.now() - loadedAt));
  const zones = [...new Set([person.zone, ...session.zones])].slice(0, 3) as Zone[];
  const leave = async (): Promise<void> => {
    await signOut();
    window.location.assign('/');
  };
  return (
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
  );
}

function Rail({
  session,
  person,
  rooms,
  float,
  help,
}: {
  session: Session;
  person: SignedIn;
  rooms: readonly Room[];
  float: (what: Floating) => void;
  help: () => void;
}) {
  const { data: counts } = server.useReadCountsQuery(undefined, { pollingInterval: 60_000 });
  // On a small screen the rooms are shown when they are asked for.
  const [isOpen, setOpen] = useState(false);
  return (
    <nav aria-label="Rooms" className="rail pane w-[148px] border-r" data-open={isOpen}>
      <p className="px-4 pt-5 pb-4 font-serif text-xl font-semibold">Stavok</p>
      <button className="rail-opens act" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
        Rooms
      </button>
      {rooms.map(({ name, rail }) =>
        rail && mayCall(rail.shown?.may ?? 'signed in', person.role) ? (
          <NavLink
            key={name}
            to={rail.path}
            end={rail.path === '/'}
            title={`g then ${rail.key}`}
            onClick={() => setOpen(false)}
            className={({ isActive }) =>
              `flex justify-between px-4 py-[5px] hover:bg-base-300 ${isActive ? 'bg-base-300 font-semibold' : ''}`
            }
          >
            <span>{rail.word}</span>
            {counts?.[name] ? <span className="tabular-nums">{counts[name]}</span> : null}
          </NavLink>
        ) : null,
      )}
      <div className="mt-5 flex flex-col items-start gap-1 px-4">
        {rooms.map(
          ({ name, floats }) =>
            floats && (
              <button key={name} className="quiet hover:underline" onClick={() => float(floats)}>
                <kbd className="serial">{floats.key}</kbd> {floats.word}
              </button>
            ),
        )}
        {rooms.flatMap(({ keys }) =>
          (keys ?? [])
            .filter(({ shown }) => mayCall(shown.may, person.role))
            .map(({ key, word, path }) => (
              <NavLink key={key} className="quiet hover:underline" to={path}>
                <kbd className="serial">{key}</kbd> {word.toLowerCase()}
              </NavLink>
            )),
        )}
        <button className="quiet hover:underline" onClick={help}>
          <kbd className="serial">?</kbd> keys
        </button>
      </div>
      <Reader session={session} person={person} />
    </nav>
  );
}

function SignedInFrame({ session, person, rooms }: { session: Session; person: SignedIn; rooms: readonly Room[] }) {
  const navigate = useNavigate();
  const [hasHelp, setHelp] = useState(false);
  const { Floats, typedAhead, float, close } = useFloating(rooms);
  useAhead(KeysDialog);
  useLiveUpdates();
  useShellKeys(rooms, (contract) => mayCall(contract.may, person.role), {
    go: (path) => void navigate(path),
    float,
    help: () => setHelp(true),
    // From a record back to where it was opened; a room itself has nothing behind it.
    back: () => {
      if (window.location.pathname.split('/').length > 2) void navigate(-1);
    },
  });
  return (
    <ReaderProvider value={person}>
      <RoomsProvider value={rooms}>
        <RibbonPatterns />
        <div className="panes">
          <Rail session={session} person={person} rooms={rooms} float={float} help={() => setHelp(true)} />
          <main className="min-w-0 flex-1" tabIndex={-1}>
            <Outlet />
          </main>
        </div>
        <AskBeforeLeaving />
        {Floats && <Floats onClose={close} typedAhead={typedAhead} />}
        <Suspense>{hasHelp && <KeysDialog.Part rooms={rooms} onClose={() => setHelp(false)} />}</Suspense>
      </RoomsProvider>
    </ReaderProvider>
  );
}

export function Frame({ rooms }: { rooms: readonly Room[] }) {
  const query = server.useReadSessionQuery();
  return (
    <Waiting query={query}>
      {(session) =>
        session.person ? (
          <SignedInFrame session={session} person={session.person} rooms={rooms} />
        ) : (
          <Suspense>
            <SignIn.Part session={session} />
          </Suspense>
        )
      }
    </Waiting>
  );
}
