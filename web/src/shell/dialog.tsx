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
    dialog?.showModal();
    return () => dialog?.close();
  }, []);
  return (
    <dialog
      ref={ref}
      aria-label={title}
      onClose={onClose}
      className={`m-auto mt-[10vh] max-h-[80vh] w-full overflow-y-auto border border-base-content bg-base-100 p-5 text-base-content shadow-xl backdrop:bg-black/30 ${wide ? 'max-w-4xl' : 'max-w-lg'}`}
    >
      {children}
    </dialog>
  );
}
