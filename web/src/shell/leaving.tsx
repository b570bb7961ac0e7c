// Asks before a page with something unsaved is left, or the window is closed.
import { useContext, useEffect } from 'react';
import { useBlocker } from 'react-router';
import { LeaveQuestion, UnsavedContext } from '../parts/unsaved.tsx';
import { Dialog } from './dialog.tsx';

export function AskBeforeLeaving() {
  const unsaved = useContext(UnsavedContext);
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
    <Dialog title="Leave without saving?" onClose={() => blocker.reset()}>
      <LeaveQuestion stay={() => blocker.reset()} leave={() => blocker.proceed()} />
    </Dialog>
  );
}
