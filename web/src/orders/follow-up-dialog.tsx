// What was left goes on with an order of its own; one more machine joins this one.
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { addLine, followUp } from '#api/calls.ts';
import type { OrderPage } from '#api/orders.ts';
import { CAUSES } from '#core/entitlement/index.ts';
import { ChooseAsset } from '../assets/index.ts';
import type { Choice } from '../parts/choose.tsx';
import { newRequestKey } from '../parts/fields.tsx';
import { WireDate, WireSelect, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { Dialog } from '../shell/dialog.tsx';
import { ordersApi } from './endpoints.ts';

export function FollowUpDialog({ order, onClose }: { order: OrderPage; onClose: () => void }) {
  const navigate = useNavigate();
  const [raise] = ordersApi.useFollowUpMutation();
  const [requestKey] = useState(newRequestKey);
  const lines = order.lines.filter((l) => !l.off && l.handedOn === null);
  const undone = lines.filter((l) => l.finishedAt === null);
  const form = useWireForm(followUp, {
    ...{ requestKey, reason: '', parts: '', wishedOn: null as string | null },
    lineIds: (undone.length > 0 ? undone : lines).map((l) => l.id),
  });
  const goesOn = order.kind === 'repair' && lines.some((l) => l.restoredAt === null);
  return (
    <Dialog title="Follow up" onClose={onClose}>
      <WireForm
        form={form}
        name="Follow up"
        save="Raise the follow-up"
        send={(body) => raise({ params: { id: String(order.id) }, body })}
        onDone={({ id }) => void navigate(`/orders/${id}`)}
        onCancel={onClose}
      >
        <h1>Follow up on what was left</h1>
        <p className="quiet">
          Tasks that were not done go with it.
          {goesOn && ' The machine is not back in use: its promise goes on with the follow-up, from the same start.'}
        </p>
        {lines.length > 1 && (
          <Wire<readonly number[]> name="lineIds">
            {({ value, change, error }) => (
              <fieldset>
                <legend>Which machines go on</legend>
                {lines.map((l) => (
                  <label key={l.id} className="flex items-center gap-2">
                    <input
                      type="checkbox"
                      className="box-tick"
                      checked={value.includes(l.id)}
                      onChange={(e) => change(e.target.checked ? [...value, l.id] : value.filter((id) => id !== l.id))}
                    />
                    <span className="serial">{l.tag}</span> {l.model}
                  </label>
                ))}
                {error && <p className="text-missed">✕ {error}</p>}
              </fieldset>
            )}
          </Wire>
        )}
        <WireText name="reason" label="What is left, and why" autoFocus />
        <WireText name="parts" label="Parts needed" />
        <WireDate name="wishedOn" label="Wished day" empty={null} />
      </WireForm>
    </Dialog>
  );
}

type TypedLine = { requestKey: string; assetId: Choice | null; cause: (typeof CAUSES)[number]; text: string };

export function AddMachineDialog({ order, onClose }: { order: OrderPage; onClose: () => void }) {
  const [add] = ordersApi.useAddLineMutation();
  const [requestKey] = useState(newRequestKey);
  const start: TypedLine = { requestKey, assetId: null, cause: 'unknown', text: '' };
  // What is none is refused at its field.
  const bodyOf = ({ assetId, ...rest }: TypedLine) => ({ ...rest, assetId: assetId?.id ?? NaN });
  const form = useWireForm(addLine, start, bodyOf);
  return (
    <Dialog title="Add a machine" onClose={onClose}>
      <WireForm
        form={form}
        name="Add a machine"
        save="Add it"
        send={(typed) => add({ params: { id: String(order.id) }, body: bodyOf(typed) })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>Add a machine</h1>
        <p className="quiet">Its cover is decided as of now, and its promises run from now.</p>
        <Wire<Choice | null> name="assetId">
          {({ value, change, error }) => (
            <ChooseAsset
              label="Machine"
              chosen={value}
              onChoose={change}
              within={{ customer: String(order.customer.id) }}
              except={order.lines.flatMap((l) => l.assetId ?? [])}
              error={error}
            />
          )}
        </Wire>
        <WireSelect name="cause" label="Likely cause" options={CAUSES.map((c) => [c, c] as const)} />
        <WireText name="text" label="What is wrong (may stay empty)" />
      </WireForm>
    </Dialog>
  );
}
