// The matrix: the machines of a class down, its job plans across; what is scheduled stands there, what is missing is ticked.
import { Link } from 'react-router';
import type { Facility, FacilityMachine } from '#api/facility.ts';
import type { Reference } from '#api/setup.ts';
import { parseLocalDate, type LocalDate } from '#core/time/index.ts';
import { readCadenceWords } from '#core/upkeep/index.ts';
import { DateField } from '../../parts/date-field.tsx';
import { SpokenField } from '../../parts/spoken-field.tsx';
import { plural, sayMinutes, sayShortDate } from '../../parts/words.ts';
import { saidCadence, type OneRule } from '../editor/rule-words.ts';
import { agreementOf, cellKey, columnKey, isOpen, plansOf, type Column, type Matrix } from './sets.ts';

export type Change = (next: Partial<Matrix>) => void;
type Shared = {
  readonly facility: Facility;
  readonly matrix: Matrix;
  readonly change: Change;
  readonly firstColumn: Column;
  /** Whoever reads it sees what is missing, and sets nothing. */
  readonly maySet: boolean;
};

/** Where the day it counts from is not one yet. */
const ANY_ANCHOR = '2026-01-01' as LocalDate;

const withKey = <K, V>(map: ReadonlyMap<K, V>, key: K, value: V): Map<K, V> => new Map([...map, [key, value]]);

function Rule({
  label,
  cadence,
  anchor,
  onChange,
}: {
  label: string;
  cadence: OneRule;
  anchor: string;
  onChange: (cadence: OneRule) => void;
}) {
  return (
    <SpokenField
      label={label}
      said={saidCadence(cadence, parseLocalDate(anchor) ?? ANY_ANCHOR)}
      read={readCadenceWords}
      onRead={(read) => read.kind !== 'phases' && onChange(read)}
      onUnread={(text) => onChange({ kind: 'rule', rule: text })}
    />
  );
}

/** The head of a job plan: how often, from when, and all machines at once. */
function PlanHead({
  plan,
  machines,
  className,
  ...shared
}: Shared & { plan: Reference['jobPlans'][number]; machines: readonly FacilityMachine[]; className: string }) {
  const { matrix, change, firstColumn, maySet } = shared;
  const key = columnKey(className, plan.id);
  const column = matrix.columns.get(key) ?? firstColumn;
  const set = (next: Partial<Column>): void =>
    change({ columns: withKey(matrix.columns, key, { ...column, ...next }) });
  const open = machines.filter((m) => isOpen(m, plan.id)).map((m) => cellKey(m.assetId, plan.id));
  const all = open.every((cell) => matrix.ticked.has(cell));
  const tickAll = (): void => {
    const ticked = new Set(matrix.ticked);
    for (const cell of open)
      if (all) ticked.delete(cell);
      else ticked.add(cell);
    change({ ticked });
  };
  return (
    <th scope="col" className="w-72 min-w-72">
      <span className="text-base-content">{plan.name}</span>{' '}
      <span className="font-normal whitespace-nowrap">{sayMinutes(plan.minutes)}</span>
      {maySet && open.length > 0 && (
        <div className="space-y-1 pt-1 font-normal">
          <Rule
            label={`How often, ${plan.name}`}
            cadence={column.cadence}
            anchor={column.anchor}
            onChange={(cadence) => set({ cadence })}
          />
          <DateField label="Counts from" value={column.anchor} onChange={(anchor) => set({ anchor })} />
          <button type="button" className="quiet link-ink py-1" onClick={tickAll}>
            {all ? 'tick none' : `tick ${open.length === 1 ? 'the one' : `all ${open.length}`}`}
          </button>
        </div>
      )}
    </th>
  );
}

function Cell({
  machine,
  plan,
  ...shared
}: Shared & { machine: FacilityMachine; plan: Reference['jobPlans'][number] }) {
  const { facility, matrix, change, firstColumn, maySet } = shared;
  const held = machine.schedules.filter((s) => s.jobPlanId === plan.id);
  if (held.length > 0)
    return held.map((s) => (
      <span key={s.scheduleId} className="block">
        <Link to={`/schedules/${s.scheduleId}`} className="link-ink">
          {s.sentence}
        </Link>
        {s.nextDue && <span className="quiet block">next {sayShortDate(s.nextDue, facility.today)}</span>}
      </span>
    ));
  if (machine.agreementIds.length === 0) return <span className="quiet">not covered</span>;
  const suggested = <span className="quiet">{machine.suggested.includes(plan.id) ? 'suggested' : ''}</span>;
  if (!maySet) return suggested;
  const key = cellKey(machine.assetId, plan.id);
  const own = matrix.own.get(key);
  const column = matrix.columns.get(columnKey(machine.className, plan.id)) ?? firstColumn;
  const isTicked = matrix.ticked.has(key);
  const tick = (): void => {
    const ticked = new Set(matrix.ticked);
    if (!ticked.delete(key)) ticked.add(key);
    change({ ticked });
  };
  const keepTo = (cadence: OneRule | null): void => {
    const next = new Map(matrix.own);
    if (cadence) next.set(key, cadence);
    else next.delete(key);
    change({ own: next });
  };
  return (
    <>
      <span className="flex items-center gap-5">
        <label className="flex h-[26px] items-center gap-2">
          <input type="checkbox" className="box-tick" checked={isTicked} onChange={tick} />
          <span className="sr-only">
            {plan.name} for {machine.tag}
          </span>
          {suggested}
        </label>
        {isTicked && (
          <button type="button" className="quiet link-ink h-[26px]" onClick={() => keepTo(own ? null : column.cadence)}>
            {own ? 'as the others' : 'another rule…'}
          </button>
        )}
      </span>
      {isTicked && own && (
        <Rule label={`How often, ${machine.tag}`} cadence={own} anchor={column.anchor} onChange={keepTo} />
      )}
    </>
  );
}

/** Under which agreement its visits are owed. */
function Under({ machine, facility, matrix, change, maySet }: Shared & { machine: FacilityMachine }) {
  const names = machine.agreementIds.flatMap((id) => facility.agreements.find((a) => a.id === id) ?? []);
  const [only] = names;
  if (!only) return <span className="quiet">none</span>;
  if (names.length === 1 || !maySet)
    return (
      <>
        <span className="serial">{only.number}</span>
        {only.stage !== 'in force' && <span className="quiet block">{only.stage}</span>}
      </>
    );
  return (
    <select
      aria-label={`Agreement of ${machine.tag}`}
      className="box-select"
      value={agreementOf(machine, matrix) ?? ''}
      onChange={(e) => change({ under: withKey(matrix.under, machine.assetId, Number(e.target.value)) })}
    >
      {names.map((a) => (
        <option key={a.id} value={a.id}>
          {a.number}
          {a.stage === 'in force' ? '' : `, ${a.stage}`}
        </option>
      ))}
    </select>
  );
}

/** The class, and what else its machines could be kept by. */
function ClassHead({
  className,
  machines,
  plans,
  others,
  onAdd,
}: {
  className: string;
  machines: readonly FacilityMachine[];
  plans: Reference['jobPlans'];
  others: Reference['jobPlans'];
  onAdd: (jobPlanId: number) => void;
}) {
  return (
    <div className="flex flex-wrap items-baseline gap-x-4">
      <h2>{className}</h2>
      <span className="quiet">
        {plural(machines.length, 'machine')}
        {plans.length === 0 && '; its class suggests no job plan'}
      </span>
      {others.length > 0 && (
        <select
          aria-label={`Add a job plan to ${className}`}
          className="box-select ml-auto !w-52"
          value=""
          onChange={(e) => onAdd(Number(e.target.value))}
        >
          <option value="">Add a job plan…</option>
          {others.map((p) => (
            <option key={p.id} value={p.id}>
              {p.name}
            </option>
          ))}
        </select>
      )}
    </div>
  );
}

export function ClassMatrix({
  className,
  machines,
  jobPlans,
  added,
  onAdd,
  ...shared
}: Shared & {
  className: string;
  machines: readonly FacilityMachine[];
  jobPlans: Reference['jobPlans'];
  /** Job plans that were added by hand. */
  added: readonly number[];
  onAdd: (jobPlanId: number) => void;
}) {
  const ids = plansOf(machines, added);
  const plans = ids.flatMap((id) => jobPlans.find((p) => p.id === id) ?? []);
  const others = jobPlans.filter((p) => !ids.includes(p.id));
  return (
    <section className="mt-6" aria-label={className}>
      <ClassHead className={className} machines={machines} plans={plans} others={others} onAdd={onAdd} />
      <table className="dense mt-1">
        <thead>
          <tr>
            <th scope="col" className="w-60 min-w-52">
              Asset
            </th>
            <th scope="col" className="w-28">
              Under
            </th>
            {plans.map((plan) => (
              <PlanHead key={plan.id} {...shared} plan={plan} machines={machines} className={className} />
            ))}
            {/* What room is left stands behind the last job plan. */}
            <th className="w-full" aria-hidden />
          </tr>
        </thead>
        <tbody>
          {machines.map((m) => (
            <tr key={m.assetId}>
              <td>
                <Link className="serial link-ink" to={`/assets/${m.assetId}`}>
                  {m.tag}
                </Link>{' '}
                {m.model}
                {m.place !== '' && <span className="quiet block">{m.place}</span>}
              </td>
              <td>
                <Under {...shared} machine={m} />
              </td>
              {plans.map((plan) => (
                <td key={plan.id}>
                  <Cell {...shared} machine={m} plan={plan} />
                </td>
              ))}
              <td aria-hidden />
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
