// Raising a repair from a call: cover and promise are shown before anything is written.
import { useState } from 'react';
import { useNavigate } from 'react-router';
import type { AssetPage } from '#api/register.ts';
import { CAUSES, type Cause } from '#core/entitlement/index.ts';
import { formatInstant, toWallTime, type Zone } from '#core/time/index.ts';
import { newRequestKey, SelectField, TextField, useSubmit } from '../parts/fields.tsx';
import { Form } from '../parts/form.tsx';
import { sayDate } from '../parts/words.ts';
import { CoverVerdict, Reminders } from '../parts/verdict.tsx';
import { Dialog } from '../shell/dialog.tsx';
import { customersApi } from '../customers/index.ts';
import { ordersApi } from './endpoints.ts';
import { readWall, TimeOfEvent } from '../parts/time-of-event.tsx';

const PRIORITIES = [
  ['1', '1: down, stock or patients at risk'],
  ['2', '2: works poorly'],
  ['3', '3: can wait'],
  ['4', '4: when somebody is there anyway'],
] as const;

/** A call of longer ago is told with the reason; the same limit as the server's. */
const LATE_MS = 30 * 86_400_000;

export function RaiseRepair({ asset, zone, onClose }: { asset: AssetPage; zone: Zone; onClose: () => void }) {
  const navigate = useNavigate();
  const [requestKey] = useState(newRequestKey);
  const [title, setTitle] = useState('');
  const [priority, setPriority] = useState('1');
  const [cause, setCause] = useState<Cause>('unknown');
  const wall = toWallTime(zone, asset.now);
  const [when, setWhen] = useState<{ date: string; time: string }>({
    date: wall.date,
    time: `${String(Math.floor(wall.minutes / 60)).padStart(2, '0')}:${String(wall.minutes % 60).padStart(2, '0')}`,
  });
  const [callerId, setCallerId] = useState('');
  const [lateReason, setLateReason] = useState('');
  const caller = customersApi.useReadCustomerQuery({ params: { id: String(asset.customer.id) } });
  const at = readWall(when.date, when.time, zone);
  const isLate = at !== null && at < asset.now - LATE_MS;
  const ask = {
    assetId: asset.id,
    priority: Number(priority) as 1 | 2 | 3 | 4,
    cause,
    receivedAt: at === null ? '' : formatInstant(at),
    ...(isLate && lateReason.trim() && { lateReason }),
  };
  const preview = ordersApi.usePreviewRepairQuery({ body: ask }, { skip: at === null });
  const [raise, { isLoading }] = ordersApi.useRaiseRepairMutation();
  const { errors, submit } = useSubmit(['title', 'receivedAt', 'callerId', 'lateReason']);
  const send = async (): Promise<void> => {
    const made = await submit(
      raise({ body: { ...ask, title, requestKey, ...(callerId && { callerId: Number(callerId) }) } }),
    );
    if (made) void navigate(`/orders/${made.id}`);
  };
  const refusedPreview = preview.error as { detail?: string } | undefined;
  return (
    <Dialog title="Raise a repair order" onClose={onClose}>
      <Form
        name="Raise a repair order"
        save="Raise the order"
        onSave={() => send()}
        onCancel={onClose}
        errors={errors}
        disabled={isLoading || at === null}
      >
        <h1>
          Repair of {asset.model} <span className="serial">{asset.tag}</span>
        </h1>
        {asset.overSince && (
          <p className="border border-base-content px-3 py-1.5">
            ✕ {asset.customer.name} is over its credit terms since {sayDate(asset.overSince)}.
          </p>
        )}
        {asset.customerNotes.map((n) => (
          <p key={n} className="border border-base-content px-3 py-1.5">
            {n}
          </p>
        ))}
        <TextField label="What is wrong" value={title} onChange={setTitle} error={errors.of('title')} autoFocus />
        <div className="grid grid-cols-2 gap-3">
          <SelectField label="Priority" value={priority} onChange={setPriority} options={PRIORITIES} />
          <SelectField
            label="Likely cause"
            value={cause}
            onChange={(v) => setCause(v as Cause)}
            options={CAUSES.map((c) => [c, c])}
          />
        </div>
        <p className="quiet">The call was received</p>
        <TimeOfEvent
          value={when}
          onChange={setWhen}
          zone={zone}
          error={at === null ? 'Give the date and a time such as 09:40.' : errors.of('receivedAt')}
        />
        {isLate && (
          <TextField
            label="More than 30 days ago: why is it told only now?"
            value={lateReason}
            onChange={setLateReason}
            error={errors.of('lateReason')}
          />
        )}
        <SelectField
          label="Who called"
          value={callerId}
          onChange={setCallerId}
          options={[
            ['', 'not said'],
            ...(caller.data?.contacts ?? []).map(
              (c) => [String(c.id), [c.name, c.role, c.phone].filter((x) => x).join(', ')] as const,
            ),
          ]}
          error={errors.of('callerId')}
        />
        <div className="border-y border-hairline py-2" aria-live="polite">
          {refusedPreview ? (
            <p className="text-missed">✕ {refusedPreview.detail}</p>
          ) : preview.currentData ? (
            <>
              <CoverVerdict {...preview.currentData} />
              <Reminders texts={preview.currentData.reminders} />
            </>
          ) : (
            <p className="quiet">Looking at its cover…</p>
          )}
        </div>
      </Form>
    </Dialog>
  );
}
