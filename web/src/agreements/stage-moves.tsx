// Suspending, lifting and ending an agreement: what goes on and what is open is shown and decided, not implied.
import { Link } from 'react-router';
import { moveStage, type AgreementPage as Page } from '#api/agreements/index.ts';
import { orderNumber } from '#api/shapes.ts';
import { plural } from '../parts/words.ts';
import { WireLongText, WireSelect } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { Dialog } from '../shell/dialog.tsx';
import { agreementsApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';

export const MOVES = {
  suspended: 'Suspend the agreement',
  'in force': 'Lift the suspension',
  ended: 'End the agreement',
} as const;
export type Move = keyof typeof MOVES;

export function saySuspended({ suspendedCover, suspendedVisits, suspendedBilling }: Page): string {
  const goes = (on: boolean): string => (on ? 'go on' : 'stop');
  return `While it is suspended, cover and promises ${goes(suspendedCover)}, preventive visits ${goes(suspendedVisits)}, and billing ${suspendedBilling ? 'goes on' : 'rests by the day'}.`;
}

const sayMove = (agreement: Page, to: Move): string =>
  to === 'suspended'
    ? saySuspended(agreement)
    : to === 'in force'
      ? 'Cover, visits and promises run again.'
      : 'This is final: no further visit is raised and nothing new is covered.';

function OpenWork({ id }: { id: string }) {
  const query = agreementsApi.useOpenWorkQuery({ params: { id } });
  return (
    <Waiting query={query}>
      {({ orders, ordersTotal, heldVisits }) => (
        <div>
          {ordersTotal === 0 ? (
            <p>No order is open under it.</p>
          ) : (
            <>
              <p>{plural(ordersTotal, 'order')} are open under it:</p>
              <ul className="my-1 max-h-40 overflow-y-auto border-y border-hairline py-1">
                {orders.map((o) => (
                  <li key={o.id}>
                    <Link className="serial link-ink" to={`/orders/${o.id}`}>
                      {orderNumber(o.id)}
                    </Link>{' '}
                    {o.title}, <span className="serial">{o.tag}</span>, {o.stage}
                  </li>
                ))}
              </ul>
              <WireSelect
                name="openOrders"
                label="What becomes of them"
                options={
                  [
                    ['keep', 'finish them as they were decided'],
                    ['call off', 'call them all off'],
                  ] as const
                }
              />
            </>
          )}
          {heldVisits > 0 && (
            <p className="quiet">{plural(heldVisits, 'visit')} held back will not be raised any more.</p>
          )}
        </div>
      )}
    </Waiting>
  );
}

export function MoveStage({ agreement, to, onClose }: { agreement: Page; to: Move; onClose: () => void }) {
  const [move] = agreementsApi.useMoveStageMutation();
  const id = String(agreement.id);
  const form = useWireForm(moveStage, { version: agreement.version, to, reason: '', openOrders: 'keep' });
  return (
    <Dialog title={MOVES[to]} onClose={onClose}>
      <WireForm
        form={form}
        name={MOVES[to]}
        save={MOVES[to]}
        send={(body) => move({ params: { id }, body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>{MOVES[to]}</h1>
        <p>{sayMove(agreement, to)}</p>
        {to === 'ended' && <OpenWork id={id} />}
        <WireLongText name="reason" label="Why" />
      </WireForm>
    </Dialog>
  );
}
