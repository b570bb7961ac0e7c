// Machines that were chosen, each to be taken away again.
import { X } from 'lucide-react';
import type { Choice } from '../parts/choose.tsx';

export function ChosenMachines({
  label,
  machines,
  onTakeAway,
}: {
  label: string;
  machines: readonly Choice[];
  onTakeAway: (id: number) => void;
}) {
  if (machines.length === 0) return null;
  return (
    <ul aria-label={label} className="border-t border-hairline">
      {machines.map((m) => (
        <li key={m.id} className="flex items-center gap-2 border-b border-hairline py-1">
          <span className="serial">{m.mark}</span>
          <span className="min-w-0 flex-1 truncate">
            {m.name} <span className="quiet">{m.beside}</span>
          </span>
          <button type="button" aria-label={`Take ${m.mark} away`} className="p-1" onClick={() => onTakeAway(m.id)}>
            <X size={15} aria-hidden="true" />
          </button>
        </li>
      ))}
    </ul>
  );
}
