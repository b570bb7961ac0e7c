// What the rota says in its head: what it comes to, and what was done last, with what takes it back.
import type { LocalDate } from '#core/time/index.ts';
import { ErrorLine } from '../parts/problem.tsx';
import { plural, sayMinutes } from '../parts/words.ts';
import { useActKeys } from '../shell/keys.ts';
import type { Acting } from './acting.ts';
import { dayOf, freeOf, missedBy, type Rota } from './days.ts';

export function summaryOf(rota: Rota, date: LocalDate): string {
  let [free, out] = [0, 0];
  for (const p of rota.people)
    for (const d of p.days) {
      const of = freeOf(dayOf(rota, p, d.date), rota.roads);
      free += of.free;
      if (d.date === date && d.absences.length > 0) out += 1;
    }
  const missed = rota.appointments.filter((a) => a.orders.some((o) => missedBy(o.clocks, a).length > 0)).length;
  const unsent = rota.appointments.filter((a) => !a.sent && a.from > rota.now).length;
  return [
    plural(rota.people.length, 'person', 'people'),
    `${sayMinutes(free)} free`,
    plural(rota.appointments.length, 'appointment'),
    missed > 0 ? `${plural(missed, 'promise')} missed as it stands` : '',
    unsent > 0 ? `${unsent} not sent` : '',
    out > 0 ? `${out} away` : '',
  ]
    .filter(Boolean)
    .join(' · ');
}

export function Said({ acting }: { acting: Acting }) {
  const { done, problem } = acting;
  useActKeys({ u: done?.back ? () => void acting.undo() : null });
  if (problem) return <ErrorLine error={problem} />;
  return (
    <p role="status" className="min-h-6 font-semibold">
      {done?.text}{' '}
      {done?.back && (
        <button className="link-ink" onClick={() => void acting.undo()}>
          Undo <kbd className="serial">u</kbd>
        </button>
      )}
    </p>
  );
}
