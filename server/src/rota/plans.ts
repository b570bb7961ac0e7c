// Proposed rotas: asked for, read while they are worked out, and accepted in part or whole.
import { and, eq, inArray } from 'drizzle-orm';
import type { BodyOf } from '#api/contract.ts';
import type { PlanOut, proposePlan } from '#api/rota-plans.ts';
import type { AppointmentId, PersonId, RotaPlanId } from '#core/ids.ts';
import { noCost } from '#core/rota/index.ts';
import { MINUTE, type Instant } from '#core/time/index.ts';
import { depot } from '../depots/tables.ts';
import { workOrder } from '../orders/tables.ts';
import type { Db, Tx } from '../platform/database.ts';
import { leaveJob } from '../platform/jobs.ts';
import { refuse, Refused } from '../platform/refuse.ts';
import { contentOf, mustBeSame } from '../platform/request-key.ts';
import { person } from '../platform/tables.ts';
import type { Write } from '../platform/writing.ts';
import { bookIn, hold, holdAppointment, moveIn, setAside, takeOutIn, type KeptAppointment } from './booking.ts';
import { isLoose } from './loose.ts';
import { rotaPlan, type PlanItem } from './tables.ts';

export const PLANNING_ROTA = 'plan rota';

export function propose(
  write: Write,
  who: { readonly id: PersonId },
  { requestKey, ...ask }: BodyOf<typeof proposePlan>,
  now: Instant,
): Promise<{ id: number }> {
  const requestContent = contentOf(ask);
  return write(async (tx, told) => {
    if (ask.depotId !== null) {
      const [known] = await tx.db.select({ id: depot.id }).from(depot).where(eq(depot.id, ask.depotId));
      if (!known) refuse('not-found', 'That depot does not exist; choose another.', 'depotId');
    }
    const [sent] = await tx.db.select().from(rotaPlan).where(eq(rotaPlan.requestKey, requestKey));
    if (sent) {
      mustBeSame(sent.requestContent, requestContent);
      return { id: sent.id };
    }
    const [row] = await tx.db
      .insert(rotaPlan)
      .values({
        personId: who.id,
        state: 'working',
        ask,
        result: null,
        accepted: [],
        createdAt: now,
        requestKey,
        requestContent,
      })
      .$returningId();
    const id = row?.id as RotaPlanId;
    await leaveJob(tx, PLANNING_ROTA, { id });
    told({ subject: 'rota plan', id, text: `asked for: ${ask.days} day(s) from ${ask.from}` });
    return { id };
  });
}

/** Who leads, and who goes along. */
const peopleOf = ({ personId, others = [] }: PlanItem): PersonId[] => [personId, ...others];

export async function readPlanOf(db: Db, id: RotaPlanId): Promise<PlanOut> {
  const [row] = await db.select().from(rotaPlan).where(eq(rotaPlan.id, id));
  if (!row) refuse('not-found', 'That proposal does not exist.');
  const { result, ask, accepted } = row;
  const ids = new Set(
    (result?.items ?? [])
      .flatMap((i) => [...peopleOf(i), ...(i.moves ? [i.moves.was.personId] : [])])
      .concat((result?.load ?? []).map((l) => l.personId)),
  );
  const people = new Map(
    (ids.size === 0
      ? []
      : await db
          .select({ id: person.id, name: person.name })
          .from(person)
          .where(inArray(person.id, [...ids]))
    ).map((p) => [p.id, p]),
  );
  const named = (of: PersonId) => people.get(of) ?? { id: of, name: 'somebody' };
  return {
    ...{ id: row.id, state: row.state, progress: row.progress, problem: row.problem },
    ...{ from: ask.from, days: ask.days, rules: ask.rules },
    result: result && {
      // Those of before a count came to be know nothing of it.
      ...{ before: { ...noCost(), ...result.before }, after: { ...noCost(), ...result.after } },
      planned: result.planned,
      ...{ left: result.left.map((l) => ({ ...l })) },
      load: result.load.map((l) => ({ person: named(l.personId), before: l.before, after: l.after })),
      items: result.items.map((i) => ({
        ...{ key: i.key, person: named(i.personId), from: i.from, to: i.to, titles: [...i.titles], missed: i.missed },
        others: (i.others ?? []).map(named),
        ...{ orderIds: [...i.orders], appointmentId: i.moves?.id ?? null, accepted: accepted.includes(i.key) },
        was: i.moves && { person: named(i.moves.was.personId), from: i.moves.was.from, to: i.moves.was.to },
      })),
    },
  };
}

type Who = { readonly id: PersonId };
const ANYWAY = { anyway: true, overlapReason: '' };

/** The appointment that an item moves, as it was when it was planned. Refused: gone, or changed since. */
async function stillThere(tx: Tx, { moves }: PlanItem): Promise<KeptAppointment | null> {
  if (!moves) return null;
  const row = await holdAppointment(tx, moves.id);
  if (row.version !== moves.version) refuse('stale', 'Somebody changed it since; look at it again.');
  return row;
}

/** Does something or nothing of it; null where it is done, else why not. */
async function tried(tx: Tx, work: () => Promise<void>): Promise<string | null> {
  await tx.connection.query('SAVEPOINT tried');
  try {
    await work();
    return null;
  } catch (error) {
    if (!(error instanceof Refused)) throw error;
    await tx.connection.query('ROLLBACK TO SAVEPOINT tried');
    return error.message;
  }
}

/**
 * Accepts items one after the other in one transaction: what moves is set aside first, so that two may change places. An item that changed
 * meanwhile, or against which something binds by now, is not done, stays as it was, and is named.
 */
export function acceptItems(
  write: Write,
  who: Who,
  id: RotaPlanId,
  keys: readonly number[],
  now: Instant,
): Promise<{ accepted: number; refused: { key: number; why: string }[] }> {
  return write(async (tx, told) => {
    const [row] = await tx.db.select().from(rotaPlan).where(eq(rotaPlan.id, id)).for('update');
    if (!row) refuse('not-found', 'That proposal does not exist.');
    const { result, accepted } = row;
    if (!result) refuse('not-ready', 'It is still being worked out; wait until it is ready.');
    const items = [...result.items]
      .filter((i) => keys.includes(i.key) && !accepted.includes(i.key))
      .sort((a, b) => a.from - b.from);
    if (items.length === 0) return { accepted: 0, refused: [] };
    const orders = [...new Set(items.flatMap((i) => i.orders))];
    const people = [...new Set(items.flatMap((i) => [...peopleOf(i), ...(i.moves ? [i.moves.was.personId] : [])]))];
    await hold(tx, orders, people);
    const refused: { key: number; why: string }[] = [];
    const moving = new Map<number, KeptAppointment>();
    const going: PlanItem[] = [];
    for (const item of items) {
      const why = await tried(tx, async () => {
        const kept = await stillThere(tx, item);
        if (kept) moving.set(item.key, kept);
      });
      if (why === null) going.push(item);
      else refused.push({ key: item.key, why });
    }
    const aside = new Set<AppointmentId>([...moving.values()].map((k) => k.id));
    await setAside(tx, [...aside]);
    const done: number[] = [];
    for (const item of going) {
      const kept = moving.get(item.key);
      const why = await tried(tx, () => putIn(tx, item, kept, aside, who, now));
      if (why === null) done.push(item.key);
      else {
        refused.push({ key: item.key, why });
        if (kept) await putBack(tx, kept, aside, who, now);
      }
      if (kept) aside.delete(kept.id);
    }
    await tx.db
      .update(rotaPlan)
      .set({ accepted: [...accepted, ...done] })
      .where(eq(rotaPlan.id, id));
    told({ subject: 'rota plan', id, text: `${done.length} of ${items.length} accepted` });
    return { accepted: done.length, refused };
  });
}

/** Refused: somebody planned it since. */
async function mustBeLoose(tx: Tx, { orders }: PlanItem, now: Instant): Promise<void> {
  const rows = await tx.db
    .select({ id: workOrder.id })
    .from(workOrder)
    .where(and(inArray(workOrder.id, [...orders]), isLoose(tx.db, now)));
  if (rows.length < orders.length) refuse('stale', 'Somebody planned it since; look at it again.');
}

async function putIn(
  tx: Tx,
  item: PlanItem,
  kept: KeptAppointment | undefined,
  aside: ReadonlySet<AppointmentId>,
  who: Who,
  now: Instant,
): Promise<void> {
  const asked = { ...ANYWAY, people: peopleOf(item), from: item.from, minutes: (item.to - item.from) / MINUTE };
  if (kept) return moveIn(tx, kept, asked, who, now, [...aside]);
  const nothing = { told: null, fixed: false, requestKey: null, requestContent: null };
  await mustBeLoose(tx, item, now);
  await bookIn(tx, { ...asked, ...nothing, orders: item.orders }, who, now, [...aside]);
}

/** Back to where it was; where somebody else is by now, its orders are loose again. */
async function putBack(
  tx: Tx,
  kept: KeptAppointment,
  aside: ReadonlySet<AppointmentId>,
  who: Who,
  now: Instant,
): Promise<void> {
  const asked = { ...ANYWAY, people: kept.people, from: kept.fromAt, minutes: (kept.toAt - kept.fromAt) / MINUTE };
  const why = await tried(tx, () => moveIn(tx, kept, asked, who, now, [...aside]));
  if (why !== null) await takeOutIn(tx, kept, 'another took its place in a plan', who, now);
}
