// One's own time that runs: started from an order, said on it and in the hours, stopped into an entry.
import { useState } from 'react';
import { startTime, stopTime } from '#api/labour.ts';
import { orderNumber } from '#api/shapes.ts';
import { Link } from 'react-router';
import { newRequestKey, GeneralError, useSubmit } from '../parts/fields.tsx';
import { WireText } from '../parts/wire-fields.tsx';
import { useWireForm, WireForm } from '../parts/wire-form.tsx';
import { sayTime } from '../parts/words.ts';
import { Dialog } from '../shell/dialog.tsx';
import { useReader } from '../shell/reader.tsx';
import { labourApi } from './endpoints.ts';
import type { Line } from './entry-dialog.tsx';

function StopDialog({ onClose }: { onClose: () => void }) {
  const [stop] = labourApi.useStopTimeMutation();
  const [requestKey] = useState(newRequestKey);
  const [overlaps, setOverlaps] = useState(false);
  const form = useWireForm(stopTime, { requestKey, text: '', overlapReason: null as string | null });
  return (
    <Dialog title="Stop the time" onClose={onClose}>
      <WireForm
        form={form}
        name="Stop the time"
        save="Stop it"
        send={(body) => stop({ body })}
        onDone={onClose}
        onCancel={onClose}
        onRefused={(problem) => {
          if (problem.errors.some((e) => e.field === 'overlapReason')) setOverlaps(true);
          return false;
        }}
      >
        <h1>Stop the time</h1>
        <WireText name="text" label="What was done (may stay empty)" autoFocus />
        {overlaps && <WireText name="overlapReason" label="Why it stands beside other time" empty={null} />}
      </WireForm>
    </Dialog>
  );
}

/** On an order: start one's own time, or stop what runs for it; what runs elsewhere is named. */
export function RunningTime({ lines }: { lines: readonly Line[] }) {
  const reader = useReader();
  const may = reader.may(startTime);
  const { data } = labourApi.useReadRunningQuery(undefined, { skip: !may });
  const [start] = labourApi.useStartTimeMutation();
  const { errors, submit } = useSubmit([]);
  const [stopping, setStopping] = useState(false);
  const [first] = lines;
  if (!may || !data || !first) return null;
  const { running } = data;
  const own = running && lines.some((l) => l.lineId === running.lineId);
  return (
    <>
      {running ? (
        <span className="font-normal">
          {running.kind} running since {sayTime(running.startedAt, reader.zone)}
          {!own && (
            <>
              {' '}
              for{' '}
              <Link className="link-ink" to={`/orders/${running.orderId}`}>
                {orderNumber(running.orderId)}
              </Link>
            </>
          )}{' '}
          <button className="link-ink" onClick={() => setStopping(true)}>
            stop…
          </button>
        </span>
      ) : (
        <button
          className="link-ink font-normal"
          onClick={() => void submit(start({ body: { lineId: first.lineId, kind: 'work' } }))}
        >
          start the time
        </button>
      )}
      <GeneralError errors={errors} />
      {stopping && <StopDialog onClose={() => setStopping(false)} />}
    </>
  );
}
