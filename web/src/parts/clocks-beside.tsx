// Clocks as they are and as they would be, beside each other: what a decision taken again or a correction makes of them.
import type { ClockOut } from '#api/orders.ts';
import type { Instant } from '#core/time/index.ts';
import { useReader } from '../shell/reader.tsx';
import { MarginBar } from './margin-bar.tsx';

function Clocks({ title, clocks, now }: { title: string; clocks: readonly ClockOut[]; now: Instant }) {
  const { zone } = useReader();
  return (
    <div>
      <h3>{title}</h3>
      {clocks.length === 0 && <p className="quiet">No promise.</p>}
      {clocks.map((c) => (
        <div key={`${c.target} ${c.assetId}`} className="py-0.5">
          <span className="quiet first-letter:uppercase">{c.target}</span>
          <MarginBar clock={c} now={now} reader={zone} />
        </div>
      ))}
    </div>
  );
}

type Beside = { readonly clocksBefore: readonly ClockOut[]; readonly clocksAfter: readonly ClockOut[] };

export const ClocksBeside = ({ of, now }: { of: Beside; now: Instant }) => (
  <div className="mt-1 grid grid-cols-2 gap-4">
    <Clocks title="Clocks now" clocks={of.clocksBefore} now={now} />
    <Clocks title="Clocks then" clocks={of.clocksAfter} now={now} />
  </div>
);
