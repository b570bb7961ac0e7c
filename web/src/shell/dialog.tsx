// What floats: a dialog with a title, closed by Esc.
import { useEffect, useRef, type ReactNode } from 'react';

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
  const ref = useRef<HTMLDialogElement>(null);
  useEffect(() => {
    const dialog = ref.current;
    const opener = document.activeElement;
    const around = opener?.closest('article, section, main');
    dialog?.showModal();
    return () => {
      dialog?.close();
      // Closed after an act its button may be gone: the next one of the same part takes the focus, so that work goes on there.
      requestAnimationFrame(() => {
        if (opener?.isConnected || (document.activeElement && document.activeElement !== document.body)) return;
        const near = around?.isConnected ? around : document.querySelector('main');
        (near?.querySelector<HTMLElement>('button, a[href]') ?? document.querySelector('main'))?.focus();
      });
    };
  }, []);
  return (
    <dialog
      ref={ref}
      aria-label={title}
      onClose={onClose}
      className={`m-auto max-h-[94vh] w-full overflow-y-auto border border-base-content bg-base-100 p-5 text-base-content shadow-xl backdrop:bg-black/30 ${wide ? 'max-w-4xl' : 'max-w-lg'}`}
    >
      {children}
    </dialog>
  );
}
