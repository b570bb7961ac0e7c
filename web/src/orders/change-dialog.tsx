// Another priority, machine or cause: what that makes of cover and clocks is shown before it is done, beside what held so far.
import { useState } from 'react';
import { changeOrder, type DecidedAgain } from '#api/calls.ts';
import type { OrderPage } from '#api/orders.ts';
import type { Priority } from '#core/service-levels/index.ts';
import { isFinished } from '#core/orders/index.ts';
import type { Instant } from '#core/time/index.ts';
import { CAUSES } from '#core/entitlement/index.ts';
import { ChooseAsset } from '../assets/index.ts';
import type { Choice } from '../parts/choose.tsx';
import { ClocksBeside } from '../parts/clocks-beside.tsx';
import { newRequestKey } from '../parts/fields.tsx';
import { WireSelect, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { usePriorityChoices } from '../setup/index.ts';
import { Dialog } from '../shell/dialog.tsx';
import { ordersApi } from './endpoints.ts';

type Line = OrderPage['lines'][number];
type Typed = {
  requestKey: string;
  priority: Priority;
  lineId: number | null;
  assetId: Choice | null;
  cause: (typeof CAUSES)[number] | null;
  text: string;
};

const askOf = (order: OrderPage, { priority, lineId, assetId, cause }: Typed) => {
  const line = order.lines.find((l) => l.id === lineId);
  const another = line && (assetId !== null || (cause ?? 'unknown') !== (line.cause ?? 'unknown'));
  return {
    priority: priority === order.priority ? null : priority,
    lines: another ? [{ lineId: line.id, assetId: assetId?.id ?? null, cause }] : [],
  };
};

function Effect({ effect, now }: { effect: DecidedAgain; now: number }) {
  return (
    <div className="border-y border-hairline py-2" aria-live="polite">
      {effect.lines.map(({ lineId, before, after }) => (
        <div key={lineId} className="grid grid-cols-2 gap-4 py-1">
          <p>
            <span className="quiet block">Held so far{before.tag && ` for ${before.tag}`}</span>
            {before.sentence} {before.promise}
          </p>
          <p>
            <span className="quiet block">Would hold{after.tag && ` for ${after.tag}`}</span>
            {after.sentence} {after.promise}
          </p>
        </div>
      ))}
      <ClocksBeside of={effect} now={now as Instant} />
    </div>
  );
}

/** Of work that is done only the cause turns out to be another. */
export function ChangeDialog({ order, onClose }: { order: OrderPage; onClose: () => void }) {
  const isDone = isFinished(order.stage);
  const [change] = ordersApi.useChangeOrderMutation();
  const [requestKey] = useState(newRequestKey);
  const priorities = usePriorityChoices();
  const own: readonly Line[] = order.lines.filter((l) => l.visit === null && !l.off);
  const first = own[0] ?? null;
  const start: Typed = {
    ...{ requestKey, priority: order.priority as Typed['priority'], lineId: first?.id ?? null },
    ...{ assetId: null, cause: first?.cause ?? 'unknown', text: '' },
  };
  const bodyOf = (typed: Typed) => ({ ...askOf(order, typed), requestKey, text: typed.text });
  const form = useWireForm(changeOrder, start, bodyOf);
  const typed = form.watch();
  const ask = askOf(order, typed);
  const isAnother = ask.priority !== null || ask.lines.length > 0;
  const preview = ordersApi.usePreviewChangeQuery(
    { params: { id: String(order.id) }, body: ask },
    { skip: !isAnother },
  );
  const refused = isAnother ? (preview.error as { detail?: string } | undefined) : undefined;
  return (
    <Dialog title="Decide again" onClose={onClose} wide>
      <WireForm
        form={form}
        name="Decide again"
        save="Decide it so"
        send={(now) => change({ params: { id: String(order.id) }, body: bodyOf(now) })}
        onDone={onClose}
        onCancel={onClose}
        disabled={!isAnother || refused !== undefined}
      >
        <h1>{isDone ? 'Another cause' : 'Priority, machine or cause'}</h1>
        <p className="quiet">
          Cover and clocks are decided again as of the start of the order. What held until now stays with it.
        </p>
        <div className="grid grid-cols-2 gap-3">
          {!isDone && <WireSelect name="priority" label="Priority" options={priorities} />}
          {own.length > 1 && (
            <WireSelect
              name="lineId"
              label="Of which machine"
              options={own.map((l) => [l.id, `${l.tag} ${l.model}`] as const)}
            />
          )}
          {first && <WireSelect name="cause" label="Cause" options={CAUSES.map((c) => [c, c] as const)} />}
          {first && !isDone && (
            <Wire<Choice | null> name="assetId">
              {({ value, change: set, error }) => (
                <ChooseAsset
                  label="It is another machine"
                  chosen={value}
                  onChoose={set}
                  within={{ customer: String(order.customer.id) }}
                  except={order.lines.flatMap((l) => l.assetId ?? [])}
                  none={`no: ${own.find((l) => l.id === typed.lineId)?.tag ?? ''}`}
                  error={error}
                />
              )}
            </Wire>
          )}
        </div>
        {refused && <p className="text-missed">✕ {refused.detail}</p>}
        {isAnother && preview.currentData && <Effect effect={preview.currentData} now={order.now} />}
        <WireText name="text" label="Why" />
      </WireForm>
    </Dialog>
  );
}

/** The same for whoever has only its number. */
export function CauseDialog({ id, onClose }: { id: number; onClose: () => void }) {
  const { data: order } = ordersApi.useReadOrderQuery({ params: { id: String(id) } });
  return order ? <ChangeDialog order={order} onClose={onClose} /> : null;
}
