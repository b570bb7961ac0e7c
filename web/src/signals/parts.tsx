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
