// What Today offers to the cards of rooms: a pane beside them, and a line among the decisions.
import { createContext, useContext, type ReactNode } from 'react';
import { createPortal } from 'react-dom';
import { Link } from 'react-router';
import { plural } from '../parts/words.ts';

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
      <th scope="row" className="w-56 border-hairline! align-top! text-base-content!">
        {what}
      </th>
      <td className="w-40">{figure}</td>
      <td className="quiet">{children}</td>
    </tr>
  );
}

/** How many are counted before a line says “over”. */
export const COUNTED = 50;
const NAMED = 3;

type Few = { readonly id: number; readonly to: string; readonly name: string; readonly beside: string };

/** A line about several things: the first few by name, the rest by where they are. */
export function DecisionOfFew({
  what,
  thing,
  items,
  more,
  all,
}: {
  what: string;
  /** What one of them is called. */
  thing: string;
  items: readonly Few[];
  /** There are more than were counted. */
  more: boolean;
  all: string;
}) {
  if (items.length === 0) return null;
  return (
    <Decision what={what} figure={more ? `over ${items.length} ${thing}s` : plural(items.length, thing)}>
      {items.slice(0, NAMED).map(({ id, to, name, beside }, i) => (
        <span key={id}>
          {i > 0 && ' · '}
          <Link className="link-ink" to={to}>
            {name}
          </Link>{' '}
          {beside}
        </span>
      ))}
      {items.length > NAMED && (
        <>
          {' · '}
          <Link className="link-ink" to={all}>
            all of them
          </Link>
        </>
      )}
    </Decision>
  );
}
