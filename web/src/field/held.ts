// What a screen of Field knows: what the phone holds, its orders with what was done here, and the phone's own time.
import { createContext, useContext, useEffect, useState, useSyncExternalStore } from 'react';
import type { FieldBody, FieldOrder } from '#api/field.ts';
import { corrected, orderNow, type OrderNow, type PhoneAct } from '#core/field/index.ts';
import type { OrderAct } from '#core/orders/index.ts';
import type { Instant, Zone } from '#core/time/index.ts';
import type { Phone, PhoneState } from './phone/phone.ts';

export const PhoneContext = createContext<Phone | null>(null);

export function usePhone(): Phone {
  const phone = useContext(PhoneContext);
  if (!phone) throw new Error('there is no phone around this');
  return phone;
}

export const useHeld = (): PhoneState => {
  const phone = usePhone();
  return useSyncExternalStore(phone.subscribe, phone.state);
};

const TICK_MS = 20_000;

/** The time by the server's clock, as the phone knows it. */
export function useNow(): Instant {
  const phone = usePhone();
  // Heard of it another time, it is another time.
  useHeld();
  const [, tick] = useState(0);
  useEffect(() => {
    const timer = setInterval(() => tick((n) => n + 1), TICK_MS);
    return () => clearInterval(timer);
  }, []);
  return phone.now();
}

/** When the server last answered, by its clock; null: never. */
export const heardAtOf = ({ heardAt, clock }: PhoneState): Instant | null =>
  heardAt === null ? null : (clock.fixed ?? corrected(heardAt, clock.offset));

export const zoneOf = (state: PhoneState): Zone => (state.owner?.zone ?? 'UTC') as Zone;

/** Acts of this phone that what it holds does not show yet: taken just now, or waiting. What was refused did not happen. */
export const actsHere = ({ taken, queue }: Pick<PhoneState, 'taken' | 'queue'>): readonly PhoneAct<FieldBody>[] => [
  ...taken,
  ...queue.flatMap(({ act, state }) => (state.kind === 'refused' ? [] : [act])),
];

export type OnOrder = FieldOrder & { readonly here: OrderNow };

/** What of an order was done here and is not in what the phone holds of it. */
export const ofOrder = (acts: readonly PhoneAct<FieldBody>[], id: number): readonly PhoneAct<FieldBody>[] =>
  acts.filter(({ body }) => 'orderId' in body && body.orderId === id);

/** Of each order held, with which acts it was last put together: drawn again for another reason, it is the same. */
const together = new WeakMap<FieldOrder, OnOrder & { readonly with: readonly PhoneAct<FieldBody>[] }>();

export function withActs(order: FieldOrder, acts: readonly PhoneAct<FieldBody>[], now: Instant): OnOrder {
  const own = ofOrder(acts, order.page.id).filter(({ body }) => body.kind === 'order');
  const known = together.get(order);
  if (known && known.with.length === own.length && own.every(({ id }, i) => id === known.with[i]?.id)) return known;
  const done = own.flatMap(({ id, at, body }) =>
    body.kind === 'order' ? [{ id, at, act: body.act as OrderAct }] : [],
  );
  const made = { ...order, here: orderNow(order, done, now), with: own };
  together.set(order, made);
  return made;
}

/** The order of a page, as it stands with what was done here; null: the phone does not hold it. */
export function useOrder(id: number): OnOrder | null {
  const state = useHeld();
  const now = useNow();
  const order = state.orders.get(id);
  return order ? withActs(order, actsHere(state), now) : null;
}

/** The deed by which an order was begun here, as far as the server does not have it: what follows needs it. */
export const begunBy = (state: PhoneState, orderId: number): string[] =>
  state.queue.flatMap(({ act }) =>
    act.body.kind === 'order' && act.body.orderId === orderId && act.body.act.kind === 'arrived' ? [act.deed] : [],
  );
