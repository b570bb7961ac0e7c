// What is done on the rota and can be undone: an appointment made, moved or taken out; each act leaves the one that takes it back.
import { useState } from 'react';
import type { RotaAppointment } from '#api/rota.ts';
import type { Problem } from '#api/shapes.ts';
import { formatInstant, MINUTE, type Instant } from '#core/time/index.ts';
import { newRequestKey } from '../parts/fields.tsx';
import { goersOf, minutesOf, type Ghost, type Held } from './days.ts';
import { rotaApi } from './endpoints.ts';

export type Yes = { readonly anyway: boolean; readonly overlapReason: string };
const PLAINLY: Yes = { anyway: false, overlapReason: '' };

type Where = { readonly people: readonly number[]; readonly from: Instant; readonly minutes: number };

/** What was done last, in words, with what takes it back. */
export type Done = { readonly text: string; readonly back: (() => Promise<unknown>) | null };

const ofBody = ({ people, from, minutes }: Where, yes: Yes) => ({
  ...{ people: [...people], from: formatInstant(from), minutes, anyway: yes.anyway, overlapReason: yes.overlapReason },
});

const whereOf = (a: RotaAppointment): Where => ({
  ...{ people: a.personIds, from: a.from, minutes: (a.to - a.from) / MINUTE },
});

export function useActing() {
  const [book] = rotaApi.useBookAppointmentMutation();
  const [move] = rotaApi.useMoveAppointmentMutation();
  const [takeOut] = rotaApi.useTakeOutAppointmentMutation();
  const [done, setDone] = useState<Done | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);

  const say = (text: string, back: Done['back']): void => {
    setDone({ text, back });
    setProblem(null);
  };
  const failed = (error: unknown): false => {
    setProblem(error as Problem);
    return false;
  };

  async function bookAt(orders: readonly number[], where: Where, text: string, yes = PLAINLY): Promise<boolean> {
    const answer = await book({ body: { requestKey: newRequestKey(), orders: [...orders], ...ofBody(where, yes) } });
    if ('error' in answer) return failed(answer.error);
    const { id, version } = answer.data;
    say(text, () => takeOut({ params: { id: String(id) }, body: { version, text: 'taken back' } }));
    return true;
  }

  async function moveTo(a: RotaAppointment, where: Where, text: string, yes = PLAINLY): Promise<boolean> {
    const answer = await move({ params: { id: String(a.id) }, body: { version: a.version, ...ofBody(where, yes) } });
    if ('error' in answer) return failed(answer.error);
    const { version } = answer.data;
    // Where it was it may be again, whatever it broke there.
    const before = { anyway: true, overlapReason: a.overlapReason };
    say(text, () => move({ params: { id: String(a.id) }, body: { version, ...ofBody(whereOf(a), before) } }));
    return true;
  }

  async function out(a: RotaAppointment, text: string, why: string): Promise<boolean> {
    const answer = await takeOut({ params: { id: String(a.id) }, body: { version: a.version, text: why } });
    if ('error' in answer) return failed(answer.error);
    const orders = a.orders.map((o) => o.orderId);
    const again = { anyway: true, overlapReason: a.overlapReason };
    say(text, () => book({ body: { requestKey: newRequestKey(), orders, ...ofBody(whereOf(a), again) } }));
    return true;
  }

  /** Lets what is carried go where it is. */
  const letGo = (held: Held, ghost: Ghost, text: string, yes = PLAINLY): Promise<boolean> => {
    const where = { people: goersOf(held, ghost), from: ghost.from, minutes: minutesOf(held) };
    return held.what === 'loose' ? bookAt([held.orderId], where, text, yes) : moveTo(held.of, where, text, yes);
  };

  async function undo(): Promise<void> {
    if (!done?.back) return;
    const answer = (await done.back()) as { error?: unknown };
    if (answer.error) failed(answer.error);
    else say(`Taken back: ${done.text}`, null);
  }

  return { done, problem, setProblem, say, bookAt, moveTo, out, letGo, undo };
}
export type Acting = ReturnType<typeof useActing>;
