// What is typed and not saved yet: whoever would leave it behind is asked first.
import { createContext, useContext, useEffect, useId, useMemo, useState, type ReactNode } from 'react';

export type Unsaved = {
  readonly mark: (id: string, isUnsaved: boolean) => void;
  readonly has: () => boolean;
};

export function makeUnsaved(above?: Unsaved): Unsaved {
  const held = new Set<string>();
  return {
    mark: (id, isUnsaved) => {
      if (isUnsaved) held.add(id);
      else held.delete(id);
      above?.mark(id, isUnsaved);
    },
    has: () => held.size > 0,
  };
}

/** Everything that is open in the page; a dialog has a part of its own within it. */
export const UnsavedContext = createContext<Unsaved>(makeUnsaved());

/** What is typed within, known also to whatever is around it. */
export function useUnsavedWithin(): Unsaved {
  const above = useContext(UnsavedContext);
  return useMemo(() => makeUnsaved(above), [above]);
}

/** Says whether the form that calls holds something unsaved. */
export function useMarkUnsaved(isUnsaved: boolean): void {
  const id = useId();
  const { mark } = useContext(UnsavedContext);
  useEffect(() => {
    mark(id, isUnsaved);
    return () => mark(id, false);
  }, [id, isUnsaved, mark]);
}

/** The question itself, with what is done by either answer. */
export function LeaveQuestion({ stay, leave }: { stay: () => void; leave: () => void }): ReactNode {
  return (
    <>
      <h1>Leave without saving?</h1>
      <p className="mt-2">What you typed here is not saved yet.</p>
      <div className="form-acts mt-4">
        <button type="button" className="act-main" onClick={stay}>
          Stay here
        </button>
        <button type="button" className="act" onClick={leave}>
          Leave it
        </button>
      </div>
    </>
  );
}

/** Closing by Esc or a click outside, with the question where something is typed. */
export function useAskedClose(unsaved: Unsaved, onClose: () => void) {
  const [asking, setAsking] = useState(false);
  return {
    asking,
    close: (): void => (unsaved.has() ? setAsking(true) : onClose()),
    stay: (): void => setAsking(false),
  };
}
