// What is carried over the rota: held, taken up by keys, let go where it is after a look at what that breaks.
import { useState } from 'react';
import type { OrderWorkOut, RotaAppointment } from '#api/rota.ts';
import { atStep } from '#core/rota/index.ts';
import { startOfDay, type LocalDate, type Zone } from '#core/time/index.ts';
import { sayMoment, sayTime } from '../parts/words.ts';
import { useActKeys } from '../shell/keys.ts';
import type { Acting, Yes } from './acting.ts';
import { asks, binds } from './ask-dialog.tsx';
import { DAYS_SHOWN } from './axis.ts';
import { useCarryKeys } from './carry-keys.ts';
import type { GhostStore } from './carrying.ts';
import {
  lookAt,
  nextThatGoes,
  orderOf,
  spanOf,
  titleOf,
  type Ghost,
  type Held,
  type Looked,
  type Rota,
} from './days.ts';
import { rotaApi } from './endpoints.ts';

export type Asking = { readonly held: Held; readonly ghost: Ghost; readonly looked: Looked; readonly text: string };

/** What happens where something that was carried is let go. */
function useLettingGo(rota: Rota | undefined, acting: Acting, store: GhostStore, zone: Zone, onPlanned: () => void) {
  const [held, setHeld] = useState<Held | null>(null);
  const [asking, setAsking] = useState<Asking | null>(null);
  const { currentData: work } = rotaApi.useReadWorkQuery(
    {
      params: { id: String(held ? orderOf(held) : 0) },
      query: { from: rota?.from ?? '', days: String(DAYS_SHOWN.month) },
    },
    { skip: !held || !rota },
  );
  const drop = (): void => {
    store.set(null);
    setHeld(null);
  };
  const letGo = (): void => {
    const ghost = store.get();
    if (held && ghost && !work) acting.say('Not planned: what it asks for was not there yet; try once more', null);
    if (!held || !ghost || !rota || !work) return drop();
    const looked = lookAt(rota, held, work, ghost);
    const span = spanOf(held, ghost);
    const name = rota.people.find((p) => p.id === ghost.personId)?.name ?? '';
    const text = `${titleOf(held)}: ${name}, ${sayMoment(span.from, rota.now, zone)} to ${sayTime(span.to, zone)}`;
    drop();
    const bound = binds(looked);
    if (bound.length > 0) acting.say(`Not planned: ${bound.map((r) => `${r.name}: ${r.text}`).join('; ')}`, null);
    else if (asks(looked)) setAsking({ held, ghost, looked, text });
    else void plan({ held, ghost, text });
  };
  /** What was loose is no more: there is nothing of it to look at. */
  const plan = async (of: Omit<Asking, 'looked'>, yes?: Yes): Promise<void> => {
    if ((await acting.letGo(of.held, of.ghost, of.text, yes)) && of.held.what === 'loose') onPlanned();
  };
  return { held, hold: setHeld, work, letGo, drop, plan, asking, setAsking };
}

/** By keys a loose order begins with the first person, now or when the day begins. */
function firstGhost(rota: Rota, date: LocalDate): Ghost | null {
  const [person] = rota.people;
  if (!person) return null;
  const opens = person.days.find((d) => d.date >= date && d.open.length > 0)?.open[0]?.from;
  const from = Math.max(opens ?? startOfDay(person.zone as Zone, date), rota.now);
  return { personId: person.id, from: atStep(from) };
}

type Given = {
  readonly rota: Rota | undefined;
  readonly date: LocalDate;
  readonly zone: Zone;
  readonly mayPlan: boolean;
  readonly acting: Acting;
  readonly store: GhostStore;
  /** What is looked at, and taken up by a key. */
  readonly box: RotaAppointment | undefined;
  readonly work: OrderWorkOut | undefined;
  readonly onPlanned: () => void;
};

/** Carrying as a whole: by the pointer through `hold` and `letGo`, by keys through `carry`. */
export function useCarrying({ rota, date, zone, mayPlan, acting, store, box, work, onPlanned }: Given) {
  const letting = useLettingGo(rota, acting, store, zone, onPlanned);
  const { held, hold, letGo, drop, work: carriedWork } = letting;
  const carry = (): void => {
    if (!rota || !mayPlan) return;
    if (box) {
      hold({ what: 'appointment', of: box, by: box.personIds[0] ?? 0 });
      store.set({ personId: box.personIds[0] ?? 0, from: box.from });
    } else if (work) {
      const { orderId, title, crew } = work;
      hold({ what: 'loose', orderId, title, crew, minutes: work.work.minutes });
      store.set(firstGhost(rota, date));
    }
  };
  useActKeys({ m: held ? null : carry });
  useCarryKeys(held, {
    rota,
    store,
    next: (p, from) => (rota && held && carriedWork ? nextThatGoes(rota, p, held, carriedWork, from) : null),
    letGo,
    drop,
  });
  return { ...letting, carry, work: held ? carriedWork : work };
}
