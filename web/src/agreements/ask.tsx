// What is this machine entitled to: asked for any instant, kind of work, cause and part, with the reasons.
import { useState } from 'react';
import { CAUSES, type Cause } from '#core/entitlement/index.ts';
import { ORDER_KINDS, type OrderKind } from '#core/orders/index.ts';
import { formatInstant, toWallTime, type Instant, type Zone } from '#core/time/index.ts';
import { SelectField, TextField } from '../parts/fields.tsx';
import { CoverVerdict } from '../parts/verdict.tsx';
import { Dialog } from '../shell/dialog.tsx';
import { server } from '../shell/store.ts';
import { Waiting } from '../shell/waiting.tsx';
import { readWall, TimeOfEvent } from '../orders/acts.tsx';

export function AskCover({
  asset,
  zone,
  now,
  onClose,
}: {
  asset: { id: number; tag: string; model: string };
  zone: Zone;
  now: Instant;
  onClose: () => void;
}) {
  const wall = toWallTime(zone, now);
  const two = (n: number): string => String(n).padStart(2, '0');
  const [when, setWhen] = useState<{ date: string; time: string }>({
    date: wall.date,
    time: `${two(Math.floor(wall.minutes / 60))}:${two(wall.minutes % 60)}`,
  });
  const [kind, setKind] = useState<OrderKind>('repair');
  const [cause, setCause] = useState<Cause>('unknown');
  const [priority, setPriority] = useState('1');
  const [part, setPart] = useState('');
  const at = readWall(when.date, when.time, zone);
  const query = server.useAskCoverQuery(
    {
      query: {
        asset: String(asset.id),
        at: at === null ? '' : formatInstant(at),
        kind,
        cause,
        priority,
        ...(part.trim() && { part: part.trim() }),
      },
    },
    { skip: at === null },
  );
  return (
    <Dialog title="What is it entitled to?" onClose={onClose}>
      <div className="space-y-3">
        <h1>
          What is {asset.model} <span className="serial">{asset.tag}</span> entitled to?
        </h1>
        <TimeOfEvent zone={zone} value={when} onChange={setWhen} />
        <div className="grid grid-cols-2 gap-3">
          <SelectField
            label="Kind of work"
            value={kind}
            onChange={(k) => setKind(k as OrderKind)}
            options={ORDER_KINDS.map((k) => [k, k] as const)}
          />
          <SelectField
            label="Cause"
            value={cause}
            onChange={(c) => setCause(c as Cause)}
            options={CAUSES.map((c) => [c, c] as const)}
          />
          <SelectField
            label="Priority"
            value={priority}
            onChange={setPriority}
            options={['1', '2', '3', '4'].map((p) => [p, p] as const)}
          />
          <TextField label="Part concerned, if known" value={part} onChange={setPart} />
        </div>
        <div className="border-t border-hairline pt-3">
          {at === null ? (
            <p className="text-missed">✕ Give a date and a time such as 08:40.</p>
          ) : (
            <Waiting query={query}>{(verdict) => <CoverVerdict {...verdict} />}</Waiting>
          )}
        </div>
        <button className="act" onClick={onClose}>
          Close
        </button>
      </div>
    </Dialog>
  );
}
