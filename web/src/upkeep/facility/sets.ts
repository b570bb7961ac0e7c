// What is ticked in the matrix of a place, as the schedules it stands for.
import { group } from 'd3-array';
import type { TypedTerms } from '#api/cadence.ts';
import type { Facility, FacilityMachine, FacilitySets } from '#api/facility.ts';
import type { OneRule } from '../editor/rule-words.ts';

/** How the visits of one job plan come at the machines of one class. */
export type Column = { readonly cadence: OneRule; readonly anchor: string };
/** What holds for all that is set. */
export type Days = Pick<TypedTerms, 'convention' | 'earlyDays' | 'lateDays' | 'lead' | 'leadUnit'>;

export type Matrix = {
  readonly days: Days;
  /** By class and job plan. */
  readonly columns: ReadonlyMap<string, Column>;
  /** By machine and job plan. */
  readonly ticked: ReadonlySet<string>;
  /** Machines with a rule of their own, by machine and job plan. */
  readonly own: ReadonlyMap<string, OneRule>;
  /** Where several agreements cover a machine: which one. */
  readonly under: ReadonlyMap<number, number>;
};

export const columnKey = (className: string, jobPlanId: number): string => `${className}/${jobPlanId}`;
export const cellKey = (assetId: number, jobPlanId: number): string => `${assetId}/${jobPlanId}`;

/** The agreement a machine is kept under: the chosen one, else the first that covers it. */
export const agreementOf = ({ assetId, agreementIds }: FacilityMachine, { under }: Matrix): number | null =>
  under.get(assetId) ?? agreementIds[0] ?? null;

/** Whether a schedule of the job plan can be made for a machine: it is covered, and has none. */
export const isOpen = (machine: FacilityMachine, jobPlanId: number): boolean =>
  machine.agreementIds.length > 0 && machine.schedules.every((s) => s.jobPlanId !== jobPlanId);

/** Job plans that a class’s machines are shown with: suggested, scheduled already, or added by hand. */
export function plansOf(machines: readonly FacilityMachine[], added: readonly number[]): number[] {
  const suggested = machines.flatMap((m) => m.suggested);
  const scheduled = machines.flatMap((m) => m.schedules.map((s) => s.jobPlanId));
  return [...new Set([...suggested, ...scheduled, ...added])];
}

/** One set for all machines that get the same schedule under the same agreement. */
export function setsOf({ machines }: Facility, matrix: Matrix, firstColumn: Column): FacilitySets['sets'] {
  const cells = machines.flatMap((m) => {
    const agreementId = agreementOf(m, matrix);
    return [...matrix.ticked].flatMap((key) => {
      const [assetId, jobPlanId] = key.split('/').map(Number) as [number, number];
      if (assetId !== m.assetId || agreementId === null || !isOpen(m, jobPlanId)) return [];
      const column = matrix.columns.get(columnKey(m.className, jobPlanId)) ?? firstColumn;
      const cadence = matrix.own.get(key) ?? column.cadence;
      return [{ assetId, jobPlanId, agreementId, anchor: column.anchor, cadence }];
    });
  });
  const alike = group(cells, (c) => JSON.stringify([c.agreementId, c.jobPlanId, c.anchor, c.cadence]));
  return [...alike.values()].flatMap((own) => {
    const [first] = own;
    if (!first) return [];
    const { assetId: _, ...terms } = first;
    return [{ ...matrix.days, ...terms, calendarId: null, assetIds: own.map((c) => c.assetId) }];
  });
}
