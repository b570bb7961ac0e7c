// What floats: a dialog with a title, closed by Esc. The keys stay within it, and go back to where they were.
import { useEffect, useRef, type ReactNode } from 'react';
import { Dialog as Sheet, Modal, ModalOverlay } from 'react-aria-components';
import { LeaveQuestion, UnsavedContext, useAskedClose, useUnsavedWithin } from '../parts/unsaved.tsx';

const TYPED_IN = 'input:not([type="hidden"]):not([disabled]), select, textarea';
const REACHED = `${TYPED_IN}, button:not([disabled]), a[href]`;

/** The first field takes the keys, so that one can type at once. */
function Entered({ children }: { children: ReactNode }) {
  const inside = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const box = inside.current;
    if (!box || box.contains(document.activeElement)) return;
    (box.querySelector<HTMLElement>(TYPED_IN) ?? box.querySelector<HTMLElement>(REACHED))?.focus();
  }, []);
  return <div ref={inside}>{children}</div>;
}

/** Closed after an act its button may be gone: the next one of the same part takes the keys, so that work goes on there. */
function useNextAfter(): void {
  useEffect(() => {
    const opener = document.activeElement;
    const around = opener?.closest('article, section, main');
    return () => {
      requestAnimationFrame(() => {
        if (opener?.isConnected || (document.activeElement && document.activeElement !== document.body)) return;
        const near = around?.isConnected ? around : document.querySelector('main');
        (near?.querySelector<HTMLElement>('button, a[href]') ?? document.querySelector('main'))?.focus();
      });
    };
  }, []);
}

/** A button that was pressed and cannot be pressed again loses the keys to the page; Esc still closes what floats on top. */
function useEscapeFromPage(onClose: () => void): void {
  const latest = useRef(onClose);
  useEffect(() => {
    latest.current = onClose;
  });
  const own = useRef<HTMLElement | null>(null);
  useEffect(() => {
    own.current = [...document.querySelectorAll<HTMLElement>('[role="dialog"]')].at(-1) ?? null;
    const escape = (event: KeyboardEvent): void => {
      if (event.key !== 'Escape' || document.activeElement?.closest('[role="dialog"]')) return;
      const top = [...document.querySelectorAll<HTMLElement>('[role="dialog"]')].at(-1);
      if (top === own.current) latest.current();
    };
    document.addEventListener('keydown', escape);
    return () => document.removeEventListener('keydown', escape);
  }, []);
}

/** Closed from outside, by Esc or a click beside it, it asks first where something typed would be lost; its own buttons do not. */
export function Dialog({
  title,
  onClose,
  children,
  wide = false,
}: {
  title: string;
  onClose: () => void;
  children: ReactNode;
  wide?: boolean;
}) {
  const unsaved = useUnsavedWithin();
  const { asking, close, stay } = useAskedClose(unsaved, onClose);
  useNextAfter();
  useEscapeFromPage(close);
  return (
    <>
      <ModalOverlay isOpen onOpenChange={(isOpen) => !isOpen && close()} className="shade">
        <Modal className={`floating sheet-over ${wide ? 'max-w-4xl' : 'max-w-lg'}`}>
          <Sheet aria-label={title} className="p-5 outline-none">
            <UnsavedContext value={unsaved}>
              <Entered>{children}</Entered>
            </UnsavedContext>
          </Sheet>
        </Modal>
      </ModalOverlay>
      {asking && (
        <Dialog title="Leave without saving?" onClose={stay}>
          <LeaveQuestion stay={stay} leave={onClose} />
        </Dialog>
      )}
    </>
  );
}
