// An act that wants a reason.
import { counterEntry } from '#api/labour.ts';
import { WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { Dialog } from '../shell/dialog.tsx';

export function ReasonDialog({
  title,
  label,
  send,
  onClose,
}: {
  title: string;
  label: string;
  send: (reason: string) => PromiseLike<{ data?: unknown; error?: unknown }>;
  onClose: () => void;
}) {
  const form = useWireForm(counterEntry, { reason: '' });
  return (
    <Dialog title={title} onClose={onClose}>
      <WireForm
        form={form}
        name={title}
        save={title}
        send={({ reason }) => send(reason)}
        onDone={onClose}
        onCancel={onClose}
      >
        <h1>{title}</h1>
        <WireText name="reason" label={label} autoFocus />
      </WireForm>
    </Dialog>
  );
}
