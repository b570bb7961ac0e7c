// What tests of calls do again and again: raise an order of one machine, record an act on it, read its page.
import { randomUUID } from 'node:crypto';
import type { OrderPage } from '#api/orders.ts';
import type { Answer, Caller, World } from './house.ts';

export const RECEIVED = '2026-11-24T09:00:00Z';
export const refusedAt = ({ status, body }: Answer): unknown[] => [status, body.errors[0]?.field, body.errors[0]?.code];

/** The caller and the world are asked for at each act: they stand only after the house was opened. */
export function calling(here: () => { call: Caller; world: World }) {
  const asked = (over: object = {}) => ({
    ...{ assetIds: [here().world.assetIds[0]], priority: 1, cause: 'wear', receivedAt: RECEIVED, title: 'Warm' },
    ...over,
  });
  const raise = (over: object = {}, by = here().call) =>
    by<{ id: number }>('POST', '/api/orders', { requestKey: randomUUID(), ...asked(over) });
  const raised = async (over: object = {}): Promise<number> => {
    const answer = await raise(over);
    if (answer.status !== 200) throw new Error(JSON.stringify(answer.body));
    return answer.body.id;
  };
  const page = async (id: number): Promise<OrderPage> =>
    (await here().call<OrderPage>('GET', `/api/orders/${id}`)).body;
  const record = (id: number, act: object, by = here().call, at = '2026-11-24T09:10:00Z') =>
    by('POST', `/api/orders/${id}/events`, { requestKey: randomUUID(), at, act });
  return { asked, raise, raised, page, record };
}
