// Tasks of an order: ticked as they are done, or left with the reason.
import { useState } from 'react';
import { recordAct, type ActIn, type OrderPage } from '#api/orders.ts';
import { isFinished } from '#core/orders/index.ts';
import { formatInstant } from '#core/time/index.ts';
import { GeneralError, newRequestKey, useSubmit } from '../parts/fields.tsx';
import { WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { useReader } from '../shell/reader.tsx';
import { ordersApi } from './endpoints.ts';

function LeaveTask({ order, taskId, onDone }: { order: OrderPage; taskId: number; onDone: () => void }) {
  const [record] = ordersApi.useRecordActMutation();
  const [requestKey] = useState(newRequestKey);
  const form = useWireForm<{ requestKey: string; at: string; act: Extract<ActIn, { kind: 'task' }> }>(
    recordAct as never,
    { requestKey, at: formatInstant(order.now), act: { kind: 'task', taskId, outcome: 'left', text: '' } },
  );
  return (
    <div className="w-full pb-1">
      <WireForm
        form={form}
        name="Leave the task"
        save="Leave it"
        send={(body) => record({ params: { id: String(order.id) }, body })}
        onDone={onDone}
        onCancel={onDone}
      >
        <WireText name="act.text" label="Why it is left" autoFocus />
      </WireForm>
    </div>
  );
}

export function Tasks({ order }: { order: OrderPage }) {
  const reader = useReader();
  const [record] = ordersApi.useRecordActMutation();
  const { errors, submit } = useSubmit([]);
  const [leaving, setLeaving] = useState<number | null>(null);
  const closed = isFinished(order.stage) || !reader.may(recordAct);
  const settle = (taskId: number) => {
    const act = { kind: 'task' as const, taskId, outcome: 'done' as const, text: '' };
    const body = { requestKey: newRequestKey(), at: formatInstant(order.now), act };
    return submit(record({ params: { id: String(order.id) }, body }));
  };
  if (order.tasks.length === 0) return null;
  return (
    <section>
      <h2>Tasks</h2>
      <ul className="mt-1 border-t border-hairline">
        {order.tasks.map((t) => (
          <li key={t.id} className="flex flex-wrap items-center gap-2 border-b border-hairline py-1">
            <label className="flex flex-1 items-center gap-2">
              <input
                type="checkbox"
                className="box-tick"
                checked={t.outcome === 'done'}
                disabled={closed || t.outcome !== null}
                onChange={() => void settle(t.id)}
              />
              {t.text}
            </label>
            {t.outcome === 'left' ? (
              <span className="quiet">left undone</span>
            ) : t.outcome === null && !closed ? (
              <button className="quiet link-ink" onClick={() => setLeaving(t.id)}>
                leave…
              </button>
            ) : null}
            {!t.mandatory && <span className="quiet">if needed</span>}
            {leaving === t.id && <LeaveTask order={order} taskId={t.id} onDone={() => setLeaving(null)} />}
          </li>
        ))}
      </ul>
      <GeneralError errors={errors} />
    </section>
  );
}
