// Suspending, lifting and ending an agreement: what goes on and what is open is shown and decided, not implied.
import { useState } from 'react';
import { Link } from 'react-router';
import type { AgreementPage as Page } from '#api/agreements.ts';
import { orderNumber } from '#api/shapes.ts';
import { Field, SelectField, useSubmit } from '../parts/fields.tsx';
import { Form } from '../parts/form.tsx';
import { plural } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { agreementsApi } from './endpoints.ts';
import { Waiting } from '../shell/waiting.tsx';

export const MOVES = {
  suspended: 'Suspend the agreement',
  'in force': 'Lift the suspension',
  ended: 'End the agreement',
} as const;
export type Move = keyof typeof MOVES;

export function saySuspended({ suspendedCover, suspendedVisits }: Page): string {
  const goes = (on: boolean): string => (on ? 'go on' : 'stop');
  return `While it is suspended, cover and promises ${goes(suspendedCover)}, preventive visits ${goes(suspendedVisits)}.`;
}

const sayMove = (agreement: Page, to: Move): string =>
  to === 'suspended'
    ? saySuspended(agreement)
    : to === 'in force'
      ? 'Cover, visits and promises run again.'
      : 'This is final: no further visit is raised and nothing new is covered.';

function OpenWork({ id, decision, decide }: { id: string; decision: string; decide: (d: string) => void }) {
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
              <SelectField
                label="What becomes of them"
                value={decision}
                onChange={decide}
                options={[
                  ['keep', 'finish them as they were decided'],
                  ['call off', 'call them all off'],
                ]}
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
  const [reason, setReason] = useState('');
  const [openOrders, setOpenOrders] = useState('keep');
  const [move, { isLoading }] = agreementsApi.useMoveStageMutation();
  const { errors, submit } = useSubmit(['reason']);
  const id = String(agreement.id);
  return (
    <Dialog title={MOVES[to]} onClose={onClose}>
      <Form
        name={MOVES[to]}
        save={MOVES[to]}
        onSave={() =>
          submit(
            move({
              params: { id },
              body: { version: agreement.version, to, reason, openOrders: openOrders as 'keep' | 'call off' },
            }),
          ).then((done) => done && onClose())
        }
        onCancel={onClose}
        errors={errors}
        disabled={isLoading}
      >
        <h1>{MOVES[to]}</h1>
        <p>{sayMove(agreement, to)}</p>
        {to === 'ended' && <OpenWork id={id} decision={openOrders} decide={setOpenOrders} />}
        <Field label="Why" error={errors.of('reason')}>
          {(field) => (
            <textarea
              id={field}
              className="box-area"
              rows={3}
              value={reason}
              onChange={(e) => setReason(e.target.value)}
            />
          )}
        </Field>
      </Form>
    </Dialog>
  );
}
