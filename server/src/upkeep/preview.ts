// What an upkeep run would do, for whoever decides: proposals with their remarks, and schedules that yield nothing.
import { eq } from 'drizzle-orm';
import type { Proposal, UpkeepRun, YieldlessSchedule } from '#api/upkeep.ts';
import * as contracts from '#api/upkeep.ts';
import { parseRule, sayRule } from '#core/recurrence/index.ts';
import type { LocalDate } from '#core/time/index.ts';
import { checkRunDate } from '#core/upkeep/index.ts';
import { agreement } from '../agreements/tables.ts';
import { type BeyondRight, visitVerdicts } from '../entitlement/index.ts';
import { allowance } from '../entitlement/tables.ts';
import type { Db } from '../platform/database.ts';
import { accept } from '../platform/refuse.ts';
import { computeRun, type Held, type Owed, type RunResult, visitKey } from './owed.ts';

function remarkOn({ row, visit: v }: Owed, today: LocalDate): string | null {
  if (v.windowTo < today) return 'its window is over already';
  if (v.due < today) return 'its due date has passed';
  return row.assetState === 'out of service' ? 'the asset is out of service' : null;
}

const ORDINALS = new Intl.PluralRules('en-GB', { type: 'ordinal' });
const ENDINGS: Readonly<Record<string, string>> = { one: 'st', two: 'nd', few: 'rd' };

/** "6th of 5: chargeable". */
export const sayBeyond = ({ nth, granted }: BeyondRight): string =>
  `${nth}${ENDINGS[ORDINALS.select(nth)] ?? 'th'} of ${granted}: chargeable`;

/**
 * Which of the proposed visits lie beyond a counted right, decided in the order of their due dates as the run will decide them.
 * Only where something is counted: visits under the agreements of a customer, or free visits of a machine's warranty.
 */
async function beyondRights(
  db: Db,
  owed: readonly Owed[],
  held: ReadonlyMap<string, Held>,
): Promise<Map<string, string>> {
  const counting = new Set(
    (
      await db
        .selectDistinct({ id: agreement.customerId })
        .from(allowance)
        .innerJoin(agreement, eq(agreement.id, allowance.agreementId))
        .where(eq(allowance.unit, 'visits'))
    ).map((r) => r.id),
  );
  const keyOf = (o: Owed): string => visitKey(o.row.schedule.id, o.visit.nominal);
  const counted = owed.filter((o) => !held.has(keyOf(o)) && (counting.has(o.row.customerId) || o.row.freeVisits > 0));
  if (counted.length === 0) return new Map();
  const decided = await visitVerdicts(
    db,
    counted.map((o) => ({ assetId: o.row.schedule.assetId, due: o.visit.due })),
    'look',
  );
  return new Map(
    counted.flatMap((o, i) => {
      const beyond = decided[i]?.beyond;
      return beyond ? [[keyOf(o), sayBeyond(beyond)] as const] : [];
    }),
  );
}

function showProposal(owed: Owed, held: Held | undefined, today: LocalDate, beyond: string | null): Proposal {
  const { row, visit: v, place } = owed;
  const rule = parseRule(row.schedule.rule);
  return {
    scheduleId: row.schedule.id,
    nominal: v.nominal,
    due: v.due,
    windowFrom: v.windowFrom,
    windowTo: v.windowTo,
    raise: v.raise,
    assetId: row.schedule.assetId,
    tag: row.tag,
    model: row.model,
    customer: row.customer,
    place: place.label,
    agreementId: row.agreement.id,
    agreement: row.agreement.number,
    jobPlan: row.jobPlan,
    minutes: row.minutes,
    rule: rule.ok ? sayRule(rule.value, row.schedule.anchor, row.schedule.rule) : row.schedule.rule,
    state: held ? 'held' : 'proposed',
    holdReason: held?.reason ?? null,
    remark: remarkOn(owed, today),
    beyond,
    reminder: row.agreement.reminder,
  };
}

function showNothing({ row, nothing }: RunResult['nothing'][number]): YieldlessSchedule {
  return {
    scheduleId: row.schedule.id,
    agreementId: row.agreement.id,
    agreement: row.agreement.number,
    assetId: row.schedule.assetId,
    tag: row.tag,
    model: row.model,
    customer: row.customer,
    jobPlan: row.jobPlan,
    kind: nothing.kind,
    code: nothing.code,
    reason: nothing.reason,
  };
}

/** What a run would raise; with `rights` also which visits lie beyond what is counted. */
export async function previewRun(
  db: Db,
  to: LocalDate,
  today: LocalDate,
  rights: 'with rights' | 'without rights' = 'with rights',
): Promise<UpkeepRun> {
  accept(checkRunDate(to, today));
  const { owed, nothing, held, schedules } = await computeRun(db, to);
  const beyond = rights === 'with rights' ? await beyondRights(db, owed, held) : new Map<string, string>();
  const heldCount = owed.filter((o) => held.has(visitKey(o.row.schedule.id, o.visit.nominal))).length;
  const needsAction = nothing.filter((n) => n.nothing.kind === 'needs action').length;
  return {
    today,
    to,
    proposals: owed.slice(0, contracts.PROPOSALS_SHOWN).map((o) => {
      const key = visitKey(o.row.schedule.id, o.visit.nominal);
      return showProposal(o, held.get(key), today, beyond.get(key) ?? null);
    }),
    nothing: nothing.slice(0, contracts.PROPOSALS_SHOWN).map(showNothing),
    counts: {
      schedules,
      proposed: owed.length - heldCount,
      held: heldCount,
      beyond: beyond.size,
      needsAction,
      waits: nothing.length - needsAction,
    },
  };
}
