// Doing something on the phone: judged by the rules at once, kept, shown, and back to where one was.
import { useState, type ReactNode } from 'react';
import { useLocation, useNavigate, useParams } from 'react-router';
import type { FieldBody } from '#api/field.ts';
import { refusedNow } from '#core/field/index.ts';
import type { Findings, OrderAct } from '#core/orders/index.ts';
import type { Refusal } from '#core/refusal.ts';
import { begunBy, useOrder, usePhone, type OnOrder } from './held.ts';

type ActOnPhone = Extract<FieldBody, { kind: 'order' }>['act'];

/** React Router's key of the page that the phone opened by its address: from there, back leads out of Field. */
const OPENED = 'default';

/** Where what was done belongs: its order, otherwise the page above. */
const above = (body: FieldBody, path: string): string =>
  'orderId' in body && body.orderId !== null ? `/order/${body.orderId}` : path.replace(/\/[^/]*$/, '') || '/';

/** What was refused, and how to do things; what is done goes back to where one was, unless it is said to stay. */
export function useDoing() {
  const phone = usePhone();
  const navigate = useNavigate();
  const { key, pathname } = useLocation();
  const [refusals, setRefusals] = useState<readonly Refusal[]>([]);
  const act = async (
    body: FieldBody,
    over: { needs?: readonly string[]; deed?: string; stay?: boolean } = {},
  ): Promise<string | null> => {
    const { stay, ...more } = over;
    const done = await phone.do(body, more);
    setRefusals(done.ok ? [] : done.refusals);
    if (!done.ok) return null;
    if (!stay) void (key === OPENED ? navigate(above(body, pathname), { replace: true }) : navigate(-1));
    return done.value;
  };
  /** The same of an order: what its rules refuse is said at once and not kept. */
  const actOn = (
    order: OnOrder,
    what: ActOnPhone,
    { was, ...over }: { stay?: boolean; deed?: string; was?: Findings | null } = {},
  ): Promise<string | null> => {
    const now = phone.now();
    const refused = refusedNow(order, order.here, what as OrderAct, now, now);
    if (refused.length > 0) {
      setRefusals(refused);
      return Promise.resolve(null);
    }
    const needs = what.kind === 'note' ? [] : begunBy(phone.state(), order.page.id);
    const of = { kind: 'order', orderId: order.page.id, act: what } as const;
    return act(was === undefined ? of : { ...of, was }, { needs, ...over });
  };
  return { refusals, setRefusals, act, actOn };
}

export const Refused = ({ refusals }: { refusals: readonly Refusal[] }): ReactNode =>
  refusals.length > 0 && (
    <div role="alert" className="mt-3 text-missed">
      {refusals.map((r) => (
        <p key={r.message}>✕ {r.message}</p>
      ))}
    </div>
  );

/** Where the phone does not hold what a page is about. */
export const NotHeld = () => (
  <main>
    <p>This is not on the phone. It holds today and the two days after.</p>
  </main>
);

/** The order that a page's address names, as it stands here. */
export function Held({ show }: { show: (order: OnOrder) => ReactNode }) {
  const { id } = useParams();
  const order = useOrder(Number(id));
  return order ? show(order) : <NotHeld />;
}
