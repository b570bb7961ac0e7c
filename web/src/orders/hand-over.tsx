// Giving an order into the hands of somebody of the house.
import { useState } from 'react';
import { handOver } from '#api/clocks.ts';
import { Choose, type Choice } from '../parts/choose.tsx';
import { newRequestKey } from '../parts/fields.tsx';
import { WireText } from '../parts/wire-fields.tsx';
import { useWireForm, Wire, WireForm } from '../parts/wire-form.tsx';
import { usePeople } from '../setup/index.ts';
import { Dialog } from '../shell/dialog.tsx';
import { ordersApi } from './endpoints.ts';

type Handed = {
  readonly id: number;
  readonly title: string;
  readonly inCharge: { readonly id: number; readonly name: string } | null;
};

export function HandOver({ order, onClose }: { order: Handed; onClose: () => void }) {
  const [send] = ordersApi.useHandOverMutation();
  const [requestKey] = useState(newRequestKey);
  const [chosen, choose] = useState<Choice | null>(null);
  const form = useWireForm(handOver, { personId: NaN, text: '', requestKey });
  return (
    <Dialog title="Hand over" onClose={onClose}>
      <WireForm
        form={form}
        name="Hand over"
        save="Hand it over"
        send={(body) => send({ params: { id: String(order.id) }, body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>Who sees to it</h1>
        <p className="quiet">
          {order.title}.{' '}
          {order.inCharge ? `${order.inCharge.name} has it in hand now.` : 'Nobody in particular has it in hand now.'}{' '}
          Warnings of its promises go to whoever has.
        </p>
        <Wire<number> name="personId">
          {({ change, error }) => (
            <Choose
              label="Hand it to"
              chosen={chosen}
              onChoose={(choice) => {
                choose(choice);
                change(choice?.id ?? NaN);
              }}
              useFind={usePeople}
              error={error}
            />
          )}
        </Wire>
        <WireText name="text" label="What they need to know (may stay empty)" />
      </WireForm>
    </Dialog>
  );
}
