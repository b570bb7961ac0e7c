// What the server does not have yet: in order, with what it refused and why, to be done anew or let go.
import { useState } from 'react';
import { Link } from 'react-router';
import type { FieldBody } from '#api/field.ts';
import { orderNumber } from '#api/shapes.ts';
import type { Waiting } from '#core/field/index.ts';
import { sayTime } from '../parts/words.ts';
import { Refused } from './doing.tsx';
import { useHeld, usePhone, zoneOf } from './held.ts';

const SAYS: Readonly<Record<FieldBody['kind'], string>> = {
  order: 'on an order',
  part: 'part used',
  need: 'part asked for',
  time: 'hours',
  cost: 'cost',
  photo: 'photo',
  reading: 'meter reading',
  rest: 'not finished',
  answer: 'answer to an appointment',
  late: 'running late',
  'handed over': 'parts handed over',
  counted: 'a count of the van',
  'handed in': 'the week handed in',
  absent: 'an absence',
  machine: 'a machine found there',
  swap: 'swapped',
  'to invoice': 'to be invoiced',
  'asked for': 'a part asked for the van',
  received: 'seen to be in the van',
  'position allowed': 'whether where you are is said',
  'was at': 'where you were',
};
const OF_ORDER: Readonly<Record<string, string>> = {
  arrived: 'arrived',
  'worked around': 'works for now',
  restored: 'back in use',
  done: 'finished',
  task: 'task',
  form: 'form',
  found: 'what was found',
  signed: 'signature',
  paused: 'paused',
  resumed: 'went on',
  note: 'note',
  line: 'machine',
};
const sayBody = (body: FieldBody): string =>
  body.kind === 'order' ? (OF_ORDER[body.act.kind] ?? body.act.kind) : SAYS[body.kind];

/** Where the same is told again in other words. */
const againAt = ({ body, deed }: Waiting<FieldBody>['act']): string | null => {
  if (body.kind === 'order' && body.act.kind === 'found')
    return `/order/${body.orderId}/found/${body.act.lineId}?again=${deed}`;
  if (body.kind === 'time') return `/order/${orderOf(body)}/hours?again=${deed}`;
  return null;
};
const orderOf = (body: FieldBody): number | null => ('orderId' in body ? body.orderId : null);

function Item({ waiting }: { waiting: Waiting<FieldBody> }) {
  const phone = usePhone();
  const state = useHeld();
  const { act, state: stands } = waiting;
  const order = orderOf(act.body);
  const title = order === null ? null : state.orders.get(order)?.page.title;
  const [isSure, setSure] = useState(false);
  const again = againAt(act);
  return (
    <li className="border-b border-hairline py-2">
      <p>
        <span className="font-semibold">{sayBody(act.body)}</span>
        {order !== null && (
          <>
            {' '}
            <Link className="link-ink" to={`/order/${order}`}>
              <span className="serial">{orderNumber(order)}</span> {title}
            </Link>
          </>
        )}
      </p>
      <p className="quiet">
        {sayTime(act.at, zoneOf(state))},{' '}
        {stands.kind === 'refused' ? 'not taken' : stands.kind === 'sending' ? 'on its way' : 'waits'}
      </p>
      {stands.kind === 'refused' && (
        <>
          <Refused refusals={stands.refusals} />
          <div className="mt-2 flex flex-wrap gap-2">
            {again === null ? (
              <button className="plain" onClick={() => void phone.do(act.body, { needs: act.needs, deed: act.deed })}>
                Try it again
              </button>
            ) : (
              <Link className="plain" to={again}>
                Put it right
              </Link>
            )}
            {isSure ? (
              <button className="plain" onClick={() => void phone.letGo(act.id)}>
                Yes, let it go with what builds on it
              </button>
            ) : (
              <button className="plain" onClick={() => setSure(true)}>
                Let it go …
              </button>
            )}
          </div>
        </>
      )}
    </li>
  );
}

export function WaitingPage() {
  const phone = usePhone();
  const { queue, net, isSending } = useHeld();
  return (
    <>
      <main>
        <h1>To be sent</h1>
        {queue.length === 0 ? (
          <p className="mt-2">Everything is at the office.</p>
        ) : (
          <ul className="mt-2">
            {queue.map((w) => (
              <Item key={w.act.id} waiting={w} />
            ))}
          </ul>
        )}
      </main>
      {queue.length > 0 && (
        <footer className="field-foot">
          <button className="wide" disabled={isSending} onClick={() => phone.look()}>
            {net === 'gone' ? 'Try to send it' : isSending ? 'Sending …' : 'Send it now'}
          </button>
        </footer>
      )}
    </>
  );
}
