// Many visits moved at once, as levelling proposed them: each checked again by what holds when it is moved.
import { group } from 'd3-array';
import { inArray } from 'drizzle-orm';
import { moveVisits as contract } from '#api/load.ts';
import type { Asked } from '#api/contract.ts';
import type { ScheduleId } from '#core/ids.ts';
import { addDays, sayDate, type Instant, type LocalDate } from '#core/time/index.ts';
import type { Refusal } from '#core/refusal.ts';
import {
  changeSeries,
  MAX_LOOK_AHEAD_DAYS,
  proposeVisits,
  type Deviation,
  type Schedule,
  type Visit,
} from '#core/upkeep/index.ts';
import { instantText } from '../platform/columns.ts';
import { bulkInsert, type Database, type Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { writeAs, type Told } from '../platform/writing.ts';
import { loadMany } from './owed.ts';
import { schedule } from './tables.ts';

type Move = Asked<typeof contract>['body']['moves'][number];
type Left = { readonly scheduleId: ScheduleId; readonly nominal: LocalDate; readonly reason: string };
export type Moving = { readonly who: Person; readonly now: Instant; readonly today: LocalDate };

/** Schedules moved in one transaction. */
const AT_ONCE = 200;

/** Why a visit is not moved as it was asked for; null: nothing speaks against it. */
function whyNot({ workingDays }: Schedule, visit: Visit | undefined, { was, to }: Move): string | null {
  if (!visit) return 'it is raised or owed no more';
  if (to === visit.planned) return 'it is planned for that day already';
  if (visit.planned !== was) return `it is planned for ${sayDate(visit.planned)} now`;
  if (to < visit.windowFrom || to > visit.windowTo) return `${sayDate(to)} lies outside its window`;
  return workingDays.isWorkingDay(to) ? null : `${sayDate(to)} is a closed day`;
}

/** The deviations of one schedule after its moves, and what stays with the reason. */
function movedOf(s: Schedule, moves: readonly Move[], today: LocalDate) {
  const left: Left[] = [];
  const leave = ({ scheduleId, nominal }: Move, reason: string) => left.push({ scheduleId, nominal, reason });
  if (s.cadence.kind === 'since service') {
    for (const move of moves) leave(move, 'it counts from the last service');
    return { deviations: [] as Deviation[], left };
  }
  const series = { ...s, cadence: s.cadence };
  const planned = new Map(proposeVisits(s, addDays(today, MAX_LOOK_AHEAD_DAYS)).visits.map((v) => [v.nominal, v]));
  const own = new Set<LocalDate>();
  let { deviations } = s;
  const tryMove = (move: Move): 'moved' | 'left' | Refusal => {
    const reason = whyNot(s, planned.get(move.nominal), move);
    if (reason !== null) {
      leave(move, reason);
      return 'left';
    }
    const change = { kind: 'move', nominal: move.nominal, to: move.to, agreed: false } as const;
    const changed = changeSeries({ ...series, deviations }, change, today);
    if (!changed.ok) return changed.refusals[0] as Refusal;
    ({ deviations } = changed.value);
    own.add(move.nominal);
    return 'moved';
  };
  // A day that one of them leaves may be another's: those that found theirs taken are tried again as long as any moves.
  for (let open = [...moves]; open.length > 0;) {
    const refusals = new Map<Move, Refusal>();
    const before = own.size;
    for (const move of open) {
      const result = tryMove(move);
      if (typeof result === 'object') refusals.set(move, result);
    }
    open = own.size > before ? [...refusals.keys()] : [];
    if (open.length === 0) for (const [move, { message }] of refusals) leave(move, message);
  }
  return { deviations: deviations.filter((d) => own.has(d.nominal)), left };
}

const sayMoved = (n: number): string => `${n === 1 ? 'a visit' : `${n} visits`} moved to even out the load`;

async function moveSome(
  tx: Tx,
  told: Told,
  bySchedule: ReadonlyMap<ScheduleId, readonly Move[]>,
  { who, now, today }: Moving,
) {
  const ids = [...bySchedule.keys()].sort((a, b) => a - b);
  const held = await tx.db
    .select({ id: schedule.id })
    .from(schedule)
    .where(inArray(schedule.id, ids))
    .orderBy(schedule.id)
    .for('update');
  const loaded = await loadMany(
    tx.db,
    held.map((h) => h.id),
  );
  const left: Left[] = [];
  const rows: unknown[][] = [];
  for (const id of ids) {
    const moves = bySchedule.get(id) ?? [];
    const s = loaded.get(id);
    if (!s) {
      left.push(...moves.map(({ scheduleId, nominal }) => ({ scheduleId, nominal, reason: 'its schedule is gone' })));
      continue;
    }
    const of = movedOf(s, moves, today);
    left.push(...of.left);
    if (of.deviations.length === 0) continue;
    rows.push(...of.deviations.map((d) => [id, d.nominal, d.part, d.added, d.movedTo, d.agreed, now, who.id]));
    told({ subject: 'schedule', id, text: sayMoved(of.deviations.length) });
  }
  await bulkInsert(
    tx.connection,
    'visit_change',
    ['schedule_id', 'nominal', 'part', 'added', 'moved_to', 'agreed', 'at', 'person_id'],
    rows.map((r) => r.map((value, i) => (i === 6 ? instantText(value as Instant) : value))),
    'ON DUPLICATE KEY UPDATE moved_to = VALUES(moved_to), agreed = VALUES(agreed), at = VALUES(at), person_id = VALUES(person_id)',
  );
  const changed = [...new Set(rows.map((r) => r[0] as ScheduleId))];
  if (changed.length > 0)
    await tx.connection.query('UPDATE schedule SET version = version + 1 WHERE id IN (?)', [changed]);
  return { moved: rows.length, left };
}

/** Moves visits inside their windows, some schedules at a time; what changed since it was looked at is left, with the reason. */
export async function moveVisits(database: Database, moves: readonly Move[], moving: Moving) {
  const bySchedule = group(moves, (m) => m.scheduleId);
  const ids = [...bySchedule.keys()];
  const left: Left[] = [];
  let moved = 0;
  for (let i = 0; i < ids.length; i += AT_ONCE) {
    const some = new Map(ids.slice(i, i + AT_ONCE).map((id) => [id, bySchedule.get(id) ?? []]));
    const done = await writeAs(database, moving.who, contract)((tx, told) => moveSome(tx, told, some, moving));
    moved += done.moved;
    left.push(...done.left);
  }
  return { moved, left };
}
