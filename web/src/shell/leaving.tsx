// Asks before a page with something unsaved is left, or the window is closed.
import { Suspense, useContext, useEffect } from 'react';
import { useBlocker } from 'react-router';
import { LeaveQuestion, UnsavedContext } from '../parts/unsaved.tsx';
import { later, useAhead } from './later.ts';

const Dialog = later(async () => (await import('./dialog.tsx')).Dialog);

export function AskBeforeLeaving() {
  const unsaved = useContext(UnsavedContext);
  useAhead(Dialog);
  const blocker = useBlocker(
    ({ currentLocation, nextLocation }) => currentLocation.pathname !== nextLocation.pathname && unsaved.has(),
  );
  useEffect(() => {
    const ask = (event: BeforeUnloadEvent): void => {
      if (unsaved.has()) event.preventDefault();
    };
    window.addEventListener('beforeunload', ask);
    return () => window.removeEventListener('beforeunload', ask);
  }, [unsaved]);
  if (blocker.state !== 'blocked') return null;
  return (
    <Suspense>
      <Dialog.Part title="Leave without saving?" onClose={() => blocker.reset()}>
        <LeaveQuestion stay={() => blocker.reset()} leave={() => blocker.proceed()} />
      </Dialog.Part>
    </Suspense>
  );
}
