// Writing the demo's orders: rows of every table an order has, from its events.
import type { AssetId } from '#core/ids.ts';
import type { OrderAct, OrderEvent } from '#core/orders/index.ts';
import type { Priority } from '#core/service-levels/index.ts';
import { instant, type Instant, type LocalDate, type Zone } from '#core/time/index.ts';
import { bulkInsert, insertedIds, type Tx } from '#server/platform/database.ts';
import { instantText, person } from '#server/tables.ts';
import type { Random } from './random.ts';
import { PEOPLE } from './scenario.ts';

/** The demo reaches this far back. */
export const HISTORY_DAYS = 550;

export const at = (ms: number): Instant => instant(Math.round(ms / 1000) * 1000);

export function technicianFor(random: Random, zone: string): string {
  return random.pick(PEOPLE.filter((p) => p.role === 'technician' && p.zone === zone)).name;
}

export type WrittenOrder = {
  readonly kind: 'preventive' | 'repair';
  readonly title: string;
  readonly priority: Priority;
  readonly customerId: number;
  readonly agreementId: number | null;
  readonly visitId: number | null;
  readonly zone: Zone;
  readonly assetId: AssetId;
  readonly startedAt: Instant;
  readonly minutes: number | null;
  readonly stored: unknown;
  readonly effort: { fault: string; labourMinutes: number; partsCost: number; otherCost: number } | null;
  readonly promises: unknown;
  readonly events: readonly OrderEvent[];
  readonly tasks: readonly { text: string; mandatory: boolean }[];
  readonly clocks: (ids: { order: number; line: number }) => unknown[][];
};

function stateOf(events: readonly OrderEvent[]): {
  stage: string;
  plannedFor: LocalDate | null;
  technician: string | null;
  pausedSince: Instant | null;
  restoredAt: Instant | null;
  doneAt: Instant | null;
} {
  const state = {
    stage: 'raised',
    plannedFor: null as LocalDate | null,
    technician: null as string | null,
    pausedSince: null as Instant | null,
    restoredAt: null as Instant | null,
    doneAt: null as Instant | null,
  };
  for (const { act, at: when } of events) {
    if (act.kind === 'planned')
      Object.assign(state, { stage: 'planned', plannedFor: act.date, technician: act.technician });
    else if (act.kind === 'sent') state.stage = 'sent';
    else if (act.kind === 'told') state.technician = act.technician;
    else if (act.kind === 'arrived') state.stage = 'on site';
    else if (act.kind === 'paused') state.pausedSince = when;
    else if (act.kind === 'resumed') state.pausedSince = null;
    else if (act.kind === 'restored') Object.assign(state, { restoredAt: when, pausedSince: null });
    else if (act.kind === 'done') Object.assign(state, { stage: 'done', doneAt: when });
  }
  return state;
}

/** Who records what: dispatchers plan and tell, technicians do the rest, coordinators raise. */
function recorderOf(act: OrderAct, technician: string | null, zone: string): string | null {
  const desk = (role: 'coordinator' | 'dispatcher'): string =>
    (PEOPLE.find((p) => p.role === role && p.zone === zone) ?? PEOPLE[0])?.name ?? '';
  if (act.kind === 'raised') return desk('coordinator');
  return act.kind === 'planned' || act.kind === 'sent' || act.kind === 'told' ? desk('dispatcher') : technician;
}

export async function writeOrders(tx: Tx, orders: readonly WrittenOrder[]): Promise<void> {
  const { connection } = tx;
  const people = new Map(
    (await tx.db.select({ id: person.id, name: person.name }).from(person)).map((p) => [p.name, p.id]),
  );
  const stamp = (t: Instant | null): string | null => (t === null ? null : instantText(t));
  const ids = await insertedIds(
    connection,
    await bulkInsert(
      connection,
      'work_order',
      [
        'kind',
        'stage',
        'priority',
        'title',
        'customer_id',
        'agreement_id',
        'visit_id',
        'zone',
        'started_at',
        'planned_for',
        'technician',
        'paused_since',
        'restored_at',
        'done_at',
        'minutes',
      ],
      orders.map((o) => {
        const s = stateOf(o.events);
        return [
          o.kind,
          s.stage,
          o.priority,
          o.title,
          o.customerId,
          o.agreementId,
          o.visitId,
          o.zone,
          instantText(o.startedAt),
          s.plannedFor,
          s.technician,
          stamp(s.pausedSince),
          stamp(s.restoredAt),
          stamp(s.doneAt),
          o.minutes,
        ];
      }),
    ),
    orders.length,
  );
  const lines = await insertedIds(
    connection,
    await bulkInsert(
      connection,
      'order_line',
      ['order_id', 'asset_id', 'verdict', 'promises', 'fault', 'labour_minutes', 'parts_cost', 'other_cost'],
      orders.map((o, i) => [
        ids[i],
        o.assetId,
        o.stored === null ? null : JSON.stringify(o.stored),
        JSON.stringify(o.promises),
        o.effort?.fault ?? null,
        o.effort?.labourMinutes ?? null,
        o.effort?.partsCost ?? null,
        o.effort?.otherCost ?? null,
      ]),
    ),
    orders.length,
  );
  const taskRows = orders.flatMap((o, i) =>
    o.tasks.map((t, position) => [ids[i], position, t.text, t.mandatory ? 1 : 0]),
  );
  const taskIds = await insertedIds(
    connection,
    await bulkInsert(connection, 'order_task', ['order_id', 'position', 'text', 'mandatory'], taskRows),
    taskRows.length,
  );
  let task = 0;
  const eventRows = orders.flatMap((o, i) => {
    const own = o.tasks.map(() => taskIds[task++] as number);
    const done = o.events.find((e) => e.act.kind === 'done');
    const ticked: OrderEvent[] = done
      ? own.map((taskId) => ({
          at: done.at,
          recordedAt: done.recordedAt,
          act: { kind: 'task', taskId, outcome: 'done', text: '' },
        }))
      : [];
    const { technician } = stateOf(o.events);
    return [...o.events.filter((e) => e !== done), ...ticked, ...(done ? [done] : [])].map((e) => [
      ids[i],
      instantText(e.at),
      instantText(e.recordedAt),
      people.get(recorderOf(e.act, technician, o.zone) ?? '') ?? null,
      JSON.stringify(e.act),
    ]);
  });
  await bulkInsert(connection, 'order_event', ['order_id', 'at', 'recorded_at', 'person_id', 'act'], eventRows);
  const clocks = orders.flatMap((o, i) => o.clocks({ order: ids[i] as number, line: lines[i] as number }));
  await bulkInsert(
    connection,
    'clock',
    [
      'order_line_id',
      'order_id',
      'asset_id',
      'customer_id',
      'agreement_id',
      'zone',
      'target',
      'state',
      'promised_minutes',
      'warn_percent',
      'calendar_id',
      'started_at',
      'due_at',
      'stopped_at',
      'left_ms',
      'late_ms',
      'late_from',
      'note',
      'derivation',
    ],
    clocks,
  );
  const visited = ids.filter((_, i) => (orders[i]?.visitId ?? null) !== null);
  for (let i = 0; i < visited.length; i += 1000)
    await connection.query(
      'UPDATE visit v JOIN work_order o ON o.visit_id = v.id SET v.order_id = o.id WHERE o.id IN (?)',
      [visited.slice(i, i + 1000)],
    );
}
