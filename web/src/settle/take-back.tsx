// What was laid on the wrong invoice is taken back, with why.
import { useState } from 'react';
import { takeBackLaid } from '#api/payments.ts';
import { WireLongText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { settleApi } from './endpoints.ts';

function TakeBackDialog({ id, what, onClose }: { id: number; what: string; onClose: () => void }) {
  const [back] = settleApi.useTakeBackLaidMutation();
  const form = useWireForm(takeBackLaid, { reason: '' });
  return (
    <Dialog title="Take it back" onClose={onClose}>
      <WireForm
        form={form}
        name="Take it back"
        save="Take it back"
        send={(body) => back({ params: { id: String(id) }, body })}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>Take back {what}</h1>
        <p className="quiet">The invoice has it open again. It stays here, struck through, with why.</p>
        <WireLongText name="reason" label="Why" />
      </WireForm>
    </Dialog>
  );
}

export function TakeBack({ id, what }: { id: number; what: string }) {
  const reader = useReader();
  const [isAsking, setAsking] = useState(false);
  if (!reader.may(takeBackLaid)) return null;
  return (
    <>
      <button className="link-ink py-1" onClick={() => setAsking(true)}>
        Take back…
      </button>
      {isAsking && <TakeBackDialog id={id} what={what} onClose={() => setAsking(false)} />}
    </>
  );
}
