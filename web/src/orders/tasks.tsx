// Tasks of an order: ticked as they are done, or left with the reason; machines are left the same way.
import { useState } from 'react';
import { recordAct, type ActIn, type OrderPage } from '#api/orders.ts';
import { isFinished } from '#core/orders/index.ts';
import { formatInstant } from '#core/time/index.ts';
import { GeneralError, newRequestKey, useSubmit } from '../parts/fields.tsx';
import { WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { useReader } from '../shell/reader.tsx';
import { ordersApi } from './endpoints.ts';

type Left = Extract<ActIn, { kind: 'task' | 'line' }>;

/** Why a task or a machine is left undone. */
export function LeaveForm({
  order,
  act,
  name,
  label,
  onDone,
}: {
  order: OrderPage;
  act: Left;
  name: string;
  label: string;
  onDone: () => void;
}) {
  const [record] = ordersApi.useRecordActMutation();
  const [requestKey] = useState(newRequestKey);
  const form = useWireForm<{ requestKey: string; at: string; act: Left }>(recordAct as never, {
    requestKey,
    at: formatInstant(order.now),
    act,
  });
  return (
    <div className="w-full pb-1">
      <WireForm
        form={form}
        name={name}
        save="Leave it"
        send={(body) => record({ params: { id: String(order.id) }, body })}
        onDone={onDone}
        onCancel={onDone}
      >
        <WireText name="act.text" label={label} autoFocus />
      </WireForm>
    </div>
  );
}

/** Records at once what needs no more asking; what was refused is said. */
export function useRecordNow(order: OrderPage) {
  const [record] = ordersApi.useRecordActMutation();
  const { errors, submit } = useSubmit([]);
  const recordNow = (act: ActIn) => {
    const body = { requestKey: newRequestKey(), at: formatInstant(order.now), act };
    return submit(record({ params: { id: String(order.id) }, body }));
  };
  return { errors, recordNow };
}

type Task = OrderPage['tasks'][number];

function TaskRow({ order, task: t, settle }: { order: OrderPage; task: Task; settle: ((id: number) => void) | null }) {
  const [leaving, setLeaving] = useState(false);
  return (
    <li className="flex flex-wrap items-center gap-2 border-b border-hairline py-1">
      <label className="flex flex-1 items-center gap-2">
        <input
          type="checkbox"
          className="box-tick"
          checked={t.outcome === 'done'}
          disabled={!settle || t.outcome !== null}
          onChange={() => settle?.(t.id)}
        />
        {t.text}
      </label>
      {t.outcome === 'left' ? (
        <span className="quiet">left undone</span>
      ) : t.outcome === null && settle ? (
        <button className="quiet link-ink" onClick={() => setLeaving(true)}>
          leave…
        </button>
      ) : null}
      {!t.mandatory && <span className="quiet">if needed</span>}
      {leaving && (
        <LeaveForm
          order={order}
          act={{ kind: 'task', taskId: t.id, outcome: 'left', text: '' }}
          name="Leave the task"
          label="Why it is left"
          onDone={() => setLeaving(false)}
        />
      )}
    </li>
  );
}

/** Of several machines each has its own; of one that is left undone nothing is asked. */
export function Tasks({ order }: { order: OrderPage }) {
  const reader = useReader();
  const { errors, recordNow } = useRecordNow(order);
  const closed = isFinished(order.stage) || !reader.may(recordAct);
  if (order.tasks.length === 0) return null;
  return (
    <section>
      <h2>Tasks</h2>
      {order.lines.map((line) => {
        const own = order.tasks.filter((t) => t.lineId === line.id);
        if (own.length === 0) return null;
        const settle =
          closed || line.left !== null
            ? null
            : (taskId: number) => void recordNow({ kind: 'task', taskId, outcome: 'done', text: '' });
        return (
          <section key={line.id} aria-label={`Tasks at ${line.tag}`}>
            {order.lines.length > 1 && (
              <h3 className="quiet mt-2">
                <span className="serial">{line.tag}</span> {line.className}
                {line.left !== null && ', left undone'}
              </h3>
            )}
            <ul className="mt-1 border-t border-hairline">
              {own.map((t) => (
                <TaskRow key={t.id} order={order} task={t} settle={settle} />
              ))}
            </ul>
          </section>
        );
      })}
      <GeneralError errors={errors} />
    </section>
  );
}
