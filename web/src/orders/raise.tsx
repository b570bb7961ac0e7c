// Raising a repair from a call: cover and promise are shown before anything is written.
import { useState } from 'react';
import { useNavigate } from 'react-router';
import type { AssetPage } from '#api/register.ts';
import { raiseRepair, type RepairAsk } from '#api/orders.ts';
import { CAUSES } from '#core/entitlement/index.ts';
import { formatInstant, instant, parseInstant, type Instant, type Zone } from '#core/time/index.ts';
import { newRequestKey } from '../parts/fields.tsx';
import { sayDate } from '../parts/words.ts';
import { CoverVerdict, Reminders } from '../parts/verdict.tsx';
import { WireMoment, WireSelect, WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { Dialog } from '../shell/dialog.tsx';
import { customersApi } from '../customers/index.ts';
import { ordersApi } from './endpoints.ts';

const PRIORITIES = [
  [1, '1: down, stock or patients at risk'],
  [2, '2: works poorly'],
  [3, '3: can wait'],
  [4, '4: when somebody is there anyway'],
] as const;

/** A call of longer ago is told with the reason; the same limit as the server's. */
const LATE_MS = 30 * 86_400_000;

/** Calls are told by the minute. */
const floorToMinute = (at: Instant): Instant => instant(Math.floor(at / 60_000) * 60_000);

function CallerField({ customerId }: { customerId: number }) {
  const caller = customersApi.useReadCustomerQuery({ params: { id: String(customerId) } });
  return (
    <WireSelect
      name="callerId"
      label="Who called"
      options={[
        [null, 'not said'] as const,
        ...(caller.data?.contacts ?? []).map(
          (c) => [c.id, [c.name, c.role, c.phone].filter((x) => x).join(', ')] as const,
        ),
      ]}
    />
  );
}

/** The cover and promise of what is typed, before anything is written. */
function CoverSoFar({ ask }: { ask: RepairAsk }) {
  const preview = ordersApi.usePreviewRepairQuery({ body: ask }, { skip: ask.receivedAt === '' });
  const refused = preview.error as { detail?: string } | undefined;
  return (
    <div className="border-y border-hairline py-2" aria-live="polite">
      {refused ? (
        <p className="text-missed">✕ {refused.detail}</p>
      ) : preview.currentData ? (
        <>
          <CoverVerdict {...preview.currentData} />
          <Reminders texts={preview.currentData.reminders} />
        </>
      ) : (
        <p className="quiet">Looking at its cover…</p>
      )}
    </div>
  );
}

type Typed = Required<Pick<RepairAsk, 'assetId' | 'priority' | 'cause' | 'receivedAt' | 'lateReason'>> & {
  requestKey: string;
  title: string;
  callerId: number | null;
};

const isLate = (receivedAt: string, now: Instant): boolean => (parseInstant(receivedAt) ?? now) < now - LATE_MS;

export function RaiseRepair({ asset, zone, onClose }: { asset: AssetPage; zone: Zone; onClose: () => void }) {
  const navigate = useNavigate();
  const [requestKey] = useState(newRequestKey);
  const [raise] = ordersApi.useRaiseRepairMutation();
  const askOf = ({ assetId, priority, cause, receivedAt, lateReason }: Typed): RepairAsk => ({
    assetId,
    priority,
    cause,
    receivedAt,
    ...(isLate(receivedAt, asset.now) && lateReason?.trim() && { lateReason }),
  });
  const bodyOf = (typed: Typed) => ({
    ...askOf(typed),
    title: typed.title,
    requestKey: typed.requestKey,
    ...(typed.callerId !== null && { callerId: typed.callerId }),
  });
  const start: Typed = {
    requestKey,
    assetId: asset.id,
    title: '',
    priority: 1,
    cause: 'unknown',
    receivedAt: formatInstant(floorToMinute(asset.now)),
    callerId: null,
    lateReason: '',
  };
  const form = useWireForm(raiseRepair, start, bodyOf);
  const typed = form.watch();
  return (
    <Dialog title="Raise a repair order" onClose={onClose}>
      <WireForm
        form={form}
        name="Raise a repair order"
        save="Raise the order"
        send={(now) => raise({ body: bodyOf(now) })}
        onDone={({ id }) => void navigate(`/orders/${id}`)}
        onCancel={onClose}
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
        <WireText name="title" label="What is wrong" autoFocus />
        <div className="grid grid-cols-2 gap-3">
          <WireSelect name="priority" label="Priority" options={PRIORITIES} />
          <WireSelect name="cause" label="Likely cause" options={CAUSES.map((c) => [c, c] as const)} />
        </div>
        <p className="quiet">The call was received</p>
        <WireMoment name="receivedAt" zone={zone} />
        {isLate(typed.receivedAt, asset.now) && (
          <WireText name="lateReason" label="More than 30 days ago: why is it told only now?" />
        )}
        <CallerField customerId={asset.customer.id} />
        <CoverSoFar ask={askOf(typed)} />
      </WireForm>
    </Dialog>
  );
}
