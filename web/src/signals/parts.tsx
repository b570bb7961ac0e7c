// The parts of Signals, and what they share.
import type { ReactNode } from 'react';
import { RoomParts } from '../parts/room-parts.tsx';

const PARTS = [
  ['/signals', 'Alerts'],
  ['/signals/watch', 'Watch'],
  ['/signals/figures', 'Figures'],
  ['/signals/devices', 'Devices'],
] as const;

/** A page of the room under its name, with what it is about in one line. */
export function SignalsPage({ about, children }: { about: ReactNode; children: ReactNode }) {
  return (
    <div className="px-7 pt-5 pb-12">
      <header className="flex items-baseline gap-4">
        <h1>Signals</h1>
        <p className="text-ink2">{about}</p>
      </header>
      <div className="mt-2">
        <RoomParts room="Signals" parts={PARTS} />
      </div>
      {children}
    </div>
  );
}

/** One of a few, chosen by a press. */
export function OneOf<K extends string | number>({
  label,
  options,
  chosen,
  onChoose,
}: {
  label: string;
  options: readonly (readonly [key: K, name: string])[];
  chosen: K;
  onChoose: (key: K) => void;
}) {
  return (
    <div className="flex flex-wrap gap-x-5" role="group" aria-label={label}>
      {options.map(([key, name]) => (
        <button
          key={key}
          aria-pressed={key === chosen}
          className={key === chosen ? 'font-semibold underline underline-offset-4' : 'link-ink'}
          onClick={() => onChoose(key)}
        >
          {name}
        </button>
      ))}
    </div>
  );
}
