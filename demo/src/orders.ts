// The demo's orders: who recorded what, and the day they reach back to.
import type { OrderAct, OrderEvent } from '#core/orders/index.ts';
import type { PersonId } from '#core/ids.ts';
import { instant, type Instant } from '#core/time/index.ts';
import type { Recorded } from '#server/orders/index.ts';
import type { Tx } from '#server/platform/database.ts';
import { person } from '#server/tables.ts';
import type { Random } from './random.ts';
import { PEOPLE } from './scenario.ts';

/** The demo reaches this far back. */
export const HISTORY_DAYS = 550;

export const at = (ms: number): Instant => instant(Math.round(ms / 1000) * 1000);

export function technicianFor(random: Random, zone: string): string {
  return random.pick(PEOPLE.filter((p) => p.role === 'technician' && p.zone === zone)).name;
}

/** Who records what: dispatchers plan and tell, technicians do the rest, coordinators raise. */
function recorderOf(act: OrderAct, technician: string, zone: string): string {
  const desk = (role: 'coordinator' | 'dispatcher' | 'manager'): string =>
    (PEOPLE.find((p) => p.role === role && p.zone === zone) ?? PEOPLE.find((p) => p.role === role))?.name ?? '';
  if (act.kind === 'raised') return desk('coordinator');
  if (act.kind === 'done' && act.anyway) return desk('manager');
  return act.kind === 'planned' || act.kind === 'sent' || act.kind === 'told' ? desk('dispatcher') : technician;
}

/** Tells of each event who recorded it. */
export type Recorder = (events: readonly OrderEvent[], technician: string, zone: string) => Recorded[];

export async function recorder(tx: Tx): Promise<Recorder> {
  const ids = new Map<string, PersonId>(
    (await tx.db.select({ id: person.id, name: person.name }).from(person)).map((p) => [p.name, p.id]),
  );
  const withId = (act: OrderAct): OrderAct =>
    act.kind === 'planned' || act.kind === 'told' ? { ...act, technicianId: ids.get(act.technician) ?? null } : act;
  return (events, technician, zone) =>
    events.map((e) => ({ ...e, act: withId(e.act), by: ids.get(recorderOf(e.act, technician, zone)) ?? null }));
}

/** Now and then something cannot be reached. */
const UNREACHED = ['No access to the back of it', 'The customer was using it', 'The part for it was not in the van'];

/** The events of a job whose tasks were settled when it was done: ticked, and one of some thirty left. */
export function ticked(events: readonly OrderEvent[], tasks: readonly number[]): OrderEvent[] {
  const done = events.find((e) => e.act.kind === 'done');
  if (!done) return [...events];
  const { at: when, recordedAt } = done;
  return [
    ...events.filter((e) => e !== done),
    ...tasks.map((taskId, i): OrderEvent => {
      const text = i === 0 && when % 29 === 0 ? UNREACHED[when % UNREACHED.length] : undefined;
      const act = { kind: 'task', taskId, outcome: text ? 'left' : 'done', text: text ?? '' } as const;
      return { at: when, recordedAt, act };
    }),
    done,
  ];
}
