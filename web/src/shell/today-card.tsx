// What Today offers to the cards of rooms: a pane beside them, and a line among the decisions.
import { createContext, useContext, type ReactNode } from 'react';
import { createPortal } from 'react-dom';

const BesideContext = createContext<HTMLElement | null>(null);
export const BesideProvider = BesideContext.Provider;

/** Shown in the pane at the right, which is there only while something is in it. */
export function Beside({ label, children }: { label: string; children: ReactNode }) {
  const pane = useContext(BesideContext);
  if (!pane) return null;
  return createPortal(
    <aside aria-label={label} className="pane w-[272px] overflow-y-auto border-l bg-base-100 px-4 pt-5">
      {children}
    </aside>,
    pane,
  );
}

export function Decision({ what, figure, children }: { what: string; figure: string; children: ReactNode }) {
  return (
    <tr>
      <th scope="row" className="w-56 border-hairline! text-base-content!">
        {what}
      </th>
      <td className="w-40">{figure}</td>
      <td className="quiet">{children}</td>
    </tr>
  );
}
