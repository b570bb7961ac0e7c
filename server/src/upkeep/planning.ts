// Keeping the plan true: what was written since it was worked out names the schedules to plan anew; what cannot be told, all of them.
// One server of several works on it at a time: it holds the state’s lease, and whoever was overtaken writes nothing more.
import { and, eq, gt, inArray, isNull, lt, notInArray, or } from 'drizzle-orm';
import type { Thing } from '#api/contract.ts';
import { outlookRead } from '#api/upkeep.ts';
import { asId, type AgreementId, type AssetId, type OrderId, type ScheduleId } from '#core/ids.ts';
import { addDays, instant, type LocalDate } from '#core/time/index.ts';
import { MAX_LOOK_AHEAD_DAYS } from '#core/upkeep/index.ts';
import type { Database, Db, Tx } from '../platform/database.ts';
import { announce, KEEP_MS, OVERLAP_IDS } from '../platform/live.ts';
import { change } from '../platform/tables.ts';
import { keepJoined } from './joined.ts';
import { keepMembers, type Touched } from './members.ts';
import { planAll, planSchedules, type PlanAsk } from './plan.ts';
import { dayOutlook } from './today.ts';
import { planState, schedule, visit } from './tables.ts';

/** What a plan stands on. */
export const STANDS_ON: readonly Thing[] = ['upkeep', 'agreements', 'register', 'setup', 'orders'];
/** What may be written without a plan being another. */
const WITHOUT_EFFECT = new Set([
  'customer',
  'agreement type',
  'depot',
  'skill',
  'asset model',
  'form',
  'import',
  'job',
  'message',
  'message template',
  'notice',
  'numbering',
  'upkeep run',
  'upkeep setting',
]);
/** The plan reaches a month further than runs look, so that it need not be drawn out every day. */
const SLACK_DAYS = 31;
const LEASE_MS = 20_000;
const WAIT_MS = 60;

type State = typeof planState.$inferSelect;
type Change = typeof change.$inferSelect;

async function readState(db: Db): Promise<State> {
  const [state] = await db.select().from(planState).where(eq(planState.id, 1));
  if (state) return state;
  await db
    .insert(planState)
    .values({ id: 1, changeId: 0, seen: [], fence: 0 })
    .onDuplicateKeyUpdate({ set: { id: 1 } });
  return readState(db);
}

const changesSince = (db: Db, { changeId, seen }: State): Promise<Change[]> =>
  db
    .select()
    .from(change)
    .where(
      and(
        gt(change.id, Math.max(0, changeId - OVERLAP_IDS)),
        seen.length === 0 ? undefined : notInArray(change.id, seen),
      ),
    );

type BySubject = Readonly<Record<'asset' | 'agreement' | 'schedule' | 'order', Set<number>>>;

/** What changes name; `all` where it cannot be told what they concern. */
function namedBy(changes: readonly Change[]): BySubject | 'all' {
  const bySubject: BySubject = {
    asset: new Set(),
    agreement: new Set(),
    schedule: new Set(),
    order: new Set(),
  };
  for (const { tags, subjects } of changes) {
    const stoodOn = tags.filter((tag) => (STANDS_ON as readonly string[]).includes(tag));
    if (stoodOn.length === 0) continue;
    if (subjects === null) {
      // Orders that name nothing were raised by machines: no plan hangs on them.
      if (stoodOn.every((tag) => tag === 'orders')) continue;
      return 'all';
    }
    for (const { subject, id } of subjects)
      if (subject in bySubject) bySubject[subject as keyof typeof bySubject].add(id);
      else if (!WITHOUT_EFFECT.has(subject)) return 'all';
  }
  return bySubject;
}

/** Which schedules changes concern; `all` where it cannot be told. */
async function concerned(db: Db, changes: readonly Change[]): Promise<ScheduleId[] | 'all'> {
  const bySubject = namedBy(changes);
  if (bySubject === 'all') return 'all';
  const found = new Set([...bySubject.schedule].map((id) => asId<ScheduleId>(id)));
  const [assets, agreements, orders] = [
    [...bySubject.asset].map((id) => asId<AssetId>(id)),
    [...bySubject.agreement].map((id) => asId<AgreementId>(id)),
    [...bySubject.order].map((id) => asId<OrderId>(id)),
  ];
  const named = or(
    assets.length > 0 ? inArray(schedule.assetId, assets) : undefined,
    agreements.length > 0 ? inArray(schedule.agreementId, agreements) : undefined,
  );
  if (named) for (const { id } of await db.select({ id: schedule.id }).from(schedule).where(named)) found.add(id);
  if (orders.length > 0) for (const id of await schedulesOfOrders(db, orders)) found.add(id);
  return [...found];
}

/** Schedules of the visits that orders were raised for, and the others of their machines: a larger visit may absorb theirs. */
async function schedulesOfOrders(db: Db, orders: readonly OrderId[]): Promise<ScheduleId[]> {
  const visits = await db
    .select({ assetId: visit.assetId })
    .from(visit)
    .where(inArray(visit.orderId, [...orders]));
  if (visits.length === 0) return [];
  const assets = [...new Set(visits.map((v) => v.assetId))];
  return (await db.select({ id: schedule.id }).from(schedule).where(inArray(schedule.assetId, assets))).map(
    (s) => s.id,
  );
}

class Overtaken extends Error {}

/** Takes the lease, or null while somebody else has it. */
async function takeLease({ db }: Database, state: State): Promise<number | null> {
  const at = instant(Date.now());
  const free = or(isNull(planState.busyUntil), lt(planState.busyUntil, at));
  const [taken] = await db
    .update(planState)
    .set({ fence: state.fence + 1, busyUntil: instant(at + LEASE_MS) })
    .where(and(eq(planState.id, 1), eq(planState.fence, state.fence), free));
  return taken.affectedRows === 1 ? state.fence + 1 : null;
}

const holdOf =
  (fence: number) =>
  async ({ db }: Pick<Tx, 'db'>): Promise<void> => {
    const [held] = await db
      .update(planState)
      .set({ busyUntil: instant(Date.now() + LEASE_MS) })
      .where(and(eq(planState.id, 1), eq(planState.fence, fence)));
    if (held.affectedRows === 0) throw new Overtaken('another server plans');
  };

/** Notices that went by while nobody planned and were swept away: nothing can be told any more. */
const isStale = ({ plannedAt }: State): boolean => plannedAt === null || plannedAt < Date.now() - KEEP_MS / 2;

/** What was written since the plan was worked out, and the schedules it concerns. */
type Behind = { readonly changes: readonly Change[]; readonly which: ScheduleId[] | 'all' };

async function behindBy(db: Db, state: State, to: LocalDate, whole: boolean): Promise<Behind> {
  const changes = await changesSince(db, state);
  const everything = whole || state.horizon === null || state.horizon < to || isStale(state);
  return { changes, which: everything ? 'all' : await concerned(db, changes) };
}

export type PlanWanted = {
  readonly today: LocalDate;
  /** It must reach so far; else as far as runs look. */
  readonly to?: LocalDate;
  /** Every schedule, whatever changed. */
  readonly whole?: boolean;
};

/** Whose machines and lines may be others now. */
function touchedBy(changes: readonly Change[], which: Behind['which']): Touched {
  const named = which === 'all' ? 'all' : namedBy(changes);
  if (named === 'all') return 'all';
  return {
    agreements: [...named.agreement].map((id) => asId<AgreementId>(id)),
    assets: [...named.asset].map((id) => asId<AssetId>(id)),
  };
}

async function carryOut(database: Database, behind: Behind, state: State, fence: number, today: LocalDate) {
  const { changes } = behind;
  const now = instant(Date.now());
  const members = await keepMembers(database, touchedBy(changes, behind.which), { today, now, hold: holdOf(fence) });
  const which = behind.which === 'all' ? 'all' : [...new Set([...behind.which, ...members])];
  const horizon =
    which === 'all' || state.horizon === null ? addDays(today, MAX_LOOK_AHEAD_DAYS + SLACK_DAYS) : state.horizon;
  const ask: PlanAsk = { horizon, written: fence, now, hold: holdOf(fence) };
  const count = which === 'all' ? await planAll(database, ask) : which.length;
  if (which !== 'all') await planSchedules(database, which, ask);
  await keepJoined(database, which, ask);
  const last = Math.max(state.changeId, ...changes.map((c) => c.id));
  const seen = [...state.seen, ...changes.map((c) => c.id)].filter((id) => id > last - 2 * OVERLAP_IDS);
  const counts = await dayOutlook(database.db, today);
  const isNews = count > 0 || JSON.stringify(counts) !== JSON.stringify(state.counts);
  await database.transact(async (tx) => {
    await ask.hold(tx);
    await tx.db
      .update(planState)
      .set({ changeId: last, seen, horizon, asOf: today, counts, busyUntil: null, plannedAt: instant(Date.now()) })
      .where(eq(planState.id, 1));
    if (isNews) await announce(tx, { touches: outlookRead });
  });
  return count;
}

/**
 * Brings the plan up to what is written now, and gives how many schedules were planned anew. Waits while another server does it.
 */
export async function keepPlanned(
  database: Database,
  { today, to = today, whole = false }: PlanWanted,
): Promise<number> {
  for (;;) {
    const state = await readState(database.db);
    const behind = await behindBy(database.db, state, to, whole);
    if (behind.changes.length === 0 && behind.which !== 'all') return 0;
    const fence = await takeLease(database, state);
    if (fence === null) {
      await new Promise((resolve) => setTimeout(resolve, WAIT_MS));
      continue;
    }
    try {
      return await carryOut(database, behind, state, fence, today);
    } catch (error) {
      if (error instanceof Overtaken) continue;
      await database.db
        .update(planState)
        .set({ busyUntil: null })
        .where(and(eq(planState.id, 1), eq(planState.fence, fence)));
      throw error;
    }
  }
}

/** The last planning whose rows are all there: what is written by a later one was not seen by whoever looks now. */
export async function planSeen(db: Db): Promise<number> {
  const { fence, busyUntil } = await readState(db);
  return busyUntil === null ? fence : fence - 1;
}
